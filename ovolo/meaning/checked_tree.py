"""The checked tree: every node knows its kind, every name what it stands for.

A function's body is checked anew for each combination of kinds it is used with, so one
line of a sheet may have several checked trees.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields
from typing import Any

from ovolo.nodes import node
from ovolo.problems import Span
from ovolo.quantities.kinds import Kind
from ovolo.words.registry import Word


@node
class Typed:
    kind: Kind
    span: Span


@node
class Constant(Typed):
    value: Any


@node
class Line(Typed):
    """The value of another line of the sheet."""

    name: str


@node
class LocalName(Typed):
    """A parameter, a loop variable or a local line of a block."""

    name: str


@node
class JoinedText(Typed):
    pieces: tuple[str | Typed, ...]


@node
class Operation(Typed):
    """A unary or binary operator, by the name of its rule in running/operators.py."""

    rule: str
    operands: tuple[Typed, ...]
    operator_span: Span
    said: str
    """The last operand as written, for messages."""


@node
class Compared(Typed):
    operands: tuple[Typed, ...]
    operators: tuple[str, ...]
    within: Typed | None


@node
class Both(Typed):
    """`and` / `or`: later operands are run only where they matter."""

    operator: str
    operands: tuple[Typed, ...]


@node
class Opposite(Typed):
    operand: Typed


@node
class Chosen(Typed):
    condition: Typed
    chosen: Typed
    other: Typed


@node
class Steps(Typed):
    """A range A .. B by S."""

    start: Typed
    end: Typed
    step: Typed | None


@node
class Items(Typed):
    """A list written item by item."""

    items: tuple[Typed, ...]


@node
class Loop(Typed):
    """One `for name in source [if condition]`."""

    name: str
    source: Typed
    condition: Typed | None


@node
class ForEach(Typed):
    loops: tuple[Loop, ...]
    body: Typed


@node
class PointOf(Typed):
    coordinates: tuple[Typed, ...]


@node
class WordCall(Typed):
    """A word with its arguments in the places of its Python parameters."""

    word: Word
    positional: tuple[Typed, ...]
    named: tuple[tuple[str, Typed], ...]
    whole: tuple[int | str, ...]
    """Which of the arguments must be whole numbers when it runs."""


@node
class FunctionCall(Typed):
    """A function of the sheet, or a function value; its body checked for these kinds."""

    function: Typed
    title: str
    parameters: tuple[str, ...]
    arguments: tuple[Typed, ...]
    body: Typed
    source: Source


@node
class StudyCall(Typed):
    """A study used as a function: the values of some of its inputs by their names."""

    function: Typed
    names: tuple[str, ...]
    arguments: tuple[Typed, ...]


@node
class FunctionValue(Typed):
    """A function as a value; at run time it is the local values it was made among."""


@node
class Applied(Typed):
    """A function value handed to a word, its body checked for the kinds the word gives it."""

    function: Typed
    parameters: tuple[str, ...]
    body: Typed
    source: Source


@node
class Locals(Typed):
    """A block: local lines in order, then the value."""

    lines: tuple[tuple[str, Typed], ...]
    value: Typed


@node
class Coordinate(Typed):
    owner: Typed
    axis: int


@node
class Field(Typed):
    owner: Typed
    name: str


@node
class ItemAt(Typed):
    owner: Typed
    index: Typed
    said: str
    """The list as written, for messages."""


@node
class ItemsAt(Typed):
    """Some items of a list, by a list of their numbers."""

    owner: Typed
    indexes: Typed
    said: str
    """The list as written, for messages."""


@dataclass(frozen=True, slots=True)
class Source:
    """The line of the sheet in which a function's body stands; no name for the line at hand."""

    name: str | None = None
    line: int = 0


def descendants(node: Typed) -> Iterator[Typed]:
    """All nodes within a node, itself first; bodies of functions elsewhere are not entered."""
    yield node
    for child in children(node):
        yield from descendants(child)


def children(node: Typed) -> Iterator[Typed]:
    """The nodes right within a node; the body of a function elsewhere is none."""
    for item in fields(node):
        if item.name == "body" and isinstance(node, FunctionCall | Applied):
            continue
        yield from _within(getattr(node, item.name))


def _within(value: Any) -> Iterator[Typed]:
    if isinstance(value, Typed):
        yield value
    elif isinstance(value, tuple):
        for item in value:
            yield from _within(item)
