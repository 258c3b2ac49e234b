"""Tables from CSV (RFC 4180)."""

import numpy as np
import pytest

from ovolo.formats.attached import read_files
from ovolo.formats.table_csv import read_table, shown_rows
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.problems import Failure
from ovolo.running.evaluate import Memo

BOLTS = b"size,hole [mm],thread pitch [mm],stock\nM6,6.6,1.0,yes\nM8,9,1.25,no\nM10,11,1.5,yes\n"


def run(data: bytes, *lines: str) -> Outcome:
    text = "\n".join(['file t = "t.csv"', *lines])
    return outcome_of(text, tables=read_files({"t.csv": data}))


def test_columns_have_kinds_and_units() -> None:
    table = read_table(BOLTS, "bolts.csv")
    assert [kind.word for kind in table.kinds.values()] == ["text", "length", "length", "yes/no"]
    assert list(table.columns) == ["size", "hole", "thread_pitch", "stock"]
    np.testing.assert_array_equal(table["hole"], [6.6, 9, 11])
    assert list(shown_rows(table, 1)) == [["M6", "6.6", "1", "yes"]]


def test_units_are_read_into_millimetres() -> None:
    assert read_table(b"a [in]\n2\n", "t")["a"] == [pytest.approx(50.8)]


@pytest.mark.parametrize("head", ["fall", "fall [%]"])
def test_a_per_cent_sign_says_what_it_says(head: str) -> None:
    table = read_table(f"{head};n\n5%;1\n12,5 %;2\n".encode(), "t")
    assert table["fall"] == pytest.approx([0.05, 0.125])


@pytest.mark.parametrize(
    "data",
    [
        b"\xef\xbb\xbfa,b\r\n1,2\r\n",
        b"a;b\n1;2\n",
        b'"a","b"\n"1","2"\n\n',
        b"a,b\n1,2",
    ],
)
def test_forms_of_the_file(data: bytes) -> None:
    table = read_table(data, "t")
    assert list(table.columns) == ["a", "b"] and table["b"].tolist() == [2]


def test_quoted_cells_may_hold_commas_quotes_and_line_ends() -> None:
    table = read_table(b'name\n"a, ""b""\nc"\n', "t")
    assert table["name"] == ['a, "b"\nc']


@pytest.mark.parametrize(
    ("data", "message", "hint"),
    [
        (b"", "is empty", "names the columns"),
        (b"a,b\n1\n", "row 2 of t has 1 cells, the header has 2", "quotes"),
        (b"a [mm]\n6,6\n", "row 2 of t has 2 cells", "quotes"),
        (b"a;b\n1,250;1\n2,500;2\n", "`1,250`: it could be 1250 or 1.250", "without a comma"),
        (b"a;b\n1.5;1\n2,5;2\n", "row 3, column `a` of t is `2,5`, and others have a", "a point"),
        (b"a [mm]\n1\n\n\nx\n", "row 5, column `a` of t is `x`", ""),
        (b"a [mm]\n1\nx\n", "row 3, column `a` of t is `x`", ""),
        (b"a [mm],b\n1,2\n,3\n", "row 3, column `a` of t is empty", "fill it in"),
        (b"a,a\n1,2\n", "two columns called `a`", ""),
        (b"1a\n2\n", "column 1 of t is called `1a`", "begins with a letter"),
        (b"a [furlong]\n1\n", "column `a` of t: `furlong` is not a unit", ""),
        (b"\xff\xfe", "is not UTF-8 text (byte 0)", ""),
        (b"a\n\0", "is not a text file", ""),
        (b'a\n"x', "cannot be read", ""),
        (b"a [mm]\n5%\n", "`5%`, where the column is in mm", "one of them"),
        (b"a\n5%\n7\n", "row 2, column `a` of t is `5%`, and row 3 is `7`", "alike"),
        (b"a,b\n5%,1\n,2\n", "row 3, column `a` of t is empty", "fill it in"),
    ],
)
def test_what_is_wrong_is_told_by_row_and_column(data: bytes, message: str, hint: str) -> None:
    with pytest.raises(Failure) as caught:
        read_table(data, "t")
    assert message in caught.value.message and hint in caught.value.hint


