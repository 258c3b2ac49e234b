"""Intervals of formulas: nothing that a formula gives lies outside. Against dense sampling with the
language itself, and against the interval arithmetic of mpmath."""

from __future__ import annotations

import functools
from typing import Any

import mpmath
import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from ovolo.exploring.intervals import WORDS, Boxes, Interval, Truth
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program
from ovolo.running.evaluate import Memo, evaluate_only

FORMULAS = {
    "floor": ["floor(x)", "floor(x, 0.3)"],
    "ceil": ["ceil(x)", "ceil(x, 0.7)"],
    "round": ["round(x)", "round(x, 0.25)"],
    "mod": ["mod(x, 3)", "mod(x, y + 9)"],
    "abs": ["abs(x)"],
    "min": ["min(x, y)", "min(x, y, 0.5)"],
    "max": ["max(x, y)"],
    "clamp": ["clamp(x, -1, y + 9)"],
    "sin": ["sin(x)", "sin(x * 1 rad)"],
    "cos": ["cos(x)"],
    "tan": ["tan(x)"],
    "asin": ["asin(x / 10)"],
    "acos": ["acos(x / 10)"],
    "atan": ["atan(x)"],
    "atan2": ["atan2(x, y)"],
    "sqrt": ["sqrt(x)", "sqrt(x^2 + y^2)"],
    "rad": ["rad(x * 1°)"],
    "deg": ["deg(x * 1 rad)"],
    "exp": ["exp(x)"],
    "ln": ["ln(x)"],
    "log10": ["log10(x)"],
    "sinh": ["sinh(x)"],
    "cosh": ["cosh(x)"],
    "tanh": ["tanh(x)"],
    "sign": ["sign(x)"],
    "fraction": ["fraction(x)"],
}
OTHERS = [
    "x + y", "x - y", "-x", "x * y", "x / y", "x^2", "x^3", "x^-2", "x^0.5", "(x + 11)^y", "x^0",
    "if x < y then x else y * 2", "if x <= 0 or y > 1 then 1 / x else sqrt(y)",
    "floor(x / 0.1) * 0.1 + mod(y, 0.2)",
]  # fmt: skip
_ends = st.floats(-10, 10, allow_nan=False).map(lambda v: round(v, 3))


@functools.cache
def program_of(line: str) -> Program:
    return checked_program(f"input x = 1\ninput y = 1\n{line}")


def both(formula: str, box: tuple[float, float, float, float]) -> tuple[Any, list[float | None]]:
    """What the interval says of a formula in a box, and what the language gives all over the box."""
    program = program_of(f"r = {formula}")
    (xl, xh, yl, yh) = box
    given = {"x": Interval.of(xl, xh, 1), "y": Interval.of(yl, yh, 1)}
    reading = Boxes(program, 1, given, {}).line("r")
    line = program.by_name["r"]
    found: list[float | None] = []
    memo = Memo(10)
    for a in np.unique([*np.linspace(xl, xh, 9), *[v for v in (0.0, 1.0, -1.0) if xl <= v <= xh]]):
        for b in np.linspace(yl, yh, 3):
            outcome = evaluate_only(program, [line], {"x": float(a), "y": float(b)}, memo)[-1]
            found.append(float(outcome.value) if outcome.has_value else None)
    return reading, found


def ordered(a: float, b: float, c: float, d: float) -> tuple[float, float, float, float]:
    return min(a, b), max(a, b), min(c, d), max(c, d)


def test_every_word_that_has_an_interval_is_tried() -> None:
    assert set(FORMULAS) == set(WORDS)


@pytest.mark.parametrize("formula", [*(one for some in FORMULAS.values() for one in some), *OTHERS])
@example(0.0, 0.0, 1.0, 1.0)
@example(-1.0, 1.0, -1.0, 1.0)
@example(0.299, 0.3, 0.1, 0.1)
@given(_ends, _ends, _ends, _ends)
def test_nothing_lies_outside(formula: str, a: float, b: float, c: float, d: float) -> None:
    """And where the interval is sure that there is a value, there is one."""
    reading, found = both(formula, ordered(a, b, c, d))
    assert isinstance(reading, Interval)
    low, high, sure = float(reading.low[0]), float(reading.high[0]), bool(reading.sure[0])
    if sure:
        assert None not in found
    for value in found:
        assert value is None or low <= value <= high, formula


