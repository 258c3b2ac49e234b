"""What is remembered so that it need not be worked out again, and may be forgotten at any time.

Heavy things (shapes, results of lines, programs, what used studies yield) are kept by
`Remembered`: all of one process share one budget in bytes, and what was looked at longest ago goes
first, whoever remembers it. Small things of a bounded number are kept elsewhere and only say, by
`remembers`, how they are forgotten.
"""

from __future__ import annotations

import atexit
import ctypes
import gc
from collections import OrderedDict
from collections.abc import Callable, Hashable
from itertools import count
from typing import Any, Generic, TypeVar
from weakref import WeakSet

from msgspec import Struct

MOST_BYTES = 400 * 2**20
"""What all that is remembered in a process may weigh, by what each of it says of itself."""

_FORGETTING: list[Callable[[], None]] = []
_ALL: WeakSet[Remembered[Any]] = WeakSet()
_LOOKS = count()

V = TypeVar("V")


class _Scales(Struct):
    """Bytes of all that is remembered."""

    held: int = 0


_SCALES = _Scales()


class _Entry(Struct, Generic[V]):
    value: V
    weight: int
    looked: int
    """By the count of all looks, when it was looked at last."""


class Remembered(Generic[V]):
    """Values by what they were worked out from. `weigh` tells how many bytes one holds; `most` how
    many there may be, where that is bounded too."""

    def __init__(self, weigh: Callable[[V], int], most: int | None = None) -> None:
        self._weigh, self._most = weigh, most
        self._entries: OrderedDict[Hashable, _Entry[V]] = OrderedDict()
        _ALL.add(self)

    def __len__(self) -> int:
        return len(self._entries)

    def __del__(self) -> None:
        self.clear()

    def get(self, key: Hashable) -> V | None:
        found = self._entries.get(key)
        if found is None:
            return None
        found.looked = next(_LOOKS)
        self._entries.move_to_end(key)
        return found.value

    def put(self, key: Hashable, value: V) -> None:
        """Remembers it as what was looked at last; what is too much goes."""
        self._drop(key)
        entry = _Entry(value, self._weigh(value), next(_LOOKS))
        self._entries[key] = entry
        _SCALES.held += entry.weight
        if self._most is not None and len(self._entries) > self._most:
            self._drop(self._oldest[0])
        _make_room(MOST_BYTES)

    def clear(self) -> None:
        _SCALES.held -= sum(entry.weight for entry in self._entries.values())
        self._entries.clear()

    @property
    def _oldest(self) -> tuple[Hashable, _Entry[V]]:
        return next(iter(self._entries.items()))

    def _drop(self, key: Hashable) -> None:
        if (entry := self._entries.pop(key, None)) is not None:
            _SCALES.held -= entry.weight


def _make_room(most: int) -> None:
    """Forgets what was looked at longest ago until all weighs no more; the newest alone may."""
    while most < _SCALES.held:
        known = [(one._oldest, one) for one in _ALL if one]
        if sum(len(one) for _, one in known) < 2:
            return
        (key, _), owner = min(known, key=lambda found: found[0][1].looked)
        owner._drop(key)


def held() -> int:
    """Bytes of all that is remembered in this process."""
    return _SCALES.held


def remembers(forget: Callable[[], None]) -> None:
    """Notes how something that is remembered is forgotten."""
    _FORGETTING.append(forget)


def forget_half() -> None:
    """Forgets the half that was looked at longest ago, and gives its memory back to the machine."""
    _make_room(_SCALES.held // 2)
    _give_back()


def forget_all() -> None:
    """Forgets all that is remembered in this process, and gives its memory back to the machine."""
    for one in list(_ALL):
        one.clear()
    for forget in _FORGETTING:
        forget()
    _give_back()


def _give_back() -> None:
    gc.collect()
    ctypes.CDLL(None).malloc_trim(0)


def keep_imports() -> None:
    """What is there by now stays: it need not be looked through again and again for what has no use,
    and what is new is looked through less often."""
    gc.freeze()
    gc.set_threshold(20_000, 50, 20)
    atexit.register(gc.unfreeze)  # some libraries want to be cleared away at the end
