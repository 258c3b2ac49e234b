"""What is put together of parts is the whole, and what two things share is counted once: whatever
their turn, their division, and how they touch."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from ovolo.geometry.curves.corners import filleted
from ovolo.geometry.placement import Matrix, moved, turned
from ovolo.geometry.regions import region
from ovolo.geometry.regions.region import Region
from ovolo.geometry.solids import booleans, primitives
from ovolo.geometry.solids.comparing import clash
from ovolo.geometry.solids.solid import Solid
from ovolo.outcome.outcome import outcome_of
from tests.sheets import value

Z = np.array([0.0, 0.0, 1.0])
ANGLES = st.one_of(st.sampled_from([0.0, math.pi / 6, math.pi / 2, 1.0]), st.floats(-3.1, 3.1))
STEPS = st.integers(-8, 8).map(float)


def motion(angle: float, x: float, y: float, about: np.ndarray = Z) -> Matrix:  # type: ignore[type-arg]
    return moved(np.array([x, y, 0.0])) @ turned(angle, about, np.zeros(3))


def rounded(width: float, height: float, radius: float) -> Region:
    plate = region.rectangle(width, height)
    return region.with_corners(plate, lambda curve, at: filleted(curve, radius, at))


FIGURES = st.one_of(
    st.tuples(st.floats(5, 30), st.floats(5, 30)).map(lambda s: region.rectangle(*s)),
    st.floats(3, 15).map(region.disc),
    st.sampled_from([5.0, 8.0, 10.0]).map(region.disc),
    st.tuples(st.floats(3, 20), st.floats(2, 8)).map(lambda s: region.slot(*s)),
    st.tuples(st.sampled_from([0.0, 5.0]), st.floats(9, 20), ANGLES, st.floats(0.5, 5)).map(
        lambda s: region.sector(s[0], s[1], s[2], s[2] + s[3])
    ),
    st.tuples(st.integers(3, 9), st.floats(5, 15)).map(lambda s: region.regular_polygon(*s)),
    st.just(region.star(5, 15.0, 7.0)),
    st.just(rounded(20.0, 16.0, 3.0)),
)


@settings(max_examples=25)
@given(FIGURES, FIGURES, ANGLES, STEPS, STEPS, ANGLES)
def test_two_figures_count_once_what_they_share(
    a: Region, b: Region, angle: float, x: float, y: float, turn: float
) -> None:
    """|A| + |B| = |A + B| + |A & B| for areas, and for perimeters where they cross or touch; places
    on whole mm, so that sides often run along each other."""
    a, b = a.placed(motion(turn, 0, 0)), b.placed(motion(turn, 0, 0) @ motion(angle, x, y))
    union, both, rest = (region.combined(operator, a, b) for operator in "+&-")
    assert union.exact and both.exact and rest.exact
    shared = both.area if not both.is_empty else 0.0
    left = rest.area if not rest.is_empty else 0.0
    assert union.area + shared == pytest.approx(a.area + b.area, rel=1e-9)
    assert left + shared == pytest.approx(a.area, rel=1e-9, abs=1e-6)
    assume(shared > 1e-3)
    assert union.perimeter + both.perimeter == pytest.approx(a.perimeter + b.perimeter, rel=1e-7)


@settings(max_examples=6)
@given(st.integers(2, 40), ANGLES, st.floats(0, 90), st.floats(95, 200))
def test_sectors_of_a_ring_are_the_ring(n: int, turn: float, inner: float, outer: float) -> None:
    inner = 0.0 if inner < 1 else inner
    piece = region.sector(inner, outer, 0.0, 2 * math.pi / n)
    pieces = [piece.placed(motion(turn + k * 2 * math.pi / n, 3.0, 4.0)) for k in range(n)]
    whole = region.combined("+", *pieces)
    assert whole.area == pytest.approx(math.pi * (outer**2 - inner**2), rel=1e-9)
    assert whole.perimeter == pytest.approx(2 * math.pi * (outer + inner), rel=1e-9)


@settings(max_examples=15)
@given(st.integers(1, 30), ANGLES, st.floats(0.01, 500), st.floats(1, 300))
def test_a_row_of_equal_parts_is_one_piece(n: int, turn: float, width: float, depth: float) -> None:
    """Divided by n: any division leaves noise in the last digits."""
    width = max(width, 0.01 * n)
    part = region.rectangle(width / n, depth)
    pieces = [part.placed(motion(turn, 0, 0) @ motion(0, (k + 0.5) * width / n, 0)) for k in range(n)]  # fmt: skip
    whole = region.combined("+", *pieces)
    assert whole.perimeter == pytest.approx(2 * (width + depth), rel=1e-9)
    solids = [primitives.extrusion(one, 7.0) for one in pieces]
    joined = booleans.combined("+", *solids)  # type: ignore[arg-type]
    surface = 2 * width * depth + 2 * (width + depth) * 7
    assert joined.area == pytest.approx(surface, rel=1e-9)
    assert joined.mesh.area() == pytest.approx(surface, rel=1e-6) and joined.shape.closed


@pytest.mark.parametrize("degrees", [7, 13, 45, 73, 151, 233, 359])
@pytest.mark.parametrize("about", [(0, 0, 1), (1, 2, 3), (1, 1, 0)])
def test_boxes_face_to_face_keep_no_wall_between_them(degrees: int, about: tuple[int, ...]) -> None:
    place = turned(math.radians(degrees), np.array(about, dtype=float), np.array([9.0, -4.0, 2.0]))
    one, other = primitives.box(30.0, 20.0, 10.0), primitives.box(30.0, 20.0, 10.0)
    beside = other.placed(moved(np.array([30.0, 0.0, 0.0])))
    a, b = one.placed(place), beside.placed(place)
    assert isinstance(a, Solid) and isinstance(b, Solid)
    joined = booleans.combined("+", a, b)
    assert joined.area == pytest.approx(2 * (60 * 20 + 60 * 10 + 20 * 10), rel=1e-9)
    assert joined.mesh.area() == pytest.approx(joined.area, rel=1e-9)
    assert clash(a, b) == 0


@pytest.mark.parametrize("degrees", range(1, 90, 8))
def test_a_flush_bore_leaves_no_skin(degrees: int) -> None:
    """The bore ends level with both faces. Surface: two faces less two discs, walls, the bore."""
    place = f"turn({degrees}°, about = (1, 2, 3)).move(3 mm, 5 mm, 7 mm)"
    made = f"box(40 mm, 30 mm, 10 mm).{place} - cylinder(5 mm, 10 mm).{place}"
    surface = 2 * (1200 - math.pi * 25) + 2 * (40 + 30) * 10 + 2 * math.pi * 5 * 10
    assert value(f"area({made})") == pytest.approx(surface, rel=1e-9)
    assert value(f"volume({made})") == pytest.approx((1200 - math.pi * 25) * 10, rel=1e-9)


@given(ANGLES, st.floats(1, 40), st.floats(1, 40), st.floats(0.5, 20))
def test_a_half_and_the_other_are_the_whole(angle: float, w: float, d: float, at: float) -> None:
    made = f"extrude(rect({w} mm, {d} mm) - disc({min(w, d) / 3} mm), 20 mm).turn({angle} rad)"
    halves = f"sum([volume(s) for s in split({made}, way = z, at = (0 mm, 0 mm, {at} mm))])"
    assert value(halves if at < 20 else f"volume({made})") == pytest.approx(value(f"volume({made})"), rel=1e-9)  # fmt: skip


@example(-3.348251963381937, math.pi / 6)
@example(-7.364651156923359, 0.0)
@example(7.370182435847347, 1.0)
@given(st.floats(-9, 9).filter(lambda d: abs(d) > 0.2), ANGLES)
def test_an_offset_is_that_of_shapely(distance: float, angle: float) -> None:
    """Shapely's buffer on fine chords, joins round: outlines that part, close and vanish; and those of which three all
    but meet in one place."""
    outline = [(0, 0), (60, 0), (60, 40), (40, 40), (40, 22), (20, 22), (20, 40), (0, 40)]
    points = np.array([(*p, 0.0) for p in outline])
    plate = region.from_points(points, []).placed(motion(angle, 7, 9))
    holed = region.combined("-", plate, region.disc(4.0).placed(motion(angle, 7, 9) @ motion(0, 10, 20)))  # fmt: skip
    fine = shapely.Polygon(outline) - shapely.Point(10, 20).buffer(4.0, quad_segs=2000)
    wanted = fine.buffer(distance, quad_segs=2000).area
    found = region.offset_region(holed, distance)
    assert found.area == pytest.approx(wanted, rel=1e-5) and found.within <= 1e-3


def test_what_is_cut_hundreds_of_times_one_after_the_other_is_exact() -> None:
    holes = "fold((a, k) -> a - disc(1 mm).move(k * 3 mm, 0 mm), rect(3 m, 10 mm), 1 .. 150)"
    outcome = outcome_of(
        f"r = {holes}\na = area(r)\np = perimeter(r)\nv = volume(extrude(r, 3 mm))", time_limit=60
    )
    assert not outcome.problems, [problem.message for problem in outcome.problems]
    area, around, volume = (line.result for line in outcome.lines[1:])
    assert area and around and volume
    assert area.within == around.within == volume.within == 0
    assert area.value == pytest.approx(30_000 - 150 * math.pi, rel=1e-12)
    assert around.value == pytest.approx(6020 + 300 * math.pi, rel=1e-12)
    assert volume.value == pytest.approx(3 * (30_000 - 150 * math.pi), rel=1e-12)
