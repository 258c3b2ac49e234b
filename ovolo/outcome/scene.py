"""An outcome as the screen takes it: one binary message.

    4 bytes   b"OVO1"
    4 bytes   length of the header (unsigned, little-endian)
    header    JSON, padded with spaces to a multiple of 8
    data      float32 / uint32 arrays, each at a multiple of 4

The header names arrays as [offset, count] within the data. Shapes the receiver already holds
(by key) are left out.
"""

from __future__ import annotations

import json
import math
from collections.abc import Collection, Iterator, Mapping
from functools import partial
from typing import Any

import numpy as np

from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import Drawing
from ovolo.geometry.underlay import Underlay
from ovolo.meaning.program import choices_of, figures_in, point_width
from ovolo.meaning.study_kinds import StudyFunction, yield_fields
from ovolo.outcome import scene_message as said
from ovolo.outcome.chain_corners import chain_corners
from ovolo.outcome.dims import Dim
from ovolo.outcome.outcome import (
    UNKNOWN,
    Check,
    Outcome,
    is_said,
    show_line,
    show_value,
    unit_shown,
)
from ovolo.outcome.part import Part, construction_of, loose_parts
from ovolo.outcome.working import working_of
from ovolo.problems import Failure, Problem
from ovolo.quantities.dimension import MASS, NUMBER
from ovolo.quantities.kinds import (
    CURVE,
    SOLID,
    YES_NO,
    ListOf,
    PointKind,
    Quantity,
    figure_kind,
    innermost,
)
from ovolo.quantities.show import DisplayUnits, digits, grouped, show_quantity
from ovolo.running.evaluate import UNSURE, LineOutcome
from ovolo.running.tinting import Tinting
from ovolo.sheet import tree
from ovolo.sheet.statements.registry import type_of

MAGIC = b"OVO1"
EVERYTHING = "*"
"""Stands for the names of all lines."""

MOST_POINTS = 5_000
"""So many points of one construction line are shown."""


class _Data:
    """Arrays laid one after another."""

    def __init__(self) -> None:
        self.pieces: list[bytes] = []
        self.size = 0

    def add(self, array: np.ndarray[Any, Any]) -> list[int]:
        data = np.ascontiguousarray(array).tobytes()
        place = [self.size, array.size]
        self.pieces.append(data)
        self.size += len(data)
        return place


def scene_of(
    outcome: Outcome,
    held: Collection[str] = (),
    presets: Collection[tuple[str, bool]] = (),
    construction: Collection[str] = (),
    working: int | None = None,
    drawing: dict[str, Any] | None = None,
    lines_held: str = "",
) -> bytes:
    """The message for an outcome; `held` are keys of shapes the receiver has, `presets` those
    of the study and whether the present values are theirs, `construction` the names of lines
    that are no parts and whose geometry is wanted (`*` for all), `working` the line to explain,
    `drawing` a flat drawing that goes with it, `lines_held` tells the text whose lines the receiver
    has (as `lines_of` in an earlier message)."""
    data = _Data()
    shapes: dict[str, said.ShapeSaid] = {}
    by_name = {one.line.name: one for one in outcome.lines if one.line.name}

    def drawn_part(part: Part) -> said.PartSaid:
        return _part(part, outcome, data, shapes, held)

    parts = [
        drawn
        for part in outcome.parts.values()
        for drawn in outcome.kept(partial(drawn_part, part), by_name[part.name])
    ]
    drawn = [
        found
        for one in outcome.lines
        if one.line.name in construction or (EVERYTHING in construction and _is_datum(one))
        for found in outcome.kept(partial(construction_of, one), one)
    ]
    loose = [
        drawn
        for line, part in loose_parts(outcome.lines)
        for drawn in outcome.kept(partial(drawn_part, part), line)
    ]
    lines = {one.line.statement.line: _line_said(one, outcome) for one in outcome.lines}
    header: said.SceneSaid = {
        **_lines(outcome.program.sheet, lines_held),
        "study": outcome.program.title,
        "length_unit": _length_unit(outcome.units),
        "outcomes": lines,
        "inputs": list(_inputs(outcome)),
        "presets": [{"title": title, "same": same} for title, same in presets],
        "parts": parts,
        "loose": loose,
        "checks": [_check(check, outcome) for check in outcome.checks],
        "dims": list(_dims(outcome)),
        "problems": [_problem(problem) for problem in outcome.problems],
        "construction": [_construction(one, data, shapes, held) for one in drawn if one],
        "corners": _corners(outcome, construction),
        "working": _working(outcome, working),
        "underlays": [_underlay(one) for one in outcome.lines if _lies_under(one)],
        "drawing": drawing,
        "shapes": shapes,
        "coming": outcome.in_motion,
    }
    return packed(header, data.pieces)


