"""The exact pieces of which curves are made: straight lines, arcs of circles and ellipses, cubics.

Each piece runs over a parameter t from 0 to 1. Lengths are in mm, angles in radians. Arc lengths
of lines and circles are exact; of ellipses and cubics they are integrated (Gauss-Legendre, halved
until the last change is below 1e-12 of the length).
"""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.polynomial.polynomial import polyroots, polytrim
from numpy.typing import NDArray

from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.same import LEAST, ROUNDING, SAME_SHARE, SMALLEST
from ovolo.geometry.tolerance import CHORD_TOLERANCE, most_turn, segments_for
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product

NODES, WEIGHTS = np.polynomial.legendre.leggauss(24)
MOST_POINTS = 20_000
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
        steps = np.linspace(0.0, 1.0, min(self.chords(tolerance), MOST_POINTS) + 1)
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
            places = edges[:-1, None] + half[:, None] * (1 + NODES)
            speeds = np.linalg.norm(self.slope(places.reshape(-1)), axis=1).reshape(places.shape)
            total = float((speeds @ WEIGHTS) @ half)
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
        places = start[:, None] + half[:, None] * (1 + NODES)
        speeds = np.linalg.norm(self.slope(places.reshape(-1)), axis=1).reshape(places.shape)
        found: Points = (speeds @ WEIGHTS) * half
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
        whole = segments_for(size, tolerance, MOST_POINTS)
        if not self.is_circle:  # at its tips it turns faster, by the ratio of its radii
            wide, narrow = np.linalg.svd(np.array([self.u, self.v]), compute_uv=False)
            fastest = float(wide / max(narrow, wide / _FLATTEST, LEAST))
            whole = max(whole, math.ceil(2 * math.pi / most_turn(tolerance) * fastest))
        return max(math.ceil(whole * abs(self.sweep) / (2 * math.pi) - SAME_SHARE), 1)

    def sides(self, tolerance: float) -> tuple[Points, Points]:
        """They touch it at even steps, so that they lie outside of a circle: a corner stands
        between two places where they touch."""
        return self.divided(min(self.chords(tolerance), MOST_POINTS))

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
        return int(chords_of_cubics(self.poles[None], tolerance)[0])

    def sides(self, tolerance: float) -> tuple[Points, Points]:
        """Their corners stand outside of the bend by a twelfth of the second differences, which
        makes what they enclose as large as the curve does (but for higher orders)."""
        steps, places = super().sides(tolerance)
        count = len(steps) - 1
        if count > 1:
            bends = places[:-2] - 2 * places[1:-1] + places[2:]
            places[1:-1] -= bends * count / (count - 1) / 12
        return steps, places


def chords_of_cubics(poles: Points, tolerance: float) -> NDArray[np.int64]:
    """Into how many chords each of some cubics, by their Bézier points (n, 4, 3), is divided. A chord misses a curve
    by at most h² |second derivative| / 8; and none turns by more than two of a small circle."""
    a, b, c, d = np.moveaxis(poles, 1, 0)
    c2, c3 = 3 * (a - 2 * b + c), d - 3 * c + 3 * b - a
    bends = np.maximum(np.linalg.norm(2 * c2, axis=1), np.linalg.norm(2 * c2 + 6 * c3, axis=1))
    legs = np.diff(poles, axis=1)
    sines = np.linalg.norm(cross_product(legs[:, :-1], legs[:, 1:]), axis=2)
    turns = np.arctan2(sines, dot_product(legs[:, :-1], legs[:, 1:])).sum(axis=1)
    by_turn = turns / most_turn(tolerance) - SAME_SHARE
    counts = np.maximum(np.sqrt(bends / (8 * tolerance)), by_turn)
    found: NDArray[np.int64] = np.clip(np.ceil(counts), 1, MOST_POINTS).astype(np.int64)
    return found


def _roots(a: float, b: float, c: float) -> tuple[float, ...]:
    """The real roots of a t² + b t + c, in the form that loses no figures (Press et al.,
    Numerical Recipes, 5.6)."""
    square = b * b - 4 * a * c
    if square < 0:
        return ()
    half = -(b + math.copysign(math.sqrt(square), b)) / 2
    return tuple(top / below for top, below in ((half, a), (c, half)) if below)
