"""Curves: chains of exact pieces in space: straight lines, arcs of circles and ellipses, cubics.

Each piece runs over a parameter t from 0 to 1. Lengths are in mm, angles in radians. Arc lengths
of lines and circles are exact; of ellipses and cubics they are integrated (Gauss-Legendre, halved
until the last change is below 1e-12 of the length).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.mesh import Drawing
from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.tolerance import CHORD_TOLERANCE
from ovolo.problems import Failure

SMALLEST = 1e-6
"""Lengths in mm below this are none."""

Points = NDArray[np.float64]
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(24)
_MOST_POINTS = 20_000


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
            if abs(total - last) <= 1e-12 * max(total, SMALLEST):
                break
            parts, last = 2 * parts, total
        return total

    def parameter_at(self, length: float) -> float:
        """The parameter at a length from the start."""
        if length <= 0:
            return 0.0
        if length >= self.length:
            return 1.0
        from scipy.optimize import brentq

        return float(brentq(lambda t: self.length_to(t) - length, 0.0, 1.0, xtol=1e-15, rtol=1e-14))

    def reversed(self) -> Piece:
        return self.part(1.0, 0.0)

    def bounds(self) -> Points:
        points = self.at(np.array([0.0, 1.0, *self.turning()]))
        return np.array([points.min(axis=0), points.max(axis=0)])


@dataclass(frozen=True, eq=False)
class Straight(Piece):
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

    def parameter_at(self, length: float) -> float:
        return min(max(length / self.length, 0.0), 1.0) if self.length else 0.0


@dataclass(frozen=True, eq=False)
class Arc(Piece):
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
        return abs(r - s) <= 1e-12 * r and abs(float(self.u @ self.v)) <= 1e-12 * r * r

    @property
    def radius(self) -> float:
        """Of a circle."""
        return float(np.linalg.norm(self.u))

    @property
    def normal(self) -> Points:
        cross: Points = np.cross(self.u, self.v)
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
        step = math.pi / 6 if size <= tolerance else 2 * math.acos(1 - tolerance / size)
        return max(math.ceil(abs(self.sweep) / min(step, math.pi / 12) - 1e-9), 1)

    def length_to(self, t: float) -> float:
        if self.is_circle:
            return t * self.radius * abs(self.sweep)
        return super().length_to(t)

    def parameter_at(self, length: float) -> float:
        if self.is_circle:
            return min(max(length / self.length, 0.0), 1.0)
        return super().parameter_at(length)


@dataclass(frozen=True, eq=False)
class Cubic(Piece):
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
        third = (t1 - t0) / 3
        a, d = self.at(t0), self.at(t1)
        return Cubic(np.array([a, a + third * self.slope(t0), d - third * self.slope(t1), d]))

    def turning(self) -> list[float]:
        _, c1, c2, c3 = self._power.tolist()
        roots = (_roots(3 * a, 2 * b, c) for a, b, c in zip(c3, c2, c1, strict=True))
        return [t for found in roots for t in found if 0 < t < 1]

    def chords(self, tolerance: float) -> int:
        # A chord of a curve misses it by at most h² |second derivative| / 8.
        _, _, c2, c3 = self._power
        bend = max(np.linalg.norm(2 * c2), np.linalg.norm(2 * c2 + 6 * c3))
        return max(math.ceil(math.sqrt(float(bend) / (8 * tolerance))), 1)


@dataclass(frozen=True, eq=False)
class Curve:
    """A chain of pieces, each beginning where the one before it ends. A curve that is only begun
    has no pieces yet, but a place (`origin`)."""

    pieces: tuple[Piece, ...]
    origin: Points | None = None

    @cached_property
    def key(self) -> str:
        from ovolo.geometry.solid import digest

        kinds = "".join(type(piece).__name__[0] for piece in self.pieces)
        figures = [self.start, *(piece.figures for piece in self.pieces)]
        return digest("curve", kinds, np.concatenate([np.ravel(one) for one in figures]))

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
        return math.fsum(piece.length for piece in self.pieces)

    def bounds(self) -> Points:
        """The least and greatest corner, (2, 3)."""
        if not self.pieces:
            return np.array([self.start, self.start])
        each = np.array([piece.bounds() for piece in self.pieces])
        return np.array([each[:, 0].min(axis=0), each[:, 1].max(axis=0)])

    def placed(self, matrix: Matrix) -> Curve:
        origin = None if self.origin is None else applied(matrix, self.origin[None])[0]
        return Curve(tuple(piece.placed(matrix) for piece in self.pieces), origin)

    def reversed(self) -> Curve:
        return Curve(tuple(piece.reversed() for piece in reversed(self.pieces)))

    def points(self, tolerance: float = CHORD_TOLERANCE) -> Points:
        """The corners (n, 3) of its chords; a closed curve ends where it begins."""
        found = [self.start[None]]
        for piece in self.pieces:
            count = min(piece.chords(tolerance), _MOST_POINTS)
            found.append(piece.at(np.linspace(0.0, 1.0, count + 1)[1:]))
        return np.concatenate(found)

    def locate(self, length: float) -> tuple[int, float]:
        """The piece and its parameter at a length from the start. Raises Failure beyond the ends."""
        _needs_pieces(self)
        if not -SMALLEST <= length <= self.length + SMALLEST:
            raise Failure(
                f"there is nothing at {length:.6g} mm on a curve {self.length:.6g} mm long",
                "from 0 mm to its length, or a share from 0 to 1",
            )
        for at, piece in enumerate(self.pieces):
            if length <= piece.length or at == len(self.pieces) - 1:
                return at, piece.parameter_at(length)
            length -= piece.length
        raise AssertionError

    def point_at(self, length: float) -> Points:
        at, t = self.locate(length)
        return self.pieces[at].at(t)

    def tangent_at(self, length: float) -> Points:
        """The direction (3,) of length 1."""
        at, t = self.locate(length)
        return _direction(self.pieces[at].slope(t))

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
    def drawing(self) -> Drawing:
        """Its chords as lines to draw."""
        corners = self.points()
        edges = np.stack([corners[:-1], corners[1:]], axis=1).astype(np.float32)
        empty = np.empty((0, 3), dtype=np.float32)
        return Drawing(empty, empty, np.empty((0, 3), dtype=np.uint32), edges)


def _place(origin: Points | None) -> Points:
    assert origin is not None
    return origin


def _needs_pieces(curve: Curve) -> None:
    if not curve.pieces:
        raise Failure("this curve is only begun", "go on with .to(…), .arc_to(…) or .tangent_to(…)")


def _direction(vector: Points) -> Points:
    size = float(np.linalg.norm(vector))
    if size < 1e-300:
        raise Failure("the curve has no direction there")
    unit: Points = vector / size
    return unit


def _apart(a: Points, b: Points, what: str) -> float:
    gap = float(np.linalg.norm(b - a))
    if gap < SMALLEST:
        raise Failure(f"{what} coincide", "give two points that differ")
    return gap


def _roots(a: float, b: float, c: float) -> tuple[float, ...]:
    """The real roots of a t² + b t + c, in the form that loses no figures (Press et al.,
    Numerical Recipes, 5.6)."""
    square = b * b - 4 * a * c
    if square < 0:
        return ()
    half = -(b + math.copysign(math.sqrt(square), b)) / 2
    return tuple(top / below for top, below in ((half, a), (c, half)) if below)


# --- making ---


def straight(a: Points, b: Points) -> Curve:
    _apart(a, b, "both ends of the line")
    return Curve((Straight(a, b),))


def polyline(points: Points) -> Curve:
    """Straight lines through points (n, 3); points that repeat the one before are passed over."""
    if len(points) < 2:
        raise Failure(f"{len(points)} points make no line", "give 2 or more")
    kept = [points[0]]
    for point in points[1:]:
        if np.linalg.norm(point - kept[-1]) >= SMALLEST:
            kept.append(point)
    if len(kept) < 2:
        raise Failure("all points of this line coincide")
    return Curve(tuple(Straight(a, b) for a, b in itertools.pairwise(kept)))


X, Y, Z = np.eye(3)


def circular(centre: Points, radius: float, angle: float, sweep: float) -> Curve:
    """An arc in plan."""
    if not radius > SMALLEST:
        raise Failure(f"the radius is {radius:g} mm", "it must be more than 0")
    if abs(sweep) < 1e-12:
        raise Failure("the arc begins and ends at one angle", "a whole circle is circle(r)")
    if abs(sweep) > 2 * math.pi + 1e-9:
        raise Failure(f"the arc goes {math.degrees(abs(sweep)):.6g}° round", "at most 360°")
    return Curve((Arc(centre, radius * X, radius * Y, angle, sweep),))


def elliptic(rx: float, ry: float) -> Curve:
    for name, radius in (("rx", rx), ("ry", ry)):
        if not radius > SMALLEST:
            raise Failure(f"{name} is {radius:g} mm", "it must be more than 0")
    return Curve((Arc(np.zeros(3), rx * X, ry * Y, 0.0, 2 * math.pi),))


def arc_through(p: Points, q: Points, r: Points) -> Curve:
    """The arc from p through q to r. The centre of the circle through three points: Weisstein,
    Circumcircle."""
    ab, ac = q - p, r - p
    normal = np.cross(ab, ac)
    square = float(normal @ normal)
    scale = max(float(ab @ ab), float(ac @ ac))
    if square <= 1e-18 * scale * scale:
        raise Failure("the three points lie on one line", "no circle goes through them")
    out = (np.cross(normal, ab) * (ac @ ac) + np.cross(ac, normal) * (ab @ ab)) / (2 * square)
    centre, u = p + out, -out
    v = np.cross(normal / math.sqrt(square), u)

    def angle_of(point: Points) -> float:
        return math.atan2(float((point - centre) @ v), float((point - centre) @ u)) % (2 * math.pi)

    return Curve((Arc(centre, u, v, 0.0, angle_of(r)),))


def arc_by_rise(p: Points, q: Points, rise: float) -> Curve:
    """The arc over a chord from p to q that stands `rise` to the left of it (below 0: to the
    right). Its radius is (c²/4 + h²) / 2h, a formula of every machinist's handbook."""
    chord = _apart(p, q, "both ends of the chord")
    if abs(rise) < SMALLEST:
        raise Failure(f"an arc of rise {rise:g} mm is a straight line", "write line(p, q)")
    along = (q - p) / chord
    left = np.cross(Z, along)
    if np.linalg.norm(left) < 1e-9:
        raise Failure("the chord is upright, so it has no left side", "draw it flat and turn it")
    return arc_through(p, (p + q) / 2 + rise * left / np.linalg.norm(left), q)


