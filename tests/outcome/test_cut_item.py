"""Holes that items of an array left in a part, found by a place on their faces."""

import numpy as np
import pytest

from ovolo.outcome.array_place import place_of
from ovolo.outcome.cut_item import cut_item_at
from tests.sheets import run

PLATE = (
    "peg = cylinder(5 mm, 40 mm)",
    "holes = grid(peg, 4, 3, 30 mm, 20 mm, skip = [2])",
    "part plate = box(200 mm, 100 mm, 20 mm).move(45 mm, 20 mm) - holes",
)


def at(*point: float) -> np.ndarray:
    return np.array(point, dtype=float)


def test_a_hole_is_known_by_the_item_that_cut_it() -> None:
    """Item 5 of a grid of four columns stands in column 1, row 1, at (30, 20) (its definition); of those
    that are there it is the fifth."""
    outcome = run(*PLATE)
    found = cut_item_at(outcome, "plate", at(30 + 5, 20, 10))
    assert found == ("holes", 4)
    place = place_of(outcome, *found)
    assert place is not None
    assert (place.line, place.number, place.column, place.row) == ("holes", 5, 1, 1)


@pytest.mark.parametrize("point", [(60 + 5, 0, 10), (30, 20, 10), (-55, 20, 10), (500, 0, 0)])
def test_there_is_none_where_nothing_was_cut(point: tuple[float, float, float]) -> None:
    """Where an item is left out, inside of a hole, on the outside, beside everything."""
    assert cut_item_at(run(*PLATE), "plate", at(*point)) is None


def test_a_hole_in_an_outline_is_found_through_the_thickness() -> None:
    outcome = run(
        "holes = ring(disc(4 mm), 6, r = 50 mm)",
        "face = disc(80 mm) - holes",
        "part lid = face.extrude(9 mm)",
    )
    assert cut_item_at(outcome, "lid", at(54, 0, 4)) is not None
    assert cut_item_at(outcome, "lid", at(80, 0, 4)) is None


def test_it_moves_with_the_array_and_not_beyond_it() -> None:
    """Moving and turning the array takes the hole along."""
    moved = (PLATE[0], PLATE[1] + ".turn(90°).move(70 mm, 10 mm)", *PLATE[2:])
    x, y = 70 - 20, 10 + 30 + 5  # column 1, row 1, turned a quarter
    assert cut_item_at(run(*moved), "plate", at(x, y, 7)) == ("holes", 4)
