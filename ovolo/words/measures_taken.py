"""What is measured while a line runs, by how much it may be wrong, and what the line gives where one of it is off by that."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from functools import partial
from typing import Any, NamedTuple

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray


class Taken(Struct, frozen=True, eq=False):
    """A measure that was taken: which and of what, the figure or the places found, by what share these may be wrong (places by a
    share of the size of all; 0 where they are exact), and by how much (None where it is no figure that could be)."""

    of: tuple[object, ...]
    found: Any
    share: float
    missed: Any


class Doubt(NamedTuple):
    """Some of the measures that were taken in a line, by their numbers, are looked at as if they were off, each one way (1)
    or the other (-1)."""

    taken: Sequence[Taken]
    ways: Mapping[int, int]


class Inexact(float):
    """A figure of a record that may be off by `missed`; it is taken as a measure where somebody asks for it."""

    missed: float

    def __new__(cls, found: float, missed: float) -> Inexact:
        own = super().__new__(cls, found)
        own.missed = missed
        return own

    def __getnewargs__(self) -> tuple[float, float]:  # type: ignore[override]  # one of its own more
        return float(self), self.missed

    def taken(self) -> float:
        share = self.missed / max(abs(self), self.missed)
        return float(take(("figure", self), lambda: (float(self), share, self.missed)))


class InexactPlace(np.ndarray[tuple[int, ...], np.dtype[np.float64]]):
    """A place, or a direction, of a record of which each coordinate may be off by `missed`, by a share of what is so far `across`; taken likewise."""

    missed: float = 0.0
    across: float = 1.0

    @classmethod
    def of(cls, place: NDArray[np.float64], missed: float, across: float) -> InexactPlace:
        found = place.view(cls)
        found.missed, found.across = missed, across
        return found

    def __reduce__(self) -> tuple[Any, ...]:
        return InexactPlace.of, (np.array(self), self.missed, self.across)

    def taken(self) -> NDArray[np.float64]:
        plain, share = self.view(np.ndarray), self.missed / max(self.across, self.missed)
        away = each_away(("place", self), share, [self.missed] * 3)
        return plain + away if any(away) else plain


def each_away(of: tuple[object, ...], share: float, off: Sequence[float]) -> list[float]:
    """How far each figure of a value is from what was reckoned, of which each may be `off` by so much by itself: not at
    all, unless that is looked at."""
    return [
        take((*of, at), partial(_none_but, share if by else 0.0, by)) for at, by in enumerate(off)
    ]


def _none_but(share: float, missed: float) -> tuple[float, float, float]:
    return 0.0, share, missed


_now: ContextVar[tuple[list[Taken], Doubt | None] | None] = ContextVar("what was measured", default=None)  # fmt: skip


@contextmanager
def measuring(doubt: Doubt | None = None) -> Iterator[list[Taken]]:
    """Within it, each measure that is taken is added; with a doubt, what was measured before is not measured again."""
    taken: list[Taken] = []
    token = _now.set((taken, doubt))
    try:
        yield taken
    finally:
        _now.reset(token)


def take(of: tuple[object, ...], measure: Callable[[], tuple[Any, float, Any]]) -> Any:
    """What is measured of something: `of` begins with the name of the measure. `measure` gives what is found, by what share that may be wrong, and by how much."""
    now = _now.get()
    if now is None:
        return measure()[0]
    taken, doubt = now
    number = len(taken)
    before = doubt.taken[number] if doubt is not None and number < len(doubt.taken) else None
    if before is None or not _same(before.of, of):
        before = Taken(of, *measure())
    taken.append(before)
    way = doubt.ways.get(number) if doubt is not None else None
    if way is None or before.missed is None:
        return before.found
    return before.found + way * before.missed


def _same(one: tuple[object, ...], other: tuple[object, ...]) -> bool:
    return len(one) == len(other) and all(a is b for a, b in zip(one, other, strict=True))
