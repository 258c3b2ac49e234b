"""Twenty people at once, with roles and links, a copy of the database taken meanwhile, and a server that is
killed: no error of the server, and nothing lost that was acknowledged."""

from __future__ import annotations

import json
import os
import random
import signal
import sqlite3
import threading
import time
from collections import Counter
from collections.abc import Callable
from contextlib import closing, suppress
from http.client import HTTPException
from pathlib import Path
from typing import Any

from bench.serving import Person, managed, people, started

Work = Callable[[int], int]
"""What somebody does, again and again, by a number of their own: the status of the answer."""

TEXT = 'input w = 300 mm from 100 mm to 900 mm "Width"\npart plate = box(w, w / 2, 10 mm)'
ANSWERS = 60
"""So many, at the least, before the copy is taken, and after it."""

PATIENCE = 60.0
"""Seconds until they must have been answered so often."""

_ROLES = """
from django.contrib.auth.models import User
from studio.projects.models import Study
from studio.rights.models import Link, Member
study = Study.objects.get(pk={study})
for name, role in (("editor", "editor"), ("viewer", "viewer")):
    Member.objects.create(project=study.project, person=User.objects.get(username=name), role=role)
print(Link.objects.create(project=study.project, study=study, by=study.project.owner, formats=["stl"]).token)
"""


class Crowd:
    """People who ask all the time until it is over; what was acknowledged to them, and how they were answered."""

    def __init__(self, newest: int) -> None:
        self.newest = newest
        self.kept: dict[int, str] = {}
        self.statuses: Counter[int] = Counter()
        self.over = threading.Event()

    def begin(self, works: list[Work]) -> list[threading.Thread]:
        threads = [
            threading.Thread(target=self._ask, args=(work, at)) for at, work in enumerate(works)
        ]
        for one in threads:
            one.start()
        return threads

    def goes_on(self) -> None:
        """Until they have been answered so often again, and something more was kept."""
        kept, answered = len(self.kept), self.statuses.total()
        ends = time.monotonic() + PATIENCE
        while len(self.kept) <= kept or self.statuses.total() < answered + ANSWERS:
            assert time.monotonic() < ends, (len(self.kept), self.statuses)
            time.sleep(0.05)

    def _ask(self, work: Work, number: int) -> None:
        while not self.over.is_set():
            with suppress(OSError, HTTPException):  # the server is killed in the end
                self.statuses[work(number)] += 1
            time.sleep(random.random() / 20)


def test_twenty_people_a_backup_and_a_kill(tmp_path: Path) -> None:
    place, copies, restored = (tmp_path / name for name in ("live", "copies", "restored"))
    place.mkdir()
    numbers = people(place, TEXT, "owner", "editor", "viewer", "other")
    study = numbers["owner"]
    token = managed(place, "shell", "-c", _ROLES.format(study=study)).split()[-1]
    server, port = started(place)
    try:
        everybody = {name: Person(port, name) for name in numbers}
        crowd = Crowd(revision_of(everybody["owner"].asks(f"/studies/{study}/state")[1]))
        everybody["owner"].asks(f"/studies/{study}/evaluate", {})  # the workers are there
        threads = crowd.begin(works_of(crowd, everybody, study, token))
        crowd.goes_on()
        before = dict(crowd.kept)
        managed(place, "backup", str(copies))
        crowd.goes_on()
    finally:
        os.killpg(server.pid, signal.SIGKILL)
        server.wait(20)
        assert server.stdout is not None
        server.stdout.close()
    crowd.over.set()
    for one in threads:
        one.join()
    assert len(crowd.kept) > len(before) > 0
    assert not [status for status in crowd.statuses if status >= 500], crowd.statuses
    assert crowd.statuses[200] > 50 and crowd.statuses[404] > 0, "who has no right finds nothing"
    assert not lost(crowd.kept, place / "ovolo.sqlite3"), "after the kill"
    restored.mkdir()
    (copy,) = copies.glob("*.sqlite3")
    managed(restored, "restore", str(copy))
    assert not lost(before, restored / "ovolo.sqlite3"), "in the copy"


def works_of(crowd: Crowd, everybody: dict[str, Person], study: int, token: str) -> list[Work]:
    """What twenty people do: save, turn inputs, ask what is new, look by a link, try what is not theirs."""

    def save(name: str) -> Work:
        def work(number: int) -> int:
            line = f"line_{number}_{len(crowd.kept)} = {number}"
            body = {"edit": "insert", "after": 0, "text": line, "revision": crowd.newest}
            status, told, _ = everybody[name].asks(f"/studies/{study}/edit", body)
            if status == 200:
                crowd.newest = revision_of(told)
                crowd.kept[crowd.newest] = line
            return status

        return work

    def ask(name: str, path: str, body: dict[str, Any]) -> Work:
        def work(number: int) -> int:
            made = {**body, "set": {"w": 200.0 + number}} if "set" in body else body
            return everybody[name].asks(path, made)[0]

        return work

    own, by_link = f"/studies/{study}", f"/links/{token}/studies/{study}"
    return [
        *[save("owner")] * 4,
        *[save("editor")] * 4,
        *[ask("viewer", f"{own}/evaluate", {"set": {}})] * 2,
        *[ask("viewer", f"{own}/news", {"window": "v"})] * 3,
        *[ask("other", f"{by_link}/evaluate", {"set": {}})] * 3,
        *[ask("other", f"{by_link}/turned", {"edit": "set", "name": "w", "value": 250.0})] * 2,
        *[ask("other", f"{own}/evaluate", {"set": {}})] * 2,
    ]


def revision_of(answer: bytes) -> int:
    return int(json.loads(answer)["revision"])


def lost(kept: dict[int, str], database: Path) -> dict[int, str]:
    """Of what was acknowledged, each line by its revision, what is not in a database; which is whole."""
    with closing(sqlite3.connect(database)) as one:
        assert one.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        texts = dict(one.execute("SELECT id, text FROM projects_revision"))
    return {number: line for number, line in kept.items() if line not in texts.get(number, "")}
