"""One item of an array and the local values that made it."""

import pytest

from ovolo.outcome.item import item_values
from ovolo.problems import Failure
from tests.sheets import demo_outcome, run


def values(name: str, index: int, *lines: str) -> dict[str, str]:
    return {one.name: one.shown for one in item_values(run(*lines), name, index)}


def test_the_item_of_an_array_of_placed_copies() -> None:
    found = values("xs", 3, "b = box(1 m, 1 m, 1 m)",
                   "xs = [b.turn(i * 10°).move(z = (i + 1) * 20 mm) for i in 0 .. 5]")  # fmt: skip
    assert found == {"i": "3", "turn angle": "30°", "move z": "80 mm"}


def test_the_local_lines_of_the_function_that_makes_it() -> None:
    found = {
        one.name: one.shown for one in item_values(demo_outcome("spiral-stair"), "balusters", 6)
    }
    assert found["k"] == "6" and found["tread_no"] == "2"
    assert found["share"] == "0.166667" and found["long"] == "930 mm"


def test_filters_and_several_loops_count_as_the_array_does() -> None:
    lines = ("xs = [i * 10 + j for i in 0 .. 3 for j in 0 .. i if i != j]",)
    assert values("xs", 2, *lines) == {"i": "2", "j": "1"}


def test_the_choice_that_was_taken() -> None:
    lines = (
        "part xs = [if i < 2 then box(1 m, 1 m, (i + 1) * 1 m) else box(2 m, 2 m, i * 2 m) for i in 0 .. 3]",
    )
    assert (
        values("xs", 3, *lines)["box h"] == "6 m" or values("xs", 3, *lines)["box h"] == "6000 mm"
    )


def test_an_item_of_a_word_says_where_it_is() -> None:
    lines = ("part p = grid(box(2 mm, 2 mm, 4 mm), 3, 2, 10 mm, 20 mm)",)
    assert values("p", 4, *lines) == {"index": "4", "middle": "(10, 20, 2) mm"}
    mixed = ("part p = row([disc(1 mm), rect(2 mm, 4 mm).move(y = 9 mm)], 2, 30 mm)",)
    assert values("p", 3, *mixed) == {"index": "3", "middle": "(30, 9, 0) mm"}
    assert values("p", 1, "p = row((0 mm, 0 mm), 3, 1 mm)") == {}
    with pytest.raises(Failure, match="no item 6"):
        values("p", 6, *lines)


def test_a_value_that_is_not_made_item_by_item_has_none() -> None:
    assert values("a", 0, "part a = box(1 m, 1 m, 1 m)") == {}


def test_an_item_that_is_not_there() -> None:
    with pytest.raises(Failure, match="no item 9"):
        values("xs", 9, "xs = [i for i in 0 .. 3]")
    with pytest.raises(Failure, match="nothing called `ys`"):
        values("ys", 0, "xs = [i for i in 0 .. 3]")
