"""Flat figures."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.curves.corners import filleted
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import polyline
from ovolo.geometry.regions import dividing
from ovolo.geometry.regions import region as kernel
from ovolo.geometry.regions.lettering import lettering
from ovolo.geometry.regions.region import Region
from ovolo.geometry.solids.solid import Solid
from ovolo.words.corner_choice import CORNER, Condition, wanted_corners
from ovolo.words.registry import word


@word("length, length -> region", example="area(rect(30 mm, 20 mm))", gives="600 mm^2")
def rect(w: float, h: float) -> Region:
    """A rectangle of width w and height h, centred on the origin.

    w: along x
    h: along y
    """
    return kernel.rectangle(w, h)


@word("length -> region", example="area(disc(10 mm))", gives="pi * (10 mm)^2")
def disc(r: float) -> Region:
    """A disc of radius r, centred on the origin.

    r: the radius
    """
    return kernel.disc(r)


@word("whole, length -> region", example="area(polygon(4, 10 mm))", gives="200 mm^2")
def polygon(n: int, r: float) -> Region:
    """A regular polygon of n sides with its corners at radius r, the first on the x axis.

    n: how many sides
    r: from the centre to the corners
    """
    return kernel.regular_polygon(n, r)


Outline = Curve | NDArray[np.float64]


@word(
    "curve or list point, curve or list point... -> region",
    example="area(region([(0 mm, 0 mm), (4 mm, 0 mm), (0 mm, 3 mm)]))", gives="6 mm^2",
)  # fmt: skip
def region(outline: Outline, *holes: Outline) -> Region:
    """The region inside a closed curve, or an outline of points, less its holes; all at one height.

    outline: a closed curve, or the corners in order
    holes: a closed curve, or the corners, of each hole
    """
    rings = [one if isinstance(one, Curve) else _corners(one) for one in (outline, *holes)]
    if any(isinstance(ring, Curve) for ring in rings):
        first, *rest = (ring if isinstance(ring, Curve) else _closed(ring) for ring in rings)
        return kernel.from_curves(first, rest)
    points = [ring for ring in rings if not isinstance(ring, Curve)]
    return kernel.from_points(points[0], points[1:])


def _corners(points: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(points, dtype=float).reshape(-1, 3)


def _closed(points: NDArray[np.float64]) -> Curve:
    return polyline(np.concatenate([points, points[:1]]))


@word("length, length -> region", example="perimeter(slot(2 m, 1 m))", gives="4 m + 2 * pi * 1 m")
def slot(l: float, r: float) -> Region:  # noqa: E741 - the trade's letter for a length
    """A slot along x: straight sides with half-round ends.

    l: from the centre of one end to that of the other
    r: the radius of the ends
    """
    return kernel.slot(l, r)


@word(
    "whole, length, length -> region",
    example="area(star(4, 2 m, 1 m)) < area(disc(2 m))",
    gives="yes",
)
def star(n: int, r: float, inner: float) -> Region:
    """A star with its first point on the x axis.

    n: how many points
    r: from the centre to the points
    inner: from the centre to the corners between them
    """
    return kernel.star(n, r, inner)


@word(
    "length, length, angle, angle -> region",
    example="perimeter(sector(1 m, 2 m, 0°, 90°))", gives="2 m + 3/2 * pi * 1 m",
)  # fmt: skip
def sector(r0: float, r1: float, a0: float, a1: float) -> Region:
    """A piece of a ring, or of a disc where r0 is 0.

    r0: the inner radius
    r1: the outer radius
    a0: the angle at which it begins
    a1: the angle at which it ends, anticlockwise
    """
    return kernel.sector(r0, r1, a0, a1)


@word(
    f"region, length, where: ({CORNER} -> yes/no)? -> region",
    example="perimeter(round_corners(rect(3 m, 2 m), 500 mm))", gives="6 m + pi * 1 m",
)  # fmt: skip
def round_corners(what: Region, r: float, where: Condition | None = None) -> Region:
    """The region with its corners rounded, outside and in: all, or those for which a condition on
    `.index`, `.angle` (inside the region) and `.at` holds.

    what: the region
    r: the radius
    where: which corners, such as c -> c.angle < 100°
    """
    return kernel.with_corners(
        what, lambda curve, at: filleted(curve, r, at), wanted_corners(where)
    )


@word(
    "text, length, across: text?, up: text?, along: curve? -> region",
    example='depth(text("H", 10 mm))', gives="10 mm",
)  # fmt: skip
def text(
    what: str,
    height: float,
    across: str = "centre",
    up: str = "middle",
    along: Curve | None = None,
) -> Region:
    """A line of text as outlines, its capitals of a height, centred on the origin; or along a
    curve, in whose middle it then stands.

    what: the text
    height: that of its capitals
    across: which place of it lies on x = 0: left, centre or right
    up: which place of it lies on y = 0, or on the curve: baseline, middle or top
    along: a flat curve, run from left to right
    """
    return lettering(what, height, across, up, along)


@word(
    "list point, region -> list region",
    example="area(voronoi([(1 m, 1 m), (3 m, 1 m)], rect(4 m, 2 m).move(2 m, 1 m))[0])", gives="4 m^2",
)  # fmt: skip
def voronoi(points: Any, within: Region) -> list[Any]:
    """For each point the cell of a region that is nearer to it than to any other point.

    points: the points, in the plane of the region
    within: the region that is divided
    """
    return dividing.voronoi(np.asarray(points, dtype=float).reshape(-1, 3), within)


@word(
    "list point -> list region", "region -> list region",
    example="len(triangulate([(0 m, 0 m), (1 m, 0 m), (1 m, 1 m), (0 m, 2 m)]))", gives="2",
)  # fmt: skip
def triangulate(what: Any) -> list[Region]:
    """The triangles between points in plan, as even as can be (Delaunay), or those that a region is
    made of, with its own corners.

    what: a list of points, or a region
    """
    if isinstance(what, Region):
        return dividing.triangles_of_region(what)
    return dividing.triangles_of_points(np.asarray(what, dtype=float).reshape(-1, 3))


@word(
    "solid, length -> list region", "surface, length -> list curve",
    example="len(contours(box(1 m, 1 m, 1 m), 300 mm))", gives="3",
)  # fmt: skip
def contours(what: Any, step: float) -> list[Any]:
    """Lines of equal height at the multiples of a step: of a solid its level sections, of a surface
    the lines on it.

    what: a solid or a surface
    step: from one height to the next
    """
    if isinstance(what, Solid):
        return list(dividing.contours_of_solid(what, step))
    return list(dividing.contours_of_surface(what, step))
