"""Shells: solids hollowed to walls of one thickness, every plane of their surface moved inwards."""

from __future__ import annotations

import math
from functools import cached_property

import manifold3d
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.bent import Missed
from ovolo.geometry.meshes.hull import convex_hull, convex_planes
from ovolo.geometry.meshes.mesh import CREASE, Mesh, neighbours
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE
from ovolo.geometry.solids.solid import Solid, in_space, manifold_of, shape_made
from ovolo.geometry.solids.walls import Planes, walls_of
from ovolo.geometry.types import Floats, Points
from ovolo.geometry.vectors import dot_product
from ovolo.problems import Failure

_SLIVER = 1e-6
"""How high (mm) a triangle is at most that is a sliver."""

_MOST_SLIVERS = 8
"""So many slivers lie along each other at most."""

_CRUMB = 0.02
"""What is thinner by this share of the walls is a crumb between their chords."""

_MANY = 3_000
"""Of a surface of more triangles a thickness that fits is told, and not the one that just does: that takes too long."""

_MOST_PAIRS = 4e7
"""So many faces that look at each other through walls may be held against each other, which takes some seconds."""

_FAR = 8.0
"""Beyond so many of its sizes a solid is far from the origin."""

_MOST_TRIES = 9
"""So often the thickest walls that fit are looked for in half of where they may be: each try may take a while."""

OPEN = {"none": (), "top": (1.0,), "bottom": (-1.0,), "both": (1.0, -1.0)}


def shell(solid: Solid, thickness: float, open_: str = "top") -> Solid:
    """A solid hollowed to walls of a thickness (mm) within its surface, open at its level top or
    bottom faces. Every plane of its surface is moved inwards; raises Failure where the inside so
    made is not sound, with the thickness that is."""
    if not thickness > SAME_PLACE:
        raise Failure(f"the thickness is {thickness:g} mm", "it must be more than 0")
    if open_ not in OPEN:
        raise Failure(f'there is no way to open a shell called "{open_}"', f"one of {', '.join(OPEN)}")  # fmt: skip

    surface = _Surface(solid, OPEN[open_])
    held = 0.0

    def make() -> manifold3d.Manifold:
        nonlocal held
        inner, held = _hollow(surface, thickness)
        if inner is None:
            fits = _thickest(surface, thickness)
            raise Failure(
                f"walls of {thickness:.6g} mm leave no sound hollow in this solid",
                f"{fits:.4g} mm fits" if fits else "its faces cannot be moved inwards at all",
            )
        return in_space(solid) - inner.translate(tuple(surface.middle))

    def before() -> Missed:
        """What was missed already by what its faces are parts of, and by what a hollow beside walls is held to."""
        found = shape.missed if shape.is_cut else Missed()
        beside = held * shape.mesh.area() / made.mesh.volume()
        return found.and_of(Missed(beside, beside, beside), 1.0)

    key = digest("shell", solid.key, thickness, open_)
    shape = solid.shape
    made = shape_made(
        key,
        make,
        "this shell",
        flat=shape.flat,
        chords=shape.chords,
        made_of=[solid],
        before=None if shape.flat else before,
    )
    return Solid(made)


def closed_ends(solid: Solid, open_: str) -> list[str]:
    """Which ends ("top", "bottom") are to be open at which no face lies level."""
    ends = zip(("top", "bottom"), OPEN["both"], strict=True)
    return [end for end, way in ends if way in OPEN[open_] and not _Surface(solid, (way,)).is_open.any()]  # fmt: skip


