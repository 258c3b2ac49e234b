"""The pages and requests of the web application."""

import json
from typing import Any

import pytest
from django.core.management import call_command
from django.test import Client
from django.urls import reverse

from studio.projects.models import Project, Study
from tests.outcome.test_scene import unpacked
from tests.studio.conftest import TEXT

pytestmark = pytest.mark.django_db


def post(client: Client, study: Study, action: str, **body: Any) -> Any:
    address = reverse(action, args=[study.pk])
    return client.post(address, json.dumps(body), content_type="application/json")


def edit(client: Client, study: Study, **body: Any) -> Any:
    study.refresh_from_db()
    return post(client, study, "edit", revision=study.head_id, **body)


def test_a_stranger_is_asked_to_sign_in(client: Client, study: Study) -> None:
    for name in ("workspace", "hand-over"):
        arguments = [study.pk] + (["x.stl"] if name == "hand-over" else [])
        answer = client.get(reverse(name, args=arguments))
        assert answer.status_code == 302 and "/sign-in/" in answer.url


def test_the_studies_of_others_are_not_found(
    client: Client, study: Study, django_user_model: Any
) -> None:
    client.force_login(django_user_model.objects.create_user("other"))
    assert client.get(reverse("workspace", args=[study.pk])).status_code == 404
    for action in ("evaluate", "edit", "undo", "redo"):
        assert post(client, study, action).status_code == 404
    assert client.get(reverse("hand-over", args=[study.pk, "x.stl"])).status_code == 404
    assert f"Picture of {study.title}" not in client.get(reverse("projects")).content.decode()


def test_the_page_holds_the_lines_before_anything_is_run(signed_in: Client, study: Study) -> None:
    page = signed_in.get(reverse("workspace", args=[study.pk]))
    assert page.context["state"]["lines"][1]["body"] == "= w / 2"
    policy = page.headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy and "unsafe" not in policy


def test_markup_in_a_sheet_stays_text(signed_in: Client, study: Study) -> None:
    edit(signed_in, study, edit="insert", after=0, text='a = "</script><b>x</b>"')
    page = signed_in.get(reverse("workspace", args=[study.pk])).content.decode()
    assert "</script><b>" not in page


def test_evaluate_answers_with_a_scene(signed_in: Client, study: Study) -> None:
    answer = post(signed_in, study, "evaluate", set={"w": 500.0, "unknown": 3, "half": 4})
    header, _ = unpacked(answer.content)
    assert header["outcomes"]["2"]["number"] == "250"
    assert header["parts"][0]["bounds"][1] == [250, 125, 10]


@pytest.mark.parametrize(
    "body", [b"{", b"[]", b'{"revision": 99999}', b'{"revision": "x"}', b'{"set": []}', b"\xff"]
)
def test_requests_that_make_no_sense_are_refused(
    signed_in: Client, study: Study, body: bytes
) -> None:
    address = reverse("evaluate", args=[study.pk])
    answer = signed_in.post(address, body, content_type="application/json")
    assert answer.status_code == 400 and answer.json()["message"]


def test_an_input_is_turned_and_the_text_follows(signed_in: Client, study: Study) -> None:
    assert edit(signed_in, study, edit="set", name="w", value=420.0).status_code == 200
    study.refresh_from_db()
    assert study.text.startswith("input w = 420 mm from 100 mm")
    assert study.head is not None and study.head.said == "Width: 300 mm to 420 mm"
    edit(signed_in, study, edit="set", name="w", typed="1 ft")
    study.refresh_from_db()
    assert study.text.startswith("input w = 1 ft from")


@pytest.mark.parametrize(
    ("body", "message"),
    [
        ({"edit": "set", "name": "w", "typed": "3 kg"}, "is a mass"),
        ({"edit": "set", "name": "half", "value": 3}, "`half` is not an input"),
        ({"edit": "set", "name": "w", "value": "x"}, "is no value for `w`"),
        ({"edit": "replace", "line": 77, "text": ""}, "no line of this sheet begins at 77"),
        ({"edit": "delete"}, "cannot be read"),
        ({"edit": "paint"}, "there is no edit called `paint`"),
    ],
)
def test_edits_that_make_no_sense_change_nothing(
    signed_in: Client, study: Study, body: dict[str, Any], message: str
) -> None:
    before = study.text
    answer = edit(signed_in, study, **body)
    assert answer.status_code == 400 and message in answer.json()["message"]
    study.refresh_from_db()
    assert study.text == before


