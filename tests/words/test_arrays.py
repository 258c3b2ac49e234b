"""Arrays: how many items, where they fall, and what becomes of the rest.

Arc lengths are checked against SciPy's integrals, insides against Shapely. Counts by spacing
follow common practice (no source): items at pitch p on a length L stand at 0, p, 2p … while they fit.
"""

import math

import numpy as np
import pytest
import scipy.integrate
import shapely
from hypothesis import given
from hypothesis import strategies as st

from ovolo.problems import Problem
from tests.sheets import problem, run, value

ORIGIN = "(0 mm, 0 mm, 0 mm)"


def places(expression: str, *lines: str) -> np.ndarray:
    found = np.array(value(expression, *lines), dtype=float)
    return found.reshape(-1, 3)


def xs(expression: str) -> list[float]:
    return [float(x) for x in places(expression)[:, 0]]


@pytest.mark.parametrize(
    ("expression", "wanted"),
    [
        (f"row({ORIGIN}, 3, 20 mm)", [0, 20, 40]),
        (f"row({ORIGIN}, 3, -20 mm)", [0, -20, -40]),
        (f"row({ORIGIN}, 0, 20 mm)", []),
        (f"row({ORIGIN}, 1, 20 mm)", [0]),
        (f"row({ORIGIN}, 3, 20 mm, centred = yes)", [-20, 0, 20]),
        (f"row({ORIGIN}, 3, 20 mm, both_ways = yes)", [-40, -20, 0, 20, 40]),
        (f"row({ORIGIN}, n = 3, over = 90 mm)", [0, 45, 90]),
        (f"row({ORIGIN}, step = 20 mm, over = 70 mm)", [0, 20, 40, 60]),
        (f'row({ORIGIN}, step = 20 mm, over = 70 mm, rest = "start")', [10, 30, 50, 70]),
        (f'row({ORIGIN}, step = 20 mm, over = 70 mm, rest = "both")', [5, 25, 45, 65]),
        (f'row({ORIGIN}, step = 20 mm, over = 69 mm, rest = "stretch")', [0, 23, 46, 69]),
        (f'row({ORIGIN}, step = 20 mm, over = 72 mm, rest = "squeeze")', [0, 18, 36, 54, 72]),
        (f"row({ORIGIN}, over = 72 mm, largest = 20 mm)", [0, 18, 36, 54, 72]),
        (f"row({ORIGIN}, over = 72 mm, largest = 20 mm, centred = yes)", [-36, -18, 0, 18, 36]),
        (f"row({ORIGIN}, over = 1 m, density = 4 / 1 m)", [125, 375, 625, 875]),
        (f"row({ORIGIN}, 4, 10 mm, skip = [0, -1])", [10, 20]),
        (f"row({ORIGIN}, 4, 10 mm, where = c -> mod(c.index, 2) == 0)", [0, 20]),
        (f"row({ORIGIN}, 4, 10 mm, where = c -> c.at.x > 15 mm)", [20, 30]),
        (f"row({ORIGIN}, 5, 10 mm, where = c -> c.share != 1/2)", [0, 10, 30, 40]),
        ("row(c -> (c.index^2 * 1 mm, 0 mm, 0 mm), 4, 10 mm)", [0, 11, 24, 39]),
    ],
)
def test_rows(expression: str, wanted: list[float]) -> None:
    assert xs(expression) == pytest.approx(wanted, abs=1e-9)


def test_a_row_may_run_any_way() -> None:
    np.testing.assert_allclose(
        places(f"row({ORIGIN}, 3, (3 mm, 4 mm, 0 mm))"), [[0, 0, 0], [3, 4, 0], [6, 8, 0]]
    )
    np.testing.assert_allclose(
        places(f"row({ORIGIN}, over = (0 mm, 0 mm, 50 mm), step = 20 mm)")[:, 2], [0, 20, 40]
    )


@given(st.floats(1, 1e4), st.floats(0.5, 1e4))
def test_equal_bays_are_the_fewest_that_keep_within_the_largest(length: float, p: float) -> None:
    found = xs(f"row({ORIGIN}, over = {length:.4f} mm, largest = {p:.4f} mm)")
    length, p = round(length, 4), round(p, 4)
    bays = len(found) - 1
    assert found[0] == 0 and found[-1] == pytest.approx(length, rel=1e-12)
    assert length / bays <= p * (1 + 1e-9)
    assert bays == 1 or length / (bays - 1) > p * (1 - 1e-9)


