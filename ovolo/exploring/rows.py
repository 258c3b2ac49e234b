"""Settings read from the rows of a CSV text whose header names inputs."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping
from typing import Any

from ovolo.exploring.settings import input_line, read_setting
from ovolo.meaning.program import Program
from ovolo.problems import Failure

Row = tuple[int, tuple[Mapping[str, Any], str]]
"""The number of a row in the text (from 1), its values by input, and why it cannot be tried."""

MOST_ROWS = 10_000

_HEAD = re.compile(r"(?P<name>[^\W\d]\w*)\s*(?:\[(?P<unit>[^\]]*)\]|\((?P<round>[^)]*)\))?")


def settings_in_rows(program: Program, text: str) -> list[Row]:
    """The rows below the header: `width [mm],panes`. A cell that cannot be read refuses its row, with
    its place and the reason. Raises Failure where the header names no inputs, or nothing stands below."""
    lines = [(n, row) for n, row in _cells(text) if any(cell.strip() for cell in row)]
    if len(lines) < 2:
        raise Failure(
            "there are no rows", "a header that names inputs, then a row for each setting"
        )
    if len(lines) > MOST_ROWS + 1:
        raise Failure(f"{len(lines) - 1:,} rows are too many", f"at most {MOST_ROWS:,}")
    (_, header), *rows = lines
    columns = [_column(program, cell) for cell in header]
    names = [name for name, _ in columns]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise Failure(f"`{twice}` stands twice in the header", "one column for each input")
    return [(number, _setting(program, columns, number, row)) for number, row in rows]


def _cells(text: str) -> list[tuple[int, list[str]]]:
    """The rows with their numbers; parted by commas, semicolons or tabs, as the header is."""
    head = text.lstrip("\ufeff").split("\n", 1)[0]
    parted = max(",;\t", key=head.count)
    reader = csv.reader(io.StringIO(text.lstrip("\ufeff")), delimiter=parted)
    try:
        return [(reader.line_num, row) for row in reader]
    except csv.Error as error:
        raise Failure(f"the rows cannot be read: {error}") from None


def _column(program: Program, cell: str) -> tuple[str, str]:
    """The input that a cell of the header names, and the unit of its column."""
    found = _HEAD.fullmatch(cell.strip())
    if found is None:
        raise Failure(f"`{cell.strip()}` in the header names no input", "for example width [mm]")
    input_line(program, found["name"])
    return found["name"], (found["unit"] or found["round"] or "").strip()


def _setting(
    program: Program, columns: list[tuple[str, str]], number: int, row: list[str]
) -> tuple[Mapping[str, Any], str]:
    values: dict[str, Any] = {}
    refused = []
    if len(row) > len(columns):
        refused.append(f"row {number} has {len(row)} cells, the header {len(columns)}")
    for (name, unit), cell in zip(columns, row, strict=False):
        if not cell.strip():
            continue
        bare = re.fullmatch(r"[-+\u2212]?[\d.]+(?:e[-+]?\d+)?", cell.strip()) is not None
        try:
            values[name] = read_setting(program, name, f"{cell} {unit}" if unit and bare else cell)
        except Failure as failure:
            refused.append(f"row {number}, {name}: {failure.said}")
    return values, "; ".join(refused)