def test_a_line_that_cannot_be_read_is_kept_as_typed(signed_in: Client, study: Study) -> None:
    edit(signed_in, study, edit="replace", line=2, text="half = w / (2")
    study.refresh_from_db()
    assert "half = w / (2\n" in study.text
    header, _ = unpacked(post(signed_in, study, "evaluate").content)
    messages = {problem["line"]: problem["message"] for problem in header["problems"]}
    assert messages[2] == "the bracket `(` is not closed"
    assert "waits for `half`" in messages[3]


def test_an_edit_of_a_line_that_was_changed_meanwhile_is_refused(
    signed_in: Client, study: Study
) -> None:
    old = study.head_id
    edit(signed_in, study, edit="delete", line=2, all_the_same=True)
    answer = post(signed_in, study, "edit", revision=old, edit="replace", line=2, text="half = w")
    assert answer.status_code == 409 and "changed by another window" in answer.json()["message"]
    assert answer.json()["hint"] == "there: half deleted"
    assert answer.json()["clashes"] == [
        {"base": "half = w / 2", "mine": "half = w", "theirs": None}
    ]


def test_a_step_from_an_old_state_is_refused(signed_in: Client, study: Study) -> None:
    old = study.head_id
    edit(signed_in, study, edit="delete", line=2, all_the_same=True)
    answer = post(signed_in, study, "undo", revision=old)
    assert answer.status_code == 409 and answer.json()["clashes"] == []


def test_undo_and_redo(signed_in: Client, study: Study) -> None:
    first = study.head_id
    state = edit(signed_in, study, edit="delete", line=2, all_the_same=True).json()
    assert state["can_undo"] and not state["can_redo"]
    state = post(signed_in, study, "undo", revision=state["revision"]).json()
    assert len(state.pop("shown")) == 64 and state.pop("pictured") is False
    assert state == {
        "title": "Wind vane", "revision": first, "can_undo": False, "can_redo": True, "used": {}, "files": [],
        "undo_said": "", "redo_said": "half deleted", "text": TEXT,
    }  # fmt: skip
    assert post(signed_in, study, "redo", revision=first).json()["can_undo"]


def test_the_study_is_called_as_its_sheet_calls_itself(signed_in: Client, study: Study) -> None:
    Study.objects.create(project=study.project, title="Taken")
    assert (
        edit(signed_in, study, edit="insert", after=0, text='study "Fin"').json()["title"] == "Fin"
    )
    again = edit(signed_in, study, edit="replace", line=1, text='study "Taken"')
    assert again.json()["title"] == "Fin", "another study has that title"


def test_hand_over_gives_a_file_or_says_why_not(signed_in: Client, study: Study) -> None:
    good = signed_in.get(reverse("hand-over", args=[study.pk, "plate.stl"]), {"part": "plate"})
    assert good.status_code == 200 and len(good.content) == 84 + 12 * 50
    assert good.headers["Content-Disposition"] == 'attachment; filename="plate.stl"'
    bad = signed_in.get(reverse("hand-over", args=[study.pk, "x.stl"]), {"part": "plat"})
    assert bad.status_code == 400 and "did you mean `plate`?" in bad.content.decode()


def test_the_demo_can_be_loaded_twice_and_keeps_what_was_changed(capsys: Any) -> None:
    call_command("load_demo")
    study = Study.objects.get(title="Boardwalk")
    study.save_text("a = 1", study.head_id)
    call_command("load_demo")
    assert Project.objects.count() == 1 and Project.objects.get().owner.username == "demo"
    assert Study.objects.get(title="Boardwalk").text == "a = 1"


def limit(client: Client, study: Study, **body: Any) -> Any:
    return edit(client, study, edit="limit", name="w", **body)


def test_limits_and_step_are_typed_in_any_unit_or_as_a_formula(
    signed_in: Client, study: Study
) -> None:
    study.save_text("input w = 400 mm from 100 mm to 900 mm\nt = 1 m", study.head_id)
    assert limit(signed_in, study, role="high", typed="1.2m").status_code == 200
    assert limit(signed_in, study, role="low", typed="= t/20").status_code == 200
    assert limit(signed_in, study, role="step", typed="5").status_code == 200
    study.refresh_from_db()
    assert study.text.startswith("input w = 400 mm from t/20 to 1.2 m step 5 mm\n")
    refused = limit(signed_in, study, role="high", typed="3 kg")
    assert refused.status_code == 400 and "mass" in refused.json()["message"]
    assert limit(signed_in, study, role="high", typed="").status_code == 400
    assert limit(signed_in, study, role="middle", typed="3").status_code == 400


