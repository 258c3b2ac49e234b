"""Edits of a sheet's text. Each gives a new text; character for character, all else stays."""

from __future__ import annotations

from ovolo.problems import Failure
from ovolo.quantities.dimension import NUMBER, Dimension
from ovolo.quantities.show import FEET_INCHES, DisplayUnits
from ovolo.quantities.units import Unit, unit_named
from ovolo.sheet import tree
from ovolo.sheet.reader import read_sheet


def statement_at(text: str, line: int) -> tree.Statement:
    """The statement that begins at a line (from 1). Raises Failure where none does."""
    for statement in read_sheet(text).statements:
        if statement.line == line:
            return statement
    raise Failure(f"no line of this sheet begins at {line}")


def replaced(text: str, line: int, new: str) -> str:
    """The statement that begins at `line` replaced by `new`, as typed."""
    old = statement_at(text, line)
    lines = text.split("\n")
    lines[line - 1 : old.last_line] = new.split("\n")
    return "\n".join(lines)


def inserted(text: str, after: int, new: str) -> str:
    """`new` as further lines below line `after` (0: at the top)."""
    lines = text.split("\n")
    if not 0 <= after <= len(lines):
        raise Failure(f"this sheet has {len(lines)} lines; there is no line {after}")
    if after == len(lines) and lines[-1] == "":
        after -= 1
    lines[after:after] = new.split("\n")
    return "\n".join(lines)


def deleted(text: str, line: int) -> str:
    """The text without the statement that begins at `line`."""
    old = statement_at(text, line)
    lines = text.split("\n")
    del lines[line - 1 : old.last_line]
    return "\n".join(lines)


def input_statement(text: str, name: str) -> tree.Statement:
    for statement in read_sheet(text).statements:
        if isinstance(statement.content, tree.Input) and statement.name == name:
            return statement
    raise Failure(f"there is no input `{name}`")


def with_input(text: str, name: str, literal: str) -> str:
    """The input's value written anew; its limits, label and comment stay."""
    statement = input_statement(text, name)
    assert isinstance(statement.content, tree.Input)
    start, end = statement.content.value.span
    new = statement.text[:start] + literal + statement.text[end:]
    return replaced(text, statement.line, new)


def literal_for(value: object, dimension: Dimension, written: str, units: DisplayUnits) -> str:
    """A value as it is written in a sheet, in the unit the line had (`written`) where it had one."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str):
        escaped = value.replace("\\", "\\\\").replace('"', '\\"')
        return '"' + escaped.replace("{", "{{").replace("}", "}}") + '"'
    assert isinstance(value, int | float)
    unit = _unit_written(written, dimension) or _own_unit(dimension, units)
    figure = f"{float(value) / unit.size:.12g}"
    if dimension == NUMBER and unit.symbol != "%":
        return figure
    return f"{figure}{unit.symbol}" if unit.symbol in ("°", "%") else f"{figure} {unit.symbol}"


def _unit_written(written: str, dimension: Dimension) -> Unit | None:
    symbol = written.strip().lstrip("-+0123456789.eE").strip()
    try:
        unit = unit_named(symbol)
    except Failure:
        return None
    return unit if unit.dimension == dimension else None


def _own_unit(dimension: Dimension, units: DisplayUnits) -> Unit:
    if units.length == FEET_INCHES:
        units = DisplayUnits("in", units.angle)
    unit = units.unit_for(dimension)
    return unit_named("°") if unit.symbol == "deg" else unit


def setting_text(
    text: str, name: str, value: object, dimension: Dimension, units: DisplayUnits
) -> str:
    """The sheet with an input turned to a run-time value (mm, radians, kg, s)."""
    statement = input_statement(text, name)
    assert isinstance(statement.content, tree.Input)
    start, end = statement.content.value.span
    literal = literal_for(value, dimension, statement.text[start:end], units)
    return with_input(text, name, literal)
