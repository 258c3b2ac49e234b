"""Reading text into statements."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from ovolo.sheet import tree
from ovolo.sheet.reader import read_sheet, read_statement
from tests.sheets import demo


def contents(text: str) -> list[tree.Content]:
    return [statement.content for statement in read_sheet(text).statements]


def unreadable(text: str) -> tuple[tree.Statement, tree.Unreadable]:
    (statement,) = (
        s for s in read_sheet(text).statements if isinstance(s.content, tree.Unreadable)
    )
    assert isinstance(statement.content, tree.Unreadable)
    return statement, statement.content


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ('study "Dome"', tree.Study),
        ("units mm, deg", tree.Units),
        ("== Levels ==", tree.Section),
        ("input a = 3 mm from 1 mm to 5 mm step 1 mm", tree.Input),
        ("a = 3", tree.Formula),
        ("f(x, y = 2) = x + y", tree.Formula),
        ("f(x):\n    y = x\n    y + 1", tree.Formula),
        ('part p = box(1 mm, 1 mm, 1 mm) when a > 3 colour #A0B1C2 "P"', tree.Part),
        ('check (a) == b "same"', tree.Check),
        ("dim a from (0 mm, 0 mm) to (a, 0 mm) offset 10 mm", tree.Dim),
        ('preset "Attic": a = 3 mm, b = "x"', tree.Preset),
        ('file bolts = "bolts.csv"', tree.File),
        ('use baluster from "Turned baluster"', tree.Use),
        ("# only a remark", tree.Blank),
        ("", tree.Blank),
        ("part = 3", tree.Formula),
        ("check(x) = x", tree.Formula),
    ],
)
def test_each_statement_is_told_by_its_form(text: str, wanted: type) -> None:
    assert [type(content) for content in contents(text)] == [wanted]


def test_indented_lines_go_on_while_a_bracket_is_open_or_after_an_operator() -> None:
    sheet = read_sheet("a = [1,\n  2,\n\n  3]\nb = 1 +\n  2\nc = 3")
    assert [(s.name, s.line, s.last_line) for s in sheet.statements] == [
        ("a", 1, 4),
        ("b", 5, 6),
        ("c", 7, 7),
    ]


def test_an_unclosed_bracket_costs_one_line() -> None:
    sheet = read_sheet("a = (1 + 2\nb = 3\nc = 4")
    assert [type(s.content) for s in sheet.statements] == [
        tree.Unreadable,
        tree.Formula,
        tree.Formula,
    ]


def test_a_comment_may_stand_anywhere_but_in_a_text_or_a_colour() -> None:
    part, text = read_sheet('part p = q colour #fff "P" # white\nt = "no # remark"').statements
    assert isinstance(part.content, tree.Part) and part.content.colour == "#fff"
    assert part.comment == "white"
    assert isinstance(text.content, tree.Formula) and text.comment == ""


def test_the_comment_of_a_line_is_its_help() -> None:
    (line,) = read_sheet("input a = 3 mm  #  how wide it is ").statements
    assert line.comment == "how wide it is"


@pytest.mark.parametrize(
    ("text", "message", "column"),
    [
        ("a = 3 +", "the line ends too early", 7),
        ("a = (3 + 4", "the bracket `(` is not closed", 5),
        ('a = "abc', "this text has no closing quote", 5),
        ("a = b = c", "a single = gives a name to a value", 7),
        ("a = 3 mm 4", "`4` follows a value without an operator", 10),
        ("a = 3 mmm", "`mmm` is not a unit", 5),
        ("a = 1:0", "a slope over a run of 0 has no end", 5),
        ("a = 10°75'", "minutes and seconds of an angle stay below 60", 5),
        ("a = 1e999", "this is too large", 5),
        ("if = 3", "`if` is a word of the language", 1),
        ("3 + 4", "this line has no name", 1),
        ("  a = 3", "this line is indented", 3),
        ("f(x):", "the block `f` has no lines", 1),
        ("f(x):\n  y = x", "the last line of a block is its value", 3),
        ("f(x, x) = x", "`x` is given twice", 6),
        ('a = "b {c"', "the brace `{` in this text has no partner", 8),
        ("input a = 1 step 1 step 2", "gives its step twice", 1),
        ("a = (1, b + 1) -> 3", "what stands before -> must be names", 6),
        ("== Levels", "a section is written == Title ==", 1),
        ("units", "which units?", 1),
    ],
)
def test_what_cannot_be_read_says_why_and_where(text: str, message: str, column: int) -> None:
    statement, content = unreadable(text)
    assert message in content.message
    assert statement.place(content.span[0])[1] == column


def test_deep_nesting_is_a_problem_not_a_crash() -> None:
    _, content = unreadable("a = " + "(" * 5000 + "1" + ")" * 5000)
    assert "nested" in content.message


def test_a_huge_sheet_is_refused() -> None:
    _, content = unreadable("a = 1\n" * 200_000)
    assert "1,200,000 characters" in content.message


@given(st.text(alphabet=st.sampled_from(list("abif =+-*/()[]{}\":.,#\n 019°'mt<>→")), max_size=200))
@example("a(\n b)\n\n c\nd")
@example('a = "\\')
def test_any_text_is_read_and_nothing_of_it_is_lost(text: str) -> None:
    sheet = read_sheet(text)
    assert "\n".join(statement.text for statement in sheet.statements) == text
    line = 1
    for statement in sheet.statements:
        assert statement.line == line
        line = statement.last_line + 1


@pytest.mark.parametrize("name", ["spiral-stair", "boardwalk"])
def test_demo_sheets_are_read_whole(name: str) -> None:
    text = demo(name)
    sheet = read_sheet(text)
    assert "\n".join(statement.text for statement in sheet.statements) == text
    assert not any(isinstance(s.content, tree.Unreadable) for s in sheet.statements)


@pytest.mark.parametrize("comment", ["# a note", '# the "old" one'])
def test_a_comment_behind_feet_and_inches(comment: str) -> None:
    content, said = read_statement(f"a = 24' 6\" {comment}")
    assert isinstance(content, tree.Formula) and said == comment[2:]
