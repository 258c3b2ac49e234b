"""Reach: how far each input can move a value across its range, the others as they stand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from ovolo.exploring.axes import Axis, axes_of, plain
from ovolo.exploring.probe import Probe
from ovolo.fields import fields_told
from ovolo.meaning.program import Program
from ovolo.quantities.show import show_quantity

PLACES = 33
"""At so many places of its range each input is tried, or at all of its values where it has fewer."""

_MOST_PLACES = 500
"""At so many where the value is one of figures, which are quickly read."""

_MOST = 6_000
"""So often such a value is read, for all inputs together."""

_CLOSER = 9
"""At so many steps, each time, between the two beside the best of them."""


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
    moving = [
        axis.name
        for axis in axes.values()
        if axis.name != name
        and any(one.name == name for one in program.downstream(frozenset([axis.name])))
    ]
    count = _MOST // max(len(moving), 1) if probe.is_of_figures else PLACES
    count = min(max(count, PLACES), _MOST_PLACES)
    bars, still = [], []
    for axis in axes.values():
        bar = _bar(probe, axis, count) if axis.name in moving else None
        if bar is None or bar.most - bar.least <= 1e-12 * max(abs(bar.most), abs(bar.least)):
            still += [axis.name] if axis.name != name else []
        else:
            bars.append(bar)
    bars.sort(key=lambda bar: (bar.least - bar.most, bar.name))
    said = "" if here is None else _said(probe, here)
    return Reach(here, said, bars, still)


def _said(probe: Probe, value: float) -> str:
    return str(show_quantity(value, probe.kind.dimension, probe.program.units))


def _bar(probe: Probe, axis: Axis, count: int) -> Bar | None:
    places = axis.evenly(count)
    if axis.present not in places:
        places.append(axis.present)
    if not axis.choices:
        places.sort()
    read = [(place, probe.at({axis.name: place}).value) for place in places]
    known = [(place, value) for place, value in read if value is not None]
    if not known:
        return None
    at_least, least = _furthest(probe, axis, known, 1.0)
    at_most, most = _furthest(probe, axis, known, -1.0)
    units = probe.program.units
    return Bar(
        axis.name, axis.label, least, most, _said(probe, least), _said(probe, most),
        plain(axis, at_least), plain(axis, at_most), axis.said(at_least, units),
        axis.said(at_most, units), len(read) - len(known),
    )  # fmt: skip


def _furthest(
    probe: Probe, axis: Axis, known: Sequence[tuple[Any, float]], sign: float
) -> tuple[Any, float]:
    """The least value (sign 1) or the greatest (-1) and where it is: also between the places that were tried, beside
    the best of them, where it turns back there."""
    at = min(range(len(known)), key=lambda one: sign * known[one][1])
    best = known[at]
    if axis.choices or not 0 < at < len(known) - 1:
        return best
    (low, before), (high, after) = known[at - 1], known[at + 1]
    if before == best[1] == after:
        return best
    closer = _on_steps(probe, axis, low, high, sign) if axis.step > 0 else _between(probe, axis, low, high, sign)  # fmt: skip
    return min([best, *closer], key=lambda pair: sign * pair[1])


def _on_steps(
    probe: Probe, axis: Axis, low: float, high: float, sign: float
) -> list[tuple[float, float]]:
    """Values on the steps between two places, closer and closer about the best of them."""
    found: list[tuple[float, float]] = []
    while True:
        places = axis.narrowed(low, high).evenly(_CLOSER)
        read = [(place, probe.at({axis.name: place}).value) for place in places]
        known = [(place, value) for place, value in read if value is not None]
        found += known
        if not known or places[1] - places[0] < 1.5 * axis.step:
            return found
        best = places.index(min(known, key=lambda pair: sign * pair[1])[0])
        low, high = places[max(best - 1, 0)], places[min(best + 1, len(places) - 1)]


def _between(
    probe: Probe, axis: Axis, low: float, high: float, sign: float
) -> list[tuple[float, float]]:
    """The place between two others to which SciPy's bounded search comes (Brent, 1973, chapter 5), and its value."""
    from scipy.optimize import minimize_scalar

    def off(x: float) -> float:
        value = probe.at({axis.name: float(x)}).value
        return 1e300 if value is None else sign * value

    at = float(minimize_scalar(off, bounds=(low, high), method="bounded").x)
    value = probe.at({axis.name: at}).value
    return [] if value is None else [(at, value)]