def _is_datum(line: LineOutcome) -> bool:
    """Whether a line is something to draw by: points or curves that are no part."""
    kind = innermost(line.line.kind)
    drawn = isinstance(kind, PointKind) or kind == CURVE
    return drawn and not isinstance(line.line.content, tree.Part)


def _lies_under(line: LineOutcome) -> bool:
    return isinstance(line.line.content, tree.File) and isinstance(line.value, Underlay)


def _underlay(line: LineOutcome) -> said.UnderlaySaid:
    """A picture under the drawing: its file and its corners (lower left, lower right, upper right,
    upper left)."""
    underlay: Underlay = line.value
    return {
        "name": line.line.name,
        "file": underlay.name,
        "digest": underlay.digest,
        "line": line.line.statement.line,
        "size": [underlay.width, underlay.height],
        "corners": underlay.corners.tolist(),
        "strength": underlay.strength,
    }


def _length_unit(units: DisplayUnits) -> said.LengthUnitSaid:
    return {"symbol": units.length_unit.symbol, "size": units.length_unit.size}


def _corners(outcome: Outcome, construction: Collection[str]) -> list[said.CornerSaid]:
    """Those of the chains whose geometry is wanted."""
    return [
        corner
        for one in outcome.lines
        if one.line.name in construction or EVERYTHING in construction
        for found in outcome.kept(partial(chain_corners, one), one)
        for corner in found
    ]


def _working(outcome: Outcome, line: int | None) -> list[said.StepSaid]:
    """The steps of a working; none where that line has nothing to explain (any more)."""
    if line is None:
        return []
    try:
        return working_of(outcome, line)
    except Failure:
        return []


def packed(header: Mapping[str, Any], pieces: Collection[bytes] = ()) -> bytes:
    """The binary message for a header and its data."""
    try:
        written = json.dumps(header, ensure_ascii=False, allow_nan=False)
    except ValueError:  # a figure beyond all figures, which JSON does not know
        written = json.dumps(_finite(header), ensure_ascii=False, allow_nan=False)
    text = written.encode(errors="replace")
    text += b" " * (-len(text) % 8)
    return b"".join((MAGIC, len(text).to_bytes(4, "little"), text, *pieces))


def _finite(value: Any) -> Any:
    """The same with nothing where a figure is not finite."""
    match value:
        case dict():
            return {key: _finite(one) for key, one in value.items()}
        case list() | tuple():
            return [_finite(one) for one in value]
        case float() if not math.isfinite(value):
            return None
    return value


def _lines(sheet: tree.Sheet, held: str) -> said.LinesSaid:
    """The lines of a sheet with what tells them from others; only that where they are held."""
    own = digest(sheet.text)
    if held == own:
        return {"lines_of": own}
    return {"lines_of": own, "lines": sheet_header(sheet)["lines"]}


def sheet_header(sheet: tree.Sheet) -> dict[str, list[said.LineSaid]]:
    """The statements of a sheet as the screen shows them, before anything is run."""
    return {"lines": [_statement(statement) for statement in sheet.statements]}


def bare_header(text: str) -> dict[str, list[said.LineSaid]]:
    """The lines of a sheet as they stand, where it cannot be read just now."""
    return {
        "lines": [
            {"line": at, "text": line, "type": "unreadable" if line.strip() else "blank", "name": None,
             "body": line.strip(), "comment": "", "title": ""}
            for at, line in enumerate(text.split("\n"), start=1)
        ]
    }  # fmt: skip


