"""One value of a study as a function of its inputs, with how far its checks are from failing."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.meaning import checked_tree
from ovolo.meaning.program import Program, ProgramLine
from ovolo.outcome.outcome import check_message
from ovolo.problems import Failure, meant
from ovolo.quantities.dimension import usual_size
from ovolo.quantities.kinds import GEOMETRY, Quantity, innermost
from ovolo.running.evaluate import LineOutcome, Memo, evaluate_only
from ovolo.sheet import tree

FAILS = -1.0
"""The margin of a check that fails, or cannot be tried, and has no figures to tell by how much."""


class Reading(Struct, frozen=True):
    """What was read at one setting: the value, None where it has none; why not; and by its line the
    margin of each check: above 0 where it holds, by a share of what is compared."""

    value: float | None
    why: str
    margins: Mapping[int, float]
    messages: Mapping[int, str]

    @property
    def failing(self) -> list[str]:
        """The checks that fail, in their words."""
        return [self.messages[line] for line, margin in self.margins.items() if margin < 0]

    @property
    def shortfall(self) -> float:
        """How far all failing checks together are from holding."""
        return -sum(min(margin, 0.0) for margin in self.margins.values())


class Probe:
    """Reads the value of the line `name`, and the checks that are figures or geometry alike, at any
    setting. Raises Failure where no such line has one figure."""

    def __init__(
        self, program: Program, name: str, present: Mapping[str, Any], checks: bool = True
    ) -> None:
        self.program, self.present = program, dict(present)
        self.line = figure_line(program, name)
        self.checks = [
            line for line in program.lines if checks and isinstance(line.content, tree.Check)
        ]
        self._memo = Memo(400)
        self.count = 0

    def without_checks(self) -> Probe:
        """The same value, read by itself: quicker."""
        return Probe(self.program, self.line.name or "", self.present, checks=False)

    @property
    def is_of_figures(self) -> bool:
        """Whether nothing is made, and no function called, on the way to the value: then it is quickly read."""
        checked = [line.checked for line in self.program.upstream([self.line])]
        values = [one.value for one in checked if one is not None and one.value is not None]
        nodes = [node for value in values for node in checked_tree.descendants(value)]
        return not any(_takes_time(node) for node in nodes)

    @property
    def kind(self) -> Quantity:
        assert isinstance(self.line.kind, Quantity)
        return self.line.kind

    def at(self, values: Mapping[str, Any]) -> Reading:
        self.count += 1
        lines = [self.line, *self.checks]
        found = evaluate_only(self.program, lines, {**self.present, **values}, self._memo)
        by_line = {id(one.line): one for one in found}
        own = by_line[id(self.line)]
        value = float(own.value) if own.has_value else None
        why = own.problems[0].message if own.problems and value is None else ""
        margins, messages = {}, {}
        for check in self.checks:
            one = by_line[id(check)]
            margins[check.statement.line] = margin_of(one)
            messages[check.statement.line] = check_message(one) or _condition(check)
        return Reading(value, why, margins, messages)


def figure_line(program: Program, name: str) -> ProgramLine:
    """The line of a name that has one figure. Raises Failure where there is none."""
    line = program.by_name.get(name)
    if line is None:
        known = [one.name for one in program.lines if one.name]
        raise Failure(f"no line is called `{name}`", meant(name, known))
    if line.kind is None:
        raise Failure(f"`{name}` has a problem of its own")
    if not isinstance(line.kind, Quantity):
        raise Failure(f"`{name}` is {line.kind.said}, and has no figure to aim at")
    return line


def _takes_time(node: checked_tree.Typed) -> bool:
    called = isinstance(node, checked_tree.FunctionCall | checked_tree.Applied)
    return called or innermost(node.kind) in GEOMETRY


def _condition(line: ProgramLine) -> str:
    assert isinstance(line.content, tree.Check)
    return line.statement.in_one_line(line.content.condition.span)


def margin_of(outcome: LineOutcome) -> float:
    """How far a check is from failing, as a share of what is compared; below 0 where it fails."""
    if not outcome.has_value:
        return FAILS
    compared = outcome.line.checked.value if outcome.line.checked is not None else None
    holds = bool(outcome.value)
    if not isinstance(compared, checked_tree.Compared) or outcome.result is None:
        return -FAILS if holds else FAILS
    kind = compared.operands[0].kind
    if not isinstance(kind, Quantity):
        return -FAILS if holds else FAILS
    sides = [float(outcome.result.terms[f"side {at}"]) for at in range(len(compared.operands))]
    size = usual_size(kind.dimension)
    margins = [
        _gap(operator, a, b) / max(abs(a), abs(b), size)
        for operator, a, b in zip(compared.operators, sides, sides[1:], strict=False)
    ]
    least = float(min(margins))
    # The check itself decides; figures only tell by how much.
    return max(least, 0.0) if holds else min(least, -1e-12)


def _gap(operator: str, a: float, b: float) -> float:
    match operator:
        case "<" | "<=":
            return b - a
        case ">" | ">=":
            return a - b
        case "==":
            return -float(np.abs(a - b))
    return float(np.abs(a - b))
