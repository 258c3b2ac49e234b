"""A print: sections, walls, what is inside, support, plates, time, the program and the simulated printer.

Sections are held against formulas of solid geometry (any handbook of mathematics), areas against Shapely,
the program is read by an independent parser (gcodeparser), times are worked by hand.
"""

from __future__ import annotations

import json
import math
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import shapely
from gcodeparser import parse_gcode_lines

from ovolo.benches.motion import runs, times
from ovolo.benches.printing import supports
from ovolo.benches.printing.bodies import NO_SUPPORT_HERE, SUPPORT_HERE
from ovolo.benches.printing.build import Print, figures_of, print_of
from ovolo.benches.printing.filling import filled
from ovolo.benches.printing.findings import FOOT, GAPS, ISLANDS, THIN
from ovolo.benches.printing.layers import inset, rings, sections
from ovolo.benches.printing.lines import BRIM, INNER, INSIDE, OUTER, SKIN, SUPPORT
from ovolo.benches.printing.plate import footprint
from ovolo.benches.printing.printer import (
    AS_DRAWN,
    BY_SLOPE,
    CROSSING,
    EVEN,
    HEXAGONS,
    LINES,
    NOWHERE,
    TOGETHER,
    Printer,
)
from ovolo.benches.printing.program import program
from ovolo.benches.printing.simulated import SimulatedPrinter
from ovolo.command.__main__ import main
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from tests.sheets import DEMO

PLAIN = Printer(support=NOWHERE)


def made(sheet: str, printer: Printer = PLAIN, **roles: str) -> Print:
    outcome = outcome_of(f'study "t"\nunits mm, deg\n{sheet}\n', {})
    assert not outcome.problems
    return print_of(list(outcome.parts.values()), printer, roles)


def all_figures(of: Print, plate: int = 0):  # type: ignore[no-untyped-def]
    return figures_of(of, plate, range(of.layers_of(plate)))


def role(of: Print, layer: int, *roles: str, body: int = 0) -> list[np.ndarray]:
    lines = of.lines(body, range(layer, layer + 1))[0].lines
    return [line.points for line in lines if line.role in roles]


# --- sections ---


@pytest.mark.parametrize(
    ("sheet", "area"),
    [
        ("part s = sphere(20 mm)", lambda z: math.pi * (400 - (z - 20) ** 2)),
        ("part s = cone(20 mm, 40 mm, 10 mm)", lambda z: math.pi * (20 - z / 4) ** 2),
        ("part s = extrude(polygon(6, 20 mm), 40 mm)", lambda z: 3 * math.sqrt(3) / 2 * 400),
        # Of a ring lying flat: π ((R + w)² - (R - w)²), w the half width of its section there.
        (
            "part s = revolve(disc(10 mm).move(30 mm, 0 mm)).move(z = 10 mm)",
            lambda z: math.pi * 4 * 30 * math.sqrt(max(100 - (z - 10) ** 2, 0)),
        ),
    ],
)
def test_sections_against_formulas(sheet: str, area) -> None:  # type: ignore[no-untyped-def]
    of = made(sheet, replace(PLAIN, lies=AS_DRAWN))
    body = of.layered[0].body
    heights = np.linspace(2.5, float(body.size[2]) - 2.5, 17)
    found = shapely.area(sections(body.manifold, heights))
    assert found == pytest.approx([area(z) for z in heights], rel=6e-3)


@pytest.mark.parametrize(
    "sheet",
    [
        "part s = sphere(10 mm)",
        "part s = cone(20 mm, 15 mm, 5 mm)",
        "part s = box(30 mm, 20 mm, 17.3 mm) - cylinder(4 mm, 30 mm)",
    ],
)
def test_the_areas_of_layers_add_up_to_the_volume(sheet: str) -> None:
    of = made(sheet, replace(PLAIN, layer=0.1, first_layer=0.1, lies=AS_DRAWN))
    figures, _ = all_figures(of)
    summed = sum(one.area * height for one, height in zip(figures, of.heights.heights, strict=True))
    assert summed == pytest.approx(of.layered[0].body.volume, rel=4e-3)


