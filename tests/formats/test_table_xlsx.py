"""Tables from spreadsheets: the same table as from CSV, typed cells, and what is refused. Written by openpyxl."""

from __future__ import annotations

import csv
import datetime
import io
import random
import zipfile
from collections.abc import Sequence
from typing import Any

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.formats.attached import read_attached
from ovolo.formats.table_csv import read_table
from ovolo.formats.table_xlsx import read_workbook
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from ovolo.quantities.kinds import Quantity
from ovolo.quantities.table import Table


def workbook(*rows: Sequence[Any]) -> bytes:
    book = openpyxl.Workbook()
    for row in rows:
        book.worksheets[0].append(row)
    book.create_sheet("Another").append(["what is not read"])
    kept = io.BytesIO()
    book.save(kept)
    return kept.getvalue()


def test_a_workbook_and_a_csv_file_of_the_same_cells_are_the_same_table() -> None:
    rows = [
        ["size", "hole [mm]", "pitch [in]", "kept"],
        ["M6", 6.6, 0.0394, True],
        ["M8", 9, 1e-05, False],
    ]
    lines = "size,hole [mm],pitch [in],kept\nM6,6.6,0.0394,yes\nM8,9,1e-05,no\n"
    book, text = read_workbook(workbook(*rows), "a.xlsx"), read_table(lines.encode(), "a.csv")
    assert book.kinds == text.kinds and book.units == text.units
    assert {name: list(column) for name, column in book.columns.items()} == {
        name: list(column) for name, column in text.columns.items()
    }


def test_a_sheet_reads_its_cells() -> None:
    table = read_attached(workbook(["size", "hole [mm]"], ["M6", 6.6], ["M8", 9]), "bolts.xlsx")
    assert isinstance(table, Table)
    text = 'file bolts = "bolts.xlsx"\nhole = lookup(bolts, "hole", size = "M8")\nwidest = max(bolts.hole)'
    outcome = outcome_of(text, tables={"bolts.xlsx": table})
    assert not outcome.problems and [line.value for line in outcome.lines[1:]] == [9.0, 9.0]


def test_empty_rows_and_what_is_empty_beside_the_header_are_passed_over() -> None:
    table = read_workbook(workbook([], ["n", None], [1, None], [], [None], [2.5]), "a.xlsx")
    assert list(table["n"]) == [1.0, 2.5]
    with pytest.raises(Failure, match=r"row 2 of a\.xlsx has 2 cells, the header has 1"):
        read_workbook(workbook(["n"], [1, 2]), "a.xlsx")


def test_what_is_shown_in_per_cent_is_read_as_it_is_shown() -> None:
    """Written by openpyxl: 0.07 in the format `0%` is shown as 7 %, whether the header says so or not."""
    book = openpyxl.Workbook()
    sheet = book.worksheets[0]
    for row in (
        ["share [%]", "other", "plain [%]", "odd"],
        [0.07, 0.125, 7, 3.5],
        [1, -0.5, 12.5, 4],
    ):
        sheet.append(row)
    for at in (2, 3):
        sheet.cell(at, 1).number_format = "0%"
        sheet.cell(at, 2).number_format = "0.00%"
        sheet.cell(at, 4).number_format = '0.0" % of all"'
    kept = io.BytesIO()
    book.save(kept)
    table = read_workbook(kept.getvalue(), "a.xlsx")
    assert {name: list(column) for name, column in table.columns.items()} == {
        "share": [0.07, 1.0], "other": [0.125, -0.5], "plain": [0.07, 0.125], "odd": [3.5, 4.0],
    }  # fmt: skip


