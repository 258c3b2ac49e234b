"""What a window is told of a study and of what lies around it, by each address, is as it is declared."""

from __future__ import annotations

from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from ovolo.calling.trying import TriedSaid
from studio.engine import answers
from studio.learning.models import Progress
from studio.projects.models import Study
from tests.studio.declared import misfits


def sent(
    client: Client, address: str, body: dict[str, Any] | None = None, status: int = 200
) -> Any:
    """What an address answers, asked, or sent something."""
    reply = client.get(address) if body is None else client.post(address, body, "application/json")
    assert reply.status_code == status, reply.content
    return reply.json()


def insert(study: Study, text: str, revision: int | None = None) -> dict[str, Any]:
    """An edit below the last line; of an older revision where one is named."""
    last = study.text.count("\n")
    return {"edit": "insert", "after": last, "text": text, "revision": revision or study.head_id}


@pytest.fixture
def other(study: Study) -> Study:
    """A study beside it that uses it."""
    made = Study.objects.create(project=study.project, title="Roof")
    made.save_text(f'study "Roof"\nuse vane from "{study.title}"\nhigh = 3 m\n', None, "first")
    return made


def test_where_it_stands_and_its_moments(signed_in: Client, study: Study) -> None:
    home = f"/studies/{study.pk}/"
    first = study.head_id
    assert misfits(sent(signed_in, f"{home}state"), answers.StateSaid) == []
    changed = sent(signed_in, f"{home}edit", insert(study, "more = 1 mm"))
    assert changed["can_undo"] and misfits(changed, answers.StateSaid) == []
    moments = sent(signed_in, f"{home}history")
    assert len(moments["moments"]) == 2 and misfits(moments, answers.MomentsSaid) == []
    needed = {"edit": "delete", "line": 1, "revision": changed["revision"]}
    half = {"edit": "replace", "line": 2, "revision": first}
    refused = sent(signed_in, f"{home}edit", needed, 400)
    assert refused["needed"] and misfits(refused, answers.NotDoneSaid) == []
    sent(signed_in, f"{home}edit", half | {"text": "half = w / 3"})
    clash = sent(signed_in, f"{home}edit", half | {"text": "half = w / 4"}, 409)
    assert clash["clashes"] and misfits(clash, answers.NotDoneSaid) == []
    copied = sent(
        signed_in, f"{home}edit-copy", insert(study, "own = 2 mm", first) | {"mine": first}
    )
    assert misfits(copied, answers.StudyTitleSaid) == []


def test_who_is_there_and_what_was_said(signed_in: Client, study: Study, other: Study) -> None:
    home = f"/studies/{study.pk}/"
    for window in ("one", "two"):
        news = sent(signed_in, f"{home}news", {"window": window, "line": 2})
    assert news["people"] and misfits(news, answers.NewsSaid) == []
    made = {"said": "higher?", "line": 2, "revision": study.head_id}
    first = sent(signed_in, f"{home}remarks/make", made)["remarks"][0]["remark"]
    said = sent(signed_in, f"{home}remarks/make", {"said": "no", "answers": first})
    assert said["remarks"][0]["answers"] and misfits(said, answers.RemarksSaid) == []
    beside = sent(signed_in, f"{home}beside")
    assert beside["users"] and beside["others"] and misfits(beside, answers.BesideSaid) == []
    comparable = sent(signed_in, f"{home}variations/beside")
    assert misfits(comparable, answers.StudiesSaid) == []


def test_its_files_and_contact_sheets(signed_in: Client, study: Study) -> None:
    home = f"/studies/{study.pk}/"
    table = SimpleUploadedFile("sizes.csv", b"size,hole [mm]\nM6,6.6\n")
    state = signed_in.post(f"{home}files/", {"file": table}).json()
    assert state["files"] and misfits(state, answers.StateSaid) == []
    seen = sent(signed_in, f"{home}files/sizes.csv?see")
    assert seen["rows"] and misfits(seen, answers.FileSeenSaid) == []
    kept = {"title": "At the limits", "plan": {"kind": "limits"}, "set": {}, "shown": {}}
    sheets = sent(signed_in, f"{home}variations/keep", kept)
    assert sheets["sheets"] and misfits(sheets, answers.ContactSheetsSaid) == []


def test_machines(signed_in: Client) -> None:
    profiles = sent(signed_in, "/benches/cutter/profile?title=Laser for sheets, 1220 × 610")
    assert misfits(profiles, answers.ProfileSaid) == []
    text = profiles["text"].replace('title = "Laser for sheets, 1220 × 610"', 'title = "Our laser"')
    kept = sent(signed_in, "/benches/cutter/keep", {"text": text})
    assert kept["title"] == "Our laser" and misfits(kept, answers.ProfilesSaid) == []
    left = sent(signed_in, "/benches/cutter/forget", {"title": "Our laser"})
    assert misfits(left, answers.ProfilesSaid) == []


def test_learning_and_looking_up(signed_in: Client, study: Study) -> None:
    person = study.project.owner
    Progress.objects.create(person=person, exercise="triangle", study=study)
    guide = sent(signed_in, f"/studies/{study.pk}/exercise", {})
    assert guide["steps"] and misfits(guide, answers.GuideSaid) == []
    found = sent(signed_in, "/reference/find?find=round up")
    assert found["found"] and misfits(found, answers.FoundSaid) == []
    tried = sent(
        signed_in,
        "/reference/try",
        {"text": "a = 3 mm\npart b = box(a, a, a)\ncheck a > 4 mm\nc = b +"},
    )
    assert (
        tried["values"]
        and tried["problems"]
        and tried["picture"]
        and misfits(tried, TriedSaid) == []
    )
    sun = sent(signed_in, "/sun?latitude=52&day=172&hour=12")
    assert misfits(sun, answers.SunSaid) == []
