"""The closed surface through level outlines, one above another.

Between two of them lies a wall, where both have the same corners, or the ring between both, triangulated in plan with its
corners at their heights; so the surface is closed by construction.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.meshes.mesh import Mesh, triangulated
from ovolo.geometry.regions.insets import rings_of
from ovolo.geometry.types import Floats

Layer = tuple[BaseGeometry, float]
"""An outline and its height in mm."""

Pair = list[float]
"""A corner in plan."""


def stacked(layers: Sequence[Layer]) -> Mesh:
    """The surface through all layers."""
    rings = [rings_of(flat) for flat, _ in layers]
    starts = np.cumsum([0, *(sum(map(len, one)) for one in rings)])
    corners = np.concatenate(
        [
            np.column_stack([np.concatenate(one), np.full(sum(map(len, one)), height)])
            for one, (_, height) in zip(rings, layers, strict=True)
        ]
    )
    triangles = [triangulated(rings[0])[:, ::-1]]
    for at in range(len(layers) - 1):
        low, high = layers[at][0], layers[at + 1][0]
        if low is high:
            triangles.append(_walls(rings[at], starts[at], starts[at + 1]))
        else:
            triangles.append(_ring_between(rings[at], rings[at + 1], starts[at], starts[at + 1], low.area < high.area))  # fmt: skip
    triangles.append(triangulated(rings[-1]) + starts[-2])
    return Mesh(corners, np.concatenate(triangles).astype(np.int32))


def _zipped(below: list[Floats], above: list[Floats], low: int, high: int) -> NDArray[np.int64]:
    """The triangles between outlines of which the one has corners that the other lacks: each has corners of both, for
    what lies between three corners of one would be level."""
    starts = low + np.cumsum([0, *map(len, below)])
    ends = high + np.cumsum([0, *map(len, above)])
    found = []
    for ring, start in zip(below, starts.tolist(), strict=False):
        far = [shapely.distance(shapely.points(one), shapely.linearrings(ring)).mean() for one in above]  # fmt: skip
        at = int(np.argmin(far))
        found += _zipped_along(ring.tolist(), above[at].tolist(), start, int(ends[at]))
    return np.array(found)


def _zipped_along(a: list[Pair], b: list[Pair], start: int, end: int) -> list[tuple[int, int, int]]:
    """The triangles between two rings that run alike, whose corners are counted from `start` and from `end`: along both at
    once, always by the shorter way across."""
    shift = min(range(len(b)), key=lambda at: math.dist(a[0], b[at]))
    b = b[shift:] + b[:shift]
    on_a = [start + at % len(a) for at in range(len(a) + 1)]
    on_b = [end + (at + shift) % len(b) for at in range(len(b) + 1)]
    a, b = [*a, a[0]], [*b, b[0]]
    found: list[tuple[int, int, int]] = []
    i = j = 0
    while i + 1 < len(a) or j + 1 < len(b):
        ends = i + 1 == len(a)
        if not ends and (j + 1 == len(b) or math.dist(a[i + 1], b[j]) <= math.dist(a[i], b[j + 1])):
            found.append((on_a[i], on_a[i + 1], on_b[j]))
            i += 1
        else:
            found.append((on_a[i], on_b[j + 1], on_b[j]))
            j += 1
    return found


def _walls(rings: list[NDArray[np.float64]], low: int, high: int) -> NDArray[np.int64]:
    found = []
    at = 0
    for ring in rings:
        index = np.arange(at, at + len(ring))
        onward = np.roll(index, -1)
        found += [
            np.column_stack([low + index, low + onward, high + onward]),
            np.column_stack([low + index, high + onward, high + index]),
        ]
        at += len(ring)
    return np.concatenate(found)


def _ring_between(
    below: list[NDArray[np.float64]],
    above: list[NDArray[np.float64]],
    low: int,
    high: int,
    grows: bool,
) -> NDArray[np.int64]:
    """The triangles between two outlines, the smaller within the larger; they face up where the
    figure shrinks upwards, down where it grows."""
    if [len(one) for one in below] != [len(one) for one in above]:
        return _zipped(below, above, low, high)
    count, other = (sum(map(len, rings)) for rings in (below, above))
    lower = np.split(np.arange(low, low + count), np.cumsum([len(r) for r in below])[:-1])
    upper = np.split(np.arange(high, high + other), np.cumsum([len(r) for r in above])[:-1])
    if grows:
        rings = [*above, *(ring[::-1] for ring in below)]
        index = np.concatenate([*upper, *(one[::-1] for one in lower)])
    else:
        rings = [*below, *(ring[::-1] for ring in above)]
        index = np.concatenate([*lower, *(one[::-1] for one in upper)])
    triangles = index[triangulated(rings)]
    return triangles[:, ::-1] if grows else triangles
