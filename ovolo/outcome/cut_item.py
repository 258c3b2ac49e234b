"""The items of arrays that were cut away, by the faces that they left."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.regions.region import Region
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.meaning import checked_tree
from ovolo.outcome.answers import CutItemSaid
from ovolo.outcome.array_place import is_array, lines_of_array, made_again, numbers_of
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part, construction_of
from ovolo.quantities.kinds import REGION, SOLID, innermost

_MOST_FACES = 200_000
MOST_TOLD = 2_000
_NEAR = 1e-4
"""How near a face is, as a share of the size of the item: what is drawn is known to float32."""


def cut_item_at(
    outcome: Outcome, name: str, point: Points, item: int = 0
) -> tuple[str, int] | None:
    """The line and the index of the item of an array, among what the part `name` is made of, on whose
    face the point (mm) on one of its items lies; None where there is none."""
    for array, spot in _arrays_within(outcome, _Spot(name, point[None], item)):
        for index, touches in _touched(array, spot.points):
            if touches[0]:
                return spot.line, index
    return None


class CutItem(Struct, frozen=True, eq=False):
    """What an item of an array left in a part: its number, as `skip` counts it, and the middle of its
    faces there (mm)."""

    number: int
    middle: Points

    def as_json(self) -> CutItemSaid:
        return {"number": self.number, "middle": self.middle.tolist()}


def cut_items(outcome: Outcome, name: str) -> list[CutItem]:
    """What the items of arrays left in the part `name`. Copies of one body were cut alike, so one of them
    is looked at; nothing is told of a body of very many faces, and of no more than MOST_TOLD in all."""
    if not _arrays_in(outcome, name):
        return []
    found: list[CutItem] = []
    for item, middles, onward in _bodies(outcome.parts[name]):
        cut = list(_cut_into(outcome, name, item, middles)) if len(middles) <= _MOST_FACES else []
        if len(found) + len(cut) * len(onward) > MOST_TOLD:
            return []
        found += [
            CutItem(one.number, applied(place, one.middle)) for place in onward for one in cut
        ]
    return found


def _cut_into(outcome: Outcome, name: str, item: int, middles: Points) -> Iterator[CutItem]:
    """What was left in one item of a part, whose faces have these middles. A face that an array left
    is not also that of what the array was made of."""
    free = np.ones(len(middles), dtype=bool)
    for array, spot in _arrays_within(outcome, _Spot(name, middles, item)):
        numbers = numbers_of(outcome, spot.line)
        if numbers is None or array.count > MOST_TOLD:
            continue
        for index, touches in _touched(array, spot.points):
            left = middles[touches & free]
            if len(left):
                yield CutItem(numbers[index], (left.min(axis=0) + left.max(axis=0)) / 2)
            free &= ~touches


def _bodies(part: Part) -> Iterator[tuple[int, Points, Matrix]]:
    """Of each of its different solids or regions one item, by its number: the middles of its triangles, or
    of its sides, and the placements (n, 4, 4) from there to all that are the same."""
    if part.kind != REGION:
        for group in part.groups:
            mesh = group.shape.mesh
            first: Matrix = group.matrices[0]
            middles: Points = mesh.corners[mesh.triangles].sum(axis=1) / 3
            onward = group.matrices @ np.linalg.inv(first)
            yield int(group.items[0]), applied(first, middles), onward
        return
    alike: dict[str, list[tuple[int, Region]]] = {}
    for item, region in part.indexed_regions:
        alike.setdefault(region.key, []).append((item, region))
    for (item, region), *others in alike.values():
        frames = np.array([region.frame, *(other.frame for _, other in others)])
        yield item, _sides(region), frames @ np.linalg.inv(region.frame)


def _sides(region: Region) -> Points:
    """The middles of the sides of a region, in space."""
    rings = [shapely.get_coordinates(ring) for ring in _rings(region.flat)]
    middles = np.concatenate([np.empty((0, 2)), *((ring[1:] + ring[:-1]) / 2 for ring in rings)])
    return applied(region.frame, np.column_stack([middles, np.zeros(len(middles))]))


def _rings(flat: shapely.Geometry) -> list[shapely.Geometry]:
    return list(shapely.get_rings(shapely.get_parts(flat)))


def _arrays_within(outcome: Outcome, begin: _Spot) -> Iterator[tuple[Part, _Spot]]:
    """The arrays that a part is made of, with the points as they lie there; the nearest first."""
    arrays = _arrays_in(outcome, begin.line)
    for spot in _made_of(outcome, begin) if arrays else ():
        array = _built(outcome, spot.line) if spot.line in arrays else None
        if array is not None:
            yield array, spot


def _arrays_in(outcome: Outcome, name: str) -> set[str]:
    """The lines that make arrays, of those that a part needs; not those whose items are just its own."""
    program = outcome.program
    needed = program.upstream([program.by_name[name]]) if name in program.by_name else []
    own = lines_of_array(outcome, name)
    return {one.name for one in needed if one.name and one.name not in own and is_array(outcome, one.name)}  # fmt: skip


class _Spot(Struct, frozen=True, eq=False):
    """Points (n, 3) on an item of a line, as they lie in what that line gives."""

    line: str
    points: Points
    item: int


def _made_of(outcome: Outcome, begin: _Spot) -> Iterator[_Spot]:
    """The spot in the lines that a line needs, the nearest first: what was cut and then placed was cut
    where it stood before."""
    waiting, known = [begin], {begin.line}
    for one in waiting:
        for spot in _in_needs(outcome, one):
            if spot.line not in known:
                known.add(spot.line)
                waiting.append(spot)
                yield spot


def _in_needs(outcome: Outcome, spot: _Spot) -> Iterator[_Spot]:
    line = outcome.program.by_name.get(spot.line)
    if line is None:
        return
    if line.checked is not None and line.checked.value is not None:
        yield from _within(outcome, line.checked.value, spot)
    yield from (_Spot(need, spot.points, spot.item) for need in line.needs)  # within functions


def _within(outcome: Outcome, node: checked_tree.Typed, spot: _Spot) -> Iterator[_Spot]:
    """The spot in the lines that a piece of a formula names."""
    if isinstance(node, checked_tree.Line):
        yield _Spot(node.name, spot.points, spot.item)
        return
    placed = _frame(outcome, node, spot.item) if isinstance(node, checked_tree.WordCall) else None
    for child in checked_tree.children(node):
        before = None if placed is None else _frame(outcome, child, spot.item)
        if before is None or placed is None or before.shape != placed.shape:
            yield from _within(outcome, child, spot)
            continue
        points = applied(before.matrix @ np.linalg.inv(placed.matrix), spot.points)
        yield from _within(outcome, child, _Spot(spot.line, points, before.item))


class _Frame(Struct, frozen=True, eq=False):
    """Where one item stands, and what tells it from items of another shape."""

    shape: str | bytes
    matrix: Matrix
    item: int


def _frame(outcome: Outcome, node: checked_tree.Typed, item: int) -> _Frame | None:
    """Where a piece of a formula puts one of its items, or its only one; None where it has none, and
    within a loop, where it has many."""
    kind = innermost(node.kind)
    inner = checked_tree.descendants(node)
    if kind not in (SOLID, REGION) or any(isinstance(one, checked_tree.LocalName) for one in inner):
        return None
    part = Part("", "", "", kind, made_again(outcome, node), 0)
    item = 0 if part.count == 1 else item
    for group in part.groups:
        for matrix in group.matrices[group.items == item]:
            return _Frame(group.shape.key, matrix, item)
    for at, region in part.indexed_regions:
        if at == item:
            return _Frame(region.flat.wkb, region.frame, item)
    return None


def _built(outcome: Outcome, name: str) -> Part | None:
    """The solids or regions of a line."""
    line = next((one for one in outcome.lines if one.line.name == name), None)
    part = construction_of(line) if line is not None else None
    return part if part is not None and part.kind in (SOLID, REGION) else None


def _touched(array: Part, points: Points) -> Iterator[tuple[int, NDArray[np.bool_]]]:
    """For each item of an array, on whose faces some points (n, 3) lie, or a region's straight above
    or below its rim."""
    if array.kind == REGION:
        for at, region in array.indexed_regions:
            yield at, _on_rim(region, points)
        return
    for group in array.groups:
        mesh = group.shape.mesh
        corners = np.take(mesh.corners, mesh.triangles, axis=0)
        for item, matrix in zip(group.items, group.matrices, strict=True):
            yield int(item), _on_faces(applied(matrix, corners), points)


def _on_rim(region: Region, points: Points) -> NDArray[np.bool_]:
    if region.is_empty:
        return np.zeros(len(points), dtype=bool)
    back: Matrix = np.linalg.inv(region.frame).astype(np.float64)
    local = applied(back, points)[:, :2]
    low, high = np.reshape(region.flat.bounds, (2, 2))
    near = 10 * _NEAR * max(float(np.max(high - low)), 1e-9)
    found: NDArray[np.bool_] = np.all((local > low - near) & (local < high + near), axis=1)
    found[found] = shapely.distance(region.flat.boundary, shapely.points(local[found])) < near
    return found


_AT_ONCE = 500_000


def _on_faces(triangles: Points, points: Points) -> NDArray[np.bool_]:
    """Whether each of some points (n, 3) lies within one of some triangles (m, 3, 3)."""
    low, high = triangles.min(axis=(0, 1)), triangles.max(axis=(0, 1))
    near = _NEAR * float((high - low).max())
    found: NDArray[np.bool_] = np.all((points > low - near) & (points < high + near), axis=1)
    step = max(_AT_ONCE // len(triangles), 1)
    inside = np.flatnonzero(found)
    for at in range(0, len(inside), step):
        some = inside[at : at + step]
        found[some] = _within_any(triangles, points[some], near)
    return found


def _within_any(triangles: Points, points: Points, near: float) -> NDArray[np.bool_]:
    """By barycentric coordinates (Ericson, Real-time collision detection, 2005, 3.4)."""
    a, b, c = np.moveaxis(triangles, 1, 0)
    ab, ac, ap = b - a, c - a, points[:, None] - a
    normal = cross_product(ab, ac)
    square = np.einsum("ij,ij->i", normal, normal)
    with np.errstate(all="ignore"):
        off = np.abs(np.einsum("kij,ij->ki", ap, normal)) / np.sqrt(square)
        v = np.einsum("kij,ij->ki", cross_product(ap, ac), normal) / square
        w = np.einsum("kij,ij->ki", cross_product(ab, ap), normal) / square
    slack = 1e-3
    within = (square > 0) & (off < near) & (v > -slack) & (w > -slack) & (v + w < 1 + slack)
    found: NDArray[np.bool_] = within.any(axis=1)
    return found
