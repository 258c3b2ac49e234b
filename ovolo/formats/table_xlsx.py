"""Tables from spreadsheets: the first sheet of an Office Open XML workbook (ECMA-376), read by openpyxl.

Its first row that is not empty names the columns and their units, as in a CSV file. Of a formula the value counts that was
saved with it; a figure that is shown in per cent is read as it is shown.
"""

from __future__ import annotations

import datetime
import io
import re
import zipfile
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

import openpyxl
from openpyxl.cell.cell import ERROR_CODES

from ovolo.formats.format import A_TABLE, Format
from ovolo.formats.table_csv import MOST_BYTES, MOST_COLUMNS, MOST_ROWS, table_of
from ovolo.problems import Failure
from ovolo.quantities.table import Table

MOST_UNPACKED = 80_000_000
"""So many bytes the pieces of a workbook may have together."""


def read_workbook(data: bytes, name: str) -> Table:
    """The table in the first sheet of a workbook. Raises Failure with the row and column of what is wrong."""
    if len(data) > MOST_BYTES:
        raise Failure(f"{name} has {len(data):,} bytes; at most {MOST_BYTES:,} are read")
    try:
        rows = list(_rows(data, name))
    except Failure:
        raise
    except Exception:  # what is damaged raises whatever its reader stumbles over
        raise Failure(
            f"{name} is no workbook that can be read", "save it as .xlsx or .csv"
        ) from None
    return table_of(_of_one_width(rows), data, name)


def _rows(data: bytes, name: str) -> Iterator[tuple[int, list[str]]]:
    """The rows that are not empty, each with its number in the sheet."""
    with zipfile.ZipFile(io.BytesIO(data)) as pieces:
        unpacked = sum(one.file_size for one in pieces.infolist())
    if unpacked > MOST_UNPACKED:
        raise Failure(
            f"{name} unpacks to {unpacked:,} bytes; at most {MOST_UNPACKED:,} are read",
            "keep the table alone in a workbook",
        )
    book = openpyxl.load_workbook(io.BytesIO(data), read_only=True, data_only=True)
    if not book.worksheets:
        return
    count = 0
    for number, row in enumerate(book.worksheets[0].iter_rows(), start=1):
        cells = [
            _said(cell, f"row {number}, column {at} of {name}")
            for at, cell in enumerate(row[: MOST_COLUMNS + 1], 1)
        ]
        if not any(cell.strip() for cell in cells):
            continue
        count += 1
        if count > MOST_ROWS + 1:
            raise Failure(f"{name} has more than {MOST_ROWS:,} rows")
        yield number, cells


def _said(cell: Any, where: str) -> str:
    """What stands in a cell, as it would stand in a CSV file. Raises Failure for an error of the spreadsheet."""
    value = cell.value
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float) and _in_per_cent(cell.number_format):
        return f"{float(f'{value * 100:.15g}')!r}%"
    if isinstance(value, int | float):
        return (
            str(int(value))
            if float(value).is_integer() and abs(value) < 1e15
            else repr(float(value))
        )
    if isinstance(value, datetime.date | datetime.time):
        return value.isoformat()
    said = str(value)
    if said in ERROR_CODES:
        raise Failure(f"{where} is `{said}`", "mend its formula in the spreadsheet")
    return said


@lru_cache(maxsize=256)
def _in_per_cent(format: str) -> bool:
    """Whether a number format shows hundredths: a sign that is neither quoted nor escaped (ECMA-376, 18.8.31)."""
    return "%" in re.sub(r'"[^"]*"|\\.|\[[^\]]*\]|_.', "", format)


def _of_one_width(rows: list[tuple[int, list[str]]]) -> list[tuple[int, list[str]]]:
    """The rows as wide as the header, where what is beyond it is empty."""
    if not rows:
        return rows
    header = rows[0][1]
    width = max((at + 1 for at, cell in enumerate(header) if cell.strip()), default=0)
    return [(number, _cut(row, width)) for number, row in rows]


def _cut(row: list[str], width: int) -> list[str]:
    end = max((at + 1 for at, cell in enumerate(row) if cell.strip()), default=0)
    return (row + [""] * width)[: max(width, end)]


FORMATS = (Format("xlsx", "XLSX", 72, also=("xlsm",), holds=A_TABLE, read=read_workbook),)
