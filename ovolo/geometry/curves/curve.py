"""Curves: chains of exact pieces in space: straight lines, arcs of circles and ellipses, cubics.

Each piece runs over a parameter t from 0 to 1. Lengths are in mm, angles in radians. Arc lengths
of lines and circles are exact; of ellipses and cubics they are integrated (Gauss-Legendre, halved
until the last change is below 1e-12 of the length).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct, field
from numpy.polynomial.polynomial import polyroots, polytrim
from numpy.typing import NDArray

from ovolo.geometry.coat import Coat
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import Drawing
from ovolo.geometry.placement import IDENTITY, Matrix, applied
from ovolo.geometry.same import LEAST, ROUNDING, SAME_SHARE, SMALLEST
from ovolo.geometry.thing import OBJECT, Drawable
from ovolo.geometry.tolerance import (
    CHORD_TOLERANCE,
    chord_tolerance,
    most_turn,
    segments_for,
)
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(24)
_FEW_NODES, _FEW_WEIGHTS = np.polynomial.legendre.leggauss(16)
_MOST_POINTS = 20_000
_FLATTEST = 60
"""Of ellipses that are flatter, the tips are corners."""


class Piece:
    """A smooth piece of a curve."""

    def at(self, t: Any) -> Points:
        """The points (…, 3) at parameters t."""
        raise NotImplementedError

    def slope(self, t: Any) -> Points:
        """The derivatives (…, 3) by the parameter."""
        raise NotImplementedError

    @property
    def figures(self) -> Points:
        """All that makes it, as one row of figures."""
        raise NotImplementedError

    def placed(self, matrix: Matrix) -> Piece:
        raise NotImplementedError

    def part(self, t0: float, t1: float) -> Piece:
        """The piece from parameter t0 to t1; backwards where t1 is less."""
        raise NotImplementedError

    def turning(self) -> list[float]:
        """Parameters between the ends at which x, y or z has an extreme."""
        return []

    def chords(self, tolerance: float) -> int:
        """Into how many chords it is divided to stay within a tolerance (mm)."""
        raise NotImplementedError

    def sides(self, tolerance: float) -> tuple[Points, Points]:
        """The sides that stand for it in the outline of a region: the parameters (n,) and the
        places (n, 3) of their corners, from its start to its end."""
        steps = np.linspace(0.0, 1.0, min(self.chords(tolerance), _MOST_POINTS) + 1)
        return steps, self.at(steps)

    @cached_property
    def start(self) -> Points:
        return self.at(0.0)

    @cached_property
    def end(self) -> Points:
        return self.at(1.0)

    @cached_property
    def length(self) -> float:
        return self.length_to(1.0)

    def length_to(self, t: float) -> float:
        """The length from the start to parameter t."""
        parts, last = 1, math.nan
        while parts <= 1024:
            edges = np.linspace(0.0, t, parts + 1)
            half = np.diff(edges) / 2
            places = edges[:-1, None] + half[:, None] * (1 + _NODES)
            speeds = np.linalg.norm(self.slope(places.reshape(-1)), axis=1).reshape(places.shape)
            total = float((speeds @ _WEIGHTS) @ half)
            if abs(total - last) <= ROUNDING * max(total, SMALLEST):
                break
            parts, last = 2 * parts, total
        return total

    def parameter_at(self, length: float) -> float:
        """The parameter at a length from the start."""
        return float(self.parameters_at(np.array([length]))[0])

    def parameters_at(self, lengths: Points) -> Points:
        """The parameters (n,) at lengths from the start: by Newton's method on the arc length,
        integrated from the nearest of 32 places before."""
        nodes, reached = self._marks
        t = np.interp(lengths, reached, nodes)
        before = np.clip(np.searchsorted(reached, lengths) - 1, 0, len(nodes) - 2)
        for _ in range(8):
            speed = np.linalg.norm(self.slope(t), axis=1)
            miss = reached[before] + self._between(nodes[before], t) - lengths
            t = np.clip(t - miss / np.maximum(speed, ROUNDING), 0.0, 1.0)
            if np.abs(miss).max() < 1e-13 * reached[-1]:
                break
        return t

    @cached_property
    def _marks(self) -> tuple[Points, Points]:
        """Parameters from 0 to 1, and the lengths up to them."""
        nodes = np.linspace(0.0, 1.0, 33)
        each = self._between(nodes[:-1], nodes[1:])
        return nodes, np.concatenate([[0.0], np.cumsum(each)])

    def _between(self, start: Points, end: Points) -> Points:
        """The lengths between parameters (n,), close to each other."""
        half = (end - start) / 2
        places = start[:, None] + half[:, None] * (1 + _NODES)
        speeds = np.linalg.norm(self.slope(places.reshape(-1)), axis=1).reshape(places.shape)
        found: Points = (speeds @ _WEIGHTS) * half
        return found

    def nearest(self, point: Points) -> float:
        """The parameter at which it comes nearest to a point: beside each of many places that is nearer than
        its neighbours, where it runs square to the way to the point (Brent's method)."""
        from scipy.optimize import brentq

        def along(t: float) -> float:
            return float((self.at(t) - point) @ self.slope(t))

        steps = np.linspace(0.0, 1.0, max(4 * self.chords(CHORD_TOLERANCE), 8) + 1)
        gaps = np.linalg.norm(self.at(steps) - point, axis=1)
        around = np.concatenate([[math.inf], gaps, [math.inf]])
        nearer = np.flatnonzero((gaps <= around[:-2]) & (gaps <= around[2:]))
        found = steps[nearer].tolist()
        for at in nearer.tolist():
            low, high = steps[max(at - 1, 0)], steps[min(at + 1, len(steps) - 1)]
            if along(low) < 0 < along(high):
                found.append(float(brentq(along, low, high, xtol=1e-16, rtol=8.9e-16)))
        return float(min(found, key=lambda t: float(np.linalg.norm(self.at(t) - point))))

    def reversed(self) -> Piece:
        return self.part(1.0, 0.0)

    def bounds(self) -> Points:
        points = self.at(np.array([0.0, 1.0, *self.turning()]))
        return np.array([points.min(axis=0), points.max(axis=0)])


class Straight(Piece, Struct, frozen=True, eq=False):
    """The line from a to b, each (3,) in mm."""

    a: Points
    b: Points

    @property
    def figures(self) -> Points:
        return np.concatenate([self.a, self.b])

    def at(self, t: Any) -> Points:
        t = np.asarray(t, dtype=float)[..., None]
        points: Points = self.a + t * (self.b - self.a)
        return points

    def slope(self, t: Any) -> Points:
        return np.broadcast_to(self.b - self.a, (*np.shape(t), 3))

    def placed(self, matrix: Matrix) -> Straight:
        a, b = applied(matrix, np.array([self.a, self.b]))
        return Straight(a, b)

    def part(self, t0: float, t1: float) -> Straight:
        return Straight(self.at(t0), self.at(t1))

    def chords(self, tolerance: float) -> int:
        return 1

    def length_to(self, t: float) -> float:
        return t * float(np.linalg.norm(self.b - self.a))

    def nearest(self, point: Points) -> float:
        way = self.b - self.a
        square = float(way @ way)
        return min(max(float((point - self.a) @ way) / square, 0.0), 1.0) if square else 0.0

    def parameters_at(self, lengths: Points) -> Points:
        shares = lengths / self.length if self.length else np.zeros(len(lengths))
        return np.clip(shares, 0.0, 1.0)


class Arc(Piece, Struct, frozen=True, eq=False, dict=True):
    """centre + u cos a + v sin a, for a from `angle` over `sweep`: a circle where u and v are at
    right angles and equally long, otherwise an ellipse given by two conjugate radii."""

    centre: Points
    u: Points
    v: Points
    angle: float
    sweep: float

    @property
    def figures(self) -> Points:
        return np.array([*self.centre, *self.u, *self.v, self.angle, self.sweep])

    @cached_property
    def is_circle(self) -> bool:
        r, s = float(np.linalg.norm(self.u)), float(np.linalg.norm(self.v))
        return abs(r - s) <= ROUNDING * r and abs(float(self.u @ self.v)) <= ROUNDING * r * r

    @property
    def radius(self) -> float:
        """Of a circle."""
        return float(np.linalg.norm(self.u))

    @property
    def normal(self) -> Points:
        cross: Points = cross_product(self.u, self.v)
        return cross / np.linalg.norm(cross)

    def at(self, t: Any) -> Points:
        angles = self.angle + np.asarray(t, dtype=float)[..., None] * self.sweep
        points: Points = self.centre + np.cos(angles) * self.u + np.sin(angles) * self.v
        return points

    def slope(self, t: Any) -> Points:
        angles = self.angle + np.asarray(t, dtype=float)[..., None] * self.sweep
        slopes: Points = self.sweep * (np.cos(angles) * self.v - np.sin(angles) * self.u)
        return slopes

    def placed(self, matrix: Matrix) -> Arc:
        (centre,) = applied(matrix, self.centre[None])
        turn = matrix[:3, :3]
        return Arc(centre, turn @ self.u, turn @ self.v, self.angle, self.sweep)

    def part(self, t0: float, t1: float) -> Arc:
        return Arc(
            self.centre, self.u, self.v, self.angle + t0 * self.sweep, (t1 - t0) * self.sweep
        )

    def turning(self) -> list[float]:
        found = []
        for axis in range(3):
            extreme = math.atan2(float(self.v[axis]), float(self.u[axis]))
            for angle in (extreme, extreme + math.pi):
                turns = (angle - self.angle) / self.sweep
                whole = 2 * math.pi / abs(self.sweep)
                found.append(turns - math.floor(turns / whole) * whole)
        return [t for t in found if 0 < t < 1]

    def chords(self, tolerance: float) -> int:
        size = max(float(np.linalg.norm(self.u)), float(np.linalg.norm(self.v)))
        whole = segments_for(size, tolerance, _MOST_POINTS)
        if not self.is_circle:  # at its tips it turns faster, by the ratio of its radii
            wide, narrow = np.linalg.svd(np.array([self.u, self.v]), compute_uv=False)
            fastest = float(wide / max(narrow, wide / _FLATTEST, LEAST))
            whole = max(whole, math.ceil(2 * math.pi / most_turn(tolerance) * fastest))
        return max(math.ceil(whole * abs(self.sweep) / (2 * math.pi) - SAME_SHARE), 1)

    def sides(self, tolerance: float) -> tuple[Points, Points]:
        """They touch it at even steps, so that they lie outside of a circle: a corner stands
        between two places where they touch."""
        return self.divided(min(self.chords(tolerance), _MOST_POINTS))

    def divided(self, count: int) -> tuple[Points, Points]:
        """So many sides, those at its ends half as long."""
        steps = np.concatenate([[0.0], (np.arange(count) + 0.5) / count, [1.0]])
        angles = self.angle + steps * self.sweep
        sizes = np.full(count + 2, 1 / math.cos(self.sweep / count / 2))
        sizes[[0, -1]] = 1.0
        u, v = ((sizes * one)[:, None] for one in (np.cos(angles), np.sin(angles)))
        return steps, self.centre + u * self.u + v * self.v

    def nearest(self, point: Points) -> float:
        """Of a circle, where the ray from its centre meets it, or the nearer end."""
        out = point - self.centre
        x, y = float(out @ self.u), float(out @ self.v)
        if not self.is_circle or math.hypot(x, y) <= SMALLEST * self.radius:
            return super().nearest(point)
        whole = 2 * math.pi / abs(self.sweep)
        t = ((math.atan2(y, x) - self.angle) / self.sweep) % whole
        if t <= 1:
            return t
        return 1.0 if t - 1 < whole - t else 0.0

    def length_to(self, t: float) -> float:
        if self.is_circle:
            return t * self.radius * abs(self.sweep)
        return super().length_to(t)

    def parameters_at(self, lengths: Points) -> Points:
        if self.is_circle:
            return np.clip(lengths / self.length, 0.0, 1.0)
        return super().parameters_at(lengths)


class Cubic(Piece, Struct, frozen=True, eq=False, dict=True):
    """A cubic by its four Bézier points (4, 3)."""

    poles: Points

    @property
    def figures(self) -> Points:
        return self.poles.reshape(-1)

    @cached_property
    def _power(self) -> Points:
        a, b, c, d = self.poles
        return np.array([a, 3 * (b - a), 3 * (a - 2 * b + c), d - 3 * c + 3 * b - a])

    def at(self, t: Any) -> Points:
        t = np.asarray(t, dtype=float)[..., None]
        c0, c1, c2, c3 = self._power
        points: Points = c0 + t * (c1 + t * (c2 + t * c3))
        return points

    def slope(self, t: Any) -> Points:
        t = np.asarray(t, dtype=float)[..., None]
        _, c1, c2, c3 = self._power
        slopes: Points = c1 + t * (2 * c2 + t * 3 * c3)
        return slopes

    def placed(self, matrix: Matrix) -> Cubic:
        return Cubic(applied(matrix, self.poles))

    def part(self, t0: float, t1: float) -> Cubic:
        if (t0, t1) == (1.0, 0.0):
            return Cubic(self.poles[::-1])
        third = (t1 - t0) / 3
        a, d = self.at(t0), self.at(t1)
        return Cubic(np.array([a, a + third * self.slope(t0), d - third * self.slope(t1), d]))

    def turning(self) -> list[float]:
        _, c1, c2, c3 = self._power.tolist()
        roots = (_roots(3 * a, 2 * b, c) for a, b, c in zip(c3, c2, c1, strict=True))
        return [t for found in roots for t in found if 0 < t < 1]

    def nearest(self, point: Points) -> float:
        """The best of its ends and of where it runs square to the way to the point: the roots of a polynomial of the
        fifth degree."""
        c0, c1, c2, c3 = self._power
        away, along = np.array([c0 - point, c1, c2, c3]), np.array([c1, 2 * c2, 3 * c3])
        square = sum(np.convolve(away[:, axis], along[:, axis]) for axis in range(3))
        square = polytrim(square / max(np.abs(square).max(), LEAST), ROUNDING)
        roots = polyroots(square)
        steps = np.concatenate([[0.0, 1.0], np.clip(roots.real, 0.0, 1.0)])
        return float(steps[np.linalg.norm(self.at(steps) - point, axis=1).argmin()])

    def chords(self, tolerance: float) -> int:
        return int(Cubics(self.poles[None]).chords(tolerance)[0])

    def sides(self, tolerance: float) -> tuple[Points, Points]:
        """Their corners stand outside of the bend by a twelfth of the second differences, which
        makes what they enclose as large as the curve does (but for higher orders)."""
        steps, places = super().sides(tolerance)
        count = len(steps) - 1
        if count > 1:
            bends = places[:-2] - 2 * places[1:-1] + places[2:]
            places[1:-1] -= bends * count / (count - 1) / 12
        return steps, places


class Cubics(Struct, frozen=True, eq=False, dict=True):
    """Many cubics that follow each other, worked out all at once: `poles` is (n, 4, 3)."""

    poles: Points

    @classmethod
    def of(cls, pieces: Iterable[Piece]) -> Cubics:
        return cls(np.array([piece.poles for piece in pieces if isinstance(piece, Cubic)]))

    def pieces(self) -> list[Piece]:
        return [Cubic(poles) for poles in self.poles]

    def placed(self, matrix: Matrix) -> Cubics:
        return Cubics(applied(matrix, self.poles.reshape(-1, 3)).reshape(-1, 4, 3))

    @cached_property
    def powers(self) -> tuple[Points, Points, Points, Points]:
        """The coefficients (n, 3) of their powers of t, from the constant on."""
        a, b, c, d = np.moveaxis(self.poles, 1, 0)
        return a, 3 * (b - a), 3 * (a - 2 * b + c), d - 3 * c + 3 * b - a

    def _at(self, which: Any, t: Points) -> Points:
        c0, c1, c2, c3 = (c[which] for c in self.powers)
        points: Points = c0 + t * (c1 + t * (c2 + t * c3))
        return points

    def places(self, t: Points) -> Points:
        """The points of each at parameters t, (n, len(t), 3)."""
        c0, c1, c2, c3 = (c[:, None, :] for c in self.powers)
        t = t[None, :, None]
        places: Points = c0 + t * (c1 + t * (c2 + t * c3))
        return places

    def slopes(self, t: Points) -> Points:
        """The derivatives of each at parameters t, (n, len(t), 3)."""
        _, c1, c2, c3 = (c[:, None, :] for c in self.powers)
        t = t[None, :, None]
        slopes: Points = c1 + t * (2 * c2 + t * 3 * c3)
        return slopes

    @cached_property
    def lengths(self) -> Points:
        """The length of each, as `Piece.length_to` has it; those that bend much, one by one."""
        lengths = self._in_one_go.copy()
        for at in np.flatnonzero(self._uneven):
            lengths[at] = Cubic(self.poles[at]).length
        return lengths

    @cached_property
    def _in_one_go(self) -> Points:
        return self._lengths_by(_NODES, _WEIGHTS)

    @cached_property
    def _uneven(self) -> NDArray[np.bool_]:
        """Which of them bend too much to be measured in one go."""
        few, many = self._lengths_by(_FEW_NODES, _FEW_WEIGHTS), self._in_one_go
        uneven: NDArray[np.bool_] = np.abs(many - few) > 1e-13 * np.maximum(many, SMALLEST)
        return uneven

    def parameters_at(self, which: NDArray[np.int64], lengths: Points) -> Points:
        """The parameters (m,) at lengths from the start of those of the numbers given, by Newton's
        method on the arc length; on those that bend much, one by one."""
        totals = self.lengths[which]
        t = np.clip(lengths / totals, 0.0, 1.0)
        _, c1, c2, c3 = (c[which][:, None, :] for c in self.powers)
        for _ in range(8):
            places = (t[:, None] * np.append((1 + _NODES) / 2, 1.0))[..., None]
            speeds = np.linalg.norm(c1 + places * (2 * c2 + places * 3 * c3), axis=2)
            miss = (speeds[:, :-1] @ _WEIGHTS) * t / 2 - lengths
            t = np.clip(t - miss / np.maximum(speeds[:, -1], ROUNDING), 0.0, 1.0)
            if np.all(np.abs(miss) < 1e-13 * totals):
                break
        for at in np.unique(which[self._uneven[which]]):
            here = which == at
            t[here] = Cubic(self.poles[at]).parameters_at(lengths[here])
        return t

    def _lengths_by(self, nodes: Points, weights: Points) -> Points:
        speeds = np.linalg.norm(self.slopes((1 + nodes) / 2), axis=2)
        lengths: Points = speeds @ weights / 2
        return lengths

    def smooth_runs(self, bend: float) -> list[Cubics]:
        """The same in stretches within which each goes on in the direction of the one before, but
        for a bend in radians."""
        ends, starts = (
            self.poles[:-1, 3] - self.poles[:-1, 2],
            self.poles[1:, 1] - self.poles[1:, 0],
        )
        sines = np.linalg.norm(cross_product(ends, starts), axis=1)
        turns = np.arctan2(sines, dot_product(ends, starts))
        edges = np.flatnonzero(turns > bend) + 1
        return [Cubics(poles) for poles in np.split(self.poles, edges)]

    def at(self, which: NDArray[np.int64], steps: Points) -> tuple[Points, Points]:
        """Places and directions (m, 3) on those of the numbers given, at parameters."""
        steps = steps[:, None]
        _, c1, c2, c3 = (c[which] for c in self.powers)
        slopes = c1 + steps * (2 * c2 + steps * 3 * c3)
        return self._at(which, steps), slopes / np.linalg.norm(slopes, axis=1, keepdims=True)

    def chords(self, tolerance: float) -> NDArray[np.int64]:
        """Into how many chords each is divided. A chord misses a curve by at most
        h² |second derivative| / 8; and none turns by more than two of a small circle."""
        _, _, c2, c3 = self.powers
        bends = np.maximum(np.linalg.norm(2 * c2, axis=1), np.linalg.norm(2 * c2 + 6 * c3, axis=1))
        legs = np.diff(self.poles, axis=1)
        sines = np.linalg.norm(cross_product(legs[:, :-1], legs[:, 1:]), axis=2)
        turns = np.arctan2(sines, dot_product(legs[:, :-1], legs[:, 1:])).sum(axis=1)
        by_turn = turns / most_turn(tolerance) - SAME_SHARE
        counts = np.maximum(np.sqrt(bends / (8 * tolerance)), by_turn)
        found: NDArray[np.int64] = np.clip(np.ceil(counts), 1, _MOST_POINTS).astype(np.int64)
        return found

    def points(self, tolerance: float) -> Points:
        """The ends of its chords (m, 3), without the start of the first."""
        which, steps = _steps_of(self.chords(tolerance))
        return self._at(which, steps[:, None])

    def sides(self, tolerance: float) -> Points:
        """The corners (m, 3) of the sides that stand for each, without the start of the first."""
        counts = self.chords(tolerance)
        which, steps = _steps_of(counts)
        size = (1 / counts[which])[:, None]
        at = self._at(which, steps[:, None])
        before, after = (self._at(which, steps[:, None] + way * size) for way in (-1.0, 1.0))
        inner = (steps < 1 - ROUNDING)[:, None]
        share = np.where(counts > 1, counts / np.maximum(counts - 1, 1), 0.0)[which][:, None] / 12
        sides: Points = at - np.where(inner, (before - 2 * at + after) * share, 0.0)
        return sides

    def bounds(self) -> Points:
        """The least and greatest corner, (2, 3): at the ends, or where a coordinate turns."""
        _, c1, c2, c3 = self.powers
        a, b = 3 * c3, 2 * c2
        square = b * b - 4 * a * c1
        half = -(b + np.copysign(np.sqrt(np.maximum(square, 0.0)), b)) / 2
        low, high = (
            end.copy() for end in (self.poles[:, [0, 3]].min(1), self.poles[:, [0, 3]].max(1))
        )
        with np.errstate(divide="ignore", invalid="ignore"):
            for root in (half / a, c1 / half):
                turns = np.where((square >= 0) & (root > 0) & (root < 1), root, 0.0)
                at = self._at(slice(None), turns)
                low, high = np.minimum(low, at), np.maximum(high, at)
        return np.array([low.min(axis=0), high.max(axis=0)])


def _steps_of(counts: NDArray[np.int64]) -> tuple[NDArray[np.int64], Points]:
    """For things parted into so many steps each: whose step it is, and where it ends."""
    which = np.repeat(np.arange(len(counts)), counts)
    before = np.repeat(np.cumsum(counts) - counts, counts)
    return which, (np.arange(len(which)) - before + 1) / counts[which]


_CORNER = 1e-3
"""Radians; what bends by less at once has no corner there."""


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
        figures = [run.poles if isinstance(run, Cubics) else run.figures for run in self.runs]
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
        return math.fsum(
            math.fsum(run.lengths) if isinstance(run, Cubics) else run.length for run in self.runs
        )

    @cached_property
    def ends(self) -> Points:
        """At which length from the start (mm) each piece ends, (n,)."""
        each = [run.lengths if isinstance(run, Cubics) else [run.length] for run in self.runs]
        found: Points = np.cumsum(np.concatenate(each))
        return found

    def bounds(self) -> Points:
        """The least and greatest corner, (2, 3)."""
        return self._bounds

    @cached_property
    def _bounds(self) -> Points:
        boxes = [run.bounds() for run in self.runs if not isinstance(run, Straight)]
        ends = [end for run in self.runs if isinstance(run, Straight) for end in (run.a, run.b)]
        corners = np.concatenate([[self.start], *boxes, np.reshape(ends, (-1, 3))])
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
        """Its pieces in order, cubics that follow each other together: there may be thousands."""
        found: list[Piece | Cubics] = []
        for is_cubic, group in itertools.groupby(self.pieces, lambda p: isinstance(p, Cubic)):
            run = list(group)
            found += [Cubics.of(run)] if is_cubic else run
        return found

    def placed(self, matrix: Matrix) -> Curve:
        origin = None if self.origin is None else applied(matrix, self.origin[None])[0]
        pieces: list[Piece] = []
        for run in self.runs:
            placed = run.placed(matrix)
            pieces += placed.pieces() if isinstance(placed, Cubics) else [placed]
        return Curve(tuple(pieces), origin, self.tolerance, self.coat)

    def reversed(self) -> Curve:
        turned = tuple(piece.reversed() for piece in reversed(self.pieces))
        return Curve(turned, tolerance=self.tolerance, coat=self.coat)

    def sides(self, tolerance: float | None = None) -> Points:
        """The corners (n, 3) of the outline it makes, where it bounds a region."""
        tolerance = self.tolerance if tolerance is None else tolerance
        found = [self.start[None]]
        for run in self.runs:
            if isinstance(run, Cubics):
                found.append(run.sides(tolerance))
            else:
                found.append(run.sides(tolerance)[1][1:])
        return np.concatenate(found)

    def points(self, tolerance: float | None = None) -> Points:
        """The corners (n, 3) of its chords; a closed curve ends where it begins."""
        tolerance = self.tolerance if tolerance is None else tolerance
        found = [self.start[None]]
        for run in self.runs:
            if isinstance(run, Cubics):
                found.append(run.points(tolerance))
                continue
            count = min(run.chords(tolerance), _MOST_POINTS)
            found.append(run.at(np.linspace(0.0, 1.0, count + 1)[1:]))
        return np.concatenate(found)

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


def _roots(a: float, b: float, c: float) -> tuple[float, ...]:
    """The real roots of a t² + b t + c, in the form that loses no figures (Press et al.,
    Numerical Recipes, 5.6)."""
    square = b * b - 4 * a * c
    if square < 0:
        return ()
    half = -(b + math.copysign(math.sqrt(square), b)) / 2
    return tuple(top / below for top, below in ((half, a), (c, half)) if below)


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
