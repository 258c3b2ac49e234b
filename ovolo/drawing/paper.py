"""Sheets of paper: a drawing at a scale, a frame and a title block."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np

from ovolo.drawing import key
from ovolo.drawing.marks import Group, Page, enlarged, extent
from ovolo.drawing.picture import drawn, loose_page, natural_view, parts_drawn
from ovolo.drawing.sheet_of_figures import sheet_of_figures
from ovolo.drawing.standards import paper_size, read_scale, said_scale, scales_for, usual_paper
from ovolo.drawing.title_block import AIR, BORDER, Layout, block_of, frame_of, sheet_marks
from ovolo.drawing.views import View, view_named
from ovolo.geometry.types import Points
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.problems import Failure

_LEAST_ROOM = 40.0
"""mm that a drawing has beside its key at least."""

_SURELY = 1 - 1e-6
"""The share of its size at full scale that a drawing surely takes at any, whatever is rounded."""


def layout_said(outcome: Outcome, said: Mapping[str, Any]) -> Layout:
    """The layout that a person asks for by `view`, `paper`, `upright`, `scale`, `names`, `key`, `figures`,
    `dashed`, `schedule`, `checks`, `revisions`, `author` and `preset`; what is empty or missing is chosen.
    Raises Failure."""
    view, scale = said.get("view"), said.get("scale")
    return Layout(
        view_named(str(view)) if view else natural_view(outcome),
        str(said.get("paper") or usual_paper(outcome.units)),
        bool(said.get("upright")),
        read_scale(str(scale)) if scale else None,
        bool(said.get("names")),
        bool(said.get("key")),
        _figures(said.get("figures")),
        bool(said.get("dashed")),
        bool(said.get("schedule")),
        bool(said.get("checks")),
        _revisions(said.get("revisions")),
        str(said.get("author") or "")[:80],
        str(said.get("preset") or ""),
    )


def _figures(said: Any) -> tuple[str, ...]:
    """The figures of a sheet, in a list or parted by semicolons. Raises Failure."""
    listed = said.split(";") if isinstance(said, str) else said or ()
    if not isinstance(listed, list | tuple) or not all(isinstance(one, str) for one in listed):
        raise Failure("the figures of a sheet cannot be read", "for example plan; front; section x")
    return tuple(one.strip() for one in listed if one.strip())


def _revisions(said: Any) -> tuple[tuple[str, str, str], ...]:
    """What stands in the table of revisions: a name, a date, by whom. Raises Failure."""
    rows = said or ()
    if not isinstance(rows, list | tuple) or any(
        not isinstance(row, list | tuple) or len(row) != 3 for row in rows
    ):
        raise Failure("the revisions of a sheet cannot be read", "a name, a date and a person each")
    return tuple((str(name)[:80], str(date)[:20], str(by)[:40]) for name, date, by in rows)


def drawn_sheet(outcome: Outcome, layout: Layout, parts: Sequence[Part] | None = None) -> Page:
    """A sheet of paper with the drawing in its middle. Raises Failure where it does not fit, with
    the scale that would."""
    if layout.figures:
        return sheet_of_figures(outcome, layout, parts)
    width, height, frame = frame_of(layout)
    block = block_of(frame)
    entries = key.entries(outcome, parts) if layout.key else []
    above = key.height_of(entries) if entries else 0.0
    room = np.array([frame[0] + [0, block[1] + above], frame[1]])
    if room[1, 1] - room[0, 1] < _LEAST_ROOM:
        raise Failure(
            f"a key of {len(entries)} lines leaves no room for the drawing on {layout.paper}",
            "take larger paper, or leave the key out",
        )
    scale, groups = _fitting(outcome, layout, parts, room[1] - room[0] - 2 * AIR)
    box = extent(groups)
    assert box is not None
    shift = (room[0] + room[1]) / 2 - (box[0] + box[1]) / 2
    # The page is laid under the drawing, whose origin stays that of the study.
    sheet = Group(
        "sheet", "Sheet", *sheet_marks(outcome, layout, scale, frame - shift, block, above)
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
    room = np.array(paper_size("A3")[::-1]) - 2 * BORDER
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
    if layout.scale is None:
        for scale, groups in _that_fit(outcome, layout, parts, room):
            return scale, groups
        least = scales_for(outcome.units)[-1]
        raise Failure(f"at 1:{1 / least:,.0f} this is still larger than {said}")
    groups, size = _at_scale(outcome, layout, parts, layout.scale)
    if np.all(size <= room):
        return layout.scale, groups
    fits = next((scale for scale, _ in _that_fit(outcome, layout, parts, room)), None)
    raise Failure(
        f"at {said_scale(layout.scale)} the drawing takes {size[0]:.0f} x {size[1]:.0f} mm; {said} "
        f"has room for {room[0]:.0f} x {room[1]:.0f} mm",
        f"{said_scale(fits)} fits" if fits else "take larger paper",
    )


def _that_fit(
    outcome: Outcome, layout: Layout, parts: Sequence[Part] | None, room: Points
) -> Iterator[tuple[float, list[Group]]]:
    """The scales at which all fits, the largest first, with the drawing. It is drawn only where the parts
    alone would fit."""
    box = extent(parts_drawn(outcome, layout.view, 1.0, parts))
    least = np.zeros(2) if box is None else (box[1] - box[0]) * _SURELY
    for scale in scales_for(outcome.units):
        if np.any(least * scale > room):
            continue
        groups, size = _at_scale(outcome, layout, parts, scale)
        if np.all(size <= room):
            yield scale, groups


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
