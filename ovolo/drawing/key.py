"""A key to a plan: a number at each placed study, and a table of what the numbers are.

Numbers in circles after ISO 6433, the table above the title block after ISO 7573 (both from memory)."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ovolo.drawing.marks import Group, Label, Stroke, fitted, flat, lines
from ovolo.drawing.views import View
from ovolo.geometry.curves.drafting import circular
from ovolo.geometry.types import Points
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.outcome.placed_schedule import mass_shown, studies_used_by
from ovolo.problems import Failure

RADIUS = 3.2
"""mm of paper, of the circle round a number."""

ROW = 5.0
_TEXT = 2.2
_AIR = 1.5
_COLUMNS = (
    ("No.", 0.06), ("Piece", 0.26), ("Study", 0.24), ("Settings", 0.27), ("Pieces", 0.07), ("Mass", 0.10)
)  # fmt: skip
"""The names of the columns, and their shares of the width."""

_LEAST = 0.75
"""A text is made smaller down to this share before it is cut."""


@dataclass(frozen=True, slots=True)
class Entry:
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
    places: list[Points] = []
    for entry in found:
        corners = np.array(entry.part.bounds, dtype=float)
        wanted = scale * view.placed(corners.mean(axis=0))[:2]
        places.append(next(at for at in _around(wanted) if _is_free(at, places)))
    rounds = tuple(
        Stroke((circular(flat(at), RADIUS, 0.0, 2 * np.pi),), "fine", "#ffffff") for at in places
    )
    labels = tuple(
        Label(entry.cells[0], at - [0.0, 0.5 * _TEXT], _TEXT, role="text")
        for entry, at in zip(found, places, strict=True)
    )
    return Group("numbers", "Numbers", rounds, labels)


def _around(place: Points) -> Iterator[Points]:
    """The place itself, then places on rings round it, ever wider."""
    yield place
    for ring in itertools.count(1):
        for turn in np.arange(8) * np.pi / 4:
            yield place + ring * RADIUS * np.array([np.cos(turn), np.sin(turn)])


def _is_free(place: Points, taken: Sequence[Points]) -> bool:
    return all(np.linalg.norm(place - other) >= 2 * RADIUS for other in taken)


def height_of(found: Sequence[Entry]) -> float:
    """Of the table with its head, in mm of paper."""
    return ROW * (len(found) + 1)


def table(found: Sequence[Entry], low: Points, width: float) -> tuple[list[Stroke], list[Label]]:
    """The table, its lower left corner at `low`: the head at the top, numbers downwards."""
    edges = low[0] + width * np.concatenate([[0.0], np.cumsum([share for _, share in _COLUMNS])])
    rows = [tuple(name for name, _ in _COLUMNS), *(entry.cells for entry in found)]
    top = low[1] + ROW * len(rows)
    levels = low[1] + ROW * np.arange(len(rows) + 1)
    rules = [((edges[0], y), (edges[-1], y)) for y in levels[:-1]]
    rules += [((x, low[1]), (x, top)) for x in edges[1:-1]]
    frame = [((edges[0], top), (edges[-1], top)), ((edges[0], low[1]), (edges[0], top))]
    strokes = [*lines(rules, "fine"), *lines(frame, "frame")]
    labels = [
        _cell(text, top - ROW * (row + 1), edges[column : column + 2], "text" if row else "field")
        for row, cells in enumerate(rows)
        for column, text in enumerate(cells)
        if text
    ]
    return strokes, labels


def _cell(text: str, bottom: float, sides: Points, role: str) -> Label:
    place = np.array([sides[0] + _AIR, bottom + _AIR])
    label = Label(text, place, _TEXT, role=role, anchor="start")
    return fitted(label, float(sides[1] - sides[0]) - 2 * _AIR, _LEAST)
