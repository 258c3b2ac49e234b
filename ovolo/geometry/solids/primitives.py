"""Solids made from sizes, and regions pulled straight up. Sizes of 0 make what is empty."""

from __future__ import annotations

import math
from functools import cache, lru_cache
from typing import Any

import manifold3d
import numpy as np
import shapely
from msgspec.structs import replace
from numpy.typing import NDArray

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Straight
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import Mesh, triangulated
from ovolo.geometry.placement import IDENTITY, moved, scaled
from ovolo.geometry.regions.region import Region, disc_of, rectangle
from ovolo.geometry.same import SMALLEST
from ovolo.geometry.solids.forms import Revolution, extruded
from ovolo.geometry.solids.solid import (
    Copies,
    Shape,
    Solid,
    manifold_of,
    missed_by_outlines,
    nothing,
    shape_made,
)
from ovolo.geometry.tolerance import fewest_chords, outside_of_one, segments_for
from ovolo.problems import Failure, OneByOne

Values = Any


@lru_cache(maxsize=1)
def _unit_box() -> Shape:
    def make() -> manifold3d.Manifold:
        return manifold3d.Manifold.cube((1, 1, 1)).translate((-0.5, -0.5, 0))

    return shape_made("box", make, "a box", lambda: extruded(rectangle(1.0, 1.0)), flat=True)


def _unit_cylinder(segments: int) -> Shape:
    foot = cache(lambda: disc_of(1.0, segments))  # only asked for where the shape is not known
    return shape_made(
        f"cylinder:{segments}",
        lambda: prism(foot().rings()),
        "a cylinder",
        lambda: extruded(foot()),
        chords="outside",
        in_plan=True,
        off=outside_of_one(segments),
    )


def _empty(**sizes: Values) -> str:
    """Why a shape of these sizes is empty; nothing where it is not. Refuses sizes below 0."""
    for name, size in sizes.items():
        least = float(np.min(size))
        if least < -SMALLEST:
            raise Failure(f"{name} is {least:g} mm", "it must be more than 0")
        if least <= SMALLEST:
            if np.ndim(size):
                raise OneByOne("some of these are empty")
            return f"{name} is 0 mm"
    return ""


def box(width: Values, depth: Values, height: Values) -> Solid | Copies:
    """A box centred in plan, standing on z = 0; arrays of sizes give as many boxes.

    >>> box(40.0, 30.0, 20.0).volume
    24000.0
    """
    if why := _empty(width=width, depth=depth, height=height):
        return nothing(why)
    factors = np.stack(np.broadcast_arrays(width, depth, height), axis=-1)
    return Solid(_unit_box()).placed(scaled(factors))


def cylinder(radius: Values, height: Values) -> Solid | Copies:
    """A cylinder centred in plan, standing on z = 0; the radius divides it to the tolerance.

    Arrays of heights give as many cylinders; arrays of radii only where all are divided alike.

    >>> bool(np.isclose(cylinder(10.0, 50.0).volume, np.pi * 100 * 50))
    True
    """
    if why := _empty(radius=radius, height=height):
        return nothing(why)
    counts = {segments_for(float(r)) for r in np.unique(radius)}
    if len(counts) > 1:
        raise OneByOne("radii that are divided differently are not one shape")
    factors = np.stack(np.broadcast_arrays(radius, radius, height), axis=-1)
    return Solid(_unit_cylinder(counts.pop())).placed(scaled(factors))


def cone(bottom: Values, height: Values, top: float = 0.0) -> Solid | Copies:
    """A cone centred in plan, standing on z = 0, its radius from `bottom` to `top`. Arrays only
    of pointed ones, which are divided alike.

    >>> bool(np.isclose(cone(10.0, 30.0).volume, np.pi * 100 * 30 / 3))
    True
    """
    if np.any(np.less(bottom, 0)) or top < 0:
        raise Failure(f"the radii of this cone are {np.min(bottom):g} mm and {top:g} mm", "0 or more, and one of them above 0")  # fmt: skip
    largest = float(np.max(np.maximum(bottom, top)))
    if why := _empty(height=height, radius=largest):
        return nothing(why)
    if np.ndim(bottom) or np.ndim(height):
        raise OneByOne("cones of different radii are not one shape")
    segments = segments_for(largest)
    share = (float(bottom) / largest, float(top) / largest)

    def make() -> manifold3d.Manifold:
        out = 1 / math.cos(math.pi / segments)
        made = manifold3d.Manifold.cylinder(1, share[0] * out, share[1] * out, segments)
        return made.rotate((0.0, 0.0, 180 / segments))

    corners = (0.0, 0.0), (share[0], 0.0), (share[1], 1.0), (0.0, 1.0)
    form = Revolution(lambda: (_lathe(*corners),), 2 * math.pi)
    shape = shape_made(
        digest("cone", share, segments),
        make,
        "a cone",
        lambda: form,
        chords="outside",
        in_plan=True,
        off=outside_of_one(segments),
    )
    return Solid(shape).placed(scaled(np.array([largest, largest, float(height)])))


def _lathe(*places: tuple[float, float]) -> Curve:
    """The closed line through places (x, z); none twice."""
    corners = [np.array([r, 0.0, z], dtype=float) for r, z in dict.fromkeys(places)]
    return Curve(
        tuple(Straight(a, b) for a, b in zip(corners, [*corners[1:], corners[0]], strict=True))
    )


