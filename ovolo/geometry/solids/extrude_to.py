"""Extrusions up to another solid."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.digest import digest
from ovolo.geometry.placement import Matrix
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.solids.primitives import extrusion
from ovolo.geometry.solids.solid import Copies, Solid, in_space, nothing, shape_made, united
from ovolo.geometry.surfaces.surface import Surface, thickened
from ovolo.problems import Failure

_BEYOND = 0.01
"""How thick a surface is made to be reached, and how far beyond what is reached is pulled: a share of its size."""


def _backed(surface: Surface, way: NDArray[np.float64]) -> Solid:
    """A surface given a body on its far side, seen along a direction."""
    away = float(np.mean(surface.normals([0.3, 0.5, 0.7], [0.5, 0.5, 0.5]) @ way))
    size = float(np.ptp(surface.bounds(), axis=0).max())
    return thickened(surface, math.copysign(_BEYOND * size, away or 1.0))


def extruded_up_to(region: Region, target: Solid | Surface) -> Solid:
    """A region pulled along its normal until it meets a solid or a surface everywhere. Raises
    Failure where that lies behind it, touches it, or does not cover it."""
    if region.is_empty:
        return nothing(region.why_empty)
    if isinstance(target, Surface):
        target = _backed(target, region.frame[:3, 2])
    if target.is_empty:
        raise Failure(f"the solid to reach is empty: {target.why_empty}", "guard it with `if`")
    back: Matrix = np.linalg.inv(region.frame).astype(np.float64)
    ahead = target.mesh.corners @ back[2, :3] + back[2, 3]
    low, high = float(ahead.min()), float(ahead.max())
    if high <= SAME_PLACE:
        raise Failure("the solid to reach lies behind the region", "the region is pulled along its normal")  # fmt: skip
    if low < -SAME_PLACE:
        raise Failure(
            f"the solid to reach begins {-low:.6g} mm behind the region", "keep it in front"
        )
    beyond = _BEYOND * max(float(np.ptp(target.bounds(), axis=0).max()), high)
    tall = extrusion(region, high + beyond)
    assert not isinstance(tall, Copies)

    def make() -> manifold3d.Manifold:
        rest = (in_space(tall) - in_space(target)).decompose()
        local = np.ascontiguousarray(back[:3])
        kept = []
        for piece in rest:
            bounds = piece.transform(local).bounding_box()
            if bounds[2] > SAME_PLACE:
                continue  # what lies beyond
            if bounds[5] > high + beyond / 2:
                raise Failure(
                    "the solid to reach does not cover the whole region",
                    "make the region smaller, or that solid larger",
                )
            kept.append(piece)
        return united(kept)

    key = digest("up to", tall.key, target.key)
    flat = tall.shape.flat and target.shape.flat
    return Solid(shape_made(key, make, "this extrusion", flat=flat, made_of=[tall, target]))
