"""The cut list of a study on bars: for each section how many are needed, and how each is cut."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from ovolo.benches.answers import SectionSaid
from ovolo.benches.cutting.bars import BarPlan, Saw, check_bar, cut_bars
from ovolo.fields import fields_told
from ovolo.outcome.part import Part
from ovolo.outcome.schedule import Stock, cut_list, schedule
from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH
from ovolo.quantities.show import DisplayUnits, show_quantity
from ovolo.quantities.typed import read_quantity


class Section(Struct, frozen=True):
    """What is cut from one section; where that cannot be, why."""

    stock: Stock
    plan: BarPlan | None
    failure: Failure | None = None


def sections_on_bars(parts: Sequence[Part], bar: float, saw: Saw, seconds: float) -> list[Section]:
    """Each section of the cut list on bars of a length (mm); all within so many seconds. Raises Failure
    where there is nothing to cut, or where the bar and the saw make no sense."""
    listed = cut_list(schedule(parts))
    if not listed:
        raise Failure(
            "there is nothing to cut", "solids with a length, a width and a thickness are cut"
        )
    check_bar(bar, saw)
    found = []
    for stock in listed:
        try:
            plan = cut_bars(stock.lengths, bar, saw, seconds / len(listed))
            found.append(Section(stock, plan))
        except Failure as failure:
            found.append(Section(stock, None, failure))
    return found


def bars_said(said: Mapping[str, Any], units: DisplayUnits) -> tuple[float, Saw]:
    """The length of a bar and the saw, as a person types them: `bar`, `kerf`, `trim`. Raises Failure."""
    bar = read_quantity(str(said.get("bar") or ""), LENGTH, units, "the length of a bar")
    kerf, trim = (
        read_quantity(str(said.get(name)), LENGTH, units, what) if said.get(name) else 0.0
        for name, what in (("kerf", "the width of a cut"), ("trim", "what an end loses"))
    )
    return bar, Saw(kerf, trim)


def shown_bars(sections: Sequence[Section], units: DisplayUnits) -> list[SectionSaid]:
    """The sections as a person reads them: a title, what is needed, and a line for each way to cut."""
    return [
        {
            "title": f"{one.stock.part}, {_section(one.stock, units)}",
            "said": _needed(one, units),
            "fails": one.plan is None,
            "bars": [] if one.plan is None else [_bar(bar, units) for bar in one.plan.bars],
        }
        for one in sections
    ]


def as_json(sections: Sequence[Section]) -> list[dict[str, Any]]:
    return [
        {
            "part": one.stock.part,
            "section": list(one.stock.section),
            "plan": None if one.plan is None else fields_told(one.plan) | {"number": one.plan.number, "proved": one.plan.proved, "used": one.plan.used},
            "problem": None if one.failure is None else one.failure.said,
        }
        for one in sections
    ]  # fmt: skip


def _section(stock: Stock, units: DisplayUnits) -> str:
    sizes = [show_quantity(one, LENGTH, units).number for one in reversed(stock.section)]
    return f"{' × '.join(sizes)} {units.length_unit.symbol}"


def _needed(one: Section, units: DisplayUnits) -> str:
    if one.plan is None:
        assert one.failure is not None
        return one.failure.said
    plan = one.plan
    pieces = sum(count for _, count in one.stock.lengths)
    proof = "fewer will not do" if plan.proved else f"at least {plan.bound} are needed"
    bars = f"{plan.number} bar{'s' if plan.number != 1 else ''} of {show_quantity(plan.stock, LENGTH, units)}"
    return f"{pieces} piece{'s' if pieces != 1 else ''} from {bars} ({proof}); {100 * plan.used:.1f} % used"


def _bar(bar: Any, units: DisplayUnits) -> str:
    cuts = " + ".join(
        f"{count} × {show_quantity(length, LENGTH, units).number}" for length, count in bar.cuts
    )
    return f"{bar.number} × ({cuts}), {show_quantity(bar.rest, LENGTH, units)} left"
