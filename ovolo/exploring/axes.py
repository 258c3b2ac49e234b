"""The inputs of a study as axes along which it can be varied."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from ovolo.exploring.settings import input_line
from ovolo.meaning.program import Program, ProgramLine, choices_of
from ovolo.outcome.outcome import show_value
from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, NUMBER, Dimension
from ovolo.quantities.kinds import YES_NO, Kind, Quantity
from ovolo.quantities.show import DisplayUnits, show_quantity
from ovolo.running.evaluate import LineOutcome, evaluate_only
from ovolo.running.operators import equal
from ovolo.sheet import tree

SEEDS = 9999.0
"""The greatest seed that is tried where a seed has no limits of its own."""

_DEGREE = math.pi / 180
_SLACK = 1e-9
"""Of a step: limits that are steps but for rounding are steps."""

MOST_VALUES = 100_000
"""So many values of a stepped axis are told apart; with more it counts as one without steps."""


class Axis(Struct, frozen=True):
    """One input that can be varied: a figure from `low` to `high` (mm, radians, kg, s) on its `step` (0
    where it has none), or one of `choices`."""

    name: str
    label: str
    kind: Kind
    present: Any
    low: float = 0.0
    high: float = 0.0
    step: float = 0.0
    base: float = 0.0
    """The lower limit of the sheet, from which steps count."""

    choices: tuple[Any, ...] = ()
    seed: bool = False
    """Whether words of chance are given it as their seed."""

    @property
    def count(self) -> int | None:
        """How many values it has; None where they go over into each other."""
        if self.choices:
            return len(self.choices)
        if self.step <= 0:
            return 1 if self.low == self.high else None
        first, last = self._first_and_last()
        count = last - first + 1
        return count if count <= MOST_VALUES else None

    def _first_and_last(self) -> tuple[int, int]:
        """The numbers of its first and its last step, from the base."""
        return (
            math.ceil((self.low - self.base) / self.step - _SLACK),
            math.floor((self.high - self.base) / self.step + _SLACK),
        )

    def value(self, index: int) -> Any:
        """One of its values, counted from 0."""
        if self.choices:
            return self.choices[index]
        if self.step <= 0:
            return self.low
        return self.on_step(self._first_and_last()[0] + index)

    def on_step(self, number: int) -> float:
        """The value so many steps above the base, without the noise of adding: angles are tidied in degrees, so that
        90° is 90°."""
        unit = _DEGREE if self.dimension == ANGLE else 1.0
        return float(f"{(self.base + number * self.step) / unit:.14g}") * unit

    def at(self, share: float) -> Any:
        """The value at a share (0 to 1) of its range, on its steps."""
        count = self.count
        if count is not None:
            return self.value(min(int(share * count), count - 1))
        value = self.low + share * (self.high - self.low)
        return self.nearest(value)

    def nearest(self, value: float) -> float:
        """The nearest value that it has to a figure."""
        if self.step <= 0:
            return min(max(value, self.low), self.high)
        first, last = self._first_and_last()
        number = round((value - self.base) / self.step)
        return self.on_step(min(max(number, first), last))

    def evenly(self, count: int) -> list[Any]:
        """So many values from one end to the other, fewer where it has fewer."""
        known = self.count
        if known is not None and (self.choices or known <= count):
            return [self.value(index) for index in range(known)]
        if count == 1:
            return [self.nearest(self.low)]
        ends = [
            self.nearest(self.low + (self.high - self.low) * at / (count - 1))
            for at in range(count)
        ]
        return list(dict.fromkeys(ends))

    def share_of(self, value: Any) -> float:
        """Where a value stands in the range, from 0 to 1."""
        if self.choices:
            at = next((i for i, one in enumerate(self.choices) if equal(one, value)), 0)
            return at / max(len(self.choices) - 1, 1)
        return (value - self.low) / (self.high - self.low) if self.high > self.low else 0.0

    def narrowed(self, low: float, high: float) -> Axis:
        """The part of it between two figures. Raises Failure where nothing is left."""
        if self.choices:
            raise Failure(f"`{self.name}` is chosen and has no range", "hold it instead")
        low, high = max(low, self.low), min(high, self.high)
        found = replace(self, low=low, high=high)
        if low > high or (
            self.step > 0 and found._first_and_last()[0] > found._first_and_last()[1]
        ):
            raise Failure(
                f"nothing is left of the range of `{self.name}`",
                "widen it, or hold the input",
            )
        return found

    def said(self, value: Any, units: DisplayUnits) -> str:
        """A value of it as a person reads it."""
        if isinstance(self.kind, Quantity):
            return str(show_quantity(float(value), self.kind.dimension, units))
        return str(show_value(value, self.kind, units)).strip('"')

    @property
    def dimension(self) -> Dimension:
        return self.kind.dimension if isinstance(self.kind, Quantity) else NUMBER


def parted(
    axis: Axis, inner: float, outer: float, holds: Callable[[float], bool], times: int = 60
) -> tuple[float, float]:
    """Two values of an input, next to each other or halved so many times, of which something holds at the first and not
    at the second, as it does at `inner` and not at `outer`."""
    for _ in range(times):
        middle = axis.nearest((inner + outer) / 2)
        if middle in (inner, outer):
            break
        inner, outer = (middle, outer) if holds(middle) else (inner, middle)
    return inner, outer


def axes_of(program: Program, settings: Mapping[str, Any]) -> dict[str, Axis]:
    """By their names the inputs that can be varied, at their present values and between the limits they
    have then. Lists, points, texts without choices and inputs with a problem of their own are none."""
    found = {}
    for outcome in evaluate_only(program, program.inputs, settings):
        axis = _axis(outcome, outcome.line.name in program.seeds, program)
        if axis is not None:
            found[axis.name] = axis
    return found


def _axis(outcome: LineOutcome, seed: bool, program: Program) -> Axis | None:
    line = outcome.line
    content = line.content
    if not outcome.has_value or outcome.result is None or line.kind is None or line.name is None:
        return None
    assert isinstance(content, tree.Input)
    label, value = content.label or line.name, outcome.value
    choices = tuple(choices_of(line))
    if line.kind == YES_NO:
        return Axis(line.name, label, line.kind, value, choices=(False, True))
    if choices:
        return Axis(line.name, label, line.kind, value, choices=choices)
    if not isinstance(line.kind, Quantity):
        return None
    terms = outcome.result.terms
    low, high = terms.get("low"), terms.get("high")
    if low is not None and high is not None and low > high:
        return None
    step = float(terms.get("step") or (1.0 if seed else 0.0))
    reach = max(abs(float(value)) * 2, SEEDS if seed else 10 * _unit_size(line, program))
    base = float(low) if low is not None else 0.0
    low = float(low) if low is not None else (-reach if value < 0 else 0.0)
    high = float(high) if high is not None else max(reach, low)
    return Axis(
        line.name, label, line.kind, float(value), low, high, max(step, 0.0), base, (), seed
    )


def _unit_size(line: ProgramLine, program: Program) -> float:
    assert isinstance(line.kind, Quantity)
    return program.units.unit_for(line.kind.dimension).size


def axis_of(axes: Mapping[str, Axis], program: Program, name: str) -> Axis:
    """The axis of a name. Raises Failure where there is no such input, or it cannot be varied."""
    if name in axes:
        return axes[name]
    input_line(program, name)
    raise Failure(
        f"`{name}` cannot be varied",
        "a figure, yes or no, or a choice can be; points and lists stay as they are",
    )


def plain(axis: Axis, value: Any) -> Any:
    """A value as JSON has it: figures as run-time values, texts, booleans."""
    return float(value) if isinstance(axis.kind, Quantity) else value
