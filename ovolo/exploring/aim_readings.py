"""What an aim reads: the value at settings of the inputs that may move; and what comes of it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct, field

from ovolo.exploring.axes import Axis, plain
from ovolo.exploring.probe import Probe, Reading
from ovolo.fields import fields_told
from ovolo.quantities.show import show_quantity

SAME = 1e-9
"""What is reached within this share of the goal is reached."""

ROUNDING = 1e-13
"""Of the greatest value that was met: what is as near to the goal has reached it but for rounding."""

MOST_TRIED = 1500
"""So many steps of one input are tried each; of more, evenly spread ones, and between them."""

ALONG = 240
"""So many places of a range without steps are tried."""

MOST_MOVED = 12
LEAST, MOST = "as small as possible", "as large as possible"

Values = dict[str, Any]


class Found(Struct, frozen=True):
    """A setting that was found: run-time values, how they are said, the value reached (mm, radians, kg,
    s) and its words, whether that is the goal, and the checks that fail there."""

    settings: Values
    said: dict[str, str]
    reached: float
    reached_said: str
    exact: bool
    failing: list[str] = field(default_factory=list)
    note: str = ""


class Aim(Struct, frozen=True):
    """What came of an aim: what was found, the best first or in the order of the input; in words why
    there is no more; and the checks that stand in the way."""

    goal_said: str
    found: list[Found]
    reason: str = ""
    binding: list[str] = field(default_factory=list)

    def as_json(self) -> dict[str, Any]:
        return fields_told(self)


class Readings:
    """The value that is aimed at, read at settings of the inputs that move."""

    def __init__(self, probe: Probe, moved: list[Axis]) -> None:
        self.probe, self.moved = probe, moved
        self.units = probe.program.units
        self.start = np.array([axis.share_of(axis.present) for axis in moved])
        self.size = 1e-9
        """The greatest value that was met: by a share of it zero may be missed."""

        self._read: dict[tuple[Any, ...], Reading] = {}

    # --- reading ---

    def read(self, values: Sequence[Any]) -> Reading:
        key = tuple(values)
        known = self._read.get(key)
        if known is None:
            known = self._read[key] = self.probe.at(self._named(values))
            self.size = max(self.size, abs(known.value or 0.0))
        return known

    def _named(self, values: Sequence[Any]) -> Values:
        return {axis.name: value for axis, value in zip(self.moved, values, strict=True)}

    def said(self, value: float) -> str:
        return str(show_quantity(value, self.probe.kind.dimension, self.units))

    def is_goal(self, value: float | None, goal: float) -> bool:
        if value is None:
            return False
        return abs(value - goal) <= max(SAME * max(abs(goal), abs(value)), ROUNDING * self.size)

    def found(self, values: Sequence[Any], goal: float | None, note: str = "") -> Found:
        reading = self.read(values)
        assert reading.value is not None
        pairs = list(zip(self.moved, values, strict=True))
        return Found(
            {axis.name: plain(axis, value) for axis, value in pairs},
            {axis.name: axis.said(value, self.units) for axis, value in pairs},
            reading.value,
            self.said(reading.value),
            not reading.failing if goal is None else self.is_goal(reading.value, goal),
            reading.failing,
            note,
        )

    def places(self, axis: Axis) -> list[Any]:
        count = axis.count
        return axis.evenly(min(count, MOST_TRIED) if count is not None else ALONG + 1)

    def why_nothing(self, places: list[Any]) -> str:
        return f"`{self.probe.line.name}` has no value anywhere: {self.read((places[0],)).why}"

    def values_at(self, shares: Sequence[float] | np.ndarray[Any, Any]) -> tuple[Any, ...]:
        """Values on steps and choices, at shares of the ranges."""
        return tuple(
            _at(axis, float(share)) for axis, share in zip(self.moved, shares, strict=True)
        )

    def free_at(self, shares: np.ndarray[Any, Any]) -> tuple[Any, ...]:
        """The same between the steps, where a figure has them."""
        return tuple(
            _at(axis, float(u))
            if axis.choices
            else axis.low + min(max(float(u), 0.0), 1.0) * (axis.high - axis.low)
            for axis, u in zip(self.moved, shares, strict=True)
        )

    def present(self) -> tuple[Any, ...]:
        return tuple(axis.present for axis in self.moved)

    def shares(self, values: Sequence[Any]) -> np.ndarray[Any, Any]:
        return np.array([axis.share_of(v) for axis, v in zip(self.moved, values, strict=True)])


def _at(axis: Axis, share: float) -> Any:
    """The value nearest to a share of the range."""
    share = min(max(share, 0.0), 1.0)
    if axis.choices:
        return axis.choices[round(share * (len(axis.choices) - 1))]
    return axis.nearest(axis.low + share * (axis.high - axis.low))


def steps_around(axis: Axis, share: float) -> list[Any]:
    """The values of an axis next to a share of its range."""
    share = min(max(share, 0.0), 1.0)
    if axis.choices:
        return list(axis.choices) if len(axis.choices) <= 4 else [_at(axis, share)]
    value = axis.low + share * (axis.high - axis.low)
    if axis.step <= 0:
        return [axis.nearest(value)]
    near = [axis.nearest(value - axis.step / 2), axis.nearest(value + axis.step / 2)]
    return list(dict.fromkeys([axis.nearest(value), *near]))
