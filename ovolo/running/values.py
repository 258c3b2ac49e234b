"""Values at run time, and what a list is.

A list of numbers is an array (n,), of points (n, 3), of yes/no (n,) bools; copies of one
solid are `Copies`; any other list, and any list with gaps, is a Python list.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from msgspec import Struct

from ovolo.geometry.arrays.setting_out import MOST_ITEMS
from ovolo.geometry.attached_drawing import AttachedDrawing
from ovolo.geometry.coat import Gathered
from ovolo.geometry.digest import digest
from ovolo.geometry.solids.solid import Copies, Solid
from ovolo.geometry.thing import Thing
from ovolo.geometry.underlay import Underlay
from ovolo.problems import Failure, Span, count_said
from ovolo.quantities.kinds import SOLID, YES_NO, Kind, ListOf, PointKind, Quantity
from ovolo.quantities.table import Table
from ovolo.running.figures import with_one_off
from ovolo.words.measures_taken import each_away, take


class Gap(Struct, frozen=True):
    """The place of an item that could not be made, and why."""

    index: int
    message: str
    hint: str
    span: Span | None
    passed_on: bool = False
    """Whether it is that of an item of another list, from which this one would have been made."""


def empty_item(value: Any) -> Failure | None:
    """What stands against an item that is empty: it has no place in a list; None for any other."""
    if not _is_nothing(value):
        return None
    return Failure(f"this is empty: {value.why_empty}", "leave it out with `if`, or `skip`")


def refuse_empty(values: Sequence[Any], span: Span | None) -> None:
    """Refuses things that are empty."""
    for value in values:
        if _is_nothing(value):
            raise Failure(f"this {value.word} is empty: {value.why_empty}", "guard it with `if`", span)  # fmt: skip


def _is_nothing(value: Any) -> bool:
    """Whether it is a thing, and empty; a list that has no items is none."""
    return isinstance(value, Thing) and value.is_empty and value.places > 0


class LimitReached(Failure):
    """A limit of time or size: ends the line, not only the item at hand."""


class InDoubt(NamedTuple):
    """By what share a value may be wrong (None where nothing was measured), and each of its figures by how much, where
    that is known."""

    share: float | None
    off: tuple[float, ...] | None = None


_MOST_OFF = 50
"""Figures of one value that are looked at as if each were off."""


class Yielded(Gathered):
    """What a study yields: its pieces, and what it names (or what stands against it)."""

    def __init__(
        self,
        items: list[Any],
        others: list[Any],
        fields: dict[str, Any],
        key: object,
        doubts: dict[str, InDoubt],
    ) -> None:
        super().__init__(items, others)
        self.fields = fields
        self.key = key
        self.doubts = doubts
        """By how much those may be wrong that are measured, or reckoned from measures."""

    @property
    def fingerprint(self) -> str:
        return digest("yielded", self.key)

    def field(self, name: str) -> Any:
        found = self.fields[name]
        if isinstance(found, Failure):
            raise Failure(found.message, found.hint)
        doubt = self.doubts.get(name)
        return found if doubt is None else self._taken(name, found, doubt)

    def _taken(self, name: str, found: Any, doubt: InDoubt) -> Any:
        """A value as it was reckoned there; each of its figures may be off by itself."""
        share, off = doubt
        if share is None:
            return found
        if not share or off is None or len(off) > _MOST_OFF:
            return take(("yielded", self, name), lambda: (found, share, None))
        for number, away in enumerate(each_away(("yielded", self, name), share, off)):
            if away:
                found = with_one_off(found, number, away)
        return found


def as_list(items: list[Any], kind: Kind | None) -> Any:
    """Items as the list their kind calls for; a list with gaps stays as it is."""
    if kind is not None and (isinstance(kind, Quantity | PointKind) or kind in (YES_NO, SOLID)):
        if any(type(item) is Gap for item in items):
            return items
        if isinstance(kind, Quantity):
            return np.array(items, dtype=float)
        if isinstance(kind, PointKind):
            return np.array(items, dtype=float).reshape(-1, 3)
        if kind == YES_NO:
            return np.array(items, dtype=bool)
        return _copies(items)
    if isinstance(kind, ListOf):
        return [as_list(item, kind.item) if type(item) is list else item for item in items]
    return items


def _copies(items: list[Any]) -> Any:
    """Solids as copies of one shape where they all are."""
    if items and all(
        type(item) is Solid and item.shape is items[0].shape and item.coat == items[0].coat
        for item in items
    ):
        return Copies(items[0].shape, np.stack([item.matrix for item in items]), items[0].coat)
    return items


def gaps_in(value: Any) -> list[Gap]:
    """The gaps of a list at its own level."""
    return [item for item in value if type(item) is Gap] if type(value) is list else []


def refuse_gaps(value: Any, said: str) -> None:
    gaps = gaps_in(value)
    if gaps:
        first = gaps[0]
        count = "an item" if len(gaps) == 1 else f"{len(gaps)} items"
        raise Failure(
            f"{said} lacks {count}: item {first.index} could not be made: {first.message}",
            first.hint or "guard the items that cannot be made with `if`",
        )


def check_count(count: float) -> None:
    if count > MOST_ITEMS:
        raise LimitReached(
            f"this list would have {count_said(count)} items; at most {MOST_ITEMS:,} are made",
            "make it shorter or coarser",
        )


def fingerprint(value: Any) -> object:
    """What is equal for equal values and differs for others; hashable, and quick for numbers."""
    if isinstance(value, float):
        return value.hex()
    if isinstance(value, bool | str):
        return type(value).__name__, value
    if isinstance(value, np.ndarray):
        return digest("array", value.shape, value)
    if isinstance(value, Thing):
        own = value.fingerprint
        return own if value.coat is None else digest("coated", str(value.coat), own)
    if isinstance(value, Yielded | Table | AttachedDrawing | Underlay):
        return value.fingerprint
    if isinstance(value, Gathered):
        return digest("gathered", *(fingerprint(item) for item in (*value, *value.others)))
    if isinstance(value, Sequence) and not isinstance(value, str):
        return digest("list", *(fingerprint(item) for item in value))
    if isinstance(value, dict):
        return digest("record", *((name, fingerprint(item)) for name, item in value.items()))
    return digest(type(value).__name__, value)
