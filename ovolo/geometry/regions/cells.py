"""The cells of points in the plane: all places that are nearer to one of them than to any other."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.types import Points

_BESIDE = 24
"""So many of the nearest points are looked at first; most cells have no others beside them."""

_CUT = SAME_PLACE / 10
"""mm; what cuts off less of a corner, as where many points stand round one place, leaves it."""

Corner = tuple[float, float]


def cells_round(places: Points, frame: Points) -> list[Points]:
    """For each of the places (n, 2) the corners (k, 2) of its cell within a convex frame (m, 2), anticlockwise;
    none where nothing of the frame is nearest to it. A cell is what the half planes up to the middle between its
    point and each other have in common (de Berg et al., Computational Geometry, 3rd edition, 7.1)."""
    from scipy.spatial import KDTree

    count = min(_BESIDE + 1, len(places))
    _, beside = KDTree(places).query(places, k=[*range(1, count + 1)])
    corners: list[Corner] = [(x, y) for x, y in frame.tolist()]
    cells = (_cell(places, at, near[1:], corners) for at, near in enumerate(beside))
    return [np.array(cell).reshape(-1, 2) for cell in cells]


def _cell(places: Points, at: int, near: NDArray[np.int64], frame: list[Corner]) -> list[Corner]:
    """That of one place; `near` are the others nearest to it, in order, all of them or the first ones."""
    place = places[at]
    cell, closed = _cut_to(frame, place, places[near])
    if closed or not cell or len(near) == len(places) - 1:
        return cell
    way = places - place
    length = np.linalg.norm(way, axis=1)
    length[at] = np.inf
    beyond = (np.array(cell) - place) @ (way / length[:, None]).T - length / 2
    cutting = np.flatnonzero(beyond.max(axis=0) > _CUT)
    return _cut_to(cell, place, places[cutting[np.argsort(length[cutting])]])[0]


def _cut_to(cell: list[Corner], place: Points, others: Points) -> tuple[list[Corner], bool]:
    """What of a convex cell is nearer to the place than to each of the others (n, 2), which are in the order of their
    distance; and whether one of these, and so all that is further away, is too far to cut anything off."""
    x, y = place.tolist()
    for other_x, other_y in others.tolist():
        dx, dy = other_x - x, other_y - y
        length = math.hypot(dx, dy)
        if length > 2 * max(math.hypot(a - x, b - y) for a, b in cell):
            return cell, True
        beyond = [((a - x) * dx + (b - y) * dy) / length - length / 2 for a, b in cell]
        if max(beyond) > _CUT:
            cell = _without(cell, beyond)
            if len(cell) < 3:
                return [], True
    return cell, False


def _without(cell: list[Corner], beyond: list[float]) -> list[Corner]:
    """A convex cell without what lies beyond a line, by how far each of its corners does."""
    left: list[Corner] = []
    around = pairwise([*zip(cell, beyond, strict=True), (cell[0], beyond[0])])
    for ((ax, ay), of_a), ((bx, by), of_b) in around:
        if of_a <= 0:
            left.append((ax, ay))
        if of_a < 0 < of_b or of_b < 0 < of_a:
            share = of_a / (of_a - of_b)
            left.append((ax + share * (bx - ax), ay + share * (by - ay)))
    before = [*left[-1:], *left[:-1]]
    return [one for one, last in zip(left, before, strict=True) if math.dist(one, last) > _CUT]
