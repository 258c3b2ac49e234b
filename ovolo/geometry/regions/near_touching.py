"""Whether outlines all but touch: where they come as near to each other as sides may miss their arcs, sides do not
tell which of them lies outside, or whether they meet at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.curves.curve import Piece, Straight
from ovolo.geometry.same import LEAST, SAME_PLACE
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import dot_product

_SAME = 10 * SAME_PLACE
"""mm; what is nearer touches just so."""

Touches = tuple[Points, NDArray[np.int64], NDArray[np.int64]]
"""Places (n, 2), and which two parts come near each other there."""


@dataclass(frozen=True, eq=False)
class Part:
    """A region where it lies in the plane: its figure, and of its outlines the circles (k, 3), the straight sides
    (n, 2, 2) and the corners (m, 2)."""

    flat: BaseGeometry
    circles: Points
    lines: Points
    corners: Points


def part_of(flat: BaseGeometry, circles: Points, pieces: Sequence[Piece]) -> Part:
    """That of a region whose outlines are made of some pieces."""
    ends = np.array([(piece.start[:2], piece.end[:2]) for piece in pieces]).reshape(-1, 2, 2)
    straight = np.array([isinstance(piece, Straight) for piece in pieces], dtype=bool)
    return Part(flat, circles, ends[straight], ends[:, 0])


def all_but_touch(parts: Sequence[Part], apart: float) -> bool:
    """Whether a circle of one part comes so near (mm) to a circle, a straight side or a corner of another without
    crossing it, where both have an outline there. What touches just so, as what is rounded does, and one circle in two
    parts count for nothing: their sides touch as well."""
    circles, owner = _with_owners([part.circles for part in parts])
    if not len(circles):
        return False
    lines, corners = (_with_owners([getattr(part, name) for part in parts]) for name in ("lines", "corners"))  # fmt: skip
    found = (
        _circles_touch(circles, owner, apart),
        _lines_touch(circles, owner, *lines, apart),
        _corners_touch(circles, owner, *corners, apart),
    )
    places, one, other = (np.concatenate(column) for column in zip(*found, strict=True))
    flats, points = np.array([part.flat for part in parts]), shapely.points(places)
    there = [shapely.dwithin(shapely.boundary(flats[of]), points, 3 * apart) for of in (one, other)]
    return bool(np.any(there[0] & there[1]))


def _with_owners(items: Sequence[Points]) -> tuple[Points, NDArray[np.int64]]:
    return np.concatenate(items), np.repeat(np.arange(len(items)), [len(one) for one in items])


def _around(circles: Points, apart: float) -> NDArray[np.object_]:
    reach = circles[:, 2] + apart
    low, high = circles[:, :2] - reach[:, None], circles[:, :2] + reach[:, None]
    found: NDArray[np.object_] = shapely.box(*low.T, *high.T)
    return found


def _circles_touch(circles: Points, owner: NDArray[np.int64], apart: float) -> Touches:
    boxes = _around(circles, apart)
    a, b = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    kept = owner[a] < owner[b]
    a, b = a[kept], b[kept]
    way = circles[b, :2] - circles[a, :2]
    distance = np.linalg.norm(way, axis=1)
    first, second = circles[a, 2], circles[b, 2]
    outside, inside = np.abs(distance - first - second), np.abs(distance - np.abs(first - second))
    gap = np.minimum(outside, inside)
    near = (gap < apart) & (gap > _SAME)
    # From the middle of the first towards the other, or away from it where it lies within that one.
    sign = np.where((inside < outside) & (first < second), -1.0, 1.0)
    places = circles[a, :2] + (sign * first / np.maximum(distance, LEAST))[:, None] * way
    return places[near], owner[a[near]], owner[b[near]]


def _lines_touch(
    circles: Points, owner: NDArray[np.int64], lines: Points, of_line: NDArray[np.int64], apart: float
) -> Touches:  # fmt: skip
    line, circle = _near(circles, owner, shapely.linestrings(lines), of_line, apart)
    start, way = lines[line, 0], lines[line, 1] - lines[line, 0]
    middle, radius = circles[circle, :2], circles[circle, 2]
    share = dot_product(middle - start, way) / np.maximum(dot_product(way, way), LEAST)
    foot = start + share[:, None] * way
    gap = np.abs(np.linalg.norm(foot - middle, axis=1) - radius)
    near = (gap < apart) & (gap > _SAME) & (share > 0) & (share < 1)
    return foot[near], of_line[line[near]], owner[circle[near]]


def _corners_touch(
    circles: Points, owner: NDArray[np.int64], corners: Points, of_corner: NDArray[np.int64], apart: float
) -> Touches:  # fmt: skip
    corner, circle = _near(circles, owner, shapely.points(corners), of_corner, apart)
    gap = np.abs(np.linalg.norm(corners[corner] - circles[circle, :2], axis=1) - circles[circle, 2])
    near = (gap < apart) & (gap > _SAME)
    return corners[corner[near]], of_corner[corner[near]], owner[circle[near]]


def _near(
    circles: Points, owner: NDArray[np.int64], items: NDArray[np.object_], of_item: NDArray[np.int64], apart: float
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:  # fmt: skip
    """The pairs of items and circles of different parts that lie together."""
    item, circle = shapely.STRtree(_around(circles, apart)).query(items, predicate="intersects")
    kept = of_item[item] != owner[circle]
    return item[kept], circle[kept]
