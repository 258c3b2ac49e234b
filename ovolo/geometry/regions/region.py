"""Regions: flat figures with holes, lying in a plane placed in space."""

from __future__ import annotations

import functools
import hashlib
import math
from collections.abc import Callable, Sequence
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from msgspec import Struct, field
from msgspec.structs import replace
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.coat import Coat
from ovolo.geometry.curves.corners import corner_angles, offset
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import circular, close, joined, straight, to
from ovolo.geometry.curves.pieces import Arc, Piece, Straight
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import Drawing, triangulated
from ovolo.geometry.placement import IDENTITY, Matrix, applied, keeps_lengths, moved
from ovolo.geometry.regions.coincidence import shared_sides
from ovolo.geometry.regions.moments import moments
from ovolo.geometry.regions.near_touching import all_but_touch, part_of
from ovolo.geometry.regions.overlaying import overlaid
from ovolo.geometry.regions.retrace import (
    Sides,
    Trace,
    outlines_at,
    retraced,
    trace_of,
    traces_together,
)
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE, SMALLEST
from ovolo.geometry.thing import OBJECT, Drawable
from ovolo.geometry.tolerance import (
    CHORD_SHARE,
    Chords,
    chord_tolerance,
    chords_together,
    missed_by_chords,
    segments_for,
)
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure

_THIN = 0.1
"""What share of it chords may miss of a region before that is told."""

_DEEPEST = 32
"""Of regions that were put together more often than this, one after the other, only the outlines are kept."""

_OF_A_CORNER = 40
"""Bytes, in the library that keeps it and in the arrays made of it."""


