"""The places of an array, and the items that are made in them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from ovolo.geometry.arrays.setting_out import MOST_ITEMS
from ovolo.geometry.placement import scaled
from ovolo.geometry.solids.solid import Solid
from ovolo.problems import Failure, count_said
from ovolo.words.placing import placed

Values = NDArray[np.float64]
Unit = Any
"""Anything that has a place, or a function that makes one from a place of the array."""

Wanted = Callable[[dict[str, Any]], bool]
_X = np.array([1.0, 0.0, 0.0])


class Places(Struct):
    """Where the items go: matrices (n, 4, 4), and what a function is told of each."""

    matrices: Values
    told: dict[str, Values] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.matrices)

    def record(self, index: int) -> dict[str, Any]:
        return {
            "index": float(index),
            "at": self.matrices[index, :3, 3],
            **{name: values[index] for name, values in self.told.items()},
        }


def count_of(n: float, what: str) -> int:
    if n < 0:
        raise Failure(f"{what} of {n:g} items cannot be made", "0 or more")
    if n > MOST_ITEMS:
        raise Failure(f"{what} would have {count_said(n)} items; at most {MOST_ITEMS:,} are made")
    return int(n)


def made(unit: Unit, places: Places, skip: Any, where: Wanted | None) -> Any:
    """The items in those places that are wanted."""
    chosen = _chosen(places, skip, where)
    watch = _WATCH.get()
    if watch is None:
        return _filled(unit, places, chosen)
    watch(places, chosen, tuple(sorted(_left_out(len(places), skip))))
    with watching(None):  # the arrays within its items are others
        return _filled(unit, places, chosen)


Watch = Callable[[Places, list[int], tuple[int, ...]], None]
"""Called with the places of an array, the numbers of those that are filled, and of those skipped."""

_WATCH: ContextVar[Watch | None] = ContextVar("watch", default=None)


@contextmanager
def watching(watch: Watch | None) -> Iterator[None]:
    """Meanwhile every array that is made, but for those within items of others, is told of."""
    token = _WATCH.set(watch)
    try:
        yield
    finally:
        _WATCH.reset(token)


def _filled(unit: Unit, places: Places, chosen: list[int]) -> Any:
    if callable(unit):
        return [_item(unit, places, index) for index in chosen]
    matrices = places.matrices[chosen]
    if isinstance(unit, Solid):
        return unit.placed(matrices) if len(chosen) else []
    if isinstance(unit, np.ndarray) and unit.ndim == 1:
        return placed(unit, matrices)
    return [placed(unit, matrix) for matrix in matrices]


def _item(unit: Unit, places: Places, index: int) -> Any:
    """One item made for its place; the failure in its stead where it cannot be."""
    try:
        return placed(unit(places.record(index)), places.matrices[index])
    except Failure as failure:
        if type(failure) is not Failure:  # a limit, which ends the whole line
            raise
        return failure


def _chosen(places: Places, skip: Any, where: Wanted | None) -> list[int]:
    left_out = _left_out(len(places), skip)
    kept = [index for index in range(len(places)) if index not in left_out]
    return [i for i in kept if where(places.record(i))] if where is not None else kept


def _left_out(count: int, skip: Any) -> set[int]:
    """The numbers of the places that are skipped, counted from the beginning."""
    found = set()
    for number in [] if skip is None else skip:
        index = int(number) + (count if number < 0 else 0)
        if not 0 <= index < count or number != int(number):
            has = f"it has items 0 to {count - 1}" if count else "it has none"
            raise Failure(f"there is no item {number:g} in this array to skip", has)
        found.add(index)
    return found


def shares(count: int) -> Values:
    shares: Values = np.linspace(0.0, 1.0, count).astype(np.float64)
    return shares


MIRROR = scaled((-1.0, 1.0, 1.0))


def every_other_mirrored(matrices: Values, across: Values = _X) -> Values:
    """Every other item as the mirror image of the one before, across a direction of its own."""
    flip = np.eye(4)
    flip[:3, :3] -= 2 * np.outer(across, across)
    odd = np.arange(len(matrices)) % 2 == 1
    result = matrices.copy()
    result[odd] = result[odd] @ flip
    return result
