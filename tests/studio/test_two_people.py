"""One person who asks for too much does not stop another."""

from __future__ import annotations

import threading
import time
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse

from studio.projects.models import Project, Study

pytestmark = pytest.mark.django_db(transaction=True)

SLOW = 'slow = sum([sum([sqrt(i * j + 1) for i in 0 .. 3000 if i > j]) + len("{j}") for j in 0 .. 9999])'


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
        told.append(asked(one, slow, {"text": SLOW.replace("9999", str(9000 + len(told)))}))

    threads = [threading.Thread(target=ask) for _ in range(10)]
    for one in threads:
        one.start()
    time.sleep(0.3)
    answers = [asked(other, tiny, {"text": f"a = {at} + 1"}) for at in range(6)]
    for one in threads:
        one.join()
    assert [status for status, _ in answers] == [200] * 6
    assert max(seconds for _, seconds in answers) < 3, answers
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
    "what", ["evaluate", "edit", "moves", "item", "measure", "schedule", "undo"]
)
def test_no_body_of_a_request_is_an_error_of_the_server(body: bytes, what: str) -> None:
    client, study = of("person", "input a = 1 mm\npart p = box(a, a, a)")
    answer = client.post(reverse(what, args=[study.pk]), body, "application/json")
    assert answer.status_code < 500, answer.content[:300]
