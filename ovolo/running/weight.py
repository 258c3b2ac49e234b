"""How many bytes a value holds, roughly: what is remembered of results is bounded by it."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

import numpy as np

from ovolo.geometry.coat import Gathered
from ovolo.geometry.thing import OBJECT, Thing

_WEIGHED = 50
"""So many items of a list are weighed; the others weigh as much on the average."""


def weight_of(value: Any) -> int:
    """Bytes. The shape of a solid is not in it: shapes are remembered, and weighed, by themselves."""
    if isinstance(value, np.ndarray):
        return 200 + int(value.nbytes)
    if isinstance(value, Thing):
        return value.weight
    if isinstance(value, Gathered):
        return _together(list(value)) + _together(value.others)
    if isinstance(value, list | tuple):
        return _together(value)
    if isinstance(value, dict):
        return OBJECT + sum(weight_of(one) for one in value.values())
    return OBJECT


def _together(items: Collection[Any]) -> int:
    some = list(items)[:: max(len(items) // _WEIGHED, 1)]
    return OBJECT + sum(weight_of(one) for one in some) * len(items) // max(len(some), 1)
