"""Words for numbers, vectors, lists and functions against SymPy, mpmath, NumPy and SciPy."""

from __future__ import annotations

import itertools
import math

import mpmath
import numpy as np
import pytest
import sympy
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats
from scipy.optimize import brentq

from ovolo.words.all import WORDS
from tests.sheets import problem, run, value

NUMBERS = st.floats(-20, 20).map(lambda x: round(x, 4))


@given(NUMBERS)
@settings(max_examples=20, deadline=None)
def test_exponentials_and_logarithms(x: float) -> None:
    for name in ("exp", "sinh", "cosh", "tanh"):
        wanted = float(getattr(mpmath, name)(x))
        assert value(f"{name}({x})") == pytest.approx(wanted, rel=1e-14, abs=1e-15)
    if x > 0:
        assert value(f"ln({x})") == pytest.approx(float(mpmath.log(x)), rel=1e-14, abs=1e-15)
        assert value(f"log10({x})") == pytest.approx(float(mpmath.log10(x)), rel=1e-14, abs=1e-15)


@given(st.lists(st.integers(-(10**6), 10**6), min_size=2, max_size=5))
@settings(max_examples=20, deadline=None)
def test_the_greatest_common_divisor(numbers: list[int]) -> None:
    assert value(f"gcd({', '.join(map(str, numbers))})") == math.gcd(*numbers)
    assert value(f"gcd({numbers})") == math.gcd(*numbers)


@pytest.mark.parametrize(
    ("formula", "wanted"),
    [
        ("fraction(3.25)", 0.25), ("fraction(-0.25)", 0.75), ("fraction(2.9999999999)", 0),
        ("sign(-3 mm)", -1), ("sign(0.1 + 0.2 - 0.3)", 0), ("sign(5 kg)", 1),
        ("mean([1, 2, 6])", 3), ("count([1, 5, 3], x -> x > 2)", 2), ("index_of([3, 5, 8], 8)", 2),
        ("index_of([3, 5, 8], x -> x > 3)", 1), ('index_of(["a", "b"], "b")', 1),
        ("len(unique([0.3, 0.1 + 0.2, 1]))", 2), ("remap(2, 0, 4, 10, 30)", 20),
        ("interpolate([0, 1, 3], [0, 10, 30], 2)", 20), ("random(4) < 1", True),
        ("any([no, no])", False), ("all([yes, no])", False), ("all([])", True),
    ],
)  # fmt: skip
def test_by_hand(formula: str, wanted: float) -> None:
    assert value(f"{formula}") == wanted


@given(
    st.lists(st.sampled_from([0.0, 1e-9, 2e-9, 0.3, 0.1 + 0.2, -5.0, 7e6, 7e6 + 1e-7]), min_size=1)
)
@settings(max_examples=20, deadline=None)
def test_what_is_found_in_a_list_is_equal_and_what_is_left_of_it_is_not(
    figures: list[float],
) -> None:
    """By the rule of `==`, for figures and for points, whatever else is in the list."""
    points = [(one, -one) for one in figures]
    for items in (figures, points):
        lines = (f"xs = {list(items)!r}", f"x = {items[-1]!r}", "kept = unique(xs)")
        assert value("xs[index_of(xs, x)] == x", *lines)
        assert value("all([any(kept, k -> k == one) for one in xs])", *lines)
        equal = "[i for i in 0 .. len(kept) - 1 for j in 0 .. i - 1 if kept[i] == kept[j]]"
        assert value(f"len({equal})", *lines) == 0


def test_a_long_list_is_gone_through_once() -> None:
    assert value("len(unique([i / 7 for i in 0 .. 199999]))") == 200_000
    assert value("len(unique([(mod(i, 100), 3 * mod(i, 7)) for i in 0 .. 49999]))") == 700
    assert value("unique([])") == []


VECTORS = st.tuples(*[st.integers(-9, 9)] * 3)


@given(VECTORS, VECTORS)
@settings(max_examples=20, deadline=None)
def test_products_of_vectors_are_those_of_sympy(a: tuple[int, ...], b: tuple[int, ...]) -> None:
    u, v = sympy.Matrix(a), sympy.Matrix(b)
    p, q = (f"({', '.join(f'({x}) * 1 m' for x in one)})" for one in (a, b))
    assert value(f"dot({p}, {q})") == float(u.dot(v)) * 1e6
    np.testing.assert_allclose(
        run(f"a = cross({p}, {q})").lines[0].value, np.array(u.cross(v), dtype=float).ravel() * 1e6
    )
    assert value(f"norm({p})") == pytest.approx(float(u.norm()) * 1e3, rel=1e-15)
    if any(b):
        projected = u.project(v)
        np.testing.assert_allclose(
            run(f"a = project({p}, {q})").lines[0].value,
            np.array(projected, dtype=float).ravel() * 1e3,
            atol=1e-9,
        )
        across = run(f"a = project({p}, across = {q})").lines[0].value
        np.testing.assert_allclose(
            across, np.array(u - projected, dtype=float).ravel() * 1e3, atol=1e-9
        )
        np.testing.assert_allclose(
            run(f"a = unit({q})").lines[0].value,
            np.array(v / v.norm(), dtype=float).ravel(),
            atol=1e-15,
        )


