"""Cells, triangles, contours, chains and Bézier curves against SciPy, Shapely and formulas."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from scipy.optimize import brentq
from scipy.spatial import ConvexHull, Delaunay, cKDTree

from tests.sheets import problem, run, value

CHANCE = np.random.default_rng(7)
PLACES = CHANCE.uniform(-40, 40, (25, 2)).round(3)


def listed(places: np.ndarray) -> str:  # type: ignore[type-arg]
    return "[" + ", ".join(f"({', '.join(f'({x}) * 1 mm' for x in p)})" for p in places) + "]"


def test_each_cell_is_what_is_nearest_to_its_point() -> None:
    outcome = run(
        f"ps = {listed(PLACES)}",
        "cells = voronoi(ps, disc(50 mm) - disc(5 mm))",
        "whole = sum([area(c) for c in cells])",
    )
    assert not outcome.problems, outcome.problems
    cells = outcome.lines[1].value
    assert outcome.lines[2].value == pytest.approx(math.pi * (50**2 - 5**2), rel=1e-9)
    tree = cKDTree(PLACES)
    for place in CHANCE.uniform(-50, 50, (400, 2)):
        if not 5.1 < math.hypot(*place) < 49.9:
            continue
        at = tree.query(place)[1]
        assert cells[at].placed(np.eye(4)).flat.buffer(1e-6).contains(shapely.Point(place))


def test_triangles_are_those_of_delaunay() -> None:
    outcome = run(f"a = triangulate({listed(PLACES)})")
    found = {
        frozenset(map(tuple, np.round(shapely.get_coordinates(one.flat)[:-1], 3)))
        for one in outcome.lines[0].value
    }
    wanted = {frozenset(map(tuple, PLACES[three])) for three in Delaunay(PLACES).simplices}
    assert found == wanted


def test_a_region_in_triangles_is_all_of_it() -> None:
    outcome = run(
        "r = rect(40 mm, 20 mm) - rect(10 mm, 6 mm)",
        "a = triangulate(r)",
        "b = area(a) - area(r)",
        "n = len(a)",
    )
    assert outcome.lines[2].value == pytest.approx(0, abs=1e-9) and outcome.lines[3].value == 8


def test_contours_of_a_paraboloid_are_circles() -> None:
    """At z = k r², a level is a circle of radius sqrt(z / k)."""
    outcome = run(
        "s = surface((u, v) -> ((u - 0.5) * 40 mm, (v - 0.5) * 40 mm, ((u - 0.5)^2 + (v - 0.5)^2) * 40 mm))",
        "a = contours(s, 3 mm)",
    )
    closed = [one for one in outcome.lines[1].value if one.closed]
    assert len(closed) == 3
    for curve, z in zip(closed, (3, 6, 9), strict=True):
        radius = math.sqrt(z * 40)
        assert curve.length == pytest.approx(2 * math.pi * radius, rel=1e-3)
        corners = np.array([piece.start for piece in curve.pieces])
        assert np.hypot(corners[:, 0], corners[:, 1]) == pytest.approx(radius, abs=1e-6)
        assert corners[:, 2] == pytest.approx(z, abs=1e-9)


def test_contours_of_solids_are_their_sections() -> None:
    outcome = run(
        "a = contours(sphere(10 mm), 4 mm)",
        "b = contours(cylinder(10 mm, 9 mm), 3 mm)",
        "n = [area(one) for one in a]",
        "m = [area(one) for one in b]",
    )
    heights = (-8, -4, 0, 4, 8)
    assert outcome.lines[2].value == pytest.approx(
        [math.pi * (100 - z * z) for z in heights], rel=2e-3
    )
    assert outcome.lines[3].value == pytest.approx([math.pi * 100] * 2, rel=1e-12)


@pytest.mark.parametrize(
    ("h", "v", "length"), [(3000, 0, 4000), (3000, 1000, 4000), (100, -80, 500), (2000, 0, 2000.5)]
)
def test_a_chain_hangs_as_the_formula_says(h: float, v: float, length: float) -> None:
    """L² - v² = (2a sinh(h / 2a))²; the sag below the middle of level ends is a (cosh(h / 2a) - 1)."""
    outcome = run(
        f"c = catenary((0 mm, 0 mm), ({h} * 1 mm, ({v}) * 1 mm), {length} * 1 mm)",
        "l = length(c)",
        "low = bounds(c).low.y",
    )
    assert not outcome.problems, outcome.problems
    assert outcome.lines[1].value == pytest.approx(length, rel=1e-8)
    a = brentq(
        lambda a: 2 * a * math.sinh(h / 2 / a) - math.sqrt(length**2 - v**2),
        h / 1200,
        h * 1e5,
        xtol=1e-12,
        rtol=1e-15,
    )
    lowest = h / 2 - a * math.atanh(v / length)
    depth = a * (1 - math.cosh(lowest / a)) if 0 < lowest < h else min(0.0, v)
    assert outcome.lines[2].value == pytest.approx(depth, rel=1e-6, abs=1e-4)


def test_a_chain_that_is_too_short_or_straight() -> None:
    assert "at least 5 m" in problem("a = catenary((0 m, 0 m), (3 m, 4 m), 4 m)").hint.replace(
        "5000 mm", "5 m"
    )
    assert value("length(catenary((0 m, 0 m), (3 m, 4 m), 5 m))") == pytest.approx(5000, rel=1e-12)
    assert value("level(catenary((0 m, 0 m, 2 m), (3 m, 0 m, 2 m), 4 m))") < 2000


@pytest.mark.parametrize("count", [2, 3, 4, 5, 8])
def test_bezier_curves_are_sums_of_bernstein_polynomials(count: int) -> None:
    poles = CHANCE.uniform(-50, 50, (count, 3)).round(2)
    (line,) = run(f"a = bezier({listed(poles)})").lines
    curve, n = line.value, count - 1
    ts = np.linspace(0, 1, 201)
    wanted = sum(
        math.comb(n, k) * ts[:, None] ** k * (1 - ts[:, None]) ** (n - k) * poles[k]
        for k in range(count)
    )
    lengths = np.linalg.norm(np.diff(wanted, axis=0), axis=1)
    assert curve.length == pytest.approx(lengths.sum(), rel=1e-3)
    if count <= 4:
        assert curve.pieces[0].at(ts) == pytest.approx(wanted, abs=1e-9)
    assert curve.start == pytest.approx(poles[0]) and curve.end == pytest.approx(poles[-1])


def test_inside_is_what_shapely_and_a_turn_back_say() -> None:
    outcome = run(
        "r = disc(20 mm) - rect(10 mm, 6 mm).move(5 mm)",
        "s = box(30 mm, 20 mm, 10 mm).turn(30°, about = x) - cylinder(4 mm, 90 mm).move(z = -40 mm)",
    )
    region, solid = (line.value for line in outcome.lines)
    exact = shapely.Point(0, 0).buffer(20, quad_segs=4000) - shapely.box(0, -3, 10, 3)
    from ovolo.geometry.regions.within import in_region, in_solid

    for place in CHANCE.uniform(-22, 22, (300, 3)):
        flat = np.array([place[0], place[1], 0.0])
        if shapely.Point(flat[:2]).distance(exact.boundary) > 1e-3:
            assert in_region(region, flat) == exact.contains(shapely.Point(flat[:2]))
        # Turned back by 30°, it is a box on z = 0; the bore stands upright.
        c, s = math.cos(math.radians(30)), math.sin(math.radians(30))
        y, z = c * place[1] + s * place[2], c * place[2] - s * place[1]
        away = math.hypot(place[0], place[1])
        in_box = abs(place[0]) < 15 and abs(y) < 10 and 0 < z < 10
        if abs(away - 4) > 0.1:
            assert in_solid(solid, place) == (in_box and away > 4)


def test_edges_and_surfaces_are_inside() -> None:
    for formula, wanted in (
        ("inside((5 mm, 0 mm), disc(5 mm))", True), ("inside((5.00001 mm, 0 mm), disc(5 mm))", False),
        ("inside((0 mm, 0 mm, 5 mm), sphere(5 mm))", True), ("inside((0 mm, 0 mm, 5.00001 mm), sphere(5 mm))", False),
        ("inside((3 mm, 4 mm, 2 mm), cylinder(5 mm, 2 mm))", True), ("inside((0 mm, 0 mm, 1 mm), disc(5 mm))", False),
    ):  # fmt: skip
        assert value(f"{formula}") is wanted


def test_the_convex_hull_is_that_of_scipy() -> None:
    places = CHANCE.uniform(-50, 50, (40, 3)).round(3)
    found = value(f"volume(convex_hull({listed(places)}))")
    assert found == pytest.approx(ConvexHull(places).volume, rel=1e-12)