def _statement(statement: tree.Statement) -> said.LineSaid:
    known = type_of(statement.content)
    unknown = "blank" if isinstance(statement.content, tree.Blank) else "unreadable"
    return {
        "line": statement.line,
        "text": statement.text,
        "type": unknown if known is None else known.row_type,
        "lead": known.word if known is not None and known.leads else "",
        "name": statement.name,
        "body": statement.text.partition("\n")[0].strip()
        if known is None
        else known.body_of(statement),
        "comment": statement.comment,
        "title": known.title(statement.content) if known is not None and known.title else "",
    }


def _line_without_value(outcome: LineOutcome) -> said.OutcomeSaid:
    """A line whose value cannot be shown."""
    kind = outcome.line.kind
    return {
        "kind": kind.word if kind is not None else "", "number": "", "unit": "", "label": "",
        "needs": list(outcome.line.needs), "notes": [], "study": None,
        "problems": [_problem(problem) for problem in outcome.problems],
    }  # fmt: skip


def _line_coming(outcome: LineOutcome) -> said.OutcomeSaid:
    """A line whose value is known once the hand rests."""
    known = type_of(outcome.line.content)
    says = known is not None and known.says
    return {
        **_line_without_value(outcome),
        "said": UNKNOWN if says else "",
        "number": "" if says else UNKNOWN,
        "label": getattr(outcome.line.content, "label", ""),
        "coming": True,
    }


def _line_said(outcome: LineOutcome, whole: Outcome) -> said.OutcomeSaid:
    """What is told of a line; of one that came out as before, what was told then."""
    if whole.is_coming(outcome.line):
        return _line_coming(outcome)
    as_before = outcome.line.remembered is outcome
    if as_before and outcome.line.told is not None:
        told: said.OutcomeSaid = outcome.line.told
        return told
    made = whole.kept(partial(_line, outcome, whole), outcome)
    if made and as_before:
        outcome.line.told = made[0]
    return made[0] if made else _line_without_value(outcome)


def _line(outcome: LineOutcome, whole: Outcome) -> said.OutcomeSaid:
    kind = outcome.line.kind
    number = unit = ""
    if outcome.has_value and kind is not None:
        shown = show_line(outcome, whole.units)
        number, unit = grouped(shown.number), shown.unit
        if unit.startswith(":"):  # a ratio is one figure
            number, unit = str(shown), ""
    says = is_said(outcome)
    return {
        "kind": kind.word if kind is not None else "",
        "said": outcome.value if says else "",
        "number": "" if says else number,
        "unit": unit,
        "label": getattr(outcome.line.content, "label", ""),
        "needs": list(outcome.line.needs),
        "problems": [_problem(problem) for problem in outcome.problems],
        "notes": [note.as_json() for note in outcome.notes],
        "study": _study(kind) if isinstance(kind, StudyFunction) else None,
    }


def _study(kind: StudyFunction) -> said.StudySaid:
    """What a study that is used takes, as its sheet has it, and what it yields."""
    inputs = []
    for line in kind.program.offered:
        assert isinstance(line.content, tree.Input)
        start, end = line.content.value.span
        inputs.append(f"{line.name} = {line.statement.text[start:end]}")
    return {"inputs": inputs, "yields": [name for name, _ in yield_fields(kind.program)]}


def _problem(problem: Problem) -> said.ProblemSaid:
    return {
        **problem.as_json(),
        "struck": problem.struck,
        "end_column": problem.end_column,
        "waiting": problem.waiting,
        "unknown": problem.unknown,
    }


def _inputs(outcome: Outcome) -> Iterator[said.InputSaid]:
    """The inputs in the order of the text, each with the title of the section it stands in."""
    lines = {id(one.line.statement): one for one in outcome.lines}
    section = ""
    for statement in outcome.program.sheet.statements:
        if isinstance(statement.content, tree.Section):
            section = statement.content.title
        elif isinstance(statement.content, tree.Input):
            seed = statement.name in outcome.program.seeds
            yield {**_input(lines[id(statement)], section, outcome.units), "seed": seed}
        elif _is_broken_input(statement):
            yield _broken_input(lines[id(statement)], section)


def _is_broken_input(statement: tree.Statement) -> bool:
    """Whether this would be an input if it could be read."""
    if not isinstance(statement.content, tree.Unreadable) or not statement.name:
        return False
    return statement.text.split(maxsplit=1)[0] == "input"


