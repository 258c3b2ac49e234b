"""Corners of chains, dragged: those that are figures, along the axes in which they are."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.outcome.chain_corners import chain_corners
from ovolo.problems import Failure
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import chains
from tests.sheets import run

W = "input w = 4 m"
LINE = "edge = start((0 mm, 0 mm)).to((w, 0.3 m)).arc_through((4 m, 2 m), (1 m, 2500 mm)).close()"


def corners(*lines: str, name: str = "edge") -> list[dict[str, Any]]:
    outcome = run(*lines)
    return next(chain_corners(one) for one in outcome.lines if one.line.name == name)


def test_what_is_written_as_figures_may_be_dragged_and_the_rest_not() -> None:
    found = corners(W, LINE)
    assert [(one["index"], one["at"], one["free"]) for one in found] == [
        (0, pytest.approx([0, 0, 0]), ["x", "y"]),
        (1, pytest.approx([4000, 300, 0]), ["y"]),
        (2, pytest.approx([1000, 2500, 0]), ["x", "y"]),
    ]
    assert [len(one["beside"]) for one in found] == [2, 2, 2], "the last leads back to the first"


@pytest.mark.parametrize(
    ("line", "count"),
    [
        ("edge = start(apex).to(apex + (1 m, 1 m))", 0),
        ("edge = start((0 mm, 0 mm)).to((w / 2, -w)).to((-1 m, 2 m))", 2),
        ("edge = start((0 mm, 0 mm)).to((1 m, 2 m)).move(1 m, 1 m)", 0),
        ("edge = line((0 m, 0 m), (1 m, 1 m))", 0),
        ("edge = 5 mm", 0),
    ],
)
def test_lines_of_other_kinds_have_none(line: str, count: int) -> None:
    assert len(corners(W, "apex = (w / 2, w)", line)) == count


@pytest.mark.parametrize(("view", "up", "free"), [("front", (0, 2), ["x", "z"]), ("side", (1, 2), ["y", "z"])])  # fmt: skip
def test_upright_ones_stand_upright(view: str, up: tuple[int, int], free: list[str]) -> None:
    found = corners(f'edge = start((0 mm, 0 mm)).to((700 mm, 450 mm)).on("{view}")')[1]
    assert (found["at"][up[0]], found["at"][up[1]]) == pytest.approx((700, 450))
    assert found["free"] == free


def test_a_corner_is_written_in_the_unit_it_had() -> None:
    text = f"{W}\n{LINE}\nlast = 1"
    moved = chains.with_corner(text, "edge", 2, (1250.0, 2600.0), DisplayUnits())
    assert moved == text.replace("(1 m, 2500 mm)", "(1.25 m, 2600 mm)")
    held = chains.with_corner(text, "edge", 1, (9999.0, -20.0), DisplayUnits())
    assert held == text.replace("(w, 0.3 m)", "(w, -0.02 m)"), "what is a name stays"
    with pytest.raises(Failure, match="corner 2 of `e` is not written as figures"):
        chains.with_corner("w = 4 m\ne = start((0 m, 0 m)).to((w, w))", "e", 1, (1, 1), DisplayUnits())  # fmt: skip
    for index in (9, -1):
        with pytest.raises(Failure, match="not written as figures"):
            chains.with_corner(text, "edge", index, (1, 1), DisplayUnits())


@given(st.integers(0, 2), st.integers(-5000, 5000), st.integers(-5000, 5000))
def test_a_corner_comes_to_stand_where_it_was_dragged(index: int, x: int, y: int) -> None:
    text = f"{W}\n{LINE.replace('.arc_through((4 m, 2 m), ', '.to(')}"
    moved = chains.with_corner(text, "edge", index, (float(x), float(y)), DisplayUnits())
    after = {one["index"]: one["at"] for one in corners(*moved.split("\n"))}
    if index in after:  # corners on one place are one
        assert after[index] == pytest.approx([4000 if index == 1 else x, y, 0])
