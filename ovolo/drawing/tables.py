"""Tables on paper: a head at the top, rows downwards, texts that are made smaller or cut where they are long."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ovolo.drawing.marks import Label, Stroke, fitted, lines
from ovolo.geometry.types import Points

ROW = 5.0
TEXT = 2.2
_AIR = 1.5

_LEAST = 0.75
"""A text is made smaller down to this share before it is cut."""

Columns = Sequence[tuple[str, float]]
"""The names of columns, and their shares of the width."""


def height_of(count: int) -> float:
    """Of a table of so many rows with its head, in mm of paper."""
    return ROW * (count + 1)


def table(
    columns: Columns, found: Sequence[Sequence[str]], low: Points, width: float
) -> tuple[list[Stroke], list[Label]]:
    """The table, its lower left corner at `low` (mm of paper)."""
    edges = low[0] + width * np.concatenate([[0.0], np.cumsum([share for _, share in columns])])
    rows = [tuple(name for name, _ in columns), *found]
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
    label = Label(text, place, TEXT, role=role, anchor="start")
    return fitted(label, float(sides[1] - sides[0]) - 2 * _AIR, _LEAST)