@given(st.integers(1, 400), st.sampled_from([0.1, 0.3, 1 / 3, 7.7, 145.0]))
def test_a_length_that_is_a_multiple_of_the_step_is_filled(n: int, step: float) -> None:
    """0.3 / 0.1 is 2.9999… in floating point; the count is 3 all the same."""
    found = value(f"len(row({ORIGIN}, step = {step!r} mm, over = {step * n!r} mm))")
    assert found == n + 1


@pytest.mark.parametrize(
    ("rest", "starts", "lengths"),
    [
        ("end", [0, 310, 620], [300] * 3),
        ("start", [80, 390, 700], [300] * 3),
        ("both", [40, 350, 660], [300] * 3),
        ("cut", [0, 310, 620, 930], [300, 300, 300, 70]),
        ("stretch", [0, 1010 / 3, 2020 / 3], [980 / 3] * 3),
        ("squeeze", [0, 252.5, 505, 757.5], [242.5] * 4),
    ],
)
def test_bays(rest: str, starts: list[float], lengths: list[float]) -> None:
    above = f'b = bays(1000 mm, 300 mm, gap = 10 mm, rest = "{rest}")'
    assert value("[one.start for one in b]", above) == pytest.approx(starts)
    assert value("[one.length for one in b]", above) == pytest.approx(lengths)
    assert value("[one.end - one.middle for one in b]", above) == pytest.approx(
        [one / 2 for one in lengths]
    )


@pytest.mark.parametrize(("length", "count"), [(0, 0), (299, 0), (300, 1), (609, 1), (610, 2)])
def test_bays_at_the_edges(length: int, count: int) -> None:
    assert value(f"len(bays({length} mm, 300 mm, gap = 10 mm))") == count


@given(st.floats(1, 5000), st.floats(1, 800), st.floats(0, 50))
def test_cut_bays_cover_the_whole_length(length: float, piece: float, gap: float) -> None:
    said = f'bays({length:.3f} mm, {piece:.3f} mm, gap = {gap:.3f} mm, rest = "cut")'
    length, piece, gap = round(length, 3), round(piece, 3), round(gap, 3)
    bays = run(f"b = {said}").lines[0].value
    covered = sum(b["length"] for b in bays) + gap * max(len(bays) - 1, 0)
    assert covered <= length + 1e-6 and length - covered <= gap + 1e-6
    assert all(0 < b["length"] <= piece + 1e-9 for b in bays)


def test_grids() -> None:
    found = places(f"grid({ORIGIN}, 3, 2, 10 mm, 20 mm)")
    np.testing.assert_allclose(
        found[:, :2], [[0, 0], [10, 0], [20, 0], [0, 20], [10, 20], [20, 20]]
    )
    filled = places(f'grid({ORIGIN}, dx = 40 mm, dy = 25 mm, width = 1 m, depth = 110 mm, rest = "both")')  # fmt: skip
    assert len(filled) == 26 * 5
    assert sorted(set(filled[:, 1])) == pytest.approx([5, 30, 55, 80, 105])
    assert value(f"len(grid({ORIGIN}, 4, 4, 1 m, 1 m, where = c -> c.row != c.column))") == 12
    assert len(places(f"grid({ORIGIN}, 0, 5, 1 m, 1 m)")) == 0


def test_a_staggered_grid_is_a_honeycomb() -> None:
    found = places(f"grid({ORIGIN}, 7, 7, 30 mm, stagger = 1/2, centred = yes)")
    gaps = np.linalg.norm(found[:, None] - found, axis=2)
    middle = np.sort(gaps[24])[1:8]
    assert middle[:6] == pytest.approx([30] * 6) and middle[6] > 50
    assert found[:, 0].min() == pytest.approx(-found[:, 0].max())
    bricks = places(f"grid({ORIGIN}, 2, 2, 200 mm, 75 mm, stagger = 1/2)")
    np.testing.assert_allclose(bricks[:, :2], [[0, 0], [200, 0], [100, 75], [300, 75]])


@given(st.integers(0, 200), st.floats(0.1, 1000))
def test_a_whole_ring_has_no_item_twice(n: int, r: float) -> None:
    found = places(f"ring({ORIGIN}, {n}, r = {r:.4f} mm)")
    assert len(found) == n
    np.testing.assert_allclose(np.linalg.norm(found, axis=1), round(r, 4))
    if n > 1:
        step = 2 * round(r, 4) * math.sin(math.pi / n)
        gaps = np.linalg.norm(found - np.roll(found, 1, axis=0), axis=1)
        np.testing.assert_allclose(gaps, step, rtol=1e-6)