class _Surface(Struct, frozen=True, eq=False, dict=True):
    """The surface of a solid, to be hollowed and opened along directions of z (1 upwards, -1 downwards)."""

    solid: Solid
    ways: tuple[float, ...]

    @cached_property
    def middle(self) -> Points:
        """Where all is reckoned from, (3,): the origin, or, far from it, where fewer digits would be left of things as
        small as this, the middle of the solid."""
        low, high = self.solid.bounds()
        middle = (low + high) / 2
        return middle if np.abs(middle).max() > _FAR * (high - low).max() else np.zeros(3)

    @cached_property
    def mesh(self) -> Mesh:
        mesh = self.solid.mesh
        return Mesh(mesh.corners - self.middle, mesh.triangles) if self.middle.any() else mesh

    @cached_property
    def sizes(self) -> Floats:
        """Twice the area of each triangle, (m,)."""
        found: Floats = np.linalg.norm(self.mesh.area_vectors(), axis=1)
        return found

    @cached_property
    def normals(self) -> Points:
        """Of length 1, (m, 3); a sliver, whose own would be mere rounding, has that of what lies along its longest side."""
        found: Points = (
            self.mesh.area_vectors() / np.where(self.sizes > 0, self.sizes, 1.0)[:, None]
        )
        sides = self.mesh.corners[self.mesh.triangles]
        lengths = np.linalg.norm(np.roll(sides, -1, axis=1) - sides, axis=2)
        slivers = np.flatnonzero(self.sizes <= _SLIVER * lengths.max(axis=1))
        if not len(slivers):
            return found
        first, second, _ = neighbours(self.mesh, np.ascontiguousarray(found.T), CREASE)
        beside = np.empty(3 * len(found), dtype=np.int64)
        beside[first], beside[second] = second // 3, first // 3
        along = beside[3 * slivers + lengths[slivers].argmax(axis=1)]
        for _ in range(_MOST_SLIVERS):  # one may lie along another
            found[slivers] = found[along]
        return found

    @cached_property
    def is_open(self) -> NDArray[np.bool_]:
        """Which triangles (m,) lie in a face that is open."""
        heights = self.mesh.corners[self.mesh.triangles][:, :, 2].mean(axis=1)
        return self._opened(self.normals[:, 2], heights)

    @cached_property
    def planes(self) -> tuple[Points, Floats, NDArray[np.bool_]] | None:
        """The planes of a convex surface: their normals (k, 3), how far from the origin they lie (k,), and which are
        open; None of one that is not convex."""
        found = convex_planes(self.mesh)
        if found is None:
            return None
        normals, levels = found
        return normals, levels, self._opened(normals[:, 2], levels * normals[:, 2])

    @cached_property
    def whole(self) -> manifold3d.Manifold:
        return in_space(self.solid).translate(tuple(-self.middle))

    @cached_property
    def most(self) -> float:
        """Half of its least extent (mm), but upwards where it is open: walls as thick as that leave nothing."""
        extents = np.ptp(self.mesh.corners, axis=0) / 2
        return float(extents[: 2 if self.ways else 3].min())

    @cached_property
    def rounding(self) -> float:
        """What lies no further apart (mm) is one place: of large solids more."""
        return max(SAME_PLACE, SAME_SHARE * float(np.ptp(self.mesh.corners, axis=0).max()))

    def outside(self, margin: float) -> manifold3d.Manifold:
        """What lies round the solid, as far as a margin (mm) and more."""
        low, high = (self.mesh.corners.min(axis=0), self.mesh.corners.max(axis=0))
        size = high - low + 4 * margin
        return manifold3d.Manifold.cube(tuple(size)).translate(tuple(low - 2 * margin)) - self.whole

    def _opened(self, upwards: Floats, heights: Floats) -> NDArray[np.bool_]:
        found = np.zeros(len(upwards), dtype=bool)
        for way in self.ways:
            end = float((way * self.mesh.corners[:, 2]).max())
            found |= (upwards * way > 1 - SAME_SHARE) & (np.abs(heights * way - end) < SAME_PLACE)
        return found


def _thickest(surface: _Surface, thickness: float) -> float:
    """The thickest walls (mm) below a thickness that leave a hollow, or, of many faces, some that do; 0 if none do."""
    low, high = 0.0, min(thickness, surface.most)
    if surface.planes is not None:
        low = min(_room(*surface.planes)[0], high)
    elif len(surface.sizes) > _MANY:
        low = high / 8  # tried below
    else:
        for _ in range(_MOST_TRIES):
            middle = (low + high) / 2
            low, high = (middle, high) if _hollow(surface, middle)[0] is not None else (low, middle)
    # What is said is what was tried: the value as it is written, a little less where that must be.
    for share in (1.0, 0.999, 0.99, 0.9, 0.5):
        said = float(f"{math.floor(low * share * 1e4) / 1e4:.4g}")
        if said > 0 and _hollow(surface, said)[0] is not None:
            return said
    return 0.0


def _hollow(surface: _Surface, thickness: float) -> tuple[manifold3d.Manifold | None, float]:
    """The solid with its planes moved inwards, and those that are open moved out; and by how much (mm) it may be
    beside that. None where nothing is left of it, or not within such walls."""
    if thickness >= surface.most:
        return None, 0.0
    planes = Planes(
        surface.mesh, surface.normals, surface.sizes, _moves(surface.is_open, thickness)
    )
    made = _between_corners(surface, planes)
    if surface.planes is not None:
        is_sound = made is not None and _lacks(made, surface, thickness) is not None
        return (made if is_sound else _between_planes(*surface.planes, thickness)), 0.0
    if (len(surface.sizes) * thickness / surface.most) ** 2 > _MOST_PAIRS:
        raise Failure(f"walls of {thickness:.6g} mm along {len(surface.sizes):,} faces are too much to work out", "a larger `tolerance`, or thinner walls")  # fmt: skip
    if made is not None and _lacks(made, surface, thickness) is not None:
        return made, 0.0
    for walls in walls_of(planes, surface.is_open):
        made = _beside(walls, surface, thickness)
        lacks = 0.0 if made is None else _lacks(made, surface, thickness)
        if lacks is not None:
            return made, 2 * lacks
    return None, 0.0


