"""Flat pieces on sheets: nested, cut, and measured by the simulated cutter.

Nests are held against Shapely and against bounds by area; files are read back by ezdxf, svgpathtools,
gcodeparser and pypdf; times are worked by hand. The mixed pieces are invented.
"""

from __future__ import annotations

import csv
import io
import json
import math
import random
import re
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import ezdxf
import numpy as np
import pypdf
import pytest
import shapely
import svgpathtools
from gcodeparser import parse_gcode_lines
from hypothesis import given
from hypothesis import strategies as st

from ovolo.benches.cutting import nesting
from ovolo.benches.cutting.cutter import ACROSS, ALONG, OUTLINES, QUARTERS, RECTANGLES, Cutter
from ovolo.benches.cutting.flat_pieces import flat_pieces
from ovolo.benches.cutting.nesting import Nest
from ovolo.benches.cutting.outputs import (
    write_code,
    write_dxf,
    write_labels,
    write_list,
    write_svg,
)
from ovolo.benches.cutting.plan import LEFT_OUT, CutPlan, NothingCut, cut_plan
from ovolo.benches.cutting.program import program
from ovolo.benches.cutting.routes import HOLE, OUTLINE
from ovolo.benches.cutting.simulated import SimulatedCutter, largest, measured
from ovolo.command.__main__ import main
from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.part import Part
from ovolo.outcome.schedule import schedule
from ovolo.problems import Failure
from tests.sheets import DEMO

SMALL = Cutter(width=600, height=400, margin=5, nested=RECTANGLES)


def parts_of(sheet: str) -> list[Part]:
    outcome = outcome_of(f'study "t"\nunits mm, deg\n{sheet}\n', {})
    assert not outcome.problems, outcome.problems
    return list(outcome.parts.values())


def plan(sheet: str, cutter: Cutter = SMALL, work: int = 500, **roles: str) -> CutPlan:
    return cut_plan(parts_of(sheet), cutter, roles, work)


def check_apart(nest: Nest) -> None:
    """All within the sheets and apart."""
    cutter = nest.cutter
    room = shapely.box(cutter.margin, cutter.margin, cutter.width - cutter.margin, cutter.height - cutter.margin)  # fmt: skip
    for sheet in range(nest.sheets):
        figures = [nest.figure(one) for one in nest.on(sheet)]
        assert all(shapely.buffer(room, 1e-3).contains(one) for one in figures)
        for at, one in enumerate(figures):
            assert all(one.distance(other) >= cutter.apart - 2e-3 for other in figures[:at])


def mixed_rectangles(number: int) -> str:
    dice = random.Random(11)
    return "\n".join(f"part r{at} = rect({dice.randint(40, 300)} mm, {dice.randint(20, 180)} mm)" for at in range(number))  # fmt: skip


# --- which pieces, and how they lie ---


def test_flat_pieces_are_those_of_the_schedule() -> None:
    parts = parts_of(
        "part a = [extrude(slot(60 mm, 12 mm), 3 mm).turn(i * 40°, x) for i in 0 .. 2]\n"
        "part b = rect(20 mm, 80 mm)\n"
        "part c = box(9 mm, 200 mm, 40 mm)\n"
        "part d = sphere(20 mm)"
    )
    found, refused = flat_pieces(parts)
    assert [(one.mark, one.piece.quantity, one.thickness) for one in found] == [("A", 3, pytest.approx(3)), ("B", 1, None), ("C", 1, 9)]  # fmt: skip
    assert [one.mark for one in schedule(parts)] == ["A", "B", "C", "D"]
    assert [one.size.tolist() for one in found] == [pytest.approx([84, 24]), [80, 20], pytest.approx([200, 40])]  # fmt: skip
    assert all(one.region.exact for one in found) and len(found[0].region.outlines[0].pieces) == 4
    assert refused[0].message == "D d is no flat piece: it is not of one thickness"


