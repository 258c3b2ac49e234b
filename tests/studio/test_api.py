"""The interface for programs: asked by its own description, and as the page on it shows."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import schemathesis
import trimesh
from django.contrib.auth.models import User
from django.core.cache import cache
from django.core.signals import request_finished, request_started
from django.db import close_old_connections
from django.test import Client
from django.urls import reverse
from hypothesis import HealthCheck, Phase, settings
from schemathesis.checks import CHECKS

from studio.accounts.models import Token
from studio.accounts.tokens import made_token
from studio.config.wsgi import application
from studio.projects.models import Project, Study
from studio.rights.models import Member

pytestmark = pytest.mark.django_db
PAGE = Path(__file__).parents[2] / "docs" / "http.md"


@pytest.fixture(autouse=True)
def _nothing_counted() -> None:
    cache.clear()


@pytest.fixture
def token(study: Study) -> str:
    return made_token(study.project.owner, "a script")


def asked(token: str, method: str, path: str, body: Any = None) -> Any:
    headers = {"Authorization": f"Bearer {token}"} if token else {}
    data = "" if body is None else body if isinstance(body, str) else json.dumps(body)
    return Client(raise_request_exception=False).generic(
        method, path, data, "application/json", headers=headers
    )


def test_without_a_token_nothing_is_told(study: Study, token: str) -> None:
    signed_in = Client()
    signed_in.force_login(study.project.owner)
    for answer in (
        asked("", "GET", "/api/studies"),
        asked("ovolo_wrong", "GET", "/api/studies"),
        signed_in.get("/api/studies"),
    ):
        assert (
            answer.status_code == 401
            and answer.json()["message"]
            and answer["WWW-Authenticate"] == "Bearer"
        )
    assert token not in json.dumps(list(Token.objects.values("digest", "said")))


def test_a_study_is_read_changed_evaluated_and_handed_over(
    study: Study, token: str, tmp_path: Path
) -> None:
    (found,) = asked(token, "GET", "/api/studies").json()
    assert found["title"] == "Wind vane" and found["id"] == study.pk and "own" in found["may"]
    address = f"/api/studies/{study.pk}"
    told = asked(token, "GET", address).json()
    saved = asked(
        token,
        "PUT",
        address,
        {"text": told["text"] + "\nthird = w / 3", "revision": told["revision"]},
    )
    assert saved.status_code == 200 and saved.json()["revision"] != told["revision"]
    again = asked(token, "PUT", address, {"text": "", "revision": told["revision"]})
    assert again.status_code == 409 and again.json()["hint"] == "read it again"
    study.refresh_from_db()
    assert (
        study.head is not None
        and study.head.author == study.project.owner
        and "third" in study.text
    )
    outcome = asked(token, "POST", f"{address}/evaluate", {"set": {"w": "0.6 m"}}).json()
    assert outcome["values"]["third"]["value"] == 200 and outcome["values"]["third"]["unit"] == "mm"
    assert (
        asked(token, "POST", f"{address}/evaluate", {"set": {"w": 450}}).json()["values"]["half"][
            "value"
        ]
        == 225
    )
    file = tmp_path / "plate.stl"
    file.write_bytes(
        asked(
            token,
            "POST",
            f"{address}/hand-over",
            {"file": "plate.stl", "parts": ["plate"], "set": {"w": 600}},
        ).content
    )
    assert trimesh.load(file).volume == pytest.approx(600 * 300 * 10)
    assert (
        "third" not in asked(token, "POST", f"{address}/evaluate", {"set": {}}).json()["problems"]
    )
    assert study.revisions.count() == 2, "nothing else is kept"


@pytest.mark.parametrize(
    ("what", "body", "said"),
    [
        ("evaluate", {"set": {"w": "3 kg"}}, "mass"), ("evaluate", {"set": {"v": 3}}, "no input `v`"), ("evaluate", {"set": {"w": None}}, "cannot be read"),
        ("evaluate", {"preset": "None such"}, "no preset"), ("evaluate", "{", "cannot be read"), ("evaluate", {"set": {"w": 1e400}}, ""),
        ("hand-over", {"file": "a.exe"}, "ends in"), ("hand-over", {"file": "a.stl", "parts": ["b"]}, "`b`"), ("hand-over", {}, "cannot be read"),
    ],
    ids=range(9),
)  # fmt: skip
def test_what_makes_no_sense_is_said(
    what: str, body: Any, said: str, study: Study, token: str
) -> None:
    answer = asked(token, "POST", f"/api/studies/{study.pk}/{what}", body)
    assert answer.status_code == 400 and said in answer.json()["message"] + answer.json()["hint"]


def test_a_token_has_the_rights_of_its_person(study: Study) -> None:
    viewer, other = (User.objects.create_user(name) for name in ("viewer", "other"))
    Member.objects.create(project=study.project, person=viewer, role="viewer")
    address = f"/api/studies/{study.pk}"
    change = {"text": "", "revision": study.head_id}
    for person, statuses in ((viewer, [200, 404]), (other, [404, 404])):
        own = made_token(person, "s")
        told = [
            asked(own, "GET", address).status_code,
            asked(own, "PUT", address, change).status_code,
        ]
        assert told == statuses
    assert asked(own, "GET", "/api/studies").json() == []
    other.tokens.all().delete()
    assert asked(own, "GET", "/api/studies").status_code == 401
    viewer.is_active = False
    viewer.save()
    assert asked(made_token(viewer, "s"), "GET", address).status_code == 401


def test_asking_has_a_measure(token: str, one_minute: None) -> None:
    told = [asked(token, "GET", "/api/studies/9").status_code for _ in range(305)]
    assert told[0] == 404 and told[-1] == 429


def test_tokens_are_made_and_ended_on_the_page(signed_in: Client) -> None:
    page = signed_in.post(reverse("make-token"), {"said": "a script"}, follow=True).content.decode()
    token = re.findall(r"ovolo_[\w-]{40,}", page)[0]
    assert asked(token, "GET", "/api/studies").status_code == 200
    page = signed_in.get(reverse("account")).content.decode()
    assert token not in page and "a script" in page
    signed_in.post(reverse("end-token", args=[Token.objects.get().pk]))
    assert asked(token, "GET", "/api/studies").status_code == 401
    for wrong in ("", "a\u202eb"):
        signed_in.post(reverse("make-token"), {"said": wrong})
    assert not Token.objects.exists()


@pytest.fixture
def _one_connection() -> Iterator[None]:
    """The application is called as a server calls it, but stays in the transaction of the test, as with Django's own client."""
    for signal in (request_started, request_finished):
        signal.disconnect(close_old_connections)
    yield
    for signal in (request_started, request_finished):
        signal.connect(close_old_connections)


