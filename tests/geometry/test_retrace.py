"""Exact outlines of overlaid regions, against Shapely on fine chords and against closed forms."""

import functools
import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from ovolo.geometry.curves.pieces import Arc, Straight
from ovolo.geometry.placement import moved, turned
from ovolo.geometry.regions import region
from ovolo.problems import Failure
from ovolo.running.evaluate import running


def placed(what: region.Region, x: float, y: float, angle: float = 0.0) -> region.Region:
    turn = turned(angle, np.array([0.0, 0.0, 1.0]), np.zeros(3))
    return what.placed(moved(np.array([x, y, 0.0])) @ turn)


def finely(what: region.Region) -> shapely.Geometry:
    """The exact outlines on chords a thousand times finer."""
    # The last point is the first but for its last digit, which would make a loop of its own.
    rings = [shapely.Polygon(curve.points(5e-5)[:-1, :2]) for curve in what.curves()]
    return functools.reduce(shapely.symmetric_difference, rings)


def test_two_discs_meet_in_a_lens() -> None:
    """The lens of two circles of radius r, d apart: 2 r² acos(d/2r) - d/2 √(4r² - d²)."""
    a, b = region.disc(10.0), placed(region.disc(10.0), 10.0, 0.0)
    lens = 200 * math.acos(0.5) - 5 * math.sqrt(300)
    both = region.combined("&", a, b)
    assert both.area == pytest.approx(lens, rel=1e-12)
    assert both.perimeter == pytest.approx(2 * 10 * 2 * math.pi / 3, rel=1e-12)
    assert region.combined("+", a, b).area == pytest.approx(200 * math.pi - lens, rel=1e-12)
    assert all(isinstance(piece, Arc) for curve in both.outlines for piece in curve.pieces)


def test_a_plate_with_holes_keeps_its_circles() -> None:
    plate = region.combined(
        "-", region.rectangle(300, 200), placed(region.disc(20), -80, 0), placed(region.slot(60, 15), 60, 10, 0.4)
    )  # fmt: skip
    assert plate.area == pytest.approx(
        60_000 - 400 * math.pi - (60 * 30 + 225 * math.pi), rel=1e-12
    )
    kinds = [[type(piece) for piece in curve.pieces] for curve in plate.outlines]
    assert kinds[0] == [Straight] * 4
    assert sorted(map(len, kinds[1:])) == [1, 4]


def test_overlays_of_overlays_stay_exact() -> None:
    lens = region.combined("&", region.disc(10.0), placed(region.disc(10.0), 10.0, 0.0))
    x, y = 3 + 5 * math.cos(0.7), 4 + 5 * math.sin(0.7)
    ring = region.combined("-", placed(lens, 3.0, 4.0, 0.7), placed(region.disc(2.0), x, y))
    outer = region.combined("+", ring, placed(region.disc(1.0), x, y))
    assert outer.area == pytest.approx(lens.area - 3 * math.pi, rel=1e-12)
    assert len(outer.outlines) == 3


@pytest.mark.parametrize("tolerance", [0.01, 0.1, 1.0, 5.0])
@pytest.mark.parametrize(
    ("outer", "inner", "x", "y"),
    [(60.0, 1.0, 3.0, 1.0), (74.0, 34.0, 2.2, 0.4), (94.264, 41.95, 26.7, -0.3), (80.825, 19.69, 30.6, -0.6), (48.0, 23.67, 28.4, 0.2), (37.0, 25.24, 1.3, -0.5)],
)  # fmt: skip
def test_what_is_cut_from_a_ring_and_put_back_is_exact(
    tolerance: float, outer: float, inner: float, x: float, y: float
) -> None:
    """Two rings, all of whose circles are in each result: what they share by the lens of two circles (half chord and
    segments, as in any handbook of geometry), at any tolerance."""
    apart = math.hypot(x, y)
    area = math.pi * (outer**2 - inner**2)
    shared = lens(outer, outer, apart) - 2 * lens(outer, inner, apart) + lens(inner, inner, apart)
    with running(tolerance):
        ring = region.combined("-", region.disc(outer), region.disc(inner))
        other = placed(ring, x, y)
        cut, both = region.combined("-", ring, other), region.combined("&", ring, other)
        made = {
            area - shared: [cut, region.combined("&", ring, cut)],
            shared: [both],
            area: [region.combined("+", cut, both)],
            2 * area - shared: [region.combined("+", cut, other)],
        }
        for wanted, regions in made.items():
            for one in regions:
                assert one.exact and one.area == pytest.approx(wanted, rel=1e-10)
                assert all(curve.closed for curve in one.outlines)


