"""Aiming: roots against the solutions that SymPy finds of textbook relations, optima against closed forms."""

from __future__ import annotations

import math
from typing import Any

import pytest
import sympy
from hypothesis import given, settings
from hypothesis import strategies as st

from ovolo.exploring.aim import aimed
from ovolo.exploring.aim_readings import LEAST, MOST, Aim
from ovolo.exploring.reach import reach_of
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from tests.sheets import demo


def aim(text: str, name: str, goal: float | str, *by: str, **present: Any) -> Aim:
    return aimed(checked_program(text), name, goal, by, present)


def roots(found: Aim, name: str) -> list[float]:
    return [one.settings[name] for one in found.found if one.exact]


def solved(equation: Any, x: Any, low: float, high: float) -> list[float]:
    """The real solutions between two limits, by SymPy."""
    known = sympy.solveset(equation, x, sympy.Interval(low, high))
    return sorted(float(one) for one in known)


x = sympy.Symbol("x", positive=True)

TRIANGLE = "input side = 30 mm from 10 mm to 100 mm\nh = side * sqrt(3) / 2\narea = side * h / 2"
ARC = "input rise = 90 mm from 10 mm to 900 mm\nchord = 1 m\nr = rise/2 + chord^2 / (8*rise)"
COIL = (
    "input pitch = 4 mm from 1 mm to 90 mm\nturns = 12\nd = 40 mm\n"
    "wire = turns * sqrt((pi * d)^2 + pitch^2)"
)


def test_the_side_of_a_triangle_of_a_given_area() -> None:
    """The area of an equilateral triangle is √3/4 s² (plane geometry)."""
    want = solved(sympy.Eq(sympy.sqrt(3) / 4 * x**2, 500), x, 10, 100)
    assert roots(aim(TRIANGLE, "area", 500.0, "side"), "side") == pytest.approx(want, rel=1e-9)


def test_the_rise_of_an_arc_of_a_given_radius_has_two_solutions() -> None:
    """r = f/2 + c²/(8 f) for chord c and rise f: a shallow and a steep arc."""
    want = solved(sympy.Eq(x / 2 + 10**6 / (8 * x), 600), x, 10, 900)
    found = roots(aim(ARC, "r", 600.0, "rise"), "rise")
    assert len(want) == 2 or len(want) == 1
    assert found == pytest.approx(want, rel=1e-9)


def test_the_pitch_of_a_coil_of_a_given_wire() -> None:
    """The length of n turns of a helix is n √((π d)² + p²)."""
    want = solved(sympy.Eq(12 * sympy.sqrt((sympy.pi * 40) ** 2 + x**2), 1600), x, 1, 90)
    assert roots(aim(COIL, "wire", 1600.0, "pitch"), "pitch") == pytest.approx(want, rel=1e-9)


def test_all_solutions_in_the_range_are_found() -> None:
    text = "input a = 10° from 0° to 720°\ns = sin(a)"
    want = [30, 150, 390, 510]
    found = roots(aim(text, "s", 0.5, "a"), "a")
    assert [math.degrees(one) for one in found] == pytest.approx(want, abs=1e-9)
    touched = roots(aim(text, "s", 1.0, "a"), "a")
    assert [math.degrees(one) for one in touched] == pytest.approx([90, 450], abs=1e-3)


@pytest.mark.parametrize("by", [1e-3, 1.0, 1e4])
@pytest.mark.parametrize("along", [0.0, -73.0, 1e3])
def test_solutions_move_and_grow_with_the_range(along: float, by: float) -> None:
    """Of a sine that turns back, and a stretch behind a rounding: the same, wherever the range begins and however large
    it is."""
    low, high = along * by, (along + 12.3) * by
    text = f"input a = {low!r} from {low!r} to {high!r}\nx = a / {by!r} - ({along!r})\ns = sin(x)\nn = floor(x)"
    found = [one / by - along for one in roots(aim(text, "s", 0.9, "a"), "a")]
    first = math.asin(0.9)
    want = [first, math.pi - first, first + 2 * math.pi, 3 * math.pi - first]
    assert found == pytest.approx(want, abs=1e-9)
    (stretch,) = roots(aim(text, "n", 4.0, "a"), "a")
    assert stretch / by - along == pytest.approx(4.5, abs=1e-6)