def test_size_is_limited() -> None:
    with pytest.raises(Failure, match="at most 5,000,000"):
        read_table(b"a\n" + b"1\n" * 3_000_000, "t")
    with pytest.raises(Failure, match="more than 200,000 rows"):
        read_table(b"a\n" + b"1\n" * 200_001, "t")


def test_lookup_rows_and_columns_in_a_sheet() -> None:
    outcome = run(
        BOLTS, 'a = lookup(t, "hole", size = "M8")', 'b = next_up(t, "hole", 7 mm).size',
        "c = max(t.hole)", "d = t[-1].size", "e = len(t)",
        "f = [r.hole * 2 for r in rows(t) if r.stock]", 'g = lookup(t, "size", hole = 11 mm)',
        'h = nearest(t, "hole", 10 mm).size', 'i = next_down(t, "hole", 10.9 mm).hole',
    )  # fmt: skip
    assert not outcome.problems
    values = {name: entry["value"] for name, entry in outcome.as_json()["values"].items()}
    assert [values[name] for name in "abcdeghi"] == [9, "M8", 11, "M10", 3, "M10", "M10", 9]
    assert values["f"] == [13.2, 22]


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ('x = lookup(t, "hol", size = "M8")', "the table has no column `hol`"),
        ('x = lookup(t, "hole", sise = "M8")', "did you mean `size`?"),
        ('x = lookup(t, "hole", size = 8)', "wants a text"),
        ('x = lookup(t, "hole", size = "M7")', 'no row of t.csv has "M7" in `size`'),
        ('x = lookup(t, "hole", stock = yes)', "2 rows of t.csv"),
        ('x = next_up(t, "hole", 12 mm)', "no size is 12 mm or more; the largest is 11 mm"),
        ('x = next_up(t, "hole", 7)', "wants a length"),
        ("x = t.hol", "did you mean .hole?"),
        ("x = t[3].hole", "has 3 items; there is no item 3"),
    ],
)
def test_problems_with_tables(line: str, message: str) -> None:
    (problem,) = run(BOLTS, line).problems
    assert message in problem.message or message in problem.hint


def test_a_file_that_is_missing_or_wrong_is_a_problem_at_its_line() -> None:
    (missing,) = outcome_of('file t = "b.csv"', tables=read_files({"bb.csv": BOLTS})).problems
    assert missing.message == "there is no file b.csv" and missing.hint == "did you mean bb.csv?"
    wrong, waiting = run(b"", "x = t.a").problems
    assert wrong.line == 1 and "is empty" in wrong.message and waiting.waiting


def test_another_file_of_that_name_gives_other_values() -> None:
    memo = Memo()
    for figure in (1, 2, 1):
        tables = read_files({"t.csv": f"a\n{figure}\n".encode()})
        outcome = outcome_of('file t = "t.csv"\nx = t.a[0]', memo=memo, tables=tables)
        assert outcome.lines[-1].value == figure


@pytest.mark.parametrize(
    ("data", "figures"),
    [
        (b"a (mm);b\n6,6;x\n9,5;y\n10;z\n", [6.6, 9.5, 10]),
        (b'a [cm]\n"0,66"\n"0,95"\n"1"\n', [6.6, 9.5, 10]),
        (b"a (mm)\tb\n6.6\tx\n\n9.5\ty\n10\tz\n", [6.6, 9.5, 10]),
        (b"a (nominal mm);b\n6,6;x\n", None),
    ],
)
def test_decimal_commas_tabs_and_units_in_round_brackets(
    data: bytes, figures: list[float] | None
) -> None:
    table = read_table(data, "t")
    if figures is None:
        assert list(table.columns) == ["a_nominal_mm", "b"]
    else:
        assert table.kinds["a"].word == "length"
        assert table["a"] == pytest.approx(figures)
