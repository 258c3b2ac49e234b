"""Solids."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.solids import hollowing, shaping
from ovolo.geometry.solids import primitives as kernel
from ovolo.geometry.solids.edge_profile import Finish
from ovolo.geometry.solids.edges import Edge, edges_of
from ovolo.geometry.solids.extrude_to import extruded_up_to
from ovolo.geometry.solids.finished_edges import finished_edges
from ovolo.geometry.solids.finished_extrusion import finished_extrusion
from ovolo.geometry.solids.lofting import loft as lofted
from ovolo.geometry.solids.revolving import revolution
from ovolo.geometry.solids.solid import Copies, Solid
from ovolo.geometry.solids.sweeping import pipe as piped
from ovolo.geometry.solids.sweeping import sweep as swept
from ovolo.geometry.surfaces import surface
from ovolo.geometry.surfaces.surface import Surface
from ovolo.geometry.types import Point, Points
from ovolo.problems import Failure, OneByOne
from ovolo.words.measures_taken import Inexact, InexactPlace
from ovolo.words.measuring import pieces
from ovolo.words.registry import word
from ovolo.words.remarks import remark

Lengths = Any
"""A length in mm, or an array of n of them."""


@word(
    "length, length, length -> solid",
    example="volume(box(2 cm, 3 cm, 4 cm))", gives="24000 mm^3", elementwise=True,
)  # fmt: skip
def box(w: Lengths, d: Lengths, h: Lengths) -> Solid | Copies:
    """A box w wide (along x), d deep (along y) and h high, centred in plan, standing on z = 0.

    w: along x
    d: along y
    h: upwards
    """
    return kernel.box(w, d, h)


@word(
    "length, length -> solid",
    example="height(cylinder(r = 75 mm, h = 120 mm))", gives="120 mm", elementwise=True,
)  # fmt: skip
def cylinder(r: Lengths, h: Lengths) -> Solid | Copies:
    """A cylinder of radius r and height h, centred in plan, standing on z = 0.

    r: the radius
    h: upwards
    """
    return kernel.cylinder(r, h)


@word(
    "length, length, top: length? -> solid",
    example="height(cone(r = 75 mm, h = 120 mm))", gives="120 mm", elementwise=True,
    defaults={"top": "0 mm"},
)  # fmt: skip
def cone(r: Lengths, h: Lengths, top: float = 0.0) -> Solid | Copies:
    """A cone, pointed or cut off, centred in plan, standing on z = 0.

    r: the radius at its foot
    h: upwards
    top: the radius at its top
    """
    return kernel.cone(r, h, top)


@word("length -> solid", example="height(sphere(75 mm))", gives="150 mm", elementwise=True)
def sphere(r: Lengths) -> Solid | Copies:
    """A sphere centred on the origin.

    r: the radius
    """
    return kernel.sphere(r)


@word("length -> edge", example="height(extrude(rect(1 m, 1 m), 1 m, top = bevel(1 cm)))", gives="1 m")  # fmt: skip
def bevel(size: float) -> Finish:
    """An edge cut off at 45°, for the end of an extrusion; a rounded one is round(3 mm).

    size: how far from the edge, along both sides
    """
    return Finish("bevel", size)


@word(
    "region, length, taper: angle?, top: edge?, bottom: edge?, both_ways: yes/no? -> solid",
    "region, up_to: solid or surface -> solid",
    example="volume(extrude(rect(10 mm, 10 mm), 5 mm))", gives="500 mm^3", elementwise=True,
    defaults={"taper": "0°"},
    takes_empty=True,
)  # fmt: skip
def extrude(
    outline: Region,
    h: Lengths = None,
    taper: float = 0.0,
    top: Finish | None = None,
    bottom: Finish | None = None,
    both_ways: bool = False,
    up_to: Solid | Surface | None = None,
) -> Solid | Copies:
    """The solid a region sweeps when pulled up by h (a negative h pulls it down), its walls leaning
    in by a draft angle, its edges finished: extrude(plate, 8 mm, top = round(3 mm)).

    outline: the region to pull
    h: how far; below 0 downwards
    taper: how far the walls lean inwards; below 0 outwards
    top: how the edge at the end is finished: round(3 mm), bevel(1 mm)
    bottom: how the edge at the region is finished
    both_ways: whether it is pulled half up and half down
    up_to: the solid or the surface up to which it is pulled, instead of a height
    """
    if up_to is not None:
        return extruded_up_to(outline, up_to)
    if not taper and top is None and bottom is None and not both_ways:
        return kernel.extrusion(outline, h)
    if np.ndim(h) or np.ndim(taper):
        raise OneByOne
    return finished_extrusion(outline, float(h), taper, top, bottom, both_ways)


@word(
    "region, angle? -> solid", "curve, angle? -> surface",
    example="round(volume(revolve(rect(1 m, 1 m).move(x = 5 m))) / 1 m^3, 0.1)", gives="31.4",
    defaults={"angle": "360°"},
    takes_empty=True,
)  # fmt: skip
def revolve(outline: Region | Curve, angle: float = 2 * math.pi) -> Solid | Surface:
    """The solid (of a curve: the surface) that a region sweeps when turned about the z axis. Drawn
    flat, its x is the distance from the axis and its y becomes the height; a curve is taken where
    it stands.

    outline: the region, at x >= 0; or a curve
    angle: how far it is turned
    """
    if isinstance(outline, Curve):
        return surface.revolved(outline, angle)
    return revolution(outline, angle)


@word(
    "list region, smooth: yes/no?, closed: yes/no? -> solid",
    example="volume(loft([rect(2 cm, 2 cm), rect(2 cm, 2 cm).move(z = 1 cm)]))", gives="4000 mm^3",
)  # fmt: skip
def loft(outlines: list[Region], smooth: bool = False, closed: bool = False) -> Solid:
    """The solid through outlines placed in space, straight from one to the next, or smooth.

    outlines: the regions in order, of any numbers of corners
    smooth: whether it runs smoothly through them
    closed: whether it goes on from the last to the first
    """
    return lofted(outlines, smooth, closed)


@word(
    "region, curve, twist: angle?, size: (number -> number)?, upright: yes/no?, corners: text? -> solid",
    example="volume(sweep(rect(1 cm, 1 cm), line((0 m, 0 m), (1 m, 0 m))))", gives="100000 mm^3",
    defaults={"twist": "0°"},
    takes_empty=True,
)  # fmt: skip
def sweep(
    outline: Region,
    path: Curve,
    twist: float = 0.0,
    size: Callable[[float], float] | None = None,
    upright: bool = True,
    corners: str = "mitred",
) -> Solid:
    """The solid an outline sweeps along a curve. Drawn flat, its x is to the right of the way and
    its y up.

    outline: the region
    path: the curve it is carried along
    twist: by how much it is turned over the whole way
    size: how large it is, by the share of the way from 0 to 1
    upright: whether its y stays upright; otherwise it turns as little as can be
    corners: mitred, or round
    """
    if corners not in ("mitred", "round"):
        raise Failure(f'there are no corners called "{corners}"', "mitred or round")
    return swept(outline, path, twist, size, upright, corners == "round")


@word(
    "curve, length -> solid",
    example="width(pipe(line((0 m, 0 m), (1 m, 0 m)), 1 cm))", gives="1 m",
)  # fmt: skip
def pipe(path: Curve, r: float) -> Solid:
    """A round bar along a curve.

    path: its middle line
    r: its radius
    """
    return piped(path, r)


@word(
    "solid, length, text? -> solid",
    example="volume(shell(box(4 cm, 4 cm, 4 cm), 1 cm))", gives="52000 mm^3",
)  # fmt: skip
def shell(what: Solid, t: float, open_: str = "top") -> Solid:
    """A solid hollowed out to walls of a thickness, open where its faces lie level.

    what: the solid
    t: the thickness of its walls, taken inwards
    open: which level faces are open: top, bottom, both, or none
    """
    made = hollowing.shell(what, t, open_)
    for end in hollowing.closed_ends(what, open_):
        remark(f"no face lies level at the {end} of what is hollowed: it is closed there")
    return made


@word(
    "list solid -> solid", "list point -> solid",
    example="volume(convex_hull([box(1 cm, 1 cm, 1 cm), box(1 cm, 1 cm, 1 cm).move(x = 1 cm)]))",
    gives="2000 mm^3",
)  # fmt: skip
def convex_hull(what: Any) -> Solid:
    """The least solid without hollows round solids or points.

    what: a list of solids, or of points
    """
    if isinstance(what, np.ndarray):
        return shaping.hull([], what)
    found = [
        solid
        for piece in pieces(what)
        for solid in (piece if isinstance(piece, Copies) else [piece])
    ]
    return shaping.hull(found, np.empty((0, 3)))


@word(
    "solid, point Q, at: point? -> solid",
    example="width(half(box(4 cm, 1 cm, 1 cm), x))", gives="2 cm",
    defaults={"at": "(0 mm, 0 mm)"},
)  # fmt: skip
def half(what: Solid, way: Point, at: Point | None = None) -> Solid:
    """The part of a solid on the side to which a direction points, of the plane through a point.

    what: the solid
    way: the direction
    at: a point of the plane
    """
    return _not_empty(shaping.half(what, way, np.zeros(3) if at is None else at))


def _not_empty(solid: Solid) -> Solid:
    if solid.is_empty:
        raise Failure(f"nothing is left of this solid: {solid.why_empty}", "turn the direction round, or move the plane")  # fmt: skip
    return solid


@word(
    "solid, point Q, at: point? -> region",
    example="area(cut_at(box(4 cm, 3 cm, 2 cm), x))", gives="600 mm^2",
    defaults={"at": "(0 mm, 0 mm)"},
)  # fmt: skip
def cut_at(what: Solid, way: Point, at: Point | None = None) -> Region:
    """The section of a solid in the plane through a point, square to a direction: a region that looks
    that way, to be hatched and measured.

    what: the solid
    way: the direction to which the plane is square
    at: a point of the plane
    """
    return shaping.cut_at(what, way, np.zeros(3) if at is None else at)


@word(
    "solid, length -> solid", "region, length, thickness: length -> solid",
    example="round(height(wrap(box(10 cm, 4 cm, 1 cm), 50 cm)), 1 mm)", gives="4 cm",
)  # fmt: skip
def wrap(what: Solid | Region, r: float, thickness: float = 0.0) -> Solid:
    """A solid drawn in plan, or a region with a thickness, bent round an upright cylinder: its x
    runs round from the front, its y is the height, and it stands out from the cylinder.

    what: a solid, or a region
    r: the radius of the cylinder
    thickness: how far a region stands out
    """
    solid = kernel.extrusion(what, thickness) if isinstance(what, Region) else what
    assert isinstance(solid, Solid)
    return shaping.wrapped(solid, r)


@word(
    "solid, angle -> solid",
    example="height(twist(box(4 cm, 3 cm, 2 cm), 45°))", gives="2 cm",
)  # fmt: skip
def twist(what: Solid, angle: float) -> Solid:
    """A solid turned about the z axis the more the higher.

    what: the solid
    angle: how far its top is turned against its foot
    """
    return shaping.twisted(what, angle)


@word(
    "solid, length -> solid",
    example="round(volume(bend(box(4 cm, 1 cm, 1 mm), 20 cm)), 10 mm^3)", gives="400 mm^3",
)  # fmt: skip
def bend(what: Solid, r: float) -> Solid:
    """A solid bent upwards along x, so that its x axis becomes an arc.

    what: the solid
    r: the radius of that arc; below 0 it is bent downwards
    """
    return shaping.bent(what, r)


@word(
    "solid, number -> solid",
    example="volume(taper(box(4 cm, 3 cm, 2 cm), 0.5))", gives="14000 mm^3",
)  # fmt: skip
def taper(what: Solid, share: float) -> Solid:
    """A solid drawn in towards the z axis the more the higher.

    what: the solid
    share: its size at the top, as a share of that at its foot
    """
    return shaping.tapered(what, share)


_EDGE = (
    "{at: point, along: point Q, length: length, angle: angle, convex: yes/no, straight: yes/no}"
)
"""What a condition on an edge is given, and what `edges` lists."""

EdgeCondition = Callable[[dict[str, Any]], bool]


def _told(edge: Edge) -> dict[str, Any]:
    return {
        "at": edge.middle,
        "along": edge.along,
        "length": edge.length,
        "angle": edge.angle,
        "convex": edge.convex,
        "straight": edge.straight,
    }


def _finished(what: Solid, finish: Finish, where: EdgeCondition | None) -> Solid:
    wanted = None if where is None else lambda edge: bool(where(_told(edge)))
    return finished_edges(what, finish, wanted)


@word(
    f"solid, length, where: ({_EDGE} -> yes/no)? -> solid",
    example="height(round_edges(box(4 cm, 3 cm, 2 cm), 2 mm, where = e -> e.at.z == 2 cm))", gives="2 cm",
)  # fmt: skip
def round_edges(what: Solid, r: float, where: EdgeCondition | None = None) -> Solid:
    """A solid with its edges rounded: all, or those for which a condition on `.at` (the middle),
    `.along`, `.length`, `.angle` (through the solid), `.convex` and `.straight` holds.

    what: the solid
    r: the radius
    where: which edges, such as e -> e.convex and e.at.z == h
    """
    return _finished(what, Finish("round", r), where)


@word(
    f"solid, length, where: ({_EDGE} -> yes/no)? -> solid",
    example="volume(bevel_edges(box(4 cm, 3 cm, 2 cm), 2 mm, where = e -> e.along.z != 0))",
    gives="24000 mm^3 - 4 * 2 mm^2 * 20 mm",
)  # fmt: skip
def bevel_edges(what: Solid, size: float, where: EdgeCondition | None = None) -> Solid:
    """A solid with its edges cut off: all, or those for which a condition on `.at`, `.along`,
    `.length`, `.angle`, `.convex` and `.straight` holds.

    what: the solid
    size: how far from the edge, along both faces
    where: which edges, such as e -> e.straight
    """
    return _finished(what, Finish("bevel", size), where)


def _measured(found: float, missed: float) -> float:
    return Inexact(found, missed) if missed > SAME_SHARE * found else found


def _placed(found: Points, missed: float, size: float) -> Points:
    return InexactPlace.of(found, missed, size) if missed > SAME_SHARE * size else found


@word(
    f"solid -> list {_EDGE}",
    example="sum([e.length for e in edges(box(4 cm, 3 cm, 2 cm))])", gives="36 cm",
)  # fmt: skip
def edges(what: Solid) -> list[dict[str, Any]]:
    """The edges of a solid: where its surface turns by more than 20°; each with `.at` (the middle),
    `.along`, `.length` (of arcs and other known curves their own, not that of their chords), `.angle`
    (through the solid), `.convex` and `.straight`.

    what: the solid
    """
    size = float(np.ptp(what.bounds(), axis=0).max()) if not what.is_empty else 0.0
    return [
        {
            **_told(edge),
            "at": _placed(edge.middle, edge.middle_missed, size),
            "along": _placed(edge.along, edge.along_missed, 1.0),
            "length": _measured(edge.length, edge.missed),
            "angle": _measured(edge.angle, edge.angle_missed),
        }
        for edge in edges_of(what)
    ]
