"""Tables from CSV files: RFC 4180, with a header row that names the columns and their units.

    size,hole [mm],pitch [mm]
    M6,6.6,1.0

Comma, semicolon or tab parts the cells; a byte-order mark is passed over; a unit stands in square
or round brackets; names keep letters, figures and underscores (anything else becomes an underscore).
Figures have a decimal point, or all of a column a decimal comma; where all of a column have a per cent
sign, they are shares. Rows are counted as they lie in the file, empty ones too.
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

_HEADER = re.compile(r"(?P<name>[^\[\]]*)(?:\[(?P<unit>[^\[\]]+)\])?$")
_ROUND_HEADER = re.compile(r"(?P<name>[^()]+)\((?P<unit>[^()]+)\)$")
_FIGURE = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$")
_DECIMAL_COMMA = re.compile(r"[-+]?\d*,\d+$")
_THOUSANDS = re.compile(r"[-+]?[1-9]\d{0,2}(,\d{3})+$")
_YES_NO = {"yes": True, "no": False, "true": True, "false": False}


def read_table(data: bytes, name: str) -> Table:
    """The table in a CSV file. Raises Failure with the row and column of what is wrong."""
    if len(data) > MOST_BYTES:
        raise Failure(f"{name} has {len(data):,} bytes; at most {MOST_BYTES:,} are read")
    return table_of(_rows(_text(data, name), name), data, name)


def table_of(rows: list[tuple[int, list[str]]], data: bytes, name: str) -> Table:
    """The table of some rows, each with its number in the file, of which the first is the header. Raises Failure
    with the row and column of what is wrong."""
    if not rows:
        raise Failure(f"{name} is empty", "the first row names the columns")
    (_, header), body = rows[0], rows[1:]
    names, units = _columns(header, name)
    for number, row in body:
        if len(row) != len(names):
            raise Failure(
                f"row {number} of {name} has {len(row)} cells, the header has {len(names)}",
                "a cell that holds a comma stands in quotes",
            )
    columns, kinds = {}, {}
    for at, column in enumerate(names):
        cells = [(number, row[at].strip()) for number, row in body]
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


def _rows(text: str, name: str) -> list[tuple[int, list[str]]]:
    """The rows that are not empty, each with its number in the file."""
    first = next((line for line in text.split("\n") if line.strip()), "")
    delimiter = max(",;\t", key=first.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    rows: list[tuple[int, list[str]]] = []
    try:
        for number, row in enumerate(reader, start=1):
            if any(cell.strip() for cell in row):
                rows.append((number, row))
            if len(rows) > MOST_ROWS + 1:
                raise Failure(f"{name} has more than {MOST_ROWS:,} rows")
    except csv.Error as error:
        raise Failure(f"row {reader.line_num} of {name} cannot be read: {error}") from None
    return rows


def _columns(header: list[str], name: str) -> tuple[list[str], list[Unit | None]]:
    if len(header) > MOST_COLUMNS:
        raise Failure(f"{name} has {len(header)} columns; at most {MOST_COLUMNS} are read")
    names: list[str] = []
    units: list[Unit | None] = []
    for number, cell in enumerate(header, start=1):
        found = _header(cell)
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


def _header(cell: str) -> re.Match[str] | None:
    """The name and the unit of a column; what stands in round brackets only where it is a unit."""
    cell = cell.strip()
    found = _ROUND_HEADER.match(cell)
    if found is None:
        return _HEADER.match(cell)
    try:
        unit_named(found["unit"].strip())
    except Failure:
        return _HEADER.match(cell)
    return found


def _unit(symbol: str | None, column: str, name: str) -> Unit | None:
    if symbol is None:
        return None
    try:
        return unit_named(symbol.strip())
    except Failure as failure:
        raise Failure(f"column `{column}` of {name}: {failure.message}", failure.hint) from None


def _column(
    cells: list[tuple[int, str]], unit: Unit | None, column: str, name: str
) -> tuple[Kind, list[object]]:
    cells, unit = _without_signs(cells, unit, column, name)
    texts = [cell for _, cell in cells]
    figures = [_figure(cell) for cell in texts]
    count = sum(figure is not None for figure in figures)
    if unit is None and not count:
        answers = [_YES_NO.get(cell.lower()) for cell in texts]
        if cells and None not in answers:
            return YES_NO, list(answers)
    if unit is None and (not count or count < len(cells) / 2):
        return TEXT, list(texts)
    for (number, cell), figure in zip(cells, figures, strict=True):
        if figure is None:
            raise _not_a_figure(cell, number, column, name)
    _refuse_mixed_marks(cells, column, name)
    size, dimension = (unit.size, unit.dimension) if unit else (1.0, NUMBER_KIND.dimension)
    return Quantity(dimension=dimension), [
        size * figure for figure in figures if figure is not None
    ]


def _without_signs(
    cells: list[tuple[int, str]], unit: Unit | None, column: str, name: str
) -> tuple[list[tuple[int, str]], Unit | None]:
    """Cells without their per cent signs, and the unit that these say; refuses them where they say another than the header,
    or where only some figures have one."""
    signed = [(number, cell) for number, cell in cells if _share(cell)]
    if not signed:
        return cells, unit
    number, cell = signed[0]
    where = f"row {number}, column `{column}` of {name} is `{cell}`"
    if unit is not None and unit != unit_named("%"):
        raise Failure(f"{where}, where the column is in {unit.symbol}", "write one of them")
    plain = next(((at, other) for at, other in cells if _figure(other) is not None), None)
    if plain is not None:
        raise Failure(f"{where}, and row {plain[0]} is `{plain[1]}`", "write all of them alike")
    if any(one and not _share(one) for _, one in cells):
        return cells, unit
    return [(at, _share(one) or "") for at, one in cells], unit_named("%")


def _share(cell: str) -> str | None:
    """The figure before a per cent sign."""
    figure = cell.removesuffix("%").rstrip()
    return figure if cell.endswith("%") and _figure(figure) is not None else None


def _figure(cell: str) -> float | None:
    """The figure in a cell, with a decimal point or a decimal comma; None where it is none."""
    if _FIGURE.match(cell):
        return float(cell)
    return float(cell.replace(",", ".")) if _DECIMAL_COMMA.match(cell) else None


def _refuse_mixed_marks(cells: list[tuple[int, str]], column: str, name: str) -> None:
    """Refuses a column whose commas could be decimal ones or part thousands."""
    commas = [(number, cell) for number, cell in cells if "," in cell]
    if not commas:
        return
    number, cell = commas[0]
    where = f"row {number}, column `{column}` of {name} is `{cell}`"
    if any("." in other for _, other in cells):
        raise Failure(f"{where}, and others have a decimal point", "write all of them with a point")
    if all(_THOUSANDS.match(other) for _, other in commas):
        one, other = cell.replace(",", ""), cell.replace(",", ".", 1)
        raise Failure(f"{where}: it could be {one} or {other}", "write it without a comma")


def _not_a_figure(cell: str, row: int, column: str, name: str) -> Failure:
    where = f"row {row}, column `{column}` of {name}"
    if not cell:
        return Failure(f"{where} is empty, where the others are figures", "fill it in")
    return Failure(f"{where} is `{cell}`, where the others are figures")
