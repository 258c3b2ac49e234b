"""Triangle meshes: measures, feature edges and normals for drawing."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

CREASE = math.radians(20)
"""Where neighbouring faces turn by more than this, the edge between them is drawn and shaded
as an edge. Circles have at least 24 chords (15° each), so round things look round."""

Floats = NDArray[np.float64]
Indices = NDArray[np.int32]


@dataclass(frozen=True, slots=True, eq=False)
class Mesh:
    """Corners (n, 3) in mm and triangles (m, 3) of indices, anticlockwise seen from outside."""

    corners: Floats
    triangles: Indices

    def volume(self) -> float:
        """Signed volume by the divergence theorem: the sum of a · (b x c) / 6."""
        a, b, c = (self.corners[self.triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)

    def centroid(self) -> Floats:
        """The centre of volume, (3,): tetrahedra from the origin, weighted by their volumes."""
        a, b, c = (self.corners[self.triangles[:, i]] for i in range(3))
        volumes = np.einsum("ij,ij->i", a, np.cross(b, c))
        middle: Floats = (volumes @ (a + b + c)) / (4 * volumes.sum())
        return middle

    def area(self) -> float:
        return float(np.linalg.norm(self.area_vectors(), axis=1).sum() / 2)

    def area_vectors(self) -> Floats:
        """Twice the area of each triangle as a vector along its normal, (m, 3)."""
        a, b, c = (self.corners[self.triangles[:, i]] for i in range(3))
        vectors: Floats = np.cross(b - a, c - a)
        return vectors

    def is_closed(self) -> bool:
        """Whether every edge is shared by exactly two triangles, in opposite directions."""
        if not len(self.triangles):
            return False
        edges = _directed_edges(self.triangles)
        count = len(self.corners)
        forward = np.sort(edges[:, 0] * count + edges[:, 1])
        backward = np.sort(edges[:, 1] * count + edges[:, 0])
        return bool(np.array_equal(forward, backward))


def triangulated(rings: Sequence[Floats]) -> NDArray[np.int64]:
    """The triangles (m, 3) within rings of points (n, 2), outlines anticlockwise and holes
    clockwise; their indices count through all rings."""
    found: NDArray[np.int64] = manifold3d.triangulate(list(rings)).astype(np.int64)
    return found


def _directed_edges(triangles: Indices) -> NDArray[np.int64]:
    pairs = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    return pairs.astype(np.int64)


@dataclass(frozen=True, slots=True, eq=False)
class Drawing:
    """What a renderer needs: corners split where normals differ, all as float32 / uint32.

    positions and normals (n, 3), triangles (m, 3), edges (k, 2, 3) as end points.
    """

    positions: NDArray[np.float32]
    normals: NDArray[np.float32]
    triangles: NDArray[np.uint32]
    edges: NDArray[np.float32]


def drawing_of(mesh: Mesh, crease: float = CREASE) -> Drawing:
    """The mesh with smooth normals across flat joints, and its feature edges."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    weighted = mesh.area_vectors()
    lengths = np.linalg.norm(weighted, axis=1)
    units = weighted / np.where(lengths > 0, lengths, 1.0)[:, None]
    first, second, is_edge = _neighbours(mesh, units, crease)
    edges = _edge_ends(mesh, first[is_edge])
    joined = _joined_corners(mesh, first[~is_edge], second[~is_edge])
    size = 3 * len(mesh.triangles)
    graph = coo_array((np.ones(len(joined)), (joined[:, 0], joined[:, 1])), shape=(size, size))
    count, group = connected_components(graph, directed=False)
    weights = np.repeat(units, 3, axis=0) * corner_angles(mesh)[:, None]
    sums = [np.bincount(group, axis, minlength=count) for axis in weights.T]
    normals = np.column_stack(sums).astype(np.float64)
    norms = np.linalg.norm(normals, axis=1)
    normals /= np.where(norms > 0, norms, 1.0)[:, None]
    positions = np.zeros((count, 3))
    positions[group] = mesh.corners[mesh.triangles.reshape(-1)]
    return Drawing(
        positions.astype(np.float32),
        normals.astype(np.float32),
        group.reshape(-1, 3).astype(np.uint32),
        edges.astype(np.float32),
    )


