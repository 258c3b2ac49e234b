"""Surfaces: areas and volumes of spheres, cones and cylinders; cells; what is refused."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from ovolo.geometry.curves import drafting
from ovolo.geometry.placement import moved, turned
from ovolo.geometry.surfaces.surface import (
    CELLS,
    Surface,
    by_function,
    cells,
    offset,
    patch,
    revolved,
    ruled,
    thickened,
    through_curves,
)
from ovolo.geometry.types import Points
from ovolo.problems import Failure
from tests.sheets import value


def ball(r: float) -> Surface:
    def f(u: float, v: float) -> tuple[float, float, float]:
        a, b = 2 * math.pi * u, math.pi * v
        return r * math.sin(b) * math.cos(a), r * math.sin(b) * math.sin(a), -r * math.cos(b)

    return by_function(f)


@given(st.floats(5, 200))
@settings(max_examples=2, deadline=None)
def test_a_sphere_by_its_equation(r: float) -> None:
    surface = ball(r)
    assert surface.area == pytest.approx(4 * math.pi * r * r, rel=1e-4)
    u, v = np.array([0.13, 0.5, 0.8]), np.array([0.2, 0.5, 0.9])
    assert surface.normals(u, v) == pytest.approx(surface.at(u, v) / r, abs=1e-7)
    shell = thickened(surface, r / 10)
    assert shell.shape.closed
    assert shell.volume == pytest.approx(
        4 / 3 * math.pi * r**3 * (1.1**3 - 1), abs=0.1 * surface.area
    )


def test_a_surface_that_bends_tighter_than_it_is_thick() -> None:
    with pytest.raises(Failure, match="the surface bends tighter than 60 mm at u"):
        thickened(ball(50), -60)


def test_ruled_lofted_and_revolved_surfaces() -> None:
    a = drafting.straight(np.zeros(3), np.array([100.0, 0, 0]))
    b = drafting.straight(np.array([0.0, 50, 0]), np.array([100.0, 50, 0]))
    assert ruled(a, b).area == pytest.approx(5000)
    c = drafting.straight(np.array([0.0, 100, 0]), np.array([100.0, 100, 0]))
    assert through_curves([a, b, c]).area == pytest.approx(10_000)
    slant = drafting.straight(np.array([50.0, 0, 0]), np.array([30.0, 0, 40.0]))
    cone = revolved(slant, 2 * math.pi)
    assert cone.area == pytest.approx(math.pi * 80 * math.hypot(20, 40), rel=1e-4)
    assert thickened(cone, 2).shape.closed


def test_a_patch_is_a_b_spline() -> None:
    """SciPy: a clamped cubic passes through its corners; points in a plane stay in it."""
    grid = np.array([[[10.0 * i, 10.0 * j, 2.0 * i] for j in range(5)] for i in range(4)])
    surface = patch(grid)
    assert surface.at(0, 0)[0] == pytest.approx(grid[0, 0]) and surface.at(1, 1)[0] == pytest.approx(grid[-1, -1])  # fmt: skip
    assert surface.area == pytest.approx(math.hypot(30, 6) * 40, rel=1e-6)
    bumped = grid.copy()
    bumped[1, 2, 2] += 9
    assert patch(bumped).area > surface.area


def test_parallels_and_other_sides() -> None:
    far = offset(ball(50), 10)
    assert np.linalg.norm(far.at(0.3, 0.4)[0]) == pytest.approx(60, abs=1e-5)
    assert offset(ball(50).flipped(), 10).at(0.3, 0.4)[0] == pytest.approx(far.at(0.3, 0.4)[0] * 40 / 60, abs=1e-4)  # fmt: skip


@pytest.mark.parametrize("form", CELLS)
def test_cells_lie_on_the_surface_and_do_not_overlap(form: str) -> None:
    a = drafting.straight(np.zeros(3), np.array([120.0, 0, 0]))
    b = drafting.straight(np.array([0.0, 90, 0]), np.array([120.0, 90, 0]))
    surface = ruled(a, b)
    found = cells(surface, 6, 4, form)
    total = 0.0
    for cell in found:
        x, y, _ = cell.corners.T
        area = float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)) / 2)
        assert area > 0, "anticlockwise, seen against the normal"
        total += area
        assert cell.up == pytest.approx([0, 0, 1]) and cell.along == pytest.approx([1, 0, 0])
        assert np.all(cell.corners[:, :2] >= -1e-9) and np.all(cell.corners[:, :2] <= [120 + 1e-9, 90 + 1e-9])  # fmt: skip
    whole = form in ("quads", "triangles")
    assert total == pytest.approx(10_800) if whole else 0.6 * 10_800 < total < 10_800


def test_cells_of_unknown_forms_are_refused() -> None:
    with pytest.raises(Failure, match='no cells called "stars"'):
        cells(ball(5), 3, 3, "stars")
    with pytest.raises(Failure, match="not parted into 0 by 3"):
        cells(ball(5), 0, 3)


def test_a_strip_that_is_turned_over_has_no_two_sides() -> None:
    def mobius(u: float, v: float) -> tuple[float, float, float]:
        a, w = 2 * math.pi * u, 20 * (v - 0.5)
        r = 50 + w * math.cos(a / 2)
        return r * math.cos(a), r * math.sin(a), w * math.sin(a / 2)

    with pytest.raises(Failure):
        thickened(by_function(mobius), 3)


def test_what_is_thickened_past_a_whole_turn_counts_once() -> None:
    """A sheet wound 400° round a circle: a ring, pi (R² - r²) h, and not a ninth more."""
    wound = "surface((u, v) -> polar(1 m, u * 400°) + (0 mm, 0 mm, v * 1 m))"
    made = value(f"volume(thicken({wound}, 10 mm))")
    assert made == pytest.approx(math.pi * (1010**2 - 1000**2) * 1000, rel=2e-3)
    open_ = value(f"volume(thicken({wound.replace('400', '200')}, 10 mm))")
    assert open_ == pytest.approx(math.pi * (1010**2 - 1000**2) * 1000 * 200 / 360, rel=2e-3)


@given(st.integers(0, 10_000))
def test_slopes_by_formula_are_those_of_points_close_by_wherever_it_stands(seed: int) -> None:
    """A patch, a twisted plane, and surfaces between, through and of smooth curves; turned, mirrored, stretched and moved."""
    rng = np.random.default_rng(seed)
    heights = rng.uniform(-9, 9, (5, 4))
    x, y = np.meshgrid(np.arange(5) * 10.0, np.arange(4) * 10.0, indexing="ij")
    ends = rng.uniform(-50, 50, (4, 3))
    matrix = np.eye(4)
    matrix[:3] = np.column_stack(
        [rng.uniform(-2, 2, (3, 3)) + 3 * np.eye(3), rng.uniform(-99, 99, 3)]
    )
    matrix[:3, 0] *= rng.choice([-1, 1])
    u, v = rng.uniform(0, 1, 20), rng.uniform(0, 1, 20)
    waves = [
        drafting.spline(
            np.column_stack([x[:, 0], 30.0 * at + rng.uniform(-3, 3, 5), rng.uniform(-3, 3, 5)]),
            None,
            None,
        )
        for at in range(4)
    ]
    profile = drafting.spline(
        np.column_stack([rng.uniform(20, 30, 5), np.zeros(5), x[:, 0]]), None, None
    )
    for surface in (
        patch(np.stack([x, y, heights], axis=-1)),
        ruled(drafting.straight(*ends[:2]), drafting.straight(*ends[2:])),
        ruled(*waves[:2]),
        through_curves(waves[:3]),
        through_curves(waves),
        revolved(profile, 4.0),
    ):
        placed = surface.placed(matrix)
        assert placed.slopes is not None
        assert placed.normals(u, v) == pytest.approx(
            replace(placed, slopes=None).normals(u, v), abs=1e-5
        )
        assert placed.flipped().normals(u, v) == pytest.approx(-placed.normals(u, v))


def between_parallels(
    low: tuple[Points, Points], high: tuple[Points, Points], thickness: float
) -> float:
    """What lies between the twisted plane of two lines and its parallel: ∫∫∫ ((r_u + s n_u) × (r_v + s n_v)) · n ds du dv
    (do Carmo, Differential Geometry of Curves and Surfaces, 3-3), by Gauss's quadrature."""
    places, weights = np.polynomial.legendre.leggauss(300)
    u, v = np.meshgrid((places + 1) / 2, (places + 1) / 2, indexing="ij")
    across = high[1] - high[0] - (low[1] - low[0])  # r_uv; r_uu and r_vv are nothing
    r_u = (low[1] - low[0]) + v[..., None] * across
    r_v = (high[0] - low[0]) + u[..., None] * across
    square = np.cross(r_u, r_v)
    size = np.linalg.norm(square, axis=-1, keepdims=True)
    n = square / size

    def turning(change: Points) -> Points:
        return (change - n * np.sum(n * change, axis=-1, keepdims=True)) / size

    n_u, n_v = turning(np.cross(r_u, across)), turning(np.cross(across, r_v))
    share = np.outer(weights, weights) / 4
    total = 0.0
    for place, weight in zip(*np.polynomial.legendre.leggauss(6), strict=True):
        s = thickness * (place + 1) / 2
        layer = np.sum(np.cross(r_u + s * n_u, r_v + s * n_v) * n, axis=-1)
        total += weight / 2 * thickness * float(np.sum(share * layer))
    return total


