"""Regions: flat figures with holes, lying in a plane placed in space."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.corners import corner_angles, offset
from ovolo.geometry.curve import Curve, Points
from ovolo.geometry.drafting import circular, close, joined, polyline, straight, to
from ovolo.geometry.enclosed import moments
from ovolo.geometry.mesh import Drawing, triangulated
from ovolo.geometry.placement import IDENTITY, Matrix, applied
from ovolo.geometry.retrace import retraced
from ovolo.geometry.tolerance import segments_for
from ovolo.problems import Failure

SMALLEST = 1e-6
"""Lengths in mm below this are none."""


@dataclass(frozen=True, eq=False)
class Region:
    """`flat` is the figure in its own plane (mm, rings oriented); `frame` places that plane."""

    flat: BaseGeometry
    frame: Matrix = field(default_factory=lambda: IDENTITY)
    drawn: tuple[Curve, ...] = ()
    """The curves in its own plane whose chords `flat` runs on, where it was made of curves."""

    made_of: tuple[tuple[Region, Matrix], ...] = ()
    """The regions it was overlaid from, each with its place in the plane."""

    @cached_property
    def key(self) -> str:
        """A digest of the figure, without its place."""
        return hashlib.blake2b(shapely.to_wkb(self.flat), digest_size=12).hexdigest()

    @cached_property
    def outlines(self) -> tuple[Curve, ...]:
        """Its outlines (anticlockwise) and holes (clockwise) in its own plane, exact wherever it
        was made of curves."""
        sources = self._sources
        if sources:
            return retraced(self.rings(), sources)
        return tuple(
            polyline(np.column_stack([ring, np.zeros(len(ring))])[[*range(len(ring)), 0]])
            for ring in self.rings()
        )

    @property
    def _sources(self) -> list[Curve]:
        """The curves on whose chords it runs, in its own plane."""
        if not self.made_of:
            return list(self.drawn)
        return [
            curve.placed(matrix)
            for region, matrix in self.made_of
            for curve in region._sources or region.outlines
        ]

    @cached_property
    def _moments(self) -> NDArray[np.float64]:
        if not self.drawn and not self.made_of:
            middle = self.flat.centroid
            return np.array([1.0, middle.x, middle.y]) * float(self.flat.area)
        total: NDArray[np.float64] = np.sum([moments(one) for one in self.outlines], axis=0)
        return total

    @property
    def area(self) -> float:
        """Area in mm²."""
        return float(self._moments[0]) * self._growth

    @property
    def _growth(self) -> float:
        """By how much its frame makes areas larger."""
        return float(np.linalg.norm(np.cross(self.frame[:3, 0], self.frame[:3, 1])))

    @property
    def perimeter(self) -> float:
        """The length of its outline and its holes, in mm."""
        return float(sum(curve.length for curve in self.curves()))

    @property
    def centroid(self) -> NDArray[np.float64]:
        """Its centre of area in space, (3,)."""
        area, x, y = self._moments
        centre: NDArray[np.float64] = applied(self.frame, np.array([[x / area, y / area, 0.0]]))[0]
        return centre

    def placed(self, matrix: Matrix) -> Region:
        placed = replace(self, frame=matrix @ self.frame)
        for known in ("outlines", "_moments"):  # they lie in its own plane
            if known in self.__dict__:
                placed.__dict__[known] = self.__dict__[known]
        return placed

    def curves(self) -> list[Curve]:
        """Its outlines and holes in space."""
        return [outline.placed(self.frame) for outline in self.outlines]

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


def clean(flat: BaseGeometry, what: str) -> BaseGeometry:
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
    rim = circular(np.zeros(3), radius, 0.0, 2 * np.pi)
    return Region(shapely.Polygon(rim.points()[:-1, :2]), IDENTITY, (rim,))


def from_curves(outline: Curve, holes: Sequence[Curve]) -> Region:
    """The region within a closed curve in a level plane, without its holes, divided to the chord
    tolerance. Raises Failure where a curve is open, not level, or crosses itself."""
    for curve in (outline, *holes):
        if not curve.closed:
            gap = float(np.linalg.norm(curve.end - curve.start))
            raise Failure(
                f"the outline is open: its ends are {gap:.6g} mm apart", "close it with .close()"
            )
    made = from_points(outline.points()[:-1], [hole.points()[:-1] for hole in holes])
    back: Matrix = np.linalg.inv(made.frame).astype(np.float64)
    return replace(made, drawn=tuple(one.placed(back) for one in (outline, *holes)))


def slot(length: float, radius: float) -> Region:
    """A slot along x: a rectangle with half-round ends; `length` from centre to centre."""
    _positive(length, "the length")
    _positive(radius, "the radius")
    x = length / 2
    ends = np.array([[x, radius, 0.0], [-x, -radius, 0.0]])
    right = circular(np.array([x, 0.0, 0.0]), radius, -np.pi / 2, np.pi)
    left = circular(np.array([-x, 0.0, 0.0]), radius, np.pi / 2, np.pi)
    top = straight(ends[0], np.array([-x, radius, 0.0]))
    bottom = straight(ends[1], np.array([x, -radius, 0.0]))
    return from_curves(joined([right, top, left, bottom]), [])


def star(points: int, outer: float, inner: float) -> Region:
    """A star with its first point on the x axis."""
    if points < 2:
        raise Failure(f"a star of {points} points does not exist", "it takes 2 or more")
    _positive(inner, "the inner radius")
    if inner >= outer:
        raise Failure(f"the inner radius {inner:g} mm is not less than the outer one {outer:g} mm")
    angles = np.pi * np.arange(2 * points) / points
    radii = np.where(np.arange(2 * points) % 2, inner, outer)
    corners = np.column_stack([np.cos(angles), np.sin(angles)]) * radii[:, None]
    return Region(shapely.Polygon(corners))


def sector(inner: float, outer: float, begin: float, end: float) -> Region:
    """A piece of a ring between two radii and two angles; of a disc where the inner radius is 0."""
    if not 0 <= inner < outer:
        raise Failure(
            f"the radii are {inner:g} mm and {outer:g} mm", "from 0 or more to the larger one"
        )
    sweep = end - begin
    if not 0 < sweep < 2 * np.pi:
        raise Failure(
            f"a sector goes from an angle to a greater one, less than 360° on; this one goes "
            f"{np.degrees(sweep):.6g}°",
            "a whole ring is disc(r1) - disc(r0)",
        )
    rim = circular(np.zeros(3), outer, begin, sweep)
    if inner < SMALLEST:
        return from_curves(close(to(to(rim, np.zeros(3)), rim.start)), [])
    back = circular(np.zeros(3), inner, end, -sweep)
    there = straight(rim.end, back.start)
    return from_curves(close(joined([rim, there, back])), [])


def offset_region(region: Region, distance: float) -> Region:
    """The region grown by a distance (below 0: shrunk), its corners rounded on the side they open.
    Raises Failure where nothing is left."""
    exact = _exact_offset(region, distance)
    if exact is not None:
        return exact
    rounds = segments_for(abs(distance)) // 4 if distance else 1
    join = "round" if distance > 0 else "mitre"
    flat = region.flat.buffer(distance, quad_segs=max(rounds, 1), join_style=join, mitre_limit=1e3)
    if not polygons_of(flat):
        raise Failure(
            f"the region vanishes at an offset of {distance:.6g} mm", "make the distance smaller"
        )
    return Region(clean(flat, "this offset"), region.frame)


def _exact_offset(region: Region, distance: float) -> Region | None:
    """The offset from the parallels of its exact outlines; None where one of them vanishes or
    they meet, so that the result has other outlines than the region."""
    if len(polygons_of(region.flat)) > 1 or not (region.drawn or region.made_of):
        return None
    outline, *holes = region.outlines
    try:
        made = from_curves(offset(outline, distance), [offset(hole, -distance) for hole in holes])
    except Failure:
        return None
    return made.placed(region.frame)


Corners = Callable[[Curve, Sequence[int] | None], Curve]
"""Makes something of the corners of those numbers, of all where there are none."""


def with_corners(
    region: Region, change: Corners, wanted: Callable[[int, float, Points], bool] | None = None
) -> Region:
    """A region with its corners changed, all of them or those wanted by their number, their angle
    (radians, measured inside) and their place. They are counted from 0 along the outline, then
    along the holes."""
    if len(polygons_of(region.flat)) > 1:
        raise Failure("this region is in several pieces", "change the corners of each by itself")
    changed: list[Curve] = []
    number = 0
    for outline in region.outlines:
        hole = bool(changed)
        angles = corner_angles(outline)
        chosen = None
        if wanted is not None:
            chosen = [
                at
                for at, (angle, place) in enumerate(angles)
                if wanted(number + at, 2 * np.pi - angle if hole else angle, place)
            ]
        number += len(angles)
        changed.append(outline if chosen == [] else change(outline, chosen))
    return from_curves(changed[0], changed[1:]).placed(region.frame)


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
    return Region(clean(flat, "this outline"), frame)


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
    flats, places = _in_plane_of(first, others)
    if operator == "&":
        flat = shapely.intersection_all([first.flat, *flats])
    elif operator == "+":
        flat = shapely.union_all([first.flat, *flats])
    else:
        flat = shapely.difference(first.flat, shapely.union_all(flats))
    made_of = ((first, IDENTITY), *zip(others, places, strict=True))
    return Region(clean(flat, f"{_SAID[operator]} of these regions"), first.frame, made_of=made_of)


def _in_plane_of(
    first: Region, others: Sequence[Region]
) -> tuple[list[BaseGeometry], NDArray[np.float64]]:
    """The figures of the others in the coordinates of the first, and their places (n, 4, 4)."""
    relative = np.linalg.inv(first.frame) @ np.array([other.frame for other in others])
    if np.abs(relative[:, 2, 3]).max() > SMALLEST or np.abs(relative[:, 2, :2]).max() > 1e-9:
        raise Failure(
            "the two regions lie in different planes", "combine them flat and place the result"
        )
    flats = np.array([other.flat for other in others])
    points, which = shapely.get_coordinates(flats, return_index=True)
    turned = np.einsum("nij,nj->ni", relative[which, :2, :2], points)
    return list(shapely.set_coordinates(flats, turned + relative[which, :2, 3])), relative


_MOST_HATCH_LINES = 4_000


def hatched(region: Region, angle: float, spacing: float) -> NDArray[np.float64]:
    """Lines at an angle (radians) and a spacing (mm) within a region, in space, (n, 2, 3). They
    run through the origin of its plane, so that neighbouring regions are hatched in line."""
    if not spacing > SMALLEST:
        raise Failure(f"the spacing of the hatch is {spacing:g} mm", "it must be more than 0")
    along = np.array([np.cos(angle), np.sin(angle)])
    across = np.array([-along[1], along[0]])
    corners = np.concatenate(region.rings())
    low, high = (corners @ across).min(), (corners @ across).max()
    first, last = np.ceil(low / spacing), np.floor(high / spacing)
    if last - first > _MOST_HATCH_LINES:
        raise Failure(
            f"this hatch would have {last - first:,.0f} lines; at most {_MOST_HATCH_LINES:,} are drawn",
            "space them wider",
        )
    reach = float(np.abs(corners).max()) * 2 + spacing
    middles = np.arange(first, last + 1)[:, None] * spacing * across
    lines = shapely.linestrings(
        np.stack([middles - reach * along, middles + reach * along], axis=1)
    )
    pieces = shapely.get_parts(shapely.intersection(shapely.multilinestrings(lines), region.flat))
    ends = [np.asarray(one.coords)[[0, -1]] for one in pieces if one.length > SMALLEST]
    if not ends:
        return np.empty((0, 2, 3))
    flat = np.concatenate(ends)
    return applied(region.frame, np.column_stack([flat, np.zeros(len(flat))])).reshape(-1, 2, 3)


def drawing_of_region(region: Region) -> Drawing:
    """A region as a flat face with its outline."""
    rings = region.rings()
    triangles = triangulated(rings).astype(np.uint32)
    corners = np.concatenate(rings)
    positions = np.column_stack([corners, np.zeros(len(corners))]).astype(np.float32)
    normals = np.tile(np.array([0, 0, 1], dtype=np.float32), (len(corners), 1))
    ends = np.concatenate([np.stack([ring, np.roll(ring, -1, axis=0)], axis=1) for ring in rings])
    edges = np.concatenate([ends, np.zeros((*ends.shape[:2], 1))], axis=2).astype(np.float32)
    return Drawing(positions, normals, triangles, edges)
