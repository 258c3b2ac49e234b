"""Running it: health, metrics, logs, what stands before it, and the settings of a service."""

from __future__ import annotations

import configparser
import json
import logging
import os
import re
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from django.core.management import get_commands
from django.db import DatabaseError, OperationalError, connection
from django.test import Client, RequestFactory
from django.urls import reverse
from prometheus_client.parser import text_string_to_metric_families

from ovolo.formats.attached import MOST_BYTES
from studio.engine import pool
from studio.projects.models import Study
from studio.service import views
from studio.service.requests_told import WithRequestId, behind_proxy, path_told

pytestmark = pytest.mark.django_db
ROOT = Path(__file__).parents[3]


def test_it_is_well_or_says_what_is_amiss(client: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    assert client.get("/health").json() == {"well": True, "wrong": []}

    class Gone:
        def cursor(self) -> None:
            raise DatabaseError("no such table")

    monkeypatch.setattr(views, "connection", Gone())
    monkeypatch.setattr(pool, "state", lambda: {"turns": (24, 3), "long": (0, 0)})
    answer = client.get("/health")
    assert answer.status_code == 503
    assert answer.json()["wrong"] == [
        "database: DatabaseError",
        "workers: no more orders are taken",
    ]


def test_metrics_are_read_with_their_token_alone(client: Client, settings: Any) -> None:
    """Read by the parser of the Prometheus client."""
    assert client.get("/metrics").status_code == 404
    settings.METRICS_TOKEN = "a token"
    for wrong in ({}, {"Authorization": "Bearer another"}, {"Authorization": "Bearer "}):
        assert client.get("/metrics", headers=wrong).status_code == 404

    def count() -> float:
        text = client.get("/metrics", headers={"Authorization": "Bearer a token"}).content.decode()
        families = {one.name: one for one in text_string_to_metric_families(text)}
        assert "ovolo_request_seconds" in families
        return sum(
            one.value
            for one in families["ovolo_requests"].samples
            if one.name.endswith("_total") and one.labels["view"] == "health"
        )

    before = count()
    client.get("/health")
    assert count() == before + 1


def test_each_request_has_an_id_in_its_answer_and_in_what_is_logged(
    client: Client, caplog: pytest.LogCaptureFixture
) -> None:
    caplog.handler.addFilter(WithRequestId())
    with caplog.at_level(logging.INFO, "ovolo.requests"):
        given = client.get("/health", headers={"X-Request-ID": "0123456789abcdef"})
        own = client.get("/health", headers={"X-Request-ID": "x\ny"})
    assert given["X-Request-ID"] == "0123456789abcdef" != own["X-Request-ID"]
    told = [record for record in caplog.records if record.name == "ovolo.requests"]
    assert [record.__dict__["request_id"] for record in told] == [
        given["X-Request-ID"],
        own["X-Request-ID"],
    ]
    assert told[0].__dict__["status"] == 200 and told[0].__dict__["view"] == "health"


def test_tokens_are_not_logged() -> None:
    token = "x" * 32
    assert path_told(f"/links/{token}/studies/3/evaluate") == "/links/…/studies/3/evaluate"
    assert path_told(f"/invitations/{token}/accept") == "/invitations/…/accept"
    assert path_told(f"/reset/MQ/{token}") == "/reset/…"
    assert path_told("/studies/3/") == "/studies/3/"


def test_nor_by_the_loggers_of_others(client: Client, caplog: pytest.LogCaptureFixture) -> None:
    """Django logs what is not found, with its path and its request."""
    token = "x" * 32
    caplog.handler.addFilter(WithRequestId())
    client.get(f"/links/{token}/studies/3/")
    told = [record for record in caplog.records if record.name == "django.request"]
    assert told and all(token not in f"{record.getMessage()} {record.__dict__}" for record in told)


def test_logs_are_lines_of_json_where_that_is_asked_for() -> None:
    code = "import django; django.setup(); import logging; logging.getLogger('ovolo.requests').info('well', extra={'status': 200})"
    told = managed("-c", code, command=[sys.executable], OVOLO_LOG="json", DJANGO_SETTINGS_MODULE="studio.config.settings")  # fmt: skip
    line = json.loads(told.stderr.strip().splitlines()[-1])
    assert (line["message"], line["status"], line["levelname"]) == ("well", 200, "INFO")


def managed(*arguments: str, command: list[str] | None = None, **environment: str) -> Any:
    command = command or [sys.executable, "manage.py"]
    env = {**os.environ, **environment}
    return subprocess.run([*command, *arguments], cwd=ROOT, env=env, capture_output=True, text=True)


def test_a_service_passes_the_checks_of_deployment() -> None:
    """Django's own (https://docs.djangoproject.com/en/5.2/howto/deployment/checklist/)."""
    told = managed(
        "check", "--deploy", "--fail-level", "WARNING",
        OVOLO_HTTPS="1", OVOLO_PROXY="1", OVOLO_HOSTS="ovolo.example.org", OVOLO_SECRET_KEY="k" * 30 + "abcdefghijklmnopqrstuvwxyz",
    )  # fmt: skip
    assert told.returncode == 0, told.stderr


def test_the_schema_is_that_of_the_models() -> None:
    assert managed("makemigrations", "--check", "--dry-run").returncode == 0


def test_behind_a_proxy_the_address_is_the_one_that_it_saw() -> None:
    seen: list[str] = []
    ask = behind_proxy(lambda request: seen.append(request.META["REMOTE_ADDR"]))  # type: ignore[arg-type, return-value, func-returns-value]
    for said in ("10.0.0.9", "6.6.6.6, 10.0.0.9", ""):
        ask(RequestFactory().get("/", headers={"X-Forwarded-For": said}))
    assert seen == ["10.0.0.9", "10.0.0.9", "127.0.0.1"]


def test_what_is_shipped_for_a_service_names_what_there_is() -> None:
    for name in ("ovolo.service", "ovolo-daily.service", "ovolo-daily.timer"):
        unit = configparser.RawConfigParser(strict=False)
        unit.read(ROOT / "deploy" / name)
        assert unit.sections()
    text = (ROOT / "deploy" / "ovolo-daily.service").read_text()
    assert set(re.findall(r"manage\.py (\w+)", text)) == {"backup", "tidy"} <= set(get_commands())
    proxy = (ROOT / "deploy" / "nginx.conf").read_text()
    (most,) = re.findall(r"client_max_body_size (\d+)m;", proxy)
    assert int(most) * 2**20 > MOST_BYTES + 100_000
    image = (ROOT / "deploy" / "Dockerfile").read_text()
    assert all((ROOT / one).exists() for one in re.findall(r"^COPY (\S+)", image, re.MULTILINE))


@pytest.mark.django_db(transaction=True)
def test_a_full_disk_is_said_and_nothing_is_lost(study: Study) -> None:
    """SQLite refuses to grow, as on a full disk (SQLITE_FULL, https://www.sqlite.org/rescode.html)."""
    client = Client(raise_request_exception=False)
    client.force_login(study.project.owner)
    body = {"edit": "insert", "after": 0, "text": "# " + "long " * 8_000, "revision": study.head_id}
    address = reverse("edit", args=[study.pk])
    with connection.cursor() as cursor:
        cursor.execute("VACUUM")  # no page is left free
        (pages,) = cursor.execute("PRAGMA page_count").fetchone()
        cursor.execute(f"PRAGMA max_page_count = {pages}")
        try:
            answer = client.post(address, body, "application/json")
        finally:
            cursor.execute("PRAGMA max_page_count = 1073741823")
    assert answer.status_code == 503 and "Nothing can be saved" in answer.json()["message"]
    old = study.head_id
    study.refresh_from_db()
    assert study.head_id == old and study.revisions.count() == 1
    assert client.post(address, body, "application/json").status_code == 200


def test_a_database_that_is_held_too_long_is_said(
    signed_in: Client, study: Study, monkeypatch: pytest.MonkeyPatch
) -> None:
    def held(*_: Any, **__: Any) -> None:
        raise OperationalError("database is locked")

    monkeypatch.setattr(Study, "save_text", held)
    body = {"edit": "set", "name": "w", "value": 420.0, "revision": study.head_id}
    assert (
        signed_in.post(reverse("edit", args=[study.pk]), body, "application/json").status_code
        == 503
    )
