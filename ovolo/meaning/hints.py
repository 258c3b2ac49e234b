"""Quiet hints: what is not wrong, but had better be looked at."""

from __future__ import annotations

import math
import re
from collections import defaultdict
from collections.abc import Iterator
from functools import cached_property, lru_cache

from msgspec import Struct

from ovolo.problems import Note, Span, unforeseen
from ovolo.quantities.dimension import ANGLE, dimension_name
from ovolo.quantities.units import unit_named
from ovolo.remembering import remembers
from ovolo.sheet import tree
from ovolo.sheet.names import references
from ovolo.words.all import WORDS

_ROUND_ANGLES = 15
"""Angles at multiples of this many degrees are geometry, not constants to be named."""

_OTHERS_NAMED = 6
"""So many other lines with the same figure are named."""

_PLAIN_SHARES = frozenset({0.5, 0.25, 0.75, 1.5, 0.1, 0.01, 0.001, 0.0001, 1e-6})
"""Plain numbers that are arithmetic rather than figures of a design."""

_LARGE = frozenset({"in", "ft", "yd", "mi"})
"""Units of which everybody writes fractions."""


class Hints:
    """The hints of a sheet, which are looked for when somebody asks for the first of them."""

    def __init__(self, statements: tuple[tree.Statement, ...]) -> None:
        self._statements = statements

    def on(self, statement: tree.Statement) -> tuple[Note, ...]:
        """Those on one of its statements."""
        return tuple(self._found.get(id(statement), ()))

    @cached_property
    def _found(self) -> dict[int, list[Note]]:
        found: dict[int, list[Note]] = defaultdict(list)
        try:
            for statement, note in _hints(self._statements):
                found[id(statement)].append(note)
        except Exception as error:  # a sheet is well without hints
            unforeseen(error, "the hints")
        return found


def _hints(statements: tuple[tree.Statement, ...]) -> Iterator[tuple[tree.Statement, Note]]:
    yield from _unused_inputs(statements)
    yield from _repeated_constants(statements)
    yield from _hidden_words(statements)
    yield from _empty_comparisons(statements)
    yield from _units_or_names(statements)
    yield from _fractions_of_units(statements)


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
        for number in _contained(statement.content).constants:
            places[number.value, number.dimension].append((statement, number))
    for found in places.values():
        if len(found) < 2:
            continue
        first = [other for other, _ in found[: _OTHERS_NAMED + 1]]
        for statement, number in found:
            others = [str(other.line) for other in first if other is not statement][:_OTHERS_NAMED]
            more = len(found) - 1 - len(others)
            written = _written(statement, number)
            where = f"line{'s' if len(others) > 1 else ''} {', '.join(others)}"
            where += f" and {more} more" if more > 0 else ""
            message = f"{written} also stands in {where}; if it is the same thing, name it once"
            yield _note(statement, number.span, message)


class _Contained(Struct, frozen=True):
    """What hints look for within a statement, in its order."""

    names: frozenset[str]
    """Those that it gives itself: to parameters, loop variables and local lines."""

    with_unit: tuple[tree.Number, ...]
    constants: tuple[tree.Number, ...]
    """The different ones within a formula that had better have a name; not one that is the whole of
    it, for then it has, and not what stands in a power, which is no figure of the design."""


@lru_cache(maxsize=50_000)
def _contained(content: tree.Content) -> _Contained:
    value = content.value if isinstance(content, tree.Formula | tree.Part) else None
    design = None if isinstance(value, tree.Number) else value
    names: set[str] = set()
    numbers: list[tree.Number] = []
    constants: dict[float, tree.Number] = {}
    waiting: list[tuple[tree.Node | tree.Content, bool]] = [(content, False)]
    while waiting:
        node, counts = waiting.pop()
        counts = counts or node is design
        if isinstance(node, tree.Number):
            numbers.append(node)
            if counts and _worth_naming(node):
                constants.setdefault(node.value, node)
            continue
        if isinstance(node, tree.Parameter | tree.Each | tree.Local):
            names.add(node.name)
        within = tree.children(node)
        power = isinstance(node, tree.Binary) and node.operator == "^"
        waiting += [
            (within[at], counts and not (power and at > 0)) for at in range(len(within) - 1, -1, -1)
        ]
    with_unit = sorted((one for one in numbers if not one.bare), key=lambda one: one.span)
    return _Contained(frozenset(names), tuple(with_unit), tuple(constants.values()))


