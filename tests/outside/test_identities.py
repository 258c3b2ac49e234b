"""Identities that SymPy proves, tried by sheets with random values."""

import pytest
import sympy
from hypothesis import given
from hypothesis import strategies as st

from tests.sheets import value

a, b = sympy.symbols("a b", real=True)
IDENTITIES = [
    ("sin(a + b)", "sin(a)*cos(b) + cos(a)*sin(b)"),
    ("cos(2*a)", "1 - 2*sin(a)^2"),
    ("sin(a)^2 + cos(a)^2", "1"),
    ("(a + b)^3", "a^3 + 3*a^2*b + 3*a*b^2 + b^3"),
    ("tan(a)*cos(a)", "sin(a)"),
]


@pytest.mark.parametrize(("left", "right"), IDENTITIES)
@given(st.floats(-1.4, 1.4), st.floats(-1.4, 1.4))
def test_both_sides_agree(left: str, right: str, x: float, y: float) -> None:
    difference = sympy.sympify(f"({left}) - ({right})".replace("^", "**"))
    assert sympy.simplify(difference) == 0
    lines = (f"a = {x:.9f}", f"b = {y:.9f}")
    assert value(left, *lines) == pytest.approx(value(right, *lines), rel=1e-9, abs=1e-12)
