"""Presets and typed settings."""

import pytest

from ovolo.exploring.presets import matching_presets, preset_values
from ovolo.exploring.settings import read_setting, with_formulas
from ovolo.meaning.checked_sheet import checked_program
from ovolo.problems import Failure
from ovolo.sheet import edits
from tests.sheets import problem, run

LINES = (
    "input a = 3 mm from 1 mm to 9 mm", 'input o = "x" of "x", "y"', "input y_ = yes",
    "input xs = [1 mm, 2 mm]", "b = a * 2",
    'preset "P": a = 4 mm, o = "y"', 'preset "Q": a = 3 mm, o = "x", y_ = yes, xs = [1 mm, 2 mm]',
)  # fmt: skip


def test_the_preset_that_matches_is_told() -> None:
    assert matching_presets(run(*LINES)) == [("P", False), ("Q", True)]
    assert matching_presets(run(*LINES, a=4.0, o="y")) == [("P", True), ("Q", False)]


def test_values_of_a_preset() -> None:
    program = checked_program("\n".join(LINES))
    assert preset_values(program, "P") == {"a": 4.0, "o": "y"}
    with pytest.raises(Failure) as caught:
        preset_values(program, "PP")
    assert "no preset" in caught.value.message


@pytest.mark.parametrize(
    ("line", "message", "hint"),
    [
        ('preset "R": aa = 3 mm', "there is no input `aa`", "did you mean `a`?"),
        ('preset "R": a = 3', "`a` must be a length", "3 mm"),
        ('preset "R": a = b', "an input's value is written out", ""),
        ('preset "R": a = 3 mm, a = 4 mm', "`a` is given twice", ""),
        ('preset "": a = 3 mm', "a preset needs a name", ""),
    ],
)
def test_presets_that_make_no_sense(line: str, message: str, hint: str) -> None:
    found = problem(*LINES, line)
    assert message in found.message and hint in found.hint and found.line == 8


def test_typed_settings_of_every_kind() -> None:
    program = checked_program("\n".join(LINES))
    assert read_setting(program, "a", "1/4 in") == 6.35
    assert read_setting(program, "o", '"y"') == "y"
    assert read_setting(program, "y_", "no") is False
    assert list(read_setting(program, "xs", "[1 cm, 2 in]")) == [10, 50.8]
    for name, text in (("a", "b"), ("o", "z"), ("y_", "perhaps"), ("xs", "[1, 2]"), ("xs", "(")):
        with pytest.raises(Failure):
            read_setting(program, name, text)


def test_a_typed_formula_takes_the_place_of_the_input() -> None:
    text = with_formulas("\n".join(LINES), {"a": "= 8 mm / 2", "o": "x"})
    assert text.startswith("a = 8 mm / 2\ninput o")
    with pytest.raises(Failure, match="no formula after the ="):
        with_formulas(text, {"o": "="})


def test_a_preset_goes_on_without_an_input_that_became_a_formula() -> None:
    lines = ("input a = 1 mm", "b = 2 mm", 'preset "P": a = 5 mm, b = 9 mm', 'preset "Q": b = 3 mm')
    outcome = run(*lines)
    assert not outcome.problems
    assert [note.overruled for line in outcome.lines for note in line.notes if note.overruled] == [
        "b",
        "b",
    ]
    assert (
        "`b` is a formula (line 2), which holds in every preset"
        in outcome.lines[2].notes[0].message
    )
    assert matching_presets(outcome) == [("P", False), ("Q", False)]
    text = "\n".join(lines)
    assert preset_values(checked_program(text), "P") == {"a": 5.0}
    assert edits.with_preset(text, "P").startswith("input a = 5 mm\nb = 2 mm\n")
    assert edits.without_settings(text, "b") == 'input a = 1 mm\nb = 2 mm\npreset "P": a = 5 mm'
