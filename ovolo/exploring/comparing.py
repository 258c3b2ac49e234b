"""Two or more moments of a study, or studies, beside each other: what differs between them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from ovolo.exploring.trials import values_of
from ovolo.outcome.outcome import Outcome, show_line
from ovolo.quantities.dimension import MASS
from ovolo.quantities.show import show_quantity
from ovolo.sheet import tree


@dataclass(frozen=True, slots=True)
class Row:
    """One thing compared: what it is, its name, and how it is said on each side; empty where a side does
    not have it."""

    what: str
    name: str
    sides: list[str]
    differs: bool


@dataclass(frozen=True, slots=True)
class Comparison:
    """All that was compared, side by side under their titles."""

    titles: list[str]
    rows: list[Row]

    @property
    def differing(self) -> list[Row]:
        return [row for row in self.rows if row.differs]

    def as_json(self) -> dict[str, Any]:
        return asdict(self)


def compared(sides: Sequence[tuple[str, Outcome]]) -> Comparison:
    """Inputs, values, checks, pieces and masses of several outcomes, under their titles."""
    outcomes = [outcome for _, outcome in sides]
    rows = []
    for what, told in _TOLD.items():
        tables = [told(outcome) for outcome in outcomes]
        for name in dict.fromkeys(name for table in tables for name in table):
            said = [table.get(name, "") for table in tables]
            rows.append(Row(what, name, said, len(set(said)) > 1))
    return Comparison([title for title, _ in sides], rows)


def _values(outcome: Outcome) -> dict[str, str]:
    inputs = _inputs_of(outcome)
    return {name: said for name, said in values_of(outcome)[1].items() if name not in inputs}


def _inputs_of(outcome: Outcome) -> set[str]:
    return {line.name for line in outcome.program.inputs if line.name}


def _inputs(outcome: Outcome) -> dict[str, str]:
    return {
        line.line.name: str(show_line(line, outcome.units)).strip('"')
        for line in outcome.lines
        if isinstance(line.line.content, tree.Input) and line.line.name and line.has_value
    }


def _checks(outcome: Outcome) -> dict[str, str]:
    said = {True: "holds", False: "fails", None: "not known"}
    return {check.message or check.text: said[check.passed] for check in outcome.checks}


def _pieces(outcome: Outcome) -> dict[str, str]:
    return {part.label or name: str(part.count) for name, part in outcome.parts.items()}


def _masses(outcome: Outcome) -> dict[str, str]:
    return {
        part.label or name: str(show_quantity(part.mass, MASS, outcome.units))
        for name, part in outcome.parts.items()
        if part.mass is not None
    }


def _problems(outcome: Outcome) -> dict[str, str]:
    return {
        problem.name or f"line {problem.line}": problem.message
        for problem in outcome.problems
        if not problem.waiting
    }


_TOLD: Mapping[str, Callable[[Outcome], dict[str, str]]] = {
    "input": _inputs,
    "value": _values,
    "check": _checks,
    "pieces": _pieces,
    "mass": _masses,
    "problem": _problems,
}
