"""The true curves on which the drawn edges of a thing lie.

What is drawn are chords and sides. Lines, arcs, ellipses and other curves that they stand for are known of curves and
regions, of extrusions and revolutions, and of what was cut out of these; where they are, an edge is measured by them and
not by what is drawn: a polygon of many sides is no circle, and an ellipse is as long as it is.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ovolo.geometry.curves.curve import Arc, Cubic, Curve, Piece, closest
from ovolo.geometry.curves.rounds import ROUND, arc_touched
from ovolo.geometry.placement import IDENTITY, Matrix, applied, moved, turned
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import ROUNDING, SAME_PLACE, SAME_SHARE, SMALLEST
from ovolo.geometry.solids.forms import Revolution, Stack
from ovolo.geometry.solids.solid import Shape, Solid
from ovolo.geometry.tolerance import chord_tolerance
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product

_LEVEL = 1e-5
"""By what share of its length the ends of an edge may lie at unlike heights, drawn in float32."""
_FLOAT32 = 1e-6
"""By what share places differ that are drawn in float32."""
_ALONG = math.cos(math.radians(20))
"""How near the direction of an edge that is drawn is to that of the curve it stands for."""
_STRAIGHT = 1e-9
"""What bends by no more than this share of its length is straight."""
_SMOOTH = 1e-3
"""By how many radians curves that go on into each other may bend there."""


@dataclass(eq=False)
class TrueEdges:
    """The true curves of one thing where it stands. `limit` says by how many mm what is drawn may miss them."""

    known: Sequence[Lines]
    limit: float
    _looked_at: dict[int, _LookedAt] = field(default_factory=dict)

    def under(self, a: Points, b: Points) -> Curve | None:
        """The line, arc or smooth curve for which a drawn piece between two places stands, if one is known."""
        middle, way = (a + b) / 2, b - a
        best, nearest = None, self.limit
        for curve in itertools.chain.from_iterable(one.near(a, b) for one in self.known):
            looked_at = self._looked_at.get(id(curve)) or self._looked_at.setdefault(
                id(curve), _LookedAt(curve)
            )
            piece, t = looked_at.nearest(middle)
            gap = float(np.linalg.norm(piece.at(t) - middle))
            if gap <= min(nearest, _miss(piece, t, a, b)) and _runs_along(piece, t, way):
                best, nearest = looked_at.edges[id(piece)], gap
        return best

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
    """A curve by many of its places, and its edges."""

    def __init__(self, curve: Curve) -> None:
        self.curve = curve
        steps = [
            np.linspace(0.0, 1.0, 4 * piece.chords(curve.tolerance) + 1) for piece in curve.pieces
        ]
        self.which = np.repeat(np.arange(len(steps)), [len(some) for some in steps])
        self.t = np.concatenate(steps)
        self.places = np.concatenate(
            [piece.at(some) for piece, some in zip(curve.pieces, steps, strict=True)]
        )

    @cached_property
    def edges(self) -> dict[int, Curve]:
        """The edge of each piece."""
        return {id(piece): one for one in edges_of(self.curve) for piece in one.pieces}

    def nearest(self, point: Points) -> tuple[Piece, float]:
        """The piece and its parameter near to a point: from the nearest of many places, by Newton's method."""
        at = int(((self.places - point) ** 2).sum(axis=1).argmin())
        piece, t = self.curve.pieces[self.which[at]], float(self.t[at])
        for _ in range(3):
            slope = piece.slope(t)
            step = float((piece.at(t) - point) @ slope) / max(float(slope @ slope), SMALLEST)
            t = min(max(t - step, 0.0), 1.0)
        return piece, t


def true_edges(thing: Curve | Region | Solid) -> TrueEdges:
    """What is known of a thing."""
    if isinstance(thing, Curve):
        return TrueEdges([Outlines((thing,))] if thing.pieces else [], 2 * thing.tolerance)
    if isinstance(thing, Region):
        known = [Outlines(tuple(thing.curves()))] if thing.exact else []
        return TrueEdges(known, 2 * chord_tolerance())
    size = float(np.linalg.norm(thing.matrix[:3, :3], axis=0).max())
    return TrueEdges(list(_of_shape(thing.shape, thing.matrix)), 2 * size * thing.shape.tolerance)


def _of_shape(shape: Shape, matrix: Matrix) -> Iterator[Lines]:
    """What is known of a shape, and of those that it was cut out of."""
    for one, at in shape.made_from():
        form = one.form
        if isinstance(form, Stack) and form.exact:
            yield Levels(form, matrix @ at)
        elif isinstance(form, Revolution) and form.exact:
            yield Rounds(form, matrix @ at)