def test_layers_by_slope_leave_no_larger_step_than_allowed() -> None:
    printer = replace(
        PLAIN, heights=BY_SLOPE, layer=0.3, least_layer=0.05, step=0.06, lies=AS_DRAWN
    )
    heights = made("part s = sphere(20 mm)", printer).heights
    assert heights.heights[0] == printer.first_layer
    assert np.all((heights.heights[1:] >= 0.05) & (heights.heights[1:] <= 0.3))
    for level, height in zip(heights.levels[5:-5], heights.heights[5:-5], strict=True):
        lean = abs(level + height / 2 - 20) / 20  # of a sphere: the z of its unit normal
        assert height * lean < 0.06 * 1.1 or height == pytest.approx(0.05)
    assert heights.heights.max() == pytest.approx(0.3), "where it stands upright"


def test_height_lost_to_layers() -> None:
    of = made("part s = box(20 mm, 20 mm, 10.05 mm)")
    # 0.3 + 49 layers of 0.2 are 10.1: 0.05 too high.
    assert of.layers_of(0) == 50 and of.lost(0) == pytest.approx(-0.05)


# --- lines ---


def bodies_of_lines(lines: list[np.ndarray], width: float) -> list[shapely.Geometry]:
    return [
        shapely.LineString(one).buffer(width / 2, cap_style="flat", join_style="mitre")
        for one in lines
    ]


def test_lines_lie_inside_and_beside_each_other() -> None:
    of = made("part s = box(40 mm, 30 mm, 6 mm) - cylinder(6 mm, 20 mm).move(z = -1 mm)")
    width = of.printer.line
    for layer in (0, 14, of.layers_of(0) - 1):
        section = of.layered[0].sections[layer]
        walls = bodies_of_lines(role(of, layer, OUTER, INNER), width)
        fill = bodies_of_lines(role(of, layer, SKIN, INSIDE), width)
        laid = shapely.union_all([*walls, *fill])
        assert laid.difference(section.buffer(1e-3)).area < 1e-3
        assert sum(one.area for one in walls) == pytest.approx(
            shapely.union_all(walls).area, rel=2e-3
        )
        assert shapely.union_all(walls).intersection(shapely.union_all(fill)).area < 1e-3 * section.area  # fmt: skip
        skin = bodies_of_lines(role(of, layer, SKIN), width)
        assert sum(one.area for one in skin) == pytest.approx(
            shapely.union_all(skin).area, abs=1e-3
        )


@pytest.mark.parametrize("pattern", [LINES, CROSSING, HEXAGONS])
@pytest.mark.parametrize("density", [0.08, 0.18, 0.5])
def test_the_density_is_that_of_the_lines(pattern: str, density: float) -> None:
    side = 300 if density < 0.3 else 120
    area = np.array([shapely.box(0, 0, side, side), shapely.Point(0, 0).buffer(side / 2)])
    fill = filled(area, pattern, density, 0.45)
    for at, one in enumerate(area):
        length = np.linalg.norm(np.diff(fill.of(at), axis=1), axis=2).sum()
        assert length * 0.45 / one.area == pytest.approx(density, rel=0.01)


def test_areas_of_several_pieces_are_all_filled() -> None:
    both = made("part s = [box(20 mm, 20 mm, 5 mm), box(20 mm, 20 mm, 5 mm).move(x = 40 mm)]", replace(PLAIN, lies=TOGETHER))  # fmt: skip
    one = made("part s = box(20 mm, 20 mm, 5 mm)")
    for of_both, of_one in zip(all_figures(both)[0], all_figures(one)[0], strict=True):
        assert of_both.volume == pytest.approx(2 * of_one.volume, rel=0.02)
        assert set(of_both.lengths) == set(of_one.lengths)


