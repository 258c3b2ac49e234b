"""Proof: never contradicted, with real counterexamples; and the band that works."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from ovolo.exploring.axes import axes_of
from ovolo.exploring.bands import bands_of
from ovolo.exploring.plans import Asked, planned
from ovolo.exploring.proof import FAILS, HOLDS, TRIED, UNDECIDED, Verdict, breakings_of, proved
from ovolo.exploring.trials import trials
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import outcome_of
from tests.sheets import demo, demo_outcome


def verdicts(text: str, seconds: float = 60.0) -> list[Verdict]:
    """With more patience than what is decided needs, for machines are slow at times."""
    return proved(checked_program(text), seconds=seconds)


def verdict(condition: str, *lines: str) -> Verdict:
    (found,) = verdicts("\n".join([*lines, f"check {condition}"]))
    return found


A, B = "input a = 1 from -2 to 3", "input b = 2 from 0 to 5 step 0.5"


@pytest.mark.parametrize(
    ("condition", "want"),
    [
        ("a^2 >= 0", HOLDS),
        ("a^2 + b >= 0", HOLDS),
        ("a^2 <= 9", HOLDS),
        ("a^2 < 9", FAILS),
        ("a^2 <= 8.99", FAILS),
        ("abs(a) <= 3", HOLDS),
        ("a * (3 - a) <= 2.2501", HOLDS),
        ("a * (3 - a) <= 2.2", FAILS),
        ("b != 1.7", HOLDS),
        ("b != 1.5", FAILS),
        ("floor(b) <= b and b < floor(b) + 1", HOLDS),
        ("mod(b, 0.5) == 0", HOLDS),
        ("mod(b, 1) == 0", FAILS),
        ("sin(a)^2 <= 1", HOLDS),
        ("tan(a) < 100", FAILS),
        ("sqrt(a + 2) <= sqrt(5)", HOLDS),
        ("sqrt(a) >= 0", FAILS),
        ("1 / b > 0", FAILS),
        ("if a > 0 then a <= 3 else -a <= 2", HOLDS),
        ("min(a, b) <= max(a, b)", HOLDS),
        ("exp(a) > 0.13", HOLDS),
        ("2 * a == a + a within 0.001", HOLDS),
    ],
)
def test_a_check_of_figures_is_decided(condition: str, want: str) -> None:
    """By elementary mathematics."""
    found = verdict(condition, A, B)
    assert found.verdict == want
    if want == FAILS:
        outcome = outcome_of(f"{A}\n{B}\ncheck {condition}", found.settings)
        assert outcome.checks[0].passed is not True


def test_choices_and_yes_and_no_are_gone_through() -> None:
    lines = ('input kind = "flat" of "flat", "steep"', "input wide = yes", A,
             'slope = if kind == "flat" then 1 else (if wide then 5 else 9)')  # fmt: skip
    assert verdict("slope < 10", *lines).verdict == HOLDS
    found = verdict("slope < 9", *lines)
    assert found.verdict == FAILS
    assert (found.settings["kind"], found.settings["wide"]) == ("steep", False)


def test_functions_and_lines_between_are_followed() -> None:
    lines = (A, "f(x):\n    y = x * x\n    y + 1", "p = f(a)", "q = p - 1")
    assert verdict("q >= 0 and p >= 1", *lines).verdict == HOLDS


def test_what_cannot_be_followed_is_never_called_proved() -> None:
    found = verdict("volume(box(1 m, 1 m, (a + 3) * 1 m)) > 0 m^3", A)
    assert found.verdict == TRIED and "cannot be followed" in found.why
    assert verdict("sum([i * a * a for i in 1 .. 3]) >= 0", A).verdict == TRIED
    many = "\n".join(f'input c{n} = "x" of "x", "y", "z"' for n in range(7))
    condition = " and ".join(f'c{n} != "w"' for n in range(7))
    (found,) = verdicts(f"{many}\ncheck {condition}")
    assert found.verdict == TRIED and "combinations" in found.why


def test_what_is_not_decided_in_time_says_on_how_much_of_the_range() -> None:
    """Between a and a copy of it that intervals cannot tell from it there is always something open."""
    text = f"{A}\nd = sin(a * 50) - sin(50 * a)\ncheck d == 0"
    (found,) = verdicts(text, seconds=0.3)
    assert found.verdict == UNDECIDED and 0 < found.share <= 1


def test_a_small_hole_in_the_range_is_found_or_left_undecided() -> None:
    """A check that fails only near a = 1.23456 is not called proved."""
    found = verdict("abs(a - 1.23456) > 1e-7", A)
    assert found.verdict in (FAILS, UNDECIDED)
    stepped = verdict("k != 777", "input k = 5 from 0 to 5000 step 1")
    assert stepped.verdict == FAILS and stepped.settings == {"k": 777}


@pytest.mark.parametrize(
    "name", ["spiral-stair", "dome-drive-gear", "louvre-screen", "garden-sundial", "bearing-cage"]
)
def test_no_proof_is_contradicted_by_samples(name: str) -> None:
    """Checks of the demonstration that are proved: a hundred settings each, on their steps."""
    program = demo_outcome(name).program
    axes = axes_of(program, {})
    found = proved(program, seconds=0.5)
    held = [one for one in found if one.verdict == HOLDS]
    plan = planned(program, Asked(number=120, roll=11))
    lines = {one.line for one in held}
    if not lines:
        return
    for trial in trials(program, plan, range(120)):
        for check in trial.checks:
            if check.line in lines:
                assert check.passed, (trial.settings, check)
    assert all(name in axes for one in held for name in one.inputs)


def test_no_proof_is_contradicted_by_a_hundred_thousand_samples() -> None:
    """The comfort rule of the stair, 550 mm <= 2R + G <= 700 mm, worked out with NumPy alone."""
    (comfort, *_) = proved(demo_outcome("spiral-stair").program, seconds=60.0)
    assert comfort.verdict == HOLDS and comfort.inputs == ["floor_height", "going"]
    generator = np.random.default_rng(4)
    height = 2400 + 5 * generator.integers(0, 361, 100_000)
    going = 200 + 5 * generator.integers(0, 25, 100_000)
    rise = height / np.ceil(height / 190 - 1e-9)
    assert (2 * rise + going >= 550).all() and (2 * rise + going <= 700).all()


def test_what_fails_at_the_limits_is_told_with_the_smallest_setting() -> None:
    text = demo("spiral-stair")
    program = checked_program(text)
    plan = planned(program, Asked("limits"))
    told = [one.as_json() for one in trials(program, plan, range(len(plan.settings)))]
    found = {one.why: one for one in breakings_of(plan.axes, told)}
    assert found["rise and going within the regulation"].settings == {"going": 200}


# --- bands ---


def failing(text: str, name: str, **present: Any) -> list[tuple[Any, Any, str]]:
    found = bands_of(checked_program(text), name, present)
    assert found.whole
    return [(one.low, one.high, one.why) for one in found.failing]


def test_a_band_ends_where_the_check_does() -> None:
    text = 'input a = 5 from 0 to 10\ncheck a >= 2.5 "too small"\ncheck a^2 <= 64 "too large"'
    (low, high) = failing(text, "a")
    assert low == (0, pytest.approx(2.5, abs=1e-3), "too small")
    assert high == (pytest.approx(8, abs=1e-3), 10, "too large")


def test_what_fails_whatever_an_input_is_hides_nothing_along_it() -> None:
    text = 'input a = 5 from 0 to 10\nv = 1 / 0\nw = = 3\ncheck 1 > 2 "never"\npart none = []\ncheck a <= 8 "too large"'
    assert failing(text, "a") == [(pytest.approx(8, abs=1e-3), 10, "too large")]
    assert failing(f"input b = 1 from 0 to 2\n{text}", "b") == []


def test_on_steps_a_band_has_the_last_failing_step() -> None:
    text = 'input n = 50 from 0 to 1000 step 1\ncheck n < 333 or n > 701 "in the way"'
    assert failing(text, "n") == [(333, 701, "in the way")]
    (band,) = bands_of(demo_outcome("spiral-stair").program, "going").failing
    assert (band.low, band.high) == (200, 215)


def test_a_failing_line_is_a_failure_and_choices_are_told_one_by_one() -> None:
    assert failing("input a = 5 from -4 to 4\nr = sqrt(a)", "a")[0][:2] == (-4, pytest.approx(0, abs=1e-3))  # fmt: skip
    text = 'input k = "p" of "p", "q"\nv = if k == "p" then 1 else 1 / 0 * 1\ncheck v > 0'
    assert [one[:2] for one in failing(text, "k")] == [("q", "q")]


@pytest.mark.parametrize(
    "lines",
    [
        ('check n != 7 "not seven"', "v = 1 / (n - 20)"),
        ("part pegs = [box(1 mm, 1 mm, 1 mm).move(i * 2 mm) for i in 5 .. n]",),
        ("check n > 12", "check n < 24"),
    ],
)
def test_the_band_and_the_trials_fail_at_the_same_values(lines: tuple[str, ...]) -> None:
    text = "\n".join(("input n = 9 from 0 to 30 step 1", *lines))
    program = checked_program(text)
    plan = planned(program, Asked("series", inputs=("n",), counts=(31,)))
    tried = {
        one.settings["n"]: one.as_json()["why"] for one in trials(program, plan, range(31), True)
    }
    bands = failing(text, "n")
    assert len(tried) == 31 and any(tried.values())
    for value, why in tried.items():
        assert bool(why) == any(low <= value <= high for low, high, _ in bands), (value, why)


def test_the_others_stand_as_they_are() -> None:
    text = (
        'input a = 1 from 0 to 4 step 1\ninput b = 3 from 0 to 4 step 1\ncheck a <= b "a is more"'
    )
    assert failing(text, "a") == [(4, 4, "a is more")]
    assert failing(text, "a", b=1.0) == [(2, 4, "a is more")]
    assert math.isclose(failing(text, "b", a=4.0)[0][1], 3)
