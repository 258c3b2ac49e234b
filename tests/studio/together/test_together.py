"""Several people at one study: who is there, what they change at once, what they say of lines."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.db import connection
from django.http import HttpResponse
from django.test import Client
from django.urls import reverse

from studio.projects.models import Study
from studio.rights.models import Member
from studio.together import presence
from studio.together.remarks import MOST_REMARKS

pytestmark = pytest.mark.django_db


@pytest.fixture
def mara(study: Study) -> Client:
    person = User.objects.create_user("mara", first_name="Mara", last_name="Voss")
    Member.objects.create(project=study.project, person=person, role="editor")
    client = Client(raise_request_exception=False)
    client.force_login(person)
    return client


@pytest.fixture(autouse=True)
def _nobody_here() -> Iterator[None]:
    yield
    presence._open.clear()


def post(client: Client, study: Study, what: str, **body: Any) -> Any:
    return client.post(reverse(what, args=[study.pk]), body, "application/json")


def test_windows_see_each_other_and_the_line_that_is_open(
    signed_in: Client, mara: Client, study: Study, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert post(signed_in, study, "news", window="a", line=2).json()["people"] == []
    assert post(mara, study, "news", window="b").json()["people"] == [
        {"name": "lark", "me": False, "line": 2}
    ]
    told = post(signed_in, study, "news", window="a2").json()["people"]
    assert [(one["name"], one["me"]) for one in told] == [("Mara Voss", False), ("lark", True)]
    post(signed_in, study, "news", window="a", gone=True)
    assert len(post(mara, study, "news", window="b").json()["people"]) == 1
    monkeypatch.setattr(presence, "STAYS", -1)
    assert post(mara, study, "news", window="b").json()["people"] == []


def test_news_tell_what_another_changed(signed_in: Client, mara: Client, study: Study) -> None:
    post(mara, study, "edit", edit="set", name="w", value=420.0, revision=study.head_id)
    told = post(signed_in, study, "news", window="a").json()
    assert told["by"] == "Mara Voss" and told["undo_said"] == "Width: 300 mm to 420 mm"
    assert told["revision"] != study.head_id


@pytest.mark.django_db(transaction=True)
def test_twenty_changes_at_once_are_all_there(study: Study) -> None:
    """Of twenty windows that each put in a line of their own at the same moment, from the same revision."""
    client = Client()
    client.force_login(study.project.owner)
    base = study.head_id

    def change(number: int) -> HttpResponse:
        one = Client()
        one.cookies = client.cookies
        try:
            for _ in range(60):
                answer = post(
                    one,
                    study,
                    "edit",
                    edit="insert",
                    after=3,
                    text=f"line_{number} = {number}",
                    revision=base,
                )
                if answer.status_code not in (409, 429):
                    break
            return answer
        finally:
            connection.close()

    with ThreadPoolExecutor(5) as executor:
        answers = list(executor.map(change, range(20)))
    assert {one.status_code for one in answers} == {200}
    study.refresh_from_db()
    lines = study.text.split("\n")
    assert sorted(lines[3:]) == sorted(f"line_{k} = {k}" for k in range(20))
    assert study.revisions.count() == 21


def test_remarks_are_made_answered_settled_and_taken_back(
    signed_in: Client, mara: Client, study: Study
) -> None:
    told = post(
        mara, study, "make-remark", said=" Too thin? ", line=3, revision=study.head_id
    ).json()
    (remark,) = told["remarks"]
    assert remark["said"] == "Too thin?" and remark["by"] == "Mara Voss" and remark["line"] == 3
    assert remark["text"].startswith("part plate")
    told = post(signed_in, study, "make-remark", said="18 mm then", answers=remark["remark"]).json()
    (remark,) = told["remarks"]
    assert [one["said"] for one in remark["answers"]] == ["18 mm then"]
    assert (
        post(mara, study, "take-back-remark", remark=remark["answers"][0]["remark"]).status_code
        == 400
    )
    told = post(mara, study, "settle-remark", remark=remark["remark"]).json()
    assert told["remarks"][0]["settled"] and told["remarks"][0]["settled_by"] == "Mara Voss"
    assert post(signed_in, study, "news", window="a").json()["remarks"] == told["stamp"]
    told = post(signed_in, study, "take-back-remark", remark=remark["remark"]).json()
    assert told["remarks"] == [], "its owner may, and the answers go with it"


def test_a_remark_follows_its_line(signed_in: Client, study: Study) -> None:
    first = study.head_id
    post(signed_in, study, "make-remark", said="Half of what?", line=2, revision=first)

    def at() -> int | None:
        line: int | None = signed_in.get(reverse("remarks", args=[study.pk])).json()["remarks"][0][
            "line"
        ]
        return line

    def edit(**body: Any) -> None:
        study.refresh_from_db()
        answer = post(signed_in, study, "edit", revision=study.head_id, **body)
        assert answer.status_code == 200, answer.content

    edit(edit="insert", after=0, text="# a comment above")
    assert at() == 3
    edit(edit="rename", name="half", new="half_of_it")
    assert at() == 3
    edit(edit="move", line=3, before=5)
    assert at() == 4
    edit(edit="delete", line=4, all_the_same=True)
    assert at() is None
    study.refresh_from_db()
    post(signed_in, study, "undo", revision=study.head_id)
    assert at() == 4, "the line is back"


@pytest.mark.parametrize(
    "body",
    [
        {"said": ""}, {"said": "x" * 2001, "line": 1}, {"said": "x", "line": 4}, {"said": "x", "line": 0}, {"said": "x\0", "line": 1},
        {"said": "x", "line": 1, "revision": 0}, {"said": "x", "answers": 77}, {"said": 5}, {"line": 1}, {"said": "x", "line": "1"},
    ],
    ids=range(10),
)  # fmt: skip
def test_what_is_no_remark_is_said(body: dict[str, Any], signed_in: Client, study: Study) -> None:
    answer = post(signed_in, study, "make-remark", **{"revision": study.head_id, **body})
    assert answer.status_code == 400 and answer.json()["message"]
    assert not study.remarks.exists()


def test_remarks_have_an_end(signed_in: Client, study: Study) -> None:
    from studio.together.models import Remark

    Remark.objects.bulk_create(
        Remark(study=study, said="x", line=1, revision=study.head) for _ in range(MOST_REMARKS)
    )
    answer = post(signed_in, study, "make-remark", said="x", line=1, revision=study.head_id)
    assert answer.status_code == 400 and "at most 500" in answer.json()["message"]
