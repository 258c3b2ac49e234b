"""Skins: closed surfaces through rings of points, as lofts, sweeps and pipes have them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.same import are_distinct, distinct_rows
from ovolo.geometry.types import Points

Indices = NDArray[np.int64]

_ALIKE = 0.2
"""The share by which the squares of two diagonals may differ that are much the same."""


def skinned(
    rings: Points,
    loops: Sequence[int],
    first_cap: Indices | None,
    last_cap: Indices | None,
) -> Mesh:
    """The surface through k rings of n points each, (k, n, 3). Each ring is made of loops of so
    many points that run to the left of their inside, seen against the way of the rings. Caps are
    triangles (m, 3) of indices within a ring, facing along the way; without caps the last ring is
    joined to the first."""
    count, size, _ = rings.shape
    closed = first_cap is None
    index = np.arange(size)
    onward = np.concatenate([np.roll(part, -1) for part in np.split(index, np.cumsum(loops)[:-1])])
    lower = np.arange(count if closed else count - 1)
    upper = (lower + 1) % count
    a = (lower[:, None] * size + index).reshape(-1)
    b = (lower[:, None] * size + onward).reshape(-1)
    c = (upper[:, None] * size + onward).reshape(-1)
    d = (upper[:, None] * size + index).reshape(-1)
    corners = rings.reshape(-1, 3)
    # Of the two ways to part a four-sided patch, the shorter diagonal bends it less. Where both are much the same, they
    # take turns: of patches that are twisted, one bulges as much as the next is hollow, and together they hold as much as
    # ruled ones.
    falls, rises = corners[b] - corners[d], corners[c] - corners[a]
    up, down = np.einsum("ij,ij->i", rises, rises), np.einsum("ij,ij->i", falls, falls)
    in_turn = ((lower[:, None] + index) % 2 == 0).reshape(-1)
    rising = np.where(np.abs(up - down) <= _ALIKE * np.maximum(up, down), in_turn, up <= down)
    first = np.column_stack([a, b, np.where(rising, c, d)])
    second = np.column_stack([np.where(rising, a, b), c, d])
    triangles = [first, second]
    if first_cap is not None and last_cap is not None:
        triangles += [first_cap[:, ::-1], last_cap + (count - 1) * size]
    return without_slivers(Mesh(corners, np.concatenate(triangles).astype(np.int32)))


def without_slivers(mesh: Mesh) -> Mesh:
    """The mesh with corners that coincide made one, and without triangles that have lost an edge:
    where a ring shrinks to a point, its apex is one corner."""
    places = np.round(mesh.corners, 7) + 0.0
    if are_distinct(places):
        return mesh
    first, inverse = distinct_rows(places)
    corners = mesh.corners[first]
    triangles = inverse[mesh.triangles]
    a, b, c = triangles.T
    kept = (a != b) & (b != c) & (c != a)
    return Mesh(corners, np.ascontiguousarray(triangles[kept], dtype=np.int32))
