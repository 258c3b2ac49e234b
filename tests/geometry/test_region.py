"""Regions."""

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import given
from hypothesis import strategies as st

from ovolo.geometry.placement import moved, turned
from ovolo.geometry.regions import region
from ovolo.problems import Failure


def outline(*points: tuple[float, ...]) -> np.ndarray:
    return np.array([(*point, 0.0)[:3] for point in points])


def test_an_outline_may_run_either_way() -> None:
    square = outline((0, 0), (4, 0), (4, 4), (0, 4))
    assert region.from_points(square, []).area == region.from_points(square[::-1], []).area == 16


def test_holes_are_left_out() -> None:
    hole = outline((1, 1), (2, 1), (2, 2), (1, 2))
    made = region.from_points(outline((0, 0), (4, 0), (4, 4), (0, 4)), [hole])
    assert made.area == 15
    assert len(made.rings()) == 2


def test_a_crossing_names_the_place_and_the_points() -> None:
    bow = outline((0, 0), (10, 10), (10, 0), (0, 10))
    with pytest.raises(
        Failure, match=r"near \(5 mm, 5 mm\), between the sides after points 0 and 2"
    ):
        region.from_points(bow, [])


def test_points_must_lie_at_one_height() -> None:
    with pytest.raises(Failure, match="between 0 mm and 3 mm"):
        region.from_points(np.array([(0.0, 0, 0), (1, 0, 3), (0, 1, 0)]), [])


def test_an_outline_at_a_height_lies_there() -> None:
    made = region.from_points(np.array([(0.0, 0, 7), (1, 0, 7), (0, 1, 7)]), [])
    assert made.bounds()[:, 2].tolist() == [7, 7]


@given(st.floats(1, 50), st.floats(-30, 30), st.floats(0, 6))
def test_inclusion_and_exclusion(radius: float, shift: float, angle: float) -> None:
    a = region.rectangle(40, 30)
    b = region.disc(radius).placed(turned(angle, [0, 0, 1], np.zeros(3)))
    b = b.placed(moved([shift, 0, 0]))
    try:
        both = region.combined("&", a, b).area
    except Failure:
        both = 0.0
    assert region.combined("+", a, b).area + both == pytest.approx(a.area + b.area, rel=1e-9)


def test_regions_in_different_planes_cannot_be_combined() -> None:
    above = region.rectangle(1, 1).placed(moved([0, 0, 5.0]))
    with pytest.raises(Failure, match="different planes"):
        region.combined("+", region.rectangle(2, 2), above)


def test_what_lies_within_an_odd_number_of_figures() -> None:
    """A square in a square in a square, by Shapely's areas; no figures give none."""
    squares = [shapely.box(-k, -k, k, k) for k in (1, 2, 3)]
    assert region.within_odd(squares).area == 36 - 16 + 4
    assert region.within_odd([]).is_empty
    turned = shapely.affinity.rotate(shapely.box(0, 0, 3, 9), 114.59155902616465, (0, 0))
    assert region.within_odd([turned]).area == pytest.approx(27)