schema = schemathesis.openapi.from_wsgi("/api/openapi.json", application)


@schema.parametrize()
@settings(
    max_examples=12, deadline=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
)
def test_it_is_as_it_is_described(
    case: schemathesis.Case, study: Study, token: str, _one_connection: None
) -> None:
    """Asked with whatever fits the description, and what does not, by schemathesis: statuses, types and schemas of the
    answers are those described, and no answer is an error of the server."""
    cache.clear()
    if str(case.path_parameters.get("study", "")).isdigit():
        case.path_parameters["study"] = study.pk
    # What fits the description may make no sense all the same: an input that there is not.
    senseless = CHECKS.get_by_names(["positive_data_acceptance"])
    headers = {"Authorization": f"Bearer {token}", "Host": "testserver"}
    case.call_and_validate(headers=headers, excluded_checks=senseless)


def test_the_calls_of_the_page_work(study: Study, token: str, tmp_path: Path) -> None:
    """The three calls of docs/http.md, as curl would send them."""
    calls = re.findall(r"curl (.+?)\n\n", PAGE.read_text(encoding="utf-8") + "\n\n", re.DOTALL)
    assert len(calls) == 3
    for call in calls:
        (path,) = re.findall(r"https://ovolo\.example\.org(/\S+)", call)
        body = re.findall(r"-d '([^']*)'", call)
        answer = asked(
            token,
            "POST" if body else "GET",
            path.replace("/12", f"/{study.pk}"),
            body[0] if body else None,
        )
        assert answer.status_code == 200, (call, answer.content)
    assert Project.objects.count() == 1
