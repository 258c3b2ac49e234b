"""Tables from CSV files: RFC 4180, with a header row that names the columns and their units.

    size,hole [mm],pitch [mm]
    M6,6.6,1.0

Comma or semicolon parts the cells; a byte-order mark is passed over; names keep letters,
figures and underscores (anything else becomes an underscore).
"""

from __future__ import annotations

import csv
import hashlib
import io
import re
from collections.abc import Iterator

from ovolo.problems import Failure
from ovolo.quantities.kinds import NUMBER_KIND, TEXT, YES_NO, Kind, Quantity
from ovolo.quantities.show import digits
from ovolo.quantities.table import Table, column_of
from ovolo.quantities.units import Unit, unit_named

MOST_BYTES = 5_000_000
MOST_ROWS = 200_000
MOST_COLUMNS = 200

_HEADER = re.compile(r"\s*(?P<name>[^\[\]]*?)\s*(?:\[\s*(?P<unit>[^\[\]]+?)\s*\])?\s*$")
_FIGURE = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$")
_DECIMAL_COMMA = re.compile(r"[-+]?\d+,\d+$")
_YES_NO = {"yes": True, "no": False, "true": True, "false": False}


def read_table(data: bytes, name: str) -> Table:
    """The table in a CSV file. Raises Failure with the row and column of what is wrong."""
    if len(data) > MOST_BYTES:
        raise Failure(f"{name} has {len(data):,} bytes; at most {MOST_BYTES:,} are read")
    rows = _rows(_text(data, name), name)
    header, body = rows[0], rows[1:]
    names, units = _columns(header, name)
    for number, row in enumerate(body, start=2):
        if len(row) != len(names):
            raise Failure(
                f"row {number} of {name} has {len(row)} cells, the header has {len(names)}",
                "a cell that holds a comma stands in quotes",
            )
    columns, kinds = {}, {}
    for at, column in enumerate(names):
        cells = [row[at].strip() for row in body]
        kind, values = _column(cells, units[at], column, name)
        kinds[column], columns[column] = kind, column_of(values, kind)
    shown = {column: unit.symbol for column, unit in zip(names, units, strict=True) if unit}
    return Table(name, columns, kinds, shown, hashlib.blake2b(data, digest_size=12).hexdigest())


def shown_rows(table: Table, count: int) -> Iterator[list[str]]:
    """The first rows as texts, figures in the units of their columns."""
    for at in range(min(count, len(table))):
        row = table.row(at)
        yield [_cell(row[column], table.units.get(column)) for column in table.columns]


def _cell(value: object, unit: str | None) -> str:
    if isinstance(value, float):
        return digits(value / unit_named(unit).size if unit else value)
    return {"True": "yes", "False": "no"}.get(str(value), str(value))


def _text(data: bytes, name: str) -> str:
    if b"\0" in data[:4096]:
        raise Failure(f"{name} is not a text file", "save the table as CSV, UTF-8")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise Failure(
            f"{name} is not UTF-8 text (byte {error.start})", "save it as CSV, UTF-8"
        ) from None


def _rows(text: str, name: str) -> list[list[str]]:
    first = text.split("\n", 1)[0]
    delimiter = ";" if first.count(";") > first.count(",") else ","
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    rows: list[list[str]] = []
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                rows.append(row)
            if len(rows) > MOST_ROWS + 1:
                raise Failure(f"{name} has more than {MOST_ROWS:,} rows")
    except csv.Error as error:
        raise Failure(f"row {reader.line_num} of {name} cannot be read: {error}") from None
    if not rows:
        raise Failure(f"{name} is empty", "the first row names the columns")
    return rows


def _columns(header: list[str], name: str) -> tuple[list[str], list[Unit | None]]:
    if len(header) > MOST_COLUMNS:
        raise Failure(f"{name} has {len(header)} columns; at most {MOST_COLUMNS} are read")
    names: list[str] = []
    units: list[Unit | None] = []
    for number, cell in enumerate(header, start=1):
        found = _HEADER.match(cell)
        written = found["name"] if found else ""
        column = re.sub(r"\W+", "_", written).strip("_")
        if not found or not column or column[0].isdigit():
            raise Failure(
                f"column {number} of {name} is called `{cell}`",
                "a column's name begins with a letter, for example `hole [mm]`",
            )
        if column in names:
            raise Failure(f"{name} has two columns called `{column}`", "name them apart")
        names.append(column)
        units.append(_unit(found["unit"], column, name))
    return names, units


def _unit(symbol: str | None, column: str, name: str) -> Unit | None:
    if symbol is None:
        return None
    try:
        return unit_named(symbol)
    except Failure as failure:
        raise Failure(f"column `{column}` of {name}: {failure.message}", failure.hint) from None


def _column(
    cells: list[str], unit: Unit | None, column: str, name: str
) -> tuple[Kind, list[object]]:
    figures = [bool(_FIGURE.match(cell)) for cell in cells]
    if unit is None and not any(figures):
        answers = [_YES_NO.get(cell.lower()) for cell in cells]
        if cells and None not in answers:
            return YES_NO, list(answers)
        _refuse_decimal_commas(cells, column, name)
        return TEXT, list(cells)
    for number, (cell, figure) in enumerate(zip(cells, figures, strict=True), start=2):
        if not figure and unit is None and sum(figures) < len(cells) / 2:
            return TEXT, list(cells)
        if not figure:
            raise _not_a_figure(cell, number, column, name)
    size, dimension = (unit.size, unit.dimension) if unit else (1.0, NUMBER_KIND.dimension)
    return Quantity(dimension=dimension), [float(cell) * size for cell in cells]


def _refuse_decimal_commas(cells: list[str], column: str, name: str) -> None:
    if cells and all(_DECIMAL_COMMA.match(cell) for cell in cells):
        raise _not_a_figure(cells[0], 2, column, name)


def _not_a_figure(cell: str, row: int, column: str, name: str) -> Failure:
    where = f"row {row}, column `{column}` of {name}"
    if _DECIMAL_COMMA.match(cell):
        return Failure(f"{where} is `{cell}`: a decimal comma", "write a decimal point: 6.6")
    if not cell:
        return Failure(f"{where} is empty, where the others are figures", "fill it in")
    return Failure(f"{where} is `{cell}`, where the others are figures")