remembers(_contained.cache_clear)


def _worth_naming(number: tree.Number) -> bool:
    if number.value == 0:
        return False
    if number.dimension == ANGLE:
        degrees = math.degrees(number.value)
        round_one = abs(degrees / _ROUND_ANGLES - round(degrees / _ROUND_ANGLES)) <= 1e-9
        return not (round_one or number.value == 1)
    if number.bare:
        return not (number.value.is_integer() or abs(number.value) in _PLAIN_SHARES)
    if number.unit.startswith(":") or number.unit in ("ft in", "'"):
        return True
    return not math.isclose(
        number.value, unit_named(number.unit).size
    )  # one of a unit is that unit


def _hidden_words(
    statements: tuple[tree.Statement, ...],
) -> Iterator[tuple[tree.Statement, Note]]:
    """Functions and studies that are called instead of a word, and lines instead of a constant. (A
    line with a value hides no word that is called: `width(body)` stays what it is.)"""
    for statement in statements:
        content = statement.content
        if not isinstance(content, tree.Named) or content.name not in WORDS:
            continue
        called = isinstance(content, tree.Use) or (
            isinstance(content, tree.Formula) and content.parameters is not None
        )
        constant = WORDS[content.name].constant and content.name not in _AXES
        if called or constant:
            message = f"`{content.name}` hides the word of that name"
            yield _note(statement, content.name_span, message)


_AXES = frozenset({"x", "y", "z"})
"""Constants so short that lines of that name are expected."""


def _units_or_names(
    statements: tuple[tree.Statement, ...],
) -> Iterator[tuple[tree.Statement, Note]]:
    """`2 t`, where there is a line `t`: two tonnes, or twice the line?"""
    lines = {one.name for one in statements if isinstance(one.content, tree.Named)}
    for statement in statements:
        said: set[str] = set()  # each once in a line
        local = _contained(statement.content).names
        for number in _contained(statement.content).with_unit:
            unit = re.split(r"[*·/^²³]", number.unit)[0]
            if unit in said or number.unit in ("ft in", "'"):
                continue
            if unit not in lines and unit not in local:
                continue
            said.add(unit)
            written = _written(statement, number)
            figure = written.removesuffix(number.unit).strip()
            what = dimension_name(number.dimension)
            message = (
                f"{written} is {'an' if what[0] in 'aeiou' else 'a'} {what} here, in the unit "
                f"{unit}; for so many times the name `{unit}` write {figure} * {number.unit}"
            )
            yield _note(statement, number.span, message)


def _fractions_of_units(
    statements: tuple[tree.Statement, ...],
) -> Iterator[tuple[tree.Statement, Note]]:
    """`1/20 mm`: a twentieth of a millimetre, or one by 20 mm?"""
    for statement in statements:
        for number in _contained(statement.content).with_unit:
            written = _written(statement, number)
            found = re.fullmatch(r"(\d+)/(\d+) ?(\D+)", written)
            if found and number.unit not in _LARGE:
                message = f"{written} is a fraction of the unit; to divide by {found[2]} {found[3]} write {found[1]} / ({found[2]} {found[3]})"
                yield _note(statement, number.span, message)


def _written(statement: tree.Statement, number: tree.Number) -> str:
    """A figure as it is written, without sign and brackets."""
    return " ".join(statement.text[slice(*number.span)].strip("()-−+ ").split())


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
