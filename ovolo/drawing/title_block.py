"""The layout of a sheet of paper, its frame and its title block.

The frame after ISO 5457, the fields of the title block after ISO 7200.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterator

import numpy as np
from msgspec import Struct, field

from ovolo.drawing.marks import Label, Stroke, fitted, lines
from ovolo.drawing.standards import paper_size, said_scale
from ovolo.drawing.views import View
from ovolo.geometry.types import Points
from ovolo.outcome.outcome import Outcome
from ovolo.quantities.show import FEET_INCHES, DisplayUnits

BORDER = 10.0
_FILING = 20.0
"""mm at the left edge, for filing."""

_BLOCK = (180.0, 22.0)
AIR = 6.0
"""mm kept free between the frame and the drawing."""


class Layout(Struct, frozen=True):
    """How a drawing is to be laid out. `scale` is mm of paper for a mm, the largest of the
    standard that fits where it is None."""

    view: View
    paper: str = "A4"
    upright: bool = False
    scale: float | None = None
    names: bool = False
    key: bool = False
    """Whether placed studies have numbers, and a table says what they are."""

    figures: tuple[str, ...] = ()
    """Several figures instead of the view: views, sections, details (`figures.py`)."""

    dashed: bool = False
    """Whether lines that are hidden in figures are dashed, and not left out."""

    schedule: bool = False
    """Whether the schedule stands on the sheet, and its marks in a view."""

    checks: bool = False
    revisions: tuple[tuple[str, str, str], ...] = ()
    """What was named in the history: the name, the date, by whom."""

    author: str = ""
    preset: str = ""
    date: datetime.date = field(default_factory=datetime.date.today)


def frame_of(layout: Layout) -> tuple[float, float, Points]:
    """Width and height of the paper, and the corners of its frame (2, 2), in mm."""
    short, long = paper_size(layout.paper)
    width, height = (short, long) if layout.upright else (long, short)
    return width, height, np.array([[_FILING, BORDER], [width - BORDER, height - BORDER]])


def block_of(frame: Points) -> Points:
    """Width and height of the title block."""
    return np.asarray(np.minimum(_BLOCK, frame[1] - frame[0]))


def sheet_marks(
    outcome: Outcome, layout: Layout, scale: float, frame: Points, block: Points, above: float
) -> tuple[tuple[Stroke, ...], tuple[Label, ...]]:
    low, high = frame
    left, top = high[0] - block[0], low[1] + block[1]
    corners = [low, (high[0], low[1]), high, (low[0], high[1])]
    segments = [(corners[k], corners[(k + 1) % 4]) for k in range(4)]
    segments += [((left, top), (high[0], top)), ((left, low[1]), (left, top))]
    cells = np.array([left, *(left + block[0] * share for share in (0.45, 0.63, 0.81)), high[0]])
    middle = low[1] + block[1] / 2
    rules = [((x, low[1]), (x, top)) for x in cells[1:-1]]
    rules.append(((left, middle), (high[0], middle)))
    strokes = [*lines(segments, "frame"), *lines(rules, "fine")]
    labels = [*_fields(outcome, layout, scale, cells, (low[1], middle), block[1] / 2)]
    wrong = sum(dim.wrong for dim in outcome.dims)
    if wrong:
        text = f"✕ {wrong} dim{'s' if wrong > 1 else ''} of this study disagree{'' if wrong > 1 else 's'} with the drawing"
        labels.append(
            Label(text, np.array([left, top + above + 2.0]), 2.5, role="wrong", anchor="start")
        )
    return tuple(strokes), tuple(labels)


def _fields(
    outcome: Outcome,
    layout: Layout,
    scale: float,
    cells: Points,
    rows: tuple[float, float],
    height: float,
) -> Iterator[Label]:
    """The fields of the title block: a small name over what it says."""
    below, above = rows
    lying = "" if layout.upright else " lying"
    fields = [
        (0, above, "Study", outcome.program.title or "Study"),
        (1, above, "Preset", layout.preset or "as written"),
        (2, above, "Scale", said_scale(scale)),
        (3, above, "Date", layout.date.isoformat()),
        (0, below, "Author", layout.author or "–"),
        (
            1,
            below,
            "View",
            f"{len(layout.figures)} figures" if layout.figures else layout.view.name,
        ),
        (2, below, "Paper", layout.paper + lying),
        (3, below, "Lengths in", _lengths_in(outcome.units)),
    ]
    for cell, bottom, name, text in fields:
        left, room = cells[cell] + 1.5, cells[cell + 1] - cells[cell] - 3.0
        at = np.array([left, bottom + height - 3.2])
        yield Label(name, at, 1.8, role="field", anchor="start")
        yield fitted(
            Label(text, np.array([left, bottom + 2.0]), 2.5, role="text", anchor="start"), room
        )


def _lengths_in(units: DisplayUnits) -> str:
    return "ft and in" if units.length == FEET_INCHES else units.length_unit.symbol
