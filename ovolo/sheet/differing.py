"""Letting one item of an array differ: what is repeated becomes a function of its place, with an exception."""

from __future__ import annotations

from ovolo.problems import Failure
from ovolo.sheet import tree
from ovolo.sheet.edits import replaced, statement_named
from ovolo.sheet.names import local_names, references
from ovolo.sheet.skipping import array_call


def with_one_differing(text: str, name: str, word: str, number: int) -> str:
    """The sheet in which the array that `word` makes in the line `name` asks at each place whether it is
    that with this number, which has what all have, to be changed. Raises Failure."""
    statement = statement_named(text, name)
    call = array_call(statement, word)
    if not call.arguments:
        raise Failure(f"`{word}` in `{name}` repeats nothing")
    source = statement.text
    what, *rest = call.arguments
    new = _differing(source, statement, what.value, number)
    if call.name_span[0] > call.span[0]:  # post().row(5, 2 m)
        more = ", ".join(source[slice(*one.span)] for one in rest)
        written = f"{word}({new}{', ' if more else ''}{more})"
        start, end = call.span
    else:
        written = new
        start, end = what.value.span
    return replaced(text, statement.line, source[:start] + written + source[end:])


def _differing(source: str, statement: tree.Statement, what: tree.Node, number: int) -> str:
    """What is repeated as a function of its place with one exception more."""
    if isinstance(what, tree.Lambda):
        if len(what.parameters) != 1:
            raise Failure(f"what `{statement.name}` repeats takes more than a place", "change it in its line")  # fmt: skip
        place = what.parameters[0].name
        body, others = what.body, source[slice(*what.body.span)]
        same = others
        while isinstance(body, tree.Choice) and _is_exception(source, body, place):
            body = body.other
            same = source[slice(*body.span)]
        return f"{place} -> if {place}.index == {number} then {same} else {others}"
    same = source[slice(*what.span)]
    place = _free_name(statement, what)
    return f"{place} -> if {place}.index == {number} then {same} else {same}"


def _is_exception(source: str, choice: tree.Choice, place: str) -> bool:
    """Whether a choice asks for the number of a place."""
    return source[slice(*choice.condition.span)].replace(" ", "").startswith(f"{place}.index==")


def _free_name(statement: tree.Statement, what: tree.Node) -> str:
    """A name for the place that nothing in the line bears."""
    taken = set(local_names(statement.content)) | {name for name, _ in references(what)}
    return next(one for one in ("c", "place", "place_", "place__") if one not in taken)
