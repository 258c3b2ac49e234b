"""When two things are the same: the one idea of it for curves, regions and solids."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

SAME_PLACE = 1e-6
"""Places in mm that are nearer to each other are one place, and lengths below it are none. A turn
or a division leaves noise of 1e-13 of a coordinate behind, which is far below it."""

SMALLEST = SAME_PLACE

SAME_SHARE = 1e-9
"""Shares, and entries of placements without a unit, that differ by less are the same."""


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
