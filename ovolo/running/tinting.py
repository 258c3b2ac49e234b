"""Colour by value: each item of a part tinted by a number, a quantity, a text or yes/no, and the
legend that says what the tints mean."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.geometry.coat import everything, places_of
from ovolo.meaning.program import Checked
from ovolo.problems import Failure
from ovolo.quantities.kinds import NUMBER_KIND, YES_NO, Kind, ListOf, Quantity
from ovolo.quantities.show import DisplayUnits, show_quantity
from ovolo.running.values import Gap
from ovolo.sheet import tree
from ovolo.sheet.colours import TINTS, channels, tint

LOW, HIGH = "plaster", "#4F616C"
"""Between these a part is tinted by figures, where it does not say between which."""

_MOST_NAMED = 12
"""So many entries a legend has at most; a scale has fewer."""

_STEPS, _TINTS = 5, 64
"""So many values a scale names, and so many tints it has."""


class Tinting(Struct, frozen=True):
    """`of_items` are colours (#RRGGBB) in the order of the items; `legend` says what they mean."""

    of_items: tuple[str, ...]
    legend: tuple[tuple[str, str], ...]


class TintSource(Struct, frozen=True):
    """What the items of a part are coloured by: values of a kind, between two colours."""

    values: Any
    kind: Kind
    ends: tuple[str, str]
    units: DisplayUnits

    def tinting(self, value: Any) -> Tinting:
        """The colours of the items of a part. Raises Failure where they cannot be made."""
        items = [value] if places_of(value) == 1 and not isinstance(value, list) else value
        if isinstance(items, list):
            counts = [sum(map(places_of, everything(item))) for item in items]
        else:
            counts = [1] * len(items)
        return tinted(self.values, self.kind, self.ends, counts, self.units)


def tint_source(
    content: tree.Part, terms: Mapping[str, Any], checked: Checked | None, units: DisplayUnits
) -> TintSource | None:
    """What a part says it is coloured by, if it does; `terms` are the values of its clauses."""
    if "tint" not in terms or checked is None or terms.get("condition") is False:
        return None
    kind = checked.terms["tint"].kind
    item = kind.item if isinstance(kind, ListOf) else None
    ends = content.between or (content.colour or LOW, HIGH)
    return TintSource(terms["tint"], item or NUMBER_KIND, ends, units)


def tinted(
    values: Any, kind: Kind, ends: tuple[str, str], counts: list[int], units: DisplayUnits
) -> Tinting:
    """Colours by a list of values, one for each item; `counts` says how many pieces each item has.
    Raises Failure where there are fewer or more values than items."""
    if len(values) != len(counts):
        raise Failure(
            f"`colour by` has {len(values)} values for {len(counts)} items", "one for each item"
        )
    if isinstance(kind, Quantity):
        of_items, legend = _scale(values, kind, ends, units)
    else:
        of_items, legend = _named(["yes" if v is True else "no" if v is False else str(v) for v in _plain(values, kind)])  # fmt: skip
    spread = [colour for colour, count in zip(of_items, counts, strict=True) for _ in range(count)]
    return Tinting(tuple(spread), tuple(legend))


def _plain(values: Any, kind: Kind) -> list[Any]:
    if any(isinstance(value, Gap) for value in values):
        raise Failure("a value to colour by could not be made", "guard it with `if`")
    return [bool(value) for value in values] if kind == YES_NO else list(values)


def _scale(
    values: Any, kind: Quantity, ends: tuple[str, str], units: DisplayUnits
) -> tuple[list[str], list[tuple[str, str]]]:
    """Tints in even steps between two colours, and the values at a few of them."""
    figures = np.array(_plain(values, kind), dtype=float)
    if not len(figures):
        return [], []
    low, high = (np.array(channels(tint(end)), dtype=float) for end in ends)
    least, most = float(figures.min()), float(figures.max())
    span = most - least
    shares = (figures - least) / span if span > 0 else np.zeros(len(figures))
    # So few different tints that files have a material for each.
    shares = np.rint(shares * _TINTS) / _TINTS
    colours = np.rint(low + shares[:, None] * (high - low)).astype(int)
    steps = np.linspace(0.0, 1.0, _STEPS) if span > 0 else np.zeros(1)
    size = units.unit_for(kind.dimension).size
    legend = []
    for share in steps:
        figure = float(f"{(least + share * span) / size:.4g}") * size  # few digits as it is shown
        colour = _hex(np.rint(low + share * (high - low)))
        legend.append((str(show_quantity(figure, kind.dimension, units)), colour))
    return [_hex(one) for one in colours], legend


def _named(values: list[str]) -> tuple[list[str], list[tuple[str, str]]]:
    """A tint for each different text: the colour it names, or the next of the named colours."""
    names = list(dict.fromkeys(values))
    spare = list(TINTS.values())
    colours = {
        name: TINTS[name] if name in TINTS else spare[at % len(spare)]
        for at, name in enumerate(names)
    }
    shown = [(name, colours[name]) for name in names[:_MOST_NAMED]]
    if len(names) > _MOST_NAMED:
        shown.append((f"and {len(names) - _MOST_NAMED} more", colours[names[_MOST_NAMED]]))
    return [colours[value] for value in values], shown


def _hex(shade: Any) -> str:
    return "#{:02X}{:02X}{:02X}".format(*(int(one) for one in shade))
