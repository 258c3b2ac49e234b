"""A solid or a region of size 0, wherever one may stand: its line has a value or says in words why not, and is drawn as nothing."""

from __future__ import annotations

import re

import pytest

from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.outcome.scene import scene_of
from tests.laws.arguments import THINGS, calls
from tests.sheets import problem, value

EMPTY = {"s": "box(0 mm, 5 mm, 5 mm)", "r": "rect(0 mm, 5 mm)"}
NAMES = re.compile(r"\b[sr][01]\b")
CASES = [(one.formula, name) for one in calls() for name in sorted({*NAMES.findall(one.formula)})]


def foreseen(text: str) -> Outcome:
    outcome = outcome_of(text)
    scene_of(outcome)
    assert [one.message for one in outcome.problems if "foreseen" in one.message] == []
    return outcome


@pytest.mark.parametrize(("formula", "name"), CASES)
def test_a_word_takes_what_is_empty_or_says_why_not(formula: str, name: str) -> None:
    things = [one for one in THINGS if not one.startswith(f"{name} =")]
    said = ["g(x) = x", "h(v) = v", *things, f"{name} = {EMPTY[name[0]]}", f"a = {formula}"]
    foreseen("\n".join([*said, "part p = a"]))


@pytest.mark.parametrize(
    "empty",
    ["disc(0 mm)", "slot(9 mm, 0 mm)", "sector(0 mm, 0 mm, 0°, 90°)", 'text("", 9 mm)', "disc(0 mm) - rect(2 mm, 2 mm)", "extrude(disc(0 mm), 3 mm)", "row(disc(0 mm), 3, 5 mm)", "[rect(0 mm, 1 mm)]"],
)  # fmt: skip
def test_what_is_empty_is_drawn_as_nothing(empty: str) -> None:
    found = foreseen(f"a = {empty}\npart p = a\npart q = box(1 mm, 1 mm, 1 mm)")
    assert found.parts["p"].drawn_bounds is None and found.parts["q"].drawn_bounds is not None


def test_what_stands_beside_it_is_drawn() -> None:
    found = foreseen("part p = [disc(0 mm), disc(2 mm)]\npart q = disc(2 mm)")
    assert found.parts["p"].drawn_bounds == found.parts["q"].drawn_bounds


def test_measures_of_what_is_empty() -> None:
    assert value("volume(box(0 mm, 1 mm, 1 mm))") == 0
    assert value("clash(box(0 mm, 1 mm, 1 mm), sphere(9 mm))") == 0
    assert value("inside((0 mm, 0 mm, 0 mm), box(0 mm, 1 mm, 1 mm))") is False
    assert value("inside((0 mm, 0 mm), rect(0 mm, 1 mm))") is False
    for line in (
        "a = clearance(box(0 mm, 1 mm, 1 mm), sphere(9 mm))",
        "a = thickness(box(0 mm, 1 mm, 1 mm), (0 mm, 0 mm, -9 mm), z)",
        "a = centroid(rect(0 mm, 1 mm))",
        "a = extrude(disc(2 mm), up_to = box(0 mm, 9 mm, 9 mm).move(z = 9 mm))",
    ):
        assert "is empty: width is 0 mm" in problem(line).message
