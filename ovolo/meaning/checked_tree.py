"""The checked tree: every node knows its kind, every name what it stands for.

A function's body is checked anew for each combination of kinds it is used with, so one
line of a sheet may have several checked trees.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from msgspec import Struct

from ovolo.problems import Span
from ovolo.quantities.kinds import Kind
from ovolo.words.registry import Word


class Typed(Struct, frozen=True, eq=False):
    kind: Kind
    span: Span


class Constant(Typed, frozen=True):
    value: Any


class Line(Typed, frozen=True):
    """The value of another line of the sheet."""

    name: str


class LocalName(Typed, frozen=True):
    """A parameter, a loop variable or a local line of a block."""

    name: str


class JoinedText(Typed, frozen=True):
    pieces: tuple[str | Typed, ...]


class Operation(Typed, frozen=True):
    """A unary or binary operator, by the name of its rule in running/operators.py."""

    rule: str
    operands: tuple[Typed, ...]
    operator_span: Span
    said: str
    """The last operand as written, for messages."""


class Compared(Typed, frozen=True):
    operands: tuple[Typed, ...]
    operators: tuple[str, ...]
    within: Typed | None


class Both(Typed, frozen=True):
    """`and` / `or`: later operands are run only where they matter."""

    operator: str
    operands: tuple[Typed, ...]


class Opposite(Typed, frozen=True):
    operand: Typed


class Chosen(Typed, frozen=True):
    condition: Typed
    chosen: Typed
    other: Typed


class Steps(Typed, frozen=True):
    """A range A .. B by S."""

    start: Typed
    end: Typed
    step: Typed | None


class Items(Typed, frozen=True):
    """A list written item by item."""

    items: tuple[Typed, ...]


class Loop(Typed, frozen=True):
    """One `for name in source [if condition]`."""

    name: str
    source: Typed
    condition: Typed | None


class ForEach(Typed, frozen=True):
    loops: tuple[Loop, ...]
    body: Typed


class PointOf(Typed, frozen=True):
    coordinates: tuple[Typed, ...]


class WordCall(Typed, frozen=True):
    """A word with its arguments in the places of its Python parameters."""

    word: Word
    positional: tuple[Typed, ...]
    named: tuple[tuple[str, Typed], ...]
    whole: tuple[int | str, ...]
    """Which of the arguments must be whole numbers when it runs."""


class FunctionCall(Typed, frozen=True):
    """A function of the sheet, or a function value; its body checked for these kinds."""

    function: Typed
    title: str
    parameters: tuple[str, ...]
    arguments: tuple[Typed, ...]
    body: Typed
    source: Source


class StudyCall(Typed, frozen=True):
    """A study used as a function: the values of some of its inputs by their names."""

    function: Typed
    names: tuple[str, ...]
    arguments: tuple[Typed, ...]


class FunctionValue(Typed, frozen=True):
    """A function as a value; at run time it is the local values it was made among."""


class Applied(Typed, frozen=True):
    """A function value handed to a word, its body checked for the kinds the word gives it."""

    function: Typed
    parameters: tuple[str, ...]
    body: Typed
    source: Source


class Locals(Typed, frozen=True):
    """A block: local lines in order, then the value."""

    lines: tuple[tuple[str, Typed], ...]
    value: Typed


class Coordinate(Typed, frozen=True):
    owner: Typed
    axis: int


class Field(Typed, frozen=True):
    owner: Typed
    name: str


class ItemAt(Typed, frozen=True):
    owner: Typed
    index: Typed
    said: str
    """The list as written, for messages."""


class ItemsAt(Typed, frozen=True):
    """Some items of a list, by a list of their numbers."""

    owner: Typed
    indexes: Typed
    said: str
    """The list as written, for messages."""


class Source(Struct, frozen=True):
    """The line of the sheet in which a function's body stands; no name for the line at hand."""

    name: str | None = None
    line: int = 0


def descendants(node: Typed) -> Iterator[Typed]:
    """All nodes within a node, itself first; bodies of functions elsewhere are not entered."""
    yield node
    for child in children(node):
        yield from descendants(child)


def with_bodies(node: Typed) -> Iterator[Typed]:
    """All nodes within a node, itself first, and within the functions that it calls; each once."""
    seen: set[int] = set()
    waiting = [node]
    while waiting:
        one = waiting.pop()
        if id(one) in seen:
            continue
        seen.add(id(one))
        yield one
        waiting += children(one)
        if isinstance(one, FunctionCall | Applied):
            waiting.append(one.body)


def children(node: Typed) -> Iterator[Typed]:
    """The nodes right within a node; the body of a function elsewhere is none."""
    for name in node.__struct_fields__:
        if name == "body" and isinstance(node, FunctionCall | Applied):
            continue
        yield from _within(getattr(node, name))


def _within(value: Any) -> Iterator[Typed]:
    if isinstance(value, Typed):
        yield value
    elif isinstance(value, tuple):
        for item in value:
            yield from _within(item)