class Region(Drawable, Struct, frozen=True, eq=False, dict=True):
    """`flat` is the figure in its own plane (mm, rings oriented); `frame` places that plane and
    keeps lengths: whatever stretches a region changes the figure itself."""

    flat: BaseGeometry
    frame: Matrix = field(default_factory=lambda: IDENTITY)
    drawn: tuple[Curve, ...] = ()
    """The curves in its own plane whose sides `flat` runs on, where it was made of curves."""

    made_of: tuple[tuple[Region, Matrix], ...] = ()
    """The regions it was overlaid from, each with its place in the plane."""

    operator: str = "+"
    """How they were put together."""

    whole: bool = False
    """Whether the curves are just its outline and its holes, in the order of the rings."""

    why_empty: str = ""
    coat: Coat | None = None
    missed: float = 0.0
    """By what share its area may be wrong, where its outlines are chords of what is round."""

    word = "region"

    @property
    def is_empty(self) -> bool:
        return bool(self.flat.is_empty)

    @cached_property
    def key(self) -> str:
        """A digest of the figure, without its place."""
        flat = hashlib.blake2b(shapely.to_wkb(self.flat), digest_size=12).hexdigest()
        if self.missed:
            flat = digest(flat, "by chords", self.missed)
        if not self.drawn and not self.made_of:
            return flat
        sources = [one for part, matrix in self.made_of for one in (part.key, np.round(matrix, 9))]
        return digest(flat, *(curve.key for curve in self.drawn), *sources)

    @cached_property
    def depth(self) -> int:
        """How many overlays it was put together by, one after the other."""
        return 1 + max((part.depth for part, _ in self.made_of), default=0)

    def settled(self) -> Region:
        """The same region by its outlines, which no longer knows what it was put together from; itself, where outlines all
        but touch and its sides do not tell them."""
        if len(self.outlines) != len(self.rings()):
            return self
        return replace(self, drawn=self.outlines, made_of=(), whole=True, missed=self.within)

    def as_rough_as(self, other: Region) -> Region:
        """The region, told to be no more exact than what it was made from."""
        return self if other.within <= self.within else replace(self, missed=other.within)

    @property
    def fingerprint(self) -> str:
        return digest("region", self.key, self.frame)

    @property
    def weight(self) -> int:
        return 4 * OBJECT + _OF_A_CORNER * int(shapely.get_num_coordinates(self.flat))

    @property
    def outlines(self) -> tuple[Curve, ...]:
        """Its outlines (anticlockwise) and holes (clockwise) in its own plane, exact wherever it
        was made of curves."""
        return self._outlines[0]

    @property
    def exact(self) -> bool:
        """Whether its outlines are the true ones throughout."""
        return self._outlines[1] and not self.by_chords

    @cached_property
    def by_chords(self) -> bool:
        """Whether outlines of it are chords themselves, as those of a section of what is round."""
        return bool(self.missed) or any(part.by_chords for part, _ in self.made_of)

    @property
    def within(self) -> float:
        """By what share its area may be wrong; 0 where it is exact."""
        if self.is_empty or self.exact:
            return 0.0
        return max([self.missed or self._missed_by_sides, *(part.within for part, _ in self.made_of)])  # fmt: skip

    @property
    def _missed_by_sides(self) -> float:
        """By what share its area may be wrong where its outlines could not be followed: the usual one of chords, and
        more of what is hardly wider than they miss."""
        size = 2 * float(self.circles[:, 2].max(initial=0.0)) or float(self.flat.length)
        strip = missed_by_chords(size, self._tolerance) * self.flat.length
        thin = min(strip / self.flat.area, 1.0)
        return thin if thin > _THIN else CHORD_SHARE

    @cached_property
    def _outlines(self) -> tuple[tuple[Curve, ...], bool]:
        if self.whole:
            return tuple(map(_turned_alike, self.drawn, self.rings())), True
        if not self.drawn and not self.made_of:
            return tuple(_ring_of(ring) for ring in self.rings()), True
        if self._needs_finer:
            return self._traced_finely() or (self._traced[0], False)
        return self._traced

    @cached_property
    def _traced(self) -> tuple[tuple[Curve, ...], bool]:
        """Its outlines, found on its own sides."""
        return retraced(self.rings(), self.trace)

    @cached_property
    def _needs_finer(self) -> bool:
        """Whether its sides do not tell its outlines, or those of what it is made of."""
        if not self.made_of:
            return False
        if not self._traced[1] or any(part._needs_finer for part, _ in self.made_of):
            return True
        return self._all_but_touch(self._tolerance)

    @cached_property
    def _tolerance(self) -> float:
        """By how many mm the sides may miss the curves that it is made of."""
        return min(
            [*(curve.tolerance for curve in self.drawn), *(part._tolerance for part, _ in self.made_of)],
            default=chord_tolerance(),
        )  # fmt: skip

    def _all_but_touch(self, tolerance: float) -> bool:
        """Whether what it is made of comes nearer to each other than such sides tell apart."""
        if len(self.made_of) < 2 or not len(self.circles):
            return False
        parts = zip(_placed_flats(self.made_of), _circles_placed(self.made_of), self.made_of, strict=True)  # fmt: skip
        placed = [
            part_of(flat, circles, [curve.placed(at) for curve in part._curves])
            for flat, circles, (part, at) in parts
        ]  # fmt: skip
        return all_but_touch(placed, 2 * tolerance, 4 * self._tolerance)

    @property
    def _curves(self) -> tuple[Curve, ...]:
        """What it is drawn by, or its outlines, where it is put together."""
        return self.drawn or self.outlines

    def _traced_finely(self) -> tuple[tuple[Curve, ...], bool] | None:
        """Its outlines, found on much shorter sides: where outlines part at so small an angle that
        the usual ones still lie upon each other; where that does not help, either, the finest without what is thinner than
        these sides miss. None where nothing was found."""
        if not all(part.exact for part, _ in self.made_of):
            return None
        found = None
        outlines = [
            tuple(curve.placed(matrix) for curve in part.outlines) for part, matrix in self.made_of
        ]
        for share in _FINER:
            tolerance = share * self._tolerance
            touches = self._all_but_touch(tolerance)
            if share != _FINER[-1] and touches:
                continue
            made = overlay(self.operator, [(_divided_to(tolerance, curves), IDENTITY) for curves in outlines])  # fmt: skip
            if made.is_empty:
                break
            curves, exact = retraced(made.rings(), made.trace)
            if exact:
                return curves, not touches
            rings = [ring for ring in made.rings() if not _is_thinner(ring, 4 * tolerance)]
            found = (retraced(rings, made.trace)[0], False) if rings else None
        return found

    @cached_property
    def straight(self) -> bool:
        """Whether all of its outlines are straight."""
        if self.made_of:
            return all(part.straight for part, _ in self.made_of)
        return all(isinstance(p, Straight) for curve in self.drawn for p in curve.pieces)

    @property
    def is_polygon(self) -> bool:
        """Whether its outlines are known, and straight: what stands on them is bounded by planes."""
        return self.straight and self.exact

    @property
    def chords(self) -> Chords:
        """How its sides lie to what is round in its outlines: outside of it, where that is arcs of circles."""
        if self.made_of:
            return chords_together(part.chords for part, _ in self.made_of)
        pieces = (piece for curve in self.drawn for piece in curve.pieces)
        arcs = all(isinstance(p, Straight) or (isinstance(p, Arc) and p.is_circle) for p in pieces)
        return "outside" if arcs else "even"

    @cached_property
    def trace(self) -> Trace:
        """The sides it is made of, with the curves they stand for."""
        if self.made_of:
            return traces_together([part.trace.placed(at) for part, at in self.made_of])
        return trace_of(self.drawn or self.outlines)

    @cached_property
    def circles(self) -> NDArray[np.float64]:
        """Centre and radius (k, 3) of the circles whose arcs it is made of, in its own plane."""
        if self.made_of:
            return np.concatenate(_circles_placed(self.made_of))
        arcs = [
            p for curve in self.drawn for p in curve.pieces if isinstance(p, Arc) and p.is_circle
        ]
        return np.array([[*arc.centre[:2], arc.radius] for arc in arcs]).reshape(-1, 3)

    @cached_property
    def moments(self) -> NDArray[np.float64]:
        """Area (mm²), and the integrals of x, y, x², xy and y² over it, in its own plane."""
        if self.is_empty:
            return np.zeros(6)
        total: NDArray[np.float64] = np.sum([moments(one) for one in self.outlines], axis=0)
        return total

    @property
    def area(self) -> float:
        """Area in mm²."""
        return float(self.moments[0])

    @property
    def perimeter(self) -> float:
        """The length of its outline and its holes, in mm."""
        return float(sum(curve.length for curve in self.outlines))

    @property
    def centroid(self) -> NDArray[np.float64]:
        """Its centre of area in space, (3,)."""
        area, x, y = self.moments[:3]
        centre: NDArray[np.float64] = applied(self.frame, np.array([[x / area, y / area, 0.0]]))[0]
        return centre

    def placed(self, matrix: Matrix) -> Region:
        """The region where a placement takes it."""
        together = matrix @ self.frame
        if keeps_lengths(together):
            placed = replace(self, frame=together)
            for known in ("key", "_outlines", "trace", "circles", "moments"):
                if known in self.__dict__:  # they lie in its own plane
                    placed.__dict__[known] = self.__dict__[known]
            return placed
        stretch, frame = _parted_into_stretch_and_motion(together)
        return replace(self._stretched(stretch), frame=frame, coat=self.coat)

    def _stretched(self, matrix: Matrix) -> Region:
        """The figure changed within its plane."""
        (a, b), (c, d) = matrix[:2, :2]
        x, y = matrix[:2, 3]
        flat = oriented(affinity.affine_transform(self.flat, [a, b, c, d, x, y]))
        made = Region(
            flat,
            IDENTITY,
            tuple(curve.placed(matrix) for curve in self.drawn),
            tuple((part, matrix @ at) for part, at in self.made_of),
            self.operator,
            self.whole,
            missed=self.missed,
        )
        if "trace" in self.__dict__:
            made.__dict__["trace"] = self.trace.placed(matrix)
        return made

    def in_plan(self) -> Region:
        """The same region, which lies in plan at height 0, with that as its own plane."""
        level = self.frame.copy()
        level[2, 3] = 0.0
        if np.array_equal(level, IDENTITY):
            return self
        return replace(self._stretched(level), frame=IDENTITY)

    def curves(self) -> list[Curve]:
        """Its outlines and holes in space."""
        return [outline.placed(self.frame) for outline in self.outlines]

    @property
    def drawing_key(self) -> str:
        """What tells its picture from others."""
        return f"region:{self.key}"

    @property
    def drawn_at(self) -> Matrix:
        """Where its picture stands."""
        return self.frame

    @property
    def drawing(self) -> Drawing:
        """A flat face with its outline, in its own plane."""
        rings = self.rings()
        triangles = triangulated(rings).astype(np.uint32)
        corners = np.concatenate(rings)
        positions = np.column_stack([corners, np.zeros(len(corners))]).astype(np.float32)
        normals = np.tile(np.array([0, 0, 1], dtype=np.float32), (len(corners), 1))
        ends = np.concatenate(
            [np.stack([ring, np.roll(ring, -1, axis=0)], axis=1) for ring in rings]
        )
        edges = np.concatenate([ends, np.zeros((*ends.shape[:2], 1))], axis=2).astype(np.float32)
        return Drawing(positions, normals, triangles, edges)

    def rings(self) -> list[NDArray[np.float64]]:
        """All rings as open (n, 2) arrays: outlines anticlockwise, holes clockwise."""
        return rings_of(self.flat)

    def uncut_rings(self) -> list[NDArray[np.float64]]:
        """The rings (n, 2) of the round figures that it was made of, as they were before, in its plane."""
        if not self.made_of:
            return self.rings() if self.drawn else []
        return [
            ring @ at[:2, :2].T + at[:2, 3]
            for part, at in self.made_of
            for ring in part.uncut_rings()
        ]

    def bounds(self) -> NDArray[np.float64]:
        """The least and greatest corner in space, (2, 3)."""
        each = np.array([curve.bounds() for curve in self.curves()])
        return np.array([each[:, 0].min(axis=0), each[:, 1].max(axis=0)])

    def drawn_bounds(self) -> NDArray[np.float64]:
        corners = shapely.get_coordinates(self.flat)
        placed = applied(self.frame, np.column_stack([corners, np.zeros(len(corners))]))
        return np.array([placed.min(axis=0), placed.max(axis=0)])


