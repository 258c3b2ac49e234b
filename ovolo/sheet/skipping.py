"""Leaving out items of an array and bringing them back, as edits of its `skip`."""

from __future__ import annotations

from collections.abc import Iterator

from ovolo.problems import Failure
from ovolo.sheet import tree
from ovolo.sheet.edits import replaced, statement_named


def with_left_out(text: str, name: str, word: str, number: int, count: int) -> str:
    """The sheet in which the array that `word` makes in the line `name` leaves out one more of its
    `count` places."""
    statement = statement_named(text, name)
    call = _call(statement, word)
    skip = _skip(call)
    if skip is None:
        end = call.span[1] - 1
        return _rewritten(text, statement, end, end, f", skip = [{number}]")
    numbers = _numbers(skip, name)
    if number in (_counted(one, count) for one in numbers):
        raise Failure(f"item {number} of `{name}` is left out already")
    listed = ", ".join(str(one) for one in sorted([*numbers, number], key=lambda n: (n < 0, n)))
    return _rewritten(text, statement, *skip.value.span, f"[{listed}]")


def with_brought_back(text: str, name: str, word: str, number: int, count: int) -> str:
    """The same with a place filled again that was left out; a `skip` of nothing goes."""
    statement = statement_named(text, name)
    skip = _skip(_call(statement, word))
    numbers = [] if skip is None else _numbers(skip, name)
    kept = [one for one in numbers if _counted(one, count) != number]
    if skip is None or len(kept) == len(numbers):
        raise Failure(f"item {number} of `{name}` is not left out by `skip`")
    if kept:
        return _rewritten(text, statement, *skip.value.span, f"[{', '.join(map(str, kept))}]")
    comma = statement.text.rindex(",", 0, skip.span[0])
    return _rewritten(text, statement, comma, skip.span[1], "")


def _rewritten(text: str, statement: tree.Statement, start: int, end: int, new: str) -> str:
    return replaced(text, statement.line, statement.text[:start] + new + statement.text[end:])


def _call(statement: tree.Statement, word: str) -> tree.Call:
    content = statement.content
    value = content.value if isinstance(content, tree.Part | tree.Formula) else None
    for call in _calls(value):
        if call.function == word:
            return call
    raise Failure(f"`{statement.name}` does not make its items by `{word}`")


def _calls(node: tree.Node | None) -> Iterator[tree.Call]:
    """A call, the call of what it places, and so on inwards."""
    while isinstance(node, tree.Call):
        yield node
        node = node.arguments[0].value if node.arguments else None


def _skip(call: tree.Call) -> tree.Argument | None:
    return next((one for one in call.arguments if one.name == "skip"), None)


def _numbers(skip: tree.Argument, name: str) -> list[int]:
    """The numbers that are written as what is left out."""
    items = skip.value.items if isinstance(skip.value, tree.ListOfItems) else (skip.value,)
    if not all(isinstance(one, tree.Number) for one in items):
        raise Failure(f"what `{name}` skips is a formula", "change it where it is written")
    return [int(one.value) for one in items if isinstance(one, tree.Number)]


def _counted(number: int, count: int) -> int:
    """A number from the end, below 0, as one from the beginning."""
    return number + count if number < 0 else number
