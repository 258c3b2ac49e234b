"""Reach: how far each input can move a value across its range, the others as they stand."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from ovolo.exploring.axes import Axis, axes_of, plain
from ovolo.exploring.probe import Probe
from ovolo.fields import fields_told
from ovolo.meaning.program import Program
from ovolo.quantities.show import show_quantity

PLACES = 33
"""At so many places of its range each input is tried, or at all of its values where it has fewer."""


class Bar(Struct, frozen=True):
    """How far one input moves the value: the least and the greatest it takes (mm, radians, kg, s), and at
    which values of the input; how many of the places gave none."""

    name: str
    label: str
    least: float
    most: float
    least_said: str
    most_said: str
    at_least: Any
    at_most: Any
    at_least_said: str
    at_most_said: str
    without: int


class Reach(Struct, frozen=True):
    """The bars from the longest to the shortest, the present value, and the inputs that do not move it."""

    present: float | None
    present_said: str
    bars: list[Bar]
    still: list[str]

    def as_json(self) -> dict[str, Any]:
        return fields_told(self)


def reach_of(program: Program, name: str, present: Mapping[str, Any] | None = None) -> Reach:
    """The reach of the line `name`. Raises Failure where it has no one figure."""
    present = dict(present or {})
    probe = Probe(program, name, present, checks=False)
    axes = axes_of(program, present)
    here = probe.at({}).value
    bars, still = [], []
    for axis in axes.values():
        moves = axis.name != name and any(
            one.name == name for one in program.downstream(frozenset([axis.name]))
        )
        bar = _bar(probe, axis) if moves else None
        if bar is None or bar.most - bar.least <= 1e-12 * max(abs(bar.most), abs(bar.least)):
            still += [axis.name] if axis.name != name else []
        else:
            bars.append(bar)
    bars.sort(key=lambda bar: (bar.least - bar.most, bar.name))
    said = "" if here is None else _said(probe, here)
    return Reach(here, said, bars, still)


def _said(probe: Probe, value: float) -> str:
    return str(show_quantity(value, probe.kind.dimension, probe.program.units))


def _bar(probe: Probe, axis: Axis) -> Bar | None:
    places = axis.evenly(PLACES)
    if axis.present not in places:
        places.append(axis.present)
    read = [(place, probe.at({axis.name: place}).value) for place in places]
    known = [(place, value) for place, value in read if value is not None]
    if not known:
        return None
    at_least, least = min(known, key=lambda pair: pair[1])
    at_most, most = max(known, key=lambda pair: pair[1])
    units = probe.program.units
    return Bar(
        axis.name, axis.label, least, most, _said(probe, least), _said(probe, most),
        plain(axis, at_least), plain(axis, at_most), axis.said(at_least, units),
        axis.said(at_most, units), len(read) - len(known),
    )  # fmt: skip
