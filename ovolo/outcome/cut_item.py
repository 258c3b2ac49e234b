"""The item of an array that was cut away where a point lies on the face that it left."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely

from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.types import Points
from ovolo.meaning import checked_tree
from ovolo.outcome.array_place import is_array, made_again
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part, construction_of
from ovolo.quantities.kinds import REGION, SOLID, innermost

_NEAR = 1e-4
"""How near a face is, as a share of the size of the item: what is drawn is known to float32."""


def cut_item_at(
    outcome: Outcome, name: str, point: Points, item: int = 0
) -> tuple[str, int] | None:
    """The line and the index of the item of an array, among what the part `name` is made of, on whose
    face the point (mm) on one of its items lies; None where there is none."""
    program = outcome.program
    needed = program.upstream([program.by_name[name]]) if name in program.by_name else []
    arrays = {one.name for one in needed if one.name and one.name != name and is_array(outcome, one.name)}  # fmt: skip
    if not arrays:
        return None
    for spot in _made_of(outcome, _Spot(name, point, item)):
        array = _built(outcome, spot.line) if spot.line in arrays else None
        index = _item_at(array, spot.point) if array is not None else None
        if index is not None:
            return spot.line, index
    return None


@dataclass(frozen=True, slots=True, eq=False)
class _Spot:
    """A point on an item of a line, as it lies in what that line gives."""

    line: str
    point: Points
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
    yield from (_Spot(need, spot.point, spot.item) for need in line.needs)  # within functions


def _within(outcome: Outcome, node: checked_tree.Typed, spot: _Spot) -> Iterator[_Spot]:
    """The spot in the lines that a piece of a formula names."""
    if isinstance(node, checked_tree.Line):
        yield _Spot(node.name, spot.point, spot.item)
        return
    placed = _frame(outcome, node, spot.item) if isinstance(node, checked_tree.WordCall) else None
    for child in checked_tree.children(node):
        before = None if placed is None else _frame(outcome, child, spot.item)
        if before is None or placed is None or before.shape != placed.shape:
            yield from _within(outcome, child, spot)
            continue
        point = applied(before.matrix @ np.linalg.inv(placed.matrix), spot.point)
        yield from _within(outcome, child, _Spot(spot.line, point, before.item))


@dataclass(frozen=True, slots=True, eq=False)
class _Frame:
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


def _item_at(array: Part, point: Points) -> int | None:
    if array.kind == REGION:
        return next(
            (at for at, one in enumerate(array.regions) if _on_rim(one.flat, one.frame, point)),
            None,
        )
    for group in array.groups:
        corners = group.shape.mesh.corners[group.shape.mesh.triangles]
        size = float(np.ptp(corners.reshape(-1, 3), axis=0).max())
        for item, matrix in zip(group.items, group.matrices, strict=True):
            if _on_a_face(applied(matrix, corners), point, _NEAR * size):
                return int(item)
    return None


def _on_rim(flat: shapely.Geometry, frame: np.ndarray, point: Points) -> bool:
    """Whether a point lies straight above or below the rim of a region in space."""
    local = applied(np.linalg.inv(frame), point)
    size = max(np.ptp(np.reshape(flat.bounds, (2, 2)), axis=0).max(), 1e-9)
    return bool(flat.boundary.distance(shapely.Point(local[:2])) < 10 * _NEAR * size)


def _on_a_face(triangles: Points, point: Points, near: float) -> bool:
    """Whether a point lies within one of some triangles (n, 3, 3), by its barycentric coordinates
    (Ericson, Real-time collision detection, 2005, 3.4)."""
    a, b, c = np.moveaxis(triangles, 1, 0)
    ab, ac, ap = b - a, c - a, point - a
    normal = np.cross(ab, ac)
    square = np.einsum("ij,ij->i", normal, normal)
    flat = square > 0
    with np.errstate(all="ignore"):
        off = np.abs(np.einsum("ij,ij->i", ap, normal)) / np.sqrt(square)
        v = np.einsum("ij,ij->i", np.cross(ap, ac), normal) / square
        w = np.einsum("ij,ij->i", np.cross(ab, ap), normal) / square
    slack = 1e-3
    within = flat & (off < near) & (v > -slack) & (w > -slack) & (v + w < 1 + slack)
    return bool(within.any())