def test_dates_and_codes_are_texts() -> None:
    table = read_workbook(
        workbook(
            ["day", "code"], [datetime.date(2026, 3, 1), "a7"], [datetime.date(2026, 3, 2), "x"]
        ),
        "a.xlsx",
    )
    assert table["day"][0].startswith("2026-03-01") and list(table["code"]) == ["a7", "x"]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "is no workbook"),
        (b"PK\x03\x04 and no more", "is no workbook"),
        (workbook(), "is empty"),
        (workbook(["n"], ["#DIV/0!"]), "row 2, column 1 of a.xlsx is `#DIV/0!`"),
        (workbook(["n", "m"], [1, 2], ["=A2*2", 3]), "row 3, column `n` of a.xlsx is empty"),
        (workbook(["2nd"], [1]), "column 1 of a.xlsx is called `2nd`"),
        (workbook([f"c{i}" for i in range(300)]), "at most 200 are read"),
        (b"x" * 5_000_001, "at most 5,000,000 are read"),
    ],
)
def test_what_is_no_table_is_refused(data: bytes, said: str) -> None:
    with pytest.raises(Failure) as refused:
        read_workbook(data, "a.xlsx")
    assert said in refused.value.said


def test_a_small_file_that_unpacks_to_a_large_one_is_refused() -> None:
    kept = io.BytesIO()
    with zipfile.ZipFile(kept, "w", zipfile.ZIP_DEFLATED) as pieces:
        pieces.writestr("xl/worksheets/sheet1.xml", b" " * 90_000_000)
    with pytest.raises(Failure, match="unpacks to 90,000,000 bytes"):
        read_workbook(kept.getvalue(), "a.xlsx")


def test_damaged_workbooks_are_refused_in_words() -> None:
    """Bytes changed by chance, and pieces of it changed within a whole ZIP: a table, or a refusal."""
    whole, chance = workbook(["n", "m [mm]"], *[[i, i / 7] for i in range(20)]), random.Random(5)
    for _ in range(60):
        damaged = bytearray(whole)
        for _ in range(chance.randint(1, 8)):
            damaged[chance.randrange(len(damaged))] = chance.randrange(256)
        _read_or_refused(bytes(damaged))
    for _ in range(60):
        _read_or_refused(_with_a_piece_damaged(whole, chance))


def _with_a_piece_damaged(whole: bytes, chance: random.Random) -> bytes:
    kept = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as old, zipfile.ZipFile(kept, "w") as new:
        struck = chance.choice(old.namelist())
        for name in old.namelist():
            piece = bytearray(old.read(name))
            if name == struck:
                at = chance.randrange(len(piece))
                piece[at : at + chance.randint(0, 9)] = chance.randbytes(chance.randint(0, 9))
            new.writestr(name, bytes(piece))
    return kept.getvalue()


def _read_or_refused(data: bytes) -> None:
    try:
        read_workbook(data, "a.xlsx")
    except Failure as failure:
        assert "a.xlsx" in failure.said


@given(st.integers(1, 6), st.integers(1, 12), st.integers(0, 2**32))
def test_any_table_is_the_same_from_both(columns: int, count: int, seed: int) -> None:
    """By chance: columns of figures, whole or not, of yes and no, of texts; one workbook, one CSV file."""
    chance = random.Random(seed)
    makes = [
        lambda: chance.choice(
            [chance.randint(-(10**9), 10**9), chance.uniform(-1e6, 1e6), 1e-9 * chance.random()]
        ),
        lambda: chance.random() < 0.5,
        lambda: "t" + "".join(chance.choices("abc ,;'\"é", k=chance.randint(1, 6))).strip() + "t",
    ]
    kinds = [chance.choice(makes) for _ in range(columns)]
    rows = [[make() for make in kinds] for _ in range(count)]
    header = [f"c{at}" for at in range(columns)]
    lines = io.StringIO()
    csv.writer(lines).writerows(
        [
            header,
            *(
                [{True: "yes", False: "no"}[one] if isinstance(one, bool) else one for one in row]
                for row in rows
            ),
        ]
    )
    book = read_workbook(workbook(header, *rows), "a.xlsx")
    text = read_table(lines.getvalue().encode(), "a.csv")
    assert book.kinds == text.kinds
    for name in header:  # openpyxl writes 16 digits of a figure
        figures = isinstance(book.kinds[name], Quantity)
        wanted = pytest.approx(list(text[name]), rel=1e-15, abs=0) if figures else list(text[name])
        assert list(book[name]) == wanted
