"""Solids of revolution."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import triangulated
from ovolo.geometry.meshes.skin import skinned
from ovolo.geometry.placement import applied
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import SAME_SHARE, SMALLEST
from ovolo.geometry.solids.forms import Revolution
from ovolo.geometry.solids.solid import Solid, manifold_of, missed_by_outlines, nothing, shape_made
from ovolo.geometry.tolerance import segments_for
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure

_TURN = 2 * math.pi


def revolution(region: Region, angle: float = _TURN) -> Solid:
    """A region turned about the z axis by an angle (radians). Drawn in plan, its x is the distance
    from the axis and its y the height; set upright in the front plane, its x and z are. Raises
    Failure where it crosses the axis, or lies in another plane.

    >>> from ovolo.geometry.placement import moved
    >>> from ovolo.geometry.regions.region import disc
    >>> ring = revolution(disc(5.0).placed(moved(np.array([20.0, 0.0, 0.0]))))
    >>> math.isclose(ring.volume, 2 * math.pi**2 * 20 * 25)
    True
    """
    if not SAME_SHARE < abs(angle) <= _TURN + SAME_SHARE:
        raise Failure(
            f"a revolution by {math.degrees(angle):.6g}° is none", "more than 0°, at most 360°"
        )
    if region.is_empty:
        return nothing(region.why_empty)
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
    key = digest("revolve", region.key, np.round(region.frame, 9), angle)
    count = max(math.ceil(whole * abs(angle) / _TURN - SAME_SHARE), 3)

    def make() -> manifold3d.Manifold:
        return _lathe_turned(profile, angle, count)

    form = Revolution(lambda: _outlines(region), angle, region)
    return Solid(
        shape_made(
            key,
            make,
            "this revolution",
            lambda: form,
            chords=region.chords,
            before=missed_by_outlines(region),
        )
    )


def _lathe_turned(
    profile: list[NDArray[np.float64]], angle: float, count: int
) -> manifold3d.Manifold:
    """Rings of distances and heights turned in so many steps: between two places at which its
    faces touch the round ones stands a corner of each."""
    flat = np.concatenate(profile)
    around = np.abs(abs(angle) - _TURN) < SAME_SHARE
    steps = (np.arange(count) + 0.5) / count
    sizes = np.full(count, 1 / math.cos(angle / count / 2))
    if not around:
        steps, sizes = np.concatenate([[0.0], steps, [1.0]]), np.concatenate([[1.0], sizes, [1.0]])
    out = flat[:, 0] * sizes[:, None]
    c, s = (f(steps * angle)[:, None] for f in (np.cos, np.sin))
    rings = np.stack([out * c, out * s, np.broadcast_to(flat[:, 1], out.shape)], axis=2)
    cap = None if around else triangulated(profile)
    return manifold_of(skinned(rings, [len(ring) for ring in profile], cap, cap).inside_out())


def _outlines(region: Region) -> tuple[Curve, ...]:
    """The exact outlines in the plane of x (the distance from the axis) and z (the height), what
    they enclose to their left."""
    curves = region.curves()
    depth = max(float(np.abs(curve.bounds()[:, 2]).max()) for curve in curves)
    if depth <= SMALLEST:
        upright = np.eye(4)[[0, 2, 1, 3]]
        curves = [curve.placed(upright) for curve in curves]
    x, y = region.frame[:3, 0], region.frame[:3, 1]
    across = float(cross_product(x, y)[2 if depth <= SMALLEST else 1])
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