def test_part_of_a_ring_has_items_on_both_ends() -> None:
    found = places("ring((2 m, 0 m, 0 m), 4, sweep = 90°)")
    angles = np.degrees(np.arctan2(found[:, 1], found[:, 0]))
    assert angles == pytest.approx([0, 30, 60, 90])
    back = places("ring((2 m, 0 m, 0 m), 3, sweep = -90°, begin = 45°)")
    assert np.degrees(np.arctan2(back[:, 1], back[:, 0])) == pytest.approx([45, 0, -45])
    assert value("len(ring((1 m, 0 m), step = 45°))") == 8
    assert value("len(ring((1 m, 0 m), step = 50°))") == 8
    assert value("len(ring((1 m, 0 m), step = 45°, sweep = 90°))") == 3
    # a quarter of a ring of 1 m is 1.571 m: two bays of 785 mm where 1 m is allowed
    assert value("len(ring((1 m, 0 m), largest = 1 m, r = 1 m, sweep = 90°))") == 3


def test_items_turn_with_the_ring_or_keep_their_direction() -> None:
    turning = run("part p = ring(box(4 mm, 1 mm, 1 mm).move(x = 20 mm), 4)").parts["p"]
    upright = run("part p = ring(box(4 mm, 1 mm, 1 mm), 4, turning = no, r = 20 mm)").parts["p"]
    by_place = run("part p = ring(box(4 mm, 1 mm, 1 mm).move(x = 20 mm), 4, turning = no)")
    assert turning.bounds == [pytest.approx([-22, -22, 0]), pytest.approx([22, 22, 1])]
    assert upright.bounds == [pytest.approx([-22, -20.5, 0]), pytest.approx([22, 20.5, 1])]
    assert by_place.parts["p"].bounds == upright.bounds
    assert turning.volume == upright.volume == pytest.approx(16)


ELLIPSE = "ellipse(300 mm, 100 mm)"
WAVE = "curve(t -> (t * 1 mm, 80 mm * sin(t / 60)), 0, 400)"


def test_spacing_along_a_curve_is_arc_length() -> None:
    """Against SciPy: the arc length of a sine from 0 to each item is a multiple of the spacing."""
    found = places(f"along({ORIGIN}, {WAVE}, n = 9)")
    total, _ = scipy.integrate.quad(lambda t: math.hypot(1, 80 / 60 * math.cos(t / 60)), 0, 400)
    for index, (x, _, _) in enumerate(found):
        length, _ = scipy.integrate.quad(lambda t: math.hypot(1, 80 / 60 * math.cos(t / 60)), 0, x)
        assert length == pytest.approx(total * index / 8, rel=1e-5, abs=1e-6)


def test_the_first_and_the_last_stand_exactly_on_the_ends() -> None:
    found = places(f"along({ORIGIN}, {WAVE}, largest = 35 mm)")
    assert found[0] == pytest.approx([0, 0, 0], abs=1e-9)
    assert found[-1] == pytest.approx([400, 80 * math.sin(400 / 60), 0], abs=1e-6)
    inset = xs(f"along({ORIGIN}, line({ORIGIN}, (1 m, 0 m, 0 m)), n = 3, inset = 100 mm)")
    assert inset == pytest.approx([100, 500, 900])
    uneven = xs(f"along({ORIGIN}, line({ORIGIN}, (1 m, 0 m, 0 m)), spacing = 300 mm, inset = 100 mm, inset_end = 0 mm)")  # fmt: skip
    assert uneven == pytest.approx([100, 400, 700, 1000])


@given(st.integers(1, 60), st.sampled_from([ELLIPSE, "circle(200 mm)", "rect(3 m, 1 m)"]))
def test_round_a_closed_curve_none_falls_on_another(n: int, curve: str) -> None:
    if curve.startswith("rect"):
        curve = "start((0 m, 0 m)).to((3 m, 0 m)).to((3 m, 1 m)).close()"
    found = places(f"along({ORIGIN}, {curve}, n = {n})")
    gaps = np.linalg.norm(found[:, None] - found, axis=2) + np.eye(n) * 1e9
    assert len(found) == n and gaps.min() > 1


def test_spacing_round_a_closed_curve() -> None:
    above = "c = circle(500 mm)"
    for said in ("spacing = length(c) / 8", "largest = length(c) / 8", "n = 8"):
        assert value(f"len(along((0 m, 0 m), c, {said}))", above) == 8