def test_what_is_near_to_air_is_solid() -> None:
    of = made("part s = box(30 mm, 30 mm, 10 mm)", replace(PLAIN, below=3, above=5))
    count = of.layers_of(0)
    solid = [bool(role(of, at, SKIN)) for at in range(count)]
    assert [at for at, one in enumerate(solid) if one] == [0, 1, 2, *range(count - 5, count)]
    assert not role(of, 0, INSIDE) and role(of, 3, INSIDE)
    steps = made("part s = box(30 mm, 30 mm, 10 mm) + box(30 mm, 15 mm, 20 mm)", replace(PLAIN, below=3, above=5))  # fmt: skip
    step = int(np.searchsorted(steps.heights.middles, 10.0)) - 1
    assert role(steps, step, SKIN) and role(steps, step, INSIDE), (
        "the step is solid, beneath the rest not"
    )


@pytest.mark.parametrize(("density", "low"), [(0.0, 0.05), (1.0, 0.94)])
def test_all_or_nothing_inside(density: float, low: float) -> None:
    of = made("part s = box(40 mm, 40 mm, 8 mm)", replace(PLAIN, density=density, above=0, below=0))
    figures, _ = all_figures(of)
    laid = sum(one.volume for one in figures)
    assert low < laid / 12_800 <= 1.02


def test_a_wall_just_one_line_wide_is_laid() -> None:
    of = made("part s = box(40 mm, 0.45 mm, 8 mm)", replace(PLAIN, lies=AS_DRAWN))
    assert role(of, 5, OUTER)
    assert [one.kind for one in all_figures(of)[1]] == [FOOT]


@pytest.mark.parametrize("cut", [1, 4, 9])
def test_pieces_of_a_print_are_those_of_the_whole(cut: int) -> None:
    of = made("part s = sphere(6 mm)", replace(PLAIN, lies=AS_DRAWN))
    count = of.layers_of(0)
    at = count * cut // 10
    whole = figures_of(of, 0, range(count))[0]
    parted = [*figures_of(of, 0, range(at))[0], *figures_of(of, 0, range(at, count))[0]]
    for one, other in zip(whole, parted, strict=True):
        assert other.volume == pytest.approx(one.volume, rel=1e-9)
        assert other.seconds == pytest.approx(one.seconds, rel=1e-9)


@pytest.mark.parametrize(
    "moved",
    [".move(70 mm, -3 mm, 44 mm)", ".turn(90°, z)", ".turn(180°, x)", ".turn(90°, y).move(1 m)"],
)
def test_where_it_stands_in_the_study_is_the_same(moved: str) -> None:
    sheet = "part s = (box(30 mm, 20 mm, 8 mm) - cylinder(4 mm, 9 mm).move(5 mm, 3 mm, -0.5 mm))"
    one, other = made(sheet), made(f"{sheet}{moved}")
    assert sorted(other.layered[0].body.size) == pytest.approx(sorted(one.layered[0].body.size))
    assert other.layers_of(0) == one.layers_of(0)
    volumes = [sum(f.volume for f in all_figures(of)[0]) for of in (one, other)]
    assert volumes[1] == pytest.approx(volumes[0], rel=0.01)


def test_ten_times_the_size_is_ten_times_the_line() -> None:
    sheet = "part s = box(30 mm, 20 mm, 8 mm) - cylinder(4 mm, 9 mm)"
    grown = replace(
        PLAIN, layer=2.0, first_layer=3.0, line=4.5, width=2200.0, depth=2200.0, height=2500.0, smaller=0.1
    )  # fmt: skip
    one, other = made(sheet), made(sheet, grown)
    assert other.layers_of(0) == one.layers_of(0)
    for small, large in zip(all_figures(one)[0], all_figures(other)[0], strict=True):
        assert large.volume == pytest.approx(1000 * small.volume, rel=1e-3)
    assert other.printer.check() is None


