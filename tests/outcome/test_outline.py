"""Outlines that were clicked: what a click was drawn to stands by its name, and the line draws just that."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ovolo.outcome.outline import Corner, outline_lines
from ovolo.problems import Failure
from tests.sheets import run

LINES = (
    "input w = 4 m from 1 m to 9 m", "input h = 1500 mm", "teeth = 24", "apex = (w / 2, h)",
    "input at = (0 mm, 300 mm)", "part b = box(w, h, 10 mm)",
)  # fmt: skip


def corner(x: float, y: float, z: float = 0, snapped: bool = False, smooth: bool = False) -> Corner:
    return Corner(np.array([x, y, z], dtype=float), snapped, smooth)


def drawn(*corners: Corner, view: str = "plan", closed: bool = True) -> str:
    ending = "closed" if closed else "open"
    (line,) = outline_lines(run(*LINES), "\n".join(LINES), corners, view, ending)
    return line


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
    (line,) = outline_lines(run(*LINES), text, [corner(0, 0), corner(9, 0)], "plan")
    assert line.startswith("outline_3 = ")


def test_corners_on_one_place_are_one_and_one_alone_is_none() -> None:
    line = drawn(corner(0, 0), corner(0, 0), corner(5, 0), corner(5, 0), closed=False)
    assert line == "outline_1 = start((0 mm, 0 mm)).to((5 mm, 0 mm))"
    for corners in ((), (corner(0, 0),), (corner(1, 1), corner(1, 1, 9))):
        with pytest.raises(Failure, match="two corners"):
            drawn(*corners)
    with pytest.raises(Failure, match="does not draw in the view"):
        drawn(corner(0, 0), corner(1, 0), view="axonometric")


def lines_of(
    *corners: Corner, view: str = "plan", ending: str = "closed", named: bool = False
) -> list[str]:
    return outline_lines(run(*LINES), "\n".join(LINES), corners, view, ending, named)


def measured(lines: list[str], said: str, **settings: float) -> float:
    outcome = run(*LINES, *lines, f"found = {said}", **settings)
    assert not outcome.problems, [str(one) for one in outcome.problems]
    return float(outcome.as_json()["values"]["found"]["value"])


def test_half_a_tooth_is_mirrored_in_one_step() -> None:
    """The foot, the flank and half the tip of a tooth about y: its image lies on the other side, and the
    area is twice that of the half (plane geometry)."""
    half = [corner(0, 0), corner(30, 0), corner(12, 50), corner(0, 50)]
    lines = lines_of(*half, ending="mirrored")
    assert lines == [
        "outline_1_half = start((0 mm, 0 mm)).to((30 mm, 0 mm)).to((12 mm, 50 mm)).to((0 mm, 50 mm))",
        "outline_1 = join([outline_1_half, outline_1_half.mirror(x).reverse()])",
    ]
    assert measured(lines, "area(region(outline_1))") == pytest.approx((30 + 12) * 50)
    assert measured(lines, "width(outline_1)") == pytest.approx(60)


@pytest.mark.parametrize("degrees", [0, 17, 45, 90, 130])
def test_a_half_is_mirrored_across_whatever_line_it_begins_and_ends_on(degrees: float) -> None:
    """Turned about a place, drawn and mirrored, its length and its area are as before."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    half = [(0, 0), (30, 0), (12, 50), (0, 50)]
    lines = lines_of(*(corner(100 + c * x - s * y, 70 + s * x + c * y) for x, y in half), ending="mirrored")  # fmt: skip
    assert measured(lines, "area(region(outline_1))") == pytest.approx(2100, rel=1e-5)
    assert measured(lines, "length(outline_1)") == pytest.approx(2 * (30 + math.hypot(18, 50) + 12), rel=1e-5)  # fmt: skip


def test_half_an_outline_that_ends_where_it_begins_has_no_line_to_be_mirrored_across() -> None:
    with pytest.raises(Failure, match="line across which it is mirrored"):
        lines_of(corner(0, 0), corner(9, 0), corner(9, 9), corner(0, 0), ending="mirrored")
    with pytest.raises(Failure, match="does not end `half`"):
        lines_of(corner(0, 0), corner(9, 0), ending="half")


def test_a_splayed_opening_with_its_arc_by_a_radius_and_through_its_crown() -> None:
    """Its jambs splay outwards; the arc over a chord c that rises by h has the radius (c² + 4h²) / 8h
    (plane geometry), and both ways to draw it give one length."""
    left, right = corner(-600, 1500), corner(600, 1500)
    crown = Corner(np.array([0.0, 1800.0, 0.0]))
    feet = corner(-400, 0), corner(400, 0)
    radius = (1200**2 + 4 * 300**2) / (8 * 300)
    through = lines_of(*feet, right, Corner(left.at, through=crown))
    by_radius = lines_of(*feet, right, Corner(left.at, radius=radius))
    assert ".arc_through((0 mm, 1800 mm), (-600 mm, " in through[0]
    assert ".arc_to((-600 mm, " in by_radius[0] and "750 mm)" in by_radius[0]
    arc = 2 * radius * math.asin(600 / radius)
    want = 800 + 2 * math.hypot(200, 1500) + arc
    for lines in (through, by_radius):
        assert measured(lines, "length(outline_1)") == pytest.approx(want, rel=1e-9)


