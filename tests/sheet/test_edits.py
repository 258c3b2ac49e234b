"""Edits keep everything else as it was."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, LENGTH, NUMBER
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import edits
from ovolo.sheet.literals import literal_for
from ovolo.sheet.reader import read_sheet

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
    assert literal_for(value, dimension, written, DisplayUnits()) == literal  # type: ignore[arg-type]


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


SHEET = """study "S" # rise
input rise = 180 mm from 100 mm to 220 mm "Rise" # rise of a step
going = 600 mm - 2*rise   # from rise
f(rise) = rise * 2
g(x) = [rise + x for i in 0 .. 3]
block(n):
    local = rise * n
    rise = 3 mm
    rise + local
t = "rise {rise} and {{rise}}"
check rise <= 220 mm "rise"
preset "P": rise = 170 mm
part p = box(rise, rise, going)
bad = (rise
"""


def test_renaming_changes_every_use_and_nothing_else() -> None:
    assert edits.renamed(SHEET, "rise", "step_height") == (
        SHEET.replace("input rise", "input step_height")
        .replace("2*rise", "2*step_height")
        .replace("[rise", "[step_height")
        .replace("local = rise * n", "local = step_height * n")
        .replace("rise {rise}", "rise {step_height}")
        .replace("check rise", "check step_height")
        .replace(": rise = 170", ": step_height = 170")
        .replace("box(rise, rise", "box(step_height, step_height")
    )


@pytest.mark.parametrize(
    ("old", "new", "message"),
    [
        ("rise", "going", "already the name of line 3"),
        ("rise", "2x", "cannot be a name"),
        ("rise", "if", "cannot be a name"),
        ("nothing", "x", "no line is called `nothing`"),
        ("rise", "x", "line 5 uses `rise` and has a local name `x`"),
        ("rise", "box", "already uses something called `box`"),
    ],
)
def test_a_new_name_that_would_change_the_meaning_is_refused(
    old: str, new: str, message: str
) -> None:
    with pytest.raises(Failure) as caught:
        edits.renamed(SHEET, old, new)
    assert message in caught.value.message


@given(st.sampled_from(["floor_height", "rise", "risers", "going", "tread", "baluster", "gap"]))
def test_renaming_leaves_all_values_as_they_were(name: str) -> None:
    from ovolo.outcome.outcome import outcome_of
    from tests.sheets import demo, demo_tables

    text = demo("spiral-stair")
    tables = demo_tables(text)
    before = outcome_of(text, tables=tables).as_json()
    after = outcome_of(edits.renamed(text, name, "renamed"), tables=tables).as_json()
    before["values"] = {"renamed" if k == name else k: v for k, v in before["values"].items()}
    for check in (*before["checks"], *after["checks"]):
        check.pop("text")
    assert after == before
    assert edits.renamed(edits.renamed(text, name, "renamed"), "renamed", name) == text


def test_an_input_becomes_a_formula_and_a_formula_an_input() -> None:
    text = edits.to_formula(SHEET, "rise")
    assert text.splitlines()[1] == 'rise = 180 mm "Rise" # rise of a step'
    assert (
        edits.to_formula(SHEET, "rise", "going / 2").splitlines()[1].startswith("rise = going / 2 ")
    )
    assert (
        edits.to_input(SHEET, "going", "240 mm").splitlines()[2]
        == "input going = 240 mm   # from rise"
    )
    with pytest.raises(Failure, match="`f` is not a formula"):
        edits.to_input(SHEET, "f", "3")
    with pytest.raises(Failure, match="no input `going`"):
        edits.to_formula(SHEET, "going")


def test_who_needs_a_name() -> None:
    assert [s.line for s in edits.needed_by(SHEET, "rise")] == [3, 5, 6, 10, 11, 12, 13]
    assert edits.needed_by(SHEET, "p") == []


def test_lines_and_sections_move() -> None:
    text = "a = 1\n== A ==\nb = 2\nc = [1,\n  2]\n== B ==\nd = 3\n"
    assert edits.moved(text, 4, 1) == "c = [1,\n  2]\na = 1\n== A ==\nb = 2\n== B ==\nd = 3\n"
    assert edits.moved(text, 1, 4) == "== A ==\nb = 2\na = 1\nc = [1,\n  2]\n== B ==\nd = 3\n"
    assert edits.moved(text, 6, 2) == "a = 1\n== B ==\nd = 3\n\n== A ==\nb = 2\nc = [1,\n  2]"
    assert edits.moved(text, 3, 4) == text
    with pytest.raises(Failure, match="no line of this sheet begins at 5"):
        edits.moved(text, 1, 5)


def test_presets_are_applied_and_saved() -> None:
    assert edits.with_preset(SHEET, "P") == SHEET.replace("rise = 180 mm", "rise = 170 mm")
    saved = edits.with_saved_preset(SHEET, "Q")
    assert 'preset "P": rise = 170 mm\npreset "Q": rise = 180 mm\npart p' in saved
    assert 'preset "P": rise = 180 mm\n' in edits.with_saved_preset(SHEET, "P")
    with pytest.raises(Failure, match='no preset "R"'):
        edits.with_preset(SHEET, "R")
    with pytest.raises(Failure, match="no inputs"):
        edits.with_saved_preset("a = 1", "R")


@pytest.mark.parametrize(
    ("line", "value", "changed"),
    [
        ("input a = [1 m, 20 mm]", [1500.0, 30.0], "input a = [1.5 m, 30 mm]"),
        ("input a = [1 mm, 2 mm] from 0 mm to 9 mm # sizes", [3.0, 4.0, 5.0],
         "input a = [3 mm, 4 mm, 5 mm] from 0 mm to 9 mm # sizes"),
        ("input a = (1 m, 2 m)", [500.0, 0.0], "input a = (0.5 m, 0 m)"),
        ("input a = (1 mm, 2 mm, 3 mm) step 5 mm", [5.0, 10.0, 15.0],
         "input a = (5 mm, 10 mm, 15 mm) step 5 mm"),
    ],
)  # fmt: skip
def test_lists_and_points_are_set_figure_by_figure(
    line: str, value: list[float], changed: str
) -> None:
    assert edits.setting_text(line, "a", value, LENGTH, DisplayUnits()) == changed


def test_limits_and_step_are_written_where_they_stand() -> None:
    line = 'input a = 3 m from 1 m to b/2 step 5 mm "A" # from 2 to 3'
    assert edits.with_limits(line, "a", "2 m", "9 m") == line.replace("1 m to b/2", "2 m to 9 m")
    assert edits.with_step(line, "a", "1 mm") == line.replace("step 5 mm", "step 1 mm")


def test_limits_and_step_are_given_where_there_were_none() -> None:
    line = 'input a = 3 m "A"'
    limited = edits.with_limits(line, "a", "0 m", "9 m")
    assert limited == 'input a = 3 m from 0 m to 9 m "A"'
    assert edits.with_step(limited, "a", "1 cm") == 'input a = 3 m from 0 m to 9 m step 1 cm "A"'
    assert edits.with_step(line, "a", "1 cm") == 'input a = 3 m step 1 cm "A"'


@pytest.mark.parametrize(
    "line",
    [
        'input a = 3 m "keep internal" # internal',
        'input a = 3 m from 1 m to 5 m step 1 mm "A"',
        'input a = "x" of "x", "internal"',
        "input a = [1 mm,\n    2 mm]",
    ],
)
def test_an_input_is_kept_internal_and_offered_again(line: str) -> None:
    kept = edits.with_internal(line, "a", True)
    assert kept.replace(" internal", "", 1) != kept and kept != line
    assert read_sheet(kept).statements[0].content.internal  # type: ignore[union-attr]
    assert edits.with_internal(kept, "a", True) == kept
    assert edits.with_internal(kept, "a", False) == line


SEVERAL = "a = 1\nb = a + 1\nf(x):\n    x + a\n\nc = f(b)\n"


def test_several_lines_are_deleted_moved_and_commented_out() -> None:
    assert edits.deleted(SEVERAL, 2, 3) == "a = 1\n\nc = f(b)\n"
    assert edits.moved(SEVERAL, 2, 1, last=3) == "b = a + 1\nf(x):\n    x + a\na = 1\n\nc = f(b)\n"
    out = edits.commented(SEVERAL, 2, 6)
    assert out == "a = 1\n# b = a + 1\n# f(x):\n#     x + a\n\n# c = f(b)\n"
    assert edits.commented(out, 2, 6) == SEVERAL


@given(st.integers(1, 6), st.integers(1, 6))
def test_commenting_twice_gives_the_same_text_again(one: int, other: int) -> None:
    starts = [1, 2, 3, 5, 6]
    first, last = sorted(min(starts, key=lambda s: abs(s - n)) for n in (one, other))
    out = edits.commented(SEVERAL, first, last)
    ends = [at for at, line in enumerate(out.split("\n"), 1) if line.startswith("#")]
    if ends:
        assert edits.commented(out, ends[0], ends[-1]) == SEVERAL


def test_a_section_among_several_lines_moves_without_what_stands_in_it() -> None:
    text = "a = 1\n== One ==\nb = 2\nc = 3\n"
    assert edits.moved(text, 1, 4, last=2) == "b = 2\na = 1\n== One ==\nc = 3\n"
