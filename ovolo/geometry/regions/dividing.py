"""Regions and surfaces divided: into cells round points, into triangles, by lines of equal height."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import polyline
from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.regions.cells import cells_round
from ovolo.geometry.regions.region import Region, combined, from_points
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE
from ovolo.geometry.solids.shaping import cut_at
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.surfaces.surface import Surface
from ovolo.geometry.types import Points
from ovolo.problems import Failure

MOST_CELLS = 20_000
MOST_LEVELS = 1_000


def voronoi(points: Points, region: Region) -> list[Region | Failure]:
    """For each point the part of a region that is nearer to it than to any other; a failure where
    that is nothing. Outer edges are the exact ones of the region."""
    if not len(points):
        raise Failure("there are no points to divide the region between", "one or more")
    if len(points) > MOST_CELLS:
        raise Failure(f"{len(points):,} cells are too many", f"at most {MOST_CELLS:,} are made")
    back: Matrix = np.linalg.inv(region.frame).astype(np.float64)
    own = applied(back, points)[:, :2]
    _refuse_equal(own)
    low, high = np.array(region.flat.bounds).reshape(2, 2)
    reach = float(np.ptp(np.vstack([own, low[None], high[None]]), axis=0).max())
    frame = shapely.get_coordinates(shapely.box(*(low - reach), *(high + reach)))[:-1]
    return [_part_within(region, cell) for cell in cells_round(own, frame)]


def _part_within(region: Region, cell: Points) -> Region | Failure:
    part = combined("&", region, _flat(cell).placed(region.frame)) if len(cell) else None
    if part is None or part.is_empty:
        return Failure("no place of the region is nearest to this point")
    return part


def _flat(corners: Points) -> Region:
    """The region within corners (n, 2)."""
    return from_points(np.column_stack([corners, np.zeros(len(corners))]), [])


def _refuse_equal(places: NDArray[np.float64]) -> None:
    rounded = np.rint(places / SAME_PLACE)
    _, first, counts = np.unique(rounded, axis=0, return_index=True, return_counts=True)
    if np.any(counts > 1):
        where = places[first[int(np.argmax(counts > 1))]]
        raise Failure(
            f"two points stand at one place, ({where[0]:.6g}, {where[1]:.6g}) mm", "each once"
        )


def triangles_of_points(points: Points) -> list[Region]:
    """The triangles between points in plan whose circles hold no other point (Delaunay)."""
    if len(points) < 3:
        raise Failure(f"{len(points)} points make no triangle", "three or more")
    if np.ptp(points[:, 2]) > SAME_PLACE:
        raise Failure("the points do not lie at one height", "take those of the plan: (p.x, p.y)")
    _refuse_equal(points[:, :2])
    level = np.eye(4)
    level[2, 3] = points[0, 2]
    return _as_regions(shapely.polygons(_delaunay(points[:, :2])), level)


def _delaunay(places: Points) -> Points:
    """The corners (m, 3, 2) of the triangles between places (n, 2); none where these lie in one line."""
    from scipy.spatial import Delaunay, QhullError

    try:
        return np.asarray(places[Delaunay(places - places.mean(axis=0)).simplices])
    except QhullError:
        return np.empty((0, 3, 2))


def triangles_of_region(region: Region) -> list[Region]:
    """A region in triangles with its own corners; what is round in it as it is divided."""
    made = shapely.constrained_delaunay_triangles(region.flat)
    return _as_regions(shapely.get_parts(made), region.frame)


def _as_regions(triangles: NDArray[np.object_], frame: NDArray[np.float64]) -> list[Region]:
    # Points in one line but for noise, as those at the rim of a grid that was turned, have nothing between them: of a
    # thin triangle the longest side is half of its perimeter.
    height = 2 * shapely.area(triangles) / (shapely.length(triangles) / 2)
    triangles = triangles[height > SAME_PLACE]
    if not len(triangles):
        raise Failure("these points lie in one line: there is no triangle between them")
    if len(triangles) > MOST_CELLS:
        raise Failure(f"{len(triangles):,} triangles are too many", f"at most {MOST_CELLS:,}")
    return [_flat(shapely.get_coordinates(one)[:-1]).placed(frame) for one in triangles]


def levels_between(low: float, high: float, step: float) -> list[float]:
    """The multiples of a step strictly between two heights."""
    if step <= 0:
        raise Failure(f"the step from line to line is {step:g} mm", "more than 0")
    first, last = np.floor(low / step + SAME_SHARE) + 1, np.ceil(high / step - SAME_SHARE) - 1
    if last - first >= MOST_LEVELS:
        raise Failure(f"{last - first + 1:,.0f} levels are too many", f"at most {MOST_LEVELS:,}")
    return [float(number * step) for number in np.arange(first, last + 1)]


def contours_of_solid(solid: Solid, step: float) -> list[Region]:
    """The level sections of a solid at the multiples of a step."""
    low, high = solid.bounds()[:, 2]
    up = np.array([0.0, 0.0, 1.0])
    return [cut_at(solid, up, np.array([0.0, 0.0, z])) for z in levels_between(low, high, step)]


def contours_of_surface(surface: Surface, step: float) -> list[Curve]:
    """The lines of a surface at the multiples of a step: polylines whose corners lie on it, where
    the sides of its patches pass the level."""
    grid = surface.grid
    n, m = grid.shape[:2]
    us, vs = np.meshgrid(np.linspace(0, 1, n), np.linspace(0, 1, m), indexing="ij")
    uv = np.stack([us, vs], axis=-1).reshape(-1, 2)
    heights = grid[..., 2].reshape(-1)
    corners = np.arange(n * m).reshape(n, m)
    a, b, c, d = corners[:-1, :-1], corners[1:, :-1], corners[1:, 1:], corners[:-1, 1:]
    triangles = np.concatenate(
        [np.stack(three, axis=-1).reshape(-1, 3) for three in ((a, b, c), (a, c, d))]
    )
    found: list[Curve] = []
    for level in levels_between(float(heights.min()), float(heights.max()), step):
        for chain in _chains(triangles, heights, level):
            places = _on_level(surface, uv[chain[:, 0]], uv[chain[:, 1]], level)
            apart = np.linalg.norm(np.diff(places, axis=0), axis=1) > SAME_PLACE
            places = places[np.concatenate([[True], apart])]
            if len(places) > 1:
                found.append(polyline(places))
    return found


def _chains(
    triangles: NDArray[np.int64], heights: NDArray[np.float64], level: float
) -> list[NDArray[np.int64]]:
    """The sides (pairs of corners, the lower one first) that a level passes, from each to the next:
    closed chains end with the side they begin with."""
    above = heights >= level  # a corner at the level counts as above it
    beside: dict[tuple[int, int], list[tuple[int, int]]] = {}
    passed = above[triangles].sum(axis=1)
    for triangle in triangles[(passed > 0) & (passed < 3)]:
        sides = [
            (min(i, j), max(i, j))
            for i, j in zip(triangle.tolist(), np.roll(triangle, -1).tolist(), strict=True)
            if above[i] != above[j]
        ]
        one, other = sides
        beside.setdefault(one, []).append(other)
        beside.setdefault(other, []).append(one)
    chains = []
    ends = [side for side, near in beside.items() if len(near) == 1]
    for start in [*ends, *beside]:
        if start not in beside:
            continue
        chain, at = [start], start
        while near := beside.pop(at, None):
            following = [side for side in near if side in beside]
            if not following:
                if start in near and len(chain) > 2:
                    chain.append(start)
                break
            at = following[0]
            chain.append(at)
        chains.append(np.array(chain))
    return chains


def _on_level(
    surface: Surface, a: NDArray[np.float64], b: NDArray[np.float64], level: float
) -> Points:
    """The places (n, 3) of a surface at a level between parameters (n, 2), by false position with
    halved ends (Dowell and Jarratt, the Illinois method, 1971)."""

    def at(share: NDArray[np.float64]) -> Points:
        where = a + share[:, None] * (b - a)
        return surface.at(where[:, 0], where[:, 1])

    low, high = np.zeros(len(a)), np.ones(len(a))
    f_low, f_high = at(low)[:, 2] - level, at(high)[:, 2] - level
    share = low
    for _ in range(60):
        steep = f_high - f_low
        share = np.where(
            steep == 0, low, low - f_low * (high - low) / np.where(steep == 0, 1, steep)
        )
        f = at(share)[:, 2] - level
        same = np.sign(f) == np.sign(f_high)
        f_low = np.where(same, f_low / 2, f_high)
        low = np.where(same, low, high)
        high, f_high = share, f
        if np.abs(f).max() <= SAME_PLACE / 10:
            break
    places = at(share)
    places[:, 2] = level
    return places
