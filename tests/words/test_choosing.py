"""Preferred numbers, sizes, setting out, roots."""

import itertools
import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.words.functions import integrate
from tests.sheets import problem, run, value


@given(st.floats(10, 1e5), st.floats(1, 500))
def test_bays_are_the_fewest_that_keep_the_pitch(length: float, pitch: float) -> None:
    n = value(f"fit({length:.3f} mm, {pitch:.3f} mm)")
    length, pitch = round(length, 3), round(pitch, 3)
    assert length / n <= pitch * (1 + 1e-9)
    assert n == 1 or length / (n - 1) > pitch * (1 - 1e-9)


@given(st.floats(0, 1e4), st.floats(0, 200), st.floats(1, 300))
def test_gaps_are_equal_and_none_too_large(length: float, width: float, gap: float) -> None:
    length, width, gap = round(length, 2), round(width, 2), round(gap, 2)
    found = (
        value(f"fit_gaps({length} mm, {width} mm, {gap} mm)") if _fits(length, width, gap) else None
    )
    if found is None:
        assert "do not fit" in problem(f"x = fit_gaps({length} mm, {width} mm, {gap} mm)").message
        return
    n = found["n"]
    assert n * width + (n + 1) * found["gap"] == pytest.approx(length, abs=1e-6)
    assert found["gap"] <= gap * (1 + 1e-9) + 1e-9
    assert found["pitch"] == pytest.approx(found["gap"] + width)
    if n > 0:
        assert (length - (n - 1) * width) / n > gap * (1 - 1e-9), "one piece fewer is too few"


def _fits(length: float, width: float, gap: float) -> bool:
    n = max(math.ceil((length - gap) / (width + gap) - 1e-9), 0)
    return length - n * width >= 0


def test_a_root_keeps_its_dimension() -> None:
    assert value("root(x -> x^3 - 8 mm^3, 0 mm, 10 mm)") == pytest.approx(2, rel=1e-12)
    assert value("root(a -> sin(a) - 0.5, 0°, 90°)") == pytest.approx(30, rel=1e-12)


def test_a_root_is_found_between_ends_that_all_but_meet() -> None:
    assert value("root(x -> x - 1000000.000000001, 1000000, 1000000.000000002)") == pytest.approx(
        1e6
    )
    assert value("root(x -> 3 * (x - 1), 0.99999999999, 1.00000000002)") == pytest.approx(
        1, rel=1e-15
    )


@pytest.mark.parametrize(
    "steep",
    [
        "tanh(1e9 * (x - 0.3))", "sign(x - 0.3) * abs(x - 0.3)^0.2", "(x - 0.3)^5",
        "if x < 0.3 then -1 else x - 0.3", "1e-30 * (x - 0.3)", "exp(700 * (x - 0.3)) - 1",
    ],
)  # fmt: skip
def test_a_root_is_found_however_steep_and_however_flat_the_function_is(steep: str) -> None:
    """Each of them is 0 at 0.3 and nowhere else."""
    assert value(f"root(x -> {steep}, 0, 1)") == pytest.approx(0.3, abs=1e-3 if "^5" in steep else 1e-9)  # fmt: skip


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("x = root(t -> t^2 + 1, 0, 2)", "it is 1 at 0 and 5 at 2"),
        ("x = root(t -> 1 / t, 0, 2)", "division by zero: `t` is 0"),
        ("x = root(t -> floor(t) - 2.5, 0, 9)", "jumps over 0 at 3, from -0.5 to 0.5"),
        ("x = root(t -> if t < 0.7 then -1 else 1, 0, 1)", "jumps over 0 at 0.7, from -1 to 1"),
        ("x = root(t -> 1 / (t - 0.3), 0, 1)", "jumps over 0 at 0.3"),
        ('x = preferred(3, "R7")', '"R7" is not a series'),
        ("x = preferred(-3)", "no preferred number for -3"),
        ("x = next_up([1, 2], 3)", "no size is 3 or more; the largest is 2"),
        ("x = next_down([1, 2], 0.5)", "no size is 0.5 or less"),
        ("x = nearest([], 0.5)", "no sizes to choose from"),
        ("x = fit(1 m, 0 m)", "the largest pitch is 0"),
        ("x = fit_gaps(1 m, 3 m, 10 mm)", "do not fit into 1"),
        ("x = root(t -> 3, 0)", "`root` needs `hi`"),
        ("x = root((a, b) -> a, 0, 1)", "this one takes 2 arguments"),
    ],
)
def test_what_cannot_be_chosen_says_so(line: str, message: str) -> None:
    assert message in problem(line).message