def test_figures_that_stand_for_themselves_are_made_inputs_at_once() -> None:
    """The same figure is one input; 0, and what a name has, is none; the outline moves with them."""
    corners = corner(0, 0), corner(700, 0), corner(700, 300), corner(-700, 300), corner(0, 1500, snapped=True)  # fmt: skip
    lines = lines_of(*corners, named=True)
    assert lines == [
        "input long_1 = 700 mm",
        "input long_2 = 300 mm",
        "outline_1 = start((0 mm, 0 mm)).to((long_1, 0 mm)).to((long_1, long_2)).to((-long_1, long_2)).to((0 mm, h)).close()",
    ]
    plain = lines_of(*corners)
    assert measured(lines, "length(outline_1)") == measured(plain, "length(outline_1)")
    assert measured(lines, "width(outline_1)", long_1=900.0) == pytest.approx(1800)


def test_typed_lengths_and_directions_are_named_as_such() -> None:
    turn = math.radians(30)
    end = Corner(np.array([400 * math.cos(turn), 400 * math.sin(turn), 0]), typed=(400.0, turn))
    lines = lines_of(corner(0, 0), end, ending="open", named=True)
    assert lines[-1] == "outline_1 = start((0 mm, 0 mm)).to((0 mm, 0 mm) + polar(long_1, turn_1))"
    assert measured(lines, "outline_1.point_at(share = 1).y") == pytest.approx(200)
    assert lines_of(corner(0, 0), end, ending="open")[0].count("polar") == 0


@pytest.mark.parametrize(("square", "sign"), [(True, 1), (True, -1), (False, 1), (False, -1)])
def test_what_is_drawn_square_or_parallel_stays_so(square: bool, sign: int) -> None:
    """A piece square to an oblique one, or parallel to it: also where the corners move with a length."""
    along = np.array([4000.0, 1500.0]) / math.hypot(4000, 1500)
    way = sign * (np.array([-along[1], along[0]]) if square else along)
    end = np.append(np.array([4000.0, 1500.0]) + 500 * way, 0.0)
    corners = corner(0, 0), corner(4000, 1500, snapped=True), Corner(end, beside=1, square=square)
    lines = lines_of(*corners, ending="open")
    assert "500 mm * unit((w, h) - (0 mm, 0 mm))" in lines[0]
    assert measured(lines, "outline_1.point_at(share = 1).x") == pytest.approx(end[0])
    for width in (4000.0, 7000.0):
        first, second = (f"unit(outline_1.tangent_at(share = {share}))" for share in (0.01, 0.99))
        turn = measured(lines, f"dot({first}, {second})", w=width)
        assert turn == pytest.approx(0 if square else sign, abs=1e-9)


def test_ends_of_curves_and_points_of_lists_stand_by_their_names() -> None:
    lines = (*LINES, "edge = line((100 mm, 100 mm), (900 mm, 250 mm))", "posts = [(i * 40 mm, 77 mm) for i in 0 .. 4]")  # fmt: skip
    corners = corner(100, 100, snapped=True), corner(900, 250, snapped=True), corner(120, 77, snapped=True)  # fmt: skip
    found = outline_lines(run(*lines), "\n".join(lines), corners, "plan", "open")
    assert found == [
        "outline_1 = start(edge.point_at(0 mm)).to(edge.point_at(share = 1)).to(posts[3])"
    ]
    assert not run(*lines, *found).problems


@pytest.mark.parametrize("view", ["plan", "front", "side"])
def test_whatever_is_drawn_passes_through_its_corners(view: str) -> None:
    """Mirrored or not, named or not, in each view: every corner lies on the line that is written."""
    places = [(0, 0), (410, 0), (300, 220), (0, 350)]
    up = {"plan": (0, 1), "front": (0, 2), "side": (1, 2)}[view]
    corners = []
    for across, above in places:
        at = np.zeros(3)
        at[up[0]], at[up[1]] = across, above
        corners.append(Corner(at))
    for ending in ("closed", "open", "mirrored"):
        for named in (True, False):
            lines = lines_of(*corners, view=view, ending=ending, named=named)
            for one in corners:
                spot = f"({', '.join(f'{v:g} mm' for v in one.at)})"
                assert measured(lines, f"distance(closest(outline_1, {spot}), {spot})") < 1e-6


def test_what_a_piece_is_square_to_is_known_also_behind_corners_on_one_place() -> None:
    """A double click makes no corner, and the numbers of the others go on without it."""
    corners = corner(0, 0), corner(0, 0), corner(300, 400), Corner(np.array([220.0, 460.0, 0.0]), beside=2, square=True)  # fmt: skip
    (line,) = lines_of(*corners, ending="open")
    assert line.endswith(
        ".to((300 mm, 400 mm) + 100 mm * unit((300 mm, 400 mm) - (0 mm, 0 mm)).turn(90°))"
    )
    assert measured([line], "outline_1.point_at(share = 1).x") == pytest.approx(220)
