"""One person who asks for too much does not stop another."""

from __future__ import annotations

import sys
import threading
import time
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.core.cache import cache
from django.http import HttpResponse
from django.test import Client
from django.urls import reverse

from ovolo.sheet import reader
from studio.config import urls
from studio.engine import pool, requests
from studio.projects.models import Project, Study

pytestmark = pytest.mark.django_db(transaction=True)

SLOW = 'slow = sum([sum([sqrt(i * j + 1) for i in 0 .. 3000 if i > j]) + len("{j}") for j in 0 .. 999])'


def of(name: str, text: str) -> tuple[Client, Study]:
    """A person signed in, with a study."""
    user = User.objects.create_user(name)
    client = Client(raise_request_exception=False)
    client.force_login(user)
    study = Study.objects.create(project=Project.objects.create(owner=user, title="P"), title="S")
    study.save_text(text, None)
    return client, study


def asked(client: Client, study: Study, body: dict[str, Any]) -> tuple[int, float]:
    begun = time.monotonic()
    answer = client.post(reverse("evaluate", args=[study.pk]), body, "application/json")
    return answer.status_code, time.monotonic() - begun


def test_a_tiny_sheet_is_answered_while_another_person_asks_for_many_slow_ones() -> None:
    other, tiny = of("other", "a = 1 + 1")
    greedy, slow = of("greedy", SLOW)
    asked(other, tiny, {})
    told: list[tuple[int, float]] = []
    cookie = greedy.cookies

    def ask() -> None:
        one = Client(raise_request_exception=False)
        one.cookies = cookie
        told.append(asked(one, slow, {"text": SLOW.replace("999])", f"{900 + len(told)}])")}))

    threads = [threading.Thread(target=ask) for _ in range(10)]
    for one in threads:
        one.start()
    time.sleep(0.3)
    answers = [asked(other, tiny, {"text": f"a = {at} + 1"}) for at in range(6)]
    for one in threads:
        one.join()
    assert [status for status, _ in answers] == [200] * 6
    assert max(seconds for _, seconds in answers) < 8, answers
    assert {status for status, _ in told} <= {200, 429} and 429 in {status for status, _ in told}


@pytest.mark.parametrize(
    "body",
    [
        b'{"revision": ' + b"9" * 5000 + b"}", b'{"text": "\\ud800"}', b'{"text": null, "set": {"a": NaN}}', b"[" * 100_000,
        b"\xff\xfe", b"null", b'{"set": []}', b'{"text": 5}', b'{"text": "a = 1\\u0000"}', b'{"held": [{}, null]}',
        b'{"set": {"a": 1e999}}', b'{"drawing": {"room": ["x", 2]}}', b'{"working": 1e300}', b'{"construction": [[]]}',
    ],
    ids=range(14),
)  # fmt: skip
@pytest.mark.parametrize(
    "what", ["evaluate", "edit", "moves", "item", "numbers", "measure", "schedule", "undo"]
)
def test_no_body_of_a_request_is_an_error_of_the_server(body: bytes, what: str) -> None:
    client, study = of("person", "input a = 1 mm\npart p = box(a, a, a)")
    answer = client.post(reverse(what, args=[study.pk]), body, "application/json")
    assert answer.status_code < 500, answer.content[:300]


def everything_asked(client: Client, study: Study) -> dict[str, tuple[HttpResponse, HttpResponse]]:
    """The answers of every address there is to being read and being sent something."""
    study.attachments.create(name="bolts.csv", data=b"size\n3\n")
    known = {"study_id": study.pk, "project_id": study.project_id, "name": "bolts.csv", "file_name": "s.stl", "machine": "printer", "ending": "dxf", "uidb64": "MQ", "token": "none", "number": 0, "sort": "word", "rest": "x", "key": "triangle"}  # fmt: skip
    told = {}
    for pattern in urls.urlpatterns:
        name = getattr(pattern, "name", None)
        if name in (None, "sign-in", "sign-out", "remove", "detach", "delete-account"):
            continue
        address = reverse(name, kwargs={one: known[one] for one in pattern.pattern.converters})
        body = {"edit": "set", "name": "a", "typed": "2 mm", "revision": study.head_id}
        told[name] = (
            client.get(address, {"see": ""} if name == "attached" else {}),
            client.post(address, body, "application/json"),
        )
    assert all(one.status_code < 500 for pair in told.values() for one in pair)
    return told


