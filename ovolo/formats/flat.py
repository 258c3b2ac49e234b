"""What drawing files share: the curves of flat parts, and the axes of their ellipses."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from ovolo.drawing.views import View, view_of
from ovolo.geometry.curves.pieces import Arc
from ovolo.geometry.types import Points
from ovolo.outcome.part import Part
from ovolo.problems import Failure


def view_for(parts: Sequence[Part]) -> View:
    """The view in which all parts lie flat. Raises Failure where there is none."""
    found = view_of(part.bounds for part in parts if part.bounds)
    if found is not None:
        return found
    part = next((one for one in parts if view_of([one.bounds or []]) is None), parts[-1])
    low, high = part.bounds or [[0.0] * 3] * 2
    raise Failure(
        f"the part `{part.name}` rises from {low[2]:.6g} mm to {high[2]:.6g} mm, and this file "
        "holds what lies flat in one plane",
        "draw it flat, hand it over by itself, or take a sheet, which shows any view",
    )


class Axes(Struct, frozen=True):
    """An elliptic arc by its principal radii: `major` and `minor` (vectors), and the angles of its
    ends from the major one, `begin` to `end` in radians (`end` less where it runs clockwise)."""

    major: Points
    minor: Points
    begin: float
    end: float


def axes_of(arc: Arc) -> Axes:
    """The principal axes of an ellipse given by conjugate radii (Rytz's construction, here by the
    singular values of the matrix of both)."""
    matrix = np.column_stack([arc.u, arc.v])
    sides, sizes, turns = np.linalg.svd(matrix, full_matrices=False)
    major, minor = sides[:, 0] * sizes[0], sides[:, 1] * sizes[1]

    def angle_of(angle: float) -> float:
        c, s = turns @ np.array([math.cos(angle), math.sin(angle)])
        return math.atan2(s, c)

    way = math.copysign(1.0, float(np.linalg.det(turns)))
    begin = angle_of(arc.angle)
    return Axes(major, minor, begin, begin + way * arc.sweep)
