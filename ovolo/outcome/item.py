"""One item of an array: its index, and the local values that made it."""

from __future__ import annotations

import itertools
import time
from collections.abc import Iterator
from typing import Any

from msgspec import Struct

from ovolo.meaning import checked_tree
from ovolo.outcome.answers import LocalValueSaid
from ovolo.outcome.outcome import Outcome, show_value
from ovolo.outcome.part import construction_of
from ovolo.problems import Failure
from ovolo.quantities.kinds import GEOMETRY, POINT, TEXT, YES_NO, Kind, ListOf, PointKind, Quantity
from ovolo.running.code import Frame, Run, compiled, until
from ovolo.running.comprehensions import item_frames
from ovolo.running.evaluate import LineOutcome, running
from ovolo.running.values import Gap

SECONDS = 2.0


class LocalValue(Struct, frozen=True):
    """A local value: a loop variable, a parameter, a local line, or what a word was given."""

    name: str
    shown: str

    def as_json(self) -> LocalValueSaid:
        return {"name": self.name, "shown": self.shown}


def item_values(outcome: Outcome, name: str, index: int) -> list[LocalValue]:
    """The local values of an item of the line `name`; empty where it is not made item by item.

    Raises Failure where there is no such line or item.
    """
    line = next((one for one in outcome.lines if one.line.name == name), None)
    if line is None or not line.has_value or line.line.checked is None:
        raise Failure(f"there is nothing called `{name}`")
    node = _comprehension(line.line.checked.value, outcome)
    if node is None:
        return _whereabouts(line, index, outcome)
    with running(outcome.program.tolerance), until(time.monotonic() + SECONDS):
        return _values_of(node, line, index, outcome)


def _values_of(
    node: checked_tree.ForEach, line: LineOutcome, index: int, outcome: Outcome
) -> list[LocalValue]:
    values = {one.line.name: one.value for one in outcome.lines if one.line.name and one.has_value}
    frame: Frame = {None: Run(values, outcome.units, [])}
    inner = next(itertools.islice(item_frames(node)(frame), index, None), None)
    if inner is None or isinstance(inner, Gap):
        raise Failure(f"`{line.line.name}` has no item {index}")
    explained = _Explained(outcome)
    for loop in node.loops:
        assert isinstance(loop.source.kind, ListOf)
        explained.add(loop.name, inner[loop.name], loop.source.kind.item)
    explained.body(node.body, inner)
    return explained.found


def _whereabouts(line: LineOutcome, index: int, outcome: Outcome) -> list[LocalValue]:
    """Of an item of an array that a word makes: its number, and the middle of its bounds."""
    if not isinstance(line.line.kind, ListOf):
        return []
    array = construction_of(line)
    if array is None or array.kind not in GEOMETRY:
        return []
    box = array.bounds_of(index)
    if box is None:
        raise Failure(f"`{line.line.name}` has no item {index}")
    middle = show_value(box.mean(axis=0), POINT, outcome.units)
    return [LocalValue("index", str(index)), LocalValue("middle", str(middle))]


def _comprehension(
    node: checked_tree.Typed | None, outcome: Outcome
) -> checked_tree.ForEach | None:
    """The comprehension whose items are those of a value, placed or not, item by item."""
    match node:
        case checked_tree.ForEach(body=body) if not isinstance(body.kind, ListOf):
            return node
        case checked_tree.Line(name=name):
            checked = outcome.program.by_name[name].checked
            return _comprehension(checked.value, outcome) if checked is not None else None
        case checked_tree.WordCall(word=word, positional=(first, *_)) if word.trade == "placing":
            return _comprehension(first, outcome)
    return None


class _Explained:
    """Local values as they are met on the way down into the body of a comprehension."""

    def __init__(self, outcome: Outcome) -> None:
        self.units = outcome.units
        self.found: list[LocalValue] = []

    def add(self, name: str, value: Any, kind: Kind | None) -> None:
        if isinstance(kind, Quantity | PointKind) or kind in (YES_NO, TEXT):
            self.found.append(LocalValue(name, str(show_value(value, kind, self.units))))

    def body(self, node: checked_tree.Typed, frame: Frame) -> None:
        """The local lines of a function called, and what words were given that varies."""
        match node:
            case checked_tree.FunctionCall():
                self._function(node, frame)
            case checked_tree.Locals(lines=lines, value=value):
                inner = dict(frame)
                for name, line in lines:
                    inner[name] = compiled(line)(inner)
                    self.add(name, inner[name], line.kind)
                self.body(value, inner)
            case checked_tree.Chosen():
                chosen = compiled(node.condition)(frame)
                self.body(node.chosen if chosen else node.other, frame)
            case checked_tree.WordCall():
                if node.positional:
                    self.body(node.positional[0], frame)
                for name, value in _arguments(node):
                    if _is_local(value):
                        self.add(f"{node.word.name} {name}", compiled(value)(frame), value.kind)

    def _function(self, node: checked_tree.FunctionCall, frame: Frame) -> None:
        inner: Frame = {**compiled(node.function)(frame), None: frame[None]}
        for name, argument in zip(node.parameters, node.arguments, strict=True):
            inner[name] = compiled(argument)(frame)
            if not isinstance(argument, checked_tree.LocalName):
                self.add(name, inner[name], argument.kind)
        self.body(node.body, inner)


def _arguments(node: checked_tree.WordCall) -> Iterator[tuple[str, checked_tree.Typed]]:
    """The further arguments of a word by name."""
    names = [parameter.name for parameter in node.word.parameters]
    for at, value in enumerate(node.positional[1:], start=1):
        yield names[min(at, len(names) - 1)], value
    for name, value in node.named:
        yield name.rstrip("_"), value


def _is_local(node: checked_tree.Typed) -> bool:
    """Whether a value depends on a local name, and is not simply one."""
    return not isinstance(node, checked_tree.LocalName) and any(
        isinstance(one, checked_tree.LocalName) for one in checked_tree.descendants(node)
    )
