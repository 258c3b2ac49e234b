"""The value of an input against its limits, its step and its choices."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from ovolo.meaning.program import (
    Program,
    ProgramLine,
    choices_of,
    figures_in,
    problem_at,
)
from ovolo.problems import Failure, Problem
from ovolo.quantities.dimension import NUMBER, Dimension, usual_size
from ovolo.quantities.kinds import figure_kind
from ovolo.quantities.show import told_apart
from ovolo.running.code import shown_text
from ovolo.running.operators import compare, equal
from ovolo.sheet import tree
from ovolo.words.rounding import snapped


def limits_passed(
    line: ProgramLine, value: Any, terms: Mapping[str, Any], program: Program
) -> list[Problem]:
    """An input outside its limits, limits the wrong way round, a step that is none, a choice
    that is not offered. The value stands all the same, so that extremes can be tried."""
    content = line.content
    assert isinstance(content, tree.Input)
    problems: list[Problem] = []

    def report(message: str, hint: str, node: tree.Node | None) -> None:
        span = content.value.span if node is None else node.span
        problems.append(problem_at(line.statement, Failure(message, hint, span)))

    figure = figure_kind(line.kind)
    if figure is not None:
        _Limits(line, value, terms, program, figure.dimension, report).report_all()
    offered = choices_of(line)
    if offered and not any(equal(value, choice) for choice in offered):
        said = ", ".join(
            f'"{choice}"'
            if isinstance(choice, str)
            else shown_text(choice, figure or line.kind, program.units)
            for choice in offered
        )
        report("this value is not among the choices", f"one of {said}", None)
    return problems


def _is_bare(node: tree.Node) -> bool:
    """Whether a figure, or the first of several, is written without a unit."""
    match node:
        case tree.Number():
            return node.bare
        case tree.ListOfItems(items=items) | tree.Point(coordinates=items):
            return all(_is_bare(item) for item in items)
    return False


class _Limits:
    """The figures of an input against its limits and its step."""

    def __init__(
        self,
        line: ProgramLine,
        value: Any,
        terms: Mapping[str, Any],
        program: Program,
        dimension: Dimension,
        report: Callable[[str, str, tree.Node | None], None],
    ) -> None:
        assert isinstance(line.content, tree.Input)
        self.content, self.report = line.content, report
        self.dimension, self.units = dimension, program.units
        self.size = usual_size(dimension)
        self.figures = figures_in(value, line.kind)
        self.low, self.high, self.step = (terms.get(one) for one in ("low", "high", "step"))

    def report_all(self) -> None:
        if self.step is not None and self.step <= 0:
            (step,) = self.shown(self.step)
            self.report(f"the step is {step}", "a step must be more than 0", self.content.step)
        if self.low is not None and self.high is not None and self.beyond(self.low, ">", self.high):
            low, high = self.shown(self.low, self.high)
            self.report(
                f"the lower limit {low} is above the upper limit {high}",
                "write from the lower to the upper", self.content.low,
            )  # fmt: skip
            return
        for figure in self.figures:
            if self._is_refused(figure):
                return

    def _is_refused(self, figure: float) -> bool:
        """Reports the first thing that stands against a figure, if there is one."""
        for limit, operator, said, allowed in (
            (self.low, "<", "below the lower", "at least"), (self.high, ">", "above the upper", "at most"),
        ):  # fmt: skip
            if limit is not None and self.beyond(figure, operator, limit):
                one, other = self.shown(figure, limit)
                self.report(
                    f"{one} is {said} limit {other}", f"{allowed} {other}, or another limit", None
                )
                return True
        if self.counts() and snapped(figure) != round(figure):
            (one,) = self.shown(figure)
            said = f"{one} is not a whole number, and this input goes in whole steps"
            self.report(said, f"{math.floor(figure)} or {math.ceil(figure)}", None)
            return True
        return False

    def counts(self) -> bool:
        """Whether the input counts: a plain number in whole steps from a whole number."""
        plain = self.dimension == NUMBER and _is_bare(self.content.value)
        start = 0.0 if self.low is None else float(self.low)
        return plain and self.step is not None and self.step > 0 and all(
            float(one).is_integer() for one in (self.step, start)
        )  # fmt: skip

    def beyond(self, one: float, operator: str, other: float) -> bool:
        return bool(compare(operator, one, other, size=self.size))

    def shown(self, *values: float) -> list[str]:
        return [str(one) for one in told_apart([*map(float, values)], self.dimension, self.units)]
