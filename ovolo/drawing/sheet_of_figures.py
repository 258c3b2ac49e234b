"""A sheet with several figures: views set out in third angle (plan above, front below it, the side beside the
front; ISO 5456-2, from memory), sections and details beside them, tables above the title block."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct

from ovolo.drawing.figures import (
    AXONOMETRIC,
    Detail,
    Figure,
    cut_marks,
    figure_said,
    figures_of,
)
from ovolo.drawing.marks import Group, Label, Page, extent, moved
from ovolo.drawing.piece_marks import Marks, Pieces, marks_of, piece_marks, schedule_rows
from ovolo.drawing.standards import said_scale, scales_for
from ovolo.drawing.tables import Columns, height_of, table
from ovolo.drawing.title_block import AIR, Layout, block_of, frame_of, sheet_marks
from ovolo.drawing.views import FRONT, PLAN, SIDE
from ovolo.geometry.types import Points
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.outcome.schedule import schedule_with_shapes
from ovolo.problems import Failure

_APART = 12.0
_TITLE = 6.0
_CELLS = {"plan": (0, 0), "front": (0, 1), "side": (1, 1), AXONOMETRIC.name: (1, 0)}
_CHECKS: Columns = (("Check", 0.72), ("", 0.28))
_REVISIONS: Columns = (("Revision", 0.5), ("Date", 0.25), ("By", 0.25))
MOST_ROWS = 60


class _Table(Struct, frozen=True, eq=False):
    name: str
    columns: Columns
    rows: Sequence[Sequence[str]]

    @property
    def height(self) -> float:
        return height_of(len(self.rows))


def sheet_of_figures(outcome: Outcome, layout: Layout, parts: Sequence[Part] | None = None) -> Page:
    """The sheet. Raises Failure where it does not fit, with the scale that would, and for figures that
    cannot be."""
    taken = [part for part in (outcome.parts.values() if parts is None else parts) if part.count]
    if not taken:
        raise Failure("there is nothing to draw", "a line `part name = …` makes something")
    asked = [figure_said(one, outcome) for one in layout.figures]
    figures = figures_of(asked, outcome, taken, layout.dashed, layout.names)
    pieces = schedule_with_shapes(taken) if layout.schedule else []
    tables = list(_tables(outcome, layout, pieces))
    width, height, frame = frame_of(layout)
    block = block_of(frame)
    above = sum(one.height for one in tables)
    rooms = _rooms(frame, block, above)
    first = _first_view(figures)
    marks = marks_of(pieces, first.view, first.edges.fronts) if pieces and first else []
    scale, room, groups = _fitting(outcome, layout, figures, marks, rooms)
    box = extent(groups)
    assert box is not None
    shift = (room[0] + room[1]) / 2 - (box[0] + box[1]) / 2
    groups += list(_drawn_tables(tables, np.array([frame[1, 0] - block[0], frame[0, 1] + block[1]]) - shift, float(block[0])))  # fmt: skip
    sheet = Group(
        "sheet", "Sheet", *sheet_marks(outcome, layout, scale, frame - shift, block, above)
    )
    return Page(outcome.program.title or "Study", -shift, width, height, (*groups, sheet))


def _rooms(frame: Points, block: Points, above: float) -> list[Points]:
    """Where figures may stand: above the title block and its tables, or to their left."""
    over = np.array([frame[0] + [0, block[1] + above], frame[1]])
    left = np.array([frame[0], [frame[1, 0] - block[0], frame[1, 1]]])
    return [room for room in (over, left) if np.all(room[1] - room[0] > 2 * AIR + 20)]


def _fitting(
    outcome: Outcome, layout: Layout, figures: Sequence[Figure | Detail], marks: Marks, rooms: Sequence[Points],
) -> tuple[float, Points, list[Group]]:  # fmt: skip
    said = f"{layout.paper} {'upright' if layout.upright else 'lying'}"
    if not rooms:
        raise Failure(
            f"the tables leave no room for figures on {said}",
            "take larger paper, or leave tables out",
        )
    scales = scales_for(outcome.units)
    for scale in scales if layout.scale is None else (layout.scale,):
        groups = _set_out(outcome, layout, figures, marks, scale, plainly=True)
        box = extent(groups)
        assert box is not None
        size = box[1] - box[0]
        for room in rooms:
            if np.all(size <= room[1] - room[0] - 2 * AIR):
                return scale, room, _set_out(outcome, layout, figures, marks, scale, plainly=False)
    if layout.scale is None:
        raise Failure(f"at {said_scale(scales[-1])} the figures are still larger than {said}")
    raise Failure(
        f"at {said_scale(layout.scale)} the figures take {size[0]:.0f} × {size[1]:.0f} mm, more than {said} has",
        "a smaller scale, larger paper, or fewer figures",
    )


def _set_out(
    outcome: Outcome,
    layout: Layout,
    figures: Sequence[Figure | Detail],
    marks: Marks,
    scale: float,
    plainly: bool,
) -> list[Group]:
    """All figures in their cells, on paper; the corner of the sheet's figures is anywhere."""
    cells: dict[tuple[int, int], tuple[Figure | Detail, list[Group], Points]] = {}
    beside = 0
    for figure in figures:
        groups = figure.drawn(scale, plainly)
        if isinstance(figure, Figure) and figure.asked.kind == "view":
            groups += _marks_on(layout, figure, figures, marks, scale, groups)
            cell = _CELLS[figure.view.name]
        else:
            cell = (2 + beside // 2, beside % 2)
            beside += 1
        box = extent(groups)
        if box is None:
            raise Failure(f"there is nothing to see in {figure.title or 'a view'}")
        if cell in cells:
            raise Failure("a view stands on a sheet once", "leave one out")
        groups += _titled(figure, box, scale)
        whole = extent(groups)
        assert whole is not None
        cells[cell] = (figure, groups, np.array(whole))
    return [group for placed in _placed(cells) for group in placed]


def _placed(
    cells: dict[tuple[int, int], tuple[Figure | Detail, list[Group], Points]],
) -> Iterator[list[Group]]:
    """Each figure moved to its cell: views that stand above or beside each other stay in line."""
    columns, rows = sorted({c for c, _ in cells}), sorted({r for _, r in cells}, reverse=True)
    in_line = {(0, 0), (0, 1), (1, 1)}
    wide, high = {}, {}
    for column in columns:
        boxes = [box[:, 0] for (c, _), (_, _, box) in cells.items() if c == column]
        lined = [box[:, 0] for (c, r), (_, _, box) in cells.items() if c == column and (c, r) in in_line]  # fmt: skip
        low = min((one[0] for one in lined), default=0.0)
        wide[column] = low, max([max((one[1] for one in lined), default=0.0) - low, *(one[1] - one[0] for one in boxes)])  # fmt: skip
    for row in rows:
        boxes = [box[:, 1] for (_, r), (_, _, box) in cells.items() if r == row]
        lined = [box[:, 1] for (c, r), (_, _, box) in cells.items() if r == row and (c, r) in in_line]  # fmt: skip
        low = min((one[0] for one in lined), default=0.0)
        high[row] = low, max([max((one[1] for one in lined), default=0.0) - low, *(one[1] - one[0] for one in boxes)])  # fmt: skip
    left = dict(
        zip(columns, np.cumsum([0.0, *(wide[c][1] + _APART for c in columns)]), strict=False)
    )
    below = dict(zip(rows, np.cumsum([0.0, *(high[r][1] + _APART for r in rows)]), strict=False))
    for (column, row), (_, groups, box) in cells.items():
        if (column, row) in in_line:
            shift = np.array([left[column] - wide[column][0], below[row] - high[row][0]])
        else:  # in the middle of its cell
            middle = np.array([left[column] + wide[column][1] / 2, below[row] + high[row][1] / 2])
            shift = middle - box.mean(axis=0)
        yield [moved(group, shift) for group in groups]


def _titled(figure: Figure | Detail, box: tuple[Points, Points], scale: float) -> list[Group]:
    """The title of a section or a detail above it."""
    if not figure.title:
        return []
    said = f"{figure.title}  {said_scale(scale * 2) if isinstance(figure, Detail) else said_scale(scale)}"
    place = np.array([(box[0][0] + box[1][0]) / 2, box[1][1] + _TITLE / 2])
    return [Group(f"title {figure.title}", figure.title, (), (Label(said, place, role="text"),))]


def _marks_on(
    layout: Layout, figure: Figure, figures: Sequence[Figure | Detail],
    marks: Marks,
    scale: float, groups: Sequence[Group],
) -> list[Group]:  # fmt: skip
    """The lines of cuts, the rings of details, and the marks of pieces that stand in a view."""
    box = extent(groups)
    if box is None or figure.view is AXONOMETRIC:
        return []
    found: list[Group] = []
    for other in figures:
        if isinstance(other, Detail) and other.of.view is figure.view:
            found.append(other.ring(scale))
        if isinstance(other, Figure) and other.asked.kind == "section" and _first_for(other, figures) is figure:  # fmt: skip
            mark = cut_marks(other, other.title[0], box, figure.view, scale)
            found += [mark] if mark else []
    if marks and figure is _first_view(figures):
        found.append(piece_marks(marks, scale))
    return found


def _first_view(figures: Sequence[Figure | Detail]) -> Figure | None:
    """That in which the pieces have their marks: the first that is seen square on."""
    for one in figures:
        if isinstance(one, Figure) and one.asked.kind == "view" and one.view is not AXONOMETRIC:
            return one
    return None


def _first_for(section: Figure, figures: Sequence[Figure | Detail]) -> Figure | None:
    """The view in which a cut is marked: the first that does not look along it."""
    for view in (PLAN, FRONT, SIDE):
        way = view.matrix[:3, :3] @ np.array(section.view.towards)
        for one in figures:
            if isinstance(one, Figure) and one.asked.kind == "view" and one.view is view and abs(way[2]) < 0.5:  # fmt: skip
                return one
    return None


# --- tables ---


def _tables(outcome: Outcome, layout: Layout, pieces: Pieces) -> Iterator[_Table]:
    """From below: revisions, checks, the schedule."""
    if layout.revisions:
        yield _Table("revisions", _REVISIONS, [*layout.revisions][:MOST_ROWS])
    if layout.checks and outcome.checks:
        rows = [
            (one.message or one.text, ("✓" if one.passed else "✕") + f" {one.measured}")
            for one in outcome.checks
        ]
        yield _Table("checks", _CHECKS, rows[:MOST_ROWS])
    if layout.schedule:
        columns, rows_of_schedule = schedule_rows(pieces, outcome.units)
        if len(rows_of_schedule) > MOST_ROWS:
            raise Failure(
                f"a schedule of {len(rows_of_schedule)} rows is too long for a sheet",
                f"at most {MOST_ROWS}; hand it over as CSV",
            )
        yield _Table("schedule", columns, rows_of_schedule)


def _drawn_tables(tables: Sequence[_Table], corner: Points, width: float) -> Iterator[Group]:
    for one in tables:
        strokes, labels = table(one.columns, one.rows, corner, width)
        yield Group(one.name, one.name.capitalize(), tuple(strokes), tuple(labels))
        corner = corner + np.array([0.0, one.height])
