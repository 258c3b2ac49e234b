"""Plans: which settings they have, how evenly they lie, and what is refused."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import qmc

from ovolo.exploring.axes import axes_of
from ovolo.exploring.plans import Asked, Plan, covering, limits_of, planned
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program
from ovolo.problems import Failure
from tests.sheets import demo

SHELF = """
input width = 900 mm from 300 mm to 1200 mm step 50 mm "Width"
input lean = 3° from 0° to 10°
input wood = "oak" of "oak", "ash", "pine"
input back = yes
input places = 4 from 2 to 9 step 1
inner = width - 40 mm
preset "Low": width = 400 mm, wood = "ash"
preset "High": width = 1200 mm
"""


def shelf(more: str = "") -> Program:
    return checked_program(SHELF + more)


def plan(program: Program | None = None, **asked: Any) -> Plan:
    return planned(program or shelf(), Asked(**asked))


def column(found: Plan, name: str) -> list[Any]:
    return [one.values[name] for one in found.settings]


def test_a_roll_keeps_to_limits_steps_and_choices() -> None:
    found = plan(number=200)
    assert len(found.settings) == 200
    for width in column(found, "width"):
        assert 300 <= width <= 1200 and (width - 300) % 50 == 0
    assert set(column(found, "places")) == {2, 3, 4, 5, 6, 7, 8, 9}
    assert set(column(found, "wood")) == {"oak", "ash", "pine"}
    assert set(column(found, "back")) == {True, False}
    lean = column(found, "lean")
    assert 0 <= min(lean) < math.radians(0.2) and math.radians(9.8) < max(lean) <= math.radians(10)


def test_every_choice_and_step_comes_about_as_often() -> None:
    found = plan(number=256)
    counts = [column(found, "places").count(n) for n in range(2, 10)]
    assert max(counts) - min(counts) <= 2


@pytest.mark.parametrize("roll", [1, 7, 2026])
def test_a_roll_is_spread_more_evenly_than_chance(roll: int) -> None:
    """By the centred discrepancy of SciPy (Hickernell, A generalized discrepancy, 1998)."""
    text = "\n".join(f"input a{n} = 0.5 from 0 to 1" for n in range(4))
    found = planned(checked_program(text), Asked(number=100, roll=roll))
    shares = np.array([[one.values[f"a{n}"] for n in range(4)] for one in found.settings])
    chance = [qmc.discrepancy(np.random.default_rng(k).random((100, 4))) for k in range(20)]
    assert qmc.discrepancy(shares) < 0.5 * min(chance)


def test_the_same_roll_number_gives_the_same_settings_and_another_others() -> None:
    one, again, other = plan(number=30, roll=5), plan(number=30, roll=5), plan(number=30, roll=6)
    assert one.settings == again.settings != other.settings
    longer = plan(number=50, roll=5)
    shorter = list(plan(number=33, roll=5).settings)
    assert list(longer.settings[:33]) == shorter, "more trials go on where fewer end"


def test_what_is_held_stays_and_a_range_is_narrowed() -> None:
    found = plan(number=60, hold=frozenset({"wood", "lean"}), ranges={"width": (620, 790)})
    assert not any({"wood", "lean"} & set(one.values) for one in found.settings)
    assert set(column(found, "width")) == {650, 700, 750}
    assert [axis.name for axis in found.axes] == ["width", "back", "places"]


def test_a_series_goes_from_end_to_end() -> None:
    assert column(plan(kind="series", inputs=("width",), counts=(4,)), "width") == [300, 600, 900, 1200]  # fmt: skip
    lean = column(plan(kind="series", inputs=("lean",), counts=(3,)), "lean")
    assert lean == pytest.approx([0, math.radians(5), math.radians(10)])
    few = plan(kind="series", inputs=("places",), counts=(40,))
    assert column(few, "places") == [2, 3, 4, 5, 6, 7, 8, 9], "no more than it has"


def test_a_field_has_each_pair_once() -> None:
    found = plan(kind="field", inputs=("width", "wood"), counts=(4, 3))
    pairs = list(zip(column(found, "width"), column(found, "wood"), strict=True))
    assert sorted(pairs) == sorted(itertools.product([300, 600, 900, 1200], ["oak", "ash", "pine"]))


def test_presets_are_tried_with_what_they_leave_as_it_stands() -> None:
    found = plan(kind="presets")
    assert [one.title for one in found.settings] == ["Low", "High"]
    assert column(found, "width") == [400, 1200]
    held = plan(kind="presets", hold=frozenset({"width"}))
    assert all("width" not in one.values for one in held.settings)


def test_limits_are_tried_singly_and_in_all_pairs() -> None:
    """Every pair of levels of every two inputs stands in some setting: looked for pair by pair."""
    program = shelf()
    axes = axes_of(program, {})
    levels = {name: limits_of(axis) for name, axis in axes.items()}
    assert levels["width"] == [300, 350, 1150, 1200] and levels["places"] == [2, 3, 8, 9]
    found = plan(program, kind="limits")
    assert found.settings[0].values == {}, "first as it stands"
    tried = [{**{n: a.present for n, a in axes.items()}, **one.values} for one in found.settings]
    for one, other in itertools.combinations(levels, 2):
        there = {(row[one], row[other]) for row in tried}
        assert set(itertools.product(levels[one], levels[other])) <= there
    for name, values in levels.items():
        assert set(values) <= {one.values.get(name) for one in found.settings if len(one.values) == 1}  # fmt: skip


@given(st.lists(st.integers(2, 5), min_size=2, max_size=6))
def test_a_covering_array_covers(counts: list[int]) -> None:
    rows = covering(tuple(counts))
    for one, other in itertools.combinations(range(len(counts)), 2):
        assert {(row[one], row[other]) for row in rows} == set(
            itertools.product(range(counts[one]), range(counts[other]))
        )


ROWS = "width [mm];wood\n500;oak\n12 kg;ash\n;pine\n700;beech\n800\n"


def test_rows_are_read_and_refused_cell_by_cell() -> None:
    found = plan(kind="rows", rows=ROWS)
    assert [one.title for one in found.settings] == [f"row {n}" for n in (2, 3, 4, 5, 6)]
    assert found.settings[0].values == {"width": 500, "wood": "oak"}
    refused = [one.refused for one in found.settings]
    assert refused[0] == refused[2] == refused[4] == ""
    assert refused[1].startswith("row 3, width: `12 kg` is a mass, but `width` is a length")
    assert refused[3].startswith("row 5, wood: `beech` is not among the choices")
    assert plan(kind="rows", rows="width,lean [deg]\n1.2 m,5\n").settings[0].values == {
        "width": 1200,
        "lean": pytest.approx(math.radians(5)),
    }


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ({"kind": "throw"}, "no plan called `throw`"),
        ({"number": 0}, "0 trials are none"),
        ({"number": 10**9}, "1,000,000,000 trials are too many"),
        ({"roll": -1}, "no roll number"),
        ({"hold": frozenset({"inner"})}, "`inner` is not an input"),
        ({"hold": frozenset({"wdth"})}, "no input `wdth`"),
        ({"hold": frozenset({"width", "lean", "wood", "back", "places"})}, "every input is held"),
        ({"ranges": {"width": (810, 840)}}, "nothing is left of the range of `width`"),
        ({"ranges": {"width": (900, 400)}}, "nothing is left of the range of `width`"),
        ({"ranges": {"wood": (0, 1)}}, "`wood` is chosen and has no range"),
        ({"kind": "series"}, "goes along one input"),
        ({"kind": "series", "inputs": ("width",), "hold": frozenset({"width"})}, "`width` is held"),
        ({"kind": "series", "inputs": ("inner",)}, "is not an input"),
        ({"kind": "field", "inputs": ("width", "width")}, "2 different inputs"),
        ({"kind": "field", "inputs": ("width", "lean"), "counts": (20_000, 20_000)}, "too many"),
        ({"kind": "rows", "rows": ""}, "there are no rows"),
        ({"kind": "rows", "rows": "inner\n3\n"}, "`inner` is not an input"),
        ({"kind": "rows", "rows": "width,width\n3,4\n"}, "`width` stands twice"),
    ],
)
def test_what_is_no_plan_is_refused(asked: dict[str, Any], said: str) -> None:
    with pytest.raises(Failure) as caught:
        plan(**asked)
    assert said in caught.value.message


def test_a_seed_is_an_input_of_chance_and_rolled_in_whole_numbers() -> None:
    program = checked_program(
        "input seed = 3\ninput other = 5 from 0 to 50\ninput k = 2 from 1 to 9\n"
        "a = random(4, 0, 1)\nb = random(2, 0 mm, k * 1 mm, seed = other + 1)\n"
    )
    axes = axes_of(program, {})
    assert [name for name, axis in axes.items() if axis.seed] == ["seed", "other"]
    found = planned(program, Asked(number=50))
    assert all(float(one.values["other"]).is_integer() for one in found.settings)
    assert any(not float(one.values["k"]).is_integer() for one in found.settings)


def test_inputs_of_points_and_lists_stay_as_they_are() -> None:
    program = shelf("input at = (1 m, 2 m)\ninput sizes = [1 mm, 2 mm]\n")
    assert list(axes_of(program, {})) == ["width", "lean", "wood", "back", "places"]
    with pytest.raises(Failure, match="`at` cannot be varied"):
        plan(program, hold=frozenset({"at"}))


def test_every_study_of_the_demonstration_can_be_rolled() -> None:
    for name in ("spiral-stair", "boardwalk", "louvre-screen", "star-map-screen"):
        program = checked_program(demo(name))
        assert len(planned(program, Asked(number=8)).settings) == 8


@pytest.mark.parametrize("unit, size", [("°", math.pi / 180), ("mm", 1.0), ("in", 25.4), ("%", 0.01), ("kg", 1.0), ("ft", 304.8)])  # fmt: skip
def test_a_step_is_the_value_that_one_types(unit: str, size: float) -> None:
    """A value on a step and the same value typed are one number to the noise of a float64: no limit is passed by
    standing on it, and an angle of 90° is one."""
    for high, step in ((75, 0.5), (90, 7.5), (1000, 0.1), (33.3, 1.11), (7, 0.001)):
        program = checked_program(
            f"input a = 0 {unit} from 0 {unit} to {high} {unit} step {step} {unit}"
        )
        axis = axes_of(program, {})["a"]
        assert limits_of(axis)[-1] == pytest.approx(high * size, rel=1e-15)
        for number in (1, 3, 7, 60, 69):
            assert axis.on_step(number) == pytest.approx(number * step * size, rel=3e-15)
    quarter = axes_of(checked_program("input a = 0° from 0° to 90° step 15°"), {})["a"]
    assert quarter.value(6) == math.radians(90) and quarter.value(2) == math.radians(30)
