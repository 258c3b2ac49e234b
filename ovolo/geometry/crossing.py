"""Where a surface runs through itself."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ovolo.geometry.mesh import Mesh
from ovolo.geometry.same import SAME_PLACE

Points = NDArray[np.float64]
_AT_ONCE = 500_000


def first_crossing(mesh: Mesh) -> Points | None:
    """A place (3,) where an edge of a mesh runs through one of its triangles that it does not
    touch; None where there is none. Edges are met with triangles (Möller and Trumbore, 1997)."""
    triangles = mesh.corners[mesh.triangles]
    low, high = triangles.min(axis=1), triangles.max(axis=1)
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    first, second = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    apart = (low[first, 2] <= high[second, 2]) & (low[second, 2] <= high[first, 2])
    apart &= first != second
    first, second = first[apart], second[apart]
    for at in range(0, len(first), _AT_ONCE):
        one, other = first[at : at + _AT_ONCE], second[at : at + _AT_ONCE]
        shared = (mesh.triangles[one][:, :, None] == mesh.triangles[other][:, None, :]).any(axis=(1, 2))  # fmt: skip
        found = _pierced(triangles[one[~shared]], triangles[other[~shared]])
        if found is not None:
            return found
    return None


def _pierced(edges_of: Points, through: Points) -> Points | None:
    """The first place where an edge of one triangle passes through another, of pairs (n, 3, 3)."""
    a, b, c = through[:, 0], through[:, 1], through[:, 2]
    for k in range(3):
        start = edges_of[:, k]
        way = edges_of[:, (k + 1) % 3] - start
        across = np.cross(way, c - a)
        size = np.sum((b - a) * across, axis=1)
        scale = np.linalg.norm(b - a, axis=1) * np.linalg.norm(across, axis=1)
        with np.errstate(all="ignore"):
            u = np.sum((start - a) * across, axis=1) / size
            turned = np.cross(start - a, b - a)
            v = np.sum(way * turned, axis=1) / size
            t = np.sum((c - a) * turned, axis=1) / size
            slack = SAME_PLACE / np.maximum(np.linalg.norm(way, axis=1), SAME_PLACE)
            hit = (np.abs(size) > 1e-12 * scale) & (u > 1e-7) & (v > 1e-7) & (u + v < 1 - 1e-7)
            hit &= (t > slack) & (t < 1 - slack)
        if np.any(hit):
            at = int(np.argmax(hit))
            place: Points = start[at] + t[at] * way[at]
            return place
    return None
