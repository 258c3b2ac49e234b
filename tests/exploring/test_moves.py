"""What an input moves for one small step of it."""

import pytest

from ovolo.exploring.moves import moves_of
from ovolo.meaning.checked_sheet import checked_program
from ovolo.problems import Failure
from tests.sheets import demo, demo_tables


def moved(text: str, name: str, **settings: float) -> dict[str, tuple[str, str]]:
    found = moves_of(checked_program(text, demo_tables(text)), settings, name)
    return {move.name: (move.before, move.after) for move in found}


def test_what_really_changes_and_nothing_else() -> None:
    text = (
        "input a = 10 mm step 1 mm\nb = 2 * a\nc = 5 mm\nn = floor(a / 5 mm)\npart p = box(b, c, c)"
    )
    assert moved(text, "a") == {"b": ("20 mm", "22 mm"), "p": ("", "")}, "the count stays 2"
    assert moved(text, "a", a=14.0)["n"] == ("2", "3")


def test_it_steps_back_from_the_upper_limit() -> None:
    text = "input a = 10 mm from 0 mm to 10 mm step 1 mm\nb = 2 * a"
    assert moved(text, "a") == {"b": ("20 mm", "18 mm")}


def test_an_input_without_a_step_goes_a_hundredth() -> None:
    assert moved("input a = 200 mm\nb = 2 * a", "a") == {"b": ("400 mm", "404 mm")}


def test_choices_yes_no_lists_and_points() -> None:
    text = 'input c = "x" of "x", "y"\nb = if c == "x" then 1 else 2'
    assert moved(text, "c") == {"b": ("1", "2")}
    assert moved("input y = yes\nb = if y then 1 else 2", "y") == {"b": ("1", "2")}
    assert moved("input l = [1 mm, 3 mm] step 1 mm\ns = sum(l)", "l") == {"s": ("4 mm", "6 mm")}
    assert moved("input p = (1 m, 2 m) step 1 m\nq = p.x", "p") == {"q": ("1000 mm", "2000 mm")}


def test_a_check_that_begins_to_fail_and_a_line_that_breaks() -> None:
    found = moved("input a = 1 step 1\nb = 1 / (2 - a)\ncheck a < 1.5", "a")
    assert "division by zero" in found["b"][1] and found[""] == ("yes", "no")


def test_the_stair_gets_fewer_balusters_just_where_the_gap_allows_it() -> None:
    assert moved(demo("spiral-stair"), "gap_max") == {}, "at 99 mm nothing turns on one more"
    found = moved(demo("spiral-stair"), "gap_max", gap_max=93.0)
    assert {"per_tread", "balusters", "gap"} <= set(found) and "treads" not in found


def test_only_inputs_are_turned() -> None:
    with pytest.raises(Failure, match="`b` is not an input"):
        moved("b = 2", "b")
