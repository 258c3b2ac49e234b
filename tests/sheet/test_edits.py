"""Edits keep everything else as it was."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, LENGTH, NUMBER
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import edits

TEXT = (
    'study "S"\n'
    "input  a = 3.0 m  from 1 m to 5 m # how long\n"
    "f(x):\n    y = x\n    y + 1\n"
    "b = a   # twice\n"
)


def test_an_input_is_set_and_its_line_stays_otherwise() -> None:
    changed = edits.setting_text(TEXT, "a", 2250.0, LENGTH, DisplayUnits())
    assert changed == TEXT.replace("3.0 m ", "2.25 m ")


@pytest.mark.parametrize(
    ("value", "dimension", "written", "literal"),
    [
        (3240.0, LENGTH, "3000 mm", "3240 mm"),
        (3240.0, LENGTH, "10 ft", "10.6299212598 ft"),
        (3.141592653589793 / 6, ANGLE, "20°", "30°"),
        (0.25, NUMBER, "50 %", "25%"),
        (7.0, NUMBER, "3", "7"),
        (100.0, LENGTH, "(nothing)", "100 mm"),
        (True, NUMBER, "no", "yes"),
        ('say "x" {y}', NUMBER, '""', '"say \\"x\\" {{y}}"'),
    ],
)
def test_values_are_written_in_the_unit_of_the_line(
    value: object, dimension: object, written: str, literal: str
) -> None:
    assert edits.literal_for(value, dimension, written, DisplayUnits()) == literal  # type: ignore[arg-type]


def test_a_statement_of_several_lines_is_replaced_whole() -> None:
    assert edits.replaced(TEXT, 3, "f(x) = x") == (
        'study "S"\ninput  a = 3.0 m  from 1 m to 5 m # how long\nf(x) = x\nb = a   # twice\n'
    )


def test_lines_are_inserted_and_deleted() -> None:
    assert edits.inserted("a = 1\nb = 2\n", 1, "c = 3") == "a = 1\nc = 3\nb = 2\n"
    assert edits.inserted("a = 1\n", 2, "b = 2") == "a = 1\nb = 2\n"
    assert edits.deleted(TEXT, 3) == TEXT.replace("f(x):\n    y = x\n    y + 1\n", "")


@pytest.mark.parametrize("line", [0, 4, 99])
def test_a_line_that_is_none_is_refused(line: int) -> None:
    with pytest.raises(Failure, match="no line of this sheet begins at"):
        edits.replaced(TEXT, line, "x = 1")


def test_only_an_input_can_be_set() -> None:
    with pytest.raises(Failure, match="there is no input `b`"):
        edits.with_input(TEXT, "b", "3")


@given(st.lists(st.sampled_from(["a = 1", "", "  # note", "== T ==", "b = (1 +", "c = [1,\n 2]"])))
def test_replacing_a_line_by_itself_changes_nothing(lines: list[str]) -> None:
    from ovolo.sheet.reader import read_sheet

    text = "\n".join(lines)
    for statement in read_sheet(text).statements:
        assert edits.replaced(text, statement.line, statement.text) == text
