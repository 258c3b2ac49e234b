"""What is printed: the distinct bodies of a study, each lying as it is printed, and how many of each.

A part's clause says its role: it is printed, or it is an area where support stands or where none does.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

import manifold3d
import numpy as np
import shapely
from msgspec import Struct

from ovolo.benches.printing.printer import AS_DRAWN, LARGEST_FACE_DOWN, TOGETHER, Printer
from ovolo.geometry.meshes.hull import convex_hull
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.placement import IDENTITY, Matrix, applied, determinant
from ovolo.geometry.solids.solid import Solid, in_space, united
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.outcome.part import Part, Placed
from ovolo.problems import Failure
from ovolo.quantities.kinds import SOLID

PRINT, SUPPORT_HERE, NO_SUPPORT_HERE, LEFT_OUT = (
    "print",
    "support here",
    "no support here",
    "left out",
)
ROLES = (PRINT, SUPPORT_HERE, NO_SUPPORT_HERE, LEFT_OUT)

MOST_ITEMS = 2_000
"""So many pieces are printed at once."""

_FLAT = 1e-6
"""Directions of faces that differ by less are one."""


class Area(Struct, frozen=True, eq=False):
    """Where support stands (`here`) or where none does, beside a body as that lies."""

    manifold: manifold3d.Manifold
    here: bool


class Body(Struct, frozen=True, eq=False, dict=True):
    """A solid as it is printed: on z = 0, its least corner at the origin; mm."""

    part: str
    label: str
    manifold: manifold3d.Manifold
    count: int
    areas: tuple[Area, ...] = ()

    @cached_property
    def size(self) -> Points:
        """How far it reaches along x, y, z."""
        box = np.array(self.manifold.bounding_box())
        size: Points = box[3:] - box[:3]
        return size

    @property
    def volume(self) -> float:
        return float(self.manifold.volume())

    @cached_property
    def mesh(self) -> Mesh:
        raw = self.manifold.to_mesh64()
        corners = np.ascontiguousarray(raw.vert_properties[:, :3], dtype=np.float64)
        return Mesh(corners, np.ascontiguousarray(raw.tri_verts, dtype=np.int32))


_OF_THE_SHEET = {"": PRINT, "support": SUPPORT_HERE, "no support": NO_SUPPORT_HERE}


def _there(part: Part) -> list[Placed]:
    """The solids of a part that are not empty."""
    return [group for group in part.groups if not group.shape.is_empty]


def role_of(part: Part, roles: Mapping[str, str]) -> str:
    """What a part is on the plate: as it is said here, else as the sheet says. Raises Failure."""
    said = roles.get(part.name, _OF_THE_SHEET[part.role])
    if said not in ROLES:
        raise Failure(f"`{part.name}` cannot be `{said}` on the plate", ", ".join(ROLES))
    return said if part.kind == SOLID else LEFT_OUT


def bodies_of(parts: Sequence[Part], printer: Printer, roles: Mapping[str, str]) -> list[Body]:
    """The distinct bodies that are printed of some parts, by the printer's rule how they lie. Raises
    Failure where there is nothing to print, or too much."""
    for name in roles:
        if all(part.name != name for part in parts):
            raise Failure(f"there is no part `{name}`")
    by_role: dict[str, list[Part]] = {role: [] for role in ROLES}
    for part in parts:
        by_role[role_of(part, roles)].append(part)
    printed = by_role[PRINT]
    number = sum(len(group.matrices) for part in printed for group in _there(part))
    if not number:
        raise Failure("there is nothing to print", "a part that is a solid is printed")
    if number > MOST_ITEMS:
        raise Failure(f"{number:,} pieces are too many for a plate", f"at most {MOST_ITEMS:,}; leave parts out")  # fmt: skip
    areas = [
        Area(in_space(Solid(group.shape, matrix)), role == SUPPORT_HERE)
        for role in (SUPPORT_HERE, NO_SUPPORT_HERE)
        for part in by_role[role]
        for group in _there(part)
        for matrix in group.matrices
    ]
    shrink = 1 / printer.smaller
    if printer.lies == TOGETHER:
        return [_together(printed, areas, shrink)]
    return [body for part in printed for body in _each(part, printer, areas, shrink)]


def _together(parts: Sequence[Part], areas: list[Area], shrink: float) -> Body:
    """All as one body, as it is drawn."""
    every = [
        in_space(Solid(group.shape, matrix))
        for part in parts
        for group in _there(part)
        for matrix in group.matrices
    ]
    whole = united(every)
    label = parts[0].label or parts[0].name
    return _laid("", label if len(parts) == 1 else "All together", whole, 1, areas, IDENTITY, shrink)  # fmt: skip


def _each(part: Part, printer: Printer, areas: list[Area], shrink: float) -> list[Body]:
    """The bodies of a part: what is equal once it lies is one."""
    found: dict[tuple[object, ...], Body] = {}
    for group in _there(part):
        for matrix in group.matrices:
            solid = Solid(group.shape, matrix)
            own = [area for area in areas if _touch(area.manifold, solid)]
            # Areas stand beside one body: what has some of its own is like no other.
            key = (group.shape.key, *_alike(matrix, printer.lies), len(found) if own else -1)
            known = found.get(key)
            if known is None:
                turn = IDENTITY if printer.lies == AS_DRAWN else _face_down(solid)
                found[key] = _laid(part.name, part.label or part.name, in_space(solid), 1, own, turn, shrink)  # fmt: skip
            else:
                found[key] = Body(known.part, known.label, known.manifold, known.count + 1, known.areas)  # fmt: skip
    return list(found.values())


def _alike(matrix: Matrix, lies: str) -> tuple[object, ...]:
    """What placements have in common that give one body: lengths and hand where bodies are laid down, the
    directions too where they stand as drawn."""
    linear = matrix[:3, :3]
    if lies == LARGEST_FACE_DOWN:
        told = linear.T @ linear
        return (*np.round(told, 9).ravel().tolist(), bool(determinant(matrix) > 0))
    return tuple(np.round(linear, 9).ravel().tolist())


def _touch(area: manifold3d.Manifold, solid: Solid) -> bool:
    box, own = np.array(area.bounding_box()), solid.bounds()
    return bool(np.all(box[:3] <= own[1]) and np.all(box[3:] >= own[0]))


def _laid(
    part: str, label: str, body: manifold3d.Manifold, count: int, areas: Sequence[Area],
    turn: Matrix, shrink: float,
) -> Body:  # fmt: skip
    """A body turned, made smaller, and put on the plate with its least corner at the origin; its areas go
    with it."""
    scaled = turn.copy()
    scaled[:3] *= shrink
    body = body.transform(np.ascontiguousarray(scaled[:3]))
    least = np.array(body.bounding_box()[:3])

    def placed(one: manifold3d.Manifold) -> manifold3d.Manifold:
        return one.translate((-least).tolist())

    moved = tuple(
        Area(placed(one.manifold.transform(np.ascontiguousarray(scaled[:3]))), one.here)
        for one in areas
    )
    return Body(part, label, placed(body), count, moved)


def _face_down(solid: Solid) -> Matrix:
    """The turn (4, 4) that lays a solid on the largest of its flat faces on which it can lie; none where
    it has no such face."""
    hull = convex_hull(solid.mesh.corners) or solid.mesh
    reach = solid.mesh.corners
    vectors = solid.mesh.area_vectors() / 2
    areas = np.linalg.norm(vectors, axis=1)
    flat = areas > areas.max() * 1e-12
    normals = vectors[flat] / areas[flat, None]
    centres = reach[solid.mesh.triangles[flat, 0]]
    scale = float(np.abs(reach).max()) or 1.0
    best, chosen = 0.0, None
    for normal in _directions(hull):
        level = float((reach @ normal).max())
        there = (normals @ normal > 1 - _FLAT) & (centres @ normal > level - scale * _FLAT)
        lying = float(areas[flat][there].sum())
        # Of equal faces the one that needs the least turning: down already, else the least index.
        if lying > best * (1 + 1e-6) or (chosen is not None and lying > best * (1 - 1e-6) and normal[2] < chosen[2] - _FLAT):  # fmt: skip
            best, chosen = max(lying, best), normal
    whole = float(areas.sum())
    if chosen is None or best < whole * _LEAST_FACE:
        return IDENTITY.copy()
    down = _turned_down(chosen)
    return _squared(applied(down, reach)[:, :2]) @ down


_LEAST_FACE = 0.005
"""A face that is less of the surface is none to lie on: of a sphere's chords each is one."""