def spline(points: Points, begin: Points | None, end: Points | None) -> Curve:
    """The cubic spline through points (n, 3), smooth to the second derivative, by the length of
    its chords (SciPy's CubicSpline); closed smoothly where the last point is the first. End
    tangents are directions; without one, the third derivative goes on unchanged at that end."""
    from scipy.interpolate import CubicSpline

    kept = polyline(points).points()
    if len(kept) < 3 and begin is None and end is None:
        return polyline(points)
    knots = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(kept, axis=0), axis=1))])
    closed = len(kept) > 3 and np.linalg.norm(kept[0] - kept[-1]) < SMALLEST
    if closed and begin is None and end is None:
        kept = np.concatenate([kept[:-1], kept[:1]])
        made = CubicSpline(knots, kept, bc_type="periodic")
    else:
        ends = ["not-a-knot" if d is None else (1, _direction(d)) for d in (begin, end)]
        if len(kept) < 4:
            ends = [(2, np.zeros(3)) if isinstance(one, str) else one for one in ends]
        made = CubicSpline(knots, kept, bc_type=tuple(ends))
    return _from_spline(knots, made, made.derivative())


def _from_spline(
    knots: Points, at: Callable[[Any], Points], slope: Callable[[Any], Points]
) -> Curve:
    """A piecewise cubic as Bézier pieces between its knots."""
    points, slopes = at(knots), slope(knots)
    third = np.diff(knots)[:, None] / 3
    poles = np.stack(
        [
            points[:-1],
            points[:-1] + third * slopes[:-1],
            points[1:] - third * slopes[1:],
            points[1:],
        ],
        axis=1,
    )
    return Curve(tuple(Cubic(one) for one in poles))


