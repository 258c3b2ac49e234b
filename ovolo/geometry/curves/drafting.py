"""Drafting: curves made from what a person knows of them, and curves that go on."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from ovolo.geometry.curves.curve import Curve, direction, needs_pieces
from ovolo.geometry.curves.pieces import Arc, Cubic, Straight
from ovolo.geometry.same import ROUNDING, SAME_SHARE, SMALLEST
from ovolo.geometry.surfaces.sampling import sampled
from ovolo.geometry.tolerance import chord_tolerance
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure

X, Y, Z = np.eye(3)


def _apart(a: Points, b: Points, what: str) -> float:
    gap = float(np.linalg.norm(b - a))
    if gap < SMALLEST:
        raise Failure(f"{what} coincide", "give two points that differ")
    return gap


# --- making ---


def straight(a: Points, b: Points) -> Curve:
    """The line between two points (3,), mm. Raises Failure where they are one."""
    _apart(a, b, "both ends of the line")
    return Curve((Straight(a, b),))


def polyline(points: Points) -> Curve:
    """Straight lines through points (n, 3); points that repeat the one before are passed over.

    >>> polyline(np.array([[0.0, 0.0, 0.0], [3.0, 0.0, 0.0], [3.0, 4.0, 0.0]])).length
    7.0
    """
    if len(points) < 2:
        raise Failure(f"{len(points)} points make no line", "give 2 or more")
    kept = [points[0]]
    for point in points[1:]:
        if np.linalg.norm(point - kept[-1]) >= SMALLEST:
            kept.append(point)
    if len(kept) < 2:
        raise Failure("all points of this line coincide")
    return Curve(tuple(Straight(a, b) for a, b in itertools.pairwise(kept)))


def circular(centre: Points, radius: float, angle: float, sweep: float) -> Curve:
    """An arc in plan.

    >>> half = circular(np.zeros(3), 100.0, 0.0, math.pi)
    >>> math.isclose(half.length, math.pi * 100)
    True
    """
    if not radius > SMALLEST:
        raise Failure(f"the radius is {radius:g} mm", "it must be more than 0")
    if abs(sweep) < ROUNDING:
        raise Failure("the arc begins and ends at one angle", "a whole circle is circle(r)")
    if abs(sweep) > 2 * math.pi + SAME_SHARE:
        raise Failure(f"the arc goes {math.degrees(abs(sweep)):.6g}° round", "at most 360°")
    return Curve((Arc(centre, radius * X, radius * Y, angle, sweep),))


def elliptic(rx: float, ry: float) -> Curve:
    """The ellipse about the origin in plan by its radii along x and y, mm. Raises Failure for a radius
    that is not above 0."""
    for name, radius in (("rx", rx), ("ry", ry)):
        if not radius > SMALLEST:
            raise Failure(f"{name} is {radius:g} mm", "it must be more than 0")
    return Curve((Arc(np.zeros(3), rx * X, ry * Y, 0.0, 2 * math.pi),))


def arc_through(p: Points, q: Points, r: Points) -> Curve:
    """The arc from p through q to r. The centre of the circle through three points: Weisstein,
    Circumcircle."""
    ab, ac = q - p, r - p
    normal = cross_product(ab, ac)
    square = float(normal @ normal)
    scale = max(float(ab @ ab), float(ac @ ac))
    if square <= 1e-18 * scale * scale:
        raise Failure("the three points lie on one line", "no circle goes through them")
    out = (cross_product(normal, ab) * (ac @ ac) + cross_product(ac, normal) * (ab @ ab)) / (
        2 * square
    )
    centre, u = p + out, -out
    v = cross_product(normal / math.sqrt(square), u)

    def angle_of(point: Points) -> float:
        return math.atan2(float((point - centre) @ v), float((point - centre) @ u)) % (2 * math.pi)

    return Curve((Arc(centre, u, v, 0.0, angle_of(r)),))


def arc_by_rise(p: Points, q: Points, rise: float) -> Curve:
    """The arc over a chord from p to q that stands `rise` to the left of it (below 0: to the
    right). Its radius is (c²/4 + h²) / 2h, a formula of every machinist's handbook.

    >>> arc = arc_by_rise(np.zeros(3), np.array([2000.0, 0.0, 0.0]), 1000.0)
    >>> math.isclose(arc.length, math.pi * 1000)
    True
    """
    chord = _apart(p, q, "both ends of the chord")
    if abs(rise) < SMALLEST:
        raise Failure(f"an arc of rise {rise:g} mm is a straight line", "write line(p, q)")
    along = (q - p) / chord
    left = cross_product(Z, along)
    if np.linalg.norm(left) < SAME_SHARE:
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
    if np.any(np.diff(knots) <= 0):
        raise Failure(
            f"some points that follow each other are too near for a spline of {knots[-1]:.3g} mm",
            "leave one of them out",
        )
    closed = len(kept) > 3 and np.linalg.norm(kept[0] - kept[-1]) < SMALLEST
    if closed and begin is None and end is None:
        kept = np.concatenate([kept[:-1], kept[:1]])
        made = CubicSpline(knots, kept, bc_type="periodic")
    else:
        ends = ["not-a-knot" if d is None else (1, direction(d)) for d in (begin, end)]
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
    points = sampled(f, np.linspace(a, b, count + 1))
    while True:
        knots = np.linspace(a, b, count + 1)
        made = CubicSpline(knots, points)
        middles = (knots[:-1] + knots[1:]) / 2
        between = sampled(f, middles)
        missed = float(np.abs(made(middles) - between).max())
        size = float(np.ptp(points, axis=0).max())
        if missed <= max(1e-7, 1e-10 * size) or count == 8192:
            break
        finer = np.empty((2 * count + 1, 3))
        finer[::2], finer[1::2] = points, between
        points, count = finer, 2 * count
    if missed > chord_tolerance():
        raise Failure(
            f"the curve is too uneven: between {count + 1:,} of its points it is missed by {missed:.3g} mm",
            "part it where it has a corner or a gap",
        )
    if size < SMALLEST:
        raise Failure("all points of this curve coincide")
    return _from_spline(knots, made, made.derivative())


def bezier(poles: Points) -> Curve:
    """The Bézier curve of poles: exact up to degree 3, beyond that as the curve of its equation."""
    if len(poles) < 2:
        raise Failure(f"{len(poles)} points make no curve", "two or more")
    if len(poles) == 2:
        return straight(poles[0], poles[1])
    if np.linalg.norm(poles - poles[0], axis=1).max() < SMALLEST:
        raise Failure("all points of this curve coincide")
    if len(poles) == 3:
        a, b, c = poles
        return Curve((Cubic(np.array([a, (a + 2 * b) / 3, (2 * b + c) / 3, c])),))
    if len(poles) == 4:
        return Curve((Cubic(poles),))

    def at(t: float) -> Points:
        """De Casteljau."""
        points = poles
        while len(points) > 1:
            points = points[:-1] + t * (points[1:] - points[:-1])
        found: Points = points[0]
        return found

    return by_equation(at, 0.0, 1.0)


def catenary(p: Points, q: Points, length: float, down: Points) -> Curve:
    """The curve of a chain of a length between two points: y = a cosh(x / a), with `a` from
    sqrt(length² - v²) = 2 a sinh(h / 2a) (h across, v downwards; Lockwood, A book of curves, 1961)."""
    from scipy.optimize import brentq

    chord = float(np.linalg.norm(q - p))
    if length < chord * (1 - SAME_SHARE):
        raise Failure(
            f"a chain of {length:.6g} mm does not reach over {chord:.6g} mm",
            f"it must be at least {chord:.6g} mm long",
        )
    if length <= chord * (1 + SAME_SHARE):
        return straight(p, q)
    way = -down / np.linalg.norm(down)
    v = float((q - p) @ way)
    level = (q - p) - v * way
    h = float(np.linalg.norm(level))
    if h <= SMALLEST:
        raise Failure("the chain would hang straight down and up again", "move its ends apart")
    across = level / h
    ratio = math.sqrt(length**2 - v**2) / h
    # sinh(x) / x = ratio, with x = h / 2a; the left side rises from 1 on.
    high = 1.0
    while math.sinh(high) / high < ratio:
        high *= 2
    x = float(brentq(lambda x: math.sinh(x) / x - ratio, 1e-9, high, xtol=1e-15, rtol=8.9e-16))
    a = h / (2 * x)
    lowest = h / 2 - a * math.atanh(v / length)
    begin = math.cosh(lowest / a)

    def at(t: float) -> Points:
        """By the length along the curve, so that it is as well described where it is steep."""
        s = t - a * math.sinh(lowest / a)
        out = a * math.asinh(s / a) + lowest
        found: Points = p + out * across + a * (math.hypot(1, s / a) - begin) * way
        return found

    return by_equation(at, 0.0, length)


def helix(radius: float, pitch: Callable[[float], float], turns: float) -> Curve:
    """A rising circle; `pitch` gives the rise of a turn at each number of turns from the start.

    >>> coil = helix(100.0, lambda turn: 40.0, 5.0)
    >>> round(coil.length / (5 * math.hypot(200 * math.pi, 40)), 9)
    1.0
    """
    if not radius > SMALLEST or not turns > 0:
        raise Failure(
            f"a helix of radius {radius:g} mm and {turns:g} turns", "both are more than 0"
        )
    rise = _antiderivative(pitch, turns)
    climb = rise.derivative()
    # A cubic with the right ends and slopes misses a circle of angle a by r a⁴ / 384, its length
    # by a⁴ / 720 of it.
    angle = min((384 * _ACCURACY / radius) ** 0.25, (720 * _LENGTH_ACCURACY) ** 0.25)
    pieces = 2 * math.pi * turns / angle
    if not pieces <= _MOST_PIECES:
        raise Failure(
            f"a helix of {turns:g} turns of radius {radius:g} mm would have {pieces:.3g} pieces",
            f"at most {_MOST_PIECES:,} are made: fewer turns, or a smaller radius",
        )
    count = max(math.ceil(pieces), 1)

    def at(t: Points) -> Points:
        turned = 2 * math.pi * t
        return np.column_stack([radius * np.cos(turned), radius * np.sin(turned), rise(t)])

    def slope(t: Points) -> Points:
        turned = 2 * math.pi * t
        speed = 2 * math.pi * radius
        return np.column_stack([-speed * np.sin(turned), speed * np.cos(turned), climb(t)])

    return _from_spline(np.linspace(0.0, turns, count + 1), at, slope)


_MOST_PIECES = 200_000

_ACCURACY = 1e-7
"""By how many mm a helix may be missed."""

_LENGTH_ACCURACY = 1e-10
"""By what share of it the length of a helix may be missed."""


def _antiderivative(f: Callable[[float], float], to: float) -> Any:
    """The integral of a function from 0, up to `to`: of the cubic spline through its values, whose
    number is doubled until that no longer changes it by more than 1e-8 of its size."""
    from scipy.interpolate import CubicSpline

    count = 32
    values = sampled(f, np.linspace(0.0, to, count + 1))
    made = CubicSpline(np.linspace(0.0, to, count + 1), values).antiderivative()
    while count < 8192:
        middles = sampled(f, (np.arange(count) + 0.5) * to / count)
        finer = np.empty(2 * count + 1)
        finer[::2], finer[1::2] = values, middles
        values, count = finer, 2 * count
        places = np.linspace(0.0, to, count + 1)
        before, made = made, CubicSpline(places, values).antiderivative()
        size = max(float(np.abs(made(places)).max()), SMALLEST)
        if np.abs(made(places) - before(places)).max() <= 1e-8 * size:
            break
    return made


# --- going on ---


def to(curve: Curve, point: Points) -> Curve:
    """The curve, and on in a line to a point (3,), mm."""
    _apart(curve.end, point, "the end so far and the next point")
    return Curve((*curve.pieces, Straight(curve.end, point)), curve.origin)


def arc_to(curve: Curve, point: Points, radius: float, greater: bool = False) -> Curve:
    """Goes on by an arc of a radius (below 0: turning right): of the two there are, the shorter
    one or the greater."""
    chord = _apart(curve.end, point, "the end so far and the next point")
    r = abs(radius)
    if r < chord / 2 - SMALLEST:
        raise Failure(
            f"a radius of {r:.6g} mm does not span {chord:.6g} mm",
            f"it must be at least {chord / 2:.6g} mm",
        )
    middle = math.sqrt(max(r * r - chord * chord / 4, 0.0))
    rise = r + middle if greater else r - middle
    arc = arc_by_rise(curve.end, point, -rise if radius > 0 else rise)
    return Curve((*curve.pieces, *arc.pieces), curve.origin)


def arc_through_to(curve: Curve, middle: Points, point: Points) -> Curve:
    """Goes on by the arc through a point to another."""
    _apart(curve.end, middle, "the end so far and the point on the way")
    _apart(middle, point, "the point on the way and the next point")
    arc = arc_through(curve.end, middle, point)
    return Curve((*curve.pieces, *arc.pieces), curve.origin)


def tangent_to(curve: Curve, point: Points) -> Curve:
    """Goes on smoothly by an arc to a point; by a line where the point lies straight ahead."""
    needs_pieces(curve)
    gap = _apart(curve.end, point, "the end so far and the next point")
    ahead = direction(curve.pieces[-1].slope(1.0))
    chord = point - curve.end
    across = chord - (chord @ ahead) * ahead
    off = float(np.linalg.norm(across))
    if off < SAME_SHARE * gap:
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
    needs_pieces(curve)
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
