"""An outline that was clicked, as one chain of the sheet: what a click was drawn to stands by its name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.types import Points
from ovolo.outcome.named_lengths import NamedLengths
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH
from ovolo.quantities.kinds import PointKind
from ovolo.sheet.placing import free_name

PLANES = {"plan": (0, 1), "front": (0, 2), "side": (1, 2)}
"""Which coordinates are across and up in the view in which one draws."""

MOST_CORNERS = 500


@dataclass(frozen=True, slots=True)
class Corner:
    """A place that was clicked (x, y, z in mm): whether it was drawn to something that is there, and whether
    the way to it goes on from the one before without a bend."""

    at: Points
    snapped: bool = False
    smooth: bool = False


def outline_line(
    outcome: Outcome, text: str, corners: Sequence[Corner], view: str, closed: bool
) -> str:
    """A line of the sheet that draws through some corners in a view. Raises Failure."""
    if view not in PLANES:
        raise Failure(f"one does not draw in the view `{view}`", f"one of {', '.join(PLANES)}")
    if len(corners) > MOST_CORNERS:
        raise Failure(f"{len(corners)} corners are too many", f"at most {MOST_CORNERS}")
    apart = [
        one for one, before in zip(corners[1:], corners, strict=False) if _away(one, before, view)
    ]
    if not corners or not apart:
        raise Failure("an outline needs two corners or more", "click where it goes on")
    said = _Said(outcome, view)
    chain = f"start({said.corner(corners[0])})"
    for one, before in zip(corners[1:], corners, strict=False):
        if _away(one, before, view):
            chain += f".{'tangent_to' if one.smooth and '.' in chain else 'to'}({said.corner(one)})"
    chain += ".close()" if closed else ""
    chain += "" if view == "plan" else f'.on("{view}")'
    return f"{free_name(text, 'outline_1')} = {chain}"


def _away(one: Corner, other: Corner, view: str) -> bool:
    return bool(np.abs((one.at - other.at)[list(PLANES[view])]).max() > SAME_PLACE)


class _Said:
    """Corners as the sheet writes them."""

    def __init__(self, outcome: Outcome, view: str) -> None:
        self.axes, self.flat = list(PLANES[view]), view == "plan"
        self.lengths = NamedLengths(outcome)
        self.points = [
            (one.line.name, np.asarray(one.value, dtype=float))
            for one in outcome.lines
            if one.line.name and one.has_value and _is_place(one.line.kind)
        ]

    def corner(self, corner: Corner) -> str:
        """By the name of a point that lies there; else by its coordinates, of which those that a click was
        drawn to by the names of lengths that they are."""
        if corner.snapped and self.flat and abs(corner.at[2]) < SAME_PLACE:
            for name, place in self.points:
                if np.abs(place - corner.at).max() < SAME_PLACE:
                    return name
        figures = corner.at[self.axes]
        written = [self.lengths.said(float(one), corner.snapped) for one in figures]
        return f"({', '.join(written)})"


def _is_place(kind: Any) -> bool:
    return isinstance(kind, PointKind) and kind.dimension == LENGTH
