"""Studies beside a study: who uses it, and swapping one for another."""

from __future__ import annotations

from typing import Any

import pytest
from django.test import Client
from django.urls import reverse

from studio.projects.models import Study
from studio.workspace import beside
from tests.studio.test_views import edit, post

pytestmark = pytest.mark.django_db

TURNED = 'study "Turned"\ninput height = 900 mm\ninput waist = 20 mm\nrise = height / 3\npart body = cylinder(waist, height)'
SQUARE = (
    'study "Square"\ninput height = 900 mm\ninput side = 30 mm\npart post = box(side, side, height)'
)
STAIR = 'study "Stair"\nuse b from "Turned"  # the usual one\npart p = row(b(height = 800 mm).body, 4, 110 mm)\nz = b(waist = 10 mm)\nq = z.rise'


def made(study: Study, text: str, title: str) -> Study:
    one = Study.objects.create(project=study.project, title=title)
    one.save_text(text, None, "first")
    return one


@pytest.fixture
def stair(study: Study) -> Study:
    made(study, TURNED, "Turned")
    made(study, SQUARE, "Square")
    return made(study, STAIR, "Stair")


def turned(study: Study) -> Study:
    return study.project.studies.get(title="Turned")


def test_a_study_is_worked_out_with_those_it_uses(signed_in: Client, stair: Study) -> None:
    answer = post(signed_in, stair, "evaluate")
    assert answer.status_code == 200 and b"no study" not in answer.content
    assert b'"count": 4' in answer.content


def test_others_and_users_are_listed(signed_in: Client, stair: Study) -> None:
    found = signed_in.get(reverse("beside", args=[turned(stair).pk])).json()
    assert {"study", "title", "inputs"} == set(found["others"][0])
    assert [one["inputs"] for one in found["others"] if one["title"] == "Square"] == [["height", "side"]]  # fmt: skip
    (user,) = found["users"]
    assert (user["title"], user["line"], user["inputs"]) == ("Stair", 2, ["height", "waist"])
    assert user["read"] == ["body", "rise"]


def test_swaps_say_what_is_missing_and_extra(signed_in: Client, stair: Study) -> None:
    found: dict[str, Any] = {
        one["title"]: one
        for one in signed_in.get(reverse("swaps", args=[stair.pk, "b"])).json()["swaps"]
    }
    square = found["Square"]
    assert not square["fits"]
    assert square["missing"] == ["waist"] and square["extra"] == ["side"]
    assert square["unread"] == ["body", "rise"]
    assert signed_in.get(reverse("swaps", args=[stair.pk, "nothing"])).status_code == 400


def test_studies_with_many_files_are_looked_at_some_at_a_time(
    signed_in: Client, stair: Study, monkeypatch: pytest.MonkeyPatch
) -> None:
    for at in range(4):
        one = made(stair, TURNED.replace("Turned", f"Other {3 - at}") + '\nfile t = "t.csv"', f"Other {3 - at}")  # fmt: skip
        one.attachments.create(name="t.csv", data=b"a\n1\n" * 30)
    address = reverse("swaps", args=[stair.pk, "b"])
    together = signed_in.get(address).json()
    sizes: list[int] = []

    def told(*given: Any, **named: Any) -> Any:
        sizes.append(len(given[5]))
        return worked(*given, **named)

    worked = beside.worked
    monkeypatch.setattr(beside, "worked", told)
    monkeypatch.setattr(beside, "_MOST_AT_ONCE", 200)
    assert signed_in.get(address).json() == together
    assert sizes == [2, 2, 3], "of those with files two at a time"
    assert [one["title"] for one in together["swaps"]][:4] == [f"Other {at}" for at in range(4)]


def test_swapping_rewrites_the_use(signed_in: Client, stair: Study) -> None:
    slim = TURNED.replace('"Turned"', '"Slim \\"one\\""').replace("20 mm", "8 mm")
    made(stair, slim, 'Slim "one"')
    found = signed_in.get(reverse("swaps", args=[stair.pk, "b"])).json()["swaps"]
    assert found[0]["title"] == 'Slim "one"' and found[0]["fits"]
    assert edit(signed_in, stair, edit="swap", name="b", title='Slim "one"').status_code == 200
    stair.refresh_from_db()
    assert 'use b from "Slim \\"one\\""  # the usual one' in stair.text
    assert b"no study" not in post(signed_in, stair, "evaluate").content


