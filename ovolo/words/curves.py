"""Curves: lines, arcs, splines and equations; going on, rounding, trimming, meeting."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from ovolo.geometry.arrays.setting_out import frames, on_curve
from ovolo.geometry.curves import corners, drafting
from ovolo.geometry.curves import curve as curves
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.regions.region import Region, offset_region, with_corners
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.solids import shaping
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.surfaces import surface as surfaces
from ovolo.geometry.surfaces.surface import Surface
from ovolo.geometry.types import Point, Points
from ovolo.problems import Failure, OneByOne
from ovolo.words.corner_choice import CORNER, Condition, chosen_corners, wanted_corners
from ovolo.words.places import count_of
from ovolo.words.registry import word

Values = Any


@word("point, point -> curve", example="length(line((0 m, 0 m), (3 m, 4 m)))", gives="5 m")
def line(p: Point, q: Point) -> Curve:
    """The straight line from p to q.

    p: where it begins
    q: where it ends
    """
    return drafting.straight(p, q)


@word(
    "list point -> curve",
    example="length(polyline([(0 m, 0 m), (3 m, 4 m), (3 m, 0 m)]))", gives="9 m",
)  # fmt: skip
def polyline(ps: Any) -> Curve:
    """Straight lines from point to point.

    ps: the points in order
    """
    return drafting.polyline(np.asarray(ps, dtype=float).reshape(-1, 3))


@word(
    "point, length, angle, angle -> curve",
    example="length(arc((0 m, 0 m), 2 m, 0°, 90°))", gives="pi * 1 m",
)  # fmt: skip
def arc(centre: Point, r: float, a0: float, a1: float) -> Curve:
    """An arc in plan about a centre, from angle a0 to angle a1; clockwise where a1 is less.

    centre: its centre
    r: its radius
    a0: the angle at which it begins, anticlockwise from x
    a1: the angle at which it ends
    """
    return drafting.circular(centre, r, a0, a1 - a0)


@word(
    "point, point, point -> curve",
    example="length(arc3((1 m, 0 m), (0 m, 1 m), (-1 m, 0 m)))", gives="pi * 1 m",
)  # fmt: skip
def arc3(p: Point, q: Point, r: Point) -> Curve:
    """The arc from p through q to r.

    p: where it begins
    q: a point on it
    r: where it ends
    """
    return drafting.arc_through(p, q, r)


@word(
    "point, point, length -> curve",
    example="length(arc_rise((0 m, 0 m), (2 m, 0 m), 1 m))", gives="pi * 1 m",
)  # fmt: skip
def arc_rise(p: Point, q: Point, rise: float) -> Curve:
    """The arc over the chord from p to q that rises to its left; its radius is (c²/4 + h²) / 2h.

    p: where it begins
    q: where it ends
    rise: how far its middle stands off the chord; below 0 to the right
    """
    return drafting.arc_by_rise(p, q, rise)


@word(
    "length, point? -> curve",
    example="length(circle(1 m))", gives="2 * pi * 1 m", defaults={"at": "(0 mm, 0 mm)"},
)  # fmt: skip
def circle(r: float, at: Point | None = None) -> Curve:
    """A circle in plan, anticlockwise from its easternmost point.

    r: its radius
    at: its centre
    """
    return drafting.circular(np.zeros(3) if at is None else at, r, 0.0, 2 * np.pi)


@word("length, length -> curve", example="length(ellipse(1 m, 1 m))", gives="2 * pi * 1 m")
def ellipse(rx: float, ry: float) -> Curve:
    """An ellipse in plan about the origin.

    rx: its radius along x
    ry: its radius along y
    """
    return drafting.elliptic(rx, ry)


@word(
    "list point -> curve",
    example="point_at(bezier([(0 m, 0 m), (1 m, 2 m), (2 m, 0 m)]), share = 1/2).y", gives="1 m",
)  # fmt: skip
def bezier(ps: Any) -> Curve:
    """The Bézier curve of points: it begins at the first and ends at the last, drawn towards those
    between. Exact up to four points.

    ps: its points in order
    """
    return drafting.bezier(np.asarray(ps, dtype=float).reshape(-1, 3))


@word(
    "point, point, length, down: point Q? -> curve",
    example="round(length(catenary((0 m, 0 m), (3 m, 1 m), 4 m)), 1 mm)", gives="4 m",
)  # fmt: skip
def catenary(p: Point, q: Point, length: float, down: Point | None = None) -> Curve:
    """The curve in which a chain of a length hangs between two points. Between points in plan it is
    drawn in plan, hanging towards -y (to be set upright with `on`); else it hangs towards -z.

    p: where it begins
    q: where it ends
    length: the length of the chain
    down: the direction in which it hangs
    """
    if down is None:
        flat = abs(p[2]) <= SAME_PLACE and abs(q[2]) <= SAME_PLACE
        down = np.array([0.0, -1.0, 0.0]) if flat else np.array([0.0, 0.0, -1.0])
    return drafting.catenary(p, q, length, down)


@word(
    "list point, point Q?, point R? -> curve",
    example="point_at(spline([(0 m, 0 m), (1 m, 1 m), (2 m, 0 m)]), 1/2).x", gives="1 m",
)  # fmt: skip
def spline(ps: Any, start_tangent: Point | None = None, end_tangent: Point | None = None) -> Curve:
    """A smooth curve through points (a cubic spline); closed smoothly where the last is the first.

    ps: the points in order
    start_tangent: the direction in which it begins
    end_tangent: the direction in which it ends
    """
    points = np.asarray(ps, dtype=float).reshape(-1, 3)
    return drafting.spline(points, start_tangent, end_tangent)


@word(
    "length, length, number -> curve", "length, (number -> length), number -> curve",
    example="round(length(helix(1 m, 0 m, 2)), 1 mm) == round(4 * pi * 1 m, 1 mm)", gives="yes",
)  # fmt: skip
def helix(r: float, pitch: float | Callable[[float], float], turns: float) -> Curve:
    """A circle that rises, from the x axis upwards.

    r: its radius
    pitch: the rise of a turn; or a function of the turn, from 0 to the last
    turns: how many turns
    """
    rise = pitch if callable(pitch) else lambda turn: pitch
    return drafting.helix(r, rise, turns)


@word(
    "(Q -> point), Q, Q -> curve",
    example="round(length(curve(a -> polar(1 m, a), 0°, 180°)), 1 mm) == round(pi * 1 m, 1 mm)",
    gives="yes",
)  # fmt: skip
def curve(f: Callable[[float], Point], from_: float, to: float) -> Curve:
    """The curve that a function draws: the points it gives from one value to another.

    f: from a value, a point
    from: the value at which it begins
    to: the value at which it ends
    """
    return drafting.by_equation(f, from_, to)


@word(
    "point -> curve",
    example="length(start((0 m, 0 m)).to((1 m, 0 m)).to((1 m, 1 m)).close())", gives="2 m + sqrt(2) * 1 m",
)  # fmt: skip
def start(p: Point) -> Curve:
    """Begins a curve at a point, to go on with .to(…), .arc_to(…), .tangent_to(…) and .close().

    p: where it begins
    """
    return Curve((), p)


@word("curve, point -> curve", example="length(start((0 m, 0 m)).to((3 m, 4 m)))", gives="5 m")
def to(c: Curve, p: Point) -> Curve:
    """Goes on by a straight line to a point.

    c: the curve so far
    p: the next point
    """
    return drafting.to(c, p)


@word(
    "curve, point, length, greater: yes/no? -> curve",
    example="length(start((0 m, 0 m)).arc_to((2 m, 0 m), 1 m))", gives="pi * 1 m",
)  # fmt: skip
def arc_to(c: Curve, p: Point, r: float, greater: bool = False) -> Curve:
    """Goes on by an arc of radius r to a point, turning left (below 0: right). Of the two arcs that
    there are it is the shorter one, at most a half circle, unless the greater one is asked for.

    c: the curve so far
    p: the next point
    r: the radius; below 0 it turns right
    greater: whether it is the arc of more than a half circle
    """
    return drafting.arc_to(c, p, r, greater)


@word(
    "curve, point, point -> curve",
    example="length(start((0 m, 0 m)).arc_through((1 m, 1 m), (2 m, 0 m)))", gives="pi * 1 m",
)  # fmt: skip
def arc_through(c: Curve, q: Point, p: Point) -> Curve:
    """Goes on by the arc through a point to another.

    c: the curve so far
    q: a point on the way
    p: the next point
    """
    return drafting.arc_through_to(c, q, p)


@word(
    "curve, point -> curve",
    example="length(start((0 m, 0 m)).to((1 m, 0 m)).tangent_to((1 m, 2 m)))", gives="(1 + pi) * 1 m",
)  # fmt: skip
def tangent_to(c: Curve, p: Point) -> Curve:
    """Goes on smoothly by an arc to a point.

    c: the curve so far
    p: the next point
    """
    return drafting.tangent_to(c, p)


@word(
    "curve -> curve",
    example="length(start((0 m, 0 m)).to((1 m, 0 m)).close())", gives="2 m",
)  # fmt: skip
def close(c: Curve) -> Curve:
    """Goes back to the start by a straight line.

    c: the curve so far
    """
    return drafting.close(c)


@word(
    "curve, length -> point", "curve, share: number -> point",
    "surface, u: number, v: number -> point",
    example="point_at(line((0 m, 0 m), (3 m, 4 m)), 1 m).y", gives="80 cm", elementwise=True,
)  # fmt: skip
def point_at(
    c: Curve | Surface,
    s: Values = 0.0,
    share: Values | None = None,
    u: Values = 0.0,
    v: Values = 0.0,
) -> Points:
    """The point of a curve at a length from its start, or at a share of its length from 0 to 1; of
    a surface at u and v, each from 0 to 1.

    c: the curve, or a surface
    s: a length from its start
    share: or a share of it, from 0 to 1
    u: of a surface, from 0 to 1
    v: of a surface, from 0 to 1
    """
    if isinstance(c, Surface):
        places = c.at(u, v)
        return places if np.ndim(u) or np.ndim(v) else places[0]
    lengths = _lengths(c, s, share)
    return on_curve(c, lengths)[0] if np.ndim(lengths) else c.point_at(lengths)


@word(
    "curve, length -> point Q", "curve, share: number -> point Q",
    example="tangent_at(circle(1 m), pi * 500 mm).x", gives="-1", elementwise=True,
)  # fmt: skip
def tangent_at(c: Curve, s: Values = 0.0, share: Values | None = None) -> Points:
    """The direction of a curve at a length from its start, or at a share of it; its length is 1.

    c: the curve
    s: a length from its start
    share: or a share of it, from 0 to 1
    """
    lengths = _lengths(c, s, share)
    return on_curve(c, lengths)[1] if np.ndim(lengths) else c.tangent_at(lengths)


def _lengths(c: Curve, s: Values, share: Values | None) -> Values:
    """Lengths from the start of a curve, which may be said as shares of all of it."""
    if not isinstance(c, Curve):  # each item has a curve of its own
        raise OneByOne
    return s if share is None else share * c.length


@word(
    "curve, length -> {at: point, along: point Q, left: point Q, up: point Q}",
    "curve, share: number -> {at: point, along: point Q, left: point Q, up: point Q}",
    example="frame_at(circle(1 m), pi * 500 mm).left.y", gives="-1",
)  # fmt: skip
def frame_at(c: Curve, s: float = 0.0, share: float | None = None) -> dict[str, Point]:
    """A frame on a curve: `.at` the point, `.along` the direction, `.left` level and to its left,
    `.up` square to both.

    c: the curve
    s: a length from its start
    share: or a share of it, from 0 to 1
    """
    length = s if share is None else share * c.length
    frame = frames(*on_curve(c, np.array([length])))[0]
    names = ("along", "left", "up", "at")
    return {name: frame[:3, column] for column, name in enumerate(names)}


@word(
    "curve, point -> point",
    example="closest(circle(1 m), (3 m, 0 m)).x", gives="1 m",
)  # fmt: skip
def closest(c: Curve, p: Point) -> Point:
    """The point of a curve nearest to a point; on a line, the foot of the perpendicular.

    c: the curve
    p: the point
    """
    at, t = curves.closest(c, p)
    return c.pieces[at].at(t)


@word(
    "curve, curve -> list point",
    example="meet(line((-2 m, 0 m), (2 m, 0 m)), circle(1 m))[0].x", gives="-1 m",
)  # fmt: skip
def meet(c: Curve, d: Curve) -> Point:
    """The points two curves have in common, in order along the first.

    c: the curve along which they are ordered
    d: the other curve
    """
    found = corners.meetings(c, d)
    return np.array(found) if found else np.empty((0, 3))


@word("curve, whole -> list point", example="len(divide(circle(1 m), 6))", gives="6")
def divide(c: Curve, n: int) -> Point:
    """The points that divide a curve into n equal lengths, its ends in; of a closed curve its
    start once.

    c: the curve
    n: into how many lengths
    """
    if n < 1:
        raise Failure(f"a curve is not divided into {n} lengths", "1 or more")
    count_of(n, "a division")
    shares = np.linspace(0.0, c.length, n + 1)[: n if c.closed else None]
    return np.array([c.point_at(float(share)) for share in shares])


@word(
    f"curve, length, list whole?, where: ({CORNER} -> yes/no)? -> curve",
    example="length(fillet(start((0 m, 0 m)).to((3 m, 0 m)).to((3 m, 3 m)), 1 m))", gives="(4 + pi/2) * 1 m",
    hint="it rounds corners of a curve; those of a region `round_corners`, edges of a solid `round_edges`",
)  # fmt: skip
def fillet(c: Curve, r: float, at: Any = None, where: Condition | None = None) -> Curve:
    """Corners rounded by arcs of radius r, tangent to the lines and arcs beside them: all, those
    of some numbers, or those for which a condition on `.index`, `.angle` and `.at` holds.

    c: the curve
    r: the radius
    at: the numbers of the corners, counted from 0 along the curve
    where: which corners, such as c -> c.angle < 100°
    """
    chosen = chosen_corners(c, at, where)
    return c if chosen == [] else corners.filleted(c, r, chosen)


@word(
    f"curve, length, list whole?, where: ({CORNER} -> yes/no)? -> curve",
    f"region, length, where: ({CORNER} -> yes/no)? -> region",
    example="length(chamfer(start((0 m, 0 m)).to((3 m, 0 m)).to((3 m, 3 m)), 1 m))", gives="(4 + sqrt(2)) * 1 m",
    hint="it cuts off corners of a curve or a region; edges of a solid are cut off by `bevel_edges`",
)  # fmt: skip
def chamfer(
    c: Curve | Region, d: float, at: Any = None, where: Condition | None = None
) -> Curve | Region:
    """Corners cut off straight: all, those of some numbers, or those for which a condition on
    `.index`, `.angle` and `.at` holds.

    c: the curve, or a region
    d: how far from the corner along each piece
    at: the numbers of the corners, counted from 0 along the curve
    where: which corners, such as c -> c.angle < 100°
    """
    if isinstance(c, Region):
        return with_corners(
            c, lambda one, chosen: corners.chamfered(one, d, chosen), wanted_corners(where)
        )
    picked = chosen_corners(c, at, where)
    return c if picked == [] else corners.chamfered(c, d, picked)


@word(
    "curve, length -> curve", "region, length -> region", "surface, length -> surface",
    example="length(offset(circle(2 m), 1 m))", gives="6 * pi * 1 m",
)  # fmt: skip
def offset(c: Curve | Region | Surface, d: float) -> Curve | Region | Surface:
    """The parallel at a distance: outwards of a closed curve or a region, to the left of an open
    curve, along the normals of a surface; below 0 the other way.

    c: a flat curve, a region, or a surface
    d: the distance
    """
    if isinstance(c, Surface):
        return surfaces.offset(c, d)
    return offset_region(c, d) if isinstance(c, Region) else corners.offset(c, d)


@word(
    "curve, length, length -> curve",
    example="length(trim(circle(1 m), 1 m, 3 m))", gives="2 m",
)  # fmt: skip
def trim(c: Curve, s0: float, s1: float) -> Curve:
    """The part of a curve between two lengths from its start.

    c: the curve
    s0: where the part begins
    s1: where it ends
    """
    return c.between(s0, s1)


@word(
    "curve, length -> list curve", "solid, way: point Q, at: point? -> list solid",
    example="length(split(circle(1 m), 2 m)[0])", gives="2 m", defaults={"at": "(0 mm, 0 mm)"},
)  # fmt: skip
def split(
    c: Curve | Solid, s: float = 0.0, way: Point | None = None, at: Point | None = None
) -> list[Any]:
    """A curve parted at a length from its start, both parts in order; or a solid parted by the
    plane through a point, square to a direction: first the part to which that points.

    c: the curve, or a solid
    s: where a curve is parted
    way: the direction to which the plane of a solid is square
    at: a point of that plane
    """
    if isinstance(c, Solid):
        assert way is not None
        return list(shaping.parted(c, way, np.zeros(3) if at is None else at))
    return [c.between(0.0, s), c.between(s, c.length)]


@word(
    "curve -> curve",
    example="point_at(reverse(line((0 m, 0 m), (3 m, 0 m))), 1 m).x", gives="2 m",
)  # fmt: skip
def reverse(c: Curve) -> Curve:
    """The curve from its end to its start.

    c: the curve
    """
    return c.reversed()
