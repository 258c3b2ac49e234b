"""Solids: closed shapes, each in a place. Many copies of one shape stay one shape.

A `Shape` is a mesh in its own coordinates, named by a digest of how it was made; a
`Solid` is a shape and a placement; `Copies` are one shape and n placements.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Any

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.curve import Arc, Curve, Straight
from ovolo.geometry.digest import digest
from ovolo.geometry.mesh import Drawing, Mesh, drawing_of, triangulated
from ovolo.geometry.placement import (
    IDENTITY,
    Matrix,
    applied,
    determinant,
    moved,
    scaled,
)
from ovolo.geometry.region import SMALLEST, Region, disc, rectangle
from ovolo.geometry.tolerance import CHORD_TOLERANCE, chord_tolerance, segments_for
from ovolo.problems import Failure, OneByOne

MOST_TRIANGLES = 5_000_000
Values = Any


@dataclass(frozen=True, eq=False)
class Turned:
    """What a solid of revolution is made from: outlines in the plane of x and z, the solid to
    their left, turned by `angle` (radians) about z. They are made when somebody asks."""

    draw: Callable[[], tuple[Curve, ...]]
    angle: float

    @cached_property
    def outlines(self) -> tuple[Curve, ...]:
        return self.draw()


class Shape:
    """A closed mesh in its own coordinates. Immutable; equal keys mean equal meshes."""

    def __init__(self, key: str, manifold: manifold3d.Manifold) -> None:
        self.key = key
        self.manifold = manifold
        self.prism: Region | None = None
        """The region it is the extrusion of, from z = 0 to z = 1, where it is one."""
        self.turned: Turned | None = None
        """What it is the revolution of, where it is one."""

    @cached_property
    def mesh(self) -> Mesh:
        raw = self.manifold.to_mesh64()
        corners = np.ascontiguousarray(raw.vert_properties[:, :3], dtype=np.float64)
        return Mesh(corners, np.ascontiguousarray(raw.tri_verts, dtype=np.int32))

    @cached_property
    def drawing(self) -> Drawing:
        return drawing_of(self.mesh)

    @cached_property
    def volume(self) -> float:
        return self.mesh.volume()

    @cached_property
    def area(self) -> float:
        return self.mesh.area()

    @cached_property
    def extremes(self) -> NDArray[np.float64]:
        """The corners of the convex hull (k, 3): whatever the placement, they bound the shape."""
        raw = self.manifold.hull().to_mesh64()
        return np.ascontiguousarray(raw.vert_properties[:, :3], dtype=np.float64)

    @cached_property
    def closed(self) -> bool:
        return self.mesh.is_closed() and self.volume > 0

    @property
    def triangle_count(self) -> int:
        return len(self.mesh.triangles)


@dataclass(frozen=True, eq=False)
class Solid:
    shape: Shape
    matrix: Matrix = field(default_factory=lambda: IDENTITY)

    def placed(self, matrix: Matrix) -> Solid | Copies:
        """The solid moved by one matrix (4, 4), or copied by many (n, 4, 4)."""
        together = matrix @ self.matrix
        return Solid(self.shape, together) if matrix.ndim == 2 else Copies(self.shape, together)

    @cached_property
    def key(self) -> str:
        return digest(self.shape.key, self.matrix)

    @property
    def volume(self) -> float:
        """Volume in mm³."""
        return self.shape.volume * abs(float(determinant(self.matrix)))

    @cached_property
    def mesh(self) -> Mesh:
        """The mesh in space."""
        source = self.shape.mesh
        flipped = determinant(self.matrix) < 0
        triangles = source.triangles[:, ::-1] if flipped else source.triangles
        return Mesh(applied(self.matrix, source.corners), np.ascontiguousarray(triangles))

    @property
    def centroid(self) -> NDArray[np.float64]:
        """Its centre of volume in space, (3,)."""
        return self.mesh.centroid()

    @property
    def area(self) -> float:
        """Surface area in mm²."""
        return _areas(self.shape, self.matrix[None])

    def bounds(self) -> NDArray[np.float64]:
        """The least and greatest corner, (2, 3)."""
        return _bounds(self.shape, self.matrix[None])


@dataclass(frozen=True, eq=False)
class Copies:
    """A list of n solids of one shape; `matrices` is (n, 4, 4)."""

    shape: Shape
    matrices: Matrix

    def __len__(self) -> int:
        return len(self.matrices)

    def __iter__(self) -> Iterator[Solid]:
        return (Solid(self.shape, matrix) for matrix in self.matrices)

    def __getitem__(self, index: Any) -> Solid | Copies:
        chosen = self.matrices[index]
        return Solid(self.shape, chosen) if chosen.ndim == 2 else Copies(self.shape, chosen)

    def placed(self, matrix: Matrix) -> Copies:
        """All copies moved by one matrix (4, 4), or each by its own (n, 4, 4)."""
        return Copies(self.shape, matrix @ self.matrices)

    @cached_property
    def key(self) -> str:
        return digest(self.shape.key, self.matrices)

    @property
    def volume(self) -> float:
        """The volume of all together, in mm³."""
        return self.shape.volume * float(np.abs(determinant(self.matrices)).sum())

    @property
    def area(self) -> float:
        """The surface area of all together, in mm²."""
        return _areas(self.shape, self.matrices)

    def bounds(self) -> NDArray[np.float64]:
        """The least and greatest corner of all together, (2, 3)."""
        return _bounds(self.shape, self.matrices)


_FEW = 50_000
"""So many corners are looked at one by one sooner than their hull is made."""

_AT_ONCE = 4_000_000
"""How many numbers are worked on together, to keep within memory."""


def silhouette(shape: Shape, matrix: Matrix) -> list[NDArray[np.float64]]:
    """The outline of a placed shape seen along z: its rings, (n, 2) each."""
    seen = shape.manifold.transform(matrix[:3]).project()
    return [np.asarray(ring, dtype=float) for ring in seen.to_polygons() if len(ring) > 2]


def _bounds(shape: Shape, matrices: Matrix) -> NDArray[np.float64]:
    few = len(matrices) * len(shape.mesh.corners) <= _FEW
    corners = shape.mesh.corners if few else shape.extremes
    rows = matrices[:, :3, :3].reshape(-1, 3)
    shift = matrices[:, :3, 3]
    step = max(_AT_ONCE // len(corners) // 3, 1) * 3
    low, high = np.empty(len(rows)), np.empty(len(rows))
    for at in range(0, len(rows), step):
        along = rows[at : at + step] @ corners.T
        low[at : at + step], high[at : at + step] = along.min(axis=1), along.max(axis=1)
    return np.array(
        [(low.reshape(-1, 3) + shift).min(axis=0), (high.reshape(-1, 3) + shift).max(axis=0)]
    )


def _areas(shape: Shape, matrices: Matrix) -> float:
    """Areas grow with the square of the scale where a placement keeps angles; otherwise each
    triangle's area vector is carried by the cofactors of the matrix."""
    linear = matrices[:, :3, :3]
    gram = np.einsum("nji,njk->nik", linear, linear)
    square = np.trace(gram, axis1=1, axis2=2) / 3
    uneven = np.abs(gram - square[:, None, None] * np.eye(3)).max(axis=(1, 2)) > 1e-9 * square
    total = shape.area * float(square[~uneven].sum())
    columns = linear[uneven].swapaxes(1, 2)
    cofactors = np.cross(columns[:, [1, 2, 0]], columns[:, [2, 0, 1]]).swapaxes(1, 2)
    vectors = shape.mesh.area_vectors()
    step = max(_AT_ONCE // len(vectors), 1)
    for at in range(0, len(cofactors), step):
        carried = np.einsum("nij,mj->nmi", cofactors[at : at + step], vectors)
        total += float(np.linalg.norm(carried, axis=2).sum()) / 2
    return total


_SHAPES: dict[str, Shape] = {}
_MOST_SHAPES = 4_000


def shape_made(key: str, make: Callable[[], manifold3d.Manifold], what: str) -> Shape:
    """The shape of this key, made once; refuses what is not a closed, positive solid."""
    if chord_tolerance() != CHORD_TOLERANCE:
        key = f"{key}@{chord_tolerance():g}"
    known = _SHAPES.pop(key, None)
    if known is None:
        known = Shape(key, _sound(make(), what))
    _SHAPES[key] = known
    if len(_SHAPES) > _MOST_SHAPES:
        del _SHAPES[next(iter(_SHAPES))]
    return known


def _sound(manifold: manifold3d.Manifold, what: str) -> manifold3d.Manifold:
    status = manifold.status()
    if status != manifold3d.Error.NoError:
        raise Failure(f"{what} cannot be made: {_STATUS.get(status, str(status))}", "")
    if manifold.is_empty():
        raise Failure(f"{what} leaves nothing", "an empty solid cannot be used further")
    if manifold.num_tri() > MOST_TRIANGLES:
        raise Failure(
            f"{what} has {manifold.num_tri():,} triangles; at most {MOST_TRIANGLES:,} are made",
            "make it coarser or split it",
        )
    if not manifold.volume() > 0:
        raise Failure(f"{what} encloses no volume", "check the order and the size of its outline")
    return manifold


_STATUS = {
    manifold3d.Error.NonFiniteVertex: "a corner lies at infinity",
    manifold3d.Error.NotManifold: "its surface is not closed",
}


@lru_cache(maxsize=1)
def _unit_box() -> Shape:
    def make() -> manifold3d.Manifold:
        return manifold3d.Manifold.cube((1, 1, 1)).translate((-0.5, -0.5, 0))

    shape = shape_made("box", make, "a box")
    shape.prism = rectangle(1.0, 1.0)
    return shape


def _unit_cylinder(segments: int) -> Shape:
    def make() -> manifold3d.Manifold:
        return manifold3d.Manifold.cylinder(1, 1, 1, segments)

    shape = shape_made(f"cylinder:{segments}", make, "a cylinder")
    shape.prism = shape.prism or disc(1.0)
    return shape


def _refuse_flat(**sizes: Values) -> None:
    for name, size in sizes.items():
        if np.any(np.less_equal(size, SMALLEST)):
            worst = float(np.min(size))
            raise Failure(f"{name} is {worst:g} mm", "it must be more than 0")


def box(width: Values, depth: Values, height: Values) -> Solid | Copies:
    """A box centred in plan, standing on z = 0; arrays of sizes give as many boxes."""
    _refuse_flat(width=width, depth=depth, height=height)
    factors = np.stack(np.broadcast_arrays(width, depth, height), axis=-1)
    return Solid(_unit_box()).placed(scaled(factors))


def cylinder(radius: Values, height: Values) -> Solid | Copies:
    """A cylinder centred in plan, standing on z = 0; the radius divides it to the tolerance.

    Arrays of heights give as many cylinders; arrays of radii only where all are divided alike.
    """
    _refuse_flat(radius=radius, height=height)
    counts = {segments_for(float(r)) for r in np.unique(radius)}
    if len(counts) > 1:
        raise OneByOne("radii that are divided differently are not one shape")
    factors = np.stack(np.broadcast_arrays(radius, radius, height), axis=-1)
    return Solid(_unit_cylinder(counts.pop())).placed(scaled(factors))


def cone(bottom: Values, height: Values, top: float = 0.0) -> Solid | Copies:
    """A cone centred in plan, standing on z = 0, its radius from `bottom` to `top`. Arrays only
    of pointed ones, which are divided alike."""
    _refuse_flat(height=height)
    largest = float(np.max(np.maximum(bottom, top)))
    if np.any(np.less(bottom, 0)) or top < 0 or largest <= SMALLEST:
        raise Failure(f"the radii of this cone are {np.min(bottom):g} mm and {top:g} mm", "0 or more, and one of them above 0")  # fmt: skip
    if np.ndim(bottom) or np.ndim(height):
        raise OneByOne("cones of different radii are not one shape")
    segments = segments_for(largest)
    share = (float(bottom) / largest, float(top) / largest)

    def make() -> manifold3d.Manifold:
        return manifold3d.Manifold.cylinder(1, share[0], share[1], segments)

    shape = shape_made(digest("cone", share, segments), make, "a cone")
    corners = (0.0, 0.0), (share[0], 0.0), (share[1], 1.0), (0.0, 1.0)
    shape.turned = shape.turned or Turned(lambda: (_lathe(*corners),), 2 * math.pi)
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
    """A sphere centred on the origin, divided to the tolerance."""
    _refuse_flat(radius=radius)
    # A triangle of a sphere misses it by more than a chord of its great circle does.
    counts = {4 * math.ceil(segments_for(float(r)) * 1.3 / 4) for r in np.unique(radius)}
    if len(counts) > 1:
        raise OneByOne("radii that are divided differently are not one shape")
    segments = counts.pop()

    def make() -> manifold3d.Manifold:
        return manifold3d.Manifold.sphere(1, segments)

    shape = shape_made(f"sphere:{segments}", make, "a sphere")
    shape.turned = shape.turned or Turned(lambda: (_half_circle(),), 2 * math.pi)
    factors = np.stack([np.asarray(radius, dtype=float)] * 3, axis=-1)
    return Solid(shape).placed(scaled(factors))


def extrusion(region: Region, height: Values) -> Solid | Copies:
    """The region pulled up along its normal by `height` (mm; negative: pulled down)."""
    if np.any(np.abs(height) <= SMALLEST):
        raise Failure("an extrusion of height 0 has no volume", "give it a height")

    shape = shape_made(f"extrude:{region.key}", lambda: _prism(region.rings()), "this extrusion")
    shape.prism = replace(region, frame=IDENTITY)
    rise = np.asarray(height, dtype=float)
    zero, one = np.zeros_like(rise), np.ones_like(rise)
    stretch = scaled(np.stack([one, one, np.abs(rise)], axis=-1))
    drop = moved(np.stack([zero, zero, np.minimum(rise, 0.0)], axis=-1))
    return Solid(shape).placed(region.frame @ drop @ stretch)


def _prism(rings: list[NDArray[np.float64]]) -> manifold3d.Manifold:
    """The figure within the rings between z = 0 and z = 1, its corners unaltered."""
    flat = np.concatenate(rings)
    count = len(flat)
    top = triangulated(rings)
    start = np.arange(count)
    onward = np.concatenate(
        [np.roll(ring, -1) for ring in np.split(start, np.cumsum([len(r) for r in rings])[:-1])]
    )
    sides = np.concatenate(
        [
            np.column_stack([start, onward, onward + count]),
            np.column_stack([start, onward + count, start + count]),
        ]
    )
    corners = np.column_stack([np.tile(flat, (2, 1)), np.repeat([0.0, 1.0], count)])
    triangles = np.concatenate([top[:, ::-1], sides, top + count])
    return manifold_of(Mesh(corners, triangles.astype(np.int32)))


def manifold_of(mesh: Mesh) -> manifold3d.Manifold:
    """The kernel's own object for a closed mesh; one that is inside out is turned."""
    triangles = mesh.triangles if mesh.volume() >= 0 else mesh.triangles[:, ::-1]
    corners = np.ascontiguousarray(mesh.corners)
    return manifold3d.Manifold(
        manifold3d.Mesh64(corners, np.ascontiguousarray(triangles, dtype=np.uint64))
    )


_SAID = {"+": "the union of these solids", "-": "the difference of these solids",
         "&": "the intersection of these solids"}  # fmt: skip


_OPERATIONS = {
    "+": manifold3d.OpType.Add,
    "-": manifold3d.OpType.Subtract,
    "&": manifold3d.OpType.Intersect,
}


def combined(operator: str, first: Solid, *others: Solid) -> Solid:
    """Union (+), difference (-) or intersection (&), of any number at once."""
    key = digest("boolean", operator, first.key, *(other.key for other in others))

    def make() -> manifold3d.Manifold:
        everything = [in_space(solid) for solid in (first, *others)]
        return _without_slivers(
            manifold3d.Manifold.batch_boolean(everything, _OPERATIONS[operator])
        )

    return Solid(shape_made(key, make, _SAID[operator]))


SLIVER = 1e-5
"""What is thinner (mm) and stands alone is left over by rounding where faces all but coincide."""


def _without_slivers(manifold: manifold3d.Manifold) -> manifold3d.Manifold:
    """The solid without pieces that are nothing but noise; those that touch it stay. A hollow
    within it is a piece of negative volume."""
    if manifold.is_empty():
        return manifold
    pieces = manifold.decompose()
    # A slab of area a on each side and thickness t has volume a t and surface 2 a.
    sound = [one for one in pieces if 2 * abs(one.volume()) > SLIVER * one.surface_area()]
    return manifold if len(sound) == len(pieces) else manifold3d.Manifold.compose(sound)


def in_space(solid: Solid) -> manifold3d.Manifold:
    """The kernel's own object for the solid where it stands."""
    return solid.shape.manifold.transform(np.ascontiguousarray(solid.matrix[:3]))