def lens(a: float, b: float, apart: float) -> float:
    """The area that two circles have in common."""
    if apart >= a + b:
        return 0.0
    if apart <= abs(a - b):
        return math.pi * min(a, b) ** 2
    found = 0.0
    for one, other in ((a, b), (b, a)):
        half = math.acos((apart**2 + one**2 - other**2) / (2 * apart * one))
        found += one**2 * (half - math.sin(half) * math.cos(half))
    return found


Made = tuple[str, tuple[float, ...], tuple[float, float, float]]
HARD: dict[str, tuple[float, Made, str, Made, Made]] = {
    "a disc that all but lies within another": (0.1, ("disc", (10,), (1, 0, 0)), "", ("disc", (10,), (1, 0, 0)), ("disc", (5,), (0, 5, 0))),
    "an edge that touches a circle": (0.1, ("disc", (10,), (0, 5, math.pi / 4)), "+", ("disc", (8,), (0, 1, 0)), ("sector", (0, 30, 0, math.pi / 2), (-5, -5, 0))),
    "a circle between two edges": (0.01, ("disc", (4,), (-5, 2, math.pi / 4)), "+", ("disc", (12,), (-5, -5, 0)), ("rectangle", (24, 36), (-5, 2, 0))),
    "a corner beyond an arc": (0.1, ("sector", (0, 25, 0, math.pi / 2), (5, 0, 0)), "+", ("slot", (40, 5), (2, -5, 0)), ("rectangle", (8, 60), (2, -5, 0))),
    "a disc that touches a slot from within": (1.0, ("slot", (10, 12), (5, 0, 0)), "", ("disc", (10,), (5, 2, 0)), ("disc", (10,), (5, 2, 0))),
    "pieces that touch in a point": (0.1, ("slot", (16, 5), (2, 5, 0)), "-", ("disc", (10,), (0, 0, math.pi / 4)), ("rectangle", (16, 8), (5, -5, 0.3))),
    "a figure that the overlay refuses": (0.1, ("rectangle", (36, 24), (0, 0, 0)), "&", ("sector", (10, 16, 0, 4), (0, 2, 0.3)), ("sector", (0, 14, 0, 1), (1, 2, 0))),
    "parameters past an end": (0.1, ("sector", (4, 20, 0, 1), (10, 10, 0)), "+", ("slot", (30, 20), (10, 2, 0)), ("sector", (3, 22, 0, math.pi / 2), (2.5, 10, 0))),
}  # fmt: skip


@pytest.mark.parametrize(("turn", "size"), [(0.0, 1), (0.7, 10)])
@pytest.mark.parametrize(
    ("tolerance", "first", "operator", "second", "third"), HARD.values(), ids=HARD
)
def test_what_all_but_touches_is_counted_once_and_nothing_is_lost(
    tolerance: float, first: Made, operator: str, second: Made, third: Made, turn: float, size: int
) -> None:
    """Inclusion and exclusion; and what is put together and parted again is as before. Moved and turned, and ten times
    as large, too."""

    def made(
        name: str, sizes: tuple[float, ...], place: tuple[float, float, float]
    ) -> region.Region:
        lengths = [size * one for one in sizes[:2]]
        x, y, angle = place
        there = placed(getattr(region, name)(*lengths, *sizes[2:]), size * x, size * y, angle)
        return placed(there, 7.0 * turn, 9.0 * turn, turn)

    with running(size * tolerance):
        a, b = made(*first), made(*third)
        if operator:
            a = region.combined(operator, a, made(*second))
        both, shared = region.combined("+", a, b), region.combined("&", a, b).area
        parted = [region.combined("-", one, b) for one in (a, both)]
        areas = (
            both.area,
            region.combined("-", b, a).area,
            *(one.area for one in parted if not one.is_empty),
        )
        expected = (a.area + b.area - shared, b.area - shared, a.area - shared, a.area - shared)
        assert areas == pytest.approx(expected[: len(areas)], rel=1e-8, abs=1e-6 * size**2)
        assert both.exact and both.flat.is_valid
        assert all(
            region.combined("&", one, b).area < 0.05 * size**2 for one in parted if not one.is_empty
        )


SLIVERS: dict[str, tuple[Made, Made, Made]] = {
    "an arc along an edge": (("disc", (6,), (2.5, 0, math.pi / 2)), ("sector", (0, 18, 0, math.pi), (-10, 1, 0)), ("slot", (30, 6), (2, 10, math.pi / 2))),
    "an arc that ends on another": (("disc", (10,), (0, 1, math.pi / 2)), ("disc", (12,), (2, 2, 0)), ("sector", (0, 22, 0, math.pi), (2.5, 1, 0))),
    "two sides in one line": (("disc", (15,), (0, 0, 0)), ("disc", (8,), (5, 10, math.pi / 4)), ("disc", (5,), (10, 1, 0))),
}  # fmt: skip