@given(st.floats(-1e4, 1e4), st.sampled_from([1.0, 5.0, 50.0, 0.1, 25.4]))
def test_rounding_to_a_multiple(x: float, multiple: float) -> None:
    x = round(x, 4)
    low, near, high = (
        value(f"{rule}({x} mm, {multiple} mm)") for rule in ("floor", "round", "ceil")
    )
    noise = 2e-9 * multiple
    assert low <= x + noise and x - noise <= high
    assert high - low == pytest.approx(multiple, rel=1e-9) or high == pytest.approx(low)
    assert abs(near - x) <= multiple / 2 + noise


@pytest.mark.parametrize(
    ("expression", "wanted"),
    [
        ("floor(0.3 m / 0.1 m)", 3), ("ceil(0.3 m / 0.1 m)", 3), ("floor(-0.5)", -1),
        ("ceil(-0.5)", 0), ("round(0.5)", 1), ("round(-0.5)", -1), ("round(2.5)", 3),
        ("round(1.005, 0.01)", 1.01), ("floor(1e15 + 0.5)", 1e15), ("mod(0.3, 0.1)", 0),
        ("mod(-1, 3)", 2), ("mod(1, -3)", -2), ("floor(2.9999999999)", 3),
        ("floor(2.99999999)", 2), ("ceil(101 mm, 50 mm)", 150), ("round(125 mm, 50 mm)", 150),
    ],
)  # fmt: skip
def test_the_rounding_rule(expression: str, wanted: float) -> None:
    assert value(expression) == pytest.approx(wanted)


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("x = root(x -> x^2 - 4 mm^2, 3 mm, 9 mm)", "it is 0.05 cm² at 0.3 cm and 0.77 cm² at 0.9 cm"),
        ("x = root(a -> if a < 40° then 1 else -1, 0°, 90°)", "jumps over 0 at 40°, from 1 to -1"),
        ("x = root(x -> x, 0.300001 m, 0.300002 m)", "it is 30.0001 cm at 30.0001 cm and 30.0002 cm at 30.0002 cm"),
        ("x = minimise(a -> a, 30°, 10°)", "nothing between 30° and 10°"),
        ("x = integrate(x -> 1 / x, -1 mm, 2 mm)", "from -0.1 cm to 0.2 cm does not settle"),
        ("x = interpolate([1 m, 2 m], [3°, 4°], 3 m)", "300 cm lies beyond the last place, 200 cm"),
        ("x = next_up([9 mm, 10 mm], 10.0004 mm)", "no size is 1.00004 cm or more; the largest is 1 cm"),
        ("x = next_down([9°, 10°], 8°)", "no size is 8° or less; the smallest is 9°"),
        ("x = preferred(0 kg)", "no preferred number for 0 kg"),
        ("x = fit(1 m, -2 mm)", "the largest pitch is -0.2 cm"),
        ("x = fit_gaps(1 m, 3 m, 10 mm)", "300 cm wide do not fit into 100 cm"),
        ("x = root(x -> next_up([9 mm], x) - 8 mm, 10 mm, 20 mm)", "no size is 1 cm or more; the largest is 0.9 cm"),
        ("f(a) = root(x -> x + a, 0 m, 1 m)\ny = f(2 m)", "it is 200 cm at 0 cm and 300 cm at 100 cm"),
    ],
)  # fmt: skip
def test_figures_in_messages_are_those_of_the_study(line: str, message: str) -> None:
    found = [one.message for one in run("units cm, deg", line).problems]
    assert len(found) == 1 and message in found[0]


