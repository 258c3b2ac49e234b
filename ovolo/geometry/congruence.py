"""Which pieces are equal in shape and size, wherever they stand.

Two solids are taken for congruent where volume, surface, principal moments, sizes and handedness
agree to a millionth. (Moments of tetrahedra: with h the complete symmetric polynomial in the four
corners, the integral of x^n is V n! 3! / (n + 3)! h.)
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.curve import Curve
from ovolo.geometry.mesh import Mesh
from ovolo.geometry.region import Region
from ovolo.geometry.solid import Solid

Floats = NDArray[np.float64]
SAME = 1e-6


def sizes_of_solid(solid: Solid) -> Floats:
    """Length, width and thickness (3,) of the smaller of two boxes round a solid: that along its
    own axes and that along its principal axes; the longest first."""
    _, axes, middle = _principal(solid.mesh)
    along = np.ptp((solid.mesh.corners - middle) @ axes, axis=0)
    linear = solid.matrix[:3, :3]
    scales = np.linalg.norm(linear, axis=0)
    gram = linear.T @ linear
    if np.abs(gram - np.diag(np.diag(gram))).max() < 1e-9 * float(gram.max()):
        own = np.ptp(solid.shape.extremes, axis=0) * scales
        if np.prod(own) <= np.prod(along) * 1.01:  # chords of a circle are no flats
            along = own
    return np.sort(along)[::-1]


def print_of_solid(solid: Solid) -> Floats:
    """Figures (9,) that are equal for congruent solids."""
    mesh = solid.mesh
    moments, axes, middle = _principal(mesh)
    radii = np.sqrt(np.maximum(moments, 0.0) / solid.volume)
    handed = _handedness(mesh, moments, axes, middle)
    return np.array(
        [np.cbrt(solid.volume), np.sqrt(mesh.area()), *radii, *sizes_of_solid(solid), handed]
    )


def _principal(mesh: Mesh) -> tuple[Floats, Floats, Floats]:
    """The principal second moments (3,), their axes (columns, right-handed) and the centroid."""
    middle = mesh.centroid()
    a, b, c = (mesh.corners[mesh.triangles[:, i]] - middle for i in range(3))
    volumes = np.einsum("ij,ij->i", a, np.cross(b, c)) / 6
    total = a + b + c
    second = sum(np.einsum("i,ij,ik->jk", volumes, v, v) for v in (a, b, c, total)) / 20
    moments, axes = np.linalg.eigh(second)
    if np.linalg.det(axes) < 0:
        axes = axes * [1.0, 1.0, -1.0]
    return moments, axes, middle


def _handedness(mesh: Mesh, moments: Floats, axes: Floats, middle: Floats) -> float:
    """1 or -1 where the solid differs from its mirror image by its third moments, else 0."""
    if np.min(np.diff(moments)) < 1e-6 * float(moments[-1]):
        return 0.0  # axes that may be turned at will say nothing
    corners = (mesh.corners - middle) @ axes
    a, b, c = (corners[mesh.triangles[:, i]] for i in range(3))
    volumes = np.einsum("ij,ij->i", a, np.cross(b, c)) / 6
    p1, p2, p3 = (a**n + b**n + c**n for n in (1, 2, 3))
    third = volumes @ ((p1**3 + 3 * p1 * p2 + 2 * p3) / 6) / 20
    size = float(volumes.sum()) ** 2
    signs = np.where(np.abs(third) < 1e-6 * size, 0.0, np.sign(third))
    return float(np.prod(signs))


def print_of_region(region: Region) -> Floats:
    """Figures (5,) that are equal for congruent regions (or their mirror images)."""
    return np.array(
        [np.sqrt(region.area), region.perimeter, *sizes_of_region(region), len(region.rings())]
    )


def sizes_of_region(region: Region) -> Floats:
    """Length and width (2,) of the smallest rectangle round a region, the longer first."""
    frame = region.flat.minimum_rotated_rectangle
    ring = np.asarray(frame.exterior.coords)
    sides = np.linalg.norm(np.diff(ring[:3], axis=0), axis=1)
    growth = np.sqrt(np.linalg.norm(np.cross(region.frame[:3, 0], region.frame[:3, 1])))
    return np.sort(sides * growth)[::-1]


def print_of_curve(curve: Curve) -> Floats:
    """Figures (3,) that are equal for congruent curves."""
    return np.array(
        [curve.length, float(np.linalg.norm(curve.end - curve.start)), len(curve.pieces)]
    )


def classes(prints: list[Floats]) -> list[int]:
    """For each print the number of the first class it agrees with, numbered as they are met."""
    found: list[int] = []
    kept = np.empty((0, len(prints[0]) if prints else 0))
    for one in prints:
        same = np.flatnonzero(
            np.all(np.abs(kept - one) <= SAME * np.maximum(np.abs(one), 1.0), axis=1)
        )
        if not len(same):
            kept = np.vstack([kept, one])
        found.append(int(same[0]) if len(same) else len(kept) - 1)
    return found
