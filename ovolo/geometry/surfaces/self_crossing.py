"""Where a surface runs through itself."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from numpy.typing import NDArray

from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.same import ROUNDING, SAME_PLACE
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product

_AT_ONCE = 1_000
"""What lies near so many triangles is looked at together."""


def first_crossing(mesh: Mesh) -> Points | None:
    """A place (3,) where an edge of a mesh runs through one of its triangles that it does not
    touch; None where there is none. Edges are met with triangles (Möller and Trumbore, 1997)."""
    triangles = mesh.corners[mesh.triangles]
    for one, other in _near(triangles.min(axis=1), triangles.max(axis=1)):
        shared = (mesh.triangles[one][:, :, None] == mesh.triangles[other][:, None, :]).any(axis=(1, 2))  # fmt: skip
        found = _pierced(triangles[one[~shared]], triangles[other[~shared]])
        if found is not None:
            return found
    return None


def _near(low: Points, high: Points) -> Iterator[tuple[NDArray[np.int64], NDArray[np.int64]]]:
    """The pairs of boxes that overlap, each in both orders, in the order of the first."""
    flattest, *others = np.argsort(np.ptp(np.concatenate([low, high]), axis=0), kind="stable")
    boxes = shapely.box(*low[:, others].T, *high[:, others].T)
    tree = shapely.STRtree(boxes)
    for at in range(0, len(boxes), _AT_ONCE):
        first, second = tree.query(boxes[at : at + _AT_ONCE])
        first += at
        meets = (low[first, flattest] <= high[second, flattest]) & (low[second, flattest] <= high[first, flattest])  # fmt: skip
        kept = np.flatnonzero(meets & (first != second))
        kept = kept[np.lexsort((second[kept], first[kept]))]
        yield first[kept], second[kept]


def _pierced(edges_of: Points, through: Points) -> Points | None:
    """The first place where an edge of one triangle passes through another, of pairs (n, 3, 3)."""
    a, b, c = through[:, 0], through[:, 1], through[:, 2]
    for k in range(3):
        start = edges_of[:, k]
        way = edges_of[:, (k + 1) % 3] - start
        across = cross_product(way, c - a)
        size = dot_product(b - a, across)
        scale = np.linalg.norm(b - a, axis=1) * np.linalg.norm(across, axis=1)
        with np.errstate(all="ignore"):
            u = dot_product(start - a, across) / size
            turned = cross_product(start - a, b - a)
            v = dot_product(way, turned) / size
            t = dot_product(c - a, turned) / size
            slack = SAME_PLACE / np.maximum(np.linalg.norm(way, axis=1), SAME_PLACE)
            hit = (np.abs(size) > ROUNDING * scale) & (u > 1e-7) & (v > 1e-7) & (u + v < 1 - 1e-7)
            hit &= (t > slack) & (t < 1 - slack)
        if np.any(hit):
            at = int(np.argmax(hit))
            place: Points = start[at] + t[at] * way[at]
            return place
    return None
