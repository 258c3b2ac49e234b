"""Items of an array left out and brought back in the text."""

from __future__ import annotations

import pytest

from ovolo.outcome.array_place import place_of
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from ovolo.sheet.skipping import with_brought_back, with_left_out

SHEET = """units mm
peg = cylinder(2 mm, 9 mm)
part pegs = grid(peg, 4, 3, 10 mm, 10 mm).move(z = 3 mm) colour oak "Pegs"  # kept
around = ring(peg, 6, r = 30 mm, where = c -> c.index != 2)
part ring_of_pegs = around.move(x = 1 m)
part rising = row(c -> cylinder(2 mm + c.index * 1 mm, 5 mm), 5, 20 mm)
loose = [box(1 mm, 1 mm, 1 mm) for i in 0 .. 3]
left = [1]
part by_name = row(peg, 3, 9 mm, skip = left)
"""


def line(text: str, number: int) -> str:
    return text.split("\n")[number - 1]


def test_an_item_is_left_out_and_comes_back_to_the_letter() -> None:
    once = with_left_out(SHEET, "pegs", "grid", 5, 12)
    assert line(once, 3) == (
        'part pegs = grid(peg, 4, 3, 10 mm, 10 mm, skip = [5]).move(z = 3 mm) colour oak "Pegs"  # kept'
    )
    twice = with_left_out(once, "pegs", "grid", 0, 12)
    assert "skip = [0, 5]" in line(twice, 3)
    assert with_brought_back(twice, "pegs", "grid", 0, 12) == once
    assert with_brought_back(once, "pegs", "grid", 5, 12) == SHEET


@pytest.mark.parametrize(
    ("name", "word", "count"), [("pegs", "grid", 12), ("rising", "row", 5), ("around", "ring", 6)]
)
def test_what_is_left_out_is_gone_and_all_others_stay(name: str, word: str, count: int) -> None:
    """For every place: the items that stay are those of before, at their places."""
    shown = {"around": "ring_of_pegs"}.get(name, name)
    before = outcome_of(SHEET).parts[shown]
    for index in range(before.count):
        place = place_of(outcome_of(SHEET), shown, index)
        assert place is not None
        assert (place.line, place.word, place.count) == (name, word, count)
        text = with_left_out(SHEET, name, word, place.number, count)
        after = outcome_of(text).parts[shown]
        assert after.count == before.count - 1
        kept = [i for i in range(before.count) if i != index]
        for new, old in enumerate(kept):
            assert after.bounds_of(new) == pytest.approx(before.bounds_of(old))
            again = place_of(outcome_of(text), shown, new)
            assert again is not None and again.left_out == (place.number,)
            assert again.number == place_of(outcome_of(SHEET), shown, old).number  # type: ignore[union-attr]


def test_a_place_of_a_grid_has_its_column_and_row() -> None:
    for index in range(12):
        place = place_of(outcome_of(SHEET), "pegs", index)
        assert place is not None
        assert (place.column, place.row) == (index % 4, index // 4)


def test_numbers_from_the_end_are_kept_and_counted() -> None:
    text = SHEET.replace("10 mm, 10 mm)", "10 mm, 10 mm, skip = [-1])")
    assert "skip = [3, -1]" in with_left_out(text, "pegs", "grid", 3, 12)
    assert with_brought_back(text, "pegs", "grid", 11, 12) == SHEET
    with pytest.raises(Failure, match="item 11 of `pegs` is left out already"):
        with_left_out(text, "pegs", "grid", 11, 12)


@pytest.mark.parametrize(
    "written",
    ["peg.row(skip = [1], n = 3, step = 9 mm)", "peg.row(n = 3, skip = [1], step = 9 mm)", "peg.row(n = 3, step = 9 mm, skip=[1])",
     "peg.at_points([(0 mm, 0 mm), (9 mm, 0 mm)], skip = [1])"],
)  # fmt: skip
def test_a_skip_goes_with_its_comma_wherever_it_stands(written: str) -> None:
    word = written.split(".")[1].split("(")[0]
    text = f"peg = cylinder(2 mm, 9 mm)\npart pegs = {written}"
    before = outcome_of(text).parts["pegs"].count
    back = with_brought_back(text, "pegs", word, 1, before + 1)
    assert "skip" not in back and outcome_of(back).parts["pegs"].count == before + 1


def test_what_no_word_makes_has_no_place() -> None:
    assert place_of(outcome_of(SHEET), "loose", 1) is None
    assert place_of(outcome_of(SHEET), "peg", 0) is None


def test_what_is_skipped_by_a_formula_is_changed_there() -> None:
    with pytest.raises(Failure, match="what `by_name` skips is a formula"):
        with_left_out(SHEET, "by_name", "row", 2, 3)
    with pytest.raises(Failure, match="item 2 of `pegs` is not left out"):
        with_brought_back(SHEET, "pegs", "grid", 2, 12)
    with pytest.raises(Failure, match="does not make its items by `ring`"):
        with_left_out(SHEET, "pegs", "ring", 2, 12)


def test_what_is_written_by_column_and_row_stays_so() -> None:
    text = SHEET.replace("10 mm, 10 mm)", "10 mm, 10 mm, skip = [(2, 1), (-1, -1)])")
    assert outcome_of(text).parts["pegs"].count == 10
    place = place_of(outcome_of(text), "pegs", 0)
    assert place is not None and place.left_out == (6, 11) and place.columns == 4
    more = with_left_out(text, "pegs", "grid", 1, 12, 4)
    assert "skip = [(1, 0), (2, 1), (-1, -1)]" in more
    assert outcome_of(more).parts["pegs"].count == 9
    assert with_brought_back(more, "pegs", "grid", 1, 12, 4) == text
    assert "skip = [(2, 1)]" in with_brought_back(text, "pegs", "grid", 11, 12, 4)


@pytest.mark.parametrize(
    ("skip", "said"),
    [
        ("[(4, 0)]", "there is no item (4, 0) in this grid to skip"),
        ("[(0.5, 0)]", "there is no item (0.5, 0) in this grid"),
        ("[(1 mm, 2 mm)]", "`grid` wants a list of numbers or a list of points"),
        ("[0.5]", "there is no item 0.5"),
        ("[12]", "there is no item 12"),
    ],
)
def test_what_cannot_be_skipped_is_said(skip: str, said: str) -> None:
    outcome = outcome_of(SHEET.replace("10 mm, 10 mm)", f"10 mm, 10 mm, skip = {skip})"))
    assert said in outcome.problems[0].message
