"""Regions: flat figures with holes, lying in a plane placed in space."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.mesh import Drawing
from ovolo.geometry.placement import IDENTITY, Matrix, applied
from ovolo.geometry.tolerance import segments_for
from ovolo.problems import Failure

SMALLEST = 1e-6
"""Lengths in mm below this are none."""


@dataclass(frozen=True, eq=False)
class Region:
    """`flat` is the figure in its own plane (mm, rings oriented); `frame` places that plane."""

    flat: BaseGeometry
    frame: Matrix = field(default_factory=lambda: IDENTITY)

    @cached_property
    def key(self) -> str:
        """A digest of the figure, without its place."""
        return hashlib.blake2b(shapely.to_wkb(self.flat), digest_size=12).hexdigest()

    @property
    def area(self) -> float:
        """Area in mm²."""
        return float(self.flat.area)

    def placed(self, matrix: Matrix) -> Region:
        return Region(self.flat, matrix @ self.frame)

    def rings(self) -> list[NDArray[np.float64]]:
        """All rings as open (n, 2) arrays: outlines anticlockwise, holes clockwise."""
        return [
            np.asarray(ring.coords)[:-1]
            for polygon in polygons_of(self.flat)
            for ring in (polygon.exterior, *polygon.interiors)
        ]

    def bounds(self) -> NDArray[np.float64]:
        """The least and greatest corner in space, (2, 3)."""
        corners = np.concatenate(self.rings())
        placed = applied(self.frame, np.column_stack([corners, np.zeros(len(corners))]))
        return np.array([placed.min(axis=0), placed.max(axis=0)])


def polygons_of(flat: BaseGeometry) -> list[shapely.Polygon]:
    """The polygons of a figure; lines and points left over by an overlay are dropped."""
    if isinstance(flat, shapely.Polygon):
        return [] if flat.is_empty else [flat]
    found: list[shapely.Polygon] = []
    for part in getattr(flat, "geoms", ()):
        found.extend(polygons_of(part))
    return found


def _clean(flat: BaseGeometry, what: str) -> BaseGeometry:
    polygons = [p for p in polygons_of(flat) if p.area > SMALLEST**2]
    if not polygons:
        raise Failure(f"{what} leaves nothing", "an empty region cannot be used further")
    oriented = [shapely.orient_polygons(p) for p in polygons]
    return oriented[0] if len(oriented) == 1 else shapely.MultiPolygon(oriented)


def _positive(value: float, what: str) -> float:
    if not value > SMALLEST:
        raise Failure(f"{what} is {value:g} mm", "it must be more than 0")
    return value


def rectangle(width: float, height: float) -> Region:
    """A rectangle centred on the origin."""
    x, y = _positive(width, "the width") / 2, _positive(height, "the height") / 2
    return Region(shapely.Polygon([(-x, -y), (x, -y), (x, y), (-x, y)]))


def regular_polygon(sides: int, radius: float) -> Region:
    """A regular polygon centred on the origin with a corner on the x axis at `radius`."""
    if sides < 3:
        raise Failure(f"a polygon with {sides} sides does not exist", "it takes 3 or more")
    _positive(radius, "the radius")
    angles = 2 * np.pi * np.arange(sides) / sides
    return Region(shapely.Polygon(np.column_stack([np.cos(angles), np.sin(angles)]) * radius))


def disc(radius: float) -> Region:
    """A disc centred on the origin, divided to the chord tolerance."""
    _positive(radius, "the radius")
    return regular_polygon(segments_for(radius), radius)


def from_points(points: NDArray[np.float64], holes: list[NDArray[np.float64]]) -> Region:
    """The region within a closed outline of points (n, 3) that lie in one level plane,
    without its holes. Raises Failure where the outline crosses itself."""
    level = float(points[0, 2]) if len(points) else 0.0
    for ring in (points, *holes):
        if len(ring) < 3:
            raise Failure(f"an outline of {len(ring)} points encloses nothing", "give 3 or more")
        if np.ptp(ring[:, 2]) > SMALLEST or abs(ring[0, 2] - level) > SMALLEST:
            low, high = ring[:, 2].min(), ring[:, 2].max()
            raise Failure(
                f"the points of a region must lie at one height; they lie between {low:g} mm and {high:g} mm",
                "draw it flat and place it afterwards",
            )
        _refuse_crossing(ring[:, :2])
    flat = shapely.Polygon(points[:, :2], [hole[:, :2] for hole in holes])
    if not flat.is_valid:
        raise Failure("a hole crosses the outline or another hole", shapely.is_valid_reason(flat))
    frame = IDENTITY
    if level:
        frame = IDENTITY.copy()
        frame[2, 3] = level
    return Region(_clean(flat, "this outline"), frame)


def _refuse_crossing(ring: NDArray[np.float64]) -> None:
    outline = shapely.LinearRing(ring)
    if outline.is_simple:
        return
    where = _first_crossing(ring)
    if where is None:
        raise Failure("the outline touches itself", "check that no two corners coincide")
    first, second, x, y = where
    raise Failure(
        f"the outline crosses itself near ({x:.6g} mm, {y:.6g} mm), "
        f"between the sides after points {first} and {second}",
        "check the order of its points",
    )


def _first_crossing(ring: NDArray[np.float64]) -> tuple[int, int, float, float] | None:
    """The first two sides (by the index of their start) that cross, and where."""
    ends = np.roll(ring, -1, axis=0)
    sides = shapely.linestrings(np.stack([ring, ends], axis=1))
    tree = shapely.STRtree(sides)
    pairs = tree.query(sides, predicate="intersects")
    count = len(ring)
    apart = (pairs[0] < pairs[1]) & ((pairs[1] - pairs[0]) % count > 1)
    apart &= (pairs[0] - pairs[1]) % count > 1
    for first, second in sorted(pairs[:, apart].T.tolist()):
        point: Any = shapely.intersection(sides[first], sides[second]).centroid
        return first, second, float(point.x), float(point.y)
    return None


_SAID = {"+": "the union", "-": "the difference", "&": "the intersection"}


def combined(operator: str, first: Region, *others: Region) -> Region:
    """Union (+), difference (-) or intersection (&) of regions lying in one plane, all at once."""
    flats = _in_plane_of(first, others)
    if operator == "&":
        flat = shapely.intersection_all([first.flat, *flats])
    elif operator == "+":
        flat = shapely.union_all([first.flat, *flats])
    else:
        flat = shapely.difference(first.flat, shapely.union_all(flats))
    return Region(_clean(flat, f"{_SAID[operator]} of these regions"), first.frame)


def _in_plane_of(first: Region, others: Sequence[Region]) -> list[BaseGeometry]:
    """The figures of the others in the coordinates of the first."""
    relative = np.linalg.inv(first.frame) @ np.array([other.frame for other in others])
    if np.abs(relative[:, 2, 3]).max() > SMALLEST or np.abs(relative[:, 2, :2]).max() > 1e-9:
        raise Failure(
            "the two regions lie in different planes", "combine them flat and place the result"
        )
    flats = np.array([other.flat for other in others])
    points, which = shapely.get_coordinates(flats, return_index=True)
    turned = np.einsum("nij,nj->ni", relative[which, :2, :2], points)
    return list(shapely.set_coordinates(flats, turned + relative[which, :2, 3]))


def drawing_of_region(region: Region) -> Drawing:
    """A region as a flat face with its outline."""
    rings = region.rings()
    triangles = manifold3d.triangulate(rings).astype(np.uint32)
    corners = np.concatenate(rings)
    positions = np.column_stack([corners, np.zeros(len(corners))]).astype(np.float32)
    normals = np.tile(np.array([0, 0, 1], dtype=np.float32), (len(corners), 1))
    ends = np.concatenate([np.stack([ring, np.roll(ring, -1, axis=0)], axis=1) for ring in rings])
    edges = np.concatenate([ends, np.zeros((*ends.shape[:2], 1))], axis=2).astype(np.float32)
    return Drawing(positions, normals, triangles, edges)
