"""Quiet hints: what is not wrong, but had better be looked at."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from functools import lru_cache

from ovolo.problems import Note, Span
from ovolo.quantities.dimension import ANGLE, NUMBER
from ovolo.sheet import tree
from ovolo.sheet.names import references
from ovolo.words.all import WORDS

_ROUND_ANGLES = 15
"""Angles at multiples of this many degrees are geometry, not constants to be named."""

_HIDES_QUIETLY = frozenset({"x", "y", "z"})
"""Words so short that lines of that name are expected."""


def hints(statements: tuple[tree.Statement, ...]) -> Iterator[tuple[tree.Statement, Note]]:
    """The hints of a sheet, each with its statement."""
    yield from _unused_inputs(statements)
    yield from _repeated_constants(statements)
    yield from _hidden_words(statements)
    yield from _empty_comparisons(statements)


def _note(statement: tree.Statement, span: Span, message: str) -> tuple[tree.Statement, Note]:
    return statement, Note(*statement.place(span[0]), message)


def _unused_inputs(
    statements: tuple[tree.Statement, ...],
) -> Iterator[tuple[tree.Statement, Note]]:
    used: set[str] = set()
    for statement in statements:
        if not isinstance(statement.content, tree.Preset):
            used.update(name for name, _ in references(statement.content))
    if any(name in WORDS and WORDS[name].seeded for name in used):
        used.add("seed")
    for statement in statements:
        content = statement.content
        if isinstance(content, tree.Input) and content.name not in used:
            yield _note(statement, content.name_span, f"nothing uses the input `{content.name}`")


def _repeated_constants(
    statements: tuple[tree.Statement, ...],
) -> Iterator[tuple[tree.Statement, Note]]:
    places: dict[tuple[float, object], list[tuple[tree.Statement, tree.Number]]] = defaultdict(list)
    for statement in statements:
        if isinstance(statement.content, tree.Formula | tree.Part):
            for number in _constants(statement.content):
                places[number.value, number.dimension].append((statement, number))
    for found in places.values():
        if len(found) < 2:
            continue
        for statement, number in found:
            others = [str(other.line) for other, _ in found if other is not statement]
            written = statement.text[slice(*number.span)]
            where = f"line{'s' if len(others) > 1 else ''} {', '.join(others)}"
            message = f"{written} also stands in {where}; if it is the same thing, name it once"
            yield _note(statement, number.span, message)


@lru_cache(maxsize=50_000)
def _constants(content: tree.Formula | tree.Part) -> tuple[tree.Number, ...]:
    """The different quantities that stand within a formula; not one that is the whole of it,
    for then it is named."""
    found: dict[float, tree.Number] = {}
    waiting = [] if isinstance(content.value, tree.Number) else [content.value]
    while waiting:
        node = waiting.pop()
        if isinstance(node, tree.Number) and _worth_naming(node):
            found[node.value] = node
        waiting.extend(tree.children(node))
    return tuple(found.values())


def _worth_naming(number: tree.Number) -> bool:
    if number.bare or number.value == 0 or number.dimension == NUMBER:
        return False
    if number.dimension == ANGLE:
        degrees = number.value * 57.29577951308232
        return (
            abs(degrees / _ROUND_ANGLES - round(degrees / _ROUND_ANGLES)) > 1e-9
            and number.value != 1
        )
    return number.value != 1


def _hidden_words(
    statements: tuple[tree.Statement, ...],
) -> Iterator[tuple[tree.Statement, Note]]:
    for statement in statements:
        content = statement.content
        if isinstance(content, tree.Named) and content.name in WORDS.keys() - _HIDES_QUIETLY:
            message = f"`{content.name}` hides the word of that name"
            yield _note(statement, content.name_span, message)


def _empty_comparisons(
    statements: tuple[tree.Statement, ...],
) -> Iterator[tuple[tree.Statement, Note]]:
    for statement in statements:
        condition = getattr(statement.content, "condition", None)
        if not isinstance(statement.content, tree.Check) or not isinstance(
            condition, tree.Comparison
        ):
            continue
        said = ["".join(statement.text[slice(*side.span)].split()) for side in condition.operands]
        for left, right, side in zip(said, said[1:], condition.operands[1:], strict=False):
            if left == right:
                yield _note(statement, side.span, f"this compares {left} with itself")
