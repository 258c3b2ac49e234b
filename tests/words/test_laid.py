"""Laid between two points: distance and bearing (plane geometry), and what moving and turning does to it."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.sheets import problem, value

_at = st.floats(-1e4, 1e4).map(lambda one: round(one, 3))
_points = st.tuples(_at, _at, _at)


def said(point: tuple[float, ...]) -> str:
    return "(" + ", ".join(f"{one!r} mm" for one in point) + ")"


@given(_points, _points)
def test_it_goes_from_one_point_to_the_other(p: tuple[float, ...], q: tuple[float, ...]) -> None:
    length = math.dist(p, q)
    if length < 1e-3:
        return
    begin, end, up = (
        np.array(value(f"laid({said(p)}, {said(q)}, l -> ({there}))"))
        for there in ("0 m, 0 m, 0 m", "l, 0 m, 0 m", "0 m, 0 m, 1 m")
    )
    assert begin == pytest.approx(p, abs=1e-6) and end == pytest.approx(q, abs=1e-6)
    upward, way = (up - begin) / 1000, (end - begin) / length
    assert np.linalg.norm(upward) == pytest.approx(1) and upward @ way == pytest.approx(0, abs=1e-6)
    assert upward[2] >= -1e-9, "upright as far as it goes"


def test_a_traverse_closes() -> None:
    """Legs laid end to end around a figure come back to where they began: the sums of their parts along
    east and north are nothing (the textbook rule of a closed traverse)."""
    corners = [(0, 0), (5200, 1400), (6100, 5300), (1900, 6600), (-800, 3100)]
    total = np.zeros(3)
    for p, q in zip(corners, [*corners[1:], corners[0]], strict=True):
        end, begin = (
            value(f"laid({said(p)}, {said(q)}, l -> ({x}, 0 mm, 0 mm))") for x in ("l", "0 mm")
        )
        bearing = math.atan2(q[1] - p[1], q[0] - p[0])
        step = np.array(end) - np.array(begin)
        assert math.atan2(step[1], step[0]) == pytest.approx(bearing)
        total += step
    assert total == pytest.approx([0, 0, 0], abs=1e-6)


def test_what_is_laid_has_the_length_of_the_distance() -> None:
    assert value("volume(laid((1 m, 1 m), (4 m, 5 m), l -> box(l, 2 m, 1 m)))") == pytest.approx(
        10e9
    )
    assert value("len(laid((0 m, 0 m), (2 m, 0 m), l -> row(disc(1 mm), 5, l / 4)))") == 5


def test_two_ends_on_one_point_are_refused() -> None:
    found = problem("part p = laid((1 m, 1 m), (1 m, 1 m), l -> box(l, 1 m, 1 m))")
    assert found.message == "the two ends lie on one point"