def test_a_piece_that_is_known_by_its_mesh() -> None:
    found, _ = flat_pieces(parts_of("part a = convex_hull([cylinder(10 mm, 4 mm), cylinder(5 mm, 4 mm).move(x = 40 mm)]).turn(30°, y)"))  # fmt: skip
    assert found[0].thickness == pytest.approx(4)
    # Two circles and their outer tangents (Descartes): the area by parts.
    d, r, s = 40.0, 10.0, 5.0
    lean = math.asin((r - s) / d)
    area = (
        (r + s) * d * math.cos(lean) + r * r * (math.pi / 2 + lean) + s * s * (math.pi / 2 - lean)
    )
    assert found[0].region.area == pytest.approx(area, rel=5e-3)


def test_mirror_images_are_cut_as_they_are() -> None:
    lefts = "rect(60 mm, 30 mm) - rect(10 mm, 10 mm).move(20 mm, 8 mm)"
    found, _ = flat_pieces(parts_of(f"part a = extrude({lefts}, 3 mm)\npart b = extrude({lefts}, 3 mm).mirror(x)"))  # fmt: skip
    plain, other = (
        shapely.Polygon(one.region.rings()[0], [one.region.rings()[1]]) for one in found
    )
    assert plain.area == pytest.approx(other.area)
    assert plain.symmetric_difference(other).area > 1


# --- nests ---


@pytest.mark.parametrize("grain", [None, ALONG, ACROSS])
@pytest.mark.parametrize("by", [RECTANGLES, OUTLINES])
def test_pieces_lie_apart_and_inside(by: str, grain: str | None) -> None:
    cutter = replace(SMALL, nested=by, apart=4, **({"grain": grain} if grain else {}))
    made = plan("part t = [polygon(3, 60 mm) for i in 0 .. 3]\npart l = [rect(120 mm, 70 mm) - rect(80 mm, 40 mm).move(25 mm, 20 mm) for i in 0 .. 1]", cutter)  # fmt: skip
    (nest,) = [nest for _, nest in made.nests]
    assert len(nest.laid) == 6
    check_apart(nest)
    if grain:
        assert {one.turn for one in nest.laid} <= ({0, 180} if grain == ALONG else {90, 270})


def test_mixed_rectangles_use_most_of_the_sheets() -> None:
    cutter = Cutter(width=1220, height=610, margin=0, apart=0.5, lead=0.2, nested=RECTANGLES)
    (nest,) = [nest for _, nest in plan(mixed_rectangles(120), cutter).nests]
    check_apart(nest)
    assert nest.taken >= 0.88
    assert nest.sheets == math.ceil(nest.area / (1220 * 610)), "by area there can be no fewer"


def test_outlines_are_laid_in_hollows_and_holes() -> None:
    sheet = "part big = disc(150 mm) - disc(120 mm)\npart t = [polygon(3, 60 mm) for i in 0 .. 7]\npart d = [disc(30 mm) for i in 0 .. 9]"  # fmt: skip
    by_rectangles = plan(sheet).nests[0][1]
    by_outlines = plan(sheet, replace(SMALL, nested=OUTLINES)).nests[0][1]
    check_apart(by_outlines)
    assert by_outlines.by == "outlines" and by_outlines.taken >= by_rectangles.taken + 0.05
    hole = next(shapely.Polygon(by_outlines.figure(one).interiors[0]) for one in by_outlines.laid if by_outlines.pieces[one.piece].piece.part == "big")  # fmt: skip
    assert any(hole.contains(by_outlines.figure(one)) for one in by_outlines.laid)


