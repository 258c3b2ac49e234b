"""Walls with no room for two lines: one of its own width along the middle; nothing overlaps, nothing is left out that
half a line could fill."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from ovolo.benches.printing.build import Print, figures_of
from ovolo.benches.printing.layers import inset
from ovolo.benches.printing.lines import Line
from ovolo.benches.printing.narrow import may_be_narrow
from ovolo.benches.printing.printer import AS_DRAWN, Printer
from ovolo.benches.printing.program import program
from ovolo.benches.printing.simulated import SimulatedPrinter
from tests.benches.test_printing import PLAIN, all_figures, made

FULL = replace(PLAIN, lies=AS_DRAWN, density=1.0)
W = FULL.line


def lines_in(of: Print, layer: int = 4) -> list[Line]:
    return of.lines(0, range(layer, layer + 1))[0].lines


def strips(lines: list[Line]) -> list[shapely.Geometry]:
    """What lines cover: as wide as they are, ending where they end."""
    return [
        shapely.buffer(_path(one.points), one.width / 2, cap_style="flat", join_style="mitre")
        for one in lines
    ]


def _path(points: np.ndarray) -> shapely.Geometry:
    closed = len(points) > 3 and np.array_equal(points[0], points[-1])
    return shapely.linearrings(points) if closed else shapely.linestrings(points)


def is_laid_well(of: Print, least: float) -> None:
    """At least so much of a section is covered, hardly anything twice, and nothing beyond it."""
    (section,), lines = of.layered[0].sections[4:5], lines_in(of)
    covered = sum(one.length * one.width for one in lines)
    together = shapely.union_all(strips(lines))
    assert least * section.area <= covered <= 1.001 * section.area
    assert together.area == pytest.approx(covered, rel=0.02)
    assert shapely.area(shapely.difference(together, section)) < 2e-3 * section.area


@pytest.mark.parametrize("lines", [1.02, 1.2, 1.5, 1.8, 1.98])
def test_between_one_and_two_lines_it_is_one_in_the_middle(lines: float) -> None:
    of = made(f"part s = box({lines * W} mm, 40 mm, 2 mm)", FULL)
    (one,) = lines_in(of)
    assert one.width == pytest.approx(lines * W, rel=2e-3)
    x = one.points[:, 0]
    assert np.ptp(x) < 0.02 * W, "straight"
    assert x.mean() == pytest.approx(lines * W / 2, abs=0.01 * W), "in its own place it begins at 0"
    assert one.length == pytest.approx(40 - one.width, abs=W / 4)


@pytest.mark.parametrize("lines", [1.1, 1.9, 2.0, 2.6, 2.9, 3.0, 3.3, 3.9, 4.0, 4.6, 4.9])
def test_a_plate_of_any_thickness_is_filled_and_nothing_twice(lines: float) -> None:
    is_laid_well(made(f"part s = box({lines * W} mm, 40 mm, 2 mm)", FULL), least=0.97)


@pytest.mark.parametrize(
    ("outline", "least"),
    [
        ("disc(10 mm) - disc(9.4 mm)", 0.99),
        ("disc(10 mm) - disc(8.4 mm)", 0.99),
        ("rect(30 mm, 20 mm) - rect(28.8 mm, 18.8 mm)", 0.97),
        ("polygon(6, 10 mm) - polygon(6, 9.3 mm)", 0.98),
        ("region([(0 mm, 0 mm), (20 mm, 0 mm), (20 mm, 0.6 mm), (0.6 mm, 0.6 mm), (0.6 mm, 20 mm), (0 mm, 20 mm)])", 0.96),
        ("rect(22.2 mm, 22.2 mm) - [rect(6.6 mm, 6.6 mm).move(x = (i - 1) * 7.2 mm, y = (j - 1) * 7.2 mm) for i in 0 .. 2 for j in 0 .. 2]", 0.96),
        ("region([(0 mm, 0 mm), (40 mm, 0 mm), (40 mm, 3 mm)])", 0.87),
        ("rect(10 mm, 10 mm) + rect(30 mm, 0.7 mm)", 0.9),
    ],
)  # fmt: skip
def test_walls_of_any_course(outline: str, least: float) -> None:
    is_laid_well(made(f"part s = extrude({outline}, 2 mm)", FULL), least)


def test_round_a_tube_the_middle_closes() -> None:
    (one,) = lines_in(made("part s = extrude(disc(10 mm) - disc(9.4 mm), 2 mm)", FULL))
    assert np.array_equal(one.points[0], one.points[-1])
    assert one.length == pytest.approx(2 * math.pi * 9.7, rel=2e-3)
    assert one.width == pytest.approx(0.6, rel=1e-2)


@pytest.mark.parametrize(
    "placed", ["turn(33°)", "move(x = 123.4 mm, y = -7.7 mm)", "mirror(x)", "turn(90°)"]
)
def test_where_it_stands_changes_nothing(placed: str) -> None:
    outline = "(rect(10 mm, 10 mm) + rect(30 mm, 0.7 mm))"
    one, other = (
        made(f"part s = extrude({outline}{then}, 2 mm)", replace(FULL, density=0.0))
        for then in ("", f".{placed}")
    )
    sizes = [sum(each.length * each.width for each in lines_in(of)) for of in (one, other)]
    assert sizes[1] == pytest.approx(sizes[0], rel=5e-3)


def test_ten_times_as_large_it_is_ten_times_as_much() -> None:
    outline = "(rect({a} mm, {a} mm) + rect({b} mm, {c} mm))"
    small = made(f"part s = extrude({outline.format(a=10, b=30, c=0.7)}, 2 mm)", FULL)
    ten = replace(FULL, line=10 * W, layer=10 * FULL.layer, first_layer=10 * FULL.first_layer, width=4000, depth=4000, height=4000)  # fmt: skip
    large = made(f"part s = extrude({outline.format(a=100, b=300, c=7)}, 20 mm)", ten)
    areas = [sum(one.length * one.width for one in lines_in(of)) for of in (small, large)]
    assert areas[1] == pytest.approx(100 * areas[0], rel=5e-3)
    assert len(lines_in(small)) == len(lines_in(large))


def test_material_of_a_thin_vase_is_its_volume_and_the_printer_lays_as_much() -> None:
    """Its wall is 0.6 mm: two lines of 0.45 mm would be half as much again."""
    of = made(
        "part s = extrude(disc(15 mm) - disc(14.4 mm), 12.1 mm)", Printer(lies=AS_DRAWN, brim=0)
    )
    figures, found = all_figures(of)
    laid = sum(one.volume for one in figures)
    assert laid == pytest.approx(of.layered[0].body.volume, rel=0.01)
    assert not found
    told = SimulatedPrinter(of.printer).run(program(of, 0, "Vase"))
    assert told.volume == pytest.approx(laid, rel=1e-3)


def test_what_is_as_long_as_wide_keeps_its_ring() -> None:
    """A pin of one and a half lines has no middle; it is not left out."""
    of = made(f"part s = cylinder({0.75 * W} mm, 4 mm)", FULL)
    assert len(lines_in(of)) == 1 and figures_of(of, 0, range(4, 5))[0][0].volume > 0


@given(st.floats(0.3, 5.0), st.floats(0, 2), st.integers(3, 9))
def test_no_narrow_place_goes_unseen(wide: float, aside: float, corners: int) -> None:
    """The quick look against the slow one: of a frame what lies within the distance of both its outline and its hole,
    of a crescent what loses a side. Not told is only what lines overlap by less than that look goes by."""
    outer = shapely.Point(0, 0).buffer(20, quad_segs=corners)
    hole = shapely.Point(aside * wide / 3, 0).buffer(20 - wide, quad_segs=corners)
    walls = inset(np.array([shapely.difference(outer, hole)], dtype=object), 0.5)
    if any(_overlap(part, 0.5) > 0.3 for part in shapely.get_parts(walls)):
        assert may_be_narrow(walls, inset(walls, 0.5), 0.5, 1.0)[0]


def _overlap(walls: shapely.Polygon, apart: float) -> float:
    """The area within a distance of both the outline and the hole; where there is no hole, that of what a piece as wide
    as twice the distance does not reach."""
    outline = shapely.Polygon(walls.exterior)
    inner = shapely.buffer(outline, -apart, join_style="mitre")
    if not walls.interiors:
        reached = shapely.buffer(inner, apart, join_style="mitre", mitre_limit=2)
        return shapely.difference(outline, reached).area - 0.2
    hole = shapely.Polygon(walls.interiors[0])
    round_hole = shapely.difference(shapely.buffer(hole, apart, join_style="mitre"), hole)
    return shapely.intersection(shapely.difference(outline, inner), round_hole).area
