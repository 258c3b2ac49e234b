"""What the page of variations is told: what can be varied and shown, and how many trials a plan has. Figures in
mm, radians, kg, s. (What trials, aims, proofs and the like tell is their own dataclass.)"""

from __future__ import annotations

from typing import Any, NotRequired, TypedDict


class ChoiceSaid(TypedDict):
    value: Any
    said: str


class AxisSaid(TypedDict):
    """An input that can be varied: chosen from `choices`, or, where there are none, a figure between limits; its
    `unit` is so large as `size` tells."""

    name: str
    label: str
    value: Any
    said: str
    choices: list[ChoiceSaid]
    seed: bool
    low: NotRequired[float]
    high: NotRequired[float]
    step: NotRequired[float]
    base: NotRequired[float]
    unit: NotRequired[str]
    size: NotRequired[float]
    low_said: NotRequired[str]
    high_said: NotRequired[str]


class FigureSaid(TypedDict):
    name: str
    label: str


class VariationsSaid(TypedDict):
    """What can be varied, the inputs that cannot (`fixed`), and the values that can be shown."""

    axes: list[AxisSaid]
    fixed: list[str]
    values: list[FigureSaid]


class PlanSaid(TypedDict):
    count: int
    varied: list[str]
