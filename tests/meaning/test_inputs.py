"""Inputs: choices out of a table, lists of points, whole steps."""

from __future__ import annotations

import numpy as np
import pytest

from ovolo.exploring.moves import moves_of
from ovolo.exploring.settings import given_settings, read_setting
from ovolo.formats.attached import read_files
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import choices_of
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import edits
from tests.sheets import run

BOLTS = read_files({"bolts.csv": b"size,hole [mm]\nM6,6.6\nM8,9\nM6,6.6\n"})
CHOOSING = (
    'file bolts = "bolts.csv"\ninput size = "M8" of bolts.size\ninput hole = 9 mm of bolts.hole'
)


def test_choices_are_the_cells_of_a_column() -> None:
    program = checked_program(CHOOSING, BOLTS)
    size, hole = program.inputs
    assert choices_of(size) == ["M6", "M8"] and choices_of(hole) == [6.6, 9.0]
    assert read_setting(program, "size", "M6") == "M6"
    with pytest.raises(Failure, match="not among the choices"):
        read_setting(program, "size", "M7")
    assert not outcome_of(CHOOSING, tables=BOLTS).problems


def test_another_table_offers_other_choices() -> None:
    outcome_of(CHOOSING, tables=BOLTS)
    other = read_files({"bolts.csv": b"size,hole [mm]\nM10,11\n"})
    problems = outcome_of(CHOOSING, tables=other).problems
    assert [one.hint for one in problems] == ['one of "M10"', "one of 11 mm"]


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("input a = 3 of bolts.hole", "every choice must be a number; this is a length"),
        ("input a = 3 of bolts.bore", "has no `.bore`"),
        ("input a = 3 of bolts.hole[0]", "an input's value is written out"),
    ],
)
def test_columns_that_do_not_fit(line: str, message: str) -> None:
    (problem,) = outcome_of(f'file bolts = "bolts.csv"\n{line}', tables=BOLTS).problems
    assert message in problem.message


POINTS = "input ps = [(0 mm, 0 mm), (10 mm, 5 mm)] from -20 mm to 20 mm step 1 mm\nc = polyline(ps)"


def test_a_list_of_points_is_turned_figure_by_figure() -> None:
    program = checked_program(POINTS)
    given = given_settings(program, {"ps": [1, 2, 3, 4]})["ps"]
    np.testing.assert_array_equal(given, [[1, 2, 0], [3, 4, 0]])
    assert given_settings(program, {"ps": [1, 2, 3]}) == {}
    new = edits.setting_text(POINTS, "ps", [1.0, 2.0, 30.0, -4.5], LENGTH, DisplayUnits())
    assert new.startswith("input ps = [(1 mm, 2 mm), (30 mm, -4.5 mm)] from -20 mm")
    assert "30 mm is above the upper limit 20 mm" in outcome_of(new).problems[0].message
    assert edits.with_figure(POINTS, "ps", 3, "7 mm").startswith(
        "input ps = [(0 mm, 0 mm), (10 mm, 7 mm)]"
    )
    assert edits.figure_written(POINTS, "ps", 2) == "10 mm"


def test_what_a_list_of_points_moves_stays_in_plan() -> None:
    program = checked_program(f"{POINTS}\nhigh = max([p.z for p in ps])\nwide = ps[1].x")
    assert [one.name for one in moves_of(program, {}, "ps")] == ["c", "wide"]


@pytest.mark.parametrize(
    ("line", "wrong"),
    [
        ("input n = 2.5 from 1 to 9 step 1", True), ("input n = 2.5 step 1", True),
        ("input n = [1, 2.5] from 0 to 9 step 1", True), ("input n = 3 from 1 to 9 step 1", False),
        ("input n = 2.5 from 1 to 9 step 0.5", False), ("input n = 2.5 from 0.5 to 9 step 1", False),
        ("input n = 2.5 from 1 to 9", False), ("input n = 2.5 mm from 1 mm to 9 mm step 1 mm", False),
        ("input n = 250 % from 0 % to 300 % step 100 %", False),
    ],
)  # fmt: skip
def test_an_input_in_whole_steps_counts(line: str, wrong: bool) -> None:
    problems = run(line, "m = n").problems
    assert bool(problems) == wrong
    if wrong:
        assert "2.5 is not a whole number" in problems[0].message and problems[0].hint == "2 or 3"


def test_ranges_and_skips_are_whole() -> None:
    for line in ("a = [i for i in 0 .. 1.5]", "a = [i for i in 0 .. 2 for j in 0 .. i / 2]"):
        assert any("misses its end" in one.message for one in run(line).problems)
    assert not run("a = [i for i in 0.5 .. 2.5]", "b = 0 .. 1 by 0.3", "c = 3 .. 1").problems
    assert (
        "whole number"
        in run("part p = row(box(1 mm, 1 mm, 1 mm), 3, 2 mm, skip = [0.5])").problems[0].message
    )


def test_lines_are_numbered_as_they_stand_now() -> None:
    """Also where a line above moved those that are remembered."""
    lines = ("f(x) = 1 / x + y_missing", "g(x) = 1 mm + x", "a = g(2)", "b = a")
    for above in ((), ("# a line", "z1 = 3"), ("# one",)):
        problems = {one.name: one.message for one in run(*above, *lines).problems}
        at = len(above)
        assert (
            problems["a"].startswith(f"in `g` (line {at + 2})")
            and f"(line {at + 3})" in problems["b"]
        )