@pytest.mark.parametrize("power", ["1", "1.01", "2", "3"])
@pytest.mark.parametrize("pole", ["0", "0.3", "pi/7"])
def test_what_has_no_area_is_given_none(power: str, pole: str) -> None:
    """The area under |x|^-p to both sides of 0 is finite for p < 1 alone (any textbook of calculus); what is carried on to
    where there is none would even be negative."""
    said = problem(f"a = integrate(x -> abs(x - {pole})^-{power}, -1, 2)").message
    assert "does not settle" in said or "no power below 0" in said, said
    assert "does not settle" in problem(f"a = integrate(x -> 1 / (x - {pole}), -1, 2.5)").message


@pytest.mark.parametrize("power", [0.1, 0.5, 0.9])
def test_what_grows_without_end_and_has_an_area_is_given_it(power: float) -> None:
    by_hand = (0.7 ** (1 - power) + 0.3 ** (1 - power)) / (1 - power)
    assert value(f"integrate(x -> abs(x - 0.3)^-{power}, 0, 1)") == pytest.approx(by_hand, rel=1e-9)


@pytest.mark.parametrize("seed", range(4))
def test_the_area_under_what_bends_and_jumps_is_that_of_its_pieces(seed: int) -> None:
    """Straight and level pieces, by hand: a single estimate of QUADPACK is off for one in seventy of the bends, and for most of
    the steps, and does not know it."""
    chance = random.Random(seed)
    for _ in range(25):
        bend, low, high = chance.uniform(-2, 2), chance.uniform(-5, -2.1), chance.uniform(2.1, 5)
        by_hand = ((high - bend) ** 2 + (low - bend) ** 2) / 2
        assert integrate(lambda x, at=bend: abs(x - at), low, high) == pytest.approx(
            by_hand, rel=1e-9
        )
    for _ in range(6):
        often, low, high = chance.uniform(0.5, 4), chance.uniform(-4, 0), chance.uniform(0.1, 4)
        inner = [n / often for n in range(math.ceil(often * low), math.floor(often * high) + 1)]
        ends = [low, *inner, high]
        by_hand = math.fsum(
            math.floor(often * (a + b) / 2) * (b - a) for a, b in itertools.pairwise(ends)
        )
        size = math.fsum(
            abs(math.floor(often * (a + b) / 2)) * (b - a) for a, b in itertools.pairwise(ends)
        )
        found = integrate(lambda x, often=often: math.floor(often * x), low, high)
        assert found == pytest.approx(by_hand, abs=1e-9 * size)
        assert integrate(lambda x, often=often: math.floor(often * x), high, low) == pytest.approx(-found, abs=1e-9 * size)  # fmt: skip


@pytest.mark.parametrize("beside", [1e-3, 1e-5, 1e-7])
def test_a_jump_beside_an_end_is_not_overlooked(beside: float) -> None:
    for low, high in ((-beside, 3.0), (-2.0, beside)):
        by_hand = 5 * high + 2 * low
        assert integrate(lambda x: 5.0 if x > 0 else -2.0, low, high) == pytest.approx(by_hand, rel=1e-9)  # fmt: skip


def test_rounding_rules_are_integrated() -> None:
    """Treads of 300 mm that go up by 170 mm: the area under a stair."""
    found = value("integrate(x -> (1 + floor(x / 300 mm)) * 170 mm, 0 mm, 4.5 m)")
    assert found == pytest.approx(170 * 300 * 15 * 16 / 2, rel=1e-8)
    assert value("integrate(x -> mod(x, 0.1 m), 0 m, 1 m)") == pytest.approx(1000 * 50, rel=1e-8)
