"""The words of curves: problems in the words of the trade, and what they do together."""

import math
import re

import pytest

from tests.sheets import problem, run, value


@pytest.mark.parametrize(
    ("formula", "said"),
    [
        ("line((1 m, 0 m), (1 m, 0 m))", "both ends of the line coincide"),
        ("arc3((0 m, 0 m), (1 m, 0 m), (2 m, 0 m))", "lie on one line"),
        ("arc_rise((0 m, 0 m), (2 m, 0 m), 0 m)", "is a straight line"),
        ("circle(0 mm)", "the radius is 0 mm"),
        ("start((0 m, 0 m)).close()", "only begun"),
        ("start((0 m, 0 m)).arc_to((2 m, 0 m), 900 mm)", "a radius of 900 mm does not span 2000 mm"),
        ("start((0 m, 0 m)).to((1 m, 0 m)).tangent_to((500 mm, 0 m))", "lies straight behind"),
        ("point_at(line((0 m, 0 m), (1 m, 0 m)), 2 m)", "there is nothing at 2000 mm"),
        ("trim(line((0 m, 0 m), (1 m, 0 m)), 800 mm, 300 mm)", "has no length"),
        ("fillet(polyline([(0 m, 0 m), (1 m, 0 m), (1 m, 1 m)]), 1.2 m)", "does not fit the corner at (1000 mm, 0 mm)"),
        ("fillet(polyline([(0 m, 0 m), (1 m, 0 m), (1 m, 1 m)]), 1 mm, [3])", "there is no corner 3"),
        ("chamfer(polyline([(0 m, 0 m), (1 m, 0 m), (1 m, 1 m)]), 2 m)", "a piece beside it is only 1000 mm"),
        ("offset(circle(20 mm), -30 mm)", "vanishes at the arc of radius 20 mm"),
        ("offset(rect(40 mm, 20 mm), -15 mm)", "the region vanishes"),
        ("offset(helix(10 mm, 5 mm, 1), 1 mm)", "only a flat curve"),
        ("region(line((0 m, 0 m), (1 m, 0 m)))", "the outline is open: its ends are 1000 mm apart"),
        ("join([line((0 m, 0 m), (1 m, 0 m)), line((2 m, 0 m), (3 m, 0 m))])", "begins 1000 mm away"),
        ("sector(2 m, 1 m, 0°, 90°)", "the radii are 2000 mm and 1000 mm"),
        ("star(5, 1 m, 2 m)", "is not less than the outer one"),
        ("curve(t -> (1 m, 1 m), 0, 1)", "all points of this curve coincide"),
        ("divide(circle(1 m), 0)", "is not divided into 0"),
    ],
)  # fmt: skip
def test_problems_say_what_is_wrong_with_the_numbers(formula: str, said: str) -> None:
    found = problem(f"c = {formula}")
    assert said in f"{found.message} ({found.hint})"


def test_a_radius_too_large_says_the_largest_that_fits() -> None:
    found = problem("c = fillet(polyline([(0 m, 0 m), (1 m, 0 m), (1 m, 1 m)]), 1.2 m)")
    assert found.hint == "the largest that fits is 1000 mm"


def test_half_an_outline_and_its_mirror_image_are_one_region() -> None:
    half = "half = start((0 mm, 0 mm)).to((50 mm, 0 mm)).arc_to((0 mm, 50 mm), 50 mm)"
    found = value("area(region(join([half, mirror(half, x)])))", half)
    assert found == pytest.approx(math.pi * 50**2 / 2, rel=2e-3)


def test_regions_of_curves_keep_exact_perimeters() -> None:
    assert value("perimeter(disc(100 mm))") == pytest.approx(200 * math.pi, rel=1e-12)
    assert value("perimeter(round_corners(rect(60 mm, 40 mm), 10 mm))") == pytest.approx(
        2 * (40 + 20) + 20 * math.pi, rel=1e-12
    )
    assert value("perimeter(region(circle(50 mm), circle(20 mm)))") == pytest.approx(140 * math.pi)


def test_points_at_equal_lengths_and_shares() -> None:
    assert value("divide(line((0 m, 0 m), (1 m, 0 m)), 4)[3].x") == 750
    assert value("len(divide(circle(1 m), 12))") == 12, "the last does not fall on the first"
    assert value("point_at(circle(1 m), share = 1/2).x") == pytest.approx(-1000)


def test_curves_are_parts_that_count_and_are_measured() -> None:
    outcome = run("part rails = [circle(100 mm + i * 50 mm) for i in 0 .. 2]")
    part = outcome.parts["rails"]
    assert part.count == 3 and part.length == pytest.approx(2 * math.pi * 450)
    assert part.as_json()["area"] is None and part.bounds == [[-200, -200, 0], [200, 200, 0]]


def test_a_closed_curve_is_trimmed_past_its_start() -> None:
    assert value("length(trim(circle(100 mm), 600 mm, 100 mm))") == pytest.approx(
        200 * math.pi - 500
    )


def test_a_spline_keeps_its_end_tangents_and_closes_smoothly() -> None:
    lines = ("s = spline([(0 m, 0 m), (1 m, 1 m), (2 m, 0 m)], (0 m, 1 m), (0 m, -1 m))",)
    assert value("tangent_at(s, 0 m).y", *lines) == pytest.approx(1)
    assert value("tangent_at(s, length(s)).y", *lines) == pytest.approx(-1)
    ring = ("r = spline([(1 m, 0 m), (0 m, 1 m), (-1 m, 0 m), (0 m, -1 m), (1 m, 0 m)])",)
    turn = "angle_between(tangent_at(r, 0 m), tangent_at(r, length(r)))"
    assert value(turn, *ring) == pytest.approx(0, abs=1e-6)


def test_curves_carry_through_functions_and_arrays() -> None:
    outcome = run(
        "rib(i) = offset(arc_rise((0 m, 0 m), (1 m, 0 m), 100 mm + i * 20 mm), i * 5 mm)",
        "ribs = [rib(i) for i in 0 .. 5]",
        "lengths = [length(r) for r in ribs]",
        "check lengths[5] > lengths[0]",
    )
    assert outcome.well, [str(problem) for problem in outcome.problems]


@pytest.mark.parametrize(
    "formula",
    [
        "point_at(path, i * 10 mm)", "point_at(path, share = i / 40)", "tangent_at(path, i * 10 mm)",
        "point_at(shell, i / 40, 0.3)", "point_at(shell, 0.2, i / 40)", "normal_at(shell, i / 40, i / 50)",
    ],
)  # fmt: skip
def test_many_places_at_once_are_those_one_by_one(formula: str) -> None:
    """A curve of lines, arcs and cubics; the first is worked out for all i together."""
    lines = (
        "path = start((0 m, 0 m)).to((0.2 m, 0 m)).arc_to((0.4 m, 0.2 m), 0.3 m).tangent_to((0.5 m, 0.6 m))",
        "shell = surface((u, v) -> (u * 2 m, v * 1 m, 0.3 m * sin(180° * u) * v))",
    )
    together = value(f"[{formula} for i in 0 .. 40]", *lines)
    for at in (0, 7, 23, 40):
        alone = value(re.sub(r"\bi\b", str(at), formula), *lines)
        assert together[at] == pytest.approx(alone, abs=1e-9)
