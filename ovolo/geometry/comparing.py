"""Solids measured against each other, and along a line."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.booleans import aligned, combined
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.shaping import unit
from ovolo.geometry.solid import Solid
from ovolo.problems import Failure


def clash(a: Solid, b: Solid) -> float:
    """The volume in mm³ that both take up."""
    return combined("&", a, b).volume


def clearance(a: Solid, b: Solid) -> float:
    """The least distance in mm between two solids; 0 where they touch or clash."""
    if clash(a, b) > 0:
        return 0.0
    bounds = np.concatenate([a.bounds(), b.bounds()])
    reach = float(np.linalg.norm(bounds.max(axis=0) - bounds.min(axis=0))) + 1.0
    _, (one, other) = aligned([a, b])
    found: float = one.min_gap(other, reach)
    return found if found >= SAME_PLACE else 0.0


def thickness(solid: Solid, point: NDArray[np.float64], way: NDArray[np.float64]) -> float:
    """How far a line through a point runs within a solid from where it first enters it. The line
    is met with every triangle (Möller and Trumbore, 1997). Raises Failure where it misses."""
    direction = unit(way, "the direction")
    mesh = solid.mesh
    a, b, c = (mesh.corners[mesh.triangles[:, k]] for k in range(3))
    reach = float(np.linalg.norm(np.ptp(mesh.corners, axis=0))) * 1e-9 + 1e-9
    across = np.cross(direction, c - a)
    size = np.sum((b - a) * across, axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        u = np.sum((point - a) * across, axis=1) / size
        other = np.cross(point - a, b - a)
        v = other @ direction / size
        t = np.sum((c - a) * other, axis=1) / size
    hit = (np.abs(size) > 1e-15) & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9)
    distances = np.unique(np.round(t[hit & (t > -reach)], 9))
    if len(distances) < 2:
        said = ", ".join(f"{x:.6g}" for x in point)
        raise Failure(
            f"a line from ({said}) mm that way does not go through the solid",
            "begin before it or on its surface",
        )
    return float(distances[1] - distances[0])