SHEET = 'file bolts = "bolts.csv"\ninput a = 1 mm\npart p = box(a, a, a)'


@pytest.mark.parametrize("ended", [pool.Busy("too many people are waiting"), pool.Stopped("it took too long")], ids=str)  # fmt: skip
def test_every_address_answers_while_all_are_busy(
    ended: Exception, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Whatever is asked for, of every address there is: told in words, never an error of the server."""

    def run(*arguments: Any, **more: Any) -> None:
        raise ended

    client, study = of("person", SHEET)
    cache.clear()  # the words of the language are not asked for twice
    monkeypatch.setattr(pool, "run", run)
    told = everything_asked(client, study)
    refusals = [one for pair in told.values() for one in pair if one.status_code in (400, 429)]
    assert all(one.content for one in refusals)
    assert all("max-age" not in one.headers.get("Cache-Control", "") for one in refusals)
    wanted = 429 if isinstance(ended, pool.Busy) else 400
    for name in ("vocabulary", "beside", "swaps", "attached", "hand-over"):
        assert told[name][0].status_code == wanted, told
    for name in ("moves", "item", "numbers", "measure", "schedule", "edit"):
        assert told[name][1].status_code == wanted, told
    assert told["workspace"][0].status_code == 200, "the sheet can be read all the same"


def test_no_sheet_is_read_by_the_process_that_answers(monkeypatch: pytest.MonkeyPatch) -> None:
    def parse(start: str, text: str) -> None:
        raise AssertionError(f"read here: {text}")

    def read(text: str) -> None:
        raise AssertionError(f"read here: {text}")

    client, study = of("person", SHEET)
    for module in list(sys.modules.values()):
        if getattr(module, "__name__", "").startswith(("ovolo", "studio")):
            for name, stub in (("parse", parse), ("read_sheet", read), ("read_statement", read)):
                if getattr(getattr(module, name, None), "__module__", "").startswith("ovolo.sheet"):
                    monkeypatch.setattr(module, name, stub)
    with pytest.raises(AssertionError, match="read here"):
        reader.read_sheet(SHEET)
    told = everything_asked(client, study)
    for name in ("workspace", "vocabulary", "beside", "attached", "hand-over"):
        assert told[name][0].status_code == 200, told[name][0].content
    for name in ("evaluate", "edit", "schedule"):
        assert told[name][1].status_code == 200, told[name][1].content


def test_a_change_is_kept_though_its_sender_has_left(monkeypatch: pytest.MonkeyPatch) -> None:
    """Whoever looks is waited for no longer, and what is looked at is ended; what was sent to be kept is kept."""
    client, study = of("person", "input a = 1 mm\nuse_of = a * 2")
    monkeypatch.setattr(requests, "_has_left", lambda request: True)
    monkeypatch.setattr(pool, "_LOOK", 0.0)
    turned = client.post(reverse("evaluate", args=[study.pk]), {}, "application/json")
    assert b"given up" in turned.content
    for change, text in (
        ({"edit": "set", "name": "a", "typed": "7 mm"}, "input a = 7 mm\nuse_of = a * 2"),
        ({"edit": "rename", "name": "a", "new": "b"}, "input b = 7 mm\nuse_of = b * 2"),
    ):
        study.refresh_from_db()
        body = {**change, "revision": study.head_id}
        told = client.post(reverse("edit", args=[study.pk]), body, "application/json")
        study.refresh_from_db()
        assert told.status_code == 200 and study.text == text, told.content