MadeOf = tuple[tuple[Region, Matrix], ...]


def _ring_of(ring: NDArray[np.float64]) -> Curve:
    """The closed line through the corners (n, 2) of a ring."""
    corners = np.column_stack([ring, np.zeros(len(ring))])
    return Curve(
        tuple(Straight(a, b) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True))
    )


def _turned_alike(curve: Curve, ring: NDArray[np.float64]) -> Curve:
    """A closed curve, running as the ring of its sides does."""
    own = curve.sides()[:-1, :2]
    return curve if _signed(own) * _signed(ring) > 0 else curve.reversed()


def _is_thinner(ring: NDArray[np.float64], width: float) -> bool:
    """Whether a strip of this width (mm) as long as the ring (n, 2) encloses more than it."""
    around = float(np.linalg.norm(ring - np.roll(ring, -1, axis=0), axis=1).sum())
    return abs(_signed(ring)) < width * around / 2


def _signed(ring: NDArray[np.float64]) -> float:
    x, y = (ring - ring[0]).T
    return float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)) / 2)


def _circles_placed(made_of: MadeOf) -> list[NDArray[np.float64]]:
    """The circles (k, 3) of each of some regions as they are placed; none of those that are made
    ellipses."""
    counts = [len(part.circles) for part, _ in made_of]
    every = np.concatenate([part.circles for part, _ in made_of])
    owner = np.repeat(np.arange(len(counts)), counts)
    matrices = np.array([matrix for _, matrix in made_of])
    linear = matrices[:, :2, :2]
    gram = np.einsum("nji,njk->nik", linear, linear)
    square = np.trace(gram, axis1=1, axis2=2) / 2
    even = np.abs(gram - square[:, None, None] * np.eye(2)).max(axis=(1, 2)) <= SAME_SHARE * square
    centres = np.einsum("nij,nj->ni", linear[owner], every[:, :2]) + matrices[owner, :2, 3]
    placed = np.column_stack([centres, every[:, 2] * np.sqrt(square)[owner]])
    edges = np.cumsum(counts)[:-1]
    return [
        rows if is_even else rows[:0]
        for rows, is_even in zip(np.split(placed, edges), even, strict=True)
    ]