def _lacks(hollow: manifold3d.Manifold, surface: _Surface, thickness: float) -> float | None:
    """By how much (mm) a hollow comes nearer to the surface than a thickness; None where that is more than chords may
    miss, or it is no hollow. (Near what is open it is taken for granted, and of a convex surface whose planes meet round
    every corner.)"""
    if hollow.status() != manifold3d.Error.NoError or (hollow ^ surface.whole).is_empty():
        return None
    if surface.planes is not None:
        is_inside = (hollow - surface.whole).volume() <= 1e-6 * hollow.volume()
        return 0.0 if surface.ways or is_inside else None
    low, high = surface.mesh.corners[:, 2].min(), surface.mesh.corners[:, 2].max()
    for way in surface.ways if surface.is_open.any() else ():
        end = high if way > 0 else -low
        hollow = hollow.trim_by_plane((0.0, 0.0, -way), thickness - end)
    if hollow.is_empty():
        return 0.0
    lacks = float(thickness - hollow.min_gap(surface.outside(thickness), thickness))
    return lacks if lacks <= max(surface.rounding, 2 * surface.solid.misses) else None


def _moves(is_open: NDArray[np.bool_], thickness: float) -> Floats:
    """How far (mm) planes move outwards."""
    return np.where(is_open, max(thickness, 1.0), -thickness)


# --- any surface ---


def _between_corners(surface: _Surface, planes: Planes) -> manifold3d.Manifold | None:
    """The hollow whose corners are where the planes round those of the solid meet. None where they meet in no one
    place, there is no wall at all, or a face turns round."""
    mesh, normals, sizes = planes.mesh, planes.normals, planes.sizes
    moves = planes.met()
    lacks = np.einsum("mki,mi->mk", moves[mesh.triangles], normals) - planes.distances[:, None]
    if np.any(np.abs(lacks[sizes > 0]) > max(surface.rounding, surface.solid.misses)):
        return None
    found = Mesh(mesh.corners + moves, mesh.triangles)
    turned = dot_product(found.area_vectors(), normals)
    if np.any(turned < -SAME_SHARE * np.maximum(sizes, 1.0)) or found.volume() <= 0:
        return None
    return manifold_of(found)


def _beside(
    walls: manifold3d.Manifold, surface: _Surface, thickness: float
) -> manifold3d.Manifold | None:
    """What walls leave of a solid, but for crumbs of rounding."""
    crumb = max(surface.rounding, min(2 * surface.solid.misses, _CRUMB * thickness))
    parts = (surface.whole - walls).decompose()
    left = [one for one in parts if one.volume() > crumb * one.surface_area()]
    if not left:
        return None
    fine = max(SAME_PLACE, surface.solid.misses / 4)
    return manifold3d.Manifold.compose(left).as_original().simplify(fine)


# --- a convex surface: what lies between its planes ---


def _between_planes(
    normals: Points, levels: Floats, is_open: NDArray[np.bool_], thickness: float
) -> manifold3d.Manifold | None:
    """The hollow of a convex surface: what all planes, moved inwards, leave between them."""
    from scipy.spatial import HalfspaceIntersection, QhullError

    room, middle = _room(normals, levels, is_open)
    if room < thickness + SAME_PLACE:
        return None
    levels = levels + _moves(is_open, thickness)
    try:
        found = HalfspaceIntersection(np.column_stack([normals, -levels]), middle)
    except QhullError:
        return None
    inner = convex_hull(found.intersections)
    return manifold_of(inner) if inner is not None else None


def _room(normals: Points, levels: Floats, is_open: NDArray[np.bool_]) -> tuple[float, Points]:
    """How far (mm) the planes of a convex surface can be moved inwards until nothing lies between them (the
    radius of the largest ball within those that are not open), and where the last of it lies (3,)."""
    from scipy.optimize import linprog

    rows = np.column_stack([normals, np.where(is_open, 0.0, 1.0)])
    found = linprog([0.0, 0.0, 0.0, -1.0], rows, levels, bounds=[(None, None)] * 3 + [(0.0, None)])
    return (0.0, np.zeros(3)) if found.x is None else (float(found.x[3]), found.x[:3])
