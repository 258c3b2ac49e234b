"""Starting points: every one is well, also with an input at a limit; what they say against figures from outside; dropped
into another sheet they work beside what is there."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import pytest

from ovolo.exploring.axes import axes_of
from ovolo.exploring.plans import limits_of
from ovolo.exploring.presets import preset_titles, preset_values
from ovolo.exploring.trials import wanted_lines
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.problems import Failure
from ovolo.running.evaluate import Memo, evaluate_only
from ovolo.sheet.spacing import spaced
from ovolo.words.all import WORDS
from ovolo.writing.finding import points_for
from ovolo.writing.starting import StartingPoint, piece_for, starting_point, starting_points
from tests.sheets import DEMO

POINTS = starting_points()
PICTURES = Path(__file__).parents[2] / "studio" / "static" / "starting"
each = pytest.mark.parametrize("point", POINTS, ids=lambda one: one.key)


def well(outcome: Outcome) -> bool:
    return not outcome.problems and not outcome.failed_checks


@each
def test_it_is_well_as_it_is_and_at_its_presets(point: StartingPoint) -> None:
    program = checked_program(point.sheet)
    outcome = outcome_of(point.sheet)
    assert well(outcome) and outcome.parts and len(outcome.checks) >= 2
    assert spaced(point.sheet) == point.sheet
    for title in preset_titles(program):
        assert well(outcome_of(point.sheet, preset_values(program, title))), title


@each
def test_an_input_at_its_limit_makes_no_line_fail(point: StartingPoint) -> None:
    """Checks may fail there, lines may not. Parts are made only where a figure needs them. One input is tried at its least,
    the next at its most."""
    program, memo = checked_program(point.sheet), Memo()
    for at, (name, axis) in enumerate(axes_of(program, {}).items()):
        value = limits_of(axis)[-(at % 2)]
        for one in evaluate_only(program, wanted_lines(program), {name: value}, memo):
            assert not one.problems, (name, value, [str(problem) for problem in one.problems])


@each
def test_it_is_explained_and_pictured(point: StartingPoint) -> None:
    assert len(point.needs) >= 5 and point.said.endswith(".")
    assert sum(bool(one.said) for one in point.passages) >= 1
    assert all(one.lines in point.sheet for one in point.passages)
    drawn = json.loads((PICTURES / "drawn.json").read_text())
    assert drawn[point.key] == point.digest, (
        "its picture is of another sheet: docs/take_pictures.py draws it anew"
    )
    assert (PICTURES / f"{point.key}.png").read_bytes().startswith(b"\x89PNG")


@each
def test_its_needs_find_it(point: StartingPoint) -> None:
    for need in point.needs:
        assert point.key in points_for(need)[:3], need
    assert points_for(point.title)[0] == point.key


@each
def test_it_drops_into_a_sheet_and_into_itself(point: StartingPoint) -> None:
    names = {one.name for one in checked_program(point.sheet).lines if one.name}
    assert not names & set(WORDS), "no line of it hides a word"
    twice = f"{point.sheet}\n{piece_for(point.sheet, point.key)}"
    both = checked_program(twice)
    assert not both.problems and len({one.name for one in both.lines if one.name}) == 2 * len(names)
    host = (DEMO / "02-boardwalk.ovo").read_text()
    assert not checked_program(f"{host}\n{piece_for(host, point.key)}").problems


def test_dropped_in_it_says_the_same_figures() -> None:
    """Under other names, in a sheet of another unit."""
    host = "units in, deg\nbase = 3\nhigh = base * 2\nother = ridge_of(1)\nridge_of(n) = n\npart left = box(1 in, 1 in, 1 in)"
    outcome = outcome_of(f"{host}\n{piece_for(host, 'roof-triangle')}")
    alone = outcome_of(starting_point("roof-triangle").sheet)
    assert well(outcome)
    found = {one.line.name: one.value for one in outcome.lines}
    there = {one.line.name: one.value for one in alone.lines}
    assert (
        found["high"] == 6 and found["high_2"] == there["high"] and found["left_2"] == there["left"]
    )


def test_a_word_that_is_hidden_is_told() -> None:
    with pytest.raises(Failure, match="a line of this sheet is called `tan`"):
        piece_for("tan = 3", "roof-triangle")
    with pytest.raises(Failure, match="there is no starting point"):
        piece_for("", "nothing")


def value(key: str, name: str, **settings: Any) -> float:
    outcome = outcome_of(starting_point(key).sheet, settings)
    return float(next(one.value for one in outcome.lines if one.line.name == name))


def test_figures_from_outside() -> None:
    """A triangle by its base and angles, a fall, a belt wheel, slots in a length: common practice, no source. Chord and
    rise: a half circle. A segment of 60° with r = 1 has the chord 1 and the height 0.13397 (any machinist's handbook,
    from memory). Clearance holes: ISO 273, medium, from memory. Twelve equal steps to the octave: ISO 16."""
    a, b = math.radians(35), math.radians(50)
    assert value("roof-triangle", "high") == pytest.approx(
        3600 * math.tan(a) * math.tan(b) / (math.tan(a) + math.tan(b))
    )
    assert math.degrees(value("constant-fall", "slope", ratio=2 / 12)) == pytest.approx(
        9.462, abs=5e-4
    )
    assert value("toothed-wheel", "pitch_diameter") == pytest.approx(12.732, abs=5e-4)
    assert math.degrees(value("toothed-wheel", "a_tooth")) == pytest.approx(18)
    assert value("toothed-wheel", "tips") == pytest.approx(12.732 / 2 - 0.254, abs=5e-4)
    assert value("opening-with-an-arc", "radius", wide=900.0, rise=450.0) == pytest.approx(450)
    assert value("opening-with-an-arc", "radius", wide=1000.0, rise=133.97) == pytest.approx(
        1000, rel=1e-4
    )
    holes = [value("flange", "hole", size=size) for size in ("M6", "M8", "M10", "M12")]
    assert holes == [6.6, 9, 11, 13.5]
    tones = next(
        one.value
        for one in outcome_of(starting_point("pieces-by-index").sheet).lines
        if one.line.name == "tones"
    )
    assert tones[3] / 2 == pytest.approx(261.63, abs=5e-3) and tones[12] == 880
    assert value("stones-that-fit", "columns", long=1000.0, stone=250.0, joint=0.0) == 4
    assert value("straight-stair", "risers") == math.ceil(2700 / 190)