# The ends of two straight lines; the surface between them bends sharply in a narrow place.
LOW = np.array([[16.0, -24.0, 4.0], [-19.0, -25.0, -42.0]])
HIGH = np.array([[-22.0, 148.0, -5.0], [15.0, 114.0, 44.0]])


@pytest.mark.parametrize("thickness", [4.0, 1.0])
def test_what_bends_sharply_in_a_narrow_place_is_thickened_as_finely_as_it_takes(
    thickness: float,
) -> None:
    solid = thickened(ruled(drafting.straight(*LOW), drafting.straight(*HIGH)), thickness)
    true = between_parallels((LOW[0], LOW[1]), (HIGH[0], HIGH[1]), thickness)
    away = abs(solid.volume / true - 1)
    assert away < min(solid.within, 4e-3)


def test_a_crease_is_thickened_as_it_is() -> None:
    """Normals that turn at once turn no less on a finer grid: nothing is gained by one."""
    roof = by_function(lambda u, v: np.array([100 * u, 80 * v, 30 - 60 * abs(u - 0.5)]))
    solid = thickened(roof, -2.0)
    assert len(solid.mesh.triangles) < 3_000


def test_at_a_corner_of_a_curve_a_surface_faces_between_both_sides() -> None:
    bent = drafting.polyline(np.array([[0.0, 0, 0], [40, 0, 30], [80, 0, 0]]))
    along = ruled(bent, bent.placed(moved(np.array([0.0, 50.0, 0.0]))))
    assert along.slopes is None
    (normal,) = along.normals(0.5, 0.3)
    assert normal == pytest.approx([0, 0, 1], abs=1e-9)


@pytest.mark.parametrize("share", [1.0, 10.0])
def test_what_bends_sharply_is_thickened_alike_wherever_it_stands_and_ten_times_as_large(
    share: float,
) -> None:
    twisted = ruled(drafting.straight(*LOW), drafting.straight(*HIGH))
    here = thickened(twisted, 4.0)
    onward = share * turned(np.array([0.7]), np.array([0.6, 0.0, 0.8]), np.zeros(3))[0]
    onward[:, 3] = [9e3, -4e3, 500.0, 1.0]
    there = thickened(twisted.placed(onward), 4.0 * share)
    told = here.within + there.within
    assert abs(there.volume / (share**3 * here.volume) - 1) <= (1e-6 if share == 1 else told)
    assert there.within < 1.5 * here.within
