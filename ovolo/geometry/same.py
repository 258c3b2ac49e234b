"""When two things are the same: the one idea of it for curves, regions and solids."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

SAME_PLACE = 1e-6
"""Places in mm that are nearer to each other are one place, and lengths below it are none. A turn
or a division leaves noise of 1e-13 of a coordinate behind, which is far below it."""

SMALLEST = SAME_PLACE

SAME_SHARE = 1e-9
"""Shares, turns in radians, and entries of placements without a unit, that differ by less are the
same."""

ROUNDING = 1e-12
"""What a calculation leaves of nothing, beside the sizes it began with."""

LEAST = 1e-300
"""A divisor in place of 0, where what is divided is 0 as well."""


def gathered(values: NDArray[np.float64]) -> NDArray[np.float64] | None:
    """For each value (n,) the first one given that is the same, so that those which are nearly equal
    become equal; None where all are equal or apart already."""
    unique, first = np.unique(values, return_index=True)
    gaps = np.diff(unique)
    if not np.any(gaps < SAME_PLACE):
        return None
    starts = np.concatenate([[0], np.flatnonzero(gaps >= SAME_PLACE) + 1])
    kept = values[np.minimum.reduceat(first, starts)]
    group = np.searchsorted(starts, np.searchsorted(unique, values), side="right") - 1
    found: NDArray[np.float64] = kept[group]
    return found


_ODD = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9], dtype=np.uint64)
"""Odd numbers by which the figures of a row become one that sorts quickly."""


def _mixed(rows: NDArray[Any]) -> NDArray[np.uint64]:
    """One number (n,) for each of rows (n, 3): the same for the same rows, and hardly ever for others."""
    bits = np.ascontiguousarray(rows).view(np.uint64)
    mixed: NDArray[np.uint64] = ((bits ^ (bits >> np.uint64(29))) * _ODD).sum(
        axis=1, dtype=np.uint64
    )
    return mixed


def are_distinct(rows: NDArray[Any]) -> bool:
    """Whether rows (n, 3) of float64 or int64 are surely all different, told to the last digit."""
    ordered = np.sort(_mixed(rows))
    return not np.any(ordered[1:] == ordered[:-1])


def distinct_rows(rows: NDArray[Any]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The different ones of rows (n, 3) of float64 or int64, told to the last digit: the number of the
    first of each, in order, and for each row (n,) which of them it is."""
    mixed = _mixed(rows)
    _, first, which = np.unique(mixed, return_index=True, return_inverse=True)
    if not np.array_equal(rows[first][which], rows):  # two rows became one number
        _, first, which = np.unique(rows, axis=0, return_index=True, return_inverse=True)
    order = np.argsort(first)
    rank = np.empty(len(order), dtype=np.int64)
    rank[order] = np.arange(len(order))
    return first[order], rank[which]
