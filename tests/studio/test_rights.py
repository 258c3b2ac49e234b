"""Who reaches what: every address there is, asked for by everybody there is."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.db import connection, transaction
from django.http import HttpResponse
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from ovolo.problems import Failure
from studio.accounts.models import SignedIn
from studio.accounts.tokens import made_token
from studio.config.urls import urlpatterns
from studio.engine import pool
from studio.handover.menu import takeable
from studio.projects.models import Picture, Project, Study
from studio.rights.models import Invitation, Link, Member
from studio.rights.right import Right

NEEDED = {
    Right.VIEW: "workspace state standing picture leave-project",
    Right.TURN: "evaluate turned moves item numbers outline schedule bars measure variations varied plan trials small-picture "
    "trial-table comparable compare aim reach bands proof print-bench print-lay print-layers print-layer print-run "
    "cut-bench cut-lay cut-run",
    Right.READ: "beside swaps history attached news remarks make-remark settle-remark take-back-remark",
    Right.EDIT: "edit keep-contact-sheet forget-contact-sheet keep-picture edit-copy undo redo restore name-moment "
    "attach detach keep-print keep-cut exercise leave-exercise",
    Right.HAND_OVER: "give-out hand-over hand-over-sheet trial-files print-code cut-file hand-over-page hand-over-look "
    "hand-over-take hand-over-again",
    Right.COPY: "choose-project take-copy",
    Right.MAKE: "copy remove bring-back new-study take-in pack-project order-studies",
    Right.OWN: "remove-for-good rename-project remove-project people invite set-role end-invitation make-link end-link",
}  # fmt: skip
PUBLIC = "sign-in sign-out sign-up forgotten reset-sent reset stop-job job-share sun vocabulary health invitation reference try-example find-words reference-entry how-to rule messages openapi"
SIGNED_IN = (
    "projects first-hour begin-exercise new-project unpack-project profile-text keep-profile forget-profile account save-account "
    "change-password end-session end-other-sessions make-token end-token take-all delete-account accept-invitation"
)
BY_LINK = {
    Right.VIEW: "link link-workspace link-state link-attached link-picture",
    Right.TURN: "link-evaluate link-turned link-moves link-bands link-item link-numbers link-schedule link-bars link-measure",
    Right.HAND_OVER: "link-hand-over link-hand-over-sheet",
}
BY_LINK_SIGNED_IN = "link-choose-project link-take-copy"
BY_LINK_ALLOWED = "link-embed"
HIDDEN = "metrics"
BY_TOKEN = "api-studies api-study api-evaluate api-hand-over api-nothing"
"""Addresses for programs; `test_api.py` asks for them."""

PEOPLE = {
    "owner": frozenset(Right),
    "editor": frozenset(Right) - {Right.OWN},
    "viewer": frozenset({Right.VIEW, Right.TURN, Right.READ, Right.HAND_OVER, Right.COPY}),
    "other": frozenset[Right](),
    "nobody": frozenset[Right](),
}
LINKS = {
    "open": True,
    "bare": True,
    "run out": False,
    "taken back": False,
    "of another study": False,
}
PATTERNS = {one.name: one for one in urlpatterns}
FILE = "plan.png"


def names(said: str) -> list[str]:
    return said.split()


def test_every_address_is_in_one_list() -> None:
    by_right = [*NEEDED.values(), *BY_LINK.values()]
    every = [PUBLIC, SIGNED_IN, BY_LINK_SIGNED_IN, BY_LINK_ALLOWED, HIDDEN, BY_TOKEN, *by_right]
    assert sorted(" ".join(every).split()) == sorted(map(str, PATTERNS))


class House:
    """A project with all there is in one, and everybody who could come."""

    def __init__(self, study: Study) -> None:
        self.study, self.project, owner = study, study.project, study.project.owner
        people = {
            "owner": owner,
            **{name: User.objects.create_user(name) for name in ("editor", "viewer", "other")},
        }
        self.member = Member.objects.create(
            project=self.project, person=people["viewer"], role="viewer"
        )
        Member.objects.create(project=self.project, person=people["editor"], role="editor")
        study.save_text(f'file plan = "{FILE}"\n{study.text}', study.head_id)
        study.attachments.create(name=FILE, data=b"\x89PNG")
        Picture.objects.create(study=study, of="now", data=b"\x89PNG")
        self.binned = Study.objects.create(
            project=self.project, title="Gone", removed=timezone.now()
        )
        beside = Study.objects.create(project=self.project, title="Beside")
        self.invitation = Invitation.objects.create(project=self.project, role="editor", by=owner)
        formats = [ending for ending, _ in takeable()]
        told = {"project": self.project, "study": study, "by": owner}
        full = {**told, "formats": formats, "copies": True, "embeds": True}
        now = timezone.now()
        self.links = {
            "open": Link.objects.create(**full),
            "bare": Link.objects.create(**told),
            "run out": Link.objects.create(**full, until=now - timedelta(seconds=1)),
            "taken back": Link.objects.create(**full, ended=now),
            "of another study": Link.objects.create(**{**full, "study": beside}),
        }
        self.own = {
            name: Project.objects.create(owner=person, title="Own").pk
            for name, person in people.items()
        }
        self.clients = {name: Client(raise_request_exception=False) for name in PEOPLE}
        for name, person in people.items():
            self.clients[name].force_login(person)
        self.sessions = {name: SignedIn.objects.get(person=one).pk for name, one in people.items()}
        self.sessions["nobody"] = 0
        for one in people.values():
            made_token(one, "a script")
        self.tokens = {name: one.tokens.get().pk for name, one in people.items()}

    def address(self, name: str, link: str, who: str) -> str:
        known = {
            "study_id": self.binned.pk
            if name in ("bring-back", "remove-for-good")
            else self.study.pk,
            "project_id": self.project.pk,
            "name": FILE,
            "file_name": "parts.stl",
            "ending": "dxf",
            "machine": "printer",
            "sort": "word",
            "key": {"how-to": "roof-triangle", "rule": "rounding"}.get(name, "triangle"),
            "token": self.links[link].token if name.startswith("link") else self.invitation.token,
            "uidb64": "MQ",
            "number": {
                "set-role": self.member.pk,
                "end-invitation": self.invitation.pk,
                "end-session": self.sessions.get(who),
                "end-token": self.tokens.get(who, 0),
            }.get(name, self.links["bare"].pk),
        }
        wanted = PATTERNS[name].pattern.converters
        query = {"picture": "?of=now", "attached": "?look", "link-attached": "?look"}.get(name, "")
        return reverse(name, kwargs={one: known[one] for one in wanted}) + query

    def asks(self, who: str, name: str, link: str = "open") -> list[HttpResponse]:
        """What an address answers to being read and being sent nothing; what it did is taken back."""
        address = self.address(name, link, who)
        client, form = self.clients[who], {"project": self.own.get(who, 0), "password": "wrong"}
        answers, cookies = [], client.cookies.copy()
        for ask in (
            lambda: client.get(address),
            lambda: client.post(address, form),
            lambda: client.post(address, {}, "application/json"),
        ):
            answers.append(undone(ask))
            client.cookies = cookies.copy()  # type: ignore[assignment]
            if len(answers) == 2 and answers[1].status_code == 405:
                break  # it takes nothing, in whatever form
        return answers


def undone(work: Any) -> Any:
    with transaction.atomic():
        answer = work()
        if answer.streaming:
            answer.getvalue()  # to its end, which closes the file
        transaction.set_rollback(True)
    return answer


@pytest.fixture
def house(study: Study, monkeypatch: pytest.MonkeyPatch, settings: Any) -> House:
    """Nothing is worked out: who may ask for that is told "not now"."""

    def run(*arguments: Any, **more: Any) -> None:
        raise Failure("not now")

    settings.SIGN_UP = "open"
    monkeypatch.setattr(pool, "run", run)
    return House(study)


def is_closed(answers: list[HttpResponse]) -> bool:
    """Not found, or asked to sign in; whatever else an address says, it says to who may know of it."""
    return all(
        one.status_code in (404, 405) or (one.status_code == 302 and "/sign-in/" in one.headers["Location"])
        for one in answers
    )  # fmt: skip


@pytest.mark.parametrize("who", PEOPLE)
def test_people_reach_what_their_role_lets_them(who: str, house: House) -> None:
    for right, said in NEEDED.items():
        for name in names(said):
            answers = house.asks(who, name)
            assert all(one.status_code < 500 for one in answers), name
            assert is_closed(answers) is (right not in PEOPLE[who]), (name, answers)
    for name in names(SIGNED_IN):
        assert is_closed(house.asks(who, name)) is (who == "nobody"), name
    for name in names(PUBLIC):
        assert not is_closed(house.asks(who, name)), name
    assert is_closed(house.asks(who, HIDDEN))
    told = Study.everything.count(), house.study.revisions.count(), house.project.members.count()
    assert told == (3, 2, 2), "all was taken back"


@pytest.mark.parametrize("who", ["owner", "other", "nobody"])
@pytest.mark.parametrize("link", LINKS)
def test_visitors_reach_what_their_link_lets_them(link: str, who: str, house: House) -> None:
    """Whoever is signed in has no more by a link than anybody."""
    house.study.refresh_from_db()
    rights = house.links[link].rights if LINKS[link] else frozenset()
    for right, said in BY_LINK.items():
        for name in names(said):
            answers = house.asks(who, name, link)
            own = name == "link" and link == "of another study"  # it leads to that one
            assert is_closed(answers) is (right not in rights and not own), (name, answers)
            assert all(
                "no-store" in one["Cache-Control"] for one in answers if one.status_code == 200
            )
    assert is_closed(house.asks(who, BY_LINK_ALLOWED, link)) is (link != "open")
    for name in names(BY_LINK_SIGNED_IN):
        assert is_closed(house.asks(who, name, link)) is (link != "open" or who == "nobody")


def test_a_link_to_all_studies_leads_to_each_and_to_no_other_project(house: House) -> None:
    link = Link.objects.create(project=house.project, by=house.project.owner)
    visitor = house.clients["nobody"]
    assert visitor.get(reverse("link", args=[link.token])).status_code == 200
    for study in house.project.studies.all():
        assert (
            visitor.get(reverse("link-workspace", args=[link.token, study.pk])).status_code == 200
        )
    other = Project.objects.create(owner=User.objects.get(username="other"), title="O")
    elsewhere = Study.objects.create(project=other, title="Secret")
    assert (
        visitor.get(reverse("link-workspace", args=[link.token, elsewhere.pk])).status_code == 404
    )
    assert (
        visitor.get(reverse("link-workspace", args=[link.token, house.binned.pk])).status_code
        == 404
    )


def test_a_visitor_takes_only_the_files_a_link_gives(house: House) -> None:
    house.links["open"].formats = ["dxf"]
    house.links["open"].save()
    token, visitor = house.links["open"].token, house.clients["nobody"]

    def asked(file: str) -> int:
        return visitor.get(
            reverse("link-hand-over", args=[token, house.study.pk, file])
        ).status_code

    assert [asked(file) for file in ("a.dxf", "a.stl", "a.stl.zip", "a.DXF", "a", "dxf")] == [
        400,
        404,
        404,
        400,
        404,
        400,
    ]


def test_nothing_of_other_studies_is_told_to_a_visitor(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Neither titles, nor names of files and people, nor the history; and no text but the study's own is worked out."""
    Study.objects.filter(title="Beside").update(title="Wedding present")
    house.project.title = "Divorce of the Penroses"
    house.project.save()
    house.study.attachments.create(name="bank.csv", data=b"a\n1\n")
    house.study.revisions.update(said="made dearer for the bank")
    token, visitor = house.links["open"].token, house.clients["nobody"]
    for name in ("workspace", "state", "embed"):
        told = visitor.get(reverse(f"link-{name}", args=[token, house.study.pk])).content.decode()
        for secret in ("Wedding", "Divorce", "bank", "dearer", "lark", "csrfmiddlewaretoken"):
            assert secret not in told, (name, secret)
    texts: list[str] = []
    monkeypatch.setattr(pool, "run", lambda task, text, *more, **told: texts.append(text) or b"")
    for body in (
        {"text": 'use other from "Wedding present"'},
        {"revision": house.study.revisions.first().pk},
    ):  # type: ignore[union-attr]
        visitor.post(
            reverse("link-evaluate", args=[token, house.study.pk]), body, "application/json"
        )
    assert texts == [house.study.text] * 2


