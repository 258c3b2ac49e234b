"""The exercises look at results: done in more than one way, not done by what only looks like it."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from ovolo.exercises.exercise import Exercise
from ovolo.exercises.facts import Facts
from ovolo.exercises.first_hour import FIRST_HOUR, exercise
from ovolo.formats.attached import Sheet, read_files
from ovolo.meaning.attachments import study_key
from ovolo.problems import Failure

TRIANGLE = [
    'input base = 2 m from 1 m to 4 m step 50 mm "Base"',
    'input pitch = 35° from 10° to 60° step 1° "Pitch"',
    'high = base / 2 * tan(pitch) "Height"',
    'part gable = region([(0 mm, 0 mm), (base, 0 mm), (base / 2, high)]).on("front")',
    'check high <= 1.5 m "it stays below the window"',
]
DONE = {
    "triangle": TRIANGLE,
    "count": ["bays = ceil(long / largest)", "bay = long / bays", "check bay <= largest"],
    "array": [
        "part stair = [box(going, 1 m, rise).move(x = i * going) for i in 0 .. 3]",
        "part stair = [box(going, 1 m, rise).move(x = i * going, z = i * rise) for i in 0 .. 3]",
        "part stair = [box(going, 1 m, rise).move(x = i * going, z = i * rise) for i in 0 .. steps - 1]",
    ],
    "outline": [
        "outline = start((0 mm, 0 mm)).to((long, 0 mm)).to((long, high)).to((0 mm, high)).close()",
        "outline = start((0 mm, 0 mm)).to((long, 0 mm)).to((long, high)).tangent_to((0 mm, high)).close()",
        "input thick = 18 mm from 6 mm to 40 mm step 1 mm\npart bracket = extrude(region(outline), thick)",
    ],
    "use": [
        'use gable from "Porch"',
        "part porch = gable()",
        "part porch = gable(base = 3 m)",
        "part porch = [gable(base = 3 m).move(y = i * 1.2 m) for i in 0 .. 2]",
    ],
}  # fmt: skip
"""What a person adds for each step; a line whose name is there already takes its place."""


def facts_of(one: Exercise, lines: list[str], **kept: int) -> Facts:
    used = "\n".join(['study "Porch"', *TRIANGLE])
    tables = read_files({study_key("Porch"): Sheet("Porch", used, {})})
    return Facts(one.sheet(used="Porch") + "\n" + "\n".join(lines), tables, kept=kept)


def steps_done(one: Exercise, lines: list[str], **kept: int) -> list[bool]:
    seen = one.seen(facts_of(one, lines, **kept))
    assert not seen["problems"], seen["problems"]
    return [not step["missing"] for step in seen["steps"]]


@pytest.mark.parametrize("key", DONE)
def test_each_step_is_done_by_what_its_hint_says_and_not_before(key: str) -> None:
    one, added = exercise(key), DONE[key]
    there: dict[str, str] = {}
    assert not any(steps_done(one, [])), "nothing is done at the beginning"
    for at, line in enumerate(added):
        there[line.partition("=")[0].partition("(")[0]] = line
        done = steps_done(one, list(there.values()))
        assert done[: at + 1] == [True] * (at + 1), (line, done)
        assert not all(done[at + 1 :]) or at + 1 == len(done), "no step is done before its line"
    assert one.seen(facts_of(one, list(there.values())))["done"]


HALF = {*DONE["array"], DONE["outline"][1]}
"""What a hint says in words, or in a piece of a line."""


def test_what_each_step_is_done_with_stands_in_its_hint() -> None:
    for key, added in DONE.items():
        hints = " ".join(step.hint for step in exercise(key).steps).replace("{used}", "Porch")
        for line in "\n".join(one for one in added if one not in HALF).split("\n"):
            assert line in hints, line


def test_a_hint_names_only_buttons_that_there_are() -> None:
    root = Path(__file__).parents[2]
    screens = "".join(
        one.read_text()
        for folder in ("studio/templates", "frontend", "ovolo/sheet")
        for one in (root / folder).rglob("*.*")
        if one.suffix in (".html", ".js", ".py")
    )
    for one in FIRST_HOUR:
        for step in one.steps:
            for name in re.findall("“([^”]+)”", step.said + step.hint):
                assert name in screens or name.lower() in screens, name


def test_other_names_and_other_ways_are_as_good() -> None:
    one = exercise("triangle")
    other = [
        "input w = 3000 mm from 500 mm to 5 m",
        "input a = 0.5 rad from 0.1 rad to 1 rad",
        "half = w / 2",
        "how_high = half * sin(a) / cos(a)",
        "part roof = extrude(region([(-half, 0 mm), (half, 0 mm), (0 mm, how_high)]), 20 mm)",
        "check 1.2 m > how_high",
    ]
    assert all(steps_done(one, other))
    assert all(steps_done(exercise("count"), ["n = floor(long / largest) + (if mod(long, largest) == 0 mm then 0 else 1)", "b = long / n", "check largest >= b"]))  # fmt: skip


@pytest.mark.parametrize(
    ("key", "lines", "step"),
    [
        ("triangle", [*TRIANGLE[:2], "high = 700.2075382097 mm"], 2),  # the figure alone, which does not follow
        ("triangle", [*TRIANGLE[:2], "high = base * tan(pitch)"], 2),
        ("triangle", [*TRIANGLE[:3], "part gable = region([(0 mm, 0 mm), (base, 0 mm), (base / 2, 2 * high)])"], 3),
        ("triangle", [*TRIANGLE[:4], "check high > 0 mm"], 4),  # never fails
        ("triangle", [*TRIANGLE[:4], "check high <= 0.1 m"], 4),  # fails as it stands
        ("triangle", [*TRIANGLE[:3], "part gable = rect(base, high)"], 3),  # of that frame, and no triangle
        ("triangle", [*TRIANGLE[:3], "part gable = region([(0 mm, 0 mm), (2 m, 0 mm), (1 m, 700.2075382097 mm)])"], 3),  # does not follow
        ("count", ["bays = ceil(long / largest)", "bay = long / bays", "check long > 0 mm"], 2),  # of something else
        ("count", ["bays = round(long / largest)"], 0),
        ("count", ["bays = floor(long / largest) + 1"], 0),  # one too many where it fits exactly
        ("count", ["bays = ceil(long / largest)", "bay = largest"], 1),
        ("array", ["part stair = [box(going, 1 m, rise).move(z = i^2 * rise) for i in 0 .. steps - 1]"], 1),
        ("array", ["part stair = [box(going, 1 m, rise).move(z = i * rise) for i in 0 .. steps]"], 2),
        ("outline", ["c = join([line((0 mm, 0 mm), (long, 0 mm)), arc_rise((long, 0 mm), (0 mm, 0 mm), 50 mm)])"], 1),  # no smooth corner
        ("outline", ["part b = box(long, high, 5 mm)"], 2),
    ],
)  # fmt: skip
def test_what_only_looks_like_it_is_not_done(key: str, lines: list[str], step: int) -> None:
    assert not steps_done(exercise(key), lines)[step]


def test_what_is_done_beside_the_sheet_counts() -> None:
    one, lines = exercise("vary"), ['preset "A": high = 20 mm', 'preset "B": high = 30 mm']
    assert steps_done(one, lines) == [True, False, False]
    assert steps_done(one, lines, contact_sheets=1, hand_overs=2) == [True, True, True]


def test_a_sheet_with_a_problem_is_not_done() -> None:
    seen = exercise("triangle").seen(facts_of(exercise("triangle"), [*TRIANGLE, "x = nothing + 1"]))
    assert not seen["done"] and "nothing" in seen["problems"][0]
    seen = exercise("triangle").seen(Facts("input x = ((("))
    assert not seen["done"] and all(step["missing"] for step in seen["steps"])


def test_an_exercise_that_there_is_not() -> None:
    assert len({one.key for one in FIRST_HOUR}) == 6
    with pytest.raises(Failure, match="there is no exercise") as refused:
        exercise("triangel")
    assert refused.value.hint == "did you mean `triangle`?"
