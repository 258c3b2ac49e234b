"""The height of a surface over a place in plan, against equations of surfaces."""

from __future__ import annotations

import functools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ovolo.geometry.placement import moved, scaled, turned
from ovolo.geometry.surfaces.levels import level_over
from ovolo.geometry.surfaces.surface import Surface, by_function
from ovolo.problems import Failure
from tests.sheets import run, value

SHARE = st.floats(0, 1)
Z = np.array([0.0, 0.0, 1.0])


def hill(x: float, y: float) -> float:
    return 300 * math.sin(x / 700) * math.cos(y / 900) + 0.1 * x


@functools.cache
def ground() -> Surface:
    return by_function(lambda u, v: (4000 * u, 3000 * v, hill(4000 * u, 3000 * v)))


@given(SHARE, SHARE)
@settings(max_examples=20, deadline=None)
def test_a_hill_by_its_equation(u: float, v: float) -> None:
    x, y = 4000 * u, 3000 * v
    assert level_over(ground(), x, y) == pytest.approx(hill(x, y), abs=1e-6)


@functools.cache
def ball(r: float) -> Surface:
    def f(u: float, v: float) -> tuple[float, float, float]:
        c, d = 2 * math.pi * u, math.pi * v
        return r * math.sin(d) * math.cos(c), r * math.sin(d) * math.sin(c), -r * math.cos(d)

    return by_function(f)


@given(st.floats(0, 0.999), st.floats(0, 360))
@settings(max_examples=10, deadline=None)
def test_of_a_ball_it_is_the_upper_half(share: float, degrees: float) -> None:
    """x² + y² + z² = r²; over one place it has two, of which the higher counts."""
    r, a = 500.0, math.radians(degrees)
    away = share * r
    found = level_over(ball(r), away * math.cos(a), away * math.sin(a))
    assert found == pytest.approx(math.sqrt(r * r - away * away), abs=1e-5)


def test_a_warped_roof_over_four_corners_is_bilinear() -> None:
    """Between two straight eaves z is bilinear in x and y (the hyperbolic paraboloid of analytic
    geometry)."""
    lines = ("roof = ruled(line((0 m, 0 m, 3 m), (4 m, 0 m, 5 m)), line((0 m, 6 m, 4 m), (4 m, 6 m, 2 m)))",)  # fmt: skip
    for x, y in ((1, 1), (3.5, 0.25), (0, 6), (2, 3), (4, 6)):
        s, t = x / 4, y / 6
        want = (1 - t) * (3 + 2 * s) + t * (4 - 2 * s)
        assert value(f"level(roof, ({x} m, {y} m))", *lines) == pytest.approx(1000 * want, abs=1e-6)


@settings(max_examples=4)
@given(SHARE, SHARE, st.floats(-180, 180), st.floats(0.1, 10))
def test_it_goes_where_the_surface_goes(u: float, v: float, degrees: float, by: float) -> None:
    """Moved, turned about an upright axis, ten times the size: the place goes along."""
    a = math.radians(degrees)
    matrix = moved(np.array([700.0, -300.0, 50.0])) @ scaled(np.array([by] * 3)) @ turned(a, Z, np.zeros(3))  # fmt: skip
    x, y = 4000 * u, 3000 * v
    there = matrix @ np.array([x, y, hill(x, y), 1.0])
    found = level_over(ground().placed(matrix), float(there[0]), float(there[1]))
    assert found == pytest.approx(float(there[2]), abs=1e-5 * max(by, 1))


def test_beside_the_surface_and_over_an_upright_one_it_says_so() -> None:
    with pytest.raises(Failure, match="does not reach over"):
        level_over(ground(), 4000.1, 10)
    wall = by_function(lambda u, v: (1000 * u, 0.0, 500 * v))
    with pytest.raises(Failure, match="does not reach over"):
        level_over(wall, 500, 0)


def test_posts_stand_on_it_each_by_its_own_height() -> None:
    outcome = run(
        "ground = surface((u, v) -> (4 m * u, 3 m * v, 1 m * u * v))",
        "part posts = [box(10 mm, 10 mm, 1 m).move(i * 1 m, 2 m, level(ground, (i * 1 m, 2 m))) for i in 0 .. 4]",
    )
    assert not outcome.problems
    low, high = outcome.parts["posts"].bounds
    assert low[2] == pytest.approx(0, abs=1e-6) and high[2] == pytest.approx(1000 + 1000 * 2 / 3)
