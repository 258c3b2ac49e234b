"""Holes that items of an array left in a part, found by a place on their faces."""

import math

import numpy as np
import pytest

from ovolo.outcome.array_place import place_of
from ovolo.outcome.cut_item import cut_item_at, cut_items
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


def turned(x: float, y: float, degrees: float) -> tuple[float, float]:
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return c * x - s * y, s * x + c * y


# How a plate stands after it was cut, and where the point (x, y) of it comes to lie. Moved by one spacing,
# another hole stands where the one that is meant was cut.
STANDING = {
    "as it was cut": ("{}", lambda x, y: (x, y)),
    "moved by one spacing": ("{}.move(30 mm, 0 mm)", lambda x, y: (x + 30, y)),
    "turned": ("{}.turn(30°)", lambda x, y: turned(x, y, 30)),
    "turned, then moved": ("{}.turn(90°).move(60 mm, 20 mm)", lambda x, y: (60 - y, 20 + x)),
    "mirrored": ("{}.mirror(x)", lambda x, y: (-x, y)),
    "ten times the size": ("{}.scale(10)", lambda x, y: (10 * x, 10 * y)),
    "three of them": ("row({}, 3, 300 mm)", lambda x, y: (x + 600, y)),
}


@pytest.mark.parametrize("how", STANDING)
@pytest.mark.parametrize("named", [True, False], ids=["by the name of a line", "in one line"])
@pytest.mark.parametrize(("number", "x", "y"), [(5, 30, 20), (1, 30, 0), (11, 90, 40)])
def test_a_hole_is_known_however_its_part_was_placed(
    how: str, named: bool, number: int, x: float, y: float
) -> None:
    """A grid of four columns counts row by row (its definition)."""
    written, place = STANDING[how]
    cut = "(box(200 mm, 100 mm, 20 mm).move(45 mm, 20 mm) - holes)"
    lines = [f"cut = {cut}", f"part plate = {written.format('cut')}"] if named else [f"part plate = {written.format(cut)}"]  # fmt: skip
    outcome = run(*PLATE[:2], *lines)
    item = 2 if how == "three of them" else 0
    scale = 10 if how == "ten times the size" else 1
    spot = place(x + 5, y)
    found = cut_item_at(outcome, "plate", at(*spot, 10 * scale), item)
    assert found is not None
    assert (stands := place_of(outcome, *found)) is not None and stands.number == number


def test_a_hole_in_an_outline_is_known_where_it_was_laid() -> None:
    outcome = run(
        "holes = ring(disc(4 mm), 6, r = 50 mm)",
        "face = disc(80 mm) - holes",
        'part lid = face.move(50 mm, 0 mm).on("front")',
    )
    spots = [turned(54, 0, 60 * number) for number in range(6)]
    found = [cut_item_at(outcome, "lid", at(x + 50, 0, y)) for x, y in spots]
    assert found == [("holes", number) for number in range(6)]


@pytest.mark.parametrize("how", STANDING)
def test_every_hole_has_its_number_in_its_middle(how: str) -> None:
    """Eleven of the twelve places of the grid, for number 2 is left out; each in the middle of its
    cylinder, halfway through the plate."""
    written, place = STANDING[how]
    outcome = run(*PLATE[:2], f"part plate = {written.format('(box(200 mm, 100 mm, 20 mm).move(45 mm, 20 mm) - holes)')}")  # fmt: skip
    found = cut_items(outcome, "plate")
    times = 3 if how == "three of them" else 1
    scale = 10 if how == "ten times the size" else 1
    numbers = [number for number in range(12) if number != 2]
    assert sorted(one.number for one in found) == sorted(numbers * times)
    for number in numbers:
        expected = at(*place(30 * (number % 4), 20 * (number // 4)), 10 * scale)
        near = min(np.abs(one.middle - expected).max() for one in found if one.number == number)
        assert near < 1e-3 * scale


def test_holes_in_regions_are_numbered_and_a_named_array_of_an_array_once() -> None:
    outcome = run(
        "holes = ring(disc(4 mm), 6, r = 50 mm)",
        "aside = holes.move(10 mm, 0 mm)",
        "part face = disc(80 mm) - aside",
        "part lid = (disc(80 mm) - aside).extrude(9 mm)",
    )
    for name, height in (("face", 0.0), ("lid", 4.5)):
        found = {one.number: one.middle for one in cut_items(outcome, name)}
        assert sorted(found) == list(range(6))
        x, y = turned(50, 0, 60)
        assert found[1] == pytest.approx([x + 10, y, height], abs=0.05)
    assert len(cut_items(outcome, "lid")) == 6


def test_what_was_cut_away_wholly_has_no_number() -> None:
    outcome = run(*PLATE[:2], "part plate = (box(200 mm, 100 mm, 20 mm) - holes) & box(100 mm, 200 mm, 50 mm).move(-50 mm, 0 mm)")  # fmt: skip
    assert {one.number for one in cut_items(outcome, "plate")} <= {0, 4, 8}


def test_a_hundred_plates_have_a_hundred_times_the_numbers() -> None:
    """Each in its place: moved by the spacing of the plates (plane geometry)."""
    plate = "plate = box(200 mm, 100 mm, 20 mm).move(45 mm, 20 mm) - holes"
    one = cut_items(run(*PLATE[:2], plate, "part p = plate"), "p")
    many = cut_items(run(*PLATE[:2], plate, "part p = grid(plate, 10, 10, 1 m, 2 m)"), "p")
    wanted = {
        (cut.number, *np.round(cut.middle + at(1000 * x, 2000 * y, 0), 6))
        for cut in one
        for x in range(10)
        for y in range(10)
    }
    assert {(cut.number, *np.round(cut.middle, 6)) for cut in many} == wanted and len(many) == 1100


def test_where_there_are_too_many_nothing_is_told_at_all() -> None:
    """And however many items a part has, they are not looked at one by one (it would take minutes)."""
    plate = "plate = box(200 mm, 100 mm, 20 mm).move(45 mm, 20 mm) - holes"
    many = run(*PLATE[:2], plate, "part p = grid(plate, 100, 100, 1 m, 2 m)", "spacing = len(holes) * 1 mm", "part q = grid(box(1 mm, 1 mm, 1 mm), 150, 150, spacing, spacing)")  # fmt: skip
    assert cut_items(many, "p") == [] == cut_items(many, "q")


@pytest.mark.parametrize("own", ["holes", "holes.move(9 mm, 0 mm)", "holes.turn(30°)"])
def test_the_items_of_a_part_are_not_cut_out_of_it(own: str) -> None:
    outcome = run(*PLATE[:2], f"part pegs = {own}")
    assert cut_items(outcome, "pegs") == []
    assert place_of(outcome, "pegs", 4) is not None