@given(st.floats(0, 1), st.floats(50, 500))
def test_items_point_along_the_curve(share: float, rise: float) -> None:
    """Two points of an item, one 1 mm further along x, lie along the tangent."""
    above = [f"c = arc_rise((0 m, 0 m), (2 m, 0 m), {rise:.3f} mm)"]
    inset = f"{share:.6f} * length(c)"
    at, ahead = places(
        "join([along(p, c, n = 1, inset = %s, inset_end = 0 mm)[0] for p in [(0 mm, 0 mm, 0 mm), (1 mm, 0 mm, 0 mm)]], [])" % inset,  # noqa: UP031
        *above,
    )  # fmt: skip
    tangent = value(f"tangent_at(c, {inset})", *above)
    assert ahead[:2] - at[:2] == pytest.approx(tangent[:2], abs=1e-6)


def test_upright_items_on_a_climbing_curve() -> None:
    unit = "line((0 mm, 0 mm, 0 mm), (0 mm, 0 mm, 10 mm))"
    way = "line((0 m, 0 m, 0 m), (1 m, 0 m, 1 m))"
    lean = run(f"a = along({unit}, {way}, n = 2)").lines[0].value
    straight = run(f"a = along({unit}, {way}, n = 2, upright = yes)").lines[0].value
    still = run("a = along(line((0 m, 0 m, 0 m), (9 mm, 0 m, 0 m)), line((0 m, 0 m), (0 m, 1 m)), n = 2, turning = no)")  # fmt: skip
    np.testing.assert_allclose(lean[1].end - lean[1].start, np.array([-1, 0, 1]) * 10 / 2**0.5)
    np.testing.assert_allclose(straight[1].end - straight[1].start, [0, 0, 10])
    np.testing.assert_allclose(still.lines[0].value[1].end, [9, 1000, 0])


def test_turn_and_size_are_functions_of_the_way() -> None:
    outcome = run(
        "part p = along(box(10 mm, 2 mm, 1 mm), line((0 m, 0 m), (1 m, 0 m)), n = 3, "
        "turn = s -> s * 90°, size = s -> 1 + s)"
    )
    volumes = [solid.volume for solid in outcome.parts["p"].value]
    assert volumes == pytest.approx([20, 20 * 1.5**3, 20 * 8])
    assert outcome.parts["p"].bounds[1] == pytest.approx([1002, 10, 2])


def test_every_other_one_is_a_mirror_image() -> None:
    hand = "region([(0 mm, 0 mm), (10 mm, 0 mm), (0 mm, 5 mm)])"
    found = run(f"a = row({hand}, 2, 40 mm, mirrored = yes)").lines[0].value
    assert found[0].centroid[:2] == pytest.approx([10 / 3, 5 / 3])
    assert found[1].centroid[:2] == pytest.approx([40 - 10 / 3, 5 / 3])
    solids = run(f"part p = row(extrude({hand}, 3 mm), 4, 40 mm, mirrored = yes)").parts["p"]
    assert solids.volume == pytest.approx(4 * 75) and solids.closed


def test_over_a_surface() -> None:
    above = "s = surface((u, v) -> (u * 2 m, v * 1 m, 0 m))"
    outcome = run(
        above,
        "part flat = over(s, 4, 3, c -> region(c.corners))",
        "part pegs = over(s, 4, 3, cylinder(10 mm, 50 mm), skip = [0])",
        "part odd = over(s, 4, 3, cylinder(10 mm, 50 mm), where = c -> c.u > 1/2)",
    )
    assert not outcome.problems
    assert outcome.parts["flat"].area == pytest.approx(2e6)
    assert outcome.parts["pegs"].count == 11 and outcome.parts["odd"].count == 6
    assert outcome.parts["pegs"].bounds == [
        pytest.approx([240, 156.667, 0], abs=1e-3),
        pytest.approx([1760, 843.333, 50], abs=1e-3),
    ]


@given(st.integers(0, 1000), st.floats(15, 120))
def test_scattered_points_keep_their_distance_inside(seed: int, least: float) -> None:
    """Against Shapely: every point within, every distance at least the least."""
    lines = f"input seed = {seed}", "r = rect(400 mm, 300 mm) - disc(100 mm)"
    found = places(f"scatter({ORIGIN}, r, {least:.2f} mm)", *lines)[:, :2]
    ring = shapely.box(-200, -150, 200, 150).difference(shapely.Point(0, 0).buffer(99.9, 256))
    assert shapely.contains_xy(ring, found).all()
    gaps = np.linalg.norm(found[:, None] - found, axis=2) + np.eye(len(found)) * 1e9
    assert gaps.min() >= round(least, 2) - 1e-9
    again = places(f"scatter({ORIGIN}, r, {least:.2f} mm)", *lines)[:, :2]
    np.testing.assert_array_equal(found, again)


