"""Sweeps, lofts and bent solids: what stays the same however they are turned, and what is refused."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ovolo.geometry.curves import drafting
from ovolo.geometry.placement import moved, turned
from ovolo.geometry.regions import region
from ovolo.geometry.solids import primitives, shaping
from ovolo.geometry.solids.edge_profile import Finish
from ovolo.geometry.solids.extrude_to import extruded_up_to
from ovolo.geometry.solids.finished_extrusion import finished_extrusion
from ovolo.geometry.solids.lofting import loft
from ovolo.geometry.solids.revolving import revolution
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.solids.sweeping import _comes_near, pipe, sweep
from ovolo.geometry.surfaces.surface import by_function
from ovolo.problems import Failure

Z = np.array([0.0, 0.0, 1.0])


def at(x: float, y: float, z: float = 0.0) -> np.ndarray:  # type: ignore[type-arg]
    return moved(np.array([x, y, z]))


def test_a_sweep_is_drawn_to_the_right_and_up() -> None:
    profile = region.rectangle(4, 2).placed(at(10, 3))
    bar = sweep(profile, drafting.straight(np.zeros(3), np.array([0.0, 50, 0])))
    assert bar.bounds().tolist() == [[8, 0, 2], [12, 50, 4]]


def test_it_stays_upright_on_a_rising_path_or_turns_as_little_as_can_be() -> None:
    path = drafting.helix(100, lambda turn: 300.0, 0.75)
    upright = sweep(region.rectangle(6, 20), path)
    free = sweep(region.rectangle(6, 20), path, upright=False)
    assert upright.volume == pytest.approx(120 * path.length, abs=0.05 * upright.area)
    assert free.volume == pytest.approx(upright.volume, abs=0.05 * free.area)
    end = upright.mesh.corners[upright.mesh.corners[:, 1] < -99]
    assert np.ptp(end[:, 2]) > 10


def test_a_twist_keeps_its_volume_and_turns_the_end() -> None:
    path = drafting.straight(np.zeros(3), np.array([0.0, 0, 100]))
    plain = sweep(region.rectangle(20, 10), path)
    twisted = sweep(region.rectangle(20, 10), path, twist=math.pi / 2)
    assert twisted.volume == pytest.approx(plain.volume, rel=5e-3)
    with pytest.raises(Failure, match="does not come round"):
        sweep(region.rectangle(2, 1), drafting.circular(np.zeros(3), 50, 0, 2 * math.pi), twist=1.0)


def test_sizes_change_along_the_way() -> None:
    path = drafting.straight(np.zeros(3), np.array([60.0, 0, 0]))
    cone = sweep(region.rectangle(10, 10), path, size=lambda share: 1 - share / 2)
    assert cone.volume == pytest.approx(60 / 3 * (100 + 50 + 25), rel=2e-3)
    with pytest.raises(Failure, match=r"the size at 1 of the way is 0; it must|the size at 1 of"):
        sweep(region.rectangle(10, 10), path, size=lambda share: 1 - share)


def test_closed_paths_meet_without_a_seam() -> None:
    for path in (
        drafting.circular(np.zeros(3), 50, 0, 2 * math.pi),
        drafting.elliptic(60, 35),
        drafting.spline(np.array([[0, 0, 0], [60, 10, 20], [70, 60, -10], [10, 70, 15], [0, 0, 0.0]]), None, None),
    ):  # fmt: skip
        for upright in (True, False):
            made = sweep(region.rectangle(6, 4), path, upright=upright)
            assert made.shape.closed
            assert made.volume == pytest.approx(24 * path.length, rel=0.02)


def test_where_it_overlaps_itself_nothing_counts_twice() -> None:
    """Coils closer than their wire fill a tube: less than the wire's own volume."""
    path = drafting.helix(20, lambda turn: 6.0, 5)
    coil = pipe(path, 4)
    assert coil.shape.closed
    assert coil.volume < 0.9 * math.pi * 16 * path.length
    tube = math.pi * (24**2 - 16**2) * (5 * 6 + 8)
    assert coil.volume < tube


def test_where_it_bends_tighter_than_it_is_wide_it_stays_whole() -> None:
    made = pipe(drafting.helix(3, lambda turn: 20.0, 2), 4)
    assert made.shape.closed and made.volume > math.pi * 16 * 40


def test_corners_are_mitred_or_round() -> None:
    path = drafting.polyline(np.array([[0, 0, 0], [100, 0, 0], [100, 80, 0], [100, 80, 60.0]]))
    mitred = sweep(region.rectangle(10, 6), path)
    assert mitred.volume == pytest.approx(60 * 240, rel=1e-9)
    rounded = sweep(region.rectangle(10, 6), path, round_corners=True)
    assert rounded.shape.closed and rounded.volume < mitred.volume
    with pytest.raises(Failure, match="turns straight back"):
        sweep(region.disc(2), drafting.polyline(np.array([[0, 0, 0], [50, 0, 0], [20, 0, 0.0]])))