def _parted_into_stretch_and_motion(matrix: Matrix) -> tuple[Matrix, Matrix]:
    """A placement of a plane as a change within it, and a motion that follows: the plane's normal
    stays on the side to which it is carried."""
    a, b, c = matrix[:3, :3].T
    across = cross_product(a, b)
    size = float(np.linalg.norm(across))
    if size < SAME_SHARE * float(np.linalg.norm(a)) * float(np.linalg.norm(b)) or not size:
        raise Failure("this placing leaves nothing of a region", "a factor above 0")
    normal = across / size * (1.0 if across @ c >= 0 else -1.0)
    x = a / np.linalg.norm(a)
    y = cross_product(normal, x)
    stretch, motion = np.eye(4), np.eye(4)
    stretch[:2, :2] = [[a @ x, b @ x], [a @ y, b @ y]]
    motion[:3] = np.column_stack([x, y, normal, matrix[:3, 3]])
    return stretch, motion


def rings_of(flat: BaseGeometry) -> list[NDArray[np.float64]]:
    """The rings of a figure as open (n, 2) arrays."""
    return [
        np.asarray(ring.coords)[:-1]
        for polygon in polygons_of(flat)
        for ring in (polygon.exterior, *polygon.interiors)
    ]


def oriented(flat: BaseGeometry) -> BaseGeometry:
    """The figure with its outlines anticlockwise and its holes clockwise."""
    polygons = [shapely.orient_polygons(one) for one in polygons_of(flat)]
    return polygons[0] if len(polygons) == 1 else shapely.MultiPolygon(polygons)


def nothing(why: str) -> Region:
    """An empty region: it adds nothing and cuts nothing."""
    return Region(shapely.Polygon(), why_empty=why)


def polygons_of(flat: BaseGeometry) -> list[shapely.Polygon]:
    """The polygons of a figure; lines and points left over by an overlay are dropped."""
    if isinstance(flat, shapely.Polygon):
        return [] if flat.is_empty else [flat]
    found: list[shapely.Polygon] = []
    for part in getattr(flat, "geoms", ()):
        found.extend(polygons_of(part))
    return found


