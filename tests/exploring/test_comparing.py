"""What differs between settings, moments and studies."""

from __future__ import annotations

import itertools

import pytest

from ovolo.exploring.comparing import Comparison, compared
from ovolo.outcome.outcome import Outcome, outcome_of
from tests.sheets import demo_outcome

TEXT = """
input w = 100 mm from 10 mm to 900 mm "Width"
double = 2 * w
check w < 300 mm "narrow enough"
part pegs = [box(w, 9 mm, 9 mm).move(z = i * 20 mm) for i in 1 .. floor(w / 50 mm)] material 1 g/cm^3 "Pegs"
"""


def told(found: Comparison) -> dict[tuple[str, str], tuple[list[str], bool]]:
    return {(row.what, row.name): (row.sides, row.differs) for row in found.rows}


def of(*texts: str) -> dict[tuple[str, str], tuple[list[str], bool]]:
    return told(compared([(str(at), outcome_of(text)) for at, text in enumerate(texts)]))


def test_inputs_values_checks_pieces_and_masses_are_told_side_by_side() -> None:
    found = told(compared([("now", outcome_of(TEXT)), ("wide", outcome_of(TEXT, {"w": 400.0}))]))
    assert found["input", "w"] == (["100 mm", "400 mm"], True)
    assert found["value", "double"] == (["200 mm", "800 mm"], True)
    assert found["check", "w < 300 mm"] == (["holds", "fails"], True)
    assert found["pieces", "pegs"] == (["2", "8"], True)
    # 2 pieces of 8.1 cm³ and 8 of 32.4 cm³, at 1 g/cm³ (its volume times its density)
    assert found["mass", "pegs"] == (["0.0162 kg", "0.2592 kg"], True)


def test_what_is_the_same_does_not_differ() -> None:
    found = compared([("one", outcome_of(TEXT)), ("two", outcome_of(TEXT))])
    assert not found.differing and len(found.rows) == 5


def test_what_one_side_has_not_is_told_as_missing() -> None:
    found = compared([("turned", demo_outcome("turned-baluster")), ("square", demo_outcome("square-baluster"))])  # fmt: skip
    assert any("" in row.sides and row.differs for row in found.rows)


def test_what_differs_beyond_the_figures_that_are_seen_is_told_apart() -> None:
    """Six figures are seen of a value; a seventh still differs."""
    sides, differs = of("input w = 1234.5671 mm", "input w = 1234.5674 mm")["input", "w"]
    assert differs and sides[0] != sides[1]


def test_the_same_length_in_other_units_does_not_differ() -> None:
    """1 in is 25.4 mm (ISO 31; the international inch)."""
    assert not of("input w = 1 in", "input w = 25.4 mm")["input", "w"][1]


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("a = [1, 2, 3, 4, 5, 6]", "a = [1, 2, 3, 4, 5, 7]"),  # seen are the first four
        ("a = (1 m, 2 m)", "a = (1 m, 3 m)"),
        ('a = "oak"', 'a = "ash"'),
        ("a = 1 < 2", "a = 1 > 2"),
    ],
)
def test_values_of_every_kind_are_compared(one: str, other: str) -> None:
    assert of(one, other)["value", "a"][1] and not of(one, one)["value", "a"][1]


def test_parts_of_one_label_are_told_by_their_names() -> None:
    text = 'part a = box(1 m, 1 m, 1 m) "Post"\npart b = [box(1 m, 1 m, 1 m), box(2 m, 2 m, 2 m)] "Post"'  # fmt: skip
    found = of(text, text)
    assert (found["pieces", "a"][0], found["pieces", "b"][0]) == (["1", "1"], ["2", "2"])


def test_a_check_whose_message_has_figures_is_one_row() -> None:
    text = 'input n = {} from 0 to 9\ncheck n < 4 "{{n}} are too many"'
    assert of(text.format(3), text.format(5))["check", "n < 4"] == (["holds", "fails"], True)


def test_the_order_of_the_sides_changes_no_verdict() -> None:
    sides: list[tuple[str, Outcome]] = [(str(w), outcome_of(TEXT, {"w": w})) for w in (100.0, 120.0, 400.0)]  # fmt: skip
    verdicts = []
    for order in itertools.permutations(sides):
        found = compared(order)
        verdicts.append({(row.what, row.name): row.differs for row in found.rows})
        assert found.titles == [title for title, _ in order]
    assert all(one == verdicts[0] for one in verdicts)
