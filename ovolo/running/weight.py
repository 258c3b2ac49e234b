"""How many bytes a value holds, roughly: what is remembered of results is bounded by it."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

import numpy as np
import shapely

from ovolo.geometry.coat import Gathered
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.regions.region import Region
from ovolo.geometry.solids.solid import Copies

_OBJECT = 500
_OF_A_PLACE = 40
"""Of an outline, in the library that keeps it and in the arrays made of it."""

_WEIGHED = 50
"""So many items of a list are weighed; the others weigh as much on the average."""


def weight_of(value: Any) -> int:
    """Bytes. The shape of a solid is not in it: shapes are remembered, and weighed, by themselves."""
    if isinstance(value, np.ndarray):
        return 200 + int(value.nbytes)
    if isinstance(value, Copies):
        return _OBJECT + int(value.matrices.nbytes)
    if isinstance(value, Region):
        return 4 * _OBJECT + _OF_A_PLACE * int(shapely.get_num_coordinates(value.flat))
    if isinstance(value, Curve):
        return _OBJECT * (1 + len(value.pieces))
    if isinstance(value, Gathered):
        return _together(list(value)) + _together(value.others)
    if isinstance(value, list | tuple):
        return _together(value)
    if isinstance(value, dict):
        return _OBJECT + sum(weight_of(one) for one in value.values())
    return _OBJECT


def _together(items: Collection[Any]) -> int:
    some = list(items)[:: max(len(items) // _WEIGHED, 1)]
    return _OBJECT + sum(weight_of(one) for one in some) * len(items) // max(len(some), 1)
