"""A database of an earlier version, brought up to date; and copies that are none."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from django.conf import settings
from django.core.management import CommandError, call_command

from bench.serving import managed

OLD = Path(__file__).parents[1] / "data" / "before_roles.sql"
"""Written by the version before there were roles: two persons, two projects, a study with all there is."""

KEPT = (
    "projects_project", "projects_study", "projects_revision", "projects_attachment", "projects_picture", "projects_contactsheet",
    "projects_machineprofile", "projects_benchsettings", "projects_handedover",
)  # fmt: skip
ASKED = """
import json
from django.contrib.auth.models import User
from django.test import Client
from django.conf import settings
settings.ALLOWED_HOSTS = ["*"]
client = Client()
client.force_login(User.objects.get(username="lark"))
print(json.dumps([client.get(path).status_code for path in ("/", "/account/", "/projects/1/people", "/studies/1/history")]))
"""


def rows_of(database: Path) -> dict[str, list[Any]]:
    with closing(sqlite3.connect(database)) as one:
        return {
            table: one.execute(f"SELECT * FROM {table} ORDER BY id").fetchall() for table in KEPT
        }


def test_a_database_of_an_earlier_version_is_restored_and_brought_up_to_date(
    tmp_path: Path,
) -> None:
    copy = tmp_path / "old.sqlite3"
    with closing(sqlite3.connect(copy)) as one:
        one.executescript(OLD.read_text(encoding="utf-8"))
    before = rows_of(copy)
    assert len(before["projects_revision"]) == 2
    place = tmp_path / "new"
    place.mkdir()
    managed(place, "restore", str(copy))
    assert rows_of(place / "ovolo.sqlite3") == before
    assert json.loads(managed(place, "shell", "-c", ASKED).splitlines()[-1]) == [200] * 4


def test_what_is_no_copy_is_refused_and_nothing_is_gone_over(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    place = tmp_path / "ovolo.sqlite3"
    monkeypatch.setitem(settings.DATABASES["default"], "NAME", str(place))
    broken = tmp_path / "broken.sqlite3"
    broken.write_bytes(b"SQLite format 3\0" + b"x" * 5_000)
    for copy in (broken, tmp_path / "missing.sqlite3"):
        with pytest.raises(CommandError, match="nothing was restored"):
            call_command("restore", copy)
        assert not place.exists() and not list(tmp_path.glob("*.restoring"))
    with pytest.raises(CommandError, match="no copy was made"):
        call_command("backup", tmp_path / "copies")
    place.write_bytes(b"kept")
    with pytest.raises(CommandError, match="is there already"):
        call_command("restore", broken)
    assert place.read_bytes() == b"kept"


def test_old_copies_go_where_only_some_are_kept(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    place = tmp_path / "ovolo.sqlite3"
    monkeypatch.setitem(settings.DATABASES["default"], "NAME", str(place))
    with closing(sqlite3.connect(place)) as one:
        one.execute("CREATE TABLE t (a)")
    for _ in range(4):
        call_command("backup", tmp_path / "copies", "--keep", "2")
    copies = sorted((tmp_path / "copies").iterdir())
    assert len(copies) == 2 and all(one.stat().st_mode & 0o077 == 0 for one in copies)