def _half_circle() -> Curve:
    half = Arc(np.zeros(3), np.eye(3)[0], np.eye(3)[2], -math.pi / 2, math.pi)
    return Curve((half, Straight(half.end, half.start)))


def sphere(radius: Values) -> Solid | Copies:
    """A sphere centred on the origin, divided to the tolerance.

    >>> bool(np.isclose(sphere(10.0).volume, 4 / 3 * np.pi * 1000))
    True
    """
    if why := _empty(radius=radius):
        return nothing(why)
    counts = {_facets_round(float(r)) for r in np.unique(radius)}
    if len(counts) > 1:
        raise OneByOne("radii that are divided differently are not one shape")
    segments = counts.pop()

    def make() -> manifold3d.Manifold:
        # As large as the sphere: its corners stand out of it by as much as its faces lie within.
        made = manifold3d.Manifold.sphere(1, segments)
        return made.scale((float(np.cbrt(4 / 3 * math.pi / made.volume())),) * 3)

    form = Revolution(lambda: (_half_circle(),), 2 * math.pi)
    # The facets in the middle of an eighth are larger than those of a great circle.
    off = 1.6 * outside_of_one(segments)
    shape = shape_made(f"sphere:{segments}", make, "a sphere", lambda: form, chords="even", off=off)
    factors = np.stack([np.asarray(radius, dtype=float)] * 3, axis=-1)
    return Solid(shape).placed(scaled(factors))


def _facets_round(radius: float) -> int:
    """How many facets a great circle has: more than a circle to miss the sphere by no more, and
    fewer where the share counts, for the volume is right whatever their number."""
    whole = segments_for(radius)
    return 4 * math.ceil((1.3 * whole if whole > fewest_chords() else 2 * whole) / 4)


def extrusion(region: Region, height: Values) -> Solid | Copies:
    """The region pulled up along its normal by `height` (mm; negative: pulled down)."""
    if region.is_empty:
        return nothing(region.why_empty)
    if np.any(np.abs(height) <= SMALLEST):
        if np.ndim(height):
            raise OneByOne("some of these are empty")
        return nothing("height is 0 mm")
    foot = lying_flat(region)
    shape = shape_made(
        f"extrude:{region.key}",
        lambda: prism(true_rings(foot)),
        "this extrusion",
        lambda: extruded(foot),
        flat=lambda: foot.is_polygon,
        chords=foot.chords,
        uncut=(lambda: [walls_on(foot.uncut_rings())]) if foot.made_of else None,
        before=missed_by_outlines(foot),
        waits=triangles_on(foot) if foot.made_of else 0,
        in_plan=True,
    )
    rise = np.asarray(height, dtype=float)
    zero, one = np.zeros_like(rise), np.ones_like(rise)
    stretch = scaled(np.stack([one, one, np.abs(rise)], axis=-1))
    drop = moved(np.stack([zero, zero, np.minimum(rise, 0.0)], axis=-1))
    return Solid(shape).placed(region.frame @ drop @ stretch)


def lying_flat(region: Region) -> Region:
    """The figure of a region, lying where it was drawn."""
    lying = replace(region, frame=IDENTITY)
    for known in ("_outlines", "trace", "moments", "circles", "key"):
        if known in region.__dict__:
            lying.__dict__[known] = region.__dict__[known]
    return lying


def triangles_on(region: Region) -> int:
    """How many triangles bound what stands on a region, about: two of its walls and two of its ends at each corner."""
    return 4 * int(shapely.get_num_coordinates(region.flat))


def true_rings(region: Region) -> list[NDArray[np.float64]]:
    """The rings of a region; where all its outlines are straight, their corners to the last digit."""
    if not region.made_of or not region.is_polygon:
        return region.rings()
    return [np.array([piece.start[:2] for piece in curve.pieces]) for curve in region.outlines]


def prism(rings: list[NDArray[np.float64]]) -> manifold3d.Manifold:
    """The figure within the rings between z = 0 and z = 1, its corners unaltered."""
    top = triangulated(rings)
    walls = walls_on(rings)
    count = len(walls.corners) // 2
    triangles = np.concatenate([top[:, ::-1], walls.triangles, top + count])
    return manifold_of(Mesh(walls.corners, triangles.astype(np.int32)))


def walls_on(rings: list[NDArray[np.float64]], low: float = 0.0, high: float = 1.0) -> Mesh:
    """What stands on the rings between two heights, open below and above: first its lower corners, then its upper ones."""
    flat = np.concatenate([np.zeros((0, 2)), *rings])
    count = len(flat)
    start = np.arange(count)
    onward = np.concatenate(
        [np.roll(ring, -1) for ring in np.split(start, np.cumsum([len(r) for r in rings])[:-1])]
        or [start]
    )
    sides = np.concatenate(
        [
            np.column_stack([start, onward, onward + count]),
            np.column_stack([start, onward + count, start + count]),
        ]
    )
    corners = np.column_stack([np.tile(flat, (2, 1)), np.repeat([low, high], count)])
    return Mesh(corners, sides.astype(np.int32))
