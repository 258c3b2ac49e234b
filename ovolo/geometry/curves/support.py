"""How far curves reach in a direction: exact for lines, arcs of circles and ellipses, and cubics."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc
from ovolo.geometry.same import ROUNDING
from ovolo.geometry.types import Points

_TURN = 2 * math.pi


def reach_of_curves(curves: Sequence[Curve], ways: Points) -> Points:
    """The greatest product of a place of any of the curves with directions (k, 3), as (k,)."""
    corners = np.concatenate(
        [run.poles[:, 0] if isinstance(run, Cubics) else run.start[None] for curve in curves for run in curve.runs]
        + [curve.end[None] for curve in curves]
    )  # fmt: skip
    found: Points = np.full(len(ways), -math.inf)
    step = max(4_000_000 // len(corners), 1)
    for at in range(0, len(ways), step):
        found[at : at + step] = (ways[at : at + step] @ corners.T).max(axis=1)
    for curve in curves:
        for run in curve.runs:
            if isinstance(run, Arc):
                found = np.maximum(found, _of_arc(run, ways))
            elif isinstance(run, Cubics):
                found = np.maximum(found, _of_cubics(run, ways))
    return found


def _of_arc(arc: Arc, ways: Points) -> Points:
    """At the place where it runs square to the direction, where that lies on it."""
    u, v = ways @ arc.u, ways @ arc.v
    top = np.arctan2(v, u)
    turned = ((top - arc.angle) * math.copysign(1.0, arc.sweep)) % _TURN
    on = (turned <= abs(arc.sweep)) | (abs(arc.sweep) >= _TURN - ROUNDING)
    return np.where(on, ways @ arc.centre + np.hypot(u, v), -math.inf)


def _of_cubics(run: Cubics, ways: Points) -> Points:
    """Where the derivative along the direction is 0: the roots of a quadratic."""
    found = np.full(len(ways), -math.inf)
    c0, c1, c2, c3 = (np.asarray(one) for one in run.powers)
    step = max(400_000 // len(c0), 1)
    for first in range(0, len(ways), step):
        way = ways[first : first + step]
        k0, k1, k2, k3 = (way @ one.T for one in (c0, c1, c2, c3))
        a, b = 3 * k3, 2 * k2
        square = b * b - 4 * a * k1
        half = -(b + np.copysign(np.sqrt(np.maximum(square, 0.0)), b)) / 2
        best = np.full(len(way), -math.inf)
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            for root in (half / a, k1 / half):
                t = np.where((square >= 0) & (root > 0) & (root < 1), root, 0.0)
                best = np.maximum(best, (k0 + t * (k1 + t * (k2 + t * k3))).max(axis=1))
        found[first : first + step] = best
    return found
