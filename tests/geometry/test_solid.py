"""Solids: closed, right side out, of the right volume. Witnesses stand in tests/outside."""

import math

import manifold3d
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.geometry.placement import applied, moved, scaled, turned
from ovolo.geometry.regions import region
from ovolo.geometry.solids import booleans, primitives, solid
from ovolo.geometry.tolerance import CHORD_TOLERANCE, segments_for
from ovolo.problems import Failure
from tests.sheets import problem, value

_SIZES = st.floats(1, 1000)


@given(_SIZES, _SIZES, _SIZES)
def test_a_box_has_its_sizes(width: float, depth: float, height: float) -> None:
    made = primitives.box(width, depth, height)
    assert isinstance(made, solid.Solid)
    assert made.volume == pytest.approx(width * depth * height, rel=1e-12)
    np.testing.assert_allclose(
        made.bounds(), [[-width / 2, -depth / 2, 0], [width / 2, depth / 2, height]], rtol=1e-12
    )
    assert made.mesh.is_closed()


@given(st.floats(0.01, 1e5))
def test_circles_keep_the_chord_tolerance(radius: float) -> None:
    count = segments_for(radius)
    sagitta = radius * (1 - np.cos(np.pi / count))
    assert count % 4 == 0
    assert sagitta <= CHORD_TOLERANCE or count == 720


def test_the_extreme_points_of_a_cylinder_are_exact() -> None:
    made = primitives.cylinder(75.0, 100.0)
    np.testing.assert_allclose(made.bounds(), [[-75, -75, 0], [75, 75, 100]], atol=1e-9)


_PLACES = st.tuples(*[st.floats(-8, 8)] * 3)


@given(_PLACES, st.floats(0.5, 10), _PLACES)
def test_union_and_intersection_keep_the_sum_of_volumes(
    place: tuple[float, ...], size: float, axis: tuple[float, ...]
) -> None:
    a = primitives.box(10.0, 8.0, 6.0)
    about = np.add(axis, [0.1, 0.2, 0.3])
    b = primitives.box(size, 5.0, 7.0).placed(turned(1.0, about, np.zeros(3))).placed(moved(place))
    assert isinstance(a, solid.Solid) and isinstance(b, solid.Solid)
    try:
        both = booleans.combined("&", a, b).volume
    except Failure:
        both = 0.0
    union = booleans.combined("+", a, b)
    assert union.volume + both == pytest.approx(a.volume + b.volume, rel=1e-6)
    assert union.shape.closed


def test_an_extrusion_goes_down_for_a_negative_height() -> None:
    plate = region.combined("-", region.rectangle(100, 60), region.disc(10))
    down = primitives.extrusion(plate, -5.0)
    assert isinstance(down, solid.Solid)
    assert down.volume == pytest.approx((6000 - math.pi * 100) * 5, rel=1e-12)
    assert down.bounds()[:, 2].tolist() == [-5, 0]
    assert down.mesh.is_closed() and down.mesh.volume() > 0


def test_a_mirrored_placement_keeps_the_mesh_right_side_out() -> None:
    made = solid.Solid(primitives.box(1.0, 2.0, 3.0).shape, scaled([-1.0, 2.0, 3.0]))
    assert made.mesh.volume() == pytest.approx(6) and made.volume == pytest.approx(6)


def test_arrays_of_sizes_are_copies_of_one_shape() -> None:
    boxes = primitives.box(np.array([1.0, 2.0]), 1.0, 5.0)
    assert isinstance(boxes, solid.Copies)
    assert [piece.volume for piece in boxes] == [5, 10]


def test_equal_ways_give_equal_keys() -> None:
    one, other = (
        booleans.combined("-", primitives.box(9.0, 9.0, 9.0), primitives.cylinder(2.0, 20.0))
        for _ in "ab"
    )
    assert one.shape is other.shape


