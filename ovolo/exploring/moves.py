"""What an input moves: which lines change for a small step of it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.exploring.settings import input_line
from ovolo.meaning.program import Program, choices_of, figures_in, value_of
from ovolo.outcome.answers import MoveSaid
from ovolo.outcome.outcome import Outcome, show_line
from ovolo.quantities.kinds import YES_NO, figure_kind
from ovolo.running.evaluate import LineOutcome, Memo, evaluate
from ovolo.running.operators import equal
from ovolo.sheet import tree


class Move(Struct, frozen=True):
    """A line that changes, with its value before and after the step."""

    line: int
    name: str
    before: str
    after: str

    def as_json(self) -> MoveSaid:
        return {"line": self.line, "name": self.name, "before": self.before, "after": self.after}


def moves_of(
    program: Program, settings: Mapping[str, Any], name: str, memo: Memo | None = None
) -> list[Move]:
    """The lines whose results change when the input `name` goes one small step.

    Raises Failure where there is no such input.
    """
    input_line(program, name)
    memo = memo or Memo()
    before = Outcome(program, evaluate(program, settings, memo))
    at = next(one for one in before.lines if one.line.name == name)
    if not at.has_value:
        return []
    stepped = {**settings, name: _stepped(at)}
    after = Outcome(program, evaluate(program, stepped, memo))
    return [
        Move(old.line.statement.line, old.line.name or "", _said(old, before), _said(new, after))
        for old, new in zip(before.lines, after.lines, strict=True)
        if old.line.name != name and _print(old) != _print(new)
    ]


def _print(one: LineOutcome) -> object:
    """What tells one outcome of a line from another."""
    if one.result is None or one.result.failure is not None:
        return [problem.message for problem in one.problems]
    if isinstance(one.line.content, tree.Dim | tree.Part):
        return one.result.print, one.result.key
    return one.result.print


def _said(one: LineOutcome, outcome: Outcome) -> str:
    if one.has_value and one.line.kind is not None and not isinstance(one.line.content, tree.Part):
        return str(show_line(one, outcome.units))
    return one.problems[0].message if one.problems else ""


def _stepped(at: LineOutcome) -> Any:
    """The value of an input one small step on; one back where it is at its upper limit."""
    line, value = at.line, at.value
    choices = choices_of(line)
    if choices:
        place = next((i for i, one in enumerate(choices) if equal(one, value)), -1)
        return choices[(place + 1) % len(choices)]
    if line.kind == YES_NO:
        return not value
    if figure_kind(line.kind) is None:
        return value
    step, high = _step(at), at.result.terms.get("high") if at.result else None
    figures = figures_in(value, line.kind)
    over = high is not None and any(one + step > high for one in figures)
    return value_of([one - step if over else one + step for one in figures], line.kind)


def _step(at: LineOutcome) -> float:
    """The step of the input, or a hundredth of its size where it has none."""
    terms = at.result.terms if at.result is not None else {}
    if terms.get("step", 0) > 0:
        return float(terms["step"])
    size = float(np.max(np.abs(at.value), initial=0.0))
    return size / 100 or 1.0
