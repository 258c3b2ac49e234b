"""Extrusions with a draft angle and with rounded or bevelled edges.

A solid is built of level layers: its outline, inset or outset, at a height each. Between two
layers lies a wall, or, where the outline differs, the ring between both outlines, triangulated in
plan with its corners at the heights of their layers. So the surface is closed by construction.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache, cached_property
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.curves.curve import Arc, Straight
from ovolo.geometry.curves.support import reach_of_curves
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import CREASE, Mesh, triangulated
from ovolo.geometry.placement import moved
from ovolo.geometry.regions.region import Region, polygons_of
from ovolo.geometry.same import ROUNDING, SAME_SHARE, SMALLEST
from ovolo.geometry.solids.primitives import extrusion, lying_flat
from ovolo.geometry.solids.solid import Solid, manifold_of, missed_by_outlines, nothing, shape_made
from ovolo.geometry.tolerance import chord_tolerance, tolerance_for
from ovolo.geometry.types import Floats
from ovolo.geometry.vectors import plane_product
from ovolo.problems import Failure

_STEPS_OF_SEARCH = 40


@dataclass(frozen=True)
class Finish:
    """How an edge is finished: `form` is round or bevel, `size` its radius or its width in mm."""

    form: str
    size: float

    def __post_init__(self) -> None:
        if self.size < -SMALLEST:
            what = "radius" if self.form == "round" else "bevel"
            raise Failure(f"the {what} of an edge is {self.size:g} mm", "it must not be below 0")

    @property
    def is_none(self) -> bool:
        """A rounding of 0 is no rounding."""
        return self.size <= SMALLEST

    def section(self, lean: float) -> list[tuple[float, float]]:
        """From the wall, which leans inwards by `lean` (radians), to the level face above it: how
        far in from the edge where both would meet, and how far below the face (mm). An arc touches
        both; a bevel takes as much off the wall as off the face."""
        r = self.size
        if self.form == "bevel":
            return [(-r * math.sin(lean), r * math.cos(lean)), (r, 0.0)]
        # The centre of the arc, at the depth r, is r away from the wall, too.
        centre = r * (1 - math.sin(lean)) / math.cos(lean)
        sagitta = min(chord_tolerance() / r, 0.2)
        span = math.pi / 2 - lean
        count = max(math.ceil(span / 2 / math.acos(1 - sagitta)), math.ceil(span * _STEPS_A_TURN / 2 / math.pi), 3)  # fmt: skip
        angles = np.linspace(lean, math.pi / 2, count + 1)
        return [(centre - r * math.cos(a), r - r * math.sin(a)) for a in angles]

    def nodes(self, lean: float) -> tuple[Floats, Floats, tuple[Floats, Floats]]:
        """Of the section: how far in, how far below the face, and the steps of height and length
        that each of some places stands for."""
        if self.form == "bevel":
            (x0, y0), (x1, y1) = self.section(lean)
            share = (1 + _NODES) / 2
            steps = abs(y1 - y0) * _WEIGHTS / 2, math.hypot(x1 - x0, y1 - y0) * _WEIGHTS / 2
            return x0 + share * (x1 - x0), y0 + share * (y1 - y0), steps
        r, span = self.size, math.pi / 2 - lean
        angles = lean + span * (1 + _NODES) / 2
        centre = r * (1 - math.sin(lean)) / math.cos(lean)
        along = r * span * _WEIGHTS / 2
        return centre - r * np.cos(angles), r - r * np.sin(angles), (along * np.cos(angles), along)


_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(24)
_STEPS_A_TURN = 36


@dataclass(frozen=True)
class Stretch:
    """A stretch of the profile of a wall, from below: from one place to another (inset and height, in
    mm), straight, or by an arc about a centre: at angle a it is cos(a) outwards of the centre and
    sin(a) above it, or below where `way` is -1."""

    start: tuple[float, float]
    end: tuple[float, float]
    centre: tuple[float, float] = (0.0, 0.0)
    radius: float = 0.0
    angle: float = 0.0
    sweep: float = 0.0
    way: float = 1.0


@dataclass(frozen=True)
class _Edges:
    """An extrusion's walls and the finish of its edges, seen upwards: it goes from z = 0 to `rise`
    (mm), its walls lean inwards by `lean` (radians) from where it is `inset` at the foot."""

    rise: float
    lean: float
    inset: float
    top: Finish | None
    bottom: Finish | None

    def scaled(self, share: float) -> _Edges:
        """The same with its finishes made smaller."""
        top, bottom = (
            None
            if one is None or one.size * share <= SMALLEST
            else replace(one, size=one.size * share)
            for one in (self.top, self.bottom)
        )
        return replace(self, top=top, bottom=bottom)

    def at(self, height: float) -> float:
        """How far in the wall is."""
        return self.inset + math.tan(self.lean) * height

    def plan(self) -> list[tuple[float, float]]:
        """How far in the outline is, by heights, from below."""
        below, above = [(self.at(0.0), 0.0)], [(self.at(self.rise), self.rise)]
        if self.bottom is not None:
            section = self.bottom.section(-self.lean)
            below = [(self.at(0.0) + inwards, depth) for inwards, depth in reversed(section)]
        if self.top is not None:
            section = self.top.section(self.lean)
            above = [
                (self.at(self.rise) + inwards, self.rise - depth) for inwards, depth in section
            ]
        plan = [*below, *above]
        return [
            one
            for at, one in enumerate(plan)
            if not at or max(abs(one[0] - plan[at - 1][0]), one[1] - plan[at - 1][1]) > SAME_SHARE
        ]

    def stretches(self) -> list[Stretch]:
        """The profile of the wall, from below."""
        found: list[Stretch] = []
        at, here = (self.at(0.0), 0.0), (self.at(self.rise), self.rise)
        if self.bottom is not None:
            foot, first = self._finish(self.bottom, -self.lean, 0.0, -1.0)
            found.append(foot)
            at = first
        top = None
        if self.top is not None:
            top, here = self._finish(self.top, self.lean, self.rise, 1.0)
        if here[1] - at[1] > SMALLEST:
            found.append(Stretch(at, here))
        return [*found, top] if top is not None else found

    def _finish(
        self, finish: Finish, lean: float, level: float, way: float
    ) -> tuple[Stretch, tuple[float, float]]:
        """The stretch of a finish beside a level face, and where it meets the wall."""
        places = [(self.at(level) + inwards, level - way * depth) for inwards, depth in finish.section(lean)]  # fmt: skip
        wall, face = places[0], places[-1]
        start, end = (wall, face) if way > 0 else (face, wall)
        if finish.form == "bevel":
            return Stretch(start, end), wall
        centre = face[0], level - way * finish.size
        low, high = lean, math.pi / 2
        angle, sweep = (low, high - low) if way > 0 else (high, low - high)
        return Stretch(start, end, centre, finish.size, angle, sweep, way), wall

    def depths(self) -> float:
        """What the finishes take of the height."""
        ways = ((self.top, self.lean), (self.bottom, -self.lean))
        return sum(one.section(lean)[0][1] for one, lean in ways if one is not None)

    def nodes(self) -> tuple[NDArray[np.float64], ...]:
        """Places along the profile of the wall for integration: how far in, the height, and for
        each the step of height and of length it stands for (Gauss and Legendre)."""
        found = []
        low, high = 0.0, self.rise
        for finish, lean, upwards in (
            (self.bottom, -self.lean, False),
            (self.top, self.lean, True),
        ):
            if finish is None:
                continue
            base = self.at(self.rise if upwards else 0.0)
            inwards, depth, steps = finish.nodes(lean)
            heights = self.rise - depth if upwards else depth
            found.append((base + inwards, heights, *steps))
            taken = finish.section(lean)[0][1]
            low, high = (low, high - taken) if upwards else (low + taken, high)
        heights = low + (high - low) * (1 + _NODES) / 2
        rises = (high - low) * _WEIGHTS / 2
        wall = np.array([self.at(float(z)) for z in heights])
        found.append((wall, heights, rises, rises / math.cos(self.lean)))
        return tuple(np.concatenate(one) for one in zip(*found, strict=True))


@dataclass(frozen=True, eq=False)
class Finished:
    """The form of an extrusion whose outline is inset by height. An outline of area A and length
    P, its corners kept sharp, has the area A - P d + K d² / 2 at an inset d, with K the sum of the
    turns of its arcs and of 2 tan(turn / 2) of its corners (elementary geometry)."""

    region: Region
    edges: _Edges
    turns: float

    complete = False

    @property
    def exact(self) -> bool:
        return self.region.exact

    def _area_at(self, inset: Any) -> Any:
        return self.region.area - self.region.perimeter * inset + self.turns * inset**2 / 2

    @cached_property
    def volume(self) -> float:
        inset, _, rises, _ = self.edges.nodes()
        return float(rises @ self._area_at(inset))

    @property
    def middle(self) -> None:
        return None

    def area(self, linear: NDArray[np.float64]) -> float | None:
        gram = linear.T @ linear
        square = float(np.trace(gram)) / 3
        if np.abs(gram - square * np.eye(3)).max() > SAME_SHARE * square:
            return None
        inset, _, _, lengths = self.edges.nodes()
        walls = float(lengths @ (self.region.perimeter - self.turns * inset))
        plan = self.edges.plan()
        faces = float(self._area_at(plan[0][0]) + self._area_at(plan[-1][0]))
        return square * (walls + faces)

    def reach(self, ways: NDArray[np.float64]) -> NDArray[np.float64] | None:
        plan = np.array(self.edges.plan())
        upright = np.hypot(ways[:, 0], ways[:, 1]) < ROUNDING
        level = np.abs(ways[:, 2]) < ROUNDING
        if np.any(~upright & ~level) or plan[:, 0].min() < -ROUNDING:
            return None
        if plan[:, 0].min() > ROUNDING:
            return None
        flat = reach_of_curves(self.region.outlines, ways * [1.0, 1.0, 0.0])
        return flat + np.maximum(ways[:, 2], 0.0) * self.edges.rise


def _turns_of(region: Region) -> float | None:
    """The sum of the turns of a region's arcs and 2 tan(turn / 2) of its corners; None where one
    of them is not between straight lines, or a piece is neither line nor arc."""
    total = 0.0
    for curve in region.outlines:
        pieces = curve.pieces
        for piece, onward in zip(pieces, [*pieces[1:], pieces[0]], strict=True):
            if isinstance(piece, Arc) and piece.is_circle:
                total += piece.sweep * math.copysign(1.0, float(piece.normal[2]))
            elif not isinstance(piece, Straight):
                return None
            a, b = piece.slope(1.0), onward.slope(0.0)
            turn = math.atan2(float(plane_product(a, b)), float(a @ b))
            if abs(turn) > 1e-7:
                if not (isinstance(piece, Straight) and isinstance(onward, Straight)):
                    return None
                total += 2 * math.tan(turn / 2)
    return total


def finished_extrusion(
    region: Region,
    height: float,
    taper: float = 0.0,
    top: Finish | None = None,
    bottom: Finish | None = None,
    both_ways: bool = False,
) -> Solid:
    """A region pulled along its normal by `height` (mm), its walls leaning inwards by `taper`
    (radians; below 0 outwards), its top and bottom edges finished. `both_ways` puts its middle
    into the plane of the region. Raises Failure, with the largest value that fits, where an
    inset vanishes, parts, or loses a corner."""
    rise = abs(height)
    if region.is_empty or rise <= SMALLEST:
        return nothing(region.why_empty or "height is 0 mm")
    if abs(taper) >= math.pi / 2 - 1e-6:
        raise Failure(f"a taper of {math.degrees(taper):.6g}° is flat", "less than 90°")
    top, bottom = (None if one is None or one.is_none else one for one in (top, bottom))
    edges = _Edges(rise, taper, 0.0, top, bottom)
    if height < 0:  # what is the top stays on the side it is pulled to
        edges = _Edges(rise, -taper, rise * math.tan(taper), bottom, top)
    if edges.depths() > rise + SMALLEST:
        raise Failure(
            f"edges of {edges.depths():.6g} mm together do not fit a height of {rise:.6g} mm",
            f"at most {rise:.6g} mm together",
        )
    foot = lying_flat(region)
    low = -rise / 2 if both_ways else min(height, 0.0)
    if not taper and top is None and bottom is None:
        straight = extrusion(region.placed(region.frame @ moved(np.array([0.0, 0.0, low])) @ np.linalg.inv(region.frame)), rise)  # fmt: skip
        assert isinstance(straight, Solid)
        return straight
    key = digest("finished", region.key, edges)

    def make() -> manifold3d.Manifold:
        return manifold_of(_stacked(_layers(region.flat, edges)))

    def form() -> Finished | None:
        turns = _turns_of(foot) if foot.exact else None
        return None if turns is None else Finished(foot, edges, turns)

    before = missed_by_outlines(foot)
    shape = shape_made(key, make, "this extrusion", form, before=before)
    placed = Solid(shape).placed(region.frame @ moved(np.array([0.0, 0.0, low])))
    assert isinstance(placed, Solid)
    return placed


Layer = tuple[BaseGeometry, float]
Pair = list[float]
"""A corner in plan."""


def _layers(flat: BaseGeometry, edges: _Edges) -> list[Layer]:
    """The outlines by their heights, from below. A draft is measured from the region's own face."""
    plan = edges.plan()
    made = cache(lambda inset: inset_of(flat, inset))
    if any(_missing(flat, inset, made(inset)) is not None for inset in _ends(plan)):
        _refuse_too_large(flat, edges)
        plan = _parted(plan, flat)
    return [(made(inset), height) for inset, height in plan]


