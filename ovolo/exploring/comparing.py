"""Two or more moments of a study, or studies, beside each other: what differs between them."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct

from ovolo.fields import fields_told
from ovolo.outcome.outcome import Outcome, plain_value, show_line
from ovolo.quantities.dimension import MASS, Dimension
from ovolo.quantities.kinds import GEOMETRY, FunctionKind, Quantity, innermost
from ovolo.quantities.show import NOISE, show_quantity, told_apart
from ovolo.running.evaluate import LineOutcome
from ovolo.sheet import tree


class Row(Struct, frozen=True):
    """One thing compared: what it is, its name, and how it is said on each side; empty where a side does
    not have it."""

    what: str
    name: str
    sides: list[str]
    differs: bool


class Comparison(Struct, frozen=True):
    """All that was compared, side by side under their titles."""

    titles: list[str]
    rows: list[Row]

    @property
    def differing(self) -> list[Row]:
        return [row for row in self.rows if row.differs]

    def as_json(self) -> dict[str, Any]:
        return fields_told(self)


class _Told(Struct, frozen=True):
    """One thing on one side: how it is said, and by what it is compared; of a figure also its run-time
    value (mm, radians, kg, s) and its dimension."""

    said: str
    value: Any
    figure: float = 0.0
    dimension: Dimension | None = None


def compared(sides: Sequence[tuple[str, Outcome]]) -> Comparison:
    """Inputs, values, checks, pieces and masses of several outcomes, under their titles. What differs is
    told by the values, whatever of them is seen."""
    outcomes = [outcome for _, outcome in sides]
    rows = []
    for what, told in _TOLD.items():
        tables = [dict(told(outcome)) for outcome in outcomes]
        for name in dict.fromkeys(name for table in tables for name in table):
            rows.append(_row(what, name, [table.get(name) for table in tables], outcomes))
    return Comparison([title for title, _ in sides], rows)


def _row(what: str, name: str, told: list[_Told | None], outcomes: list[Outcome]) -> Row:
    differs = any(
        one is None or other is None or not _same(one.value, other.value)
        for one, other in itertools.pairwise(told)
    )
    said = ["" if one is None else one.said for one in told]
    known = [one for one in told if one is not None and one.dimension is not None]
    if differs and len(set(said)) == 1 and len(known) == len(told):  # they differ further on
        assert known[0].dimension is not None
        figures = [one.figure for one in known]
        said = list(map(str, told_apart(figures, known[0].dimension, outcomes[0].units)))
    return Row(what, name, said, differs)


def _same(one: Any, other: Any) -> bool:
    """Whether two plain values are the same but for noise."""
    match one, other:
        case (bool(), _) | (_, bool()) | (str(), _) | (_, str()) | (None, _) | (_, None):
            return bool(one == other)
        case list(), list():
            return len(one) == len(other) and all(map(_same, one, other))
        case dict(), dict():
            return one.keys() == other.keys() and all(_same(one[key], other[key]) for key in one)
        case (int() | float(), int() | float()):
            return math.isclose(one, other, rel_tol=NOISE, abs_tol=NOISE)
    return False


Tellings = Iterator[tuple[str, _Told]]


def _inputs(outcome: Outcome) -> Tellings:
    return _lines(outcome, lambda content: isinstance(content, tree.Input))


def _values(outcome: Outcome) -> Tellings:
    drawn = tree.Input | tree.Part | tree.Dim
    return _lines(outcome, lambda content: not isinstance(content, drawn))


def _lines(outcome: Outcome, wanted: Callable[[tree.Content], bool]) -> Tellings:
    """The lines of a name that are figures, lists of them, texts and the like."""
    for line in outcome.lines:
        if line.line.name and line.has_value and wanted(line.line.content) and _is_plain(line):
            yield line.line.name, _line(line, outcome)


def _is_plain(line: LineOutcome) -> bool:
    kind = line.line.kind
    return kind is not None and not isinstance(kind, FunctionKind) and innermost(kind) not in GEOMETRY  # fmt: skip


def _line(line: LineOutcome, outcome: Outcome) -> _Told:
    kind = line.line.kind
    said = str(show_line(line, outcome.units)).strip('"')
    value = plain_value(line.value, kind)
    if isinstance(kind, Quantity):
        return _Told(said, value, float(line.value), kind.dimension)
    return _Told(said, value)


def _checks(outcome: Outcome) -> Tellings:
    said = {True: "holds", False: "fails", None: "not known"}
    return ((check.text, _Told(said[check.passed], check.passed)) for check in outcome.checks)


def _pieces(outcome: Outcome) -> Tellings:
    return ((name, _Told(str(part.count), part.count)) for name, part in outcome.parts.items())


def _masses(outcome: Outcome) -> Tellings:
    for name, part in outcome.parts.items():
        if part.mass is not None:
            said = str(show_quantity(part.mass, MASS, outcome.units))
            yield name, _Told(said, part.mass, part.mass, MASS)


def _problems(outcome: Outcome) -> Tellings:
    found: dict[str, list[str]] = {}
    for problem in outcome.problems:
        if not problem.waiting:
            found.setdefault(problem.name or f"line {problem.line}", []).append(problem.message)
    return ((name, _Told("; ".join(said), said)) for name, said in found.items())


_TOLD: Mapping[str, Callable[[Outcome], Tellings]] = {
    "input": _inputs,
    "value": _values,
    "check": _checks,
    "pieces": _pieces,
    "mass": _masses,
    "problem": _problems,
}
