"""The outlines of solids as they are seen from a direction: exact where they are seen along or
across what made them, else those of their meshes."""

from __future__ import annotations

import math

import numpy as np

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import polyline
from ovolo.geometry.curves.pieces import Arc
from ovolo.geometry.curves.support import reach_of_curves
from ovolo.geometry.placement import IDENTITY, Matrix, mirrored
from ovolo.geometry.regions.region import Region, combined, disc, from_curves, overlay
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE
from ovolo.geometry.solids.forms import Revolution, Stack
from ovolo.geometry.solids.solid import Shape, silhouette
from ovolo.geometry.types import Points
from ovolo.problems import Failure

_LEVEL = np.diag([1.0, 1.0, 0.0, 1.0])
_UPRIGHT = np.eye(4)[[0, 2, 1, 3]]


def outlines_seen(shape: Shape, matrix: Matrix) -> list[Curve]:
    """The outlines of a placed shape seen along z, flat."""
    try:
        seen = _seen(shape, matrix)
    except Failure:
        seen = None
    if seen is not None and seen.exact:
        return [curve.placed(_LEVEL) for curve in seen.curves()]
    rings = (np.column_stack([ring, np.zeros(len(ring))]) for ring in silhouette(shape, matrix))
    return [polyline(ring[[*range(len(ring)), 0]]) for ring in rings]


def _seen(shape: Shape, matrix: Matrix) -> Region | None:
    a, b, c = matrix[:3, :3].T
    sizes = [float(np.linalg.norm(one)) for one in (a, b, c)]
    upright = max(abs(float(a @ c)), abs(float(b @ c))) < SAME_SHARE * sizes[2] * max(sizes[:2])
    form = shape.form
    if form is None or not upright or shape.flat:
        return None
    along = math.hypot(c[0], c[1]) < SAME_SHARE * sizes[2]
    across = abs(c[2]) < SAME_SHARE * sizes[2]
    if isinstance(form, Stack):
        return _stack_along(form, matrix) if along else _stack_across(form, matrix) if across else None  # fmt: skip
    if isinstance(form, Revolution) and form.whole:
        even = abs(sizes[0] - sizes[1]) < SAME_SHARE * sizes[0] and abs(float(a @ b)) < SAME_SHARE * sizes[0] ** 2  # fmt: skip
        ball = _radius_of_ball(form)
        if ball is not None and even and abs(sizes[0] - sizes[2]) < SAME_SHARE * sizes[0]:
            return disc(ball * sizes[0]).placed(_moved_to(matrix))
        if even and along:
            return _turned_along(form, matrix, sizes[0])
        if even and across:
            return _turned_across(form, matrix, sizes[0])
    return None


def _moved_to(matrix: Matrix) -> Matrix:
    place = IDENTITY.copy()
    place[:2, 3] = matrix[:2, 3]
    return place


def _stack_along(form: Stack, matrix: Matrix) -> Region:
    whole = overlay("+", [(layer.region, IDENTITY) for layer in form.layers])
    return whole.placed(matrix)


def _stack_across(form: Stack, matrix: Matrix) -> Region | None:
    """A rectangle for each piece of each layer."""
    a, b, c = matrix[:2, :3].T
    rise = float(np.linalg.norm(c))
    side = np.array([-c[1], c[0]]) / rise
    way = np.array([a @ side, b @ side, 0.0])
    found = []
    for layer in form.layers:
        for curve in layer.region.outlines:
            if _is_hole(curve):
                continue
            high, low = (float(reach_of_curves([curve], way[None] * sign)[0]) * sign for sign in (1, -1))  # fmt: skip
            corners = [(low, layer.low), (high, layer.low), (high, layer.high), (low, layer.high)]
            found.append(np.array([u * side + z * c + matrix[:2, 3] for u, z in corners]))
    outlines = [from_curves(polyline(_flat(ring)[[0, 1, 2, 3, 0]]), []) for ring in found]
    return combined("+", *outlines)


def _flat(ring: Points) -> Points:
    return np.column_stack([ring, np.zeros(len(ring))])


def _is_hole(curve: Curve) -> bool:
    x, y = curve.points()[:, :2].T
    return bool(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1]) < 0)


def _radius_of_ball(form: Revolution) -> float | None:
    arcs = [piece for curve in form.outlines for piece in curve.pieces if isinstance(piece, Arc)]
    others = [p for curve in form.outlines for p in curve.pieces if not isinstance(p, Arc)]
    on_axis = all(max(abs(p.start[0]), abs(p.end[0])) < SAME_PLACE for p in others)
    if len(arcs) == 1 and on_axis and np.linalg.norm(arcs[0].centre) < SAME_PLACE and arcs[0].is_circle:  # fmt: skip
        return arcs[0].radius
    return None


def _turned_along(form: Revolution, matrix: Matrix, size: float) -> Region:
    """A disc, less what is open all the way."""
    x = np.array([[1.0, 0.0, 0.0], [-1.0, 0.0, 0.0]])
    outer, inner = (float(r) * size for r in reach_of_curves(form.outlines, x) * [1.0, -1.0])
    whole = disc(outer)
    if inner > SAME_PLACE:
        whole = combined("-", whole, disc(inner))
    return whole.placed(_moved_to(matrix))


def _turned_across(form: Revolution, matrix: Matrix, size: float) -> Region:
    """The profile and its mirror image across the axis."""
    outer, *holes = (curve.placed(_UPRIGHT) for curve in form.outlines)
    half = from_curves(outer, holes)
    whole = combined("+", half, half.placed(mirrored(np.eye(3)[0], np.zeros(3))))
    c = matrix[:2, 2]
    side = np.array([c[1], -c[0]]) / np.linalg.norm(c) * size
    place = IDENTITY.copy()
    place[:2, 0], place[:2, 1], place[:2, 3] = side, c, matrix[:2, 3]
    return whole.placed(place)