def _directions(hull: Mesh) -> Points:
    """The distinct directions of the faces of a convex body, (n, 3), the largest first."""
    vectors = hull.area_vectors() / 2
    areas = np.linalg.norm(vectors, axis=1)
    units = vectors[areas > areas.max() * 1e-9] / areas[areas > areas.max() * 1e-9, None]
    order = np.argsort(-areas[areas > areas.max() * 1e-9], kind="stable")
    _, first = np.unique(np.round(units[order], 6), axis=0, return_index=True)
    chosen: Points = units[order][np.sort(first)][:_MOST_FACES]
    return chosen


_MOST_FACES = 200
"""So many of the largest faces of the hull are tried."""


def _squared(plan: Points) -> Matrix:
    """The turn (4, 4) about z by which places (n, 2) take the least rectangle along x and y; none where that
    saves little."""
    hull = shapely.MultiPoint(plan).convex_hull
    box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(hull))[:3]
    sides = np.diff(box, axis=0)
    if len(sides) < 2 or np.prod(np.hypot(*sides.T)) > _SAVES * np.prod(np.ptp(plan, axis=0)):
        return IDENTITY.copy()
    x = sides[np.argmax(np.hypot(*sides.T))]
    x = x / np.hypot(*x)
    turn = IDENTITY.copy()
    turn[:2, :2] = [[x[0], x[1]], [-x[1], x[0]]]
    return turn


_SAVES = 0.98
"""A turn that leaves more of the rectangle than this share is not worth it."""


def _turned_down(normal: Points) -> Matrix:
    """The least turn (4, 4) that makes a direction point down (Rodrigues' formula)."""
    down = np.array([0.0, 0.0, -1.0])
    axis, cosine = cross_product(normal, down), float(normal @ down)
    turn = IDENTITY.copy()
    if cosine < -1 + 1e-12:
        turn[1, 1] = turn[2, 2] = -1.0
        return turn
    x, y, z = axis
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    turn[:3, :3] = np.eye(3) + cross + cross @ cross / (1 + cosine)
    return turn