def _broken_input(outcome: LineOutcome, section: str) -> said.InputSaid:
    """The place of an input that cannot be read, which says so."""
    statement = outcome.line.statement
    return {
        "name": statement.name,
        "label": (statement.name or "").replace("_", " "),
        "help": statement.comment,
        "line": statement.line,
        "kind": "",
        "section": section,
        "internal": False,
        "problem": next((problem.message for problem in outcome.problems), ""),
        "value": None,
        "choices": [],
    }


def _input(outcome: LineOutcome, section: str, units: DisplayUnits) -> said.InputSaid:
    """An input for its slide rule; quantities in mm, radians, kg, s beside the unit shown."""
    line, content, kind = outcome.line, outcome.line.content, outcome.line.kind
    assert isinstance(content, tree.Input)
    found: said.InputSaid = {
        "name": content.name,
        "label": content.label or content.name.replace("_", " "),
        "help": line.statement.comment,
        "line": line.statement.line,
        "kind": kind.word if kind is not None else "",
        "section": section,
        "internal": content.internal,
        "problem": next((problem.message for problem in outcome.problems), ""),
        "value": None,
        "choices": choices_of(line),
    }
    if not outcome.has_value or kind is None:
        return found
    figure = figure_kind(kind)
    if figure is not None:
        _add_figures(found, outcome, figure, units)
    elif kind == YES_NO:
        found["value"] = bool(outcome.value)
    elif isinstance(outcome.value, str):
        found["value"] = outcome.value
    else:
        shown = show_value(outcome.value, kind, units)
        found["number"], found["unit"] = shown.number, shown.unit
    return found


def _add_figures(
    found: said.InputSaid, outcome: LineOutcome, figure: Quantity, units: DisplayUnits
) -> None:
    """Adds what turns: one figure, or several (`value` is then a list)."""
    terms = outcome.result.terms if outcome.result is not None else {}
    kind = outcome.line.kind
    shown = show_line(outcome, units)
    size = unit_shown(outcome, figure.dimension, units).size
    one = isinstance(kind, Quantity)
    figures = figures_in(outcome.value, kind)
    found["value"] = figures[0] if one else figures
    found["number"] = grouped(shown.number) if one else shown.number
    found["numbers"] = [grouped(_bare(v, figure, size, units)) for v in figures]
    found["unit"] = shown.unit
    found["size"] = size
    found["width"] = point_width(kind) if isinstance(kind, ListOf) else 0
    low, high, step = (float(terms[role]) if role in terms else None for role in _ROLES)
    found["low"], found["high"], found["step"] = low, high, step
    if low is not None:
        found["low_shown"] = _bare(low, figure, size, units)
    if high is not None:
        found["high_shown"] = _bare(high, figure, size, units)
    if step is not None:
        found["step_shown"] = _bare(step, figure, size, units)
    found["choices_shown"] = [
        str(show_quantity(float(c), figure.dimension, units))
        for c in choices_of(outcome.line)
        if isinstance(c, int | float)
    ]


_ROLES = ("low", "high", "step")


def _bare(value: float, kind: Quantity, size: float, units: DisplayUnits) -> str:
    """A figure without its unit."""
    if kind.dimension == NUMBER:
        return digits(value / size)
    return show_quantity(value, kind.dimension, units).number


def _check(check: Check, outcome: Outcome) -> said.CheckSaid:
    told: said.CheckSaid = {
        "text": check.text, "message": check.message, "passed": check.passed,
        "line": check.line, "measured": check.measured, "doubt": "" if check.sure else UNSURE,
    }  # fmt: skip
    is_known = not outcome.in_motion or check.line not in outcome.program.of_geometry
    return told if is_known else {**told, "passed": None, "measured": UNKNOWN, "doubt": ""}


_BEYOND = 1e100
"""Figures from here on are not drawn: their squares are none."""


def _dims(outcome: Outcome) -> Iterator[said.DimSaid]:
    """Those that can be drawn: not those beyond all figures."""
    for dim in outcome.dims:
        if max(map(abs, (*dim.start, *dim.end, dim.offset, dim.value))) < _BEYOND:
            yield _dim(dim, outcome)


