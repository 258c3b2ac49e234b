"""Surfaces."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.surfaces import surface as kernel
from ovolo.geometry.surfaces.surface import Surface
from ovolo.geometry.types import Point, Points
from ovolo.problems import Failure, OneByOne
from ovolo.words.registry import word

Values = Any
_FLAT = "(u, v) -> (u * 1 m, v * 2 m)"


CELL = (
    "{index: whole, u: number, v: number, at: point, along: point Q, left: point Q, up: point Q, "
    "corners: list point}"
)
"""What is known of a cell of a surface."""


@word("(number, number -> point) -> surface", example=f"area(surface({_FLAT}))", gives="2 m * 1 m")
def surface(f: Callable[[float, float], Point]) -> Surface:
    """The surface of a function from u and v, each from 0 to 1, to a point.

    f: from u and v, a point
    """
    return kernel.by_function(f)


@word(
    "list list point -> surface",
    example="area(patch([[(0 m, 0 m), (0 m, 1 m)], [(2 m, 0 m), (2 m, 1 m)]]))", gives="2 m * 1 m",
)  # fmt: skip
def patch(points: Any) -> Surface:
    """A smooth surface drawn by rows of control points (a B-spline, cubic where there are four or
    more in a row). It passes through the outermost corners.

    points: the rows, each a list of equally many points
    """
    rows = [np.asarray(row, dtype=float).reshape(-1, 3) for row in points]
    lengths = {len(row) for row in rows}
    if len(lengths) != 1:
        said = ", ".join(str(len(row)) for row in rows[:8])
        raise Failure(f"the rows of this patch have {said} points", "equally many in each")
    return kernel.patch(np.array(rows))


@word(
    "curve, curve -> surface",
    example="area(ruled(line((0 m, 0 m), (2 m, 0 m)), line((0 m, 1 m), (2 m, 1 m))))", gives="2 m * 1 m",
)  # fmt: skip
def ruled(c: Curve, d: Curve) -> Surface:
    """The surface of straight lines from one curve to another, at equal shares of their lengths.

    c: the one
    d: the other
    """
    return kernel.ruled(c, d)


@word(
    "list curve -> surface",
    example="area(loft_surface([line((0 m, i * 1 m), (2 m, i * 1 m)) for i in 0 .. 3]))", gives="2 m * 3 m",
)  # fmt: skip
def loft_surface(curves: list[Curve]) -> Surface:
    """A smooth surface through curves: u runs along them, v from the first to the last.

    curves: the curves in order
    """
    return kernel.through_curves(curves)


@word(
    "surface, number, number -> point Q",
    example=f"normal_at(surface({_FLAT}), 0.5, 0.5).z", gives="1", elementwise=True,
)  # fmt: skip
def normal_at(s: Surface, u: Values, v: Values) -> Points:
    """The direction square to a surface, of length 1.

    s: the surface
    u: from 0 to 1
    v: from 0 to 1
    """
    if not isinstance(s, Surface):  # each item has a surface of its own
        raise OneByOne
    normals = s.normals(u, v)
    return normals if np.ndim(u) or np.ndim(v) else normals[0]


@word("surface -> surface", example=f"normal_at(flip(surface({_FLAT})), 0.5, 0.5).z", gives="-1")
def flip(s: Surface) -> Surface:
    """The same surface, its normals pointing to the other side.

    s: the surface
    """
    return s.flipped()


@word(
    f"surface, whole, whole, form: text? -> list {CELL}",
    example=f"len(cells(surface({_FLAT}), 4, 3))", gives="12",
)  # fmt: skip
def cells(s: Surface, nu: float, nv: float, form: str = "quads") -> list[dict[str, Any]]:
    """A surface parted into cells: each a frame (`.at` its middle, `.along` u, `.left`, `.up` the
    normal) with its `.corners` in order, the `.u` and `.v` of its middle, and its `.index`.

    s: the surface
    nu: how many along u
    nv: how many along v
    form: quads, triangles, diamonds or hexagons
    """
    return [
        {
            "index": float(index),
            "u": cell.u,
            "v": cell.v,
            "at": cell.at,
            "along": cell.along,
            "left": cell.left,
            "up": cell.up,
            "corners": cell.corners,
        }
        for index, cell in enumerate(kernel.cells(s, int(nu), int(nv), form))
    ]


@word(
    "surface, length, both_sides: yes/no? -> solid",
    example=f"volume(thicken(surface({_FLAT}), 1 cm))", gives="2 m * 1 m * 1 cm",
)  # fmt: skip
def thicken(s: Surface, t: float, both_sides: bool = False) -> Solid:
    """The solid between a surface and its parallel.

    s: the surface
    t: the thickness, along the normals; below 0 to the other side
    both_sides: whether half of it lies on either side
    """
    return kernel.thickened(s, t, both_sides)
