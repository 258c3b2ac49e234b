"""The cells of points and the triangles between them, where many points stand round one place or in one line: on rings and
grids, as they are set out. Areas by formulas, and against scipy.spatial (Qhull)."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy.spatial import ConvexHull, Voronoi

from ovolo.geometry.placement import moved, scaled, turned
from ovolo.geometry.regions import dividing, region
from ovolo.geometry.regions.cells import cells_round
from ovolo.geometry.types import Points

PLACES = [(0.0, 0.0, 0.0, 1.0), (0.7, 0.0, 0.0, 1.0), (2.0, 12_345.6, -54_321.0, 1.0), (0.3, 50.0, 9.0, 10.0), (1.1, 0.0, 7.0, 0.1)]  # fmt: skip
"""An angle, a place and a size to which all is brought."""


def brought(place: tuple[float, ...]) -> Any:
    angle, x, y, size = place
    return (
        moved(np.array([x, y, 0.0]))
        @ turned(angle, np.array([0.0, 0, 1]), np.zeros(3))
        @ scaled(np.full(3, size))
    )


def at(matrix: Any, places: Points) -> Points:
    flat = np.column_stack([places, np.zeros(len(places)), np.ones(len(places))])
    return np.asarray((flat @ matrix.T)[:, :3])


def ring(count: int) -> Points:
    angles = 2 * math.pi * np.arange(count) / count
    return 20 * np.column_stack([np.cos(angles), np.sin(angles)])


def grid(across: int, up: int, lean: float = 0.0) -> Points:
    x, y = np.meshgrid(np.arange(across), np.arange(up))
    return 10 * np.column_stack([(x + lean * (y % 2)).ravel(), y.ravel() * (math.sqrt(0.75) if lean else 1)])  # fmt: skip


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("count", [2, 3, 4, 9, 30, 100])
def test_cells_of_points_on_a_ring_are_equal_sectors(count: int, place: tuple[float, ...]) -> None:
    matrix = brought(place)
    made = dividing.voronoi(at(matrix, ring(count)), region.disc(40.0).placed(matrix))
    share = math.pi * (40 * place[3]) ** 2 / count
    assert [one.area for one in made] == pytest.approx([share] * count, rel=1e-7)  # type: ignore[union-attr]


@pytest.mark.parametrize("place", PLACES)
def test_cells_of_a_grid_are_its_fields(place: tuple[float, ...]) -> None:
    matrix = brought(place)
    sheet = region.rectangle(70.0, 50.0).placed(matrix @ moved(np.array([30.0, 20.0, 0.0])))
    made = dividing.voronoi(at(matrix, grid(7, 5)), sheet)
    assert [one.area for one in made] == pytest.approx([(10 * place[3]) ** 2] * 35, rel=1e-9)  # type: ignore[union-attr]


@pytest.mark.parametrize("count", [5, 40, 400])
def test_cells_of_random_points_are_those_of_qhull(count: int) -> None:
    """Each point has its mirror image in the four sides of the frame, so that all cells end there."""
    places = np.random.default_rng(count).uniform(0, 100, (count, 2))
    frame = np.array([[0.0, 0.0], [100.0, 0.0], [100.0, 100.0], [0.0, 100.0]])
    made = [abs(region._signed(one)) for one in cells_round(places, frame)]
    images = [places * [sx, sy] + [dx, dy] for sx, sy, dx, dy in ((-1, 1, 0, 0), (-1, 1, 200, 0), (1, -1, 0, 0), (1, -1, 0, 200))]  # fmt: skip
    found = Voronoi(np.concatenate([places, *images]))
    known = [ConvexHull(found.vertices[found.regions[found.point_region[one]]]).volume for one in range(count)]  # fmt: skip
    assert made == pytest.approx(known, rel=1e-9) and sum(made) == pytest.approx(1e4, rel=1e-12)


def test_where_no_place_is_nearest_to_a_point_it_has_no_cell() -> None:
    """One in the middle of others, outside of the region."""
    places = np.array([[0.0, 0, 0], [30.0, 0, 0], [31.0, 0, 0], [32.0, 0, 0]])
    near, _, *away = dividing.voronoi(places, region.disc(16.0))
    assert isinstance(near, region.Region) and all(isinstance(one, Exception) for one in away)


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize(
    ("points", "rim"),
    [
        (grid(6, 5), 18),
        (grid(6, 5, 0.5), 15),
        (ring(12), 12),
        (np.concatenate([ring(9), [[0.0, 0.0]]]), 9),
    ],
    ids=["grid", "leaning grid", "ring", "ring and its middle"],
)
def test_triangles_between_points_that_are_set_out(
    points: Points, rim: int, place: tuple[float, ...]
) -> None:
    """Of n points, h of them at the rim, they are 2 n - 2 - h (Euler's formula), over all that lies between the points;
    and no circle round one holds another point (Delaunay)."""
    places = at(brought(place), points)
    made = dividing.triangles_of_points(places)
    assert len(made) == 2 * len(points) - 2 - rim
    assert sum(one.area for one in made) == pytest.approx(hull_of(places), rel=1e-6)
    for one in made:
        middle, radius = circle_round(one.rings()[0] @ one.frame[:2, :2].T + one.frame[:2, 3])
        assert np.linalg.norm(places[:, :2] - middle, axis=1).min() >= radius * (1 - 1e-6)


def hull_of(places: Points) -> float:
    return float(ConvexHull(places[:, :2] - places[:, :2].mean(axis=0)).volume)


def circle_round(corners: Points) -> tuple[Points, float]:
    """The middle of the circle through three points (elementary geometry)."""
    b, c = corners[1] - corners[0], corners[2] - corners[0]
    twice = 2 * (b[0] * c[1] - b[1] * c[0])
    off = np.array([c[1] * (b @ b) - b[1] * (c @ c), b[0] * (c @ c) - c[0] * (b @ b)]) / twice
    return corners[0] + off, float(np.linalg.norm(off))
