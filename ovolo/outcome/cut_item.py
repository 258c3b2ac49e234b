"""The item of an array that was cut away where a point lies on the face that it left."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from ovolo.geometry.placement import applied
from ovolo.geometry.types import Points
from ovolo.outcome.array_place import is_array
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part, construction_of
from ovolo.quantities.kinds import REGION, SOLID

_NEAR = 1e-4
"""How near a face is, as a share of the size of the item: what is drawn is known to float32."""


def cut_item_at(outcome: Outcome, name: str, point: Points) -> tuple[str, int] | None:
    """The line and the index of the item of an array, among what the part `name` is made of, on whose
    face the point (mm) lies; None where there is none."""
    for line in _made_of(outcome, name):
        array = _array(outcome, line)
        index = _item_at(array, point) if array is not None else None
        if index is not None:
            return line, index
    return None


def _made_of(outcome: Outcome, name: str) -> Iterator[str]:
    """The lines that another needs, the nearest first."""
    waiting, known = [name], {name}
    for one in waiting:
        line = outcome.program.by_name.get(one)
        new = [need for need in (line.needs if line is not None else ()) if need not in known]
        known.update(new)
        waiting += new
        yield from new


def _array(outcome: Outcome, name: str) -> Part | None:
    """The solids or regions of a line that an array makes."""
    if not is_array(outcome, name):
        return None
    line = next(one for one in outcome.lines if one.line.name == name)
    array = construction_of(line)
    return array if array is not None and array.kind in (SOLID, REGION) else None


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
