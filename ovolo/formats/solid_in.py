"""Reading STL and 3MF as solids, mended where that is safe, with a report of what was mended."""

from __future__ import annotations

import hashlib
import re
from pathlib import PurePath

import numpy as np
from numpy.typing import NDArray

from ovolo.formats.threemf import meshes_of_3mf
from ovolo.geometry.cast import Cast
from ovolo.geometry.mesh import Mesh
from ovolo.geometry.solid import Solid, manifold_of, shape_made
from ovolo.problems import Failure

MOST_BYTES = 20_000_000
MOST_TRIANGLES = 1_000_000
_SAME = 1e-5
"""Corners nearer than this, in mm, are one."""


def read_solid(data: bytes, name: str) -> Cast:
    """The solid of a file, in mm. Raises Failure for what is none, and where it is not closed."""
    if len(data) > MOST_BYTES:
        raise Failure(f"{name} has {len(data):,} bytes; at most {MOST_BYTES:,} are read")
    is_stl = PurePath(name).suffix.lower() == ".stl"
    meshes = [_mesh_of_stl(data, name)] if is_stl else meshes_of_3mf(data, name)
    count = sum(len(mesh.triangles) for mesh in meshes)
    if not count:
        raise Failure(f"there are no triangles in {name}")
    if count > MOST_TRIANGLES:
        raise Failure(
            f"{name} has {count:,} triangles; at most {MOST_TRIANGLES:,} are read",
            "make it coarser",
        )
    report: list[str] = []
    mended = [_mended(mesh, name, report) for mesh in meshes]
    digest = hashlib.blake2b(data, digest_size=12).hexdigest()
    return Cast(name, _united(mended, digest), digest, tuple(report), count)


def _united(meshes: list[Mesh], digest: str) -> Solid:
    import manifold3d

    def make() -> manifold3d.Manifold:
        parts = [manifold_of(mesh) for mesh in meshes]
        if len(parts) == 1:
            return parts[0]
        return manifold3d.Manifold.batch_boolean(parts, manifold3d.OpType.Add)

    return Solid(shape_made(f"file:{digest}", make, "the solid in this file", flat=True))


# --- STL ---

_TRIANGLE = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
_VERTEX = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)")


def _mesh_of_stl(data: bytes, name: str) -> Mesh:
    count = int.from_bytes(data[80:84], "little") if len(data) >= 84 else -1
    if count >= 0 and len(data) == 84 + 50 * count:
        corners = np.frombuffer(data, dtype=_TRIANGLE, offset=84)["corners"].reshape(-1, 3)
    elif data.lstrip()[:5].lower() == b"solid":
        try:
            corners = np.array(_VERTEX.findall(data), dtype=float).reshape(-1, 3)
        except ValueError:
            raise Failure(f"a corner in {name} is no number") from None
        if len(corners) % 3:
            raise Failure(f"{name} ends within a triangle")
    else:
        raise Failure(
            f"{name} is no STL file",
            f"a binary one of {max(count, 0):,} triangles has {84 + 50 * max(count, 0):,} bytes; this has {len(data):,}",
        )
    if not np.all(np.isfinite(corners)):
        raise Failure(f"a corner in {name} is not finite")
    triangles = np.arange(len(corners), dtype=np.int32).reshape(-1, 3)
    return Mesh(corners.astype(np.float64), triangles)


# --- mending ---


def _mended(mesh: Mesh, name: str, report: list[str]) -> Mesh:
    """Corners that coincide made one; triangles without area and doubles dropped; triangles turned
    so that neighbours agree and the outside is outside."""
    scale = max(float(np.abs(mesh.corners).max()), 1.0)
    step = max(_SAME, scale * 1e-7)
    cells = np.round(mesh.corners / step).astype(np.int64)
    _, first, which = np.unique(cells, axis=0, return_index=True, return_inverse=True)
    corners, triangles = mesh.corners[first], which[mesh.triangles]
    a, b, c = triangles.T
    kept = triangles[(a != b) & (b != c) & (c != a)]
    if len(kept) < len(triangles):
        report.append(f"{len(triangles) - len(kept)} triangles without area dropped")
    ordered = np.sort(kept, axis=1)
    _, once = np.unique(ordered, axis=0, return_index=True)
    if len(once) < len(kept):
        report.append(f"{len(kept) - len(once)} doubled triangles dropped")
    kept = kept[np.sort(once)]
    kept, turned = _agreeing(kept)
    if turned:
        report.append(f"{turned} triangles turned round")
    found = Mesh(corners, np.ascontiguousarray(kept, dtype=np.int32))
    _refuse_open(found, name)
    if found.volume() < 0:
        report.append("turned inside out")
        found = Mesh(found.corners, np.ascontiguousarray(found.triangles[:, ::-1]))
    return found


def _agreeing(triangles: NDArray[np.int64]) -> tuple[NDArray[np.int64], int]:
    """Triangles turned so that each edge is run along in both directions, where that can be."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import breadth_first_order, connected_components

    half = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    key = np.sort(half, axis=1)
    _, edge, counts = np.unique(key, axis=0, return_inverse=True, return_counts=True)
    order = np.argsort(edge, kind="stable")
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]])[counts == 2]
    p, q = order[starts], order[starts + 1]
    same = half[p, 0] == half[q, 0]
    if not same.any():
        return triangles, 0
    count = len(triangles)
    links = coo_array((np.where(same, 2, 1), (p // 3, q // 3)), shape=(count, count)).tocsr()
    links = links + links.T
    turned = np.zeros(count, dtype=bool)
    parts, label = connected_components(links, directed=False)
    for part in range(parts):
        root = int(np.argmax(label == part))
        reached, before = breadth_first_order(links, root, directed=False)
        for triangle in reached[1:]:
            source = before[triangle]
            turned[triangle] = turned[source] ^ bool(links[source, triangle] == 2)
        members = label == part
        if turned[members].sum() * 2 > members.sum():  # turn the few, not the many
            turned[members] = ~turned[members]
    found = triangles.copy()
    found[turned] = found[turned][:, ::-1]
    return found, int(turned.sum())


def _refuse_open(mesh: Mesh, name: str) -> None:
    if mesh.is_closed():
        return
    half = mesh.triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    _, first, counts = np.unique(np.sort(half, axis=1), axis=0, return_index=True, return_counts=True)  # fmt: skip
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
