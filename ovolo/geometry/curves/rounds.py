"""Arcs found again from the sides that stand for them."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from ovolo.geometry.same import SAME_PLACE, SAME_SHARE
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import dot_product, plane_product

ROUND = 1e-4
"""By what share of its radius an arc may be missed."""


_LEAST_CORNERS = 7
_LEAST_SWEEP = math.radians(10)
"""Any three sides touch one circle, and what bends but a little all but does."""


class RoundEdge(Struct, frozen=True, eq=False):
    """An arc in space: its centre (3,), its radius (mm) and how far it goes (radians)."""

    centre: Points
    radius: float
    sweep: float


def _in_plane(corners: Points) -> tuple[Points, Points, Points] | None:
    """Corners that lie in one plane, in its own coordinates (n, 2); a point and two directions of
    it. None where they do not, or are too few to tell an arc from other curves."""
    if len(corners) < _LEAST_CORNERS:
        return None
    middle = corners.mean(axis=0)
    _, sizes, ways = np.linalg.svd(corners - middle, full_matrices=False)
    if sizes[1] < SAME_SHARE * sizes[0] or sizes[2] > ROUND * sizes[1]:
        return None
    return (corners - middle) @ ways[:2].T, middle, ways[:2]


def arc_touched(corners: Points) -> RoundEdge | None:
    """The arc that all sides between corners touch (least squares), if there is one, and they are enough to tell.

    >>> turns = np.linspace(0, np.pi, 9)
    >>> corners = 50 * np.column_stack([np.cos(turns), np.sin(turns), 0 * turns])
    >>> arc_touched(corners) is None
    False
    """
    flat = _in_plane(corners)
    if flat is None:
        return None
    points, middle, ways = flat
    sides = np.diff(points, axis=0)
    lengths = np.linalg.norm(sides, axis=1)
    left = np.column_stack([-sides[:, 1], sides[:, 0]]) / lengths[:, None]
    offsets = dot_product(left, points[:-1])
    (x, y, out), *_ = np.linalg.lstsq(np.column_stack([left, np.ones(len(left))]), offsets, rcond=None)  # fmt: skip
    radius = abs(float(out))
    missed = np.abs(left @ [x, y] + out - offsets)
    turns = np.arctan2(plane_product(sides[:-1], sides[1:]), dot_product(sides[:-1], sides[1:]))
    out_to = points - [x, y]
    seen = np.arctan2(plane_product(out_to[:-1], out_to[1:]), dot_product(out_to[:-1], out_to[1:]))
    sweep = abs(float(seen.sum()))
    if missed.max() > ROUND * radius or sweep < _LEAST_SWEEP or np.any(turns * turns.sum() < -1e-6):
        return None
    centre = middle + np.array([x, y]) @ ways
    closed = bool(np.linalg.norm(corners[0] - corners[-1]) < SAME_PLACE)
    return RoundEdge(centre, radius, 2 * math.pi if closed else sweep)
