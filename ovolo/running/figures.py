"""The figures that a value is made of, in their order: of a list, of a record, of a place."""

from __future__ import annotations

from typing import Any

import numpy as np


def figures_of(value: Any) -> list[float] | None:
    """All figures of a value; None where it is anything else. (Of a record what is none is left out.)"""
    if isinstance(value, bool):
        return None
    if isinstance(value, int | float):
        return [float(value)]
    if isinstance(value, np.ndarray):
        return None if value.dtype == bool else [float(one) for one in value.reshape(-1)]
    if isinstance(value, dict):
        return [one for item in value.values() for one in figures_of(item) or ()]
    if type(value) is not list:
        return None
    found = [figures_of(one) for one in value]
    return None if None in found else [one for each in found for one in each or ()]


def with_one_off(value: Any, number: int, by: float) -> Any:
    """The value with one of its figures, by its number, changed by so much; of what says yes or no, the other."""
    if isinstance(value, bool | np.bool_):
        return not value
    if isinstance(value, np.ndarray):
        other = value.copy()
        other.reshape(-1)[number] += by
        return other
    if not isinstance(value, list | dict):
        return value + by
    items = value if isinstance(value, list) else value.values()
    changed = []
    for item in items:
        count = len(figures_of(item) or ())
        changed.append(with_one_off(item, number, by) if 0 <= number < count else item)
        number -= count
    return changed if isinstance(value, list) else dict(zip(value, changed, strict=True))