def test_what_is_turned_finely_finds_more_places() -> None:
    """A strip of 460 mm on a square sheet of 400 mm lies along its diagonal or nowhere: turned by 45° it
    reaches (460 + 12) / √2 = 333.8 mm each way. Five-sided pieces that are turned by 30° take no more."""
    square = replace(SMALL, width=400, height=400, nested=OUTLINES)
    strip = "part s = rect(460 mm, 12 mm)"
    with pytest.raises(Failure, match=r"too large by 70 mm"):
        plan(strip, square)
    with pytest.raises(Failure, match=r"too large by 70 mm"):
        plan(strip, replace(square, turned="45°", nested=RECTANGLES))
    (nest,) = [nest for _, nest in plan(strip, replace(square, turned="45°")).nests]
    check_apart(nest)
    assert nest.laid[0].turn % 90 == 45
    assert np.ptp(np.array(nest.figure(nest.laid[0]).exterior.coords), axis=0) == pytest.approx([472 / math.sqrt(2)] * 2)  # fmt: skip
    fives = "part f = [polygon(5, 55 mm) for i in 0 .. 2]"
    quarters, finely = (plan(fives, replace(square, turned=by)).nests[0][1] for by in (QUARTERS, "30°"))  # fmt: skip
    check_apart(finely)
    assert (finely.sheets, finely.reached(finely.sheets - 1)) <= (quarters.sheets, quarters.reached(quarters.sheets - 1))  # fmt: skip
    with_grain = plan(fives, replace(square, turned="30°", grain=ALONG)).nests[0][1]
    assert {one.turn for one in with_grain.laid} <= {0, 180}


@given(
    sides=st.lists(st.tuples(st.integers(10, 390), st.integers(10, 290)), min_size=1, max_size=14)
)
def test_any_rectangles_lie_apart_and_inside(sides: list[tuple[int, int]]) -> None:
    sheet = "\n".join(f"part r{at} = rect({w} mm, {h} mm)" for at, (w, h) in enumerate(sides))
    (nest,) = [nest for _, nest in plan(sheet).nests]
    assert sorted(nest.pieces[one.piece].piece.part for one in nest.laid) == sorted(f"r{at}" for at in range(len(sides)))  # fmt: skip
    check_apart(nest)
    assert nest.sheets >= math.ceil(nest.area / (590 * 390))


def test_it_is_told_how_far_a_nest_is() -> None:
    """Through all orders in which pieces are laid, of both thicknesses, and never backwards."""
    sheet = "\n".join(
        f"part {name} = [extrude(polygon({sides}, 40 mm), {thick} mm).move(i * 90 mm) for i in 0 .. 3]"
        for name, sides, thick in (("a", 5, 3), ("b", 3, 6))
    )
    shares: list[float] = []
    cut_plan(parts_of(sheet), replace(SMALL, nested=OUTLINES), {}, told=shares.append)
    assert shares[0] == 0 and shares == sorted(shares) and 0.8 < shares[-1] < 1
    assert any(share < 0.5 for share in shares)


@pytest.mark.parametrize("by", [RECTANGLES, OUTLINES])
def test_it_is_told_how_far_rectangles_are_packed(by: str) -> None:
    """Many different pieces take long to pack, also where no work is left for laying them by their outlines."""
    shares: list[float] = []
    cut_plan(parts_of(mixed_rectangles(40)), replace(SMALL, nested=by), {}, 10, told=shares.append)
    assert shares == sorted(shares) and shares[0] == 0
    assert max(after - before for before, after in pairwise([*shares, 1.0])) < 0.21


def test_it_is_told_how_far_one_piece_is_that_is_turned_finely() -> None:
    shares: list[float] = []
    finely = replace(SMALL, nested=OUTLINES, turned="15°")
    cut_plan(parts_of("part a = polygon(5, 90 mm)"), finely, {}, told=shares.append)
    assert shares == sorted(shares) and len(set(shares)) > 20


def test_a_nest_is_the_same_each_time(monkeypatch: pytest.MonkeyPatch) -> None:
    sheet = "part t = [polygon(3, 60 mm) for i in 0 .. 5]\npart d = [disc(30 mm) for i in 0 .. 4]"
    laid = [
        plan(sheet, replace(SMALL, nested=OUTLINES), work=work).nests[0][1].laid
        for work in (500, 500, 0)
    ]
    assert laid[0] == laid[1] != laid[2]


def test_pieces_that_fill_a_sheet_have_one_each() -> None:
    made = plan("part p = [rect(590 mm, 390 mm) for i in 0 .. 2]", replace(SMALL, nested=OUTLINES))
    assert made.nests[0][1].sheets == len(made.sheets) == 3


