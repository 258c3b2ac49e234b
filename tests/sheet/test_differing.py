"""One item of an array that differs, as an edit of the text: the picture stays, until what differs is said."""

from __future__ import annotations

import numpy as np
import pytest

from ovolo.problems import Failure
from ovolo.sheet.differing import with_one_differing
from tests.sheets import run


@pytest.mark.parametrize(
    ("line", "word", "want"),
    [
        ("part p = row(box(1 m, 1 m, 1 m), 5, 2 m)", "row",
         "part p = row(c -> if c.index == 3 then box(1 m, 1 m, 1 m) else box(1 m, 1 m, 1 m), 5, 2 m)"),
        ('part p = box(1 m, 1 m, 1 m).row(5, 2 m) "P"  # five', "row",
         'part p = row(c -> if c.index == 3 then box(1 m, 1 m, 1 m) else box(1 m, 1 m, 1 m), 5, 2 m) "P"  # five'),
        ("part p = grid(post, 4, 2, 1 m, 1 m, skip = [1]).turn(9°)", "grid",
         "part p = grid(c -> if c.index == 3 then post else post, 4, 2, 1 m, 1 m, skip = [1]).turn(9°)"),
        ("part p = row(k -> disc(k.share * 1 m + 1 m), 5, 4 m)", "row",
         "part p = row(k -> if k.index == 3 then disc(k.share * 1 m + 1 m) else disc(k.share * 1 m + 1 m), 5, 4 m)"),
        ("part p = row(c -> if c.index == 1 then a else b, 5, 4 m)", "row",
         "part p = row(c -> if c.index == 3 then b else if c.index == 1 then a else b, 5, 4 m)"),
        ("part p = row(disc(c), 5, 4 m)", "row",
         "part p = row(place -> if place.index == 3 then disc(c) else disc(c), 5, 4 m)"),
    ],
)  # fmt: skip
def test_what_is_repeated_asks_for_its_place(line: str, word: str, want: str) -> None:
    assert with_one_differing(f"x = 1\n{line}\n", "p", word, 3) == f"x = 1\n{want}\n"


@pytest.mark.parametrize(
    "line",
    [
        "part p = grid(disc(3 mm), 4, 2, 10 mm, 20 mm, skip = [1])",
        "part p = ring(k -> disc((k.share + 1) * 3 mm), 8, r = 50 mm)",
        "part p = box(1 mm, 2 mm, 3 mm).row(5, 10 mm).turn(20°)",
    ],
)
def test_nothing_changes_until_something_is_said(line: str) -> None:
    word = next(one for one in ("grid", "ring", "row") if one in line)
    text = line
    for number in (3, 2):
        text = with_one_differing(text, "p", word, number)
    before, after = run(line), run(text)
    assert not after.problems
    assert before.parts["p"].count == after.parts["p"].count
    assert np.allclose(before.parts["p"].bounds, after.parts["p"].bounds)


def test_the_number_is_that_which_skip_counts() -> None:
    text = with_one_differing("part p = row(disc(1 mm), 6, 10 mm, skip = [0, 1])", "p", "row", 4)
    differing = run(text.replace("then disc(1 mm)", "then disc(2 mm)"))
    (large,) = (one for one in differing.parts["p"].regions if one.flat.area > 10)
    assert large.frame[0, 3] + large.flat.centroid.x == pytest.approx(40), "4 times 10 mm along x"


def test_a_function_of_more_than_a_place_is_refused() -> None:
    with pytest.raises(Failure, match="takes more than a place"):
        with_one_differing("part p = row((a, b) -> disc(a), 5, 4 m)", "p", "row", 1)
