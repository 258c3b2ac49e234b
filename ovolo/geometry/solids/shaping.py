"""Solids made from solids: hulls, halves, sections, shells; and bent ones."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import partial

import manifold3d
import numpy as np
import shapely
from msgspec.structs import replace

from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.hull import convex_hull
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.placement import IDENTITY, Matrix
from ovolo.geometry.regions.region import Region, clean, within_odd
from ovolo.geometry.same import ROUNDING, SAME_PLACE, SAME_SHARE
from ovolo.geometry.solids.booleans import combined
from ovolo.geometry.solids.forms import Stack, VolumeAlone
from ovolo.geometry.solids.primitives import box
from ovolo.geometry.solids.solid import Solid, in_space, manifold_of, nothing, shape_made
from ovolo.geometry.tolerance import CHORD_SHARE, fewest_chords, tolerance_for
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure

_MOST_TRIANGLES = 1_000_000

_MOST_PARTS = 10_000
"""Into so many an edge is divided: the kernel, which divides one within the other, is lost beyond some 40,000."""


def hull(solids: Sequence[Solid], points: Points) -> Solid:
    """The least convex solid round solids and points (n, 3)."""
    corners = [one.mesh.corners for one in solids]
    everything = np.concatenate([*corners, points.reshape(-1, 3)])
    if len(everything) < 4:
        raise Failure(f"a hull of {len(everything)} points has no volume", "4 or more")

    def make() -> manifold3d.Manifold:
        found = convex_hull(everything)
        return manifold3d.Manifold() if found is None else manifold_of(found)

    key = digest("hull", everything)
    flat = all(one.shape.flat for one in solids)
    what = "this hull (its points may lie in one plane)"
    return Solid(shape_made(key, make, what, flat=flat, made_of=solids))


def unit(vector: Points, what: str) -> Points:
    """The vector (3,) at length 1. Raises Failure for one of no length; `what` says whose it is."""
    size = float(np.linalg.norm(vector))
    if size < ROUNDING:
        raise Failure(f"{what} has no direction", "for example z")
    found: Points = vector / size
    return found


def parted(solid: Solid, normal: Points, at: Points) -> tuple[Solid, Solid]:
    """The parts of a solid on the side a direction points to, and on the other, of the plane
    through a point. Where the plane misses it, one is all of it and the other is empty."""
    first, second = _sides(solid, normal, at)
    return first(), second()


def half(solid: Solid, normal: Points, at: Points) -> Solid:
    """The first of them alone."""
    return _sides(solid, normal, at)[0]()


def _sides(
    solid: Solid, normal: Points, at: Points
) -> tuple[Callable[[], Solid], Callable[[], Solid]]:
    """The same, each made when it is asked for."""
    way = unit(normal, "the plane's direction")
    level = float(way @ at)
    low, high = extent(solid, way)
    if not low + SAME_PLACE < level < high - SAME_PLACE:
        rest = nothing(
            f"the plane lies at {level:.6g} mm, and the solid from {low:.6g} mm to {high:.6g} mm "
            "along its direction"
        )
        return (lambda: solid, lambda: rest) if level < (low + high) / 2 else (lambda: rest, lambda: solid)  # fmt: skip
    if isinstance(solid.shape.form, Stack):
        block = _half_space(solid, way, level)
        first, second = combined("&", solid, block), combined("-", solid, block)
        if isinstance(first.shape.form, Stack) and isinstance(second.shape.form, Stack):
            return lambda: first, lambda: second

    key = digest("part", solid.key, way, level)
    flat = solid.shape.flat
    whole = [(solid.shape, solid.matrix)]

    def side(name: int, towards: Points, up_to: float) -> Solid:
        def trimmed() -> manifold3d.Manifold:
            return in_space(solid).trim_by_plane(tuple(towards), up_to)

        return Solid(shape_made(f"{key}:{name}", trimmed, "this part", flat=flat, cut_out_of=whole))

    return partial(side, 0, way, level), partial(side, 1, -way, -level)


def extent(solid: Solid, way: Points) -> tuple[float, float]:
    """From where to where (mm) a solid reaches along a direction of length 1."""
    ways = np.array([-way, way])
    reach = solid.shape.reach(ways @ solid.matrix[:3, :3]) + ways @ solid.matrix[:3, 3]
    return -float(reach[0]), float(reach[1])


def _half_space(solid: Solid, way: Points, level: float) -> Solid:
    """A block that covers all of a solid beyond a plane; one of its sides runs as the solid was
    pulled, where that lies in the plane."""
    pulled = solid.matrix[:3, 2] / np.linalg.norm(solid.matrix[:3, 2])
    side = pulled - (pulled @ way) * way
    if np.linalg.norm(side) < 1e-6:
        x = solid.matrix[:3, 0]
        side = x - (x @ way) * way
    side = side / np.linalg.norm(side)
    low, high = solid.bounds()
    middle = (low + high) / 2
    size = 4 * float(np.linalg.norm(high - low)) + 1.0
    frame = IDENTITY.copy()
    origin = middle + (level - float(middle @ way)) * way
    frame[:3] = np.column_stack([side, cross_product(way, side), way, origin])
    block = box(size, size, size).placed(frame)
    assert isinstance(block, Solid)
    return block


def cut_at(solid: Solid, normal: Points, at: Points) -> Region:
    """The section of a solid in the plane through a point, square to a direction, as a region
    lying there. Its x is level where it can be. Raises Failure where the plane misses it."""
    frame = plane_frame(normal, at)
    exact = _layer_in(solid, frame)
    if exact is not None:
        return exact
    back: Matrix = np.linalg.inv(frame).astype(np.float64)
    placed = in_space(solid).transform(np.ascontiguousarray(back[:3]))
    rings = [np.asarray(ring) for ring in placed.slice(0.0).to_polygons()]
    if not rings:
        low, high = extent(solid, unit(normal, "the plane's direction"))
        raise Failure(
            f"the plane misses this solid, which lies from {low:.6g} mm to {high:.6g} mm along its "
            "direction"
        )
    flat = within_odd([shapely.Polygon(ring).buffer(0) for ring in rings])
    found = Region(clean(flat, "this section"), frame)
    if solid.shape.flat or found.is_empty:
        return found
    return replace(found, missed=min(solid.misses * found.perimeter / found.area, 1.0))


def _layer_in(solid: Solid, frame: Matrix) -> Region | None:
    """The section of an extrusion, or of layers upon each other, across them: exact; None where the
    plane lies otherwise. Where two layers meet, it is that of the upper one."""
    form = solid.shape.form
    own = np.linalg.inv(solid.matrix) @ frame
    if (
        not isinstance(form, Stack)
        or np.abs(own[2, :2]).max() > ROUNDING * np.abs(own[:3, 0]).max()
    ):
        return None
    height = own[2, 3]
    met = [one.region for one in form.layers if one.low <= height <= one.high]
    if not met or not solid.shape.exact:
        return None
    level = IDENTITY.copy()
    level[2, 3] = height
    there = met[-1].placed(np.linalg.inv(frame) @ solid.matrix @ level)
    return there.in_plan().placed(frame)


def plane_frame(normal: Points, at: Points) -> Matrix:
    """A frame in a plane: z along its direction, x level, y as far up as can be."""
    z = unit(normal, "the plane's direction")
    x = cross_product([0.0, 0.0, 1.0], z)
    x = np.array([1.0, 0.0, 0.0]) if np.linalg.norm(x) < SAME_SHARE else x / np.linalg.norm(x)
    frame = IDENTITY.copy()
    frame[:3, 0], frame[:3, 1], frame[:3, 2], frame[:3, 3] = x, cross_product(z, x), z, at
    return frame


# --- bending ---


def warped(
    solid: Solid,
    change: Callable[[Points], Points],
    longest: float,
    what: str,
    *key: object,
    volume: float | None = None,
) -> Solid:
    """A solid whose corners are moved by a rule, its edges parted first so that none is longer
    than `longest` (mm); its `volume` (mm³), where there is a formula for it."""
    mesh = solid.mesh
    span = float(np.ptp(mesh.corners, axis=0).max())
    parts = mesh.longest_edge() / max(longest, SAME_SHARE)
    if parts > _MOST_PARTS:
        raise Failure(f"{what} would divide an edge into about {parts:,.4g} parts", f"at most {_MOST_PARTS:,}: make it shorter, or bend it less")  # fmt: skip
    estimate = len(mesh.triangles) + mesh.area() / max(longest, SAME_SHARE) ** 2 * 4
    if estimate > _MOST_TRIANGLES:
        raise Failure(f"{what} would need about {estimate:,.0f} triangles", "make it smaller or bend it less")  # fmt: skip

    def make() -> manifold3d.Manifold:
        fine = in_space(solid)
        if longest < span:
            fine = fine.refine_to_length(longest)
        return fine.warp_batch(lambda corners: change(np.asarray(corners)))

    form = None if volume is None else VolumeAlone(volume)
    key_made = digest("warp", what, solid.key, longest, *key)
    return Solid(shape_made(key_made, make, what, lambda: form, before=lambda: solid.shape.missed))


def _volume_bent(solid: Solid, radius: float) -> float | None:
    """The volume once what lies z further out than a radius is longer by (radius + z) / radius: that of its centre
    counts for all (Pappus and Guldin). None where either is known by its chords only."""
    if not (solid.shape.exact and solid.shape.complete):
        return None
    return solid.volume * float(radius + solid.centroid[2]) / radius


def wrapped(solid: Solid, radius: float) -> Solid:
    """A solid bent round an upright cylinder about the origin: its x runs round the cylinder, from
    its front (-y); its y becomes the height, its z stands out from it."""
    if not radius > SAME_PLACE:
        raise Failure(f"the radius is {radius:g} mm", "it must be more than 0")
    low, high = solid.bounds()
    if low[2] < -radius + SAME_PLACE:
        raise Failure(f"it reaches {-low[2]:.6g} mm inwards, beyond the axis of the cylinder", f"at most {radius:.6g} mm")  # fmt: skip
    if high[0] - low[0] > 2 * math.pi * radius + SAME_PLACE:
        raise Failure(
            f"it is {high[0] - low[0]:.6g} mm long, and the cylinder only "
            f"{2 * math.pi * radius:.6g} mm round",
            "make it shorter, or the radius larger",
        )

    def change(corners: Points) -> Points:
        x, y, z = corners.T
        angle = x / radius
        out = radius + z
        return np.column_stack([out * np.sin(angle), -out * np.cos(angle), y])

    longest = _chord(radius + high[2], float(np.max(high - low)))
    volume = _volume_bent(solid, radius)
    return warped(solid, change, longest, "this wrapping", radius, volume=volume)


def _chord(radius: float, size: float) -> float:
    """The length of a chord of a circle along which something of a size is bent, that keeps to the tolerance."""
    missed = tolerance_for(size, share=CHORD_SHARE)
    by_tolerance = 2 * math.sqrt(max(2 * radius * missed - missed**2, SAME_PLACE**2))
    return min(by_tolerance, 1.4 * math.pi * radius / fewest_chords())


def twisted(solid: Solid, angle: float) -> Solid:
    """A solid turned about the z axis the more the higher, by `angle` (radians) over its height."""
    low, high = solid.bounds()
    height = max(float(high[2] - low[2]), SAME_SHARE)
    reach = float(np.abs(np.array([low, high])[:, :2]).max()) * math.sqrt(2)

    def change(corners: Points) -> Points:
        x, y, z = corners.T
        turn = angle * (z - low[2]) / height
        c, s = np.cos(turn), np.sin(turn)
        return np.column_stack([c * x - s * y, s * x + c * y, z])

    bend = abs(angle) / height
    longest = _straight_for(
        max(bend * bend * reach, 2 * bend), tolerance_for(reach, share=CHORD_SHARE)
    )
    volume = solid.volume if solid.shape.exact else None  # each level is turned as it is
    return warped(solid, change, longest, "this twist", angle, volume=volume)


def _straight_for(curvature: float, missed: float) -> float:
    """How long (mm) an edge may be that is bent by so much at most (1/mm) and may be missed by so much: the sagitta
    of a length is its square times the curvature / 8."""
    return math.sqrt(8 * missed / max(curvature, ROUNDING))


def bent(solid: Solid, radius: float) -> Solid:
    """A solid bent upwards along x: the line y = z = 0 becomes an arc of a radius (mm; below 0
    downwards) that begins at the origin."""
    low, high = solid.bounds()
    inner = high[2] if radius > 0 else -low[2]
    if abs(radius) <= inner + SAME_PLACE:
        raise Failure(
            f"a radius of {abs(radius):.6g} mm is less than the solid is thick towards its centre "
            f"({inner:.6g} mm)",
            f"more than {inner:.6g} mm",
        )
    if high[0] - low[0] > 2 * math.pi * abs(radius):
        raise Failure(
            f"bent to a radius of {abs(radius):.6g} mm it would go more than once round",
            f"at least {(high[0] - low[0]) / 2 / math.pi:.6g} mm",
        )

    def change(corners: Points) -> Points:
        x, y, z = corners.T
        angle = x / radius
        out = radius - z
        return np.column_stack([out * np.sin(angle), y, radius - out * np.cos(angle)])

    outer = abs(radius) + float(np.abs([low[2], high[2]]).max())
    volume = _volume_bent(solid, -radius)
    longest = _chord(outer, float(np.max(high - low)))
    return warped(solid, change, longest, "this bend", radius, volume=volume)


def _stands_upright(mesh: Mesh) -> bool:
    """Whether all faces are level or upright."""
    areas = np.abs(mesh.area_vectors())
    across = np.hypot(areas[:, 0], areas[:, 1])
    return bool(
        np.all(np.minimum(across, areas[:, 2]) <= SAME_SHARE * np.maximum(across, areas[:, 2]))
    )


def tapered(solid: Solid, share: float) -> Solid:
    """A solid drawn in towards the z axis the more the higher, to a share of its size at its top."""
    if not share > 0:
        raise Failure(f"the share at the top is {share:g}", "it must be more than 0")
    low, high = solid.bounds()
    height = max(float(high[2] - low[2]), SAME_SHARE)

    def change(corners: Points) -> Points:
        size = 1 + (share - 1) * (corners[:, 2] - low[2]) / height
        return np.column_stack([corners[:, :2] * size[:, None], corners[:, 2]])

    reach = float(np.abs([low, high])[:, :2].max()) * math.sqrt(2)
    longest = math.inf
    if not _stands_upright(solid.mesh):  # else its faces stay flat
        longest = _straight_for(abs(share - 1) / height, tolerance_for(max(reach, height)))
    return warped(solid, change, longest, "this taper", share)
