"""Placed pieces changed in the text: what a gesture writes is what would be typed, and the rest stays."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.problems import Failure
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import placing
from ovolo.sheet.reader import read_sheet
from tests.sheets import value

UNITS = DisplayUnits()
HEAD = 'study "Roof"\nunits mm, deg\nuse truss from "Truss"\n\nspan = 4 m\n'


def line_after(change: str, *arguments: object, line: str) -> str:
    text = getattr(placing, change)(f"{HEAD}{line}\nlast = 1\n", "north", *arguments)
    text = text[0] if isinstance(text, tuple) else text
    assert text.startswith(HEAD) and text.endswith("\nlast = 1\n")
    return text.removeprefix(HEAD).removesuffix("\nlast = 1\n")


@pytest.mark.parametrize(
    ("line", "by", "want"),
    [
        ("part north = truss()", (2000, 3500, 0), "part north = truss().move(2000 mm, 3500 mm)"),
        ("part north = truss().move(2 m, 1 m)", (500, 0, 0), "part north = truss().move(2.5 m, 1 m)"),
        ("part north = truss().move(2 m, 1 m)", (0, 0, 300), "part north = truss().move(2 m, 1 m, 0.3 m)"),
        ("part north = truss().move(z = 30 mm)", (10, 20, 0), "part north = truss().move(10 mm, 20 mm, 30 mm)"),
        ('part north = truss(a = 3).turn(90°).move(x = -2 m) "N"  # why', (0, 500, 0), 'part north = truss(a = 3).turn(90°).move(-2 m, 0.5 m) "N"  # why'),
        ("part north = move(truss(), 1 m, 2 m)", (1000, 0, 0), "part north = move(truss(), 2 m, 2 m)"),
        ("part north = truss().move(span, 0 m).turn(5°)", (7, 8, 0), "part north = truss().move(span, 0 m).turn(5°).move(7 mm, 8 mm)"),
    ],
)  # fmt: skip
def test_a_piece_is_moved(line: str, by: tuple[float, ...], want: str) -> None:
    assert line_after("with_move", by, UNITS, line=line) == want


@pytest.mark.parametrize(
    ("line", "said", "hint"),
    [
        ("part north = truss().move(span / 2, 0 m)", "is a formula: span / 2", "change `span`"),
        ("part north = truss().move(by = (1 m, 2 m))", "is a formula", "change it in its line"),
        ("part north = row(truss(), 3, 1 m)", "`north` is no placed study", ""),
        ("part north = box(1 m, 1 m, 1 m).move(1 m, 0 m)", "`north` is no placed study", ""),
    ],
)
def test_a_place_that_is_a_formula_is_refused_with_what_is_behind_it(
    line: str, said: str, hint: str
) -> None:
    with pytest.raises(Failure) as caught:
        line_after("with_move", (1, 0, 0), UNITS, line=line)
    assert said in caught.value.message and hint in caught.value.hint


@given(st.lists(st.tuples(*[st.integers(-5000, 5000)] * 3), min_size=1, max_size=4))
def test_moves_one_after_another_are_one_move(steps: list[tuple[int, int, int]]) -> None:
    """And back again gives the place it had."""
    text = HEAD + "part north = truss().move(1 m, 2 m, 3 m)\n"
    moved = text
    for step in steps:
        moved = placing.with_move(moved, "north", step, UNITS)
    total = tuple(sum(one) for one in zip(*steps, strict=True))
    assert moved == placing.with_move(text, "north", total, UNITS)
    assert placing.with_move(moved, "north", [-one for one in total], UNITS) == text


def test_a_piece_is_turned_in_the_unit_that_is_written() -> None:
    turned = line_after(
        "with_turn", math.radians(15), UNITS, line="part north = truss().move(1 m, 0 m)"
    )
    assert turned == "part north = truss().turn(15°).move(1 m, 0 m)"
    again = line_after("with_turn", math.radians(-105), UNITS, line=turned)
    assert again == "part north = truss().turn(-90°).move(1 m, 0 m)"
    with pytest.raises(Failure, match="is a formula: lean"):
        line_after("with_turn", 1.0, UNITS, line="part north = truss().turn(lean)")
    lying = line_after("with_turn", math.pi / 2, UNITS, line="part north = truss().turn(5°, x)")
    assert lying == "part north = truss().turn(90°).turn(5°, x)", "in the plane in which it lies"


def test_an_input_is_given_changed_and_left_to_the_study_again() -> None:
    line = "part north = truss().move(1 m, 0 m)"
    given_ = line_after("with_argument", "pitch", "22°", line=line)
    assert given_ == "part north = truss(pitch = 22°).move(1 m, 0 m)"
    two = line_after("with_argument", "span", "3 m", line=given_)
    assert two == "part north = truss(pitch = 22°, span = 3 m).move(1 m, 0 m)"
    changed = line_after("with_argument", "pitch", "30°", line=two)
    assert changed == "part north = truss(pitch = 30°, span = 3 m).move(1 m, 0 m)"
    assert line_after("with_argument", "pitch", None, line=changed) == "part north = truss(span = 3 m).move(1 m, 0 m)"  # fmt: skip
    assert line_after("with_argument", "span", None, line=two) == given_
    with pytest.raises(Failure, match="values without names"):
        line_after("with_argument", "pitch", "3°", line="part north = truss(22°)")


def test_a_piece_is_copied_with_a_name_a_number_and_a_place_of_its_own() -> None:
    text = HEAD + 'part truss_1 = truss(pitch = 22°).move(1 m, 0 m) "Truss 1"\nlast = 1\n'
    copy, name = placing.copied(text, "truss_1", (0, 2000, 0), UNITS)
    assert name == "truss_2"
    assert copy == HEAD + (
        'part truss_1 = truss(pitch = 22°).move(1 m, 0 m) "Truss 1"\n'
        'part truss_2 = truss(pitch = 22°).move(1 m, 2 m) "Truss 2"\nlast = 1\n'
    )


def test_a_copy_has_the_values_of_its_piece_also_where_one_is_its_label() -> None:
    text = HEAD + 'part oak_1 = truss(wood = "Oak 1") "Oak 1"  # "Oak 1"\n'
    copy, _ = placing.copied(text, "oak_1", (1000, 0, 0), UNITS)
    assert 'part oak_2 = truss(wood = "Oak 1").move(1000 mm, 0 mm) "Oak 2"  # "Oak 1"\n' in copy


LAID = "part north = laid(p, q, l -> truss(span = l, pitch = 22°))"


def test_a_piece_that_is_laid_has_its_inputs_and_its_ends_tell_where_it_lies() -> None:
    """Its arguments are changed within the function; it is not turned, and a copy stands beside it."""
    piece = placing.piece_of(f"{HEAD}{LAID}\n", "north")
    assert piece is not None and piece.is_laid and placing.place_in_figures(piece) is None
    assert not placing.stands_level(piece)
    assert placing.argument_of(piece, "span") == "l"
    steeper = line_after("with_argument", "pitch", "30°", line=LAID)
    assert steeper == LAID.replace("22°", "30°")
    assert line_after("with_argument", "web", "3", line=LAID) == LAID.replace(
        "22°)", "22°, web = 3)"
    )
    assert line_after("with_argument", "pitch", None, line=LAID) == LAID.replace(
        ", pitch = 22°", ""
    )
    with pytest.raises(Failure, match="laid between two points"):
        line_after("with_turn", 1.0, UNITS, line=LAID)
    copy, name = placing.copied(f"{HEAD}{LAID}\n", "north", (500, 0, 0), UNITS)
    assert f"part {name} = laid(p, q, l -> truss(span = l, pitch = 22°)).move(500 mm, 0 mm)" in copy
    assert placing.piece_of(f"{HEAD}part north = laid(p, q, bar)\n", "north") is None


def standing(facing: tuple[float, float, float]) -> str:
    text, _ = placing.placed(HEAD, "Truss", placing.Stand((1, 2, 3), facing), UNITS)
    return text.removeprefix(HEAD).split("truss()")[1].split(".move(1 mm, 2 mm, 3 mm)")[0]


@pytest.mark.parametrize(
    ("facing", "want"),
    [
        ((0, 0, 1), ""), ((0, -1, 0), '.on("front")'), ((3, 0, 0), '.on("side")'),
        ((0, 1, 0), '.on("back")'), ((-1, 0, 0), '.on("left")'), ((0, 0, -1), ".turn(180°, x)"),
        ((0, -1, 1), ".turn(45°, x)"), ((1, 0, 1), ".turn(45°, x).turn(90°)"),
    ],
)  # fmt: skip
def test_what_lies_on_a_plane_is_laid_into_it(
    facing: tuple[float, float, float], want: str
) -> None:
    assert standing(facing) == want


@given(st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda one: sum(v * v for v in one) > 0.01))
def test_its_z_is_the_way_that_the_plane_faces_and_its_x_is_level(
    facing: tuple[float, float, float],
) -> None:
    """Angles are written to a ten thousandth of a degree: a micrometre or two in a metre."""
    words = standing(facing)
    size = math.sqrt(sum(one * one for one in facing))
    tip = value(f"(0 m, 0 m, 1 m){words}")
    assert tip == pytest.approx([1000 * one / size for one in facing], abs=2.5e-3)
    assert value(f"(1 m, 0 m, 0 m){words}")[2] == pytest.approx(0, abs=1e-9)


def test_on_a_surface_it_stands_by_the_level_there() -> None:
    text, _ = placing.placed(HEAD, "Truss", placing.Stand((1500, 250, 77), surface="ground"), UNITS)
    assert ".move(1500 mm, 250 mm, level(ground, (1500 mm, 250 mm)))" in text
    with pytest.raises(Failure, match="faces some way"):
        placing.placed(HEAD, "Truss", placing.Stand((0, 0, 0), (0, 0, 0)), UNITS)


def test_a_study_is_placed_and_used_where_it_was_not() -> None:
    text, name = placing.placed(HEAD, "Truss", placing.Stand((1500, 250, 0)), UNITS)
    assert name == "truss_1"
    assert text == HEAD + 'part truss_1 = truss().move(1500 mm, 250 mm) "Truss 1"\n'
    other, name = placing.placed(text, "2 Falls: long", placing.Stand((0, 0, 120)), UNITS)
    assert 'use truss from "Truss"\nuse _2_falls_long from "2 Falls: long"\n' in other
    assert other.endswith('part _2_falls_long_1 = _2_falls_long().move(0 mm, 0 mm, 120 mm) "2 Falls: long 1"\n')  # fmt: skip
    assert not [one for one in read_sheet(other).statements if type(one.content).__name__ == "Unreadable"]  # fmt: skip
    empty, _ = placing.placed("", "Truss", placing.Stand((0, 0, 0)), UNITS)
    assert empty.startswith('use truss from "Truss"\n')
