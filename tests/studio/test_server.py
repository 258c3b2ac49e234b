"""The server as it is started, and senders that fall silent."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest

from studio.config import gunicorn

HALF = (
    b"POST /sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 1000\r\n"
    b"Content-Type: application/x-www-form-urlencoded\r\n\r\nname="
)


@pytest.fixture
def port(tmp_path: Path) -> Iterator[int]:
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        number: int = one.getsockname()[1]
    server = subprocess.Popen(
        [sys.executable, "-m", "gunicorn", "-c", "studio/config/gunicorn.py", "studio.config.wsgi"],
        env={**os.environ, "PORT": str(number), "OVOLO_VAR": str(tmp_path)},
        stdout=subprocess.PIPE,
    )  # fmt: skip
    assert server.stdout is not None and b"Ovolo is at" in server.stdout.readline()
    yield number
    server.terminate()
    server.wait(20)
    server.stdout.close()


def test_senders_that_fall_silent_hold_nobody_up(port: int) -> None:
    """More of them than there are threads; each is let go, and others are answered."""
    silent = [socket.create_connection(("127.0.0.1", port)) for _ in range(gunicorn.threads + 6)]
    for one in silent:
        one.sendall(HALF)
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=30) as answer:
        assert answer.status == 200
    for one in silent:
        one.settimeout(30)
        assert b" 200 " not in one.recv(4096)
        one.close()
