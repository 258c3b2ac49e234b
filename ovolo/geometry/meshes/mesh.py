"""Triangle meshes: measures, feature edges and normals for drawing."""

from __future__ import annotations

import math
from collections.abc import Sequence

import manifold3d
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.types import Floats, Points
from ovolo.geometry.vectors import cross_product

CREASE = math.radians(20)
"""Where neighbouring faces turn by more than this, the edge between them is drawn and shaded
as an edge. Circles have at least 24 chords (15° each), so round things look round."""

Indices = NDArray[np.int32]


class Mesh(Struct, frozen=True, eq=False):
    """Corners (n, 3) in mm and triangles (m, 3) of indices, anticlockwise seen from outside."""

    corners: Floats
    triangles: Indices

    def volume(self) -> float:
        """Signed volume by the divergence theorem: the sum of a · (b x c) / 6."""
        corners = np.ascontiguousarray(self.corners.T)
        a, b, c = (corners[:, self.triangles[:, i]] for i in range(3))
        return float(_dots(a, _cross(b, c)).sum() / 6)

    def centroid(self) -> Floats:
        """The centre of volume, (3,): tetrahedra from the origin, weighted by their volumes."""
        a, b, c = (self.corners[self.triangles[:, i]] for i in range(3))
        volumes = np.einsum("ij,ij->i", a, cross_product(b, c))
        middle: Floats = (volumes @ (a + b + c)) / (4 * volumes.sum())
        return middle

    def longest_edge(self) -> float:
        """In mm; 0 of an empty mesh."""
        corners = self.corners[self.triangles]
        sides = corners - np.roll(corners, 1, axis=1)
        return float(np.sqrt((sides**2).sum(axis=2).max(initial=0.0)))

    def area(self) -> float:
        return float(np.linalg.norm(self.area_vectors(), axis=1).sum() / 2)

    def area_vectors(self) -> Floats:
        """Twice the area of each triangle as a vector along its normal, (m, 3)."""
        sides = _sides(self)
        return np.ascontiguousarray(_cross(sides[0], -sides[2]).T)

    def inside_out(self) -> Mesh:
        """The mesh with its outside inside."""
        return Mesh(self.corners, self.triangles[:, ::-1])

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


class Drawing(Struct, frozen=True, eq=False):
    """What a renderer needs: corners split where normals differ, all as float32 / uint32.

    positions and normals (n, 3), triangles (m, 3), edges (k, 2, 3) as end points.
    """

    positions: NDArray[np.float32]
    normals: NDArray[np.float32]
    triangles: NDArray[np.uint32]
    edges: NDArray[np.float32]


def drawing_of(mesh: Mesh, crease: float = CREASE) -> Drawing:
    """The mesh with smooth normals across flat joints, and its feature edges."""
    triangles = mesh.triangles
    sides = _sides(mesh)
    across = _cross(sides[0], -sides[2])
    sizes = np.sqrt(_dots(across, across))
    units = across / np.where(sizes > 0, sizes, 1.0)
    angles = _angles(sides, sizes)
    first, second, is_edge = neighbours(mesh, units, crease)
    group, count = _groups(mesh, first, second, is_edge)
    sums = [np.bincount(group, np.repeat(axis, 3) * angles, minlength=count) for axis in units]
    normals: Floats = np.column_stack(sums)
    norms = np.sqrt(np.einsum("ij,ij->i", normals, normals))
    normals = normals / np.where(norms > 0, norms, 1.0)[:, None]
    positions = np.zeros((count, 3), dtype=np.float32)
    positions[group] = mesh.corners[triangles.reshape(-1)]
    return Drawing(
        positions,
        normals.astype(np.float32),
        group.reshape(-1, 3).astype(np.uint32),
        _edge_ends(mesh, first[is_edge]).astype(np.float32),
    )


def _sides(mesh: Mesh) -> tuple[Floats, Floats, Floats]:
    """The sides of the triangles as columns (3, m), from each corner to the next."""
    corners = np.ascontiguousarray(mesh.corners.T)
    a, b, c = (corners[:, mesh.triangles[:, side]] for side in range(3))
    return b - a, c - b, a - c


def _angles(sides: tuple[Floats, Floats, Floats], spans: Floats) -> Floats:
    """The angles (3 m,) at the corners: the sides that meet there span twice the triangle's area."""
    found = [np.arctan2(spans, -_dots(sides[at], sides[at - 1])) for at in range(3)]
    return np.stack(found, axis=1).reshape(-1)


