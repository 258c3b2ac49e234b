"""Trigonometry against SymPy, evaluated there to 30 digits."""

import pytest
import sympy
from hypothesis import given
from hypothesis import strategies as st

from tests.sheets import value

_DEGREES = st.floats(-720, 720).map(lambda a: round(a, 3)).filter(lambda a: abs(a % 180 - 90) > 0.1)


@given(_DEGREES)
def test_sine_cosine_and_tangent(degrees: float) -> None:
    angle = sympy.Rational(str(degrees)) * sympy.pi / 180
    for name in ("sin", "cos", "tan"):
        exact = float(getattr(sympy, name)(angle).evalf(30))
        assert value(f"{name}({degrees:.3f}°)") == pytest.approx(exact, rel=1e-9, abs=1e-12)


@given(st.floats(-1, 1).map(lambda x: round(x, 6)))
def test_inverse_functions(x: float) -> None:
    for name in ("asin", "acos", "atan"):
        exact = float((getattr(sympy, name)(sympy.Rational(str(x))) * 180 / sympy.pi).evalf(30))
        assert value(f"{name}({x:.6f})") == pytest.approx(exact, rel=1e-9, abs=1e-9)


@given(st.integers(-50, 50), st.integers(-50, 50))
def test_direction_of_a_point(y: int, x: int) -> None:
    if x == y == 0:
        return
    exact = float((sympy.atan2(y, x) * 180 / sympy.pi).evalf(30))
    assert value(f"atan2({y} mm, {x} mm)") == pytest.approx(exact, abs=1e-9)


@pytest.mark.parametrize("degrees", [0, 30, 45, 60, 90, 120, 150, 180, 270, 360])
def test_known_angles_are_exact_to_the_comparison(degrees: int) -> None:
    exact = sympy.nsimplify(sympy.sin(sympy.pi * degrees / 180))
    assert value(f"sin({degrees}°) == {float(exact)!r}") is True
