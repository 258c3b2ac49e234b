"""What drawing files share: the curves of flat parts, and the axes of their ellipses."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ovolo.geometry.curve import Arc, Curve, Points
from ovolo.outcome.part import Part
from ovolo.problems import Failure

LEVEL = 1e-6
"""By how many mm a flat drawing may leave its plane."""


def outlines_of(part: Part) -> Iterator[list[Curve]]:
    """The curves of each item of a part: a curve by itself, a region's outline with its holes."""
    for curve in part.curves:
        yield [curve]
    for region in part.regions:
        yield region.curves()


def refuse_upright(part: Part, curve: Curve) -> None:
    """Raises Failure for a curve that does not lie level: drawings show the plan."""
    low, high = curve.bounds()
    if high[2] - low[2] > LEVEL:
        raise Failure(
            f"the part `{part.name}` rises from {low[2]:.6g} mm to {high[2]:.6g} mm, and this file "
            "holds the plan only",
            "draw it flat, or write it to another format",
        )


@dataclass(frozen=True, slots=True)
class Axes:
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
