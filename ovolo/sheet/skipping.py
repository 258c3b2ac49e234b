"""Leaving out items of an array and bringing them back, as edits of its `skip`."""

from __future__ import annotations

from collections.abc import Iterator

from ovolo.problems import Failure
from ovolo.sheet import tree
from ovolo.sheet.edits import rewritten, statement_named, with_its_comma


def with_left_out(
    text: str, name: str, word: str, number: int, count: int, columns: int | None = None
) -> str:
    """The sheet in which the array that `word` makes in the line `name` leaves out one more of its
    `count` places; of a grid of so many `columns` by column and row where others are written so."""
    statement = statement_named(text, name)
    call = array_call(statement, word)
    skip = _skip(call)
    if skip is None:
        end = call.span[1] - 1
        return rewritten(text, statement, (end, end), f", skip = [{number}]")
    written = _written(skip, name, count, columns)
    if number in (known for known, _ in written):
        raise Failure(f"item {number} of `{name}` is left out already")
    new = str(number)
    if columns and written and written[0][1].startswith("("):
        new = f"({number % columns}, {number // columns})"
    return _listed(text, statement, skip, [*written, (number, new)])


def with_brought_back(
    text: str, name: str, word: str, number: int, count: int, columns: int | None = None
) -> str:
    """The same with a place filled again that was left out; a `skip` of nothing goes."""
    statement = statement_named(text, name)
    skip = _skip(array_call(statement, word))
    written = [] if skip is None else _written(skip, name, count, columns)
    kept = [one for one in written if one[0] != number]
    if skip is None or len(kept) == len(written):
        raise Failure(f"item {number} of `{name}` is not left out by `skip`")
    if kept:
        return _listed(text, statement, skip, kept)
    return rewritten(text, statement, with_its_comma(statement.text, skip.span), "")


def _listed(
    text: str, statement: tree.Statement, skip: tree.Argument, written: list[tuple[int, str]]
) -> str:
    """The sheet with these as what is skipped, in the order of their numbers."""
    listed = ", ".join(one for _, one in sorted(written))
    return rewritten(text, statement, skip.value.span, f"[{listed}]")


def array_call(statement: tree.Statement, word: str) -> tree.Call:
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


def _written(
    skip: tree.Argument, name: str, count: int, columns: int | None
) -> list[tuple[int, str]]:
    """The number of each place that is skipped, counted from the beginning, and how it is written."""
    items = skip.value.items if isinstance(skip.value, tree.ListOfItems) else (skip.value,)
    found = []
    for one in items:
        match one:
            case tree.Number(value=value):
                number = int(value)
                found.append((number + count if number < 0 else number, str(number)))
            case tree.Point(coordinates=(tree.Number(value=column), tree.Number(value=row))) if (
                columns
            ):
                at = int(row) % (count // columns) * columns + int(column) % columns
                found.append((at, f"({int(column)}, {int(row)})"))
            case _:
                raise Failure(f"what `{name}` skips is a formula", "change it where it is written")
    return found