def test_both_solutions_are_found_beside_a_turn_that_was_not_tried() -> None:
    """Nearer to each other than the places at which a range without steps is tried; also at an end of the range."""
    for at in (3.3331, -9.9998, 9.9997):
        found = roots(aim(f"input a = 1 from -10 to 10\ns = (a - ({at}))^2", "s", 1e-8, "a"), "a")
        assert found == pytest.approx([at - 1e-4, at + 1e-4], abs=1e-6)


@pytest.mark.parametrize("teeth", [50, 200])
def test_where_it_rises_again_and_again_no_solution_is_left_out(teeth: int) -> None:
    found = aim(f"input a = 7.2 from 0 to {teeth}\ns = mod(a, 1)", "s", 0.5, "a")
    told = min(teeth, 60)
    assert roots(found, "a") == pytest.approx([at + 0.5 for at in range(told)], abs=1e-9)
    assert found.reason == ("" if teeth < 60 else "of 200 solutions these are the 60 nearest to the present setting")  # fmt: skip


def test_what_may_have_been_missed_is_said() -> None:
    """Some 16,000 solutions, and on steps 1,351: more than there are places."""
    found = aim("input a = 3 from 0 to 50\ns = sin(a * 1000)", "s", 0.5, "a")
    assert len(found.found) == 60 and "there may be more: `s` goes up and down" in found.reason
    none = aim("input a = 3 from 0 to 50\ns = sin(a * 1000)", "s", 2.0, "a")
    assert none.found[0].note == "the nearest" and "there may be one" in none.reason
    stepped = aim("input n = 3 from 0 to 50000 step 1\ns = mod(n, 37)", "s", 36.0, "n")
    assert all(one.settings["n"] % 37 == 36 for one in stepped.found)
    assert "there may be more" in stepped.reason


@pytest.mark.parametrize(
    ("text", "goal", "middle", "ends"),
    [
        ("input a = 3 from 0 to 50\ns = floor(a)", 10.0, 10.5, "from 10 to 11"),
        ("input a = 3 from 0 to 50\ns = ceil(a)", 50.0, 49.5, "from 49 to 50"),
        ("input a = 3 from 0 to 50\ns = ceil(a * 40)", 77.0, 1.9125, "from 1.9 to 1.925"),
        ("input a = 3 from 0 to 500 step 1\ns = floor(a / 7)", 10.0, 73, "from 70 to 76"),
        ("input a = 3 from 0 to 50000 step 1\ns = floor(a / 7)", 100.0, 703, "from 700 to 706"),
        ("input a = 3 from 0 to 9\ns = clamp(a, 2, 4)", 2.0, 1, "from 0 to 2"),
    ],
)
def test_a_stretch_on_which_it_stays_the_goal_is_one_solution(
    text: str, goal: float, middle: float, ends: str
) -> None:
    found = aim(text, "s", goal, "a")
    assert roots(found, "a") == [pytest.approx(middle, abs=1e-9)]
    assert found.found[0].note == f"the same {ends}" and not found.reason


def test_a_value_that_rises_slowly_stays_nowhere() -> None:
    (found,) = aim("input a = 3 from 0 to 9\ns = 1e6 + a / 1000", "s", 1e6 + 0.004, "a").found
    assert found.settings["a"] == pytest.approx(4, abs=1e-6) and not found.note


@settings(max_examples=8)
@given(st.floats(-9, 9), st.floats(0.5, 3))
def test_what_is_found_gives_the_goal(at: float, scale: float) -> None:
    """Of a cubic with a root at a known place: every solution gives the goal, and that one is among them."""
    text = f"input a = 0 from -10 to 10\ns = {scale!r} * (a - ({at!r})) * (a^2 + 1)"
    found = roots(aim(text, "s", 0.0, "a"), "a")
    assert min(abs(one - at) for one in found) < 1e-6
    for one in found:
        assert abs(scale * (one - at) * (one * one + 1)) < 1e-6


def test_on_steps_the_nearest_below_and_above_are_told() -> None:
    text = "input n = 3 from 1 to 20 step 1\nlong = n * 70 mm"
    exact = aim(text, "long", 350.0, "n")
    assert roots(exact, "n") == [5] and not exact.reason
    near = aim(text, "long", 400.0, "n")
    assert [(one.settings["n"], one.note) for one in near.found] == [
        (5, "the step below"), (6, "the step above"),
    ]  # fmt: skip
    assert near.reason == "no step of `n` gives it exactly"