def test_thicknesses_have_sheets_of_their_own() -> None:
    made = plan("part a = box(100 mm, 50 mm, 3 mm)\npart b = box(100 mm, 50 mm, 6 mm)\npart c = rect(9 mm, 9 mm)")  # fmt: skip
    assert [sheet.thickness for sheet in made.sheets] == [3, 6, None]
    left = plan("part a = box(100 mm, 50 mm, 3 mm)\npart b = box(100 mm, 50 mm, 6 mm)", b=LEFT_OUT)
    assert len(left.sheets) == 1


# --- the way of the tool ---

PLATE = "part p = rect(120 mm, 80 mm).round_corners(6 mm) - disc(10 mm).move(30 mm, 20 mm) - slot(20 mm, 4 mm).move(-20 mm, -10 mm)"
RING = "part ring = disc(80 mm) - disc(60 mm)\npart inside = disc(30 mm) - disc(9 mm)"


def test_what_lies_within_is_cut_first() -> None:
    made = plan(RING, replace(SMALL, nested=OUTLINES, height=180))
    (sheet,) = made.sheets
    order = [(sheet.nest.pieces[sheet.nest.laid[cut.laid].piece].piece.part, cut.kind) for cut in sheet.cuts]  # fmt: skip
    assert order == [("inside", HOLE), ("inside", OUTLINE), ("ring", HOLE), ("ring", OUTLINE)]


@pytest.mark.parametrize(
    "cutter",
    [
        SMALL,
        replace(SMALL, kerf=1.5, apart=5),
        replace(SMALL, kerf=0.0),
        replace(SMALL, lead=0.0, pierce=0.0),
        replace(SMALL, kerf=6.0, apart=12, lead=5, margin=8),
        replace(SMALL, nested=OUTLINES, turned="30°"),
    ],
    ids=["laser", "plasma", "nothing", "no lead", "router", "askew"],
)
def test_what_falls_out_is_the_design(cutter: Cutter) -> None:
    sheet = f"{PLATE}\npart t = [polygon(5, 40 mm) for i in 0 .. 1]\npart w = [extrude(disc(35 mm) - rect(20 mm, 20 mm), 2 mm).turn(i * 35°, x) for i in 0 .. 1]"  # fmt: skip
    made = plan(sheet, cutter)
    for one in made.sheets:
        machine = SimulatedCutter(cutter)
        machine.run(program(one.nest, one.number, one.cuts, "t"))
        found = measured(one.nest, one.number, machine)
        assert all(piece.is_free for piece in found) and len(found) == len(one.laid)
        assert largest(found) <= 0.01
        # A round cut leaves (√2 - 1) r in a square inside corner.
        square = max(piece.corner for piece in found)
        expected = (math.sqrt(2) - 1) * cutter.kerf / 2 if one.thickness else 0.0
        assert square == pytest.approx(expected, abs=1.5e-3)
        assert machine.length == pytest.approx(one.effort.length, rel=1e-3)
        assert machine.seconds == pytest.approx(one.effort.seconds, rel=1e-3)
        assert machine.pierces == one.effort.pierces


def test_a_design_that_is_cut_wrong_is_noticed() -> None:
    (sheet,) = plan(PLATE, replace(SMALL, kerf=1.0)).sheets
    lines = list(program(sheet.nest, sheet.number, sheet.cuts, "t"))
    thick = SimulatedCutter(replace(SMALL, kerf=1.2))
    thick.run(lines)
    assert largest(measured(sheet.nest, 0, thick)) == pytest.approx(0.1, abs=5e-3)
    half = SimulatedCutter(replace(SMALL, kerf=1.0))
    half.run(lines[: len(lines) - 6])
    assert not measured(sheet.nest, 0, half)[0].is_free