def within_odd(figures: Sequence[BaseGeometry]) -> BaseGeometry:
    """What lies within an odd number of some figures. The first of them begins: with an empty one the
    library fails for some figures ("scale factor must be non-zero")."""
    return functools.reduce(shapely.symmetric_difference, figures) if figures else shapely.Polygon()


def clean(flat: BaseGeometry, what: str) -> BaseGeometry:
    """The areas of a figure, orientated, without slivers. Raises Failure where none is left; `what` says
    of what."""
    polygons = [p for p in polygons_of(flat) if not _is_sliver(p)]
    if not polygons:
        raise Failure(f"{what} leaves nothing", "an empty region cannot be used further")
    return oriented(polygons[0] if len(polygons) == 1 else shapely.MultiPolygon(polygons))


def _is_sliver(polygon: shapely.Polygon) -> bool:
    """Whether a figure is thinner than a place: left over where outlines all but coincide."""
    return bool(2 * polygon.area < 2 * SAME_PLACE * polygon.length)


def _empty(**sizes: float) -> str:
    """Why a figure of these sizes is empty; nothing where it is not. Refuses sizes below 0."""
    for name, size in sizes.items():
        if size < -SMALLEST:
            raise Failure(f"{name} is {size:g} mm", "it must be more than 0")
        if size <= SMALLEST:
            return f"{name} is 0 mm"
    return ""


def rectangle(width: float, height: float) -> Region:
    """A rectangle centred on the origin.

    >>> rectangle(400.0, 250.0).area
    100000.0
    """
    if why := _empty(width=width, height=height):
        return nothing(why)
    x, y = width / 2, height / 2
    return Region(shapely.Polygon([(-x, -y), (x, -y), (x, y), (-x, y)]))


MOST_SIDES = 100_000
"""A polygon of more sides is refused."""


def regular_polygon(sides: int, radius: float) -> Region:
    """A regular polygon centred on the origin with a corner on the x axis at `radius`.

    >>> round(regular_polygon(6, 10.0).area, 6)
    259.807621
    """
    if sides > MOST_SIDES:
        raise Failure(f"{sides:,} sides are too many", f"at most {MOST_SIDES:,} are drawn")
    if sides < 3:
        raise Failure(f"a polygon with {sides} sides does not exist", "it takes 3 or more")
    if why := _empty(radius=radius):
        return nothing(why)
    angles = 2 * np.pi * np.arange(sides) / sides
    return Region(shapely.Polygon(np.column_stack([np.cos(angles), np.sin(angles)]) * radius))


def disc(radius: float) -> Region:
    """A disc centred on the origin, divided to the chord tolerance.

    >>> bool(np.isclose(disc(10.0).area, np.pi * 100, rtol=1e-9))
    True
    """
    if why := _empty(radius=radius):
        return nothing(why)
    return disc_of(radius, segments_for(radius))


def disc_of(radius: float, segments: int) -> Region:
    """A disc with so many sides."""
    rim = circular(np.zeros(3), radius, 0.0, 2 * np.pi)

    def sides(piece: Any) -> tuple[Points, Points]:
        return piece.divided(segments)  # type: ignore[no-any-return]

    trace = trace_of((rim,), sides)
    made = Region(shapely.Polygon(outlines_at(trace)[0]), IDENTITY, (rim,), whole=True)
    made.__dict__["trace"] = trace
    return made


def from_curves(outline: Curve, holes: Sequence[Curve]) -> Region:
    """The region within a closed curve in a level plane, without its holes, divided to the chord
    tolerance. Raises Failure where a curve is open, not level, or crosses itself."""
    for curve in (outline, *holes):
        if not curve.closed:
            gap = float(np.linalg.norm(curve.end - curve.start))
            raise Failure(
                f"the outline is open: its ends are {gap:.6g} mm apart", "close it with .close()"
            )
    curves = (outline, *holes)
    try:
        made, sides = _within([curve.sides() for curve in curves]), None
    except Failure:
        # At a tip without an angle the sides outside of an arc fold over; its chords need not.
        made, sides = _within([curve.points() for curve in curves]), _by_chords
    back: Matrix = np.linalg.inv(made.frame).astype(np.float64)
    drawn = tuple(one.placed(back) for one in curves)
    found = replace(made, drawn=drawn, whole=True)
    if sides is not None:
        found.__dict__["trace"] = trace_of(drawn, sides)
    return found


def _within(rings: list[Points]) -> Region:
    return from_points(rings[0][:-1], [ring[:-1] for ring in rings[1:]])