def by_equation(f: Callable[[float], Points], a: float, b: float) -> Curve:
    """The curve of a function of a number: a cubic spline through its values at even steps, whose
    number is doubled (to 8,192 at the most) until between them it misses the function by less than
    1e-7 mm, or 1e-10 of its size."""
    from scipy.interpolate import CubicSpline

    if b <= a:
        raise Failure(f"the curve would run from {a:g} to {b:g}", "from the lower to the upper")
    count = 16
    points = _values(f, np.linspace(a, b, count + 1))
    while True:
        knots = np.linspace(a, b, count + 1)
        made = CubicSpline(knots, points)
        middles = (knots[:-1] + knots[1:]) / 2
        between = _values(f, middles)
        missed = float(np.abs(made(middles) - between).max())
        size = float(np.ptp(points, axis=0).max())
        if missed <= max(1e-7, 1e-10 * size) or count == 8192:
            break
        finer = np.empty((2 * count + 1, 3))
        finer[::2], finer[1::2] = points, between
        points, count = finer, 2 * count
    if missed > CHORD_TOLERANCE:
        raise Failure(
            f"the curve is too uneven: between {count + 1:,} of its points it is missed by {missed:.3g} mm",
            "part it where it has a corner or a gap",
        )
    if size < SMALLEST:
        raise Failure("all points of this curve coincide")
    return _from_spline(knots, made, made.derivative())


def _values(f: Callable[[float], Points], at: Points) -> Points:
    return np.array([np.asarray(f(float(t)), dtype=float) for t in at])