# --- support and roles ---

TABLE = "part s = box(40 mm, 40 mm, 4 mm).move(z = 20 mm) + cylinder(4 mm, 20 mm)"


def test_support_stands_beneath_overhangs() -> None:
    of = made(TABLE, Printer(lies=AS_DRAWN))
    under = of.layered[0].supports[10]
    # All of the top but its foot, the gap about it, and what the angle lets lean out.
    assert under.area == pytest.approx(1600 - math.pi * 4.4**2, rel=0.02)
    assert under.intersection(of.layered[0].sections[10]).area == 0
    assert role(of, 10, SUPPORT) and not role(of, of.layers_of(0) - 1, SUPPORT)
    assert not made(TABLE).layered[0].supports[10].area, "nowhere, where that is said"


def test_support_has_no_hole_that_no_line_goes_round() -> None:
    """About the limit of the angle layers ask for crumbs of support, which grow together."""
    of = made("part s = sphere(30 mm)", Printer(lies=AS_DRAWN, layer=0.1, first_layer=0.1))
    parts = [part for area in of.layered[0].supports for part in shapely.get_parts(area)]
    holes = [shapely.Polygon(ring).area for part in parts for ring in part.interiors]
    assert len(holes) > 20, "the body stands in it"
    assert min(holes) >= of.printer.line**2


def test_a_steep_face_needs_none() -> None:
    sheet = "part s = cone(5 mm, 20 mm, 25 mm)"
    leaning = math.degrees(math.atan(20 / 20))
    free = made(sheet, Printer(lies=AS_DRAWN, overhang=math.radians(leaning + 1)))
    held = made(sheet, Printer(lies=AS_DRAWN, overhang=math.radians(leaning - 5)))
    assert shapely.area(free.layered[0].supports).sum() == 0
    assert shapely.area(held.layered[0].supports).sum() > 0


