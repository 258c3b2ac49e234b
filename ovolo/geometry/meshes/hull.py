"""Convex hulls of points in space, by Qhull (Barber, Dobkin and Huhdanpaa, The Quickhull algorithm for convex
hulls, ACM Transactions on Mathematical Software 22, 1996). The hull of the kernel of solids leaves out corners
here and there: of one in fifteen rounded plates with notches, by up to 6e-5 of their size."""

from __future__ import annotations

import numpy as np

from ovolo.geometry.meshes.mesh import CREASE, Mesh, neighbours, onward
from ovolo.geometry.same import LEAST, SAME_PLACE, SAME_SHARE
from ovolo.geometry.types import Floats, Points
from ovolo.geometry.vectors import dot_product


def convex_hull(points: Points) -> Mesh | None:
    """The hull of points (n, 3); its corners are some of them. None where they lie in a plane or are too few."""
    from scipy.spatial import ConvexHull, QhullError

    try:
        found = ConvexHull(points)
    except (QhullError, ValueError):
        return None
    kept = found.vertices
    number = np.empty(len(points), dtype=np.int32)
    number[kept] = np.arange(len(kept))
    corners = np.ascontiguousarray(points[kept], dtype=float)
    mesh = Mesh(corners, number[found.simplices])
    inwards = dot_product(mesh.area_vectors(), found.equations[:, :3]) < 0
    mesh.triangles[inwards] = mesh.triangles[inwards][:, ::-1]
    return mesh


def convex_planes(mesh: Mesh) -> tuple[Points, Floats] | None:
    """The planes round a closed convex mesh, each once: their normals (k, 3), of length 1 and outwards, and how far
    from the origin they lie (k,), in mm. None of a mesh that is not convex."""
    from scipy.spatial import ConvexHull, QhullError

    middle = mesh.corners.mean(axis=0)
    # Far from the origin volumes lose their last digits.
    near = Mesh(mesh.corners - middle, mesh.triangles)
    if _turns_inwards(near):
        return None
    try:
        found = ConvexHull(near.corners)
    except (QhullError, ValueError):
        return None
    if found.volume - near.volume() > SAME_SHARE * found.volume:
        return None
    normals, levels = found.equations[:, :3], -found.equations[:, 3]
    size = max(float(np.abs(near.corners).max()), LEAST)
    rounded = np.column_stack([normals, levels / size]).round(8)
    _, first = np.unique(rounded, axis=0, return_index=True)
    return normals[first], levels[first] + normals[first] @ middle


def _turns_inwards(mesh: Mesh) -> bool:
    """Whether the third corner of a triangle stands out of the plane of one beside it."""
    areas = mesh.area_vectors()
    sizes = np.linalg.norm(areas, axis=1)
    normals = areas / np.maximum(sizes, LEAST)[:, None]
    first, second, _ = neighbours(mesh, np.ascontiguousarray(normals.T), CREASE)
    third = mesh.triangles.reshape(-1)[onward(onward(second))]
    own = mesh.triangles.reshape(-1)[first]
    rises = dot_product(mesh.corners[third] - mesh.corners[own], normals[first // 3])
    size = float(np.abs(mesh.corners).max(initial=0.0))
    is_sure = sizes[first // 3] > SAME_SHARE * size**2  # the plane of a sliver is mere rounding
    return bool(np.any(rises[is_sure] > SAME_PLACE * size))
