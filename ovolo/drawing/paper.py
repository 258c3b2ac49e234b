"""Sheets of paper: a drawing at a scale, a frame and a title block.

The frame after ISO 5457, the fields of the title block after ISO 7200.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ovolo.drawing import key
from ovolo.drawing.marks import Group, Label, Page, Stroke, enlarged, extent, fitted, lines
from ovolo.drawing.picture import drawn, loose_page, natural_view
from ovolo.drawing.standards import paper_size, read_scale, said_scale, scales_for, usual_paper
from ovolo.drawing.views import View, view_named
from ovolo.geometry.types import Points
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.problems import Failure
from ovolo.quantities.show import FEET_INCHES, DisplayUnits

_BORDER = 10.0
_FILING = 20.0
"""mm at the left edge, for filing."""

_BLOCK = (180.0, 22.0)
_LEAST_ROOM = 40.0
"""mm that a drawing has beside its key at least."""

_AIR = 6.0
"""mm kept free between the frame and the drawing."""


@dataclass(frozen=True)
class Layout:
    """How a drawing is to be laid out. `scale` is mm of paper for a mm, the largest of the
    standard that fits where it is None."""

    view: View
    paper: str = "A4"
    upright: bool = False
    scale: float | None = None
    names: bool = False
    key: bool = False
    """Whether placed studies have numbers, and a table says what they are."""

    author: str = ""
    preset: str = ""
    date: datetime.date = field(default_factory=datetime.date.today)


def layout_said(outcome: Outcome, said: Mapping[str, Any]) -> Layout:
    """The layout that a person asks for by `view`, `paper`, `upright`, `scale`, `names`, `key`,
    `author` and `preset`; what is empty or missing is chosen. Raises Failure."""
    view, scale = said.get("view"), said.get("scale")
    return Layout(
        view_named(str(view)) if view else natural_view(outcome),
        str(said.get("paper") or usual_paper(outcome.units)),
        bool(said.get("upright")),
        read_scale(str(scale)) if scale else None,
        bool(said.get("names")),
        bool(said.get("key")),
        str(said.get("author") or "")[:80],
        str(said.get("preset") or ""),
    )


def drawn_sheet(outcome: Outcome, layout: Layout, parts: Sequence[Part] | None = None) -> Page:
    """A sheet of paper with the drawing in its middle. Raises Failure where it does not fit, with
    the scale that would."""
    short, long = paper_size(layout.paper)
    width, height = (short, long) if layout.upright else (long, short)
    frame = np.array([[_FILING, _BORDER], [width - _BORDER, height - _BORDER]])
    block = np.minimum(_BLOCK, frame[1] - frame[0])
    entries = key.entries(outcome, parts) if layout.key else []
    above = key.height_of(entries) if entries else 0.0
    room = np.array([frame[0] + [0, block[1] + above], frame[1]])
    if room[1, 1] - room[0, 1] < _LEAST_ROOM:
        raise Failure(
            f"a key of {len(entries)} lines leaves no room for the drawing on {layout.paper}",
            "take larger paper, or leave the key out",
        )
    scale, groups = _fitting(outcome, layout, parts, room[1] - room[0] - 2 * _AIR)
    box = extent(groups)
    assert box is not None
    shift = (room[0] + room[1]) / 2 - (box[0] + box[1]) / 2
    # The page is laid under the drawing, whose origin stays that of the study.
    sheet = Group(
        "sheet", "Sheet", *_sheet_marks(outcome, layout, scale, frame - shift, block, above)
    )
    if entries:
        corner = np.array([frame[1, 0] - block[0], frame[0, 1] + block[1]]) - shift
        strokes, labels = key.table(entries, corner, float(block[0]))
        groups.append(Group("key", "Key", tuple(strokes), tuple(labels)))
    title = outcome.program.title or "Study"
    return Page(title, -shift, width, height, (*groups, sheet))


def full_size(
    outcome: Outcome, view: View, parts: Sequence[Part] | None = None, names: bool = False
) -> Page:
    """A drawing at full size, its lines and texts as large as they would be on A3 held before it."""
    layout = Layout(view, "A3", names=names)
    room = np.array(paper_size("A3")[::-1]) - 2 * _BORDER
    try:
        scale, groups = _fitting(outcome, layout, parts, room)
    except Failure:
        scale = scales_for(outcome.units)[-1]
        groups = drawn(outcome, view, scale, parts, names)
    if scale > 1:
        scale, groups = 1.0, drawn(outcome, view, 1.0, parts, names)
    return loose_page(outcome, enlarged(groups, 1 / scale), 1 / scale)


def _fitting(
    outcome: Outcome, layout: Layout, parts: Sequence[Part] | None, room: Points
) -> tuple[float, list[Group]]:
    """The scale, and the drawing at it."""
    said = f"{layout.paper} {'upright' if layout.upright else 'lying'}"
    scales = scales_for(outcome.units)
    wanted = scales if layout.scale is None else (layout.scale,)
    for scale in wanted:
        groups, size = _at_scale(outcome, layout, parts, scale)
        if np.all(size <= room):
            return scale, groups
    if layout.scale is None:
        raise Failure(f"at 1:{1 / scales[-1]:,.0f} this is still larger than {said}")
    fits = next(
        (s for s in scales if np.all(_at_scale(outcome, layout, parts, s)[1] <= room)), None
    )
    raise Failure(
        f"at {said_scale(layout.scale)} the drawing takes {size[0]:.0f} x {size[1]:.0f} mm; {said} "
        f"has room for {room[0]:.0f} x {room[1]:.0f} mm",
        f"{said_scale(fits)} fits" if fits else "take larger paper",
    )


def _at_scale(
    outcome: Outcome, layout: Layout, parts: Sequence[Part] | None, scale: float
) -> tuple[list[Group], Points]:
    groups = drawn(outcome, layout.view, scale, parts, layout.names)
    if layout.key:
        groups.append(key.numbers(key.entries(outcome, parts), layout.view, scale))
    box = extent(groups)
    if box is None:
        raise Failure("there is nothing to draw", "a line `part name = …` makes something")
    return groups, box[1] - box[0]


def _sheet_marks(
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
        (1, below, "View", layout.view.name),
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