def test_deleting_an_input_says_who_uses_it(signed_in: Client, stair: Study) -> None:
    change = {"edit": "delete", "line": 2}
    answer = edit(signed_in, turned(stair), **change)
    assert answer.status_code == 400 and answer.json()["needed"]
    assert "1 study uses `height` of this one: “Stair” (line 2)" in answer.json()["message"]
    assert "lines need" in answer.json()["message"]
    assert edit(signed_in, turned(stair), **change, all_the_same=True).status_code == 200


def test_a_renamed_name_is_followed_by_those_who_set_or_read_it(
    signed_in: Client, stair: Study
) -> None:
    before = stair.text
    assert "height = " in before and ".rise" in before
    for name, new in (("height", "tall"), ("rise", "step_up")):
        answer = edit(signed_in, turned(stair), edit="rename", name=name, new=new)
        assert answer.status_code == 200, answer.json()
    stair.refresh_from_db()
    assert "tall = " in stair.text and ".step_up" in stair.text
    assert stair.text == before.replace("height = ", "tall = ").replace(".rise", ".step_up")
    assert stair.head is not None and "“Turned” renamed rise to step_up" in stair.head.said
    problems = post(signed_in, stair, "evaluate").content
    assert b"has no input" not in problems and b"has no `." not in problems


def test_what_nobody_else_uses_is_renamed_at_once(signed_in: Client, stair: Study) -> None:
    square = stair.project.studies.get(title="Square")
    assert edit(signed_in, square, edit="rename", name="side", new="wide").status_code == 200


def test_a_new_title_is_followed_by_those_who_use_it(signed_in: Client, stair: Study) -> None:
    edit(signed_in, turned(stair), edit="replace", line=1, text='study "Turned, new"')
    stair.refresh_from_db()
    assert 'use b from "Turned, new"  # the usual one' in stair.text
    assert stair.head is not None and "is now called" in stair.head.said


def test_the_state_tells_of_changes_in_what_is_used(signed_in: Client, stair: Study) -> None:
    made(stair, 'study "House"\nuse s from "Stair"\nz = s().q', "House")
    house = stair.project.studies.get(title="House")

    def used() -> dict[str, int]:
        found: dict[str, int] = signed_in.get(reverse("state", args=[house.pk])).json()["used"]
        return found

    before = used()
    assert list(before) == ["Stair", "Turned"]
    edit(signed_in, turned(stair), edit="set", name="waist", value=25.0)
    assert used()["Turned"] != before["Turned"] and used()["Stair"] == before["Stair"]


def test_removing_a_study_says_who_uses_it(signed_in: Client, stair: Study) -> None:
    page = signed_in.get(reverse("projects")).content.decode()
    assert page.count("is used by “Stair”") == 1


def test_a_starting_point_brings_the_studies_it_uses(signed_in: Client, study: Study) -> None:
    address = reverse("new-study", args=[study.project.pk])
    for _ in range(2):
        assert signed_in.post(address, {"start": "Telescope pier"}).status_code == 302
    titles = sorted(study.project.studies.values_list("title", flat=True))
    assert titles == ["Bearing cage", "Telescope pier", "Telescope pier 2", "Wind vane"]


def test_inputs_set_by_their_place_and_checks_that_are_read_count(
    signed_in: Client, stair: Study
) -> None:
    text = 'study "Rack"\nuse b from "Turned"\nz = b(700 mm)\nok = z.checks_pass\npart p = z.body'
    rack = made(stair, text, "Rack")
    users = signed_in.get(reverse("beside", args=[turned(stair).pk])).json()["users"]
    assert [one["inputs"] for one in users if one["title"] == "Rack"] == [["height"]]
    answer = edit(signed_in, turned(stair), edit="delete", line=2)
    assert "2 studies use `height`" in answer.json()["message"]
    same = TURNED.replace('"Turned"', '"Slim"')
    made(stair, same, "Slim")
    found = signed_in.get(reverse("swaps", args=[rack.pk, "b"])).json()["swaps"]
    assert [one["title"] for one in found if one["fits"]] == ["Slim"]
