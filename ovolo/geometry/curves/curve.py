"""Curves: chains of exact pieces in space."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable
from functools import cached_property

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from ovolo.geometry.coat import Coat
from ovolo.geometry.curves.alike import Alike, Corners, Cubics, alike
from ovolo.geometry.curves.pieces import MOST_POINTS, Cubic, Piece
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import Drawing
from ovolo.geometry.placement import IDENTITY, Matrix, applied
from ovolo.geometry.same import LEAST, SAME_SHARE, SMALLEST
from ovolo.geometry.thing import OBJECT, Drawable
from ovolo.geometry.tolerance import chord_tolerance
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure

_CORNER = 1e-3
"""Radians; what bends by less at once has no corner there."""

_ONE_BY_ONE = 3
"""So many pieces are worked out one by one, which is quicker then."""


def _ways_of(run: Piece | Cubics) -> tuple[Points, Points]:
    """Along which vectors it begins, and ends."""
    if isinstance(run, Cubics):
        return run.poles[0, 1] - run.poles[0, 0], run.poles[-1, 3] - run.poles[-1, 2]
    return run.slope(0.0), run.slope(1.0)


def _goes_on(end: Points, start: Points) -> bool:
    sine = float(np.linalg.norm(cross_product(end, start)))
    return math.atan2(sine, float(end @ start)) <= _CORNER


class Curve(Drawable, Struct, frozen=True, eq=False, dict=True):
    """A chain of pieces, each beginning where the one before it ends. A curve that is only begun
    has no pieces yet, but a place (`origin`)."""

    pieces: tuple[Piece, ...]
    origin: Points | None = None
    tolerance: float = field(default_factory=chord_tolerance)
    """By how much (mm) its chords may miss it: that of the run it was made in."""

    coat: Coat | None = None

    word = "curve"

    @property
    def weight(self) -> int:
        return OBJECT * (1 + len(self.pieces))

    @cached_property
    def key(self) -> str:
        kinds = "".join(type(piece).__name__[0] for piece in self.pieces)
        if len(self.pieces) <= _ONE_BY_ONE:
            figures = [one.figures for one in self.pieces]
        else:
            figures = [row for _, some in self._alike for row in some.figures]
        return digest("curve", kinds, self.start, *figures)

    @property
    def within(self) -> float:
        """Curves are measured exactly."""
        return 0.0

    @property
    def start(self) -> Points:
        return self.pieces[0].start if self.pieces else _place(self.origin)

    @property
    def end(self) -> Points:
        return self.pieces[-1].end if self.pieces else _place(self.origin)

    @property
    def closed(self) -> bool:
        return bool(self.pieces) and bool(np.linalg.norm(self.end - self.start) < SMALLEST)

    @cached_property
    def length(self) -> float:
        """Length in mm."""
        return math.fsum(self._lengths)

    @cached_property
    def ends(self) -> Points:
        """At which length from the start (mm) each piece ends, (n,)."""
        found: Points = np.cumsum(self._lengths)
        return found

    @cached_property
    def _lengths(self) -> Points:
        if len(self.pieces) <= _ONE_BY_ONE:
            return np.array([one.length for one in self.pieces])
        found = np.empty(len(self.pieces))
        for numbers, some in self._alike:
            found[numbers] = some.lengths
        return found

    def bounds(self) -> Points:
        """The least and greatest corner, (2, 3)."""
        return self._bounds

    @cached_property
    def _bounds(self) -> Points:
        few = len(self.pieces) <= _ONE_BY_ONE
        some = self.pieces if few else [some for _, some in self._alike]
        corners = np.concatenate([[self.start], *(one.bounds() for one in some)])
        found = np.array([corners.min(axis=0), corners.max(axis=0)])
        found.flags.writeable = False  # it is kept, and handed to many
        return found

    @cached_property
    def piece_bounds(self) -> Points:
        """A box (2, 3) about each of its pieces, (n, 2, 3): of a cubic that of its control points, in
        whose hull it lies."""
        corners = [one.figures.reshape(-1, 3) if isinstance(one, Cubic) else one.bounds() for one in self.pieces]  # fmt: skip
        return np.array([[some.min(axis=0), some.max(axis=0)] for some in corners])

    @cached_property
    def is_smooth(self) -> bool:
        """Whether it has no corners: each piece goes on in the direction of the one before."""
        if any(len(run.smooth_runs(_CORNER)) > 1 for run in self.runs if isinstance(run, Cubics)):
            return False
        ways = [_ways_of(run) for run in self.runs]
        return all(_goes_on(end, start) for (_, end), (start, _) in itertools.pairwise(ways))

    @cached_property
    def runs(self) -> list[Piece | Cubics]:
        """Its pieces in order, cubics that follow each other together."""
        found: list[Piece | Cubics] = []
        for is_cubic, group in itertools.groupby(self.pieces, lambda p: isinstance(p, Cubic)):
            run = list(group)
            found += [Cubics.of(run)] if is_cubic else run
        return found

    def placed(self, matrix: Matrix) -> Curve:
        origin = None if self.origin is None else applied(matrix, self.origin[None])[0]
        if len(self.pieces) <= _ONE_BY_ONE:
            pieces = tuple(one.placed(matrix) for one in self.pieces)
            return Curve(pieces, origin, self.tolerance, self.coat)
        every = [(numbers, some.placed(matrix)) for numbers, some in self._alike]
        found = list(self.pieces)
        for numbers, some in every:
            for at, piece in zip(numbers.tolist(), some.pieces(), strict=True):
                found[at] = piece
        made = Curve(tuple(found), origin, self.tolerance, self.coat)
        made.__dict__["_alike"] = every
        return made

    def reversed(self) -> Curve:
        turned = tuple(piece.reversed() for piece in reversed(self.pieces))
        return Curve(turned, tolerance=self.tolerance, coat=self.coat)

    def sides(self, tolerance: float | None = None) -> Points:
        """The corners (n, 3) of the outline it makes, where it bounds a region."""
        tolerance = self.tolerance if tolerance is None else tolerance
        if len(self.pieces) > _ONE_BY_ONE:
            return self._corners([(at, some.sides(tolerance)) for at, some in self._alike])
        return np.concatenate([self.start[None], *(one.sides(tolerance)[1][1:] for one in self.pieces)])  # fmt: skip

    def points(self, tolerance: float | None = None) -> Points:
        """The corners (n, 3) of its chords; a closed curve ends where it begins."""
        tolerance = self.tolerance if tolerance is None else tolerance
        if len(self.pieces) > _ONE_BY_ONE:
            return self._corners([(at, some.points(tolerance)) for at, some in self._alike])
        found = [self.start[None]]
        for one in self.pieces:
            count = min(one.chords(tolerance), MOST_POINTS)
            found.append(one.at(np.linspace(0.0, 1.0, count + 1)[1:]))
        return np.concatenate(found)

    def _corners(self, divided: Iterable[tuple[NDArray[np.int64], Corners]]) -> Points:
        """Its start, and the corners of its pieces in their order."""
        whose = [np.repeat(numbers, counts) for numbers, (counts, _) in divided]
        places = np.concatenate([places for _, (_, places) in divided])
        order = np.argsort(np.concatenate(whose), kind="stable")
        return np.concatenate([self.start[None], places[order]])

    @cached_property
    def _alike(self) -> list[tuple[NDArray[np.int64], Alike]]:
        return alike(self.pieces)

    def locate(self, length: float) -> tuple[int, float]:
        """The piece and its parameter at a length from the start. Raises Failure beyond the ends."""
        needs_pieces(self)
        if not -SMALLEST <= length <= self.length + SMALLEST:
            raise Failure(
                f"there is nothing at {length:.6g} mm on a curve {self.length:.6g} mm long",
                "from 0 mm to its length, or a share from 0 to 1",
            )
        at = min(int(np.searchsorted(self.ends, length)), len(self.pieces) - 1)
        return at, self.pieces[at].parameter_at(length - self.length_before(at))

    def length_before(self, at: int) -> float:
        """The length (mm) of all pieces before one, by its number."""
        return float(self.ends[at - 1]) if at else 0.0

    def point_at(self, length: float) -> Points:
        at, t = self.locate(length)
        return self.pieces[at].at(t)

    def tangent_at(self, length: float) -> Points:
        """The direction (3,) of length 1."""
        at, t = self.locate(length)
        return direction(self.pieces[at].slope(t))

    def between(self, begin: float, end: float) -> Curve:
        """The part between two lengths from the start; of a closed curve, past its start where
        the end comes first."""
        if end <= begin + SMALLEST:
            if self.closed and end < begin - SMALLEST:
                return Curve(
                    (*self.between(begin, self.length).pieces, *self.between(0.0, end).pieces)
                )
            raise Failure(
                f"the part from {begin:.6g} mm to {end:.6g} mm has no length", "end after the start"
            )
        (first, t0), (last, t1) = self.locate(begin), self.locate(end)
        if first == last:
            return Curve((self.pieces[first].part(t0, t1),))
        ends = [self.pieces[first].part(t0, 1.0), *self.pieces[first + 1 : last]]
        ends.append(self.pieces[last].part(0.0, t1))
        return Curve(tuple(piece for piece in ends if piece.length > SMALLEST))

    @property
    def drawing_key(self) -> str:
        """What tells its picture from others: its chords are what is held."""
        return f"curve:{self.key}@{self.tolerance:g}"

    @property
    def drawn_at(self) -> Matrix:
        """Its picture stands where it is."""
        return IDENTITY

    @property
    def drawing(self) -> Drawing:
        """Its chords as lines to draw."""
        corners = self.points()
        edges = np.stack([corners[:-1], corners[1:]], axis=1).astype(np.float32)
        empty = np.empty((0, 3), dtype=np.float32)
        return Drawing(empty, empty, np.empty((0, 3), dtype=np.uint32), edges)


def _place(origin: Points | None) -> Points:
    assert origin is not None
    return origin


def needs_pieces(curve: Curve) -> None:
    """Raises Failure for a curve that is only begun."""
    if not curve.pieces:
        raise Failure("this curve is only begun", "go on with .to(…), .arc_to(…) or .tangent_to(…)")


def direction(vector: Points) -> Points:
    """The vector (3,) at length 1. Raises Failure for one of no length."""
    size = float(np.linalg.norm(vector))
    if size < LEAST:
        raise Failure("the curve has no direction there")
    unit: Points = vector / size
    return unit


def closest(curve: Curve, point: Points) -> tuple[int, float]:
    """The piece and its parameter nearest to a point."""
    needs_pieces(curve)
    best = (0, 0.0, math.inf)
    for at, apart in _by_distance(curve, point):
        if apart > best[2]:
            break
        piece = curve.pieces[at]
        for t in (piece.nearest(point), 0.0, 1.0):
            gap = float(np.linalg.norm(piece.at(t) - point))
            if gap < best[2] or (gap == best[2] and at < best[0]):
                best = (at, t, gap)
    return best[0], best[1]


_FEW = 8
"""So many pieces are all looked at."""


def _by_distance(curve: Curve, point: Points) -> Iterable[tuple[int, float]]:
    """The pieces, nearest first, and how far away their bounds are: they cannot be nearer."""
    if len(curve.pieces) <= _FEW:
        return ((at, 0.0) for at in range(len(curve.pieces)))
    low, high = curve.piece_bounds[:, 0], curve.piece_bounds[:, 1]
    apart = np.linalg.norm(np.maximum(np.maximum(low - point, point - high), 0.0), axis=1)
    order = np.argsort(apart, kind="stable")
    return zip(order.tolist(), (apart[order] * (1 - SAME_SHARE)).tolist(), strict=True)