def test_where_nothing_fits_the_nearest_and_why() -> None:
    found = aim(TRIANGLE, "area", 9_000.0, "side")
    assert found.found[0].settings["side"] == 100 and found.found[0].note == "the nearest"
    assert found.reason == "`area` goes from 43.3013 mm² to 4330.13 mm² along `side`"
    jump = aim("input a = 1 from 0 to 9\ns = floor(a)", "s", 2.5, "a")
    assert (
        jump.found[0].settings["a"] == pytest.approx(3)
        and "jumps from 2 to 3" in jump.found[0].note
    )


def test_the_stair_is_aimed_on_its_steps() -> None:
    found = aim(demo("spiral-stair"), "rise", 180.0, "floor_height")
    assert roots(found, "floor_height") == [2520, 2700, 2880, 3060, 3240]


# --- as large and as small as possible ---


def test_the_largest_box_from_a_sheet() -> None:
    """From a square sheet of side a, squares of x cut off at the corners: the volume x (a - 2x)² is
    greatest at x = a/6 (a textbook result of calculus)."""
    text = "input x = 10 mm from 0 mm to 150 mm\na = 300 mm\nv = x * (a - 2*x)^2"
    (found,) = aim(text, "v", MOST, "x").found
    assert found.settings["x"] == pytest.approx(50, abs=1e-3)
    assert found.reached == pytest.approx(2 * 300**3 / 27, rel=1e-9)


def test_the_strongest_beam_from_a_log() -> None:
    """Of all rectangles in a circle of diameter D the section modulus w d² / 6 is greatest where
    d² = 2/3 D² (a textbook result, Parent 1708; from memory)."""
    text = (
        "input w = 60 mm from 1 mm to 299 mm\ninput d = 90 mm from 1 mm to 299 mm\n"
        'log = 300 mm\nmodulus = w * d^2 / 6\ncheck w^2 + d^2 <= log^2 "it fits in the log"'
    )
    result = aim(text, "modulus", MOST, "w", "d")
    (found,) = result.found
    assert not found.failing and result.binding == ["it fits in the log"]
    assert found.settings["d"] ** 2 == pytest.approx(2 / 3 * 300**2, rel=1e-4)
    assert found.settings["w"] ** 2 == pytest.approx(1 / 3 * 300**2, rel=1e-4)


def test_the_least_surface_of_a_tin() -> None:
    """Of all closed cylinders of one volume the one as high as wide has the least surface (textbook)."""
    text = (
        "input r = 20 mm from 5 mm to 200 mm\nvolume_wanted = 1e6 mm^3\n"
        "h = volume_wanted / (pi * r^2)\nskin = 2 * pi * r^2 + 2 * pi * r * h"
    )
    (found,) = aim(text, "skin", LEAST, "r").found
    assert found.settings["r"] == pytest.approx((1e6 / (2 * math.pi)) ** (1 / 3), rel=1e-4)


def test_on_steps_every_setting_is_looked_at() -> None:
    text = "input a = 1 from 0 to 9 step 1\ninput b = 2 from 0 to 9 step 1\nv = (a - 3) * (b - 6)"
    (found,) = aim(text, "v", MOST, "a", "b").found
    best = max((a - 3) * (b - 6) for a in range(10) for b in range(10))
    assert found.reached == best


# --- several inputs ---


def test_several_inputs_move_as_little_as_they_can() -> None:
    """The least change to a line a + b = 12 from (3, 5) goes straight to it: (5, 7) (plane geometry)."""
    text = "input a = 3 from 0 to 10\ninput b = 5 from 0 to 10\ns = a + b"
    (found,) = aim(text, "s", 12.0, "a", "b").found
    assert found.exact
    assert (found.settings["a"], found.settings["b"]) == pytest.approx((5, 7), abs=1e-4)


def test_several_inputs_move_no_further_than_a_rounding_asks_for() -> None:
    """By hand: the count is 4 as soon as the span is above 3, and nothing else need move."""
    text = "input span = 2 from 0 to 9\ninput depth = 5 from 0 to 9\nn = ceil(span) + 0 * depth"
    (found,) = aim(text, "n", 4.0, "span", "depth").found
    assert found.exact and found.settings["span"] == pytest.approx(3, abs=1e-6)
    assert found.settings["depth"] == 5


def test_a_goal_that_several_reach_is_reached_but_for_rounding() -> None:
    """Where a check leaves only a corner, and where what they give bends sharply."""
    text = "input a = 2.55 from -1.25 to 4.5\ninput b = 1.22 from -0.38 to 2.68\nv = min(abs(b + a), b)"
    (found,) = aim(f"{text}\ncheck a + b <= -1.48", "v", -0.34175, "a", "b").found
    assert found.exact and not found.failing


