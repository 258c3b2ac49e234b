"""The server as it is started: senders that fall silent, and somebody who attacks it."""

from __future__ import annotations

import http.client
import json
import os
import signal
import socket
import threading
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

import pytest
from django.contrib.auth.models import AnonymousUser
from django.http import HttpRequest

from bench.serving import TOKEN, Person, people, served, started
from studio.config import gunicorn
from studio.engine.requests import whose

pytestmark = pytest.mark.waits
HALF = (
    b"POST /sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 1000\r\n"
    b"Cookie: csrftoken=" + TOKEN.encode() + b"\r\nX-CSRFToken: " + TOKEN.encode() + b"\r\n"
    b"Content-Type: application/x-www-form-urlencoded\r\n\r\nusername="
)
"""A request whose body is read, and that is not all there."""


@pytest.fixture(scope="module")
def impatient(tmp_path_factory: pytest.TempPathFactory) -> Iterator[int]:
    """The port of a server that does not wait long for senders, and has one study, of a patient person."""
    seconds = {"OVOLO_SILENT_SECONDS": "1", "OVOLO_SENDING_SECONDS": "1.2"}
    place = tmp_path_factory.mktemp("impatient")
    people(place, "a = 1", "patient")
    with served(place, **seconds) as port:
        yield port


ENDLESS = "a = sum([sum([sqrt(i * j + 1) for i in 0 .. 3000 if i > j]) for j in 0 .. 99999])"


def more_than_threads(port: int) -> list[socket.socket]:
    """Senders that are more than there are threads."""
    return [socket.create_connection(("127.0.0.1", port)) for _ in range(gunicorn.threads + 6)]


def signs_in_at(port: int) -> int:
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=30) as answer:
        status: int = answer.status
        return status


def test_senders_that_fall_silent_hold_nobody_up(impatient: int) -> None:
    """More of them than there are threads; each is let go, and others are answered."""
    silent = more_than_threads(impatient)
    for one in silent:
        one.sendall(HALF)
    assert signs_in_at(impatient) == 200
    for one in silent:
        one.settimeout(30)
        one.recv(4096)  # raises where nothing comes
        one.close()


SHEETS = [
    "==" + " " * 10_000 + "x",
    "a = [" + ", ".join(["1"] * 20_000) + "]",
    "a = " + "(" * 20_000,
    "a = " + " + ".join(["x"] * 990),
    "f0(x) = x\n" + "\n".join(f"f{k}(x) = f{k - 1}(x) + f{k - 1}(x)" for k in range(1, 40)) + "\ny = f39(1)",
    "part a = cylinder(1e9 m, 1 mm)",
    "part a = polygon(47e154, 1 m)",
    "c = helix(1 m, 9e18 mm, 9e18)",
    "a = 1e308 m * 10",
    "slow = sum([sum([sqrt(i * j + 1) for i in 0 .. 3000 if i > j]) + len(\"{j}\") for j in 0 .. 9999])",
    "part p = [box(i * 1 mm + 1 mm, 1 mm, 1 mm).turn(i * 1°) for i in 0 .. 99999]",
    "part b = unite([sphere(1 m).move(i * 0.3 m) for i in 0 .. 150])",
]  # fmt: skip
BODIES = [
    b'{"revision": ' + b"9" * 5000 + b"}", b'{"text": "\\ud800"}', b"[" * 100_000, b"\xff\xfe", b"null",
    b'{"set": []}', b'{"set": {"w": 1e999}}', b'{"held": [{}, null]}', b'{"text": "a = 1\\u0000"}', b"",
]  # fmt: skip