def _dim(dim: Dim, outcome: Outcome) -> said.DimSaid:
    shown = dim.shown(outcome.units)
    space = "" if shown.unit == "°" else " "
    is_coming = outcome.in_motion and dim.line in outcome.program.of_geometry
    return {
        "line": dim.line, "said": dim.said, "form": dim.form,
        "start": list(dim.start), "end": list(dim.end),
        "offset": dim.offset, "wrong": dim.wrong, "name": dim.name,
        "shown": UNKNOWN if is_coming else f"{grouped(shown.number)}{space}{shown.unit}".strip(),
        "segments": dim.segments.reshape(-1).tolist(), "place": dim.place.tolist(),
    }  # fmt: skip


def _part(
    part: Part,
    outcome: Outcome,
    data: _Data,
    shapes: dict[str, said.ShapeSaid],
    held: Collection[str],
) -> said.PartSaid:
    return {
        "name": part.name,
        "label": part.label or part.name.replace("_", " "),
        "colour": part.colour,
        "line": part.line,
        "count": part.count,
        "solid": part.kind == SOLID,
        "triangles": part.triangles,
        "bounds": part.drawn_bounds,
        "groups": _shape_groups(part, data, shapes, held),
        "legend": [] if part.tinting is None else _legend(part.tinting, outcome),
        "hatch": data.add(part.hatching.astype(np.float32)),
        "cutHatch": list(part.hatch or ()) if part.kind == SOLID else [],
        "mass": _mass(part, outcome),
    }


def _legend(tinting: Tinting, outcome: Outcome) -> list[said.LegendSaid]:
    return [
        {"said": UNKNOWN if outcome.in_motion else meaning, "colour": colour}
        for meaning, colour in tinting.legend
    ]


def _mass(part: Part, outcome: Outcome) -> str:
    if part.mass is None:
        return ""
    return UNKNOWN if outcome.in_motion else str(show_quantity(part.mass, MASS, outcome.units))


def _construction(
    part: Part, data: _Data, shapes: dict[str, said.ShapeSaid], held: Collection[str]
) -> said.ConstructionSaid:
    """Geometry that is no part: shapes in their places, and points."""
    return {
        "name": part.name,
        "line": part.line,
        "groups": _shape_groups(part, data, shapes, held),
        "points": [[float(c) for c in point] for point in part.points[:MOST_POINTS]],
    }


def _shape_groups(
    part: Part, data: _Data, shapes: dict[str, said.ShapeSaid], held: Collection[str]
) -> list[said.GroupSaid]:
    groups = []
    for group in part.groups:
        key = group.shape.key
        if key not in shapes and key not in held:
            shapes[key] = _drawing(group.shape.drawing, data)
        groups.append(_group(key, group.matrices, group.items, data, part.tinting))
    for item, one in part.indexed_drawables:
        key = one.drawing_key
        if key not in shapes and key not in held:
            shapes[key] = _drawing(one.drawing, data)
        groups.append(_group(key, one.drawn_at[None], np.array([item]), data, part.tinting))
    return groups


def _group(
    key: str, matrices: Any, items: Any, data: _Data, tinting: Tinting | None = None
) -> said.GroupSaid:
    by_column = np.ascontiguousarray(np.swapaxes(matrices, 1, 2), dtype=np.float32)
    return {
        "shape": key,
        "matrices": data.add(by_column.reshape(-1)),
        "items": data.add(items.astype(np.uint32)),
        "tints": _tints(items, data, tinting),
    }


def _tints(items: Any, data: _Data, tinting: Tinting | None) -> list[int] | None:
    """A colour for each item, as 0xRRGGBB."""
    if tinting is None:
        return None
    colours = [int(tinting.of_items[int(item)][1:], 16) for item in items]
    return data.add(np.array(colours, dtype=np.uint32))


def _drawing(drawing: Drawing, data: _Data) -> said.ShapeSaid:
    return {
        "positions": data.add(drawing.positions),
        "normals": data.add(drawing.normals),
        "triangles": data.add(drawing.triangles),
        "edges": data.add(drawing.edges),
    }
