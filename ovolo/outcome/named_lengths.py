"""Lengths as the sheet would write them: by the name of a line that has that length, its opposite, or half."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.types import Points
from ovolo.outcome.outcome import Outcome
from ovolo.quantities.dimension import LENGTH
from ovolo.quantities.kinds import Quantity
from ovolo.sheet import tree
from ovolo.sheet.literals import literal_for

DRAWN = 1e-6
"""What is drawn is known to about this share of its size (float32)."""


class NamedLengths:
    """The lengths of a sheet by their value, inputs first: all, or those that some parts depend on."""

    def __init__(self, outcome: Outcome, parts: Sequence[str] | None = None) -> None:
        self.units = outcome.units
        self.lengths: list[tuple[float, str]] = []
        program = outcome.program
        lines = [program.by_name[one] for one in parts or () if one in program.by_name]
        wanted = None if parts is None else {line.name for line in program.upstream(lines)}
        for one in sorted(outcome.lines, key=lambda o: not isinstance(o.line.content, tree.Input)):
            name, kind = one.line.name, one.line.kind
            is_length = isinstance(kind, Quantity) and kind.dimension == LENGTH
            meant = wanted is None or name in wanted
            if name and is_length and one.has_value and meant and one.value:
                self.lengths.append((float(one.value), name))

    def said(self, value: float, by_name: bool = True) -> str:
        """A length (mm): by a name, its opposite, its half, or as a figure."""
        if abs(value) < SAME_PLACE:
            return f"0 {self.units.length_unit.symbol}"
        for factor, pattern in ((1, "{}"), (-1, "-{}"), (2, "{} / 2"), (-2, "-{} / 2")):
            for length, name in self.lengths if by_name else ():
                if math.isclose(length, value * factor, rel_tol=DRAWN, abs_tol=SAME_PLACE):
                    return pattern.format(name)
        return literal_for(float(f"{value:.7g}"), LENGTH, "", self.units)

    def point(self, at: Points) -> str:
        return f"({', '.join(self.said(float(value)) for value in at)})"
