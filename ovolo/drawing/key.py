"""A key to a plan: a number at each placed study, and a table of what the numbers are.

Numbers in circles after ISO 6433, the table above the title block after ISO 7573 (both from memory)."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from ovolo.drawing import tables
from ovolo.drawing.marks import Group, Label, Stroke
from ovolo.drawing.piece_marks import in_circles, mark_place_of_part
from ovolo.drawing.views import View
from ovolo.geometry.types import Points
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.outcome.placed_schedule import mass_shown, studies_used_by
from ovolo.problems import Failure

_COLUMNS = (
    ("No.", 0.06), ("Piece", 0.26), ("Study", 0.24), ("Settings", 0.27), ("Pieces", 0.07), ("Mass", 0.10)
)  # fmt: skip
"""The names of the columns, and their shares of the width."""


class Entry(Struct, frozen=True):
    """A placed study on a plan: its part, and its cells in the table."""

    part: Part
    cells: tuple[str, ...]


def entries(outcome: Outcome, parts: Sequence[Part] | None = None) -> list[Entry]:
    """The parts that are each one study put somewhere, in the order of the sheet. Raises Failure where
    there is none."""
    found: list[Entry] = []
    for part in outcome.parts.values() if parts is None else parts:
        used = studies_used_by(outcome, part.name)
        if len(used) == 1 and part.count:
            number, (study, settings) = str(len(found) + 1), used[0]
            label = part.label or part.name.replace("_", " ")
            mass = mass_shown(part.mass, outcome.units)
            said = settings or "as in the study"
            found.append(Entry(part, (number, label, study, said, str(part.count), mass)))
    if not found:
        raise Failure(
            "no part of this study is a placed study, so there is nothing for a key",
            "*Place…* a study, or leave the key out",
        )
    return found


def numbers(found: Sequence[Entry], view: View, scale: float) -> Group:
    """The circles with their numbers, each in the middle of its piece, or beside those before it."""
    marks = [(one.cells[0], scale * mark_place_of_part(one.part, view)) for one in found]
    return in_circles(marks, "numbers", "Numbers")


def height_of(found: Sequence[Entry]) -> float:
    """Of the table with its head, in mm of paper."""
    return tables.height_of(len(found))


def table(found: Sequence[Entry], low: Points, width: float) -> tuple[list[Stroke], list[Label]]:
    """The table, its lower left corner at `low`: the head at the top, numbers downwards."""
    return tables.table(_COLUMNS, [entry.cells for entry in found], low, width)
