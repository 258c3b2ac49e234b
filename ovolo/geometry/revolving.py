"""Solids of revolution."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.curve import Curve
from ovolo.geometry.digest import digest
from ovolo.geometry.placement import applied
from ovolo.geometry.region import SMALLEST, Region
from ovolo.geometry.solid import Solid, Turned, shape_made
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

    shape = shape_made(key, make, "this revolution")
    shape.turned = shape.turned or Turned(lambda: _outlines(region), angle)
    return Solid(shape)


def _outlines(region: Region) -> tuple[Curve, ...]:
    """The exact outlines in the plane of x (the distance from the axis) and z (the height), what
    they enclose to their left."""
    curves = region.curves()
    depth = max(float(np.abs(curve.bounds()[:, 2]).max()) for curve in curves)
    if depth <= SMALLEST:
        upright = np.eye(4)[[0, 2, 1, 3]]
        curves = [curve.placed(upright) for curve in curves]
    x, y = region.frame[:3, 0], region.frame[:3, 1]
    across = float(np.cross(x, y)[2 if depth <= SMALLEST else 1])
    turned_over = across < 0 if depth <= SMALLEST else across > 0
    return tuple(curve.reversed() if turned_over else curve for curve in curves)


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