def test_tabs_hold_a_piece() -> None:
    cutter = replace(SMALL, tabs=4, tab=2.0)
    (sheet,) = plan(PLATE, cutter).sheets
    machine = SimulatedCutter(cutter)
    machine.run(program(sheet.nest, 0, sheet.cuts, "t"))
    (found,) = measured(sheet.nest, 0, machine)
    # The cut ends round, so that at the outline a little more is left than along the way of the tool.
    assert found.uncut == pytest.approx(4 * 2.1, rel=0.02) and found.off <= 0.01
    with pytest.raises(Failure, match="tabs of 20 mm leave less than half of the outline"):
        plan(PLATE, replace(SMALL, tabs=10, tab=20.0))


@pytest.mark.parametrize(
    "outline", ["disc(40 mm)", "polygon(5, 40 mm)", "(disc(40 mm) & rect(60 mm, 90 mm))"]
)
def test_over_a_tab_it_goes_on_as_it_cuts(outline: str) -> None:
    """Round what is round, and with a stop in a corner that a tab lies over."""
    cutter = replace(SMALL, tabs=5, tab=12.0)
    (sheet,) = plan(f"part p = {outline}", cutter).sheets
    machine = SimulatedCutter(cutter)
    machine.run(program(sheet.nest, 0, sheet.cuts, "t"))
    assert machine.seconds == pytest.approx(sheet.effort.seconds, rel=1e-4)
    assert machine.length == pytest.approx(sheet.effort.length, rel=1e-4)
    assert machine.travel == pytest.approx(sheet.effort.travel, rel=1e-4)
    (cut,) = sheet.cuts
    assert machine.length == pytest.approx(cut.path.length + 2.0 - 5 * 12.2, rel=1e-4)


def test_a_lead_in_begins_in_what_falls_away() -> None:
    (sheet,) = plan(PLATE, replace(SMALL, lead=2.8)).sheets
    figure = sheet.nest.figure(sheet.nest.laid[0])
    for cut in sheet.cuts:
        assert cut.lead is not None and not figure.contains(shapely.Point(cut.lead[:2]))
        assert 0 < np.linalg.norm(cut.lead - cut.path.start) <= 2.8 + 1e-9


def test_the_time_by_hand() -> None:
    # A square of 100 mm, the tool on its line: 4 sides of which the first is begun in its middle, so five
    # moves: 50, 100, 100, 100, 50 mm at 20 mm/s and 1000 mm/s²: L/v + v/a each; to pierce 0.5 s; the way
    # there at 300 mm/s: longer than v²/a = 90 mm or not.
    cutter = replace(SMALL, kerf=0.0, lead=0.0, margin=0)
    (sheet,) = plan("part p = rect(100 mm, 100 mm)", cutter).sheets
    (cut,) = sheet.cuts
    way = float(np.hypot(*cut.start[:2]))
    there = way / 300 + 300 / 1000 if way >= 90 else 2 * math.sqrt(way / 1000)
    assert sheet.effort.seconds == pytest.approx(400 / 20 + 5 * 20 / 1000 + 0.5 + there)
    assert sheet.effort.length == pytest.approx(400)


# --- files ---


def test_files_are_read_back() -> None:
    made = plan(PLATE, replace(SMALL, kerf=0.3))
    (sheet,) = made.sheets
    drawing = ezdxf.read(io.StringIO(write_dxf(sheet).decode()))
    space = drawing.modelspace()
    layers = {one.dxf.layer for one in space}
    assert layers == {"sheet", "pieces", "cuts", "marks"}
    assert [one.dxf.text for one in space.query("TEXT")] == ["A"]
    (stock,) = space.query("*[layer=='sheet']")
    assert shapely.Polygon([(x, y) for x, y, *_ in stock.get_points()]).area == pytest.approx(
        600 * 400
    )
    circles = space.query("CIRCLE[layer=='pieces']")
    assert [one.dxf.radius for one in circles] == [pytest.approx(10)]
    paths, attributes = svgpathtools.svgstr2paths(write_svg(sheet).decode())
    assert len(paths) == len(attributes)
    lengths = sorted(path.length() for path in paths)
    assert any(length == pytest.approx(2 * math.pi * 10, rel=1e-4) for length in lengths)
    rows = list(csv.DictReader(io.StringIO(write_list(made).decode())))
    assert [(row["mark"], row["length [mm]"], row["width [mm]"]) for row in rows] == [("A", "120", "80")]  # fmt: skip
    said = pypdf.PdfReader(io.BytesIO(write_labels(made, "Plate"))).pages[0].extract_text()
    assert "A" in said and "120 × 80 mm" in said and "sheet 1 of 1" in said
    assert write_labels(made, "Plate") == write_labels(made, "Plate")