@pytest.mark.parametrize(
    ("f", "a", "b"),
    [
        ("x^3 - 2*x", -1, 3),
        ("exp(-x^2)", -2, 2),
        ("sqrt(x)", 0, 4),
        ("1 / (1 + x^2)", 0, 10),
        ("sin(x)^2", 0, 6),
    ],
)
def test_integrals_are_those_of_sympy(f: str, a: int, b: int) -> None:
    x = sympy.symbols("x")
    wanted = float(sympy.integrate(sympy.sympify(f.replace("^", "**")), (x, a, b)).evalf(30))
    assert value(f"integrate(x -> {f}, {a}, {b})") == pytest.approx(wanted, rel=1e-11, abs=1e-12)


@pytest.mark.parametrize(
    ("f", "lo", "hi"),
    [
        ("(x - 2)^2", 0, 5),
        ("x^4 - 3*x^2 + x", -2, 2),
        ("sin(3*x) + x / 3", 0, 6),
        ("x", 1, 4),
        ("-x", 1, 4),
    ],
)
def test_the_least_place_is_that_of_sympy(f: str, lo: int, hi: int) -> None:
    x = sympy.symbols("x")
    expression = sympy.sympify(f.replace("^", "**"))
    numeric = sympy.lambdify(x, expression, "math")
    places = [lo, hi, *(float(r) for r in _stationary(expression, x, lo, hi))]
    wanted = min(places, key=numeric)
    assert value(f"minimise(x -> {f}, {lo}, {hi})") == pytest.approx(wanted, abs=1e-6)


def _stationary(expression: sympy.Expr, x: sympy.Symbol, lo: int, hi: int) -> list[float]:
    slope = sympy.lambdify(x, sympy.diff(expression, x), "math")
    steps = np.linspace(lo, hi, 4002)
    signs = [np.sign(slope(float(one))) for one in steps]
    return [
        brentq(slope, a, b)
        for a, b, s, t in zip(steps, steps[1:], signs, signs[1:], strict=False)
        if s * t < 0
    ]


def test_a_smooth_line_keeps_between_its_values() -> None:
    """Fritsch and Butland, 1984: the slope at a place is the weighted harmonic mean of those beside it,
    0 where these differ in sign; the cubic through them is Hermite's."""
    xs, ys = [0, 1, 3, 4, 6], [0, 2, 2.5, 2.5, 7]
    h, d = np.diff(xs), np.diff(ys) / np.diff(xs)
    w1, w2 = 2 * h[1] + h[0], h[1] + 2 * h[0]
    slope1 = (w1 + w2) / (w1 / d[0] + w2 / d[1])
    slope2 = 0.0  # level on one side
    t = (2 - 1) / h[1]
    hermite = (
        (1 + 2 * t) * (1 - t) ** 2 * ys[1]
        + t * (1 - t) ** 2 * h[1] * slope1
        + t**2 * (3 - 2 * t) * ys[2]
        + t**2 * (t - 1) * h[1] * slope2
    )
    assert value(f"interpolate({xs}, {ys}, 2, smooth = yes)") == pytest.approx(hermite, rel=1e-14)
    line = [value(f"interpolate({xs}, {ys}, {x}, smooth = yes)") for x in np.linspace(0, 6, 61)]
    assert all(b >= a - 1e-12 for a, b in itertools.pairwise(line))


def test_chance_is_even_and_a_seed_of_its_own_is_another_chance() -> None:
    outcome = run(
        "input grain = 5",
        "a = [random(i) for i in 0 .. 4999]",
        "b = [random(i, seed = grain) for i in 0 .. 4999]",
    )
    a, b = (line.value for line in outcome.lines[1:])
    for one in (a, b):
        assert stats.kstest(one, "uniform").pvalue > 0.01
    assert abs(np.corrcoef(a, b)[0, 1]) < 0.05


@pytest.mark.parametrize(
    ("formula", "message"),
    [
        ("ln(0)", "`ln` of 0 does not exist"), ("unit((0 m, 0 m))", "no direction"),
        ("interpolate([0, 1], [1, 2], 3)", "lies beyond the last place"),
        ("interpolate([0, 0], [1, 2], 0)", "must rise"), ("integrate(x -> 1 / x, 0, 1)", ""),
        ("index_of([1], 2)", "no item of the list"), ("remap(1, 2, 2, 0, 1)", "has no length"),
        ("mean([])", "empty"), ("minimise(x -> x, 3, 2)", "nothing between"),
        ("gcd(1.5, 2)", "whole number"), ('written(1 m, "kg")', "a unit of it"),
    ],
)  # fmt: skip
def test_what_does_not_exist_is_told(formula: str, message: str) -> None:
    assert message in problem(f"a = {formula}").message


def test_written_texts() -> None:
    """Halves go away from zero, whatever the float64 nearest to the decimal is."""
    for formula, wanted in (
        ('written(3240 mm, "m", 2)', "3.24 m"), ("written(2.345, decimals = 2)", "2.35"),
        ("written(-2.5, decimals = 0)", "-3"), ('written(0.125, "%", 1)', "12.5%"),
        ('written(1 kg/m^3, "g/m^3", 0)', "1000 g/m³"), ('written(3240 mm, "m", 1, bare = yes)', "3.2"),
        ('written(1 m, "ft-in")', "3' 3 3/8\""), ("written(1/3)", "0.333333"),
    ):  # fmt: skip
        assert run(f"a = {formula}").lines[0].value == wanted


def test_all_these_words_are_in_the_registry() -> None:
    missed = "exp ln log10 sinh cosh tanh sign fraction gcd interpolate remap integrate minimise any all count mean unique index_of cross dot unit norm project inside random written voronoi triangulate contours catenary bezier convex_hull"
    assert set(missed.split()) <= set(WORDS)
    assert "hull" not in WORDS
