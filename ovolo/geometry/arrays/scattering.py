"""Places scattered by chance in a region, none nearer to another than a least distance: darts are thrown, and those that
fall too near to one that stays are thrown away."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.types import Floats
from ovolo.problems import Failure

MOST_SCATTERED = 100_000

_TRIES = 30
"""So many places in a row, for each item there is, are tried in vain before it is enough."""

_AT_ONCE = 1024
_SQUARES = 4_000_000
"""So many a raster has at most."""


def scattered(
    region: Region, chance: Callable[[Floats], Floats], least: float, most: int | None
) -> Floats:
    """Places (n, 2) within a region in its own plane, none nearer to another than `least` (mm).
    `chance` gives numbers from 0 to 1 for whole numbers. Raises Failure where `most` of them find
    no room."""
    wanted = MOST_SCATTERED if most is None else most
    if region.is_empty:
        raise Failure("there is no room in this region, for it is empty", "guard it with `if`")
    taken = _Taken(region, least)
    low_x, low_y, high_x, high_y = region.flat.bounds
    low, size = np.array([low_x, low_y]), np.array([high_x - low_x, high_y - low_y])
    vain = thrown = 0
    while len(taken.found) < wanted and vain < _TRIES * (len(taken.found) + 10):
        number = np.arange(2 * thrown, 2 * (thrown + _AT_ONCE), dtype=float)
        thrown += _AT_ONCE
        darts, perhaps_free = taken.inside(low + size * chance(number).reshape(-1, 2))
        last = -1
        for at in np.flatnonzero(perhaps_free).tolist():
            if len(taken.found) < wanted and taken.take(*darts[at].tolist()):
                last = at
        vain = len(darts) - 1 - last + (vain if last < 0 else 0)
    if most is not None and len(taken.found) < most:
        raise Failure(
            f"only {len(taken.found)} of {most} find room at a distance of {least:.6g} mm",
            "make the distance or the number smaller",
        )
    return np.array(taken.found, dtype=float).reshape(-1, 2)


class _Taken:
    """The places that are taken, in the cells of a grid whose diagonal is the least distance: one in a cell."""

    def __init__(self, region: Region, least: float) -> None:
        import shapely

        self.found: list[tuple[float, float]] = []
        self._least = least
        self._figure, self._edge = region.flat, region.flat.boundary
        shapely.prepare(self._figure)
        shapely.prepare(self._edge)
        self._size = least / math.sqrt(2)
        self._cells: dict[tuple[int, int], tuple[float, float]] = {}
        self._near = _Near(least, self._figure.bounds) if least > 0 else None

    def inside(self, darts: Floats) -> tuple[Floats, NDArray[np.bool_]]:
        """Those of some darts (n, 2) that fall into the region, and which of them are not surely too near to a place."""
        import shapely

        near = np.zeros(len(darts), dtype=np.uint8) if self._near is None else self._near.at(darts)
        within = near == _Near.WITHIN
        asked = np.flatnonzero(~within)
        within[asked] = shapely.contains_xy(self._figure, darts[asked])
        return darts[within], near[within] == 0

    def take(self, x: float, y: float) -> bool:
        """Takes a place, where none that is taken is too near."""
        if self._near is not None:
            cell = math.floor(x / self._size), math.floor(y / self._size)
            if any(math.dist((x, y), other) < self._least for other in self._beside(*cell)):
                return False
            self._cells[cell] = (x, y)
            self._near.mark(x, y, self._is_far_from_edge(x, y))
        self.found.append((x, y))
        return True

    def _beside(self, column: int, row: int) -> Iterator[tuple[float, float]]:
        for dx in range(-2, 3):
            for dy in range(-2, 3):
                near = self._cells.get((column + dx, row + dy))
                if near is not None:
                    yield near

    def _is_far_from_edge(self, x: float, y: float) -> bool:
        import shapely

        return not shapely.dwithin(self._edge, shapely.Point(x, y), self._least)


class _Near:
    """A raster of squares over bounds (low x and y, high x and y in mm). A square all of which is nearer than the least
    distance to one place is marked: most darts fall into such, and need not be compared with any place."""

    MARKED, WITHIN = 1, 2
    """Near to a place; and to one that is far enough from the edge for all of it to lie within the region."""

    def __init__(self, least: float, bounds: tuple[float, float, float, float]) -> None:
        low_x, low_y, high_x, high_y = bounds
        width, depth = high_x - low_x, high_y - low_y
        self._least, self._low = least, np.array([low_x, low_y])
        self._step = max(least / 8, math.sqrt(width * depth / _SQUARES), max(width, depth) / _SQUARES)  # fmt: skip
        columns, rows = math.ceil(width / self._step) + 1, math.ceil(depth / self._step) + 1
        self._marks = np.zeros((columns, rows), dtype=np.uint8)

    def at(self, places: Floats) -> NDArray[np.uint8]:
        columns, rows = ((places - self._low) / self._step).astype(np.int64).T
        found: NDArray[np.uint8] = self._marks[columns, rows]
        return found

    def mark(self, x: float, y: float, within: bool) -> None:
        """Marks the squares whose farthest corner is near enough to a place."""
        (columns, across), (rows, up) = (
            self._rows_about(at, float(low), count)
            for at, low, count in zip((x, y), self._low, self._marks.shape, strict=True)
        )
        near = across[:, None] ** 2 + up**2 < (self._least * (1 - SAME_SHARE)) ** 2
        marks = self._marks[columns, rows]
        np.maximum(marks, near * np.uint8(self.WITHIN if within else self.MARKED), out=marks)

    def _rows_about(self, at: float, low: float, count: int) -> tuple[slice, Floats]:
        """The rows (or columns) about a place, and how far the farther side of each is from it."""
        first = max(math.floor((at - self._least - low) / self._step), 0)
        last = min(math.ceil((at + self._least - low) / self._step), count)
        sides = low + self._step * np.arange(first, last + 1) - at
        return slice(first, last), np.maximum(np.abs(sides[:-1]), np.abs(sides[1:]))
