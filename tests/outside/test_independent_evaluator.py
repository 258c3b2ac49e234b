"""7,500 random formulas against an evaluator of its own making (mpmath, exact fractions)."""

from typing import Any

import pytest
from mpmath import mpf

from ovolo.formats.attached import read_files
from ovolo.outcome.outcome import outcome_of
from ovolo.quantities.kinds import PointKind, Quantity
from tests.outside.evaluator import EPS, TABLE, Formulas, Value

TABLES = read_files({"parts.csv": TABLE.encode()})
SHEETS, FORMULAS, DEPTH = 15, 500, 3


@pytest.mark.parametrize("seed", range(SHEETS))
def test_random_formulas_are_worth_what_an_independent_evaluator_says(seed: int) -> None:
    formulas = Formulas(seed)
    wanted = [formulas.any(DEPTH) for _ in range(FORMULAS)]
    lines = ['file parts = "parts.csv"', *(f"v{at} = {one.text}" for at, one in enumerate(wanted))]
    outcome = outcome_of("\n".join(lines), tables=TABLES, time_limit=120)
    assert not outcome.problems, [(str(p), lines[p.line - 1]) for p in outcome.problems[:3]]
    for line, one in zip(outcome.lines[1:], wanted, strict=True):
        assert line.line.kind is not None
        assert _is(line.value, line.line.kind, one), f"{one.text} is {one.value}, not {line.value}"


def _is(found: Any, kind: object, wanted: Value) -> bool:
    """Whether a value is the wanted one, but for what a float64 must miss of it."""
    if isinstance(kind, Quantity):
        return _near(found, wanted.value, wanted.miss)
    if isinstance(kind, PointKind):
        pairs = zip(found, wanted.value, wanted.miss, strict=True)
        return all(_near(x, value, miss) for x, value, miss in pairs)
    return bool(found == wanted.value)


def _near(found: float, wanted: Any, miss: Any) -> bool:
    return bool(
        abs(mpf(float(found)) - wanted) <= 4 * miss + 8 * EPS * abs(wanted) + mpf(10) ** -15
    )