_CONDITIONS = [
    "x < y", "x <= y", "x == y", "x != y", "x != y within 0.5", "x == y within 1",
    "not x > y", "x < 1 and y < 1", "x < 1 or y < 1", "-2 < x <= y", "sqrt(x) < 2", "x > 0 and 1 / x > y",
]  # fmt: skip


@pytest.mark.parametrize("formula", _CONDITIONS)
@given(_ends, _ends, _ends, _ends)
def test_a_condition_is_decided_only_where_it_is(
    formula: str, a: float, b: float, c: float, d: float
) -> None:
    xl, xh, yl, yh = ordered(a, b, c, d)
    program = program_of(f"check {formula}")
    given = {"x": Interval.of(xl, xh, 1), "y": Interval.of(yl, yh, 1)}
    check = program.lines[-1]
    assert check.checked is not None and check.checked.value is not None
    reading = Boxes(program, 1, given, {}).truth(check.checked.value)
    assert isinstance(reading, Truth)
    memo = Memo(10)
    for x in np.linspace(xl, xh, 7):
        for y in np.linspace(yl, yh, 3):
            found = evaluate_only(program, [check], {"x": float(x), "y": float(y)}, memo)[-1]  # fmt: skip
            if not found.has_value:
                assert not reading.sure[0]
            else:
                assert reading.can_hold[0] if found.value else reading.can_fail[0]


def _tan(x: Any, _: Any) -> Any:
    """mpmath divides sine by cosine, which is wider than the tangent where 0 lies within; that rises from end to end."""
    whole = mpmath.iv.tan(x)
    if mpmath.isinf(whole.a) or mpmath.isinf(whole.b):
        return whole
    return mpmath.iv.mpf([mpmath.iv.tan(x.a).a, mpmath.iv.tan(x.b).b])


_MPMATH = {
    "x + y": lambda x, y: x + y, "x - y": lambda x, y: x - y, "x * y": lambda x, y: x * y,
    "x / y": lambda x, y: x / y, "sqrt(x)": lambda x, y: mpmath.iv.sqrt(x),
    "exp(x)": lambda x, y: mpmath.iv.exp(x), "ln(x)": lambda x, y: mpmath.iv.log(x),
    "sin(x)": lambda x, y: mpmath.iv.sin(x), "cos(x)": lambda x, y: mpmath.iv.cos(x),
    "tan(x)": _tan, "x^3": lambda x, y: x**3, "x^2": lambda x, y: x**2,
}  # fmt: skip


@pytest.mark.parametrize("formula", list(_MPMATH))
@given(_ends, _ends, _ends, _ends)
def test_intervals_hold_those_of_mpmath_and_are_hardly_wider(
    formula: str, a: float, b: float, c: float, d: float
) -> None:
    """mpmath's are outward too, with 15 digits; ours may be wider by the last places of a figure."""
    xl, xh, yl, yh = ordered(a, b, c, d)
    assume("/" not in formula or not yl <= 0 <= yh)
    if formula.startswith(("sqrt", "ln")):
        xl, xh = sorted((abs(xl) + 0.001, abs(xh) + 0.001))
    if formula == "tan(x)":
        xh = min(xh, xl + 0.5)
    program = program_of(f"r = {formula}")
    given = {"x": Interval.of(xl, xh, 1), "y": Interval.of(yl, yh, 1)}
    reading = Boxes(program, 1, given, {}).line("r")
    assert isinstance(reading, Interval)
    with mpmath.workdps(30):
        mpmath.iv.dps = 30
        want = _MPMATH[formula](mpmath.iv.mpf([xl, xh]), mpmath.iv.mpf([yl, yh]))
        low, high = float(want.a), float(want.b)
    assume(abs(low) < 1e6 and abs(high) < 1e6)
    slack = 1e-12 * max(1.0, abs(low), abs(high))
    if formula == "tan(x)":  # near where it has no value, the last place of x counts
        slack += 1e-15 * max(abs(xl), abs(xh)) * (1 + max(low**2, high**2))
    assert reading.low[0] <= low + 1e-300 and high <= reading.high[0] + 1e-300
    assert reading.low[0] >= low - slack and reading.high[0] <= high + slack