# --- where true curves are found ---


class Lines:
    """Curves on which edges lie."""

    ball: tuple[Points, float] | None = None
    """The centre and the radius (mm), where they are those of a ball."""

    def near(self, a: Points, b: Points) -> Iterable[Curve]:
        """Those on which an edge between two places may lie."""
        raise NotImplementedError


@dataclass(eq=False)
class Outlines(Lines):
    """Curves that are there as they are."""

    curves: tuple[Curve, ...]

    def near(self, a: Points, b: Points) -> Iterable[Curve]:
        return self.curves


@dataclass(eq=False)
class Levels(Lines):
    """The outlines of an extrusion, or of several upon each other, at whatever height it was cut."""

    form: Stack
    matrix: Matrix
    _at: dict[float, list[Curve]] = field(default_factory=dict)

    @cached_property
    def back(self) -> Matrix:
        found: Matrix = np.linalg.inv(self.matrix).astype(np.float64)
        return found

    def near(self, a: Points, b: Points) -> Iterable[Curve]:
        height = _level_of(self.back, a, b)
        if height is None:
            return ()
        height = _same_level(height, [*self._at, *self._levels])
        if height not in self._at:
            lifted = self.matrix @ moved(np.array([0.0, 0.0, height]))
            self._at[height] = [outline.placed(lifted) for outline in self._outlines(height)]
        return self._at[height]

    @cached_property
    def _levels(self) -> list[float]:
        return [level for layer in self.form.layers for level in (layer.low, layer.high)]

    def _outlines(self, height: float) -> Iterator[Curve]:
        for layer in self.form.layers:
            if layer.low - SAME_PLACE <= height <= layer.high + SAME_PLACE:
                yield from layer.region.outlines


@dataclass(eq=False)
class Rounds(Lines):
    """The circles of a revolution at whatever height it was cut, and its outlines where it begins and ends."""

    form: Revolution
    matrix: Matrix
    _at: dict[float, list[Curve]] = field(default_factory=dict)

    @cached_property
    def back(self) -> Matrix:
        found: Matrix = np.linalg.inv(self.matrix).astype(np.float64)
        return found

    def near(self, a: Points, b: Points) -> Iterable[Curve]:
        height = _level_of(self.back, a, b)
        if height is None:
            return () if self.form.whole else self._ends
        height = _same_level(height, [*self._at, *self._levels])
        if height not in self._at:
            self._at[height] = [_circle(r, height).placed(self.matrix) for r in self._radii(height)]
        return self._at[height]

    @cached_property
    def _levels(self) -> list[float]:
        return [float(piece.start[2]) for outline in self.form.outlines for piece in outline.pieces]

    @cached_property
    def _ends(self) -> list[Curve]:
        turns = (IDENTITY, turned(self.form.angle, np.array([0.0, 0.0, 1.0]), np.zeros(3)))
        return [one.placed(self.matrix @ turn) for turn in turns for one in self.form.outlines]

    def _radii(self, height: float) -> set[float]:
        pieces = [piece for outline in self.form.outlines for piece in outline.pieces]
        found = {
            round(float(piece.at(t)[0]), 9) for piece in pieces for t in _at_height(piece, height)
        }
        return {radius for radius in found if radius > SAME_PLACE}

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


def _level_of(back: Matrix, a: Points, b: Points) -> float | None:
    """The height at which an edge lies in coordinates that a matrix leads back to; None where it rises."""
    ends = applied(back, np.array([a, b]))
    rise, length = abs(ends[1, 2] - ends[0, 2]), np.linalg.norm(ends[1] - ends[0])
    return float(ends[:, 2].mean()) if rise <= max(_LEVEL * length, SAME_PLACE) else None


def _same_level(height: float, known: Sequence[float]) -> float:
    """A height that is known already, where it is the same but for what is drawn in float32."""
    nearest = min(known, key=lambda one: abs(one - height), default=math.inf)
    return nearest if abs(nearest - height) <= _FLOAT32 * max(abs(height), 1.0) else height


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


def edges_of(curve: Curve) -> list[Curve]:
    """A curve parted into what is seen as one edge each: lines, arcs of one circle or ellipse, curves without a corner."""
    pieces = list(curve.pieces)
    breaks = [at for at in range(1, len(pieces)) if not _goes_on(pieces[at - 1], pieces[at])]
    if curve.closed and _goes_on(pieces[-1], pieces[0]):
        if not breaks:
            return [curve]
        pieces = pieces[breaks[0] :] + pieces[: breaks[0]]
        breaks = [at - breaks[0] for at in breaks[1:]]
    ends = [0, *breaks, len(pieces)]
    return [Curve(tuple(pieces[a:b])) for a, b in itertools.pairwise(ends)]