def test_rotation_about_an_axis_through_a_point() -> None:
    matrix = turned(np.pi / 2, [0, 0, 1], [1.0, 0, 0])
    np.testing.assert_allclose(applied(matrix, np.array([[2.0, 0, 5]])), [[1, 1, 5]], atol=1e-12)


def test_slivers_left_by_rounding_are_no_pieces() -> None:
    plate, cutter = primitives.box(100.0, 100.0, 10.0), primitives.box(120.0, 80.0, 20.0)
    missing = 2e-6  # mm by which the cutter falls short of the edge of the plate
    left = booleans.combined("-", plate, cutter.placed(moved([0, -10 + missing, 0])))  # type: ignore[arg-type]
    assert left.volume == pytest.approx(100 * 20 * 10, rel=1e-6)
    assert len(left.shape.manifold.decompose()) == 1


def test_a_loft_may_go_back_into_a_hollow() -> None:
    """A block of 1 m with a pit 0.5 m deep that narrows to 0.4 m; the pit by the formula of the
    truncated pyramid, h (A + a + sqrt(A a)) / 3 (any handbook)."""
    block = "rect(1 m, 1 m), rect(1 m, 1 m).move(z = 1 m), rect(0.4 m, 0.4 m).move(z = 0.5 m)"
    assert value(f"volume(loft([{block}]))") == pytest.approx(1e9 - 500 * (1e6 + 0.16e6 + 0.4e6) / 3)  # fmt: skip


@pytest.mark.parametrize(
    "sections",
    [
        "disc(1 m), disc(1 m).turn(80°, about = x).move(z = 300 mm)",
        "rect(2 m, 2 m), rect(1 m, 1 m).move(z = 200 mm), rect(800 mm, 800 mm).turn(60°, about = y).move(z = 300 mm)",
    ],
)
def test_outlines_that_cut_through_each_other_are_refused_with_the_place(sections: str) -> None:
    found = problem(f"s = loft([{sections}])")
    assert "cuts through outline" in found.message and "mm" in found.message and found.hint


def test_outlines_that_share_a_hinge_are_lofted() -> None:
    made = value("volume(loft([rect(1 m, 1 m).move(x = 500 mm), rect(1 m, 1 m).move(x = 500 mm).turn(-90°, about = y)]))")  # fmt: skip
    assert made == pytest.approx(0.5e9, rel=0.2)


@pytest.mark.parametrize("apart", [3.0, 9.0, 30.0], ids=["much overlap", "some", "none"])
def test_the_sum_of_many_is_that_of_all_at_once(apart: float) -> None:
    """Whatever lies near what: the same space, as the kernel's own sum of all at once has it."""
    places = np.random.default_rng(7).permutation([(x, y, 0.5 * (x + y)) for x in range(6) for y in range(6)])  # fmt: skip
    bodies = [manifold3d.Manifold.sphere(6, 16).translate(tuple(apart * place)) for place in places]
    whole = manifold3d.Manifold.batch_boolean(bodies, manifold3d.OpType.Add)
    assert solid.united(bodies).volume() == pytest.approx(whole.volume(), rel=1e-9)
    assert solid.united(bodies).genus() == whole.genus()
    assert (
        solid.united([*bodies, manifold3d.Manifold()]).num_tri() == solid.united(bodies).num_tri()
    )
    assert solid.united(bodies[::-1]).volume() == pytest.approx(whole.volume(), rel=1e-9)
    ten = [body.scale((10.0,) * 3).translate((7e3, -4e3, 1e3)) for body in bodies]
    assert solid.united(ten).volume() == pytest.approx(1e3 * whole.volume(), rel=1e-9)
    assert solid.common(bodies[:1]).volume() == bodies[0].volume()
    shared = [manifold3d.Manifold.cube((20, 20, 20)).translate((k, 0, 0)) for k in range(15)]
    assert solid.common(shared).volume() == pytest.approx(6 * 20 * 20)
