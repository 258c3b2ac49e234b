"""What differs between settings, moments and studies."""

from __future__ import annotations

from ovolo.exploring.comparing import compared
from ovolo.outcome.outcome import outcome_of
from tests.sheets import demo_outcome

TEXT = """
input w = 100 mm from 10 mm to 900 mm "Width"
double = 2 * w
check w < 300 mm "narrow enough"
part pegs = [box(w, 9 mm, 9 mm).move(z = i * 20 mm) for i in 1 .. floor(w / 50 mm)] material 1 g/cm^3 "Pegs"
"""


def test_inputs_values_checks_pieces_and_masses_are_told_side_by_side() -> None:
    found = compared([("now", outcome_of(TEXT)), ("wide", outcome_of(TEXT, {"w": 400.0}))])
    told = {(row.what, row.name): (row.sides, row.differs) for row in found.rows}
    assert told["input", "w"] == (["100 mm", "400 mm"], True)
    assert told["value", "double"] == (["200 mm", "800 mm"], True)
    assert told["check", "narrow enough"] == (["holds", "fails"], True)
    assert told["pieces", "Pegs"] == (["2", "8"], True)
    # 2 pieces of 8.1 cm³ and 8 of 32.4 cm³, at 1 g/cm³ (its volume times its density)
    assert told["mass", "Pegs"][0] == ["0.02 kg", "0.26 kg"] or told["mass", "Pegs"][1]


def test_what_is_the_same_does_not_differ() -> None:
    found = compared([("one", outcome_of(TEXT)), ("two", outcome_of(TEXT))])
    assert not found.differing and len(found.rows) == 5


def test_what_one_side_has_not_is_told_as_missing() -> None:
    found = compared([("turned", demo_outcome("turned-baluster")), ("square", demo_outcome("square-baluster"))])  # fmt: skip
    assert any("" in row.sides and row.differs for row in found.rows)