def _by_chords(piece: Any) -> tuple[Points, Points]:
    steps = np.linspace(0.0, 1.0, piece.chords(Curve(()).tolerance) + 1)
    return steps, piece.at(steps)


def slot(length: float, radius: float) -> Region:
    """A slot along x: a rectangle with half-round ends; `length` from centre to centre.

    >>> bool(np.isclose(slot(60.0, 10.0).area, 60 * 20 + np.pi * 100, rtol=1e-9))
    True
    """
    if why := _empty(radius=radius):
        return nothing(why)
    if _empty(length=length):
        return disc(radius)
    x = length / 2
    ends = np.array([[x, radius, 0.0], [-x, -radius, 0.0]])
    right = circular(np.array([x, 0.0, 0.0]), radius, -np.pi / 2, np.pi)
    left = circular(np.array([-x, 0.0, 0.0]), radius, np.pi / 2, np.pi)
    top = straight(ends[0], np.array([-x, radius, 0.0]))
    bottom = straight(ends[1], np.array([x, -radius, 0.0]))
    return from_curves(joined([right, top, left, bottom]), [])


def star(points: int, outer: float, inner: float) -> Region:
    """A star with its first point on the x axis."""
    if points > MOST_SIDES:
        raise Failure(f"{points:,} points are too many", f"at most {MOST_SIDES:,} are drawn")
    if points < 2:
        raise Failure(f"a star of {points} points does not exist", "it takes 2 or more")
    if why := _empty(outer=outer):
        return nothing(why)
    if inner <= SMALLEST:
        raise Failure(f"the inner radius is {inner:g} mm", "it must be more than 0")
    if inner >= outer:
        raise Failure(f"the inner radius {inner:g} mm is not less than the outer one {outer:g} mm")
    angles = np.pi * np.arange(2 * points) / points
    radii = np.where(np.arange(2 * points) % 2, inner, outer)
    corners = np.column_stack([np.cos(angles), np.sin(angles)]) * radii[:, None]
    return Region(shapely.Polygon(corners))


def sector(inner: float, outer: float, begin: float, end: float) -> Region:
    """A piece of a ring between two radii and two angles; of a disc where the inner radius is 0.

    >>> bool(np.isclose(sector(5.0, 10.0, 0.0, np.pi).area, np.pi * 75 / 2, rtol=1e-9))
    True
    """
    if why := _empty(inner=max(inner, 1.0), outer=outer):
        return nothing(why)
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
    """The region grown by a distance (below 0: shrunk): corners that open are rounded about their
    point. Raises Failure where nothing is left.

    >>> bool(np.isclose(offset_region(rectangle(40.0, 20.0), 5.0).area, 50 * 30 - (4 - np.pi) * 25, rtol=1e-9))
    True
    """
    if region.is_empty or abs(distance) < SMALLEST:
        return region
    made = _parallel(region, distance)
    if made is None:
        made = _swept_over(region, distance)
    if made is None:
        rounds = segments_for(abs(distance)) // 4
        flat = region.flat.buffer(distance, quad_segs=max(rounds, 1))
        made = Region(oriented(flat), region.frame, missed=CHORD_SHARE)
    if made.is_empty:
        raise Failure(
            f"the region vanishes at an offset of {distance:.6g} mm", "make the distance smaller"
        )
    return made.as_rough_as(region)


def _parallel(region: Region, distance: float) -> Region | None:
    """The offset from the parallels of its exact outlines; None where one of them vanishes or
    they meet, so that the result has other outlines than the region."""
    if len(polygons_of(region.flat)) > 1:
        return None
    outline, *holes = region.outlines
    try:
        made = from_curves(offset(outline, distance), [offset(hole, -distance) for hole in holes])
    except Failure:
        return None
    return made.placed(region.frame)


_MOST_SWEPT = 1_000
"""So many pieces of an outline are swept over one by one."""


_MOST_GENTLE = 60
"""Of corners that hardly bend, the discs touch the strips all along: so many of them are told apart in reasonable time."""

_GENTLE = math.radians(6)


def _gentle_corners(curve: Curve) -> int:
    """At how many corners a closed curve bends by next to nothing."""
    ways = np.array([(one.slope(0.0), one.slope(1.0)) for one in curve.pieces])
    ends, starts = ways[:, 1], np.roll(ways[:, 0], -1, axis=0)
    turns = np.arctan2(
        np.linalg.norm(cross_product(ends, starts), axis=1), dot_product(ends, starts)
    )
    return int(np.count_nonzero((turns > SAME_SHARE) & (turns < _GENTLE)))


