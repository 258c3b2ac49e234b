"""Notes: sentences whose figures follow the sheet."""

import pytest

from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.scene import scene_of
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
