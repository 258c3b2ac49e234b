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
        return overlay(*figures, grid_size=SAME_PLACE)
    except shapely.GEOSException:
        return overlay(
            *(shapely.make_valid(one, method="structure", keep_collapsed=False) for one in figures)
        )


def _united(flats: Sequence[BaseGeometry]) -> BaseGeometry:
    """The union: on a grid of those whose outlines come near each other, then of all."""
    if len(flats) == 1:
        return flats[0]
    every = np.array(flats)
    pairs = _near_pairs(every)
    if not len(pairs[0]):
        return _put_together(list(every))
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    size = len(every)
    graph = coo_array((np.ones(len(pairs[0])), (pairs[0], pairs[1])), shape=(size, size))
    _, group = connected_components(graph, directed=False)
    counts = np.bincount(group)
    parts = [
        _on_grid(shapely.union_all, every[group == one]) if count > 1 else every[np.argmax(group == one)]
        for one, count in enumerate(counts)
    ]  # fmt: skip
    return parts[0] if len(parts) == 1 else _put_together(parts)


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
