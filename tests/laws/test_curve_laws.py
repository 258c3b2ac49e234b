"""Curves of every kind, small and large, against dense samples of themselves and against Shapely: where they come nearest,
where they meet, and their parallels."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from ovolo.geometry.arrays.setting_out import on_curve
from ovolo.geometry.curves.corners import meetings, offset
from ovolo.geometry.curves.curve import Curve, closest
from ovolo.geometry.curves.drafting import (
    arc_through,
    arc_through_to,
    bezier,
    circular,
    close,
    elliptic,
    joined,
    polyline,
    spline,
    tangent_to,
    to,
)
from ovolo.geometry.placement import moved, turned
from ovolo.geometry.regions.region import from_curves, offset_region
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure

SIZES = [0.1, 100_000.0]
"""mm across."""

SAMPLES = 1_000


def drawn(dice: np.random.Generator, size: float) -> Curve:
    """A curve by chance, as large as that."""

    def points(count: int) -> np.ndarray:
        return np.column_stack([dice.uniform(-size / 2, size / 2, (count, 2)), np.zeros(count)])

    kind = dice.integers(8)
    some = points(5)
    made = [
        lambda: polyline(some),
        lambda: bezier(some[:4]),
        lambda: bezier(some[:3]),
        lambda: spline(some, None, None),
        lambda: arc_through(*some[:3]),
        lambda: circular(some[0], size * dice.uniform(0.05, 0.5), dice.uniform(0, 6), dice.uniform(-6, 6)),
        lambda: elliptic(*(size * dice.uniform(0.05, 0.5, 2))),
        lambda: arc_through_to(tangent_to(to(polyline(some[:2]), some[2]), some[3]), *points(2)),
    ][kind]()  # fmt: skip
    placed = moved(points(1)[0] / 4) @ turned(dice.uniform(0, 6), np.array([0.0, 0, 1]), some[0])
    return made.placed(placed)


def sampled(curve: Curve) -> np.ndarray:
    return on_curve(curve, np.linspace(0.0, curve.length, SAMPLES + 1))[0]


def chorded(curve: Curve, size: float) -> shapely.LineString:
    """Its chords, within a hundred thousandth of its size."""
    return shapely.LineString(curve.points(1e-5 * size)[:, :2])


def place_of(curve: Curve, point: np.ndarray) -> np.ndarray:
    at, t = closest(curve, point)
    return curve.pieces[at].at(t)


@pytest.mark.parametrize("size", SIZES)
@given(st.integers(0, 100_000))
def test_no_place_is_nearer_than_the_closest_one(size: float, seed: int) -> None:
    dice = np.random.default_rng(seed)
    curve = drawn(dice, size)
    places = sampled(curve)
    for point in [*places[:: SAMPLES // 25], *dice.uniform(-size, size, (5, 3)) * [1, 1, 0]]:
        gap = np.linalg.norm(place_of(curve, point) - point)
        assert gap <= np.linalg.norm(places - point, axis=1).min() + 1e-12 * size, point


def test_the_closest_place_in_a_hairpin_is_not_on_its_other_leg() -> None:
    """Where the ways in and out of a narrow bend lie side by side, both are as near but for little."""
    bend = bezier(np.array([[-21.0, 50, 0], [-102, -181, 0], [67, 164, 0], [-127, 58, 0]]))
    narrow = spline(np.array([[2115.0, 452, 0], [1240, 2687, 0], [2730, 1019, 0], [2846, 1355, 0], [-444, -2564, 0], [1081, -1233, 0]]), None, None)  # fmt: skip
    for curve in (bend, narrow):
        for place in sampled(curve)[::4]:
            assert np.linalg.norm(place_of(curve, place) - place) < 1e-6


@pytest.mark.parametrize("size", SIZES)
@given(st.integers(0, 100_000))
def test_curves_meet_where_their_chords_cross(size: float, seed: int) -> None:
    """As often as fine chords of them do in Shapely, but for those that nearly touch; and each point lies on both."""
    dice = np.random.default_rng(seed)
    first, second = drawn(dice, size), drawn(dice, size)
    found = meetings(first, second)
    for point, curve in ((one, curve) for one in found for curve in (first, second)):
        assert np.linalg.norm(place_of(curve, point) - point) < 1e-6 + 1e-9 * size
    crossed = shapely.intersection(chorded(first, size), chorded(second, size))
    crossings = shapely.get_parts(crossed)
    crossings = crossings[~shapely.is_empty(crossings)]
    near = shapely.MultiPoint(np.array(found).reshape(-1, 3)[:, :2])
    assert all(shapely.distance(one, near) < 0.02 * size for one in crossings)
    if len(crossings) != len(found):
        assert _nearly_touch(found, first, second, size), (len(crossings), len(found))


def _nearly_touch(found: list[np.ndarray], first: Curve, second: Curve, size: float) -> bool:
    """Whether the curves cross at so small an angle somewhere that chords may do otherwise, or at an end."""
    for point in found:
        ways = []
        for curve in (first, second):
            at, t = closest(curve, point)
            ways.append(curve.pieces[at].slope(t))
            if min(np.linalg.norm(point - end) for end in (curve.start, curve.end)) < 1e-4 * size:
                return True
        a, b = (way / np.linalg.norm(way) for way in ways)
        if abs(a[0] * b[1] - a[1] * b[0]) < 0.05:
            return True
    return False


@pytest.mark.parametrize("size", SIZES)
@given(st.integers(0, 100_000), st.sampled_from([-0.2, -0.05, -0.01, 0.01, 0.05, 0.2]))
def test_a_parallel_keeps_its_distance_or_is_refused(size: float, seed: int, share: float) -> None:
    curve = drawn(np.random.default_rng(seed), size)
    line = chorded(curve, size)
    if not (curve.closed or line.is_simple):
        return
    distance = share * size
    try:
        made = offset(curve, distance)
    except Failure as failure:
        assert "parallel" in failure.message or "too uneven" in failure.message
        return
    gaps = shapely.distance(shapely.points(sampled(made)[:, :2]), line)
    missed = 2e-5 * size
    assert gaps.min() > abs(distance) - missed
    assert gaps.max() < abs(distance) + missed


@pytest.mark.parametrize("size", [1e-3, 1.0, 1e3])
def test_a_bend_too_tight_for_its_parallel_is_refused_whatever_its_size(size: float) -> None:
    """In the parabola y = x² (a Bézier curve of three points) the radius at the vertex is 1/2 (elementary calculus)."""
    parabola = bezier(size * np.array([[-2.0, 4, 0], [0, -4, 0], [2, 4, 0]]))
    assert offset(parabola, 0.49 * size).length < parabola.length
    with pytest.raises(Failure, match="runs into itself near"):
        offset(parabola, 0.6 * size)
    assert offset(parabola, -0.6 * size).length > parabola.length


def test_a_curve_that_crosses_itself_has_a_parallel_but_not_of_too_tight_a_bend() -> None:
    crossing = polyline(np.array([[0.0, 0, 0], [100, 0, 0], [100, 80, 0], [50, -40, 0]]))
    beside = offset(crossing, -5.0)
    turns = [math.pi / 2, math.pi - math.atan2(50, 120)]  # at both corners it is on the outer side
    assert beside.length == pytest.approx(crossing.length + 5 * sum(turns), abs=1e-9)
    bent = joined(
        [crossing, bezier(np.array([[50.0, -40, 0], [30, -88, 0], [70, -88, 0], [70, -40, 0]]))]
    )
    assert offset(bent, 4.0).length < bent.length < offset(bent, -8.0).length
    with pytest.raises(Failure, match="runs into itself near"):
        offset(bent, 8.0)


ALONG = {
    "lines": ("line((0 mm, 0 mm), (10 mm, 0 mm))", "line((15 mm, 0 mm), (5 mm, 0 mm))"),
    "arcs": ("arc((0 mm, 0 mm), 10 mm, 0°, 100°)", "arc((0 mm, 0 mm), 10 mm, 200°, 50°)"),
    "circles": ("circle(10 mm)", "circle(10 mm).turn(40°)"),
    "ellipses": ("ellipse(30 mm, 10 mm)", "reverse(ellipse(30 mm, 10 mm).turn(180°))"),
    "a spline and a part of it": ("spline([(0 mm, 0 mm), (10 mm, 5 mm), (20 mm, -5 mm), (30 mm, 0 mm)])", "trim(spline([(0 mm, 0 mm), (10 mm, 5 mm), (20 mm, -5 mm), (30 mm, 0 mm)]), 13 mm, 19 mm)"),
    "a side of an outline": ("polyline([(0 mm, 0 mm), (10 mm, 0 mm), (10 mm, 10 mm)])", "line((10 mm, 4 mm), (10 mm, 30 mm))"),
    "helices": ("helix(10 mm, 20 mm, 3)", "helix(10 mm, 20 mm, 3)"),
}  # fmt: skip


PLACED = ["", ".turn(33°).move(1200 mm, -700 mm)", ".scale(10)", ".turn(200°).scale(0.1)"]


@pytest.mark.parametrize("placed", PLACED)
@pytest.mark.parametrize(("one", "other"), ALONG.values(), ids=ALONG)
def test_curves_that_run_along_each_other_meet_nowhere_in_particular(
    one: str, other: str, placed: str
) -> None:
    outcome = outcome_of(f"a = {one}{placed}\nb = {other}{placed}\nm = meet(a, b)\nn = meet(b, a)")
    said = [problem.message for problem in outcome.problems]
    assert len(said) == 2 and all("run along each other near" in one for one in said), said


@pytest.mark.parametrize("placed", PLACED)
@pytest.mark.parametrize(
    ("one", "other", "count"),
    [
        ("circle(10 mm)", "circle(10 mm).move(20 mm, 0 mm)", 1),
        ("circle(10 mm)", "line((-20 mm, 10 mm), (20 mm, 10 mm))", 1),
        ("line((0 mm, 0 mm), (10 mm, 0 mm))", "line((10 mm, 0 mm), (20 mm, 0 mm))", 1),
        ("arc((0 mm, 0 mm), 10 mm, 0°, 90°)", "arc((0 mm, 0 mm), 10 mm, 90°, 180°)", 1),
        ("arc((0 mm, 0 mm), 10 mm, 0°, 90°)", "line((0 mm, 10 mm), (-20 mm, 10 mm))", 1),
        ("arc((0 mm, 0 mm), 10 mm, 0°, 90°)", "arc((0 mm, 20 mm), 10 mm, 270°, 180°)", 1),
        (
            "bezier([(0 mm, 0 mm), (5 mm, 9 mm), (9 mm, 0 mm)])",
            "line((9 mm, 0 mm), (13 mm, -9 mm))",
            1,
        ),
        ("arc((0 mm, 0 mm), 10 mm, 0°, 180°)", "line((-10 mm, 0 mm), (10 mm, 0 mm))", 2),
        ("ellipse(30 mm, 10 mm)", "circle(10 mm)", 2),
        ("line((0 mm, 0 mm), (10 mm, 0 mm))", "line((0 mm, 1 mm), (10 mm, 1 mm))", 0),
    ],
)
def test_curves_that_touch_or_go_on_from_each_other_meet_there(
    one: str, other: str, count: int, placed: str
) -> None:
    outcome = outcome_of(f"n = len(meet({one}{placed}, {other}{placed}))")
    assert not outcome.problems and outcome.lines[0].value == count


@pytest.mark.parametrize("count", [7, 60, 1_000])
@pytest.mark.parametrize("size", [1.0, 100.0, 10_000.0])
def test_parallels_of_regular_polygons_are_those_of_formulas(count: int, size: float) -> None:
    """Outwards by Steiner's formula (area + perimeter d + π d²); inwards they are the polygon about a smaller circle. Fine
    ones bend so little at their corners that lines beside each other are nearly one."""
    turns = np.linspace(0, 2 * math.pi, count, endpoint=False)
    corners = np.column_stack([size * np.cos(turns), size * np.sin(turns), 0 * turns])
    outline = polyline(np.concatenate([corners, corners[:1]]))
    region = from_curves(outline, [])
    tangent = math.tan(math.pi / count)
    inner, perimeter = (
        size * math.cos(math.pi / count),
        2 * count * size * math.sin(math.pi / count),
    )
    for share in (1e-4, 0.01, 0.2):
        d = share * size
        grown, shrunk = offset_region(region, d), offset_region(region, -d)
        assert grown.area == pytest.approx(region.area + perimeter * d + math.pi * d * d, rel=1e-9)
        assert grown.perimeter == pytest.approx(perimeter + 2 * math.pi * d, rel=1e-9)
        assert shrunk.area == pytest.approx(count * tangent * (inner - d) ** 2, rel=1e-9)
        assert grown.within == shrunk.within == 0


def test_a_fine_outline_whose_bay_closes_is_grown_in_time_and_says_how_nearly() -> None:
    """A ring that is all but closed, of hundreds of lines: grown, its mouth closes. Against Shapely."""
    turns = np.linspace(0.02, 2 * math.pi - 0.02, 300)
    ring = np.concatenate([np.column_stack([r * np.cos(some), r * np.sin(some), 0 * some]) for r, some in ((100, turns), (90, turns[::-1]))])  # fmt: skip
    grown = offset_region(from_curves(close(polyline(ring)), []), 5.0)
    wanted = shapely.Polygon(ring[:, :2]).buffer(5.0, quad_segs=200)
    assert len(wanted.interiors) == 1 and len(grown.outlines) == 2
    assert 0 < grown.within <= 1e-3
    assert grown.area == pytest.approx(wanted.area, rel=grown.within)


@pytest.mark.parametrize("kind", ["lines", "arcs", "cubics"])
@pytest.mark.parametrize("seed", range(3))
def test_each_place_of_the_parallel_of_a_fine_chain_is_at_its_distance(
    kind: str, seed: int
) -> None:
    """Chains whose pieces bend at their ends by tenths of a degree and by much, one way and the other, against Shapely's
    distances from a fine polygon."""
    dice = np.random.default_rng(seed)
    count = 20 if kind == "cubics" else int(dice.choice([30, 120]))
    size = float(dice.choice([1.0, 100.0, 5_000.0]))
    turns = np.linspace(0, 2 * math.pi, count, endpoint=False)
    out = size * (1 + 0.05 * np.sin(5 * turns) + dice.normal(0, 1e-5, count))
    ends = np.column_stack([out * np.cos(turns), out * np.sin(turns), 0 * turns])
    curve = close(
        joined([bowed(a, b, kind, dice) for a, b in itertools.pairwise([*ends, ends[0]])])
    )
    fine = shapely.LinearRing(curve.points(1e-7 * size)[:-1, :2])
    for d in (0.004 * size, -0.004 * size):
        parallel = offset(curve, d)
        places = parallel.points(1e-6 * size)[:-1, :2]
        assert shapely.distance(fine, shapely.points(places)) == pytest.approx(
            abs(d), abs=2e-6 * size
        )
        assert parallel.closed and shapely.LinearRing(places).is_simple
        larger = shapely.Polygon(places).area > shapely.Polygon(fine).area
        assert larger == (d > 0)


def bowed(a: np.ndarray, b: np.ndarray, kind: str, dice: np.random.Generator) -> Curve:
    """From one place to another: a line, an arc or a cubic that is bowed a little, to one side or the other."""
    along = (b - a) / 3
    across = np.array([-along[1], along[0], 0.0]) * float(dice.choice([-0.2, -0.01, 0.01, 0.2]))
    if kind == "lines":
        return polyline(np.array([a, b]))
    if kind == "arcs":
        return arc_through(a, (a + b) / 2 + across, b)
    return bezier(np.array([a, a + along + across, b - along - across / 2, b]))