@pytest.mark.parametrize("sheet", [
    "part s = sphere(12 mm)",
    "part s = box(20 mm, 14 mm, 9 mm).turn(33°, (1, 0.4, 0))",
    "part s = cylinder(3 mm, 20 mm) + cylinder(10 mm, 3 mm).move(z = 17 mm)",
    "part s = box(30 mm, 30 mm, 30 mm) - box(20 mm, 20 mm, 20 mm).move(z = 5 mm) + cone(4 mm, 0 mm, 14 mm).turn(180°, (1, 0, 0)).move(z = 24.9 mm)",
    "part s = box(10 mm, 10 mm, 30 mm) + cone(8 mm, 0.2 mm, 12 mm).turn(180°, (1, 0, 0)).move(12 mm, z = 25 mm) + box(14 mm, 4 mm, 4 mm).move(6 mm, z = 25 mm)",
])  # fmt: skip
def test_what_lies_on_air_is_found_though_few_layers_are_looked_at(
    sheet: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Where the surface leans no further than it may, and nothing begins, no layer is compared with the
    one below: it is the same as if each were."""
    of = made(sheet, replace(PLAIN, lies=AS_DRAWN))
    body, areas, heights = of.layered[0].body, of.layered[0].sections, of.heights
    few = supports.overhanging(body, areas, heights, PLAIN)
    monkeypatch.setattr(
        supports, "_leans_out", lambda body, middles, reach: np.ones(len(reach), bool)
    )
    every = supports.overhanging(body, areas, heights, PLAIN)
    assert shapely.area(every).sum() > 0
    assert shapely.area(few) == pytest.approx(shapely.area(every), abs=PLAIN.line**2)


def test_areas_say_where_support_stands_and_where_not() -> None:
    sheet = f"{TABLE}\npart left = box(15 mm, 40 mm, 30 mm).move(x = -12.5 mm) for no support\npart pad = box(5 mm, 5 mm, 8 mm).move(60 mm, 0 mm) for support"  # fmt: skip
    of = made(sheet, Printer(lies=AS_DRAWN))
    under = of.layered[0].supports[10]
    assert under.intersection(shapely.box(0, 0, 15, 40)).area < 1e-6
    assert under.intersection(shapely.box(30, 0, 40, 40)).area == pytest.approx(400, rel=0.02)
    assert len(of.layered) == 1, "areas are not printed"
    aside = made("part s = box(20 mm, 20 mm, 10 mm)\npart pad = box(5 mm, 5 mm, 4 mm).move(x = 10.5 mm) for support", PLAIN)  # fmt: skip
    assert aside.layered[0].supports[5].area == pytest.approx(5 * (3 - 0.4), rel=0.05)
    assert shapely.is_empty(aside.layered[0].supports[30]), "as high as the area"


def test_a_role_of_the_bench_goes_before_that_of_the_sheet() -> None:
    sheet = f"{TABLE}\npart pad = box(15 mm, 40 mm, 30 mm)"
    assert len(made(sheet, Printer(lies=AS_DRAWN)).layered) == 2
    of = made(sheet, Printer(lies=AS_DRAWN), pad=NO_SUPPORT_HERE)
    assert len(of.layered) == 1
    with pytest.raises(Failure, match="there is no part `gone`"):
        made(sheet, gone=SUPPORT_HERE)
    with pytest.raises(Failure, match="cannot be `both`"):
        made(sheet, pad="both")


def test_a_flat_part_is_no_area() -> None:
    outcome = outcome_of('study "t"\nunits mm, deg\npart s = rect(5 mm, 5 mm) for support\n', {})
    assert "only a solid is an area for support" in outcome.problems[0].message


# --- what is looked for ---


def kinds(of: Print) -> set[str]:
    return {one.kind for one in all_figures(of)[1]}


def test_what_is_amiss_is_found() -> None:
    assert kinds(made("part s = box(40 mm, 40 mm, 5 mm)")) == set()
    assert kinds(made("part s = box(20 mm, 20 mm, 5 mm) + box(20 mm, 0.3 mm, 5 mm).move(x = 19 mm)")) == {THIN}  # fmt: skip
    gap = "part s = box(20 mm, 20 mm, 5 mm) - box(30 mm, 0.3 mm, 9 mm).move(12 mm, 0 mm, -1 mm)"
    assert kinds(made(gap)) == {GAPS}
    arch = "part s = box(20 mm, 20 mm, 20 mm) - box(16 mm, 30 mm, 16 mm).move(z = 2 mm) + box(2 mm, 2 mm, 6 mm).move(z = 8 mm)"  # fmt: skip
    assert ISLANDS in kinds(made(arch, replace(PLAIN, lies=TOGETHER)))
    assert ISLANDS not in kinds(made(arch, Printer(lies=TOGETHER))), "it stands on support"
    assert kinds(made("part s = cylinder(2 mm, 30 mm)")) == {FOOT}
    assert kinds(made("part s = cylinder(2 mm, 30 mm)", replace(PLAIN, brim=8))) == set()


def test_what_floats_is_an_island_and_air_is_none() -> None:
    """A body of two pieces with air between: the layers of air hold nothing, and nothing is amiss in them."""
    floats = "part s = box(20 mm, 20 mm, 5 mm) + box(10 mm, 10 mm, 5 mm).move(z = 10 mm)"
    found = all_figures(made(floats, replace(PLAIN, lies=TOGETHER)))[1]
    (island,) = [one for one in found if one.kind == ISLANDS]
    assert island.area == pytest.approx(100) and island.width == pytest.approx(5)
    assert {one.layer for one in found} == {island.layer}
    assert kinds(made(floats, Printer(lies=TOGETHER))) == set(), "it stands on support"


def test_a_brim_surrounds_the_foot() -> None:
    of = made("part s = box(20 mm, 20 mm, 5 mm)", replace(PLAIN, brim=5))
    found = role(of, 0, BRIM)
    assert len(found) == 5 and not role(of, 1, BRIM)
    outermost = shapely.Polygon(found[0])
    assert outermost.bounds == pytest.approx((-4.5 * 0.45, -4.5 * 0.45, 20 + 4.5 * 0.45, 20 + 4.5 * 0.45))  # fmt: skip


# --- plates ---


def test_pieces_lie_apart_and_on_the_plate() -> None:
    of = made("part s = [box(60 mm, (10 + 5 * i) * 1 mm, 5 mm) for i in 0 .. 11]", replace(PLAIN, brim=3))  # fmt: skip
    assert len(of.places) == 12
    for plate in range(of.plates):
        boxes = []
        for one in (place for place in of.places if place.plate == plate):
            across, deep = footprint(of.layered[one.body].body, one)
            boxes.append(shapely.box(one.x, one.y, one.x + across, one.y + deep))
        rim = 3 * 0.45
        assert all(box.within(shapely.box(rim, rim, 220 - rim, 220 - rim)) for box in boxes)
        for at, box in enumerate(boxes):
            assert all(box.distance(other) >= 5.0 + 2 * rim - 2e-3 for other in boxes[:at])


def test_equal_pieces_are_worked_out_once() -> None:
    of = made(
        "part s = [box(30 mm, 20 mm, 5 mm).turn(i * 30°, z).move(x = i * 90 mm) for i in 0 .. 5]"
    )
    assert len(of.layered) == 1 and of.layered[0].body.count == 6
    drawn = made("part s = [box(30 mm, 20 mm, 5 mm).turn(i * 30°, z) for i in 0 .. 2]", replace(PLAIN, lies=AS_DRAWN))  # fmt: skip
    assert len(drawn.layered) == 3


def test_what_is_too_large_says_by_how_much() -> None:
    of = made("part a = box(300 mm, 20 mm, 5 mm)\npart b = box(30 mm, 20 mm, 5 mm)")
    assert [one.message for one in of.refused] == [
        "a is 300 × 20 × 5 mm as it lies; the plate takes 220 × 220 × 250 mm: too large by 80 mm"
    ]
    assert of.refused[0].hint == "1.4 times smaller, or a larger printer"
    with pytest.raises(Failure, match="too large by 80 mm"):
        made("part a = box(300 mm, 20 mm, 5 mm)")
    assert made("part a = box(300 mm, 20 mm, 5 mm)", replace(PLAIN, smaller=1.4)).places
    assert made("part a = box(215 mm, 5 mm, 2 mm).turn(90°, z)").places


def test_it_lies_on_its_largest_flat_face() -> None:
    of = made("part s = box(10 mm, 40 mm, 30 mm).turn(33°, x).turn(21°, z)")
    assert of.layered[0].body.size[2] == pytest.approx(10)
    # A bowl lies on its rim or its foot, whichever is the larger face; a hollow face is none to lie on.
    bowl = made("part s = box(40 mm, 40 mm, 30 mm) - box(36 mm, 36 mm, 30 mm).move(z = 3 mm)")
    assert float(shapely.area(bowl.layered[0].sections[0])) == pytest.approx(1600)
    assert made("part s = sphere(10 mm)").layered[0].body.size == pytest.approx(
        [20, 20, 20], rel=5e-3
    )


# --- time ---


def test_the_time_of_a_move_by_hand() -> None:
    # 60 mm/s at 500 mm/s²: 0.12 s and 3.6 mm to speed up, as much to slow down.
    # 30 mm: 7.2 mm ramping in 0.24 s, 22.8 mm at 60 mm/s in 0.38 s.
    assert times(np.array([30.0]), 60, 500) == pytest.approx([0.62])
    # 2 mm: never at speed; half of it speeding up: t = 2 √(2 / 500).
    assert times(np.array([2.0]), 60, 500) == pytest.approx([2 * math.sqrt(2 / 500)])
    corner = np.array([[0, 0], [10, 0], [20, 0], [20, 30]])
    assert runs(corner) == pytest.approx([20, 30]), "a straight corner is none"
    circle = np.array([[math.cos(a), math.sin(a)] for a in np.linspace(0, 2 * math.pi, 100)])
    assert len(runs(circle)) == 1, "round a circle it does not stop"


# --- the program and the simulated printer ---


def test_the_simulated_printer_agrees() -> None:
    of = made(
        "part s = sphere(9 mm)\npart t = box(20 mm, 30 mm, 4 mm)", Printer(lies=AS_DRAWN, brim=2)
    )
    figures, _ = all_figures(of)
    machine = SimulatedPrinter(of.printer)
    laid = machine.run(program(of, 0, "Two (bodies)\n; M2"))
    assert laid.volume == pytest.approx(sum(one.volume for one in figures), rel=1e-4)
    assert laid.line == pytest.approx(sum(sum(one.lengths.values()) for one in figures), rel=1e-4)
    assert laid.seconds == pytest.approx(sum(one.seconds for one in figures), rel=1e-3)
    assert laid.levels == of.layers_of(0)


@pytest.mark.parametrize(
    "sheet",
    [
        "part s = box(3 mm, 2 mm, 3 mm)",
        "part s = box(3 mm, 2 mm, 1 mm)\npart t = ring(extrude(polygon(3, 2 mm), 2.1 mm).move(9 mm), 7)",
    ],
)
@pytest.mark.parametrize("heights", [EVEN, BY_SLOPE])
def test_of_a_small_print_the_ways_are_most_of_the_time(sheet: str, heights: str) -> None:
    """Up to each layer, to its first line, and from body to body."""
    of = made(sheet, replace(PLAIN, heights=heights))
    count = of.layers_of(0)
    parted = [figures_of(of, 0, range(at, at + 1))[0][0].seconds for at in range(count)]
    laid = SimulatedPrinter(of.printer).run(program(of, 0, "Small"))
    assert laid.seconds == pytest.approx(sum(parted), rel=1e-3)


def test_an_independent_parser_reads_the_program() -> None:
    of = made("part s = box(20 mm, 15 mm, 4 mm)")
    figures, _ = all_figures(of)
    lines = list(parse_gcode_lines("\n".join(program(of, 0, "Box"))))
    moves = [one for one in lines if one.command == ("G", 1)]
    fed = sum(one.get_param("E") for one in moves)
    assert fed * of.printer.thread_area == pytest.approx(
        sum(one.volume for one in figures), rel=1e-3
    )
    x = [one.get_param("X") for one in moves]
    assert max(x) - min(x) == pytest.approx(20 - of.printer.line, abs=2e-3)
    heights = [one.get_param("Z") for one in lines if one.command == ("G", 0) and one.get_param("Z") is not None]  # fmt: skip
    assert len(heights) == of.layers_of(0) and all(a < b for a, b in pairwise(heights))


def test_material_is_volume_times_density() -> None:
    of = made("part s = box(40 mm, 40 mm, 10 mm)", replace(PLAIN, density=1.0))
    laid = SimulatedPrinter(of.printer).run(program(of, 0, "Box"))
    # 16 cm³ at 1.24 g/cm³ are 19.84 g; a solid print lays nearly all of it.
    assert laid.volume * of.printer.material == pytest.approx(0.01984, rel=0.06)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("G1 X10 Y10 E1", "a move without a speed"),
        ("G0 X500 Y10 F60", "line 1: X 500 mm lies off the plate"),
        ("G38.2 X1", "this printer has no G38.2"),
        ("M600", "does not know M600"),
        ("G1 X1 X2 F60", "says a letter twice"),
        ("G1 Xten F60", "`Xten` is no word"),
        ("(" * 300, "longer than 256"),
        ("G1 X1,5 F60", "is no word"),
    ],
)
def test_a_program_that_makes_no_sense_is_refused(line: str, said: str) -> None:
    with pytest.raises(Failure, match=said):
        SimulatedPrinter(Printer()).run([line])


def test_every_piece_with_an_area_of_its_own_is_a_body_of_its_own() -> None:
    sheet = "part s = [box(20 mm, 20 mm, 10 mm).move(x = i * 40 mm) for i in 0 .. 5]\npart pads = [box(5 mm, 5 mm, 2 mm + i * 1 mm).move(x = i * 40 mm + 10.5 mm) for i in 0 .. 5] for support"  # fmt: skip
    of = made(sheet)
    assert len(of.layered) == 6 and all(one.body.count == 1 for one in of.layered)
    highest = [int(np.flatnonzero(~shapely.is_empty(one.supports)).max()) for one in of.layered]
    assert highest == sorted(highest) and len(set(highest)) == 6


def test_a_plate_of_nothing_is_no_plate() -> None:
    of = made("part a = box(200 mm, 200 mm, 0.1 mm)\npart b = box(190 mm, 190 mm, 5 mm)")
    assert of.plates == 1 and of.layers_of(0) and of.route(0)


def test_what_is_too_low_for_a_layer_is_told() -> None:
    of = made("part a = box(20 mm, 20 mm, 0.1 mm)\npart b = box(20 mm, 20 mm, 5 mm)")
    assert [one.body.label for one in of.layered] == ["b"]
    assert "a is 0.1 mm high, less than half of the first layer" in of.refused[0].message
    assert all_figures(of)[0]


def test_nothing_to_print() -> None:
    with pytest.raises(Failure, match="nothing to print"):
        made("part s = rect(20 mm, 30 mm)")
    with pytest.raises(Failure, match="nothing is as high as half of the first layer"):
        made("part s = box(20 mm, 30 mm, 0.1 mm)")
    with pytest.raises(Failure, match="2,501 pieces are too many"):
        made("part s = [box(1 mm, 1 mm, 1 mm).move(x = i * 2 mm) for i in 0 .. 2500]")
    with pytest.raises(Failure, match=r"layers of 0\.01 mm are 24,9"):
        made("part s = box(20 mm, 30 mm, 249.3 mm)", replace(PLAIN, layer=0.01, lies=AS_DRAWN))


def test_rings_of_several_areas() -> None:
    area = np.array([shapely.MultiPolygon([shapely.box(0, 0, 1, 1), shapely.box(2, 0, 3, 1)]), shapely.box(0, 0, 4, 4)])  # fmt: skip
    assert rings(area)[1].tolist() == [0, 0, 1]
    assert shapely.area(inset(area, 0.25)).tolist() == pytest.approx([0.5, 12.25])


def test_the_command(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    target = tmp_path / "gear.gcode"
    gear = str(DEMO / "06-dome-drive-gear.ovo")
    assert main(["print", gear, "--with", "layer=0.7", "--with", "line=1.5 mm", "--to", str(target)]) == 0  # fmt: skip
    said = capsys.readouterr().out
    assert "29 layers" in said and "1 × Wheel: 0.1 mm lost to layers" in said
    laid = SimulatedPrinter(Printer()).run(target.read_text("ascii").splitlines())
    assert main(["print", gear, "--with", "layer=0.7", "--with", "line=1.5 mm", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert laid.volume == pytest.approx(told["volume"], rel=1e-4) and told["layers"] == 29
    assert main(["print", gear, "--plate", "2"]) == 2
    assert "there is no plate 2" in capsys.readouterr().err
    own = tmp_path / "mine.toml"
    own.write_text('[layers]\nlayer = "9 kg"', encoding="utf-8")
    assert main(["print", gear, "--profile", str(own)]) == 2