def _swept_over(region: Region, distance: float) -> Region | None:
    """The offset as the region with all that lies within a distance of its outlines, or without
    it: strips beside lines and arcs, and discs about their ends. None for other curves."""
    pieces = [piece for curve in region.outlines for piece in curve.pieces]
    known = all(isinstance(p, Straight) or (isinstance(p, Arc) and p.is_circle) for p in pieces)
    if not known or not region.exact or len(pieces) > _MOST_SWEPT:
        return None
    if sum(_gentle_corners(curve) for curve in region.outlines) > _MOST_GENTLE:
        return None
    size = abs(distance)
    ball = disc(size)
    covers = [strip for piece in pieces for strip in _strip(piece, size)]
    # A whole circle has no corner: what lies about its start lies beside it, too.
    corners = [one.start for curve in region.outlines if len(curve.pieces) > 1 for one in curve.pieces]  # fmt: skip
    covers += [ball.placed(moved(one)) for one in corners]
    lying = replace(region, frame=IDENTITY)
    made = combined("+" if distance > 0 else "-", lying, *covers)
    return replace(made, frame=region.frame) if made.within <= CHORD_SHARE else None


def _strip(piece: Piece, size: float) -> list[Region]:
    """All that lies within a distance of a line or an arc, but for what is about its ends."""
    if isinstance(piece, Straight):
        along = piece.b - piece.a
        length = float(np.linalg.norm(along))
        place = np.eye(4)
        place[:3, 0], place[:3, 1] = along / length, cross_product([0.0, 0.0, 1.0], along) / length
        place[:3, 3] = (piece.a + piece.b) / 2
        return [rectangle(length, 2 * size).placed(place)]
    assert isinstance(piece, Arc)
    inner, outer = max(piece.radius - size, 0.0), piece.radius + size
    if abs(piece.sweep) > 2 * np.pi - SAME_SHARE:
        whole = disc(outer)
        made = combined("-", whole, disc(inner)) if inner > SMALLEST else whole
    else:
        first, last = (one - piece.centre for one in (piece.start, piece.end))
        if piece.sweep * piece.normal[2] < 0:
            first, last = last, first
        begin, end = (float(np.arctan2(one[1], one[0])) for one in (first, last))
        sweep = (end - begin) % (2 * np.pi)
        made = sector(0.0 if inner < SMALLEST else inner, outer, begin, begin + sweep)
    return [made.placed(moved(piece.centre))]


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
    return from_curves(changed[0], changed[1:]).placed(region.frame).as_rough_as(region)


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
    """Union (+), difference (-) or intersection (&) of regions lying in one plane, all at once.
    What is empty adds and cuts nothing.

    >>> combined("-", rectangle(40.0, 20.0), rectangle(10.0, 10.0)).area
    700.0
    """
    if operator == "&" and any(one.is_empty for one in (first, *others)):
        return next(one for one in (first, *others) if one.is_empty)
    others = tuple(one for one in others if not one.is_empty)
    if first.is_empty and operator == "+" and others:
        first, others = others[0], others[1:]
    if not others or first.is_empty:
        return first
    made = overlay(operator, [(first, IDENTITY), *zip(others, _places(first, others), strict=True)])
    return replace(made, frame=first.frame)


def overlay(operator: str, made_of: Sequence[tuple[Region, Matrix]]) -> Region:
    """Regions, each placed within the plane, put together; empty where nothing is left."""
    made_of = tuple((one.settled() if one.depth > _DEEPEST else one, at) for one, at in made_of)
    made_of = _on_shared_sides(made_of) if len(made_of) > 1 else made_of
    flats = [
        _uncrossed(flat) if one.whole else flat
        for flat, (one, _) in zip(_placed_flats(made_of), made_of, strict=True)
    ]
    if len(flats) == 1:
        return Region(oriented(flats[0]), IDENTITY, made_of=made_of, operator=operator)
    made_of = _gathered(operator, made_of)
    flat = _unrounded(overlaid(operator, flats), shapely.get_coordinates(np.array(flats)))
    kept = [one for one in polygons_of(flat) if not _is_sliver(one)]
    if not kept:
        return nothing(f"{_SAID[operator]} of these regions leaves nothing")
    whole = oriented(shapely.MultiPolygon(kept))
    return Region(whole, IDENTITY, made_of=made_of, operator=operator)


def _gathered(operator: str, made_of: MadeOf) -> MadeOf:
    """What is put together one after the other in the same way, as if it was all at once: no deeper, however many."""
    (first, at), *others = made_of
    if first.operator != operator or not first.made_of or first.missed:
        return made_of
    within = first.made_of if at is IDENTITY else tuple((one, at @ its) for one, its in first.made_of)  # fmt: skip
    return (*within, *others)


