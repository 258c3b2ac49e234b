"""Outlines that were clicked: what a click was drawn to stands by its name, and the line draws just that."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ovolo.outcome.outline import Corner, outline_line
from ovolo.problems import Failure
from tests.sheets import run

LINES = (
    "input w = 4 m from 1 m to 9 m", "input h = 1500 mm", "teeth = 24", "apex = (w / 2, h)",
    "input at = (0 mm, 300 mm)", "part b = box(w, h, 10 mm)",
)  # fmt: skip


def corner(x: float, y: float, z: float = 0, snapped: bool = False, smooth: bool = False) -> Corner:
    return Corner(np.array([x, y, z], dtype=float), snapped, smooth)


def drawn(*corners: Corner, view: str = "plan", closed: bool = True) -> str:
    return outline_line(run(*LINES), "\n".join(LINES), corners, view, closed)


def test_the_roof_triangle_is_drawn_by_its_names() -> None:
    """Its ridge is a point of the sheet, its eaves are the ends of a length: no coordinate is typed."""
    line = drawn(corner(0, 0), corner(4000, 0, snapped=True), corner(2000, 1500, snapped=True))
    assert line == "outline_1 = start((0 mm, 0 mm)).to((w, 0 mm)).to(apex).close()"
    for width in (4000.0, 6000.0):
        outcome = run(*LINES, line, "long = length(outline_1)", w=width)
        assert not outcome.problems
        want = width + 2 * math.hypot(width / 2, 1500)
        assert outcome.as_json()["values"]["long"]["value"] == pytest.approx(want)


def test_halves_and_opposites_are_written_by_name_and_other_places_as_figures() -> None:
    line = drawn(corner(-4000, 0, snapped=True), corner(2000, -750, snapped=True), corner(2000, -750.5), closed=False)  # fmt: skip
    assert line == "outline_1 = start((-w, 0 mm)).to((w / 2, -h / 2)).to((2000 mm, -750.5 mm))"


def test_a_datum_stands_by_its_name_and_a_place_beside_it_does_not() -> None:
    assert "to(at)" in drawn(corner(9, 9), corner(0, 300, snapped=True))
    assert "to(at)" not in drawn(corner(9, 9), corner(0, 300))
    assert "to(at)" not in drawn(corner(9, 9), corner(0, 301, snapped=True))


def test_a_splayed_opening_goes_on_without_a_bend() -> None:
    line = drawn(corner(0, 0), corner(0, 1500, snapped=True), corner(1200, 1500, smooth=True))
    assert (
        line == "outline_1 = start((0 mm, 0 mm)).to((0 mm, h)).tangent_to((1200 mm, h)).close()"
        or (
            line
            == "outline_1 = start((0 mm, 0 mm)).to((0 mm, h)).tangent_to((1200 mm, 1500 mm)).close()"
        )
    )
    outcome = run(*LINES, line, "rise = max([p.y for p in divide(outline_1, 400)])")
    assert not outcome.problems
    # A half circle of 600 mm stands on the jambs, which go on straight into it (plane geometry).
    assert outcome.as_json()["values"]["rise"]["value"] == pytest.approx(2100, abs=0.5)


@pytest.mark.parametrize(("view", "up"), [("front", (0, 2)), ("side", (1, 2))])
def test_upright_views_draw_upright(view: str, up: tuple[int, int]) -> None:
    places = [[0.0, 0.0, 0.0] for _ in range(3)]
    places[1][up[0]], places[2][up[1]] = 700.0, 450.0
    line = drawn(*(corner(*place) for place in places), view=view)
    assert line.endswith(f'.close().on("{view}")')
    outcome = run(*LINES, f"part face = {line.split(' = ')[1]}")
    low, high = outcome.parts["face"].bounds
    assert np.asarray(high) - np.asarray(low) == pytest.approx(
        [700 if axis == up[0] else 450 if axis == up[1] else 0 for axis in range(3)], abs=1e-6
    )


def test_what_is_drawn_again_has_a_name_of_its_own() -> None:
    text = "outline_1 = 3\noutline_2 = 4\n"
    line = outline_line(run(*LINES), text, [corner(0, 0), corner(9, 0)], "plan", False)
    assert line.startswith("outline_3 = ")


def test_corners_on_one_place_are_one_and_one_alone_is_none() -> None:
    line = drawn(corner(0, 0), corner(0, 0), corner(5, 0), corner(5, 0), closed=False)
    assert line == "outline_1 = start((0 mm, 0 mm)).to((5 mm, 0 mm))"
    for corners in ((), (corner(0, 0),), (corner(1, 1), corner(1, 1, 9))):
        with pytest.raises(Failure, match="two corners"):
            drawn(*corners)
    with pytest.raises(Failure, match="does not draw in the view"):
        drawn(corner(0, 0), corner(1, 0), view="axonometric")
