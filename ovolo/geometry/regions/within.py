"""Whether a place lies within a region or a solid; what lies on its edge, or on its surface, does."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ovolo.geometry.curves.curve import Curve, closest
from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import LEAST, SAME_PLACE
from ovolo.geometry.solids.comparing import winding
from ovolo.geometry.solids.forms import Revolution, Stack
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product, plane_product


def in_region(region: Region, place: Points) -> bool:
    """Whether a place lies in the plane of a region and within its outline, which is exact."""
    x, y, z = _seen_from(region.frame, place)
    return abs(z) <= SAME_PLACE and _encloses(region.outlines, np.array([x, y, 0.0]))


def _seen_from(frame: Matrix, place: Points) -> Points:
    """A place in the coordinates of a frame."""
    back: Matrix = np.linalg.inv(frame).astype(np.float64)
    own: Points = applied(back, place[None])[0]
    return own


def _encloses(outlines: Sequence[Curve], place: Points) -> bool:
    """Whether outlines and holes in plan go round a place, or pass through it."""
    gaps = [_gap(outline, place) for outline in outlines]
    if min(gaps, default=math.inf) <= SAME_PLACE:
        return True
    turns = sum(
        _turns(outline.sides(gap / 2)[:, :2] - place[:2])
        for outline, gap in zip(outlines, gaps, strict=True)
    )
    return abs(turns) > 0.5


def _gap(outline: Curve, place: Points) -> float:
    at, t = closest(outline, place)
    return float(np.linalg.norm(outline.pieces[at].at(t) - place))


def _turns(corners: Points) -> float:
    """How often a closed polygon goes round the origin."""
    following = np.roll(corners, -1, axis=0)
    angles = np.arctan2(plane_product(corners, following), dot_product(corners, following))
    return float(angles.sum() / (2 * math.pi))


def in_solid(solid: Solid, place: Points) -> bool:
    """Whether a place lies within a solid: exact for extrusions and revolutions, else as finely as its surface is divided."""
    if solid.is_empty:
        return False
    own = _seen_from(solid.matrix, place)
    size = float(np.cbrt(abs(np.linalg.det(solid.matrix[:3, :3]))))
    found = _in_form(solid.shape.form, own, SAME_PLACE / size)
    if found is not None:
        return found
    corners = solid.mesh.corners[solid.mesh.triangles]
    low, high = corners.reshape(-1, 3).min(axis=0), corners.reshape(-1, 3).max(axis=0)
    if np.any(place < low - SAME_PLACE) or np.any(place > high + SAME_PLACE):
        return False
    return abs(winding(corners, place)) > 0.5 or _on_triangles(corners, place)


def _in_form(form: object, place: Points, slack: float) -> bool | None:
    """Whether a place lies within a form; None where there is no rule for it."""
    match form:
        case Stack(layers=layers):
            return any(
                one.low - slack <= place[2] <= one.high + slack
                and in_region(one.region, np.array([place[0], place[1], 0.0]))
                for one in layers
            )
        case Revolution() if form.whole:
            out = max(math.hypot(place[0], place[1]), slack)  # outlines end at the axis
            flat = [one.placed(_LEVEL) for one in form.outlines]
            return _encloses(flat, np.array([out, place[2], 0.0]))
    return None


_LEVEL = np.eye(4)[[0, 2, 1, 3]]
"""From the plane of x and z to that of x and y."""


def _on_triangles(corners: Points, place: Points) -> bool:
    """Whether a place lies on one of the triangles (n, 3, 3)."""
    a, b, c = (corners[:, k] for k in range(3))
    normal = cross_product(b - a, c - a)
    sizes = np.linalg.norm(normal, axis=1)
    level = np.abs(dot_product(place - a, normal)) <= SAME_PLACE * np.maximum(sizes, LEAST)
    for start, end in ((a, b), (b, c), (c, a)):
        side = dot_product(cross_product(end - start, place - start), normal)
        reach = SAME_PLACE * sizes * np.linalg.norm(end - start, axis=1)
        level &= side >= -reach
    return bool(np.any(level & (sizes > 0)))
