"""The server as it is started, with a database of its own, and people who talk to it."""

from __future__ import annotations

import json
import os
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

ROOT = Path(__file__).parents[1]
_DATABASE = "ovolo.sqlite3"
_SESSION = "the-session-of-{}"
_PEOPLE = """
from datetime import timedelta
from django.conf import settings
from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.utils import timezone
from studio.projects.models import Project, Study
for name in {names!r}:
    owner = User.objects.create_user(name)
    study = Study.objects.create(project=Project.objects.create(owner=owner, title="P"), title="S")
    study.save_text({text!r}, None)
    signed_in = dict(
        _auth_user_id=str(owner.pk),
        _auth_user_backend=settings.AUTHENTICATION_BACKENDS[-1],
        _auth_user_hash=owner.get_session_auth_hash(),
    )
    Session.objects.save({session!r}.format(name), signed_in, timezone.now() + timedelta(hours=1))
    print(name, study.pk)
"""
TOKEN = "a" * 32
"""What tells a server that a request comes from a page of its own: the same in a cookie and in a header."""


def started(folder: Path, **environment: str) -> tuple[subprocess.Popen[bytes], int]:
    """The server, in a group of processes of its own, and the port at which it listens."""
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        port: int = one.getsockname()[1]
    server = subprocess.Popen(
        [sys.executable, "-m", "gunicorn", "-c", "studio/config/gunicorn.py", "studio.config.wsgi"],
        cwd=ROOT,
        env={**os.environ, "PORT": str(port), "OVOLO_VAR": str(folder), **environment},
        stdout=subprocess.PIPE,
        start_new_session=True,
    )  # fmt: skip
    assert server.stdout is not None and b"Ovolo is at" in server.stdout.readline()
    return server, port


@contextmanager
def served(folder: Path, **environment: str) -> Iterator[int]:
    """The port at which it listens."""
    server, port = started(folder, **environment)
    assert server.stdout is not None
    try:
        yield port
    finally:
        server.terminate()
        server.wait(20)
        server.stdout.close()


def managed(folder: Path, *command: str) -> str:
    """What a command of manage.py prints, its database in a folder."""
    environment = {**os.environ, "OVOLO_VAR": str(folder)}
    return subprocess.run(
        [sys.executable, "manage.py", *command, "-v", "0"],
        cwd=ROOT, env=environment, check=True, stdout=subprocess.PIPE, text=True,
    ).stdout  # fmt: skip


def at_share(times: list[float], share: float) -> float:
    """The time that a share of them does not exceed."""
    ordered = sorted(times) or [0.0]
    return ordered[min(int(share * len(ordered)), len(ordered) - 1)]


@cache
def _new_database() -> bytes:
    with TemporaryDirectory() as folder:
        managed(Path(folder), "migrate")
        return (Path(folder) / _DATABASE).read_bytes()


def people(folder: Path, text: str, *names: str) -> dict[str, int]:
    """Persons who are signed in, in a new database, each with a study: the numbers of their studies."""
    (folder / _DATABASE).write_bytes(_new_database())
    told = managed(folder, "shell", "-c", _PEOPLE.format(names=names, text=text, session=_SESSION))
    pairs = (line.split() for line in told.splitlines() if line)
    return {name: int(number) for name, number in pairs}


class Person:
    """Somebody who is signed in to a server."""

    def __init__(self, port: int, name: str) -> None:
        self.address = f"http://127.0.0.1:{port}"
        self.headers = {
            "Cookie": f"sessionid={_SESSION.format(name)}; csrftoken={TOKEN}",
            "X-CSRFToken": TOKEN,
            "Content-Type": "application/json",
        }

    def asks(self, path: str, body: Any = None) -> tuple[int, bytes, float]:
        """Status, answer and seconds of a request; `body` is sent as JSON, bytes as they are."""
        data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{self.address}{path}", data, self.headers)
        begun = time.monotonic()
        try:
            with urllib.request.urlopen(request, timeout=120) as answer:
                return answer.status, answer.read(), time.monotonic() - begun
        except urllib.error.HTTPError as error:
            return error.code, error.read(), time.monotonic() - begun
