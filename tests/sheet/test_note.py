"""Notes: sentences whose figures follow the sheet."""

import pytest

from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.scene import scene_of
from ovolo.sheet import edits
from tests.outcome.test_scene import unpacked

SHEET = """input rise = 180 mm from 100 mm to 300 mm
note "Each tread rises {rise}, two of them {2 * rise}"
note = 3"""


@pytest.mark.parametrize(("rise", "two"), [(180.0, 360), (200.0, 400)])
def test_the_figures_of_a_note_follow(rise: float, two: int) -> None:
    header, _ = unpacked(scene_of(outcome_of(SHEET, {"rise": rise})))
    said = f"Each tread rises {rise:g} mm, two of them {two} mm"
    assert header["outcomes"]["2"]["said"] == said
    assert (header["lines"][1]["lead"], header["lines"][1]["type"]) == ("note", "note")
    assert header["lines"][2]["name"] == "note", "the word may name a line"


def test_a_note_goes_along_with_a_name_that_changes() -> None:
    assert edits.renamed(SHEET, "rise", "step_height").split("\n")[1] == (
        'note "Each tread rises {step_height}, two of them {2 * step_height}"'
    )
    assert [one.name for one in edits.needed_by(SHEET, "rise")] == [None], "the note needs it"


def test_notes_are_among_the_results() -> None:
    outcome = outcome_of(SHEET)
    assert outcome.notes == ["Each tread rises 180 mm, two of them 360 mm"]
    assert outcome_of('note "{1 / 0}"').notes == [], "one that fails is a problem instead"


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("note rise", "`rise` was not expected here"),
        ('note "{breadth}"', "nothing here is called `breadth`"),
        ('note "a" + "b"', "`+` was not expected here"),
        ("note", "the line ends too early"),
        ('note "{1 / 0}"', "division by zero: `0` is 0"),
    ],
)
def test_what_a_note_cannot_say_is_told(line: str, message: str) -> None:
    (problem,) = outcome_of(f"input rise = 180 mm\n{line}").problems
    assert (problem.line, problem.message) == (2, message)