def test_a_link_that_is_taken_back_ends_at_once(house: House) -> None:
    token, visitor, owner = (
        house.links["open"].token,
        house.clients["nobody"],
        house.clients["owner"],
    )
    turn = reverse("link-turned", args=[token, house.study.pk])
    assert visitor.post(turn, {}, "application/json").status_code == 400, "not now"
    owner.post(reverse("end-link", args=[house.project.pk, house.links["open"].pk]))
    assert visitor.post(turn, {}, "application/json").status_code == 404


def test_what_is_not_there_and_what_is_not_ones_own_are_alike(
    house: House,
) -> None:
    """The same answer, after the same work: nobody learns what there is."""
    other, told = house.clients["other"], []
    other.get(reverse("account"))  # that one is here is noted once
    for number in (house.study.pk, 99_999):
        with CaptureQueriesContext(connection) as asked:
            answer = other.get(reverse("workspace", args=[number]))
        page = re.sub(rb'nonce="[^"]*"', b"", answer.content)
        told.append((answer.status_code, page, len(asked)))
    assert told[0] == told[1] and told[0][0] == 404
    link = house.links["of another study"].token
    pair = [
        house.clients["nobody"].get(reverse("link-state", args=[link, n]))
        for n in (house.study.pk, 99_999)
    ]
    assert {one.status_code for one in pair} == {404}
    assert len(pair[0].content) == len(pair[1].content)