def test_somebody_who_attacks_it_stops_nobody_else(tmp_path: Path) -> None:
    """While one sends sheets and bodies of every bad kind, asks for eight files and leaves half-sent
    requests behind, another turns an input and changes the sheet: no answer is an error of the
    server, nothing of the changes is lost, and each turn is answered in time."""
    text = 'input w = 300 mm from 100 mm to 900 mm "Width"\npart plate = box(w, w / 2, 10 mm)'
    studies = people(tmp_path, text, "attacker", "other")
    with served(tmp_path) as port:
        attacker, other = Person(port, "attacker"), Person(port, "other")
        own = f"/studies/{studies['attacker']}"
        other.asks(f"/studies/{studies['other']}/evaluate", {})
        statuses: list[int] = []
        half = [socket.create_connection(("127.0.0.1", port)) for _ in range(20)]
        for one in half:
            one.sendall(HALF)
        wanted = [
            *((f"{own}/evaluate", {"text": sheet}) for sheet in SHEETS),
            *(
                (f"{own}/{what}", body)
                for body in BODIES
                for what in ("evaluate", "edit", "measure")
            ),
            *((f"{own}/hand-over/plate.step?part=plate", None) for _ in range(8)),
        ]

        def attack(share: int) -> None:
            statuses.extend(attacker.asks(path, body)[0] for path, body in wanted[share::8])

        threads = [threading.Thread(target=attack, args=(share,)) for share in range(8)]
        for thread in threads:
            thread.start()
        place = f"/studies/{studies['other']}"
        turns, revision = [], json.loads(other.asks(f"{place}/state")[1])["revision"]
        kept: list[str] = []
        while any(thread.is_alive() for thread in threads) or len(turns) < 20:
            status, _, seconds = other.asks(f"{place}/evaluate", {"set": {"w": 200 + len(turns)}})
            turns.append(seconds)
            assert status == 200
            if len(turns) % 5 == 0:
                line = f"a{len(turns)} = {len(turns)}"
                change = {"revision": revision, "edit": "insert", "after": 2, "text": line}
                status, answer, _ = other.asks(f"{place}/edit", change)
                assert status == 200, answer
                revision = json.loads(answer)["revision"]
                kept.append(line)
        for thread in threads:
            thread.join()
        for one in half:
            one.close()
        sheet = other.asks(f"{place}/sheet.ovo")[1].decode()
    turns.sort()
    print(
        f"{len(turns)} turns beside it: median {turns[len(turns) // 2]:.2f} s, longest {turns[-1]:.2f} s"
    )
    assert not [status for status in statuses if status >= 500]
    assert [line for line in kept if line not in sheet] == []
    assert turns[len(turns) // 2] < 2 and turns[-1] < 8


def test_senders_that_drip_are_cut_off(impatient: int) -> None:
    """More of them than there are threads, each sending a byte every half second."""
    slow = more_than_threads(impatient)
    ended = threading.Event()

    def drip() -> None:
        while not ended.wait(0.5):
            for one in slow:
                with suppress(OSError):
                    one.send(b"x")

    for at, one in enumerate(slow):
        one.sendall(HALF if at % 2 else HALF[:30])
    dripping = threading.Thread(target=drip)
    dripping.start()
    try:
        assert signs_in_at(impatient) == 200
    finally:
        ended.set()
        dripping.join()
        for one in slow:
            one.close()


def test_a_large_body_that_arrives_at_an_honest_rate_is_taken(impatient: int) -> None:
    """In all it takes longer than sending may."""
    honest = socket.create_connection(("127.0.0.1", impatient))
    head = HALF.split(b"\r\n\r\n")[0].replace(b"1000", b"500000")
    honest.sendall(head + b"\r\n\r\nusername=")
    for _ in range(5):
        time.sleep(0.4)
        honest.sendall(b"a" * 100_000)
    honest.settimeout(20)
    # The page's own answer; it refuses to look where too many have signed in wrongly before.
    assert honest.recv(4096).startswith((b"HTTP/1.1 200", b"HTTP/1.1 429"))
    honest.close()


def test_work_that_takes_longer_than_sending_may_is_answered(impatient: int) -> None:
    """The limit is for what is sent; the next request of the same person works as well. (However quick the
    machine is, a line goes on until it is ended.)"""
    patient = Person(impatient, "patient")
    status, answer, seconds = patient.asks("/studies/1/evaluate", {"text": ENDLESS})
    assert status == 200 and answer[:4] == b"OVO1" and seconds > 1.2
    assert patient.asks("/studies/1/evaluate", {})[0] == 200


def test_who_leaves_is_waited_for_no_longer(impatient: int) -> None:
    """Six times what goes on until its limit, so that a person is refused the next; all are hung up, as by leaving
    a page, and long before that limit it is taken."""
    patient = Person(impatient, "patient")
    assert patient.asks("/studies/1/evaluate", {})[0] == 200, "it is warm"
    there = [http.client.HTTPConnection("127.0.0.1", impatient) for _ in range(6)]
    for one in there:
        one.request("POST", "/studies/1/evaluate", json.dumps({"text": ENDLESS}), patient.headers)
    time.sleep(0.8)  # all have arrived: what is asked now comes after them
    assert patient.asks("/studies/1/evaluate", {})[0] == 429
    for one in there:
        one.close()
    waited(lambda: patient.asks("/studies/1/evaluate", {})[0] == 200, seconds=3.5)


@pytest.mark.parametrize("peer_leaves", [False, True])
def test_hanging_up_is_told_from_having_said_all(peer_leaves: bool) -> None:
    """A connection that we read no more from is still one."""
    with socket.create_server(("127.0.0.1", 0)) as server:
        client = socket.create_connection(server.getsockname())
        ours, _ = server.accept()
    request = HttpRequest()
    request.user = AnonymousUser()
    assert not whose(request, looks=True).left(), "nothing is known of it"
    request.META["gunicorn.socket"] = ours
    ours.shutdown(socket.SHUT_RD)
    if peer_leaves:
        client.close()
        waited(whose(request, looks=True).left)
    assert whose(request, looks=True).left() is whose(request, turn=True).left() is peer_leaves
    assert not whose(request).left(), "a change is made all the same"
    client.close()
    ours.close()


def family(pid: int) -> set[int]:
    """A process and all that it, and they, have begun."""
    parents = {}
    for status in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):  # it has ended meanwhile
            parents[int(status.parent.name)] = int(status.read_text().rpartition(")")[2].split()[1])
    found, newer = set(), {pid}
    while newer:
        found |= newer
        newer = {one for one, parent in parents.items() if parent in newer}
    return found


def test_a_server_that_is_killed_leaves_no_process_behind(tmp_path: Path) -> None:
    """Neither the workers nor what they were forked from; they begin with the server, before anybody asks."""
    server, _ = started(tmp_path)
    # Two of the server, four workers, what they come from.
    waited(lambda: len(family(server.pid)) >= 7)
    everything = family(server.pid)
    commands = {pid: Path(f"/proc/{pid}/cmdline").read_bytes() for pid in everything}
    for pid, command in commands.items():
        if b"gunicorn" in command:
            os.kill(pid, signal.SIGKILL)
    server.wait(20)
    assert server.stdout is not None
    server.stdout.close()
    waited(lambda: not any(Path(f"/proc/{pid}").exists() for pid in everything))


def waited(done: Callable[[], bool], seconds: float = 30.0) -> None:
    """Waits until something is so; fails where it is not in time."""
    until = time.monotonic() + seconds
    while not done():
        assert time.monotonic() < until
        time.sleep(0.1)
