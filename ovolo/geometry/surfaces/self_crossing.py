"""Where a surface runs through itself."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.same import ROUNDING, SAME_PLACE
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product

_AT_ONCE = 2_000_000


def first_crossing(mesh: Mesh) -> Points | None:
    """A place (3,) where an edge of a mesh runs through one of its triangles that it does not
    touch; None where there is none. Edges are met with triangles (Möller and Trumbore, 1997)."""
    triangles = mesh.corners[mesh.triangles]
    low, high = triangles.min(axis=1), triangles.max(axis=1)
    edges = np.arange(0, len(triangles), _GROUP)
    near = _overlapping(np.minimum.reduceat(low, edges), np.maximum.reduceat(high, edges))
    within = np.arange(_GROUP)
    step = max(_AT_ONCE // _GROUP**2, 1)
    for at in range(0, len(near), step):
        one, other = (_GROUP * near[at : at + step, k, None] + within for k in (0, 1))
        first = np.repeat(one, _GROUP, axis=1).reshape(-1)
        second = np.tile(other, (1, _GROUP)).reshape(-1)
        there = (first < len(triangles)) & (second < len(triangles)) & (first != second)
        first, second = first[there], second[there]
        for axis in range(3):
            meets = (low[first, axis] <= high[second, axis]) & (low[second, axis] <= high[first, axis])  # fmt: skip
            first, second = first[meets], second[meets]
        shared = (mesh.triangles[first][:, :, None] == mesh.triangles[second][:, None, :]).any(axis=(1, 2))  # fmt: skip
        found = _pierced(triangles[first[~shared]], triangles[second[~shared]])
        if found is not None:
            return found
    return None


_GROUP = 64
"""So many triangles that follow each other, and lie near each other, are looked at together."""


def _overlapping(low: Points, high: Points) -> NDArray[np.int64]:
    """The pairs (k, 2) of boxes that overlap, each in both orders, a box with itself once."""
    found = np.ones((len(low), len(low)), dtype=bool)
    for axis in range(3):
        found &= low[:, None, axis] <= high[None, :, axis]
        found &= low[None, :, axis] <= high[:, None, axis]
    return np.argwhere(found).astype(np.int64)


def _pierced(edges_of: Points, through: Points) -> Points | None:
    """The first place where an edge of one triangle passes through another, of pairs (n, 3, 3)."""
    a, b, c = through[:, 0], through[:, 1], through[:, 2]
    for k in range(3):
        start = edges_of[:, k]
        way = edges_of[:, (k + 1) % 3] - start
        across = cross_product(way, c - a)
        size = np.sum((b - a) * across, axis=1)
        scale = np.linalg.norm(b - a, axis=1) * np.linalg.norm(across, axis=1)
        with np.errstate(all="ignore"):
            u = np.sum((start - a) * across, axis=1) / size
            turned = cross_product(start - a, b - a)
            v = np.sum(way * turned, axis=1) / size
            t = np.sum((c - a) * turned, axis=1) / size
            slack = SAME_PLACE / np.maximum(np.linalg.norm(way, axis=1), SAME_PLACE)
            hit = (np.abs(size) > ROUNDING * scale) & (u > 1e-7) & (v > 1e-7) & (u + v < 1 - 1e-7)
            hit &= (t > slack) & (t < 1 - slack)
        if np.any(hit):
            at = int(np.argmax(hit))
            place: Points = start[at] + t[at] * way[at]
            return place
    return None