def corner_angles(mesh: Mesh) -> Floats:
    """The angle of each triangle at each of its corners (3 m,), by which normals are weighted
    (Thürmer and Wüthrich, Computing vertex normals from polygonal facets, 1998)."""
    sides = _sides(mesh)
    across = _cross(sides[0], -sides[2])
    return _angles(sides, np.sqrt(_dots(across, across)))


def sharp_corners(mesh: Mesh, least: float = 1e-7) -> Points:
    """The corners (k, 3) about which the faces make more or less than a whole turn, by `least` radians: those
    that lie within flat faces or along straight edges are left out."""
    angles = np.bincount(mesh.triangles.reshape(-1), corner_angles(mesh), len(mesh.corners))
    return np.ascontiguousarray(mesh.corners[np.abs(angles - 2 * math.pi) > least])


def _cross(a: Floats, b: Floats) -> Floats:
    """The vector products of columns (3, m)."""
    found: Floats = np.stack([a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]])  # fmt: skip
    return found


def _dots(a: Floats, b: Floats) -> Floats:
    """The products of columns (3, m)."""
    found: Floats = a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
    return found


def _groups(
    mesh: Mesh, first: NDArray[np.int64], second: NDArray[np.int64], is_edge: NDArray[np.bool_]
) -> tuple[NDArray[np.int64], int]:
    """For each corner of a triangle (3 m,) which corner of the drawing it is, and how many there
    are: around a corner of the mesh all those are one that no feature edge parts.

    A half-edge stands for the corner it starts from; across the one before it lies the next corner
    around the same place."""
    at = mesh.triangles.reshape(-1).astype(np.int64)
    across = np.full(len(at), -1)
    across[first[~is_edge]], across[second[~is_edge]] = second[~is_edge], first[~is_edge]
    creased = np.zeros(len(mesh.corners), dtype=bool)
    creased[at[first[is_edge]]] = creased[at[onward(first[is_edge])]] = True
    parted = np.flatnonzero(creased[at])
    beside = across[onward(onward(parted))]
    last = np.arange(len(at))
    last[parted] = np.where(beside >= 0, beside, parted)
    for _ in range(_MOST_DOUBLINGS):  # each time twice as far, up to a feature edge
        further = last[last[parted]]
        if np.array_equal(further, last[parted]):
            break
        last[parted] = further
    used = np.zeros(len(mesh.corners), dtype=bool)
    used[at[~creased[at]]] = True
    group = (np.cumsum(used) - 1)[at]
    ends = np.zeros(len(at), dtype=bool)
    ends[last[parted]] = True
    smooth = int(used.sum())
    group[parted] = smooth - 1 + np.cumsum(ends)[last[parted]]
    return group, smooth + int(ends.sum())


_MOST_DOUBLINGS = 24


def onward(half_edges: NDArray[np.int64]) -> NDArray[np.int64]:
    """The corner of its triangle at which a half-edge ends."""
    return half_edges - half_edges % 3 + (half_edges + 1) % 3


def neighbours(
    mesh: Mesh, units: Floats, crease: float
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.bool_]]:
    """For each edge the two half-edges (3 * triangle + side) that meet there, and whether
    it is a feature edge. An edge with no partner meets itself and is one."""
    edges = _directed_edges(mesh.triangles)
    count = len(mesh.corners)
    start, end = edges[:, 0], edges[:, 1]
    key = np.minimum(start, end) * count + np.maximum(start, end)
    order = np.argsort(key)
    ordered = key[order]
    begins = np.ones(len(ordered), dtype=bool)
    begins[1:] = ordered[1:] != ordered[:-1]
    starts = np.flatnonzero(begins)
    sizes = np.diff(np.r_[starts, len(ordered)])
    first = order[starts]
    second = order[starts + np.minimum(sizes, 2) - 1]
    turn = _dots(units[:, first // 3], units[:, second // 3])
    is_edge = (sizes != 2) | (turn < math.cos(crease))
    return first, second, is_edge


def _edge_ends(mesh: Mesh, half_edges: NDArray[np.int64]) -> Floats:
    ends: Floats = mesh.corners[_directed_edges(mesh.triangles)[half_edges]]
    return ends