def test_an_independent_parser_reads_the_program() -> None:
    (sheet,) = plan(PLATE, replace(SMALL, kerf=0.0, lead=0.0)).sheets
    at, length = np.zeros(2), 0.0
    for line in parse_gcode_lines(write_code(sheet, "Plate").decode()):
        to = np.array([line.get_param(axis, default=at["XY".index(axis)]) for axis in "XY"])
        if line.command == ("G", 1):
            length += float(np.hypot(*(to - at)))
        elif line.command in (("G", 2), ("G", 3)):
            centre = at + np.array([line.get_param("I"), line.get_param("J")])
            a, b = at - centre, to - centre
            swept = math.atan2(a[0] * b[1] - a[1] * b[0], a @ b) % (2 * math.pi)
            swept = swept if line.command == ("G", 3) else 2 * math.pi - swept
            length += swept * float(np.hypot(*a))
        at = to
    (flat,) = sheet.nest.pieces
    assert length == pytest.approx(flat.region.perimeter, rel=1e-5)


def test_many_labels_take_many_pages() -> None:
    made = plan("part p = [rect(30 mm, 20 mm) for i in 0 .. 29]")
    assert len(pypdf.PdfReader(io.BytesIO(write_labels(made, "Plates"))).pages) == 2


# --- what cannot be ---


@pytest.mark.parametrize(
    ("sheet", "cutter", "said"),
    [
        ("part p = rect(700 mm, 100 mm)", SMALL, "too large by 110 mm"),
        ("part p = rect(500 mm, 100 mm)", replace(SMALL, grain=ACROSS), "with the grain across the sheet: too large by 110 mm"),
        ("part p = sphere(10 mm)", SMALL, "not of one thickness"),
        ("part p = rect(50 mm, 50 mm) - disc(0.5 mm)", replace(SMALL, kerf=2, apart=9), "a hole that a cut of 2 mm does not go into"),
        ("part p = line((0 mm, 0 mm), (9 mm, 0 mm))", SMALL, "nothing to cut"),
        ('part p = cylinder(9 mm, 900 mm) "Rod"', SMALL, "Rod is 900 mm thick; the cutter goes through 30 mm"),
    ],
)  # fmt: skip
def test_what_cannot_be_cut_says_why(sheet: str, cutter: Cutter, said: str) -> None:
    with pytest.raises(Failure, match=said):
        plan(sheet, cutter)


def test_a_cutter_goes_through_what_is_just_as_thick_as_it_may_be() -> None:
    """Also where it is turned, which leaves noise behind."""
    for thick in (30.0, 30.001):
        sheet = f"part p = box(90 mm, 60 mm, {thick} mm).turn(33°, about = x).turn(71°)"
        if thick > SMALL.thickest:
            with pytest.raises(Failure, match="goes through 30 mm"):
                plan(sheet)
        else:
            assert len(plan(sheet).sheets) == 1


def test_pieces_of_a_part_that_are_too_thick_are_told_together_and_all_refusals_are() -> None:
    sheet = 'part rods = [cylinder(9 mm, 100 mm + i * 7 mm) for i in 0 .. 4] "Rods"\npart ball = sphere(9 mm)\npart post = box(40 mm, 50 mm, 60 mm)'
    with pytest.raises(NothingCut) as told:
        plan(sheet)
    said = [one.message for one in told.value.refused]
    assert len(said) == 3 and "no flat piece" in said[0] and told.value.message == said[0]
    assert re.search(
        r"^\w, \w, \w and 2 more Rods are 100 to 128 mm thick; the cutter goes through 30 mm",
        said[1],
    )
    assert "is 40 mm thick" in said[2]
    with pytest.raises(NothingCut) as told:
        plan('part balls = [sphere(9 mm + i * 1 mm) for i in 0 .. 4] "Balls"')
    (one,) = told.value.refused
    assert re.search(
        r"^\w, \w, \w and 2 more Balls are no flat pieces: they are not of one thickness",
        one.message,
    )


