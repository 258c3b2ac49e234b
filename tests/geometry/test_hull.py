"""Convex hulls, against Shapely's in the plane, and by what they must hold."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely

from ovolo.geometry.meshes.hull import convex_hull
from ovolo.geometry.regions.region import Region
from ovolo.geometry.solids.primitives import extrusion
from ovolo.geometry.solids.shaping import hull
from ovolo.geometry.solids.solid import Solid
from ovolo.problems import Failure

DIRECTIONS = np.random.default_rng(0).normal(size=(500, 3))


def notched(number: int) -> shapely.Polygon:
    """A rounded plate with notches in its long sides."""
    chance = np.random.default_rng(number)
    wide, high = chance.uniform(1, 12_000), chance.uniform(1, 8_000)
    radius = min(wide, high) * chance.uniform(0.01, 0.3)
    plate = shapely.box(radius, radius, wide - radius, high - radius).buffer(radius, quad_segs=int(chance.integers(3, 20)))  # fmt: skip
    for at in range(int(chance.integers(1, 30))):
        x, y = chance.uniform(0, wide), high if at % 2 else 0.0
        plate = plate.difference(shapely.Point(x, y).buffer(radius / 8, quad_segs=1))
    return max(shapely.get_parts(plate), key=shapely.area)


@pytest.mark.parametrize("number", range(40))
def test_a_plate_with_notches_reaches_as_far_as_its_corners_and_its_hull_is_that_of_the_plan(
    number: int,
) -> None:
    plan = notched(number)
    plate = extrusion(Region(shapely.geometry.polygon.orient(plan)), 2.0)
    assert isinstance(plate, Solid)
    corners = plate.shape.mesh.corners
    for bounds in (plate.shape.extremes, convex_hull(corners).corners):  # type: ignore[union-attr]
        np.testing.assert_array_equal((bounds @ DIRECTIONS.T).max(0), (corners @ DIRECTIONS.T).max(0))  # fmt: skip
    round_it = hull([plate], np.empty((0, 3)))
    assert round_it.volume == pytest.approx(2.0 * plan.convex_hull.area, rel=1e-12)


@pytest.mark.parametrize("count", [2, 3, 7])
def test_the_hull_of_a_grid_of_points_is_a_closed_box(count: int) -> None:
    grid = np.array(list(itertools.product(range(count), repeat=3)), dtype=float)
    found = convex_hull(grid)
    assert found is not None and found.is_closed() and len(found.corners) == 8
    assert found.volume() == pytest.approx((count - 1) ** 3)


def test_the_hull_of_points_on_a_ball_has_them_all() -> None:
    points = DIRECTIONS / np.linalg.norm(DIRECTIONS, axis=1)[:, None]
    found = convex_hull(points)
    assert found is not None and found.is_closed() and len(found.corners) == len(points)
    assert len(found.triangles) == 2 * len(points) - 4  # Euler


def test_points_in_a_plane_or_too_few_have_none() -> None:
    flat = np.column_stack([DIRECTIONS[:, :2], np.zeros(len(DIRECTIONS))])
    assert convex_hull(flat) is None and convex_hull(DIRECTIONS[:3]) is None
    with pytest.raises(Failure, match="hull"):
        hull([], flat)