@pytest.mark.parametrize(("first", "second", "third"), SLIVERS.values(), ids=SLIVERS)
def test_where_sides_do_not_tell_arcs_apart_no_more_than_a_sliver_is_missed(
    first: Made, second: Made, third: Made
) -> None:
    """As docs/language.md says; by inclusion and exclusion, at the usual tolerance."""
    x, y, b = (placed(getattr(region, name)(*sizes), *place) for name, sizes, place in (first, second, third))  # fmt: skip
    a = region.combined("&", x, y)
    both, shared = region.combined("+", a, b).area, region.combined("&", a, b).area
    assert abs(both - (a.area + b.area - shared)) < 0.06
    assert abs(region.combined("-", b, a).area - (b.area - shared)) < 0.06


def test_a_disc_that_all_but_lies_within_another_adds_what_lies_outside() -> None:
    """At a tolerance as large as what juts out; the lens of two circles."""
    with running(0.1):
        whole = region.combined(
            "+", placed(region.disc(10.0), 1, 0), placed(region.disc(5.0), 0, 5)
        )
        wanted = 125 * math.pi - lens(10.0, 5.0, math.hypot(1, 5))
        assert whole.area == pytest.approx(wanted, rel=1e-12)


_SHAPES = st.one_of(
    st.floats(2, 30).map(region.disc),
    st.tuples(st.floats(3, 50), st.floats(3, 50)).map(lambda s: region.rectangle(*s)),
    st.tuples(st.floats(3, 40), st.floats(2, 10)).map(lambda s: region.slot(*s)),
    st.floats(0.3, 5.5).map(lambda a: region.sector(5.0, 25.0, 0.0, a)),
)
_PLACE = st.tuples(st.floats(-25, 25), st.floats(-25, 25), st.floats(-3, 3))


def crossing(a: region.Region, b: region.Region) -> bool:
    """Whether outlines cross rather than run along each other within the chord tolerance, where
    chords cannot tell which of two curves lies outside."""
    x, y = (shapely.unary_union([shapely.LineString(c.points(5e-3)[:, :2]) for c in r.curves()]) for r in (a, b))  # fmt: skip
    return bool(x.buffer(0.12).intersection(y.buffer(0.12)).area < 2.0)


@given(_SHAPES, _SHAPES, _PLACE, st.sampled_from("+-&"))
@settings(max_examples=40, deadline=None)
def test_exact_areas_agree_with_fine_chords(
    a: region.Region, b: region.Region, place: tuple[float, float, float], operator: str
) -> None:
    """Shapely on chords of 5e-5 mm: areas agree to what such chords can miss, and to what is told of
    an area that is not exact (of outlines that all but touch)."""
    other = placed(b, *place)
    assume(crossing(a, other))
    try:
        made = region.combined(operator, a, other)
    except Failure:
        assume(False)
    x, y = finely(a), finely(other)
    fine = {"+": x.union, "-": x.difference, "&": x.intersection}[operator](y)
    missed = 5e-5 * (a.perimeter + b.perimeter) + 1e-6 + made.within * made.area
    assert made.area == pytest.approx(fine.area, abs=missed)
    assert all(curve.closed for curve in made.outlines)


@given(_SHAPES, _SHAPES, _PLACE)
@settings(max_examples=25, deadline=None)
def test_union_and_intersection_have_the_areas_of_both(
    a: region.Region, b: region.Region, place: tuple[float, float, float]
) -> None:
    other = placed(b, *place)
    assume(crossing(a, other))
    try:
        common = region.combined("&", a, other)
        both, missed = common.area, 0.02 + common.within * common.area
    except Failure:
        both, missed = 0.0, 0.02
    union = region.combined("+", a, other)
    missed += union.within * union.area
    assert union.area + both == pytest.approx(a.area + b.area, rel=1e-9, abs=missed)


def test_a_turned_and_stretched_region_has_its_own_area() -> None:
    half = region.disc(10.0).placed(np.diag([2.0, 1.0, 1.0, 1.0]))
    assert half.area == pytest.approx(200 * math.pi, rel=1e-12)
    assert half.perimeter == pytest.approx(96.884_482_205_476_8, rel=1e-9), "SciPy: 80 E(3/4)"


def test_offsets_stay_exact_where_outlines_keep_apart() -> None:
    plate = region.combined("-", region.rectangle(300, 200), region.disc(20))
    grown = region.offset_region(plate, 5.0)
    assert grown.area == pytest.approx(310 * 210 - (4 - math.pi) * 25 - 225 * math.pi, rel=1e-12)
    shrunk = region.offset_region(plate, -5.0)
    assert shrunk.area == pytest.approx(290 * 190 - 625 * math.pi, rel=1e-12)
