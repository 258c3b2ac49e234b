"""The true curves on which the drawn edges of a thing lie.

What is drawn are chords and sides. Lines, arcs, ellipses and other curves that they stand for are known of curves and
regions, of extrusions and revolutions, and of what was cut out of these; where they are, an edge is measured by them and
not by what is drawn: a polygon of many sides is no circle, and an ellipse is as long as it is.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from functools import cached_property

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace
from numpy.typing import NDArray

from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.curve import Curve, closest
from ovolo.geometry.curves.pieces import Arc, Cubic, Piece, Straight
from ovolo.geometry.curves.rounds import ROUND, arc_touched
from ovolo.geometry.placement import IDENTITY, Matrix, applied, moved, turned
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import LEAST, ROUNDING, SAME_PLACE
from ovolo.geometry.solids.forms import Revolution, Stack
from ovolo.geometry.solids.solid import Shape, Solid
from ovolo.geometry.types import Floats, Points
from ovolo.geometry.vectors import cross_product, dot_product

Indices = NDArray[np.int64]

_LEVEL = 1e-5
"""By what share of its length the ends of an edge may lie at unlike heights, drawn in float32."""
_FLOAT32 = 1e-6
"""By what share places differ that are drawn in float32."""
_ALONG = math.cos(math.radians(20))
"""How near the direction of an edge that is drawn is to that of the curve it stands for."""
_STRAIGHT = 1e-9
"""Places that follow each other bend by no more than this (radians) on what is straight."""
_FEW = 3
"""So many pieces of an edge may lie on a curve that it only touches."""
_SMOOTH = 1e-3
"""By how many radians curves that go on into each other may bend there."""


class TrueEdges(Struct, eq=False):
    """The true curves of one thing where it stands. `limit` says by how many mm what is drawn of them may miss those that
    are known, `misses` what is drawn of others."""

    known: Sequence[Lines]
    limit: float
    misses: float = 0.0
    _looked_at: dict[int, _LookedAt] = field(default_factory=dict)

    def under(self, drawn: Points) -> list[Curve | None]:
        """For each drawn piece (k, 2, 3) the line, arc or smooth curve that it stands for, if one is known."""
        found: list[Curve | None] = [None] * len(drawn)
        nearest, middles = np.full(len(drawn), self.limit), drawn.mean(axis=1)
        for curve, some in itertools.chain.from_iterable(one.beside(drawn) for one in self.known):
            looked_at = self._looked_at.get(id(curve)) or self._looked_at.setdefault(
                id(curve), _LookedAt(curve)
            )
            some = some[looked_at.in_reach(middles[some], self.limit)]
            if not len(some):
                continue
            gaps, pieces = looked_at.missed_by(drawn[some])
            better = gaps <= nearest[some]
            nearest[some[better]] = gaps[better]
            for at, piece in zip(some[better].tolist(), pieces[better].tolist(), strict=True):
                found[at] = looked_at.edges[piece]
        return found

    def of_balls(self, corners: Points) -> Curve | None:
        """The circle in which a plane cuts a ball, where corners lie near one."""
        middle = corners.mean(axis=0)
        _, sizes, ways = np.linalg.svd(corners - middle, full_matrices=False)
        if len(corners) < 4 or sizes[2] > ROUND * sizes[1]:
            return None
        for centre, radius in (one.ball for one in self.known if one.ball is not None):
            height = float((middle - centre) @ ways[2])
            square = radius**2 - height**2
            if square > SAME_PLACE:
                foot, size = centre + height * ways[2], math.sqrt(square)
                if np.abs(np.linalg.norm(corners - foot, axis=1) - size).max() <= self.limit:
                    return Curve((Arc(foot, size * ways[0], size * ways[1], 0.0, 2 * math.pi),))
        return None


class _LookedAt:
    """A curve by many of its places (n, 3), and its edges."""

    def __init__(self, curve: Curve) -> None:
        from scipy.spatial import cKDTree

        self.curve = curve
        rows = [row for run in curve.runs for row in _places_of(run, curve.tolerance)]
        counts = np.array([len(row) for row in rows])
        self.which = np.repeat(np.arange(len(rows)), counts)
        self.places = np.concatenate(rows)
        self.radii = _radii_at(self.places, np.cumsum(counts) - counts)
        self.tree = cKDTree(self.places)
        self.low, self.high = self.places.min(axis=0), self.places.max(axis=0)

    @cached_property
    def edges(self) -> list[Curve]:
        """The edge of each piece."""
        edge_of = {id(piece): one for one in as_edges(self.curve) for piece in one.pieces}
        return [edge_of[id(piece)] for piece in self.curve.pieces]

    def in_reach(self, places: Points, limit: float) -> NDArray[np.bool_]:
        """Which places (k, 3) may lie no further away than a limit (mm)."""
        within: NDArray[np.bool_] = np.all(
            (places >= self.low - limit) & (places <= self.high + limit), axis=1
        )
        return within

    def missed_by(self, drawn: Points) -> tuple[Floats, Indices]:
        """By how much (mm) each drawn piece (k, 2, 3) misses the curve in its middle, and which piece of the curve it stands
        for; infinite where it stands for none. Chords miss a circle by less than a hundredth of its radius (24 of them: by
        0.0086), what bends more by s² / 8 r for a length s, and lines by what float32 loses."""
        middles, ways = drawn.mean(axis=1), drawn[:, 1] - drawn[:, 0]
        lengths = np.linalg.norm(ways, axis=1)
        lost = 4 * _FLOAT32 * np.maximum(np.abs(drawn).max(axis=(1, 2)), 1.0)
        gaps, pieces = np.full(len(drawn), math.inf), np.zeros(len(drawn), dtype=np.int64)
        _, near = self.tree.query(middles, k=2)
        for first in (near[:, 0], near[:, 0] - 1, near[:, 1], near[:, 1] - 1):
            at = np.clip(first, 0, len(self.places) - 2)
            side = self.places[at + 1] - self.places[at]
            gap = _apart(middles, self.places[at], side)
            radius = np.maximum(self.radii[at], self.radii[at + 1])
            most = lost + np.where(
                np.isfinite(radius), np.maximum(radius / 100, lengths**2 / radius / 4), 0.0
            )
            along = (
                np.abs(dot_product(side, ways)) >= _ALONG * np.linalg.norm(side, axis=1) * lengths
            )
            better = (self.which[at] == self.which[at + 1]) & along & (gap <= most) & (gap < gaps)
            gaps[better], pieces[better] = gap[better], self.which[at[better]]
        return gaps, pieces


def _places_of(run: Piece | Cubics, tolerance: float) -> Iterator[Points]:
    """Places on each piece: four to a chord."""
    if not isinstance(run, Cubics):
        yield run.at(np.linspace(0.0, 1.0, 4 * run.chords(tolerance) + 1))
        return
    for count, group in itertools.groupby(
        enumerate(run.chords(tolerance).tolist()), lambda one: one[1]
    ):
        some = [at for at, _ in group]
        yield from Cubics(run.poles[some]).places(np.linspace(0.0, 1.0, 4 * count + 1))


def _radii_at(places: Points, starts: Indices) -> Floats:
    """The radius of the circle through each place and its neighbours (mm), in rows that begin at `starts`; infinite where they
    lie on a line."""
    one, other = places[1:-1] - places[:-2], places[2:] - places[1:-1]
    sizes = np.linalg.norm(one, axis=1) * np.linalg.norm(other, axis=1)
    doubled = np.linalg.norm(cross_product(one, other), axis=1)
    bent = doubled > _STRAIGHT * sizes
    radii = np.full(len(places), math.inf)
    inner = radii[1:-1]
    inner[bent] = (
        (sizes * np.linalg.norm(places[2:] - places[:-2], axis=1))[bent] / doubled[bent] / 2
    )
    ends = np.append(starts[1:], len(places)) - 1
    radii[starts], radii[ends] = radii[starts + 1], radii[ends - 1]  # a row has five places or more
    return radii


def _apart(points: Points, starts: Points, sides: Points) -> Floats:
    """How far (k,) points lie from sides (all (k, 3))."""
    squares = np.maximum(dot_product(sides, sides), LEAST)
    shares = np.clip(dot_product(points - starts, sides) / squares, 0.0, 1.0)
    apart: Floats = np.linalg.norm(starts + shares[:, None] * sides - points, axis=1)
    return apart


def true_edges(thing: Curve | Region | Solid) -> TrueEdges:
    """What is known of a thing. Of a curve and a region that is all there is to draw."""
    if isinstance(thing, Curve):
        return TrueEdges([Outlines((thing,))] if thing.pieces else [], math.inf)
    if isinstance(thing, Region):
        return TrueEdges([Outlines(tuple(thing.curves()))] if thing.exact else [], math.inf)
    return TrueEdges(
        list(_of_shape(thing.shape, thing.matrix)), 2 * thing.misses + SAME_PLACE, thing.misses
    )


def _of_shape(shape: Shape, matrix: Matrix) -> Iterator[Lines]:
    """What is known of a shape, and of those that it was cut out of."""
    for one, at in shape.made_from():
        form = one.form
        if isinstance(form, Stack) and form.exact:
            yield Levels(matrix @ at, form=form)
        elif isinstance(form, Revolution) and form.exact:
            yield Rounds(matrix @ at, form=form)


# --- where true curves are found ---


class Lines:
    """Curves on which edges lie."""

    ball: tuple[Points, float] | None = None
    """The centre and the radius (mm), where they are those of a ball."""

    def beside(self, drawn: Points) -> Iterator[tuple[Curve, Indices]]:
        """Curves, each with the numbers of those drawn pieces (k, 2, 3) that may lie on it."""
        raise NotImplementedError


class Outlines(Lines, Struct, eq=False):
    """Curves that are there as they are."""

    curves: tuple[Curve, ...]

    def beside(self, drawn: Points) -> Iterator[tuple[Curve, Indices]]:
        for curve in self.curves:
            yield curve, np.arange(len(drawn))


class AtHeights(Lines, Struct, eq=False):
    """Curves that lie level, at whatever height a thing was cut, in its own coordinates."""

    matrix: Matrix
    _at: dict[float, list[Curve]] = field(default_factory=dict)

    def beside(self, drawn: Points) -> Iterator[tuple[Curve, Indices]]:
        back = np.linalg.inv(self.matrix).astype(np.float64)
        local = applied(back, drawn.reshape(-1, 3)).reshape(-1, 2, 3)
        way = local[:, 1] - local[:, 0]
        level = np.abs(way[:, 2]) <= np.maximum(_LEVEL * np.linalg.norm(way, axis=1), SAME_PLACE)
        heights = local[:, :, 2].mean(axis=1)
        for some in _alike(heights, np.flatnonzero(level)):
            for curve in self._curves(float(heights[some].mean())):
                yield curve, some
        rising = np.flatnonzero(~level)
        for curve in self.upright if len(rising) else ():
            yield curve, rising

    def _curves(self, height: float) -> list[Curve]:
        known = min((*self._at, *self.levels), key=lambda one: abs(one - height), default=math.inf)
        if abs(known - height) <= _FLOAT32 * max(abs(height), 1.0):
            height = known
        if height not in self._at:
            self._at[height] = [one.placed(self.matrix) for one in self.at_height(height)]
        return self._at[height]

    @property
    def levels(self) -> list[float]:
        """Heights that are known to the last digit."""
        raise NotImplementedError

    @property
    def upright(self) -> list[Curve]:
        """Curves that do not lie level, placed."""
        return []

    def at_height(self, height: float) -> Iterator[Curve]:
        """The curves at a height."""
        raise NotImplementedError


def _alike(heights: Floats, which: Indices) -> Iterator[Indices]:
    """Numbers, in groups of which the heights are the same but for what is drawn in float32."""
    order = which[np.argsort(heights[which], kind="stable")]
    steps = np.diff(heights[order]) > _FLOAT32 * np.maximum(np.abs(heights[order[1:]]), 1.0)
    return (some for some in np.split(order, np.flatnonzero(steps) + 1) if len(some))


class Levels(AtHeights, kw_only=True, dict=True):
    """The outlines of an extrusion, or of several upon each other."""

    form: Stack

    @cached_property
    def levels(self) -> list[float]:
        return [level for layer in self.form.layers for level in (layer.low, layer.high)]

    def at_height(self, height: float) -> Iterator[Curve]:
        for layer in self.form.layers:
            if layer.low - SAME_PLACE <= height <= layer.high + SAME_PLACE:
                for outline in layer.region.outlines:
                    yield outline.placed(moved(np.array([0.0, 0.0, height])))


class Rounds(AtHeights, kw_only=True, dict=True):
    """The circles of a revolution, and its outlines where it begins and ends."""

    form: Revolution

    @cached_property
    def levels(self) -> list[float]:
        return [float(piece.start[2]) for outline in self.form.outlines for piece in outline.pieces]

    @cached_property
    def upright(self) -> list[Curve]:
        if self.form.whole:
            return []
        turns = (IDENTITY, turned(self.form.angle, np.array([0.0, 0.0, 1.0]), np.zeros(3)))
        return [one.placed(self.matrix @ turn) for turn in turns for one in self.form.outlines]

    def at_height(self, height: float) -> Iterator[Curve]:
        pieces = [piece for outline in self.form.outlines for piece in outline.pieces]
        radii = {
            round(float(piece.at(t)[0]), 9) for piece in pieces for t in _at_height(piece, height)
        }
        return (_circle(radius, height) for radius in radii if radius > SAME_PLACE)

    @cached_property
    def ball(self) -> tuple[Points, float] | None:  # type: ignore[override]
        arcs = [
            one for outline in self.form.outlines for one in outline.pieces if isinstance(one, Arc)
        ]
        size = _even_scale(self.matrix)
        if (
            len(arcs) != 1
            or size is None
            or abs(arcs[0].centre[0]) > SAME_PLACE
            or not arcs[0].is_circle
        ):
            return None
        return applied(self.matrix, arcs[0].centre[None])[0], size * arcs[0].radius


def _even_scale(matrix: Matrix) -> float | None:
    """How many times as large all becomes; None where it is stretched."""
    gram = matrix[:3, :3].T @ matrix[:3, :3]
    square = float(gram[0, 0])
    return (
        math.sqrt(square) if np.abs(gram - square * np.eye(3)).max() < ROUNDING * square else None
    )


def _circle(radius: float, height: float) -> Curve:
    u, v = radius * np.eye(3)[0], radius * np.eye(3)[1]
    return Curve((Arc(np.array([0.0, 0.0, height]), u, v, 0.0, 2 * math.pi),))


def _at_height(piece: Piece, height: float) -> Iterator[float]:
    """The parameters at which a piece is at a height."""
    from scipy.optimize import brentq

    stops = sorted({0.0, 1.0, *piece.turning()})
    for low, high in itertools.pairwise(stops):
        below, above = (float(piece.at(t)[2]) - height for t in (low, high))
        if min(abs(below), abs(above)) <= SAME_PLACE:
            yield low if abs(below) <= abs(above) else high
        elif below * above < 0:
            yield float(brentq(lambda t: float(piece.at(t)[2]) - height, low, high))


# --- curves as edges ---


def as_edges(curve: Curve) -> list[Curve]:
    """A curve parted into what is seen as one edge each: lines, arcs of one circle or ellipse, curves without a corner."""
    pieces = list(curve.pieces)
    goes_on = _goes_on(curve)
    breaks = [at + 1 for at in np.flatnonzero(~goes_on[:-1]).tolist()]
    if curve.closed and goes_on[-1]:
        if not breaks:
            return [curve]
        pieces = pieces[breaks[0] :] + pieces[: breaks[0]]
        breaks = [at - breaks[0] for at in breaks[1:]]
    ends = [0, *breaks, len(pieces)]
    return [Curve(tuple(pieces[a:b])) for a, b in itertools.pairwise(ends)]


def _goes_on(curve: Curve) -> NDArray[np.bool_]:
    """Of each piece whether the next one is seen as one edge with it; after the last comes the first."""
    slopes = [rows for run in curve.runs for rows in _end_slopes(run)]
    leave, come = (
        np.array([last for _, last in slopes]),
        np.roll(np.array([first for first, _ in slopes]), -1, axis=0),
    )
    turns = np.arctan2(np.linalg.norm(cross_product(leave, come), axis=1), dot_product(leave, come))
    pieces, following = curve.pieces, [*curve.pieces[1:], curve.pieces[0]]
    alike = np.array(
        [type(one) is type(other) for one, other in zip(pieces, following, strict=True)]
    )
    bends = np.array([_SMOOTH if isinstance(one, Cubic) else 1e-6 for one in pieces])
    found: NDArray[np.bool_] = alike & (turns < bends)
    for at, (one, other) in enumerate(zip(pieces, following, strict=True)):
        if isinstance(one, Arc) and isinstance(other, Arc):
            found[at] = _on_one_ellipse(one, other)
    return found


def _end_slopes(run: Piece | Cubics) -> Iterator[tuple[Points, Points]]:
    """The directions at the start and the end of each piece."""
    if not isinstance(run, Cubics):
        yield np.asarray(run.slope(0.0)), np.asarray(run.slope(1.0))
        return
    legs = run.poles[:, [1, 3, 2, 3]] - run.poles[:, [0, 2, 0, 1]]
    for first, last, whole_first, whole_last in legs:
        yield (first if first.any() else whole_first), (last if last.any() else whole_last)


def _on_one_ellipse(one: Arc, other: Arc) -> bool:
    axes = np.column_stack([one.u, one.v])
    places = other.at(np.array([0.0, 0.5, 1.0])) - one.centre
    shares, *_ = np.linalg.lstsq(axes, places.T, rcond=None)
    off = np.abs(axes @ shares - places.T).max() / np.abs(axes).max()
    return bool(off < 1e-6 and np.abs(np.hypot(*shares) - 1).max() < 1e-6)


class Stretch(Struct, frozen=True, eq=False):
    """The part of a curve for which some corners stand: these, its ends on the curve (n, 3), its length (mm), by how much
    that may be off, and of each end whether the corner there does not lie on the curve."""

    corners: Points
    length: float
    missed: float = 0.0
    loose: tuple[bool, bool] = (False, False)
    on: Curve | None = None
    """The curve, where it is known."""

    begin: float = 0.0
    """How far along the curve (mm) it begins."""

    way: int = 1
    """1 where it goes on as the curve does, -1 where it goes back."""

    parts: tuple[Stretch, ...] = ()
    """What it is made of, where it goes on from one curve to another."""

    @property
    def ends(self) -> tuple[Points, Points]:
        first, last = (self.parts[0], self.parts[-1]) if self.parts else (self, self)
        return first.corners[0], last.corners[-1]

    @property
    def is_known(self) -> bool:
        return all(one.is_known for one in self.parts) if self.parts else self.on is not None

    def place(self, length: float) -> Points:
        """Where it is (3,) at a length (mm) from its beginning."""
        for one in self.parts:
            if length <= one.length or one is self.parts[-1]:
                return one.place(min(length, one.length))
            length -= one.length
        if self.on is not None:
            at = self.begin + self.way * length
            whole = self.on.length
            return self.on.point_at(at % whole if self.on.closed else min(max(at, 0.0), whole))
        marks = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(self.corners, axis=0), axis=1))])  # fmt: skip
        at = length / self.length * marks[-1]
        return np.array([np.interp(at, marks, self.corners[:, axis]) for axis in range(3)])

    def ending(self, before: float, after: float) -> Stretch:
        """The same, where an edge ends that may be off along it by so much (mm) there; what is known to end does not."""
        ends = sum(end for end, loose in zip((before, after), self.loose, strict=True) if loose)
        return replace(self, missed=min(self.missed + ends, self.length))


def stretch(curve: Curve, corners: Points) -> Stretch:
    """The part of a curve that is drawn by corners (n, 3) in order."""
    near = 4 * _FLOAT32 * max(float(np.abs(corners).max()), 1.0)
    ends = corners[[0, -1]]
    for way in (1, -1):
        whole = np.array([curve.start, curve.end])[::way]
        if not curve.closed and np.abs(ends - whole).max() <= near:
            placed = np.concatenate([whole[:1], corners[1:-1], whole[1:]])
            begin = 0.0 if way == 1 else curve.length
            return Stretch(placed, curve.length, on=curve, begin=begin, way=way)
    between = corners[len(corners) // 2] if len(corners) > 2 else corners.mean(axis=0)
    spots = [closest(curve, place) for place in (corners[0], between, corners[-1])]
    first, _, last = (curve.pieces[at].at(t) for at, t in spots)
    placed = np.concatenate([first[None], corners[1:-1], last[None]])
    begin, middle, end = (_reached(curve, at, t) for at, t in spots)
    if np.linalg.norm(first - last) < SAME_PLACE and len(corners) > 2:
        return Stretch(placed, curve.length, on=curve, begin=begin)
    length, way = abs(end - begin), 1 if begin < end else -1
    if curve.closed and not min(begin, end) <= middle <= max(begin, end):
        length, way = curve.length - length, -way
    off = np.linalg.norm(placed[[0, -1]] - ends, axis=1)
    missed = float(off[off > near].sum())
    loose = [curve.closed or min(at, curve.length - at) > near for at in (begin, end)]
    return Stretch(placed, length, missed, (loose[0], loose[1]), curve, begin, way)


def _reached(curve: Curve, at: int, t: float) -> float:
    """The length of a curve up to a place of one of its pieces."""
    return curve.length_before(at) + curve.pieces[at].length_to(t)


def standing_for(under: Sequence[Curve | None], closed: bool) -> list[Curve | None]:
    """For which curves the pieces of an edge stand that go on smoothly from each other, in order, by those on which
    each of them lies. Where an edge goes on from a curve to where nothing is known, it only touches that; so it may one
    curve that bends after another, each by a few of its pieces."""
    first = next((at for at in range(len(under)) if under[at] is not under[at - 1]), 0) * closed
    runs = [
        (curve, len([*run])) for curve, run in itertools.groupby([*under[first:], *under[:first]])
    ]

    def ends_in_none(curves: Sequence[Curve | None], at: int) -> bool:
        sides = (at - 1, (at + 1) % len(runs)) if closed else (max(at - 1, 0), min(at + 1, len(runs) - 1))  # fmt: skip
        return any(curves[one] is None for one in sides)

    lain_on = [curve for curve, _ in runs]
    few = [
        count <= _FEW and not (curve and isinstance(curve.pieces[0], Straight))
        for curve, count in runs
    ]
    stood_for: list[Curve | None] = lain_on
    before: list[Curve | None] = []
    while stood_for != before:
        before = stood_for
        stood_for = [
            None if ends_in_none(before if few[at] else lain_on, at) else curve
            for at, curve in enumerate(lain_on)
        ]
    found = [curve for curve, (_, count) in zip(stood_for, runs, strict=True) for _ in range(count)]
    return [*found[len(found) - first :], *found[: len(found) - first]]


def length_along(
    true: TrueEdges,
    corners: Points,
    under: Sequence[Curve | None],
    closed: bool,
    aside: float,
    ends: tuple[float, float],
) -> Stretch:
    """How long (mm) an edge is that is drawn by corners (n, 3) in order: what stands for curves by these, arcs by theirs,
    all else by its chords; and by how much that may be off. `under` are the curves (n - 1) on which its pieces lie; what
    is not known may lie `aside`, and so its ends be off by `ends` (mm)."""
    parts: list[Stretch] = []
    at = 0
    for curve, run in itertools.groupby(standing_for(under, closed)):
        count = len(list(run))
        some = corners[at : at + count + 1]
        on = true.of_balls(some) if curve is None else curve
        parts.append(by_itself(some, aside) if on is None else stretch(on, some))
        at += count
    length, missed = sum(one.length for one in parts), sum(one.missed for one in parts)
    loose = parts[0].loose[0], parts[-1].loose[1]
    return Stretch(corners, length, missed, loose, parts=tuple(parts)).ending(*ends)


def by_itself(corners: Points, aside: float) -> Stretch:
    """An edge of which no curve is known, and that may lie beside its place (mm). It is longer or shorter then by that
    times the angle by which it turns, as parallel curves are (do Carmo, Differential geometry of curves and surfaces, 1976,
    1-7, exercise 6)."""
    arc = arc_touched(corners)
    sides = np.diff(corners, axis=0)
    closed = bool(np.linalg.norm(corners[0] - corners[-1]) < SAME_PLACE)
    come, go = sides if closed else sides[:-1], np.roll(sides, -1, axis=0)[: None if closed else -1]
    bends = np.arctan2(np.linalg.norm(cross_product(come, go), axis=1), dot_product(come, go))
    length = np.linalg.norm(sides, axis=1).sum() if arc is None else arc.radius * arc.sweep
    return Stretch(corners, float(length), aside * float(bends.sum()), (True, True))
