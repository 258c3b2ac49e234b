"""The marks of the schedule, in circles on a view, and its table."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from ovolo.drawing.marks import Group, Label, Stroke, flat
from ovolo.drawing.tables import TEXT, Columns
from ovolo.drawing.views import View
from ovolo.geometry.curves.drafting import circular
from ovolo.geometry.types import Points
from ovolo.outcome.schedule import Piece
from ovolo.quantities.dimension import LENGTH, MASS
from ovolo.quantities.show import DisplayUnits, show_quantity

RADIUS = 3.2
"""mm of paper, of the circle round a mark (ISO 6433, from memory)."""

_COLUMNS: Columns = (("Mark", 0.1), ("Piece", 0.34), ("No.", 0.1), ("Sizes", 0.32), ("Mass", 0.14))


Pieces = Sequence[tuple[Piece, Any]]
"""The pieces of a schedule, each with a shape that is it."""


def in_circles(marks: Sequence[tuple[str, Points]], name: str, title: str) -> Group:
    """Texts in circles at places (2,) on paper, or beside those that are there before."""
    places: list[Points] = []
    for _, wanted in marks:
        places.append(next(at for at in _around(wanted) if _is_free(at, places)))
    rounds = tuple(
        Stroke((circular(flat(at), RADIUS, 0.0, 2 * np.pi),), "fine", "#ffffff") for at in places
    )
    labels = tuple(
        Label(text, at - [0.0, 0.5 * TEXT], TEXT, role="text")
        for (text, _), at in zip(marks, places, strict=True)
    )
    return Group(name, title, rounds, labels)


def _around(place: Points) -> Iterator[Points]:
    """The place itself, then places on rings round it, ever wider."""
    yield place
    for ring in itertools.count(1):
        for turn in np.arange(8) * np.pi / 4:
            yield place + ring * RADIUS * np.array([np.cos(turn), np.sin(turn)])


def _is_free(place: Points, taken: Sequence[Points]) -> bool:
    return all(np.linalg.norm(place - other) >= 2 * RADIUS for other in taken)


def piece_marks(pieces: Pieces, view: View, scale: float) -> Group:
    """The mark of each piece of the schedule, on one that it is."""
    found = []
    for piece, shape in pieces:
        low, high = shape.bounds()
        found.append((piece.mark, scale * view.placed((low + high) / 2)[:2]))
    return in_circles(found, "pieces", "Pieces")


def schedule_rows(pieces: Pieces, units: DisplayUnits) -> tuple[Columns, list[tuple[str, ...]]]:
    """The schedule as a table: its columns and its rows."""
    rows: list[tuple[str, ...]] = []
    for one, _ in pieces:
        sizes = " × ".join(show_quantity(size, LENGTH, units).number for size in one.sizes)
        unit = units.length_unit.symbol if sizes else ""
        mass = "" if one.mass is None else str(show_quantity(one.mass, MASS, units))
        rows.append((one.mark, one.label, str(one.quantity), f"{sizes} {unit}".strip(), mass))
    return _COLUMNS, rows