def test_checks_are_conditions_that_must_hold() -> None:
    text = (
        'input a = 3 from 0 to 10\ninput b = 5 from 0 to 10\ns = a + b\ncheck a <= 4 "a is small"'
    )
    (found,) = aim(text, "s", 12.0, "a", "b").found
    assert found.exact and not found.failing and found.settings["a"] <= 4 + 1e-6
    impossible = text + '\ncheck b <= 5 "b is small"'
    result = aim(impossible, "s", 12.0, "a", "b")
    assert not (result.found[0].exact and not result.found[0].failing) and result.reason


def test_the_same_is_found_again() -> None:
    text = demo("spiral-stair")
    one, again = (aim(text, "pitch", math.radians(38), "floor_height", "going") for _ in range(2))
    assert one == again


@pytest.mark.parametrize(
    ("name", "by", "said"),
    [
        ("area", (), "no input was named"),
        ("area", ("h",), "`h` is not an input"),
        ("area", ("sde",), "no input `sde`"),
        ("area", ("other",), "`other` does not move `area`"),
        ("side", ("side",), "`side` is the input itself"),
        ("nothing", ("side",), "no line is called `nothing`"),
        ("shape", ("side",), "has no figure to aim at"),
        ("broken", ("side",), "has a problem of its own"),
    ],
)
def test_what_cannot_be_aimed_at_is_refused(name: str, by: tuple[str, ...], said: str) -> None:
    more = "\ninput other = 3\nshape = box(side, side, side)\nbroken = side + 3 kg"
    with pytest.raises(Failure) as caught:
        aim(TRIANGLE + more, name, 500.0, *by)
    assert said in caught.value.message


# --- reach ---


def test_reach_tells_how_far_each_input_moves_a_value() -> None:
    """Against the value at every step of each input."""
    text = demo("spiral-stair")
    found = reach_of(checked_program(text), "pitch")
    assert [bar.name for bar in found.bars] == ["going", "floor_height"]
    going = found.bars[0]
    angles = [math.atan2(180, g) for g in range(200, 321, 5)]
    assert (going.least, going.most) == pytest.approx((min(angles), max(angles)))
    assert (going.at_least, going.at_most) == (320, 200)
    assert set(found.still) >= {"radius", "outline", "gap_max"}
    assert found.present == pytest.approx(math.atan2(180, 240))


@given(st.floats(-5, 5), st.floats(-5, 5))
def test_the_ends_of_a_reach_are_values_of_the_study(a: float, b: float) -> None:
    text = f"input x = {a!r} from -5 to 5\ninput y = {b!r} from -5 to 5\nv = x^2 - 3*x*y + y"
    for bar in reach_of(checked_program(text), "v").bars:
        for at, value in ((bar.at_least, bar.least), (bar.at_most, bar.most)):
            outcome = outcome_of(text, {bar.name: at})
            assert outcome.as_json()["values"]["v"]["value"] == pytest.approx(value, abs=1e-12)
        assert bar.least <= a * a - 3 * a * b + b <= bar.most


def test_a_reach_goes_to_where_the_value_turns_back() -> None:
    """Between the places that were tried: a sine to 1 at 90°, on steps a parabola to its top."""
    (bar,) = reach_of(checked_program("input a = 10° from 0° to 200°\ns = sin(a)"), "s").bars
    assert (bar.most, bar.most_said) == (pytest.approx(1, abs=1e-9), "1")
    assert math.degrees(bar.at_most) == pytest.approx(90, abs=1e-2)
    text = "input n = 3 from 0 to 5000 step 1\ns = 60 - (n - 777)^2"
    (bar,) = reach_of(checked_program(text), "s").bars
    assert (bar.most, bar.at_most, bar.least) == (60, 777, 60 - (5000 - 777) ** 2)


def test_a_reach_of_figures_looks_at_every_step() -> None:
    """Of the pitch of the stair, which jumps with each riser: its least is far from where few steps would look."""
    (_, height) = reach_of(checked_program(demo("spiral-stair")), "pitch").bars
    heights = range(2400, 4201, 5)
    angles = {one: math.atan2(one / math.ceil(one / 190), 240) for one in heights}
    assert (height.least, height.most) == pytest.approx((min(angles.values()), max(angles.values())))  # fmt: skip
    assert height.at_least == min(heights, key=angles.__getitem__)