def _goes_on(one: Piece, other: Piece) -> bool:
    """Whether two pieces that follow each other are seen as one edge."""
    if isinstance(one, Arc) and isinstance(other, Arc):
        return _on_one_ellipse(one, other)
    bend = _SMOOTH if isinstance(one, Cubic) and isinstance(other, Cubic) else 1e-6
    return type(one) is type(other) and _turn(one.slope(1.0), other.slope(0.0)) < bend


def _on_one_ellipse(one: Arc, other: Arc) -> bool:
    axes = np.column_stack([one.u, one.v])
    places = other.at(np.array([0.0, 0.5, 1.0])) - one.centre
    shares, *_ = np.linalg.lstsq(axes, places.T, rcond=None)
    off = np.abs(axes @ shares - places.T).max() / np.abs(axes).max()
    return bool(off < 1e-6 and np.abs(np.hypot(*shares) - 1).max() < 1e-6)


def _turn(one: Points, other: Points) -> float:
    return math.atan2(float(np.linalg.norm(cross_product(one, other))), float(one @ other))


def _miss(piece: Piece, t: float, a: Points, b: Points) -> float:
    """How far (mm) the middle of what is drawn between two places may be from a curve there, if it stands for it: chords miss
    a circle by less than a hundredth of its radius (24 of them: by 0.0086), lines are missed by what float32 loses."""
    length = float(np.linalg.norm(b - a))
    half = length / 2 / max(float(np.linalg.norm(piece.slope(t))), SMALLEST)
    low, high = max(t - half, 0.0), min(t + half, 1.0)
    rise = piece.at((low + high) / 2) - (piece.at(low) + piece.at(high)) / 2
    bent = float(np.linalg.norm(rise)) * (2 * half / max(high - low, SAME_SHARE)) ** 2
    lost = 4 * _FLOAT32 * max(float(np.abs([a, b]).max()), 1.0)
    return lost if bent <= _STRAIGHT * length else lost + length**2 / 8 / bent / 100


def _runs_along(piece: Piece, t: float, way: Points) -> bool:
    slope = piece.slope(t)
    size = float(np.linalg.norm(slope) * np.linalg.norm(way))
    return abs(float(slope @ way)) >= _ALONG * size


@dataclass(frozen=True, eq=False)
class Stretch:
    """The part of a curve for which some corners stand: these, its ends on the curve (n, 3), and its length (mm)."""

    corners: Points
    length: float


def stretch(curve: Curve, corners: Points) -> Stretch:
    """The part of a curve that is drawn by corners (n, 3) in order."""
    spots = [closest(curve, corners[at]) for at in (0, len(corners) // 2, -1)]
    reached = np.cumsum([0.0, *(piece.length for piece in curve.pieces)])
    begin, middle, end = (float(reached[at] + curve.pieces[at].length_to(t)) for at, t in spots)
    first, _, last = (curve.pieces[at].at(t) for at, t in spots)
    length = abs(end - begin)
    if np.linalg.norm(first - last) < SAME_PLACE and len(corners) > 2:
        length = curve.length
    elif curve.closed and not min(begin, end) <= middle <= max(begin, end):
        length = curve.length - length
    return Stretch(np.concatenate([first[None], corners[1:-1], last[None]]), length)


def length_along(true: TrueEdges, corners: Points) -> float:
    """How long (mm) an edge is that is drawn by corners (n, 3) in order: what stands for known curves by these, arcs by
    theirs, all else by its chords."""
    known = [true.under(a, b) for a, b in itertools.pairwise(corners)]
    total, at = 0.0, 0
    for curve, run in itertools.groupby(known):
        count = len(list(run))
        some = corners[at : at + count + 1]
        alone = count == 1 and None in known[max(at - 1, 0) : at + 2]  # it only touches it
        on = true.of_balls(some) if curve is None or alone else curve
        total += _by_itself(some) if on is None else stretch(on, some).length
        at += count
    return total


def _by_itself(corners: Points) -> float:
    arc = arc_touched(corners)
    chords = float(np.linalg.norm(np.diff(corners, axis=0), axis=1).sum())
    return chords if arc is None else arc.radius * arc.sweep