def helix(radius: float, pitch: Callable[[float], float], turns: float) -> Curve:
    """A rising circle; `pitch` gives the rise of a turn at each number of turns from the start."""
    if not radius > SMALLEST or not turns > 0:
        raise Failure(
            f"a helix of radius {radius:g} mm and {turns:g} turns", "both are more than 0"
        )
    from scipy.integrate import quad

    def point(t: float) -> Points:
        rise = quad(pitch, 0.0, t, epsabs=1e-10, epsrel=1e-12)[0]
        angle = 2 * math.pi * t
        return np.array([radius * math.cos(angle), radius * math.sin(angle), rise])

    return by_equation(point, 0.0, turns)


# --- going on ---


def to(curve: Curve, point: Points) -> Curve:
    _apart(curve.end, point, "the end so far and the next point")
    return Curve((*curve.pieces, Straight(curve.end, point)), curve.origin)


def arc_to(curve: Curve, point: Points, radius: float) -> Curve:
    """Goes on by an arc of a radius (below 0: turning right), the shorter way round."""
    chord = _apart(curve.end, point, "the end so far and the next point")
    r = abs(radius)
    if r < chord / 2 - SMALLEST:
        raise Failure(
            f"a radius of {r:.6g} mm does not span {chord:.6g} mm",
            f"it must be at least {chord / 2:.6g} mm",
        )
    rise = r - math.sqrt(max(r * r - chord * chord / 4, 0.0))
    arc = arc_by_rise(curve.end, point, -rise if radius > 0 else rise)
    return Curve((*curve.pieces, *arc.pieces), curve.origin)


def tangent_to(curve: Curve, point: Points) -> Curve:
    """Goes on smoothly by an arc to a point; by a line where the point lies straight ahead."""
    _needs_pieces(curve)
    gap = _apart(curve.end, point, "the end so far and the next point")
    ahead = _direction(curve.pieces[-1].slope(1.0))
    chord = point - curve.end
    across = chord - (chord @ ahead) * ahead
    off = float(np.linalg.norm(across))
    if off < 1e-9 * gap:
        if chord @ ahead < 0:
            raise Failure("the next point lies straight behind", "no arc leads there smoothly")
        return Curve((*curve.pieces, Straight(curve.end, point)), curve.origin)
    radius = gap * gap / (2 * off)  # the circle tangent to `ahead` through both ends
    side = across / off
    centre = curve.end + radius * side
    sweep = 2 * math.atan2(off, float(chord @ ahead))
    arc = Arc(centre, -radius * side, radius * ahead, 0.0, sweep)
    return Curve((*curve.pieces, arc), curve.origin)


def close(curve: Curve) -> Curve:
    """Goes back to the start by a straight line, unless it is there already."""
    _needs_pieces(curve)
    return curve if curve.closed else to(curve, curve.start)


def joined(curves: Sequence[Curve]) -> Curve:
    """Curves one after another, each turned so that it begins where the one before it ends."""
    if not curves:
        raise Failure("there are no curves to join")
    chain = list(curves[0].pieces)
    for at, curve in enumerate(curves[1:], start=1):
        end = chain[-1].end
        if at == 1 and not _touches(end, curve) and _touches(chain[0].start, curve):
            chain = list(curves[0].reversed().pieces)
            end = chain[-1].end
        if np.linalg.norm(curve.start - end) < SMALLEST:
            chain += curve.pieces
        elif np.linalg.norm(curve.end - end) < SMALLEST:
            chain += curve.reversed().pieces
        else:
            gap = min(float(np.linalg.norm(p - end)) for p in (curve.start, curve.end))
            raise Failure(
                f"curve {at} begins {gap:.6g} mm away from the end of the one before it",
                "curves that are joined must meet",
            )
    return Curve(tuple(chain))


def _touches(point: Points, curve: Curve) -> bool:
    return any(float(np.linalg.norm(point - end)) < SMALLEST for end in (curve.start, curve.end))


def closest(curve: Curve, point: Points) -> tuple[int, float]:
    """The piece and its parameter nearest to a point."""
    from scipy.optimize import minimize_scalar

    _needs_pieces(curve)
    best = (0, 0.0, math.inf)
    for at, piece in enumerate(curve.pieces):
        steps = np.linspace(0.0, 1.0, max(4 * piece.chords(CHORD_TOLERANCE), 8) + 1)
        gaps = np.linalg.norm(piece.at(steps) - point, axis=1)
        i = int(gaps.argmin())
        low, high = steps[max(i - 1, 0)], steps[min(i + 1, len(steps) - 1)]
        found = minimize_scalar(
            lambda t, piece=piece: float(np.sum((piece.at(t) - point) ** 2)),
            bounds=(low, high), method="bounded", options={"xatol": 1e-14},
        )  # fmt: skip
        for t in (float(found.x), 0.0, 1.0):
            gap = float(np.linalg.norm(piece.at(t) - point))
            if gap < best[2]:
                best = (at, t, gap)
    return best[0], best[1]