@given(st.floats(-1.2, 1.2), st.integers(3, 9), st.floats(5, 40))
def test_lofts_between_unlike_outlines_are_sound(turn: float, sides: int, height: float) -> None:
    a = region.regular_polygon(sides, 20)
    b = region.disc(12).placed(at(3, -2, height) @ turned(turn, Z, np.zeros(3)))
    made = loft([a, b])
    assert made.shape.closed and 0.4 < made.volume / (height * a.area) < 1.1


@given(st.floats(-1.5, 1.5))
@settings(max_examples=15, deadline=None)
def test_turned_sections_do_not_twist(turn: float) -> None:
    """A hexagon on one turned by less than half a side's angle goes on to the nearest corner."""
    top = region.regular_polygon(6, 20).placed(at(0, 0, 1) @ turned(turn, Z, np.zeros(3)))
    made = loft([region.regular_polygon(6, 20), top])
    assert made.volume == pytest.approx(region.regular_polygon(6, 20).area, rel=0.075)


def test_lofts_may_be_smooth_closed_and_have_holes() -> None:
    ring = region.combined("-", region.disc(20), region.disc(10))
    tube = loft([ring, ring.placed(at(0, 0, 30)), ring.placed(at(0, 0, 60))], smooth=True)
    assert tube.volume == pytest.approx(ring.flat.area * 60, rel=1e-6)
    x = np.array([1.0, 0, 0])
    sections = [
        region.disc(5).placed(turned(k * math.pi / 6, Z, np.zeros(3)) @ at(30, 0) @ turned(math.pi / 2, x, np.zeros(3)))
        for k in range(12)
    ]  # fmt: skip
    torus = loft(sections, smooth=True, closed=True)
    assert torus.shape.closed
    assert torus.volume == pytest.approx(2 * math.pi**2 * 30 * 25, rel=0.02)


@pytest.mark.parametrize(
    ("sections", "said"),
    [
        ([region.disc(5)], "a loft through 1 outlines"),
        ([region.disc(5), region.combined("-", region.disc(5), region.disc(2))], "outline 1 has 1 holes"),
    ],
)  # fmt: skip
def test_outlines_that_cannot_be_joined(sections: list[region.Region], said: str) -> None:
    with pytest.raises(Failure, match=said):
        loft(sections)


def test_an_apex_on_the_axis_is_closed_and_crossing_it_is_refused() -> None:
    triangle = region.from_points(np.array([[0, 0, 0], [10, 0, 0], [0, 20, 0.0]]), [])
    cone = revolution(triangle)
    assert cone.shape.closed and cone.volume == pytest.approx(math.pi * 100 * 20 / 3, rel=0.02)
    with pytest.raises(Failure, match="crosses the axis: it reaches to x = -2 mm"):
        revolution(region.rectangle(10, 5).placed(at(3, 0)))
    with pytest.raises(Failure, match="a revolution by 400°"):
        revolution(triangle, math.radians(400))


def test_wrapping_twisting_and_bending_keep_the_middle_surface() -> None:
    plate = primitives.extrusion(region.rectangle(60, 10), 2)
    assert isinstance(plate, Solid)
    wrapped = shaping.wrapped(plate, 30)
    assert wrapped.shape.exact
    assert wrapped.volume == pytest.approx(60 * 10 * 2 * 31 / 30, rel=1e-12)
    assert wrapped.mesh.volume() == pytest.approx(wrapped.volume, rel=1e-3)
    low, high = wrapped.bounds()
    assert low[1] == pytest.approx(-32, abs=0.05) and high[2] == pytest.approx(5)
    twisted = shaping.twisted(plate, 1.0)
    assert twisted.shape.exact and twisted.volume == pytest.approx(1200, rel=1e-12)
    assert twisted.mesh.volume() == pytest.approx(1200, rel=1e-3)
    bar = primitives.box(100.0, 10.0, 4.0)
    assert isinstance(bar, Solid)
    level = bar.placed(at(50, 0, -2))
    assert isinstance(level, Solid)
    bent = shaping.bent(level, 100)
    assert bent.shape.exact and bent.volume == pytest.approx(4000, rel=1e-12)
    assert bent.mesh.volume() == pytest.approx(4000, rel=1e-3)
    assert not bent.shape.complete, "its centre and its bounds are those of its chords"
    cone = primitives.cone(30.0, 40.0, 12.0)
    assert isinstance(cone, Solid)
    centre = 40 / 4 * (30**2 + 2 * 30 * 12 + 3 * 12**2) / (30**2 + 30 * 12 + 12**2)
    for radius in (90.0, -90.0):
        made = shaping.bent(cone, radius)
        assert made.volume == pytest.approx(cone.volume * (1 - centre / radius), rel=1e-12)
        assert made.mesh.volume() == pytest.approx(made.volume, rel=3e-3)
    with pytest.raises(Failure, match=r"only 188\.496 mm round"):
        shaping.wrapped(primitives.extrusion(region.rectangle(200, 10), 2), 30)  # type: ignore[arg-type]
    with pytest.raises(Failure, match="is less than the solid is thick"):
        shaping.bent(level, 1)


