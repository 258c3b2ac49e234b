"""Colour by value, with its legend."""

import pytest

from ovolo.formats.export import exported
from ovolo.outcome.scene import scene_of
from tests.outcome.test_scene import unpacked
from tests.sheets import problem, run


def test_figures_are_a_scale_between_two_colours() -> None:
    outcome = run(
        "part p = row(box(1 mm, 1 mm, 1 mm), 3, 2 mm) colour #000000 to #FFFFFF by [10 mm, 20 mm, 30 mm]"
    )
    tinting = outcome.parts["p"].tinting
    assert tinting is not None and tinting.of_items == ("#000000", "#808080", "#FFFFFF")
    assert [said for said, _ in tinting.legend] == ["10 mm", "15 mm", "20 mm", "25 mm", "30 mm"]
    assert tinting.legend[0][1] == "#000000" and tinting.legend[-1][1] == "#FFFFFF"


def test_one_value_is_one_colour() -> None:
    tinting = run("part p = [disc(1 m), disc(2 m)] colour by [3, 3]").parts["p"].tinting
    assert tinting is not None and len(set(tinting.of_items)) == 1 == len(tinting.legend)


def test_texts_and_yes_no_have_a_colour_each() -> None:
    tinting = run('part p = row(disc(1 m), 4, 3 m) colour by ["oak", "kerb", "oak", "rail"]').parts["p"].tinting  # fmt: skip
    assert tinting is not None
    assert tinting.of_items[0] == tinting.of_items[2] == "#E9D9BE"
    assert [said for said, _ in tinting.legend] == ["oak", "kerb", "rail"]
    tinting = run("part p = row(disc(1 m), 4, 3 m) colour by [mod(i, 2) == 0 for i in 0 .. 3]").parts["p"].tinting  # fmt: skip
    assert tinting is not None and [said for said, _ in tinting.legend] == ["yes", "no"]


def test_items_that_are_lists_are_coloured_as_wholes() -> None:
    tinting = run("part p = row([disc(1 m), disc(2 m)], 2, 9 m) colour by [0, 1]").parts["p"].tinting  # fmt: skip
    assert tinting is not None and len(tinting.of_items) == 4
    assert tinting.of_items[0] == tinting.of_items[1] != tinting.of_items[2]


def test_a_gap_keeps_the_colours_of_the_others() -> None:
    outcome = run("part p = [box(i * 1 mm, 1 mm, 1 mm) for i in 0 .. 2] colour #000000 to #FFFFFF by 0 .. 2")  # fmt: skip
    groups = outcome.parts["p"].coloured_groups
    assert [colour for _, colour in groups] == ["#808080", "#FFFFFF"]


def test_the_scene_has_a_tint_for_each_item_and_the_legend() -> None:
    outcome = run("part p = row(box(1 mm, 1 mm, 1 mm), 3, 2 mm) colour by 0 .. 2")
    header, data = unpacked(scene_of(outcome))
    (part,) = header["parts"]
    assert part["legend"][0] == {"said": "0", "colour": "#F3EFE6"}
    offset, count = part["groups"][0]["tints"]
    assert count == 3 and data[offset : offset + 4] == bytes([0xE6, 0xEF, 0xF3, 0])


def test_files_have_the_colours() -> None:
    outcome = run("part p = row(box(1 mm, 1 mm, 1 mm), 3, 2 mm) colour by [0, 1, 1]")
    assert exported(outcome, "a.glb").count(b'"baseColorFactor"') == 2
    drawing = exported(run("part p = row(disc(1 m), 2, 3 m) colour #112233 to #445566 by 0 .. 1"), "a.svg")  # fmt: skip
    assert b"#112233" in drawing and b"#445566" in drawing


@pytest.mark.parametrize(
    ("clause", "said"),
    [
        ("colour by [1, 2]", "has 2 values for 3 items"),
        ("colour by 3", "a list of numbers"),
        ("colour by [(1 m, 2 m), (1 m, 3 m), (1 m, 3 m)]", "a list of numbers"),
        ("colour oak to oat by 0 .. 2", "`oat` is not a colour"),
        ("colour oak colour by 0 .. 2", "twice"),
        ("colour by [1 / i for i in 0 .. 2]", "could not be made"),
    ],
)
def test_what_does_not_fit_is_said(clause: str, said: str) -> None:
    outcome = run(f"part p = row(disc(1 m), 3, 3 m) {clause}")
    assert any(said in f"{one.message} {one.hint}" for one in outcome.problems), outcome.problems


def test_a_part_that_cannot_be_coloured_is_still_drawn() -> None:
    lines = "part p = row(disc(1 m), 3, 3 m) colour by [1, 2]"
    assert problem(lines).name == "p" and run(lines).parts["p"].count == 3