def test_an_input_without_limits_is_given_both(signed_in: Client, study: Study) -> None:
    study.save_text("input w = 400 mm", study.head_id)
    assert limit(signed_in, study, role="low", typed="100", other="900").status_code == 200
    study.refresh_from_db()
    assert study.text == "input w = 400 mm from 100 mm to 900 mm"


def test_an_input_is_kept_internal(signed_in: Client, study: Study) -> None:
    study.save_text("input w = 400 mm", study.head_id)
    edit(signed_in, study, edit="internal", name="w", internal=True)
    study.refresh_from_db()
    assert study.text == "input w = 400 mm internal" and study.head.said == "w: kept internal"


def test_a_list_is_turned_from_the_screen(signed_in: Client, study: Study) -> None:
    study.save_text("input w = [10 mm, 20 mm]\ns = sum(w)", study.head_id)
    answer = post(signed_in, study, "evaluate", set={"w": [15.0, 20.0]})
    header, _ = unpacked(answer.content)
    assert header["outcomes"]["2"]["number"] == "35"
    edit(signed_in, study, edit="set", name="w", value=[15.0, 20.0])
    study.refresh_from_db()
    assert study.text.startswith("input w = [15 mm, 20 mm]")


def test_a_sheet_of_paper_is_handed_over_or_refused(signed_in: Client, study: Study) -> None:
    address = reverse("hand-over-sheet", args=[study.pk, "plate.pdf"])
    good = signed_in.get(address, {"view": "plan", "paper": "A3", "author": "Fathom & Lark"})
    assert good.status_code == 200 and good.content.startswith(b"%PDF")
    for query, said in (
        ({"paper": "B7"}, "there is no paper"),
        ({"scale": "huge"}, "is no scale"),
        ({"view": "above"}, "there is no view"),
        ({"preset": "None such"}, "None such"),
    ):
        bad = signed_in.get(address, query)
        assert bad.status_code == 400 and said in bad.content.decode()


def test_a_drawing_comes_with_the_scene_or_says_why_not(signed_in: Client, study: Study) -> None:
    asked = {"view": "plan", "room": [150, 100], "names": True}
    header, _ = unpacked(post(signed_in, study, "evaluate", drawing=asked).content)
    drawing = header["drawing"]
    assert drawing["view"] == "plan" and drawing["svg"].startswith("<?xml")
    assert drawing["size"][0] <= 150.5 and drawing["size"][1] <= 100.5
    header, _ = unpacked(
        post(signed_in, study, "evaluate", drawing={**asked, "view": "inside"}).content
    )
    assert "there is no view" in header["drawing"]["message"]
    assert post(signed_in, study, "evaluate", drawing={"room": "wide"}).status_code == 400
    assert post(signed_in, study, "evaluate", drawing=[1]).status_code == 400


@pytest.mark.parametrize(
    "pick",
    [
        None, 3, [], {}, {"at": [0, 0]}, {"at": "000"}, {"at": [0, 0, "0"]}, {"at": [True, 0, 0]},
        {"at": [0, 0, 0], "through": 5}, {"at": [0, 0, 0], "through": {"at": [1]}},
        {"at": [0, 0, 0], "typed": 3}, {"at": [0, 0, 0], "typed": [1, None]},
    ],
)  # fmt: skip
def test_corners_that_make_no_sense_are_refused(signed_in: Client, study: Study, pick: Any) -> None:
    asked = {"picks": [{"at": [0, 0, 0]}, pick], "name": "plan", "ending": "open"}
    answer = signed_in.post(reverse("outline", args=[study.pk]), json.dumps(asked), "application/json")  # fmt: skip
    assert answer.status_code == 400 and "cannot be read" in answer.json()["message"]


def test_an_arc_goes_through_a_place_and_not_through_an_arc(
    signed_in: Client, study: Study
) -> None:
    """However deep a request says it: what a place is on the way to is not looked at."""
    deep: dict[str, Any] = {"at": [5, 5, 0]}
    for _ in range(200):
        deep = {"at": [5, 5, 0], "through": deep}
    asked = {"picks": [{"at": [0, 0, 0]}, {"at": [10, 0, 0], "through": deep}], "name": "plan", "ending": "open"}  # fmt: skip
    answer = signed_in.post(reverse("outline", args=[study.pk]), json.dumps(asked), "application/json")  # fmt: skip
    assert answer.status_code == 200
    assert answer.json()["lines"][0].count("arc_through") == 1
