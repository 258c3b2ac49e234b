"""What is drawn although it is no part."""

from __future__ import annotations

import pytest

from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.part import loose_parts
from ovolo.problems import Failure
from ovolo.sheet.edits import to_part


def loose(*lines: str) -> list[str]:
    return [part.name for _, part in loose_parts(outcome_of("\n".join(lines)).lines)]


SIDE = "side = box(18 mm, 250 mm, 1.8 m)"


@pytest.mark.parametrize(
    ("lines", "seen"),
    [
        ([SIDE], ["side"]),
        ([SIDE, "v = volume(side)", 'check v > 1 mm^3 "some"'], ["side"]),
        ([SIDE, "other = side.move(x = 1 m)"], ["side", "other"]),
        ([SIDE, "part other = side.move(x = 1 m)"], []),
        ([SIDE, "other = side.move(x = 1 m)", "both = side + other"], ["both"]),
        (["hole = cylinder(9 mm, 1 m)", f"plate = {SIDE[7:]} - hole"], ["plate"]),
        ([SIDE, "f(n) = row(side, n, 1 m)"], []),
        (["sheet = rect(1 m, 2 m)", "many = [disc(9 mm), disc(8 mm)]"], ["sheet", "many"]),
        (["way = line((0 m, 0 m), (1 m, 0 m))", "p = (1 m, 2 m)", "n = 3"], []),
        (["f(h) = box(h, h, h)"], []),
        ([f"part {SIDE}"], []),
        ([SIDE, "wrong = side - nothing_here"], ["side"]),
        ([SIDE, "part wrong = side - nothing_here"], []),
    ],
)
def test_solids_that_went_into_nothing_are_seen(lines: list[str], seen: list[str]) -> None:
    assert loose(*lines) == seen


def test_a_formula_becomes_a_part_with_all_that_is_written_behind_it() -> None:
    text = f'a = 2\n{SIDE} "Side"  # of ash\nb = 3'
    assert to_part(text, "side") == f'a = 2\npart {SIDE} "Side"  # of ash\nb = 3'
    assert outcome_of(to_part(text, "side")).parts["side"].label == "Side"
    with pytest.raises(Failure, match="`f` is not a formula"):
        to_part("f(h) = box(h, h, h)", "f")
