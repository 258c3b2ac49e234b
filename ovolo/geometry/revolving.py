"""Solids of revolution."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.digest import digest
from ovolo.geometry.placement import applied
from ovolo.geometry.region import SMALLEST, Region
from ovolo.geometry.solid import Solid, shape_made
from ovolo.geometry.tolerance import segments_for
from ovolo.problems import Failure

_TURN = 2 * math.pi


def revolution(region: Region, angle: float = _TURN) -> Solid:
    """A region turned about the z axis by an angle (radians). Drawn in plan, its x is the distance
    from the axis and its y the height; set upright in the front plane, its x and z are. Raises
    Failure where it crosses the axis, or lies in another plane."""
    if not 1e-9 < abs(angle) <= _TURN + 1e-9:
        raise Failure(
            f"a revolution by {math.degrees(angle):.6g}° is none", "more than 0°, at most 360°"
        )
    profile = [_profile(region, ring) for ring in region.rings()]
    flat = np.concatenate(profile)
    worst = float(flat[:, 0].min())
    if worst < -SMALLEST:
        raise Failure(
            f"the outline crosses the axis: it reaches to x = {worst:.6g} mm",
            "keep it at x >= 0, or cut it off there",
        )
    reach = float(flat[:, 0].max())
    whole = segments_for(reach)
    key = digest("revolve", np.round(flat, 9), [len(one) for one in profile], angle)

    def make() -> manifold3d.Manifold:
        outline = manifold3d.CrossSection(profile)
        share = abs(angle) / _TURN
        made = outline.revolve(max(math.ceil(whole * share - 1e-9), 3) if share < 1 else whole, math.degrees(abs(angle)))  # fmt: skip
        return made.rotate((0.0, 0.0, math.degrees(angle))) if angle < 0 else made

    return Solid(shape_made(key, make, "this revolution"))


def _profile(region: Region, ring: NDArray[np.float64]) -> NDArray[np.float64]:
    """A ring (n, 2) as distance from the axis and height."""
    placed = applied(region.frame, np.column_stack([ring, np.zeros(len(ring))]))
    x, y, z = placed.T
    if np.abs(z).max() <= SMALLEST:
        found = np.column_stack([x, y])
    elif np.abs(y).max() <= SMALLEST:
        found = np.column_stack([x, z])
    else:
        raise Failure(
            "what is revolved is drawn in plan at z = 0, or upright in the front plane at y = 0",
            'leave it where it is drawn, or set it up with .on("front")',
        )
    found[np.abs(found[:, 0]) < SMALLEST, 0] = 0.0
    return found
