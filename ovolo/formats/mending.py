"""Triangles of a file made one closed surface, where that is safe, with a report of what was mended."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.same import distinct_rows
from ovolo.geometry.types import Points
from ovolo.problems import Failure

_SAME = 1e-5
"""Corners nearer than this, in mm, are one."""


def mended(mesh: Mesh, name: str, report: list[str]) -> Mesh:
    """Corners that coincide made one; triangles without area and doubles dropped; triangles turned
    so that neighbours agree and the outside is outside."""
    scale = max(float(np.abs(mesh.corners).max()), 1.0)
    step = max(_SAME, scale * 1e-7)
    cells = np.round(mesh.corners / step).astype(np.int64)
    first, which = distinct_rows(cells)
    corners, triangles = mesh.corners[first], which[mesh.triangles]
    a, b, c = triangles.T
    kept = triangles[(a != b) & (b != c) & (c != a)]
    if len(kept) < len(triangles):
        report.append(f"{len(triangles) - len(kept)} triangles without area dropped")
    once, which = distinct_rows(np.sort(kept, axis=1))
    found, said = _closed(corners, kept[once])
    if len(once) < len(kept):
        said.insert(0, f"{len(kept) - len(once)} doubled triangles dropped")
        if not found.is_closed():
            alone = np.bincount(which)[which] == 1
            apart, other = _closed(corners, kept[alone])
            if apart.is_closed():
                walls = (
                    f"{len(once) - int(alone.sum())} triangles between bodies that touch dropped"
                )
                found, said = apart, [walls, *other]
    report += said
    _refuse_open(found, name)
    if found.volume() < 0:
        report.append("turned inside out")
        found = Mesh(found.corners, np.ascontiguousarray(found.triangles[:, ::-1]))
    return found


def _closed(corners: Points, triangles: NDArray[np.int64]) -> tuple[Mesh, list[str]]:
    """A mesh with its triangles turned to agree, and what is said of that; whether it is closed is to be seen."""
    if not len(triangles):
        return Mesh(corners, triangles.astype(np.int32)), []
    agreeing, turned = _agreeing(triangles)
    said = [f"{turned} triangles turned round"] if turned else []
    return Mesh(corners, np.ascontiguousarray(agreeing, dtype=np.int32)), said


def _agreeing(triangles: NDArray[np.int64]) -> tuple[NDArray[np.int64], int]:
    """Triangles turned so that each edge is run along in both directions, where that can be."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    half, edge, counts = half_edges(triangles)
    order = np.argsort(edge, kind="stable")
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]])[counts == 2]
    p, q = order[starts], order[starts + 1]
    same = half[p, 0] == half[q, 0]
    if not same.any():
        return triangles, 0
    count = len(triangles)
    links = coo_array((np.where(same, 2, 1), (p // 3, q // 3)), shape=(count, count)).tocsr()
    links = links.maximum(links.T).tocsr()
    _, label = connected_components(links, directed=False)
    turned = _turned(links, np.unique(label, return_index=True)[1])
    shares = np.bincount(label, turned) * 2 > np.bincount(label)  # turn the few, not the many
    turned ^= shares[label]
    found = triangles.copy()
    found[turned] = found[turned][:, ::-1]
    return found, int(turned.sum())


def half_edges(
    triangles: NDArray[np.int64],
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """The half-edges (3 n, 2), for each the number of its edge, and how many each edge has."""
    half = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2).astype(np.int64)
    key = half.min(axis=1) * (int(half.max()) + 1) + half.max(axis=1)
    _, edge, counts = np.unique(key, return_inverse=True, return_counts=True)
    return half, edge, counts


def _turned(links: Any, roots: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which triangles run against the root of their part: their links of 2 on the way to it are odd
    in number."""
    from scipy.sparse import bmat, coo_array
    from scipy.sparse.csgraph import breadth_first_order

    count = links.shape[0]
    above = coo_array((np.ones(len(roots)), (roots, np.zeros_like(roots))), shape=(count, 1))
    whole = bmat([[links, above], [above.T, None]]).tocsr()  # one more that leads to every root
    _, before = breadth_first_order(whole, count, directed=False)
    before = np.where(before < 0, count, before)[:count]
    odd = np.append(np.asarray(whole[np.arange(count), before]).reshape(-1) == 2, False)
    before = np.append(before, count)
    while np.any(before != count):  # each time twice as far up
        odd = odd ^ odd[before]
        before = before[before]
    return odd[:count]


def _refuse_open(mesh: Mesh, name: str) -> None:
    if mesh.is_closed():
        return
    half, edge, counts = half_edges(mesh.triangles.astype(np.int64))
    _, first = np.unique(edge, return_index=True)
    loose = first[counts != 2]
    if not len(loose):
        raise Failure(f"the surface in {name} cannot be turned to have one outside")
    where = mesh.corners[half[loose[0]]].mean(axis=0)
    place = ", ".join(f"{x:.6g}" for x in where)
    raise Failure(
        f"the surface in {name} is not closed: {len(loose):,} of its edges lack a neighbour, one "
        f"near ({place}) mm",
        "mend it in the program it comes from, and save it again",
    )
