"""What a study yields, now and with its inputs turned, as the steps of an exercise look at it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cached_property
from itertools import product
from typing import Any

from ovolo.exploring.axes import Axis, axes_of
from ovolo.meaning.attachments import Tables
from ovolo.meaning.program import Program
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.outcome.part import Part
from ovolo.quantities.dimension import LENGTH, Dimension
from ovolo.quantities.kinds import Quantity
from ovolo.running.evaluate import Memo

_SHARES = ((0.0, 1.0, 0.37, 0.71), (1.0, 0.0, 0.71, 0.37), (0.37, 0.71, 1.0, 0.0))
"""Where inputs are turned to, in shares of their ranges: one after another, so that no two go together."""

_NEAR = 1e-9
_MOST_LINES, _MOST_INPUTS = 200, 6
"""So many lines, and so many inputs of a kind, are looked at: a long sheet is no exercise."""


class Facts:
    """A study as it is saved; `kept` counts what was done with it besides: `hand_overs`, `contact_sheets`."""

    def __init__(
        self, text: str, tables: Tables | None = None, kept: Mapping[str, int] | None = None
    ) -> None:
        self.text, self._tables, self.kept = text, tables, dict(kept or {})
        self._memo = Memo()
        self._turned: dict[tuple[tuple[str, Any], ...], Outcome] = {}

    @cached_property
    def now(self) -> Outcome:
        return self.at({})

    def at(self, values: Mapping[str, Any]) -> Outcome:
        """What it yields with some inputs turned (mm, radians)."""
        key = tuple(sorted(values.items()))
        if key not in self._turned:
            self._turned[key] = outcome_of(self.text, values, self._memo, tables=self._tables)
        return self._turned[key]

    @property
    def program(self) -> Program:
        return self.now.program

    @cached_property
    def axes(self) -> list[Axis]:
        """The inputs that have limits."""
        found = axes_of(self.program, {}).values()
        return [one for one in found if not one.choices and one.high > one.low]

    def inputs(self, dimension: Dimension) -> list[Axis]:
        return [one for one in self.axes if one.dimension == dimension][:_MOST_INPUTS]

    def settings_of(self, axes: Sequence[Axis]) -> Iterator[dict[str, float]]:
        """The present setting, and three others in which these inputs stand elsewhere."""
        yield {}
        for shares in _SHARES:
            yield {one.name: float(one.at(shares[at % 4])) for at, one in enumerate(axes)}

    def follows(self, dimensions: Sequence[Dimension], wanted: Callable[..., float], yields: Dimension = LENGTH) -> str:  # fmt: skip
        """The name of a line whose value is what is wanted of some inputs, one of each dimension, now and when they
        are turned; empty where there is none."""
        for axes in product(*(self.inputs(one) for one in dimensions)):
            if len({one.name for one in axes}) < len(axes):
                continue
            for name in self._named(yields):
                if all(self._is(name, setting, axes, wanted) for setting in self.settings_of(axes)):
                    return name
        return ""

    def _named(self, dimension: Dimension) -> list[str]:
        """The lines that are no inputs and have a figure of a dimension."""
        inputs = {line.name for line in self.program.inputs}
        return [
            one.line.name
            for one in self.now.lines[:_MOST_LINES]
            if one.line.name and one.line.name not in inputs and one.has_value
            and isinstance(one.line.kind, Quantity) and one.line.kind.dimension == dimension
        ]  # fmt: skip

    def _is(self, name: str, setting: dict[str, float], axes: Sequence[Axis], wanted: Callable[..., float]) -> bool:  # fmt: skip
        value = self.value(name, setting)
        figures = [setting.get(one.name, self.value(one.name, {})) for one in axes]
        if value is None or None in figures:
            return False
        return math.isclose(value, wanted(*figures), rel_tol=_NEAR, abs_tol=_NEAR)

    def value(self, name: str, setting: Mapping[str, Any]) -> float | None:
        """The figure of a line at a setting; None where it has none."""
        line = next((one for one in self.at(setting).lines if one.line.name == name), None)
        if line is None or not line.has_value or not isinstance(line.value, int | float):
            return None
        return float(line.value)

    # --- parts and checks ---

    def parts(self) -> list[Part]:
        return list(self.now.parts.values())

    def fails_somewhere(self) -> bool:
        """Whether a check that holds now fails with some input at a limit."""
        holding = {one.line for one in self.now.checks if one.passed}
        settings = (
            {one.name: end} for one in self.axes[: 2 * _MOST_INPUTS] for end in (one.low, one.high)
        )
        return any(
            one.passed is False and one.line in holding
            for setting in settings
            for one in self.at(setting).checks
        )


def extents(part: Part) -> tuple[float, float, float]:
    """The sizes of a part along x, y and z (mm)."""
    bounds = part.bounds
    if bounds is None:
        return 0.0, 0.0, 0.0
    low, high = bounds
    return tuple(high[at] - low[at] for at in range(3))  # type: ignore[return-value]  # three of them


def near(a: float, b: float, share: float = 1e-6) -> bool:
    return math.isclose(a, b, rel_tol=share, abs_tol=share)