def _ends(plan: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The largest inset and the least."""
    insets = [inset for inset, _ in plan]
    return max(insets), min(insets)


def _parted(plan: list[tuple[float, float]], flat: BaseGeometry) -> list[tuple[float, float]]:
    """The plan in steps so small that a corner at which a curve begins, and which moves along a bent way, is never
    further from its chord than the tolerance."""
    size = _size(flat)
    step = math.sqrt(4 * tolerance_for(size) * size)
    found = plan[:1]
    for (inset, height), (upper, top) in itertools.pairwise(plan):
        shares = np.linspace(0.0, 1.0, math.ceil(abs(upper - inset) / step) + 1)[1:-1].tolist()
        found += [(inset + one * (upper - inset), height + one * (top - height)) for one in shares]
        found.append((upper, top))
    return found


def _lost(flat: BaseGeometry, edges: _Edges) -> tuple[float, NDArray[np.float64]] | None:
    """An inset at which a corner of the outline is lost, and the corner."""
    for limit in _ends(edges.plan()):
        place = lost_corner(flat, limit)
        if place is not None:
            return limit, place
    return None


def _refuse_too_large(flat: BaseGeometry, edges: _Edges) -> None:
    """Raises Failure where the farthest inset does not keep every corner of the outline."""
    lost = _lost(flat, edges)
    if lost is None:
        return
    limit, place = lost
    where = f"near ({place[0]:.6g} mm, {place[1]:.6g} mm)"
    finish = edges.top or edges.bottom
    if finish is None or _lost(flat, edges.scaled(0.0)) is not None:
        raise Failure(
            f"the taper moves the outline by {limit:.6g} mm, and its corner {where} vanishes",
            f"at most {_largest_inset(flat, limit):.6g} mm over the height fits",
        )
    low, high = 0.0, 1.0
    for _ in range(_STEPS_OF_SEARCH):
        middle = (low + high) / 2
        low, high = (middle, high) if _lost(flat, edges.scaled(middle)) is None else (low, middle)
    what = "a radius" if finish.form == "round" else "a bevel"
    raise Failure(
        f"{what} of {finish.size:.6g} mm does not fit the outline {where}",
        f"the largest that fits is {low * finish.size:.6g} mm",
    )


def _largest_inset(flat: BaseGeometry, limit: float) -> float:
    """How far of an inset (or outset, below 0) keeps all corners, by halving."""
    low, high = 0.0, 1.0
    for _ in range(_STEPS_OF_SEARCH):
        middle = (low + high) / 2
        low, high = (middle, high) if lost_corner(flat, middle * limit) is None else (low, middle)
    return low * abs(limit)


def inset_of(flat: BaseGeometry, distance: float) -> BaseGeometry:
    """The figure shrunk by a distance (below 0: grown), its corners kept sharp."""
    if abs(distance) < ROUNDING:
        return flat
    made = flat.buffer(-distance, join_style="mitre", mitre_limit=1e3)
    polygons = [shapely.orient_polygons(one) for one in polygons_of(made)]
    return polygons[0] if len(polygons) == 1 else shapely.MultiPolygon(polygons)


def lost_corner(flat: BaseGeometry, distance: float) -> Floats | None:
    """A corner of a figure that has no counterpart once it is inset by a distance: where sides
    meet from afar, or a narrow place closes. None where all are kept. Of a curve the ends may go, as long as it lives on
    with what it meets."""
    made, rings = inset_of(flat, distance), _rings(flat)
    missing = _missing(flat, distance, made)
    if missing is None:
        return None
    worst: Floats = np.concatenate(rings)[int(np.argmax(missing))]
    if made.is_empty or _holes(made) != _holes(flat):
        return worst
    near = made.boundary.buffer(_slack(flat, distance))
    for ring, gaps in zip(rings, np.split(missing, np.cumsum([len(one) for one in rings])[:-1]), strict=True):  # fmt: skip
        at = np.flatnonzero((gaps > 0) & ~_lives_on(ring, distance, near))
        if len(at):
            return np.asarray(ring[at[int(np.argmax(gaps[at]))]])
    return None


def _slack(flat: BaseGeometry, distance: float) -> float:
    """By how much (mm) a corner may miss its place, and is still kept."""
    return max(1e-3 * abs(distance), min(2e-3, 1e-4 * _size(flat)))


def _size(flat: BaseGeometry) -> float:
    low_x, low_y, high_x, high_y = flat.bounds
    return float(max(high_x - low_x, high_y - low_y))


def _missing(flat: BaseGeometry, distance: float, made: BaseGeometry) -> Floats | None:
    """By how much (mm) the corners (n,) miss their places in what was made by an inset, 0 for those that are there; None
    where all are."""
    if made is flat:
        return None
    wanted = np.concatenate([_mitred(ring, distance) for ring in _rings(flat)])
    if made.is_empty:
        return np.ones(len(wanted))
    gaps: Floats = shapely.distance(shapely.points(wanted), made.boundary)
    missing = np.where(gaps > _slack(flat, distance), gaps, 0.0)
    return missing if missing.any() else None


def _holes(flat: BaseGeometry) -> list[int]:
    """How many holes each piece has."""
    return sorted(len(one.interiors) for one in polygons_of(flat))


def _lives_on(ring: Floats, distance: float, near: BaseGeometry) -> NDArray[np.bool_]:
    """Of which corners (n,) of a ring the way on is a curve on one side at least, and both sides are still there, near to
    the outline that was made, once they are inset by a distance."""
    sides = np.roll(ring, -1, axis=0) - ring
    before = np.roll(sides, 1, axis=0)
    turns = np.arctan2(plane_product(before, sides), np.sum(before * sides, axis=1))
    starts = np.abs(turns) > CREASE
    runs = (np.cumsum(starts) - starts[0]) % max(int(starts.sum()), 1)
    lengths = np.linalg.norm(sides, axis=1)
    shift = distance * np.column_stack([-sides[:, 1], sides[:, 0]]) / lengths[:, None]
    moved_sides = shapely.linestrings(np.stack([ring, ring + sides], axis=1) + shift[:, None])
    kept = shapely.length(shapely.intersection(moved_sides, near)) > 0.3 * lengths
    count = int(runs.max()) + 1
    lives = np.bincount(runs, kept, count) > 0
    curved = np.bincount(runs, minlength=count) > 1
    earlier = np.roll(runs, 1)
    found: NDArray[np.bool_] = lives[runs] & lives[earlier] & (curved[runs] | curved[earlier])
    return found


def _mitred(ring: NDArray[np.float64], distance: float) -> NDArray[np.float64]:
    """Where the corners of a ring (inside to its left) go when its sides move inwards."""
    sides = np.roll(ring, -1, axis=0) - ring
    normals = np.column_stack([-sides[:, 1], sides[:, 0]])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    before = np.roll(normals, 1, axis=0)
    both = before + normals
    spread = np.maximum(1 + np.sum(before * normals, axis=1, keepdims=True), 1e-6)
    places: NDArray[np.float64] = ring + distance * both / spread
    return places


def _rings(flat: BaseGeometry) -> list[NDArray[np.float64]]:
    return [
        np.asarray(ring.coords)[:-1]
        for polygon in polygons_of(flat)
        for ring in (polygon.exterior, *polygon.interiors)
    ]


def _stacked(layers: Sequence[Layer]) -> Mesh:
    """The surface through all layers."""
    rings = [_rings(flat) for flat, _ in layers]
    starts = np.cumsum([0, *(sum(map(len, one)) for one in rings)])
    corners = np.concatenate(
        [
            np.column_stack([np.concatenate(one), np.full(sum(map(len, one)), height)])
            for one, (_, height) in zip(rings, layers, strict=True)
        ]
    )
    triangles = [triangulated(rings[0])[:, ::-1]]
    for at in range(len(layers) - 1):
        low, high = layers[at][0], layers[at + 1][0]
        if low is high:
            triangles.append(_walls(rings[at], starts[at], starts[at + 1]))
        else:
            triangles.append(_ring_between(rings[at], rings[at + 1], starts[at], starts[at + 1], low.area < high.area))  # fmt: skip
    triangles.append(triangulated(rings[-1]) + starts[-2])
    return Mesh(corners, np.concatenate(triangles).astype(np.int32))


def _zipped(below: list[Floats], above: list[Floats], low: int, high: int) -> NDArray[np.int64]:
    """The triangles between outlines of which the one has corners that the other lacks: each has corners of both, for
    what lies between three corners of one would be level."""
    starts = low + np.cumsum([0, *map(len, below)])
    ends = high + np.cumsum([0, *map(len, above)])
    found = []
    for ring, start in zip(below, starts.tolist(), strict=False):
        far = [shapely.distance(shapely.points(one), shapely.linearrings(ring)).mean() for one in above]  # fmt: skip
        at = int(np.argmin(far))
        found += _zipped_along(ring.tolist(), above[at].tolist(), start, int(ends[at]))
    return np.array(found)


def _zipped_along(a: list[Pair], b: list[Pair], start: int, end: int) -> list[tuple[int, int, int]]:
    """The triangles between two rings that run alike, whose corners are counted from `start` and from `end`: along both at
    once, always by the shorter way across."""
    shift = min(range(len(b)), key=lambda at: math.dist(a[0], b[at]))
    b = b[shift:] + b[:shift]
    on_a = [start + at % len(a) for at in range(len(a) + 1)]
    on_b = [end + (at + shift) % len(b) for at in range(len(b) + 1)]
    a, b = [*a, a[0]], [*b, b[0]]
    found: list[tuple[int, int, int]] = []
    i = j = 0
    while i + 1 < len(a) or j + 1 < len(b):
        ends = i + 1 == len(a)
        if not ends and (j + 1 == len(b) or math.dist(a[i + 1], b[j]) <= math.dist(a[i], b[j + 1])):
            found.append((on_a[i], on_a[i + 1], on_b[j]))
            i += 1
        else:
            found.append((on_a[i], on_b[j + 1], on_b[j]))
            j += 1
    return found


def _walls(rings: list[NDArray[np.float64]], low: int, high: int) -> NDArray[np.int64]:
    found = []
    at = 0
    for ring in rings:
        index = np.arange(at, at + len(ring))
        onward = np.roll(index, -1)
        found += [
            np.column_stack([low + index, low + onward, high + onward]),
            np.column_stack([low + index, high + onward, high + index]),
        ]
        at += len(ring)
    return np.concatenate(found)


def _ring_between(
    below: list[NDArray[np.float64]],
    above: list[NDArray[np.float64]],
    low: int,
    high: int,
    grows: bool,
) -> NDArray[np.int64]:
    """The triangles between two outlines, the smaller within the larger; they face up where the
    figure shrinks upwards, down where it grows."""
    if [len(one) for one in below] != [len(one) for one in above]:
        return _zipped(below, above, low, high)
    count, other = (sum(map(len, rings)) for rings in (below, above))
    lower = np.split(np.arange(low, low + count), np.cumsum([len(r) for r in below])[:-1])
    upper = np.split(np.arange(high, high + other), np.cumsum([len(r) for r in above])[:-1])
    if grows:
        rings = [*above, *(ring[::-1] for ring in below)]
        index = np.concatenate([*upper, *(one[::-1] for one in lower)])
    else:
        rings = [*below, *(ring[::-1] for ring in above)]
        index = np.concatenate([*lower, *(one[::-1] for one in upper)])
    triangles = index[triangulated(rings)]
    return triangles[:, ::-1] if grows else triangles