def share_missed(mesh: Mesh) -> float:
    """By what share of its volume a mesh differs from the round solid it stands for, about: where
    two faces of width w meet smoothly at an angle a along an edge, the chords enclose w² a / 24
    more for each mm of it where it juts out, and as much less where it juts in. What is put right
    so is counted with a tenth."""
    weighted = mesh.area_vectors()
    lengths = np.linalg.norm(weighted, axis=1)
    units = weighted / np.where(lengths > 0, lengths, 1.0)[:, None]
    first, second, is_edge = _neighbours(mesh, units, CREASE)
    a, b = first[~is_edge] // 3, second[~is_edge] // 3
    ends = mesh.corners[_directed_edges(mesh.triangles)[first[~is_edge]]]
    along = np.maximum(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1), 1e-300)
    turns = np.arctan2(np.linalg.norm(np.cross(units[a], units[b]), axis=1), np.sum(units[a] * units[b], axis=1))  # fmt: skip
    both = (lengths[a] + lengths[b]) / 2
    missed = both**2 / along * turns / 24
    middles = mesh.corners[mesh.triangles].mean(axis=1)
    outwards = np.sign(np.sum((middles[a] - middles[b]) * units[b], axis=1))
    total = max(abs(float(np.sum(-outwards * missed))), 0.1 * float(np.sum(missed)))
    return total / mesh.volume()


def corner_angles(mesh: Mesh) -> Floats:
    """The angle of each triangle at each of its corners (3 m,), by which normals are weighted
    (Thürmer and Wüthrich, Computing vertex normals from polygonal facets, 1998)."""
    corners = mesh.corners[mesh.triangles]
    onward = np.roll(corners, -1, axis=1) - corners
    back = np.roll(corners, 1, axis=1) - corners
    across = np.linalg.norm(np.cross(onward, back), axis=2)
    angles: Floats = np.arctan2(across, np.einsum("ijk,ijk->ij", onward, back)).reshape(-1)
    return angles


def _neighbours(
    mesh: Mesh, units: Floats, crease: float
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.bool_]]:
    """For each edge the two half-edges (3 * triangle + side) that meet there, and whether
    it is a feature edge. An edge with no partner meets itself and is one."""
    edges = _directed_edges(mesh.triangles)
    count = len(mesh.corners)
    key = edges.min(axis=1) * count + edges.max(axis=1)
    order = np.argsort(key, kind="stable")
    ordered = key[order]
    starts = np.flatnonzero(np.r_[True, ordered[1:] != ordered[:-1]])
    sizes = np.diff(np.r_[starts, len(ordered)])
    first = order[starts]
    second = order[starts + np.minimum(sizes, 2) - 1]
    turn = np.einsum("ij,ij->i", units[first // 3], units[second // 3])
    is_edge = (sizes != 2) | (turn < math.cos(crease))
    return first, second, is_edge


def _edge_ends(mesh: Mesh, half_edges: NDArray[np.int64]) -> Floats:
    ends: Floats = mesh.corners[_directed_edges(mesh.triangles)[half_edges]]
    return ends


def _joined_corners(
    mesh: Mesh, first: NDArray[np.int64], second: NDArray[np.int64]
) -> NDArray[np.int64]:
    """Pairs of triangle corners that share a normal: both ends of each smooth edge.

    The half-edges run in opposite directions, so the start of one is the end of the other.
    """
    triangle, side = np.divmod(second, 3)
    start, end = 3 * triangle + side, 3 * triangle + (side + 1) % 3
    triangle, side = np.divmod(first, 3)
    return np.concatenate(
        [
            np.stack([3 * triangle + side, end], axis=1),
            np.stack([3 * triangle + (side + 1) % 3, start], axis=1),
        ]
    )