def test_parts_and_sections_of_a_solid() -> None:
    ball = primitives.sphere(20.0)
    assert isinstance(ball, Solid)
    upper, lower = shaping.parted(ball, Z, np.array([0, 0, 5.0]))
    assert upper.volume + lower.volume == pytest.approx(ball.volume, rel=1e-6)
    cap = math.pi * 15**2 * (3 * 20 - 15) / 3
    assert upper.volume == pytest.approx(cap, rel=0.02), "a spherical cap: π h² (3r - h) / 3"
    section = shaping.cut_at(ball, np.array([0, 1.0, 0]), np.zeros(3))
    assert section.area == pytest.approx(math.pi * 400, rel=0.01)
    with pytest.raises(
        Failure, match="the plane misses this solid, which lies from -20 mm to 20 mm"
    ):
        shaping.cut_at(ball, Z, np.array([0, 0, 25.0]))


@given(st.floats(0.2, 6), st.sampled_from(["round", "bevel"]), st.floats(-5, 8))
def test_finished_extrusions_are_sound_or_say_what_fits(size: float, form: str, taper: float) -> None:  # fmt: skip
    plate = region.combined("-", region.rectangle(40, 30), region.disc(8))
    ell = region.from_points(np.array([[0, 0, 0], [30, 0, 0], [30, 10, 0], [10, 10, 0], [10, 30, 0], [0, 30, 0.0]]), [])  # fmt: skip
    for outline in (plate, ell):
        try:
            made = finished_extrusion(outline, 20, math.radians(taper), Finish(form, size), Finish(form, size / 2))  # fmt: skip
        except Failure as failure:
            assert "fits" in failure.hint
            continue
        assert made.shape.closed and made.volume > 0
        assert np.ptp(made.bounds()[:, 2]) == pytest.approx(20)


def test_an_extrusion_reaches_up_to_a_solid_or_a_surface() -> None:
    """Under a slope the prism is as high as it is in its middle."""
    slab = primitives.box(200.0, 200.0, 10.0)
    assert isinstance(slab, Solid)
    tilted = slab.placed(at(0, 0, 50) @ turned(0.3, np.array([1.0, 0, 0]), np.zeros(3)))
    assert isinstance(tilted, Solid)
    made = extruded_up_to(region.rectangle(40, 30), tilted)
    assert made.shape.closed and made.volume == pytest.approx(40 * 30 * 50, rel=1e-6)
    roof = by_function(lambda u, v: (200 * u - 100, 200 * v - 100, 30 + 40 * u))
    for surface in (roof, roof.flipped()):
        under = extruded_up_to(region.rectangle(40, 30), surface)
        assert under.volume == pytest.approx(40 * 30 * 50, rel=1e-6)
    with pytest.raises(Failure, match="does not cover the whole region"):
        extruded_up_to(region.rectangle(400, 30), tilted)
    with pytest.raises(Failure, match="lies behind the region"):
        extruded_up_to(region.rectangle(4, 3).placed(at(0, 0, 300)), tilted)


@pytest.mark.parametrize("size", [0.1, 100.0])
def test_where_a_path_comes_back_to_itself_is_not_passed_over(size: float) -> None:
    """Hairpins of all widths, with long legs and short ones that part, against every pair of dense places along them."""
    dice = np.random.default_rng(3)
    turns = np.linspace(-math.pi / 2, math.pi / 2, 25)
    seen = set()
    for _ in range(150):
        width, leg, rise = size * dice.uniform([0.6, 0, 0], [1.4, 3, 0.4])
        bow = np.column_stack([width * np.cos(turns), width * np.sin(turns)])
        flat = np.concatenate([[[-leg, -width]], bow, [[-leg, width]]])
        path = drafting.polyline(np.column_stack([flat, np.linspace(0, rise, len(flat))]))
        lengths, ends = np.linspace(0, path.length, 300), np.concatenate([[0.0], path.ends])
        places = np.column_stack([np.interp(lengths, ends, axis) for axis in path.points().T])
        gaps = np.linalg.norm(places[:, None] - places[None], axis=2)
        apart = np.abs(lengths[:, None] - lengths[None])
        comes_near = bool(np.any((gaps < 2 * size) & (apart > (math.pi + 0.8) * size)))
        seen.add(comes_near)
        assert _comes_near(path, size) or not comes_near
    assert seen == {True, False}
