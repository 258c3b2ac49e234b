"""Where an item of an array stands: its number, as `skip` counts it, its column and its row."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Iterator
from typing import Any

from msgspec import Struct

from ovolo.meaning import checked_tree
from ovolo.outcome.answers import ArrayPlaceSaid
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure
from ovolo.running.code import Frame, Run, compiled, until
from ovolo.running.evaluate import running
from ovolo.running.values import LimitReached
from ovolo.words.places import Places, watching

SECONDS = 2.0


class ArrayPlace(Struct, frozen=True):
    """The place of one item: `line` is the name of the line in which the array is made, by `word`;
    `left_out` are the numbers of the places that `skip` leaves empty, of `count` in all. What has
    rows has so many `columns`."""

    line: str
    word: str
    number: int
    column: int | None
    row: int | None
    left_out: tuple[int, ...]
    count: int
    columns: int | None

    def as_json(self) -> ArrayPlaceSaid:
        return {
            "line": self.line,
            "word": self.word,
            "number": self.number,
            "column": self.column,
            "row": self.row,
            "left_out": list(self.left_out),
            "count": self.count,
            "columns": self.columns,
        }


def place_of(outcome: Outcome, name: str, index: int) -> ArrayPlace | None:
    """The place of item `index` of the line `name`; None where no array of a word makes it."""
    found = _array_of(outcome, name)
    if found is None:
        return None
    line, node = found
    seen = _seen(outcome, node)
    if seen is None:
        return None
    places, chosen, left_out = seen
    if not 0 <= index < len(chosen):
        raise Failure(f"`{name}` has no item {index}")
    record = places.record(chosen[index])
    column, row = (int(record[one]) if one in record else None for one in ("column", "row"))
    columns = int(places.told["column"].max()) + 1 if "column" in places.told else None
    return ArrayPlace(
        line, node.word.name, chosen[index], column, row, left_out, len(places), columns
    )


_Seen = tuple[Places, list[int], tuple[int, ...]]


def _seen(outcome: Outcome, node: checked_tree.WordCall) -> _Seen | None:
    """The places of an array, the numbers of those that are filled, and of those left out: made once
    more, and watched. None where that takes too long."""
    seen: list[_Seen] = []
    with watching(lambda *told: seen.append(told)):
        made = made_again(outcome, node)
    return seen[-1] if seen and made is not None else None


def made_again(outcome: Outcome, node: checked_tree.Typed) -> Any:
    """What a piece of the formula of a line gives; None where that takes too long."""
    values = {one.line.name: one.value for one in outcome.lines if one.line.name and one.has_value}
    frame: Frame = {None: Run(values, outcome.units, [])}
    limit = until(time.monotonic() + SECONDS)
    with contextlib.suppress(LimitReached), running(outcome.program.tolerance), limit:
        return compiled(node)(frame)
    return None


def numbers_of(outcome: Outcome, name: str) -> list[int] | None:
    """The number of each item of the part `name`: as the array counts it that makes them, else from 0.
    None where that takes too long."""
    found = _array_of(outcome, name)
    if found is None:
        return list(range(outcome.parts[name].count))
    seen = _seen(outcome, found[1])
    return None if seen is None else seen[1]


def is_array(outcome: Outcome, name: str) -> bool:
    """Whether a word of arrays makes the items of a line."""
    return _array_of(outcome, name) is not None


def lines_of_array(outcome: Outcome, name: str) -> list[str]:
    """The line itself, and those whose items it takes as they are or placed, up to where an array makes
    them."""
    return [line for line, _ in _way_to_array(outcome, name)]


def _array_of(outcome: Outcome, name: str) -> tuple[str, checked_tree.WordCall] | None:
    """The array whose items are those of a line, placed or not, and the line in which it is made."""
    *_, (line, node) = _way_to_array(outcome, name)
    return None if node is None else (line, node)


def _way_to_array(
    outcome: Outcome, name: str
) -> Iterator[tuple[str, checked_tree.WordCall | None]]:
    """A line and those whose items it takes, each with the array that it makes itself."""
    checked = outcome.program.by_name[name].checked if name in outcome.program.by_name else None
    node = checked.value if checked is not None else None
    while isinstance(node, checked_tree.WordCall):
        if any(parameter.name == "skip" for parameter in node.word.parameters):
            yield name, node
            return
        node = node.positional[0] if node.word.trade == "placing" and node.positional else None
    yield name, None
    if isinstance(node, checked_tree.Line):
        yield from _way_to_array(outcome, node.name)