def test_scattering_fills_a_region_or_says_how_many_find_room() -> None:
    """A random packing of discs takes up to 0.547 of an area (Rényi's parking problem in the
    plane, Feder 1980, from memory); half of that is surely reached."""
    found = places(f"scatter({ORIGIN}, rect(1 m, 1 m), 50 mm)")
    assert len(found) * math.pi * 25**2 > 0.27 * 1e6
    assert len(places(f"scatter({ORIGIN}, rect(1 m, 1 m), n = 17)")) == 17
    assert "of 1000 find room" in problem(f"a = scatter({ORIGIN}, rect(1 m, 1 m), 50 mm, n = 1000)").message  # fmt: skip


def test_the_golden_angle_of_a_seed_head() -> None:
    """Vogel 1979: item n at n times 137.508°, at a distance c sqrt(n)."""
    above = "golden = 360° * (1 - 2 / (1 + sqrt(5)))"
    found = places(
        "at_points((0 m, 0 m, 0 m), [polar(40 mm * sqrt(n), n * golden) for n in 0 .. 200])", above
    )
    assert math.degrees(value("rad(golden)", above)) == pytest.approx(137.508, abs=5e-4)
    assert np.hypot(found[:, 0], found[:, 1]) == pytest.approx(40 * np.sqrt(np.arange(201)))


def test_a_list_of_things_is_repeated_as_a_list() -> None:
    outcome = run("part p = ring([box(1 mm, 1 mm, 1 mm).move(x = 9 mm), disc(1 mm) .extrude(2 mm)], 3)")  # fmt: skip
    assert not outcome.problems and outcome.parts["p"].count == 6


def test_arrays_within_arrays() -> None:
    part = run("part p = row(grid(box(1 mm, 1 mm, 1 mm), 3, 2, 2 mm, 2 mm), 4, 20 mm)").parts["p"]
    assert part.count == 24 and part.volume == pytest.approx(24)


def test_an_item_that_cannot_be_made_leaves_a_gap() -> None:
    outcome = run("part p = row(c -> box(c.index * 1 mm, 1 mm, 1 mm), 4, 20 mm)")
    assert outcome.parts["p"].count == 3
    (found,) = outcome.problems
    assert found.item == 0 and "0 mm" in found.message


def test_cut_by_all_copies_at_once() -> None:
    outcome = run(
        "pegs = ring(disc(4 mm).move(x = 30 mm), 8)",
        "part plate = extrude(disc(50 mm) - pegs, 6 mm)",
        "part one = unite(row(box(10 mm, 10 mm, 10 mm), 5, 10 mm))",
        "part none = extrude(disc(50 mm) - ring(disc(4 mm).move(x = 30 mm), 0), 6 mm)",
    )
    assert not outcome.problems, outcome.problems
    assert outcome.parts["plate"].volume == pytest.approx(math.pi * (2500 - 8 * 16) * 6, rel=2e-3)
    assert outcome.parts["one"].volume == pytest.approx(5000)
    assert len(outcome.parts["one"].value.shape.manifold.decompose()) == 1


def test_copies_of_a_solid_stay_one_shape() -> None:
    part = run("part p = grid(sphere(3 mm), 100, 100, 10 mm, 10 mm)").parts["p"]
    assert part.count == 10_000 and len(part.groups) == 1


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("a = row(disc(1 m), 3.7, 1 m)", "whole number"),
        ("a = row(disc(1 m), -2, 1 m)", "-2 items"),
        ("a = row(disc(1 m), 3)", "set out by n"),
        ("a = row(disc(1 m), 3, 1 m, over = 4 m)", "set out by n and step and over"),
        ("a = row(disc(1 m), step = 0 m, over = 4 m)", "spacing is 0"),
        ("a = row(disc(1 m), step = 1 mm, over = 1000 m)", "1,000,000 items"),
        ("a = row(disc(1 m), 3, 1 m, skip = [3])", "no item 3"),
        ('a = row(disc(1 m), over = 3 m, step = 1 m, rest = "middle")', '"middle"'),
        ("a = ring(disc(1 m), 3, sweep = 400°)", "400°"),
        ("a = ring(disc(1 m), 3, step = 180°)", "go once round and more"),
        ("a = along(disc(1 m), circle(1 m), n = 3, inset = 4 m)", "leave nothing"),
        ("a = scatter(disc(1 m), rect(1 m, 1 m))", "least"),
        ("a = every([1, 2], 0)", "every 0th"),
        ("a = unite([])", "empty"),
        ("a = row(5, 3, 1 m)", "a solid"),
        ("a = grid(disc(1 m), 3, 3)", "set out by"),
    ],
)
def test_what_cannot_be_set_out_is_said(line: str, said: str) -> None:
    found: Problem = problem(line)
    assert said in found.message + found.hint, found
