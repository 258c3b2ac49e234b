"""Overlays of flat figures, in which places that are the same are one.

An overlay on a grid joins outlines that run along each other but for noise, and costs ten times as
much as a plain one; so it is done only where outlines come near each other at all.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.groups import groups_of
from ovolo.geometry.same import SAME_PLACE

_NEAR = 10 * SAME_PLACE


def overlaid(operator: str, flats: Sequence[BaseGeometry]) -> BaseGeometry:
    """The union (+), difference (-) or intersection (&) of figures."""
    first, *rest = flats
    if operator == "+":
        return _united(flats)
    if operator == "-":
        outline = shapely.boundary(first)
        near = shapely.dwithin(shapely.boundary(np.array(rest)), outline, _NEAR)
        clear, close = ([one for one, is_near in zip(rest, near, strict=True) if is_near == way] for way in (False, True))  # fmt: skip
        if clear:
            first = shapely.difference(first, _united(clear))
        return _on_grid(shapely.difference, first, _united(close)) if close else first
    for other in rest:
        first = _on_grid(shapely.intersection, first, other)
    return first


def _on_grid(overlay: Callable[..., BaseGeometry], *figures: Any) -> BaseGeometry:
    """An overlay on the grid; where the library fails for that ("unable to assign free hole to a shell"), a plain one
    of figures that were mended."""
    try:
        return overlay(*(_mixed(one) for one in figures), grid_size=SAME_PLACE)
    except shapely.GEOSException:
        return overlay(
            *(shapely.make_valid(one, method="structure", keep_collapsed=False) for one in figures)
        )


_FEW = 64
"""So many outlines may come in any order."""


def _mixed(figures: Any) -> Any:
    """Figures, or a list of them, with their outlines in an order that has nothing to do with where they lie: on a
    grid the library keeps the places in a tree that is never balanced, and outlines which come one beside the other
    make a chain of it."""
    if isinstance(figures, np.ndarray):
        parts = figures if len(figures) <= _FEW else figures[_shuffled(len(figures))]
        return np.array([_mixed(one) for one in parts])
    polygons = list(shapely.get_parts(figures))
    if len(polygons) + int(shapely.get_num_interior_rings(polygons).sum()) <= _FEW:
        return figures
    mixed = [shapely.Polygon(one.exterior, _taken(list(one.interiors))) for one in _taken(polygons)]
    return mixed[0] if len(mixed) == 1 else shapely.MultiPolygon(mixed)


def _taken(many: Sequence[Any]) -> list[Any]:
    return [many[at] for at in _shuffled(len(many))]


def _shuffled(count: int) -> NDArray[np.int64]:
    """The numbers below a count in an order without rule, always the same."""
    return np.random.default_rng(0).permutation(count)


def _united(flats: Sequence[BaseGeometry]) -> BaseGeometry:
    """The union: on a grid of those whose outlines come near each other, then of all."""
    if len(flats) == 1:
        return flats[0]
    every = np.array(flats)
    pairs = _near_pairs(every)
    if not len(pairs[0]):
        return _put_together(list(every))
    group = groups_of(pairs.T, len(every))
    counts = np.bincount(group)
    parts = [
        _united_on_grid(every[group == one]) if count > 1 else every[np.argmax(group == one)]
        for one, count in enumerate(counts)
    ]
    return parts[0] if len(parts) == 1 else _put_together(parts)


_AT_ONCE = 15_000
"""So many corners are united in one call of the library, for it cannot be stopped within; or two figures."""


def _united_on_grid(figures: NDArray[np.object_]) -> BaseGeometry:
    """The union of any number: of those beside each other first, then of what they made."""
    while True:
        corners = int(shapely.get_num_coordinates(figures).sum())
        if len(figures) <= 3 or corners <= _AT_ONCE:
            return _on_grid(shapely.union_all, figures)
        low_x, low_y, _, _ = shapely.bounds(figures).T
        figures = figures[np.argsort(low_x if np.ptp(low_x) > np.ptp(low_y) else low_y)]
        count = min(-(-corners // _AT_ONCE), len(figures) // 2)
        figures = np.array([_on_grid(shapely.union_all, some) for some in np.array_split(figures, count)])  # fmt: skip


def _near_pairs(flats: NDArray[np.object_]) -> NDArray[np.int64]:
    """The pairs (2, k) of figures whose outlines come near each other."""
    outlines = shapely.boundary(flats)
    left, right = shapely.STRtree(outlines).query(outlines, predicate="dwithin", distance=_NEAR)
    found: NDArray[np.int64] = np.stack([left, right]).astype(np.int64)
    return found[:, left < right]


def _put_together(flats: list[BaseGeometry]) -> BaseGeometry:
    """Figures whose outlines are clear of each other, as one."""
    low_x, low_y, high_x, high_y = shapely.bounds(np.array(flats)).T
    boxes = shapely.box(low_x, low_y, high_x, high_y)
    left, right = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    if np.any(left < right):
        return shapely.union_all(flats)
    return shapely.MultiPolygon([p for one in flats for p in shapely.get_parts(one)])