def test_what_lies_between_pieces_that_are_refused_is_cut() -> None:
    """The second of three is thin enough: it is not named with the others."""
    made = plan('part p = [box(90 mm, 80 mm, h) for h in [50 mm, 20 mm, 60 mm]] "Blocks"')
    ((thickness, _),) = made.nests
    assert thickness == 20
    marks = {one.piece.mark for nest in made.nests for one in nest[1].pieces}
    (told,) = made.refused
    named = set(re.findall(r"^(\w+) and (\w+) Blocks are 50 to 60 mm thick", told.message)[0])
    assert len(named) == 2 and not named & marks


def test_too_many_pieces(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(nesting, "MOST_PIECES", 20)
    with pytest.raises(Failure, match="21 pieces are too many"):
        plan("part p = [rect(5 mm, 5 mm).move(x = i * 9 mm) for i in 0 .. 20]")


def test_the_rest_is_cut_all_the_same() -> None:
    made = plan(
        "part a = rect(90 mm, 40 mm)\npart b = sphere(10 mm)\npart c = box(900 mm, 40 mm, 3 mm)"
    )
    assert len(made.sheets) == 1 and len(made.refused) == 2


@pytest.mark.parametrize(
    ("changed", "said"),
    [
        ({"margin": 300}, "margins of 300 mm leave nothing"),
        ({"lead": 4.0}, "do not fit between pieces"),
        ({"lead": 9.0}, "off the sheet"),
        ({"trim": 2000.0}, "leave nothing of a bar"),
    ],
)
def test_settings_that_do_not_go_together(changed: dict[str, float], said: str) -> None:
    with pytest.raises(Failure, match=said):
        replace(SMALL, **changed).check()


@pytest.mark.parametrize(
    ("lines", "said"),
    [
        (["G0 X9 Y9"], "a move without a speed"),
        (["G0 X900 Y9 F60"], "lies off the sheet"),
        (["M3", "G0 X9 Y9 F60"], "it travels while it cuts"),
        (["G1 X9 Y0 F60", "G2 X20 Y0 I1 J0"], "does not end on its circle"),
        (["G81 X3"], "has no G81"),
        (["M8"], "does not know M8"),
    ],
)
def test_a_program_that_makes_no_sense_is_refused(lines: list[str], said: str) -> None:
    with pytest.raises(Failure, match=said):
        SimulatedCutter(SMALL).run(lines)


def test_the_command(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    folder = tmp_path / "cut"
    walk = str(next(DEMO.glob("*boardwalk.ovo")))
    assert main(["nest", walk, "--part", "boards", "--with", "nested=rectangles", "--to", str(folder)]) == 0  # fmt: skip
    said = capsys.readouterr().out
    assert "41 pieces 28 mm thick: 7 by rectangles" in said
    assert len(list(folder.iterdir())) == 2 + 3 * 7
    assert main(["nest", walk, "--with", "nested=rectangles"]) == 1, "the bearers are too thick"
    assert "Bearers is 45 mm thick; the cutter goes through 30 mm" in capsys.readouterr().out
    assert main(["nest", walk, "--with", "nested=rectangles", "--with", "thickest=80"]) == 1, "and too long"  # fmt: skip
    assert "too large by" in capsys.readouterr().out
    assert main(["nest", walk, "--with", "nested=rectangles", "--json"]) == 1
    refused = json.loads(capsys.readouterr().out)["refused"]
    assert all("goes through 30 mm" in one["said"] and "as a bar" in one["hint"] for one in refused)
    assert len(refused) == 3, "bearers, posts, handrails"
    assert main(["nest", walk, "--part", "none_such"]) == 2
    assert main(["nest", walk, "--with", "kerf=-1"]) == 2
    assert "Kerf is -1 mm" in capsys.readouterr().err