def test_a_role_that_is_changed_counts_at_once(house: House) -> None:
    viewer = house.clients["viewer"]
    body = {"edit": "set", "name": "w", "typed": "400 mm", "revision": house.study.head_id}
    edit = reverse("edit", args=[house.study.pk])
    role = reverse("set-role", args=[house.project.pk, house.member.pk])
    assert viewer.post(edit, body, "application/json").status_code == 404
    house.clients["owner"].post(role, {"role": "editor"})
    assert viewer.post(edit, body, "application/json").status_code == 400, "not now"
    house.clients["owner"].post(role, {"role": ""})
    assert viewer.get(reverse("workspace", args=[house.study.pk])).status_code == 404


def test_a_revision_knows_its_author(
    signed_in: Client, study: Study, django_user_model: Any
) -> None:
    body = {"edit": "set", "name": "w", "typed": "400 mm", "revision": study.head_id}
    assert signed_in.post(reverse("edit", args=[study.pk]), body, "application/json").status_code == 200  # fmt: skip
    study.refresh_from_db()
    assert study.head is not None and study.head.author == study.project.owner
    moments = signed_in.get(reverse("history", args=[study.pk])).json()["moments"]
    assert [one["by"] for one in moments] == ["lark", ""], "the application made the first"
    signed_in.post(reverse("copy", args=[study.pk]))
    copy = Study.objects.exclude(pk=study.pk).get()
    assert copy.head is not None and copy.head.author == study.project.owner