def _unrounded(flat: BaseGeometry, corners: NDArray[np.float64]) -> BaseGeometry:
    """The result of an overlay with the corners that went into it as they were: overlays round
    all of them to a grid. Where outlines would cross then, which all but touch, it stays rounded."""
    found = shapely.get_coordinates(flat)
    if not len(found):
        return flat
    names = [np.rint(one / SAME_PLACE).astype(np.int64) for one in (corners, found)]
    low = np.minimum(*(one.min(axis=0) for one in names))
    width = max(int(one[:, 1].max() - low[1]) for one in names) + 1
    known, wanted = ((one[:, 0] - low[0]) * width + one[:, 1] - low[1] for one in names)
    order = np.argsort(known, kind="stable")
    at = np.minimum(np.searchsorted(known[order], wanted), len(known) - 1)
    same = known[order][at] == wanted
    found[same] = corners[order[at[same]]]
    restored = shapely.set_coordinates(flat, found)
    return restored if restored.is_valid else flat


def _places(first: Region, others: Sequence[Region]) -> list[Matrix]:
    """Where others lie in the plane of the first; refuses what lies in another plane."""
    relative = np.linalg.inv(first.frame) @ np.array([other.frame for other in others])
    if (
        np.abs(relative[:, 2, 3]).max() > SAME_PLACE
        or np.abs(relative[:, 2, :2]).max() > SAME_SHARE
    ):
        raise Failure(
            "the two regions lie in different planes", "combine them flat and place the result"
        )
    return list(relative)


def _placed_flats(made_of: Sequence[tuple[Region, Matrix]]) -> list[BaseGeometry]:
    """The figures of regions in the plane they are placed in."""
    flats = np.array([region.flat for region, _ in made_of])
    matrices = np.array([matrix for _, matrix in made_of])
    points, which = shapely.get_coordinates(flats, return_index=True)
    turned = np.einsum("nij,nj->ni", matrices[which, :2, :2], points)
    return list(shapely.set_coordinates(flats, turned + matrices[which, :2, 3]))


def _uncrossed(flat: BaseGeometry) -> BaseGeometry:
    """A figure whose outlines do not cross: where two arcs meet at a small angle, sides that were divided anew may."""
    if flat.is_valid:
        return flat
    mended = shapely.make_valid(flat, method="structure", keep_collapsed=False)
    return shapely.MultiPolygon(polygons_of(mended))


def _on_shared_sides(made_of: Sequence[tuple[Region, Matrix]]) -> MadeOf:
    """The regions, those that have arcs of one circle in common with another so divided that the
    arcs have their sides in common, too."""
    circles = _circles_placed(tuple(made_of))
    shared = shared_sides(circles)
    if shared is None:
        return tuple(made_of)
    touched = [shared.has_any(one) for one in circles]
    exact = {
        at: [curve.placed(made_of[at][1]) for curve in made_of[at][0].outlines]
        for at, one in enumerate(touched)
        if one
    }
    sides = shared.sides([curve for curves in exact.values() for curve in curves])
    return tuple(
        (_divided(tuple(exact[at]), sides, region.within), IDENTITY)
        if at in exact
        else (region, matrix)
        for at, (region, matrix) in enumerate(made_of)
    )


_FINER = (1 / 30, 1 / 1000)


def _divided_to(tolerance: float, outlines: tuple[Curve, ...]) -> Region:
    """A region of exact outlines with sides of a tolerance, also where it shares arcs with others."""
    finer = tuple(replace(curve, tolerance=tolerance) for curve in outlines)
    return _divided(finer, lambda piece: piece.sides(tolerance))


def _divided(outlines: tuple[Curve, ...], sides: Sides, missed: float = 0.0) -> Region:
    """A region of outlines, each followed by its holes; their sides by a rule."""
    trace = trace_of(outlines, sides)
    polygons: list[list[NDArray[np.float64]]] = []
    for ring in outlines_at(trace):
        if _signed(ring) > 0 or not polygons:
            polygons.append([ring])
        else:
            polygons[-1].append(ring)
    made = [shapely.Polygon(outer, holes) for outer, *holes in polygons]
    flat = made[0] if len(made) == 1 else shapely.MultiPolygon(made)
    found = Region(oriented(flat), IDENTITY, outlines, whole=True, missed=missed)
    found.__dict__["trace"] = trace
    return found


def shared_area(first: Region, second: Region) -> float:
    """The area in mm² that two regions in one plane have in common.

    >>> shared_area(rectangle(40.0, 20.0), rectangle(20.0, 40.0))
    400.0
    """
    return combined("&", first, second).area


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
