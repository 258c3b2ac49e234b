"""Equal pieces are found by their shape. The principal moments are checked against trimesh."""

import math

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from ovolo.geometry.curves.drafting import circular, polyline
from ovolo.geometry.placement import Matrix, mirrored, moved, scaled, turned
from ovolo.geometry.regions import region
from ovolo.geometry.solids import booleans, congruence, primitives
from ovolo.geometry.solids.congruence import (
    Body,
    Wire,
    are_equal,
    body_of_region,
    classes,
    sizes_of_region,
    sizes_of_solid,
    wires_equal,
)
from ovolo.geometry.solids.shaping import hull
from ovolo.geometry.solids.solid import Solid
from ovolo.remembering import forget_all, held
from tests.sheets import run

_ANGLES = st.floats(-3.1, 3.1)
_PLACES = st.tuples(*[st.floats(-500, 500)] * 3)
_AXES = st.sampled_from([(1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (1, 2, 3)])
_HAND = np.array([(0.0, 0.0), (90.0, 0.0), (30.0, 20.0), (0.0, 50.0)])


def motion(angle: float, axis: tuple[int, ...], place: tuple[float, ...]) -> Matrix:
    return moved(np.array(place)) @ turned(angle, np.array(axis, dtype=float), np.zeros(3))


def hand() -> Solid:
    """A solid without any symmetry: a slanting plate with a notch in one corner of its top."""
    plate = primitives.extrusion(
        region.from_points(np.column_stack([_HAND, np.zeros(4)]), []), 10.0
    )
    notch = primitives.box(9.0, 9.0, 8.0).placed(moved(np.array([10.0, 10.0, 6.0])))
    assert isinstance(plate, Solid) and isinstance(notch, Solid)
    return booleans.combined("-", plate, notch)


def solids(*made: Solid) -> list[int]:
    bodies = [Body(one) for one in made]
    return classes([one.print for one in bodies], lambda a, b: are_equal(bodies[a], bodies[b]))


def placed(what: Solid, matrix: Matrix) -> Solid:
    found = what.placed(matrix)
    assert isinstance(found, Solid)
    return found


@given(_ANGLES, _AXES, _PLACES)
def test_a_motion_changes_nothing(angle: float, axis: tuple[int, ...], place: tuple[float, ...]) -> None:  # fmt: skip
    there = placed(hand(), motion(angle, axis, place))
    assert solids(hand(), there) == [0, 0]


@given(_ANGLES, _AXES, _PLACES)
def test_a_mirror_image_is_told_apart_wherever_it_stands(
    angle: float, axis: tuple[int, ...], place: tuple[float, ...]
) -> None:
    image = placed(hand(), motion(angle, axis, place) @ mirrored(np.array([1.0, 0, 0]), np.zeros(3)))  # fmt: skip
    assert solids(hand(), image) == [0, 1]


def test_what_is_symmetric_is_its_own_mirror_image() -> None:
    for made in (
        primitives.cone(20.0, 30.0),
        primitives.box(3.0, 4.0, 5.0),
        primitives.cylinder(4.0, 9.0),
    ):
        assert isinstance(made, Solid)
        image = placed(made, mirrored(np.array([1.0, 2.0, 0.5]), np.zeros(3)))
        assert solids(made, image) == [0, 0]


@given(st.floats(1.0001, 3))
def test_another_size_is_another_piece(factor: float) -> None:
    larger = placed(hand(), scaled(np.full(3, factor)))
    assert solids(hand(), larger) == [0, 1]


def test_principal_moments_are_those_of_trimesh() -> None:
    """trimesh gives the moments of inertia; with s the second moments, I1 = s2 + s3 and so on."""
    made = hand()
    mesh = trimesh.Trimesh(made.mesh.corners, made.mesh.triangles, process=False)
    inertia = np.sort(mesh.principal_inertia_components)
    radii = Body(made).print[2:5]
    second = np.sort(radii**2 * made.volume)
    expected = np.sort([second[0] + second[1], second[0] + second[2], second[1] + second[2]])
    np.testing.assert_allclose(expected, inertia, rtol=1e-9)


@given(st.floats(1, 300), st.floats(1, 300), st.floats(1, 300), _ANGLES, _AXES)
def test_the_sizes_of_a_box_are_its_sizes(
    a: float, b: float, c: float, angle: float, axis: tuple[int, ...]
) -> None:
    made = primitives.box(a, b, c)
    assert isinstance(made, Solid)
    found = sizes_of_solid(placed(made, motion(angle, axis, (0, 0, 0))))
    np.testing.assert_allclose(found, sorted([a, b, c], reverse=True), rtol=1e-6)


def test_sizes_are_looked_for_once_wherever_a_piece_stands(monkeypatch: pytest.MonkeyPatch) -> None:  # fmt: skip
    """And anew for one that is turned or scaled; whichever was asked first, each is told the same to the last bit."""
    forget_all()
    looked: list[Solid] = []
    look = congruence._smallest_box
    monkeypatch.setattr(congruence, "_smallest_box", lambda one: looked.append(one) or look(one))
    tapered = primitives.cone(30.0, 80.0, 12.0)
    assert isinstance(tapered, Solid)
    leaning = placed(tapered, motion(0.7, (1, 2, 3), (0, 0, 0)))
    before = held()
    places = [moved(np.array([x, 1e5 * x, -x])) for x in (0.0, 3.7, 1e4)]
    sizes = [sizes_of_solid(one.placed(place)) for one in (tapered, leaning) for place in places]  # type: ignore[union-attr]
    assert len(looked) == 2 and held() > before, "what is remembered is weighed"
    assert len({one.tobytes() for one in sizes[:3]}) == len({one.tobytes() for one in sizes[3:]}) == 1  # fmt: skip
    np.testing.assert_allclose(sizes[3], sizes[0], rtol=2e-3)
    twice = tapered.placed(np.diag([2.0, 2.0, 2.0, 1.0]))
    assert isinstance(twice, Solid)
    np.testing.assert_allclose(sizes_of_solid(twice), 2 * sizes[0], rtol=1e-9)


def test_a_board_cut_out_of_a_larger_one_has_the_sizes_of_a_board() -> None:
    blank = primitives.box(400.0, 95.0, 28.0)
    away = primitives.box(200.0, 200.0, 200.0).placed(moved(np.array([100.0, 0.0, -50.0])))
    assert isinstance(blank, Solid) and isinstance(away, Solid)
    left = placed(booleans.combined("-", blank, away), motion(0.7, (1, 2, 3), (5, 6, 7)))
    np.testing.assert_allclose(sizes_of_solid(left), [200, 95, 28], rtol=1e-6)


@given(_ANGLES, _PLACES)
def test_regions_are_compared_by_figure(angle: float, place: tuple[float, ...]) -> None:
    plate = region.combined("-", region.rectangle(90.0, 40.0), region.disc(9.0))
    there = plate.placed(motion(angle, (0, 0, 1), place))
    full = region.rectangle(90.0, 40.0)
    bodies = [body_of_region(one) for one in (plate, there, full)]
    numbers = classes([one.print for one in bodies], lambda a, b: are_equal(bodies[a], bodies[b]))
    assert numbers == [0, 0, 1]
    np.testing.assert_allclose(sizes_of_region(there), [90, 40], rtol=1e-9)


def test_curves_are_compared_by_their_lengths_and_ends() -> None:
    bent = polyline(np.array([[0.0, 0, 0], [30, 0, 0], [30, 40, 0]]))
    straight = polyline(np.array([[0.0, 0, 0], [70, 0, 0]]))
    ring = circular(np.zeros(3), 70 / 2 / math.pi, 0.0, 2 * math.pi)
    wires = [Wire(one) for one in (bent, straight, ring, bent.reversed())]
    assert classes([one.print for one in wires], lambda a, b: wires_equal(wires[a], wires[b])) == [0, 1, 2, 0]  # fmt: skip
    assert [one.print[0] for one in wires] == pytest.approx([70] * 4)


def test_classes_are_numbered_as_they_are_met() -> None:
    rows = [np.array([1.0, 2.0]), np.array([5.0, 2.0]), np.array([1.0 + 1e-9, 2.0])]
    assert classes(rows, lambda a, b: True) == [0, 1, 0] and classes([], lambda a, b: True) == []
    assert classes(rows, lambda a, b: False) == [0, 1, 2], "figures that agree are not enough"


# --- laid upon each other, against rotations of SciPy ---

PIECES = (
    "box(100 mm, 60 mm, 5 mm) - cylinder(4 mm, 20 mm).move(20 mm, 10 mm, -5 mm)",
    "box(100 mm, 100 mm, 5 mm) - extrude(slot(30 mm, 4 mm).turn(30°), 5 mm)",
    "pipe(helix(20 mm, 8 mm, 2), 1.5 mm)",
    'extrude(text("Qu", 20 mm), 3 mm)',
    "loft([rect(30 mm, 20 mm), disc(8 mm).move(3 mm, 2 mm, 25 mm)])",
    "revolve(disc(5 mm).move(x = 20 mm), 200°)",
    "sphere(9 mm) - box(3 mm, 3 mm, 40 mm)",
)
CHIRAL = ("pipe(helix(20 mm, 8 mm, 2), 1.5 mm)", "loft([rect(30 mm, 20 mm), disc(8 mm).move(3 mm, 2 mm, 25 mm)])")  # fmt: skip


@pytest.mark.parametrize("made", PIECES)
@pytest.mark.parametrize("seed", range(3))
def test_pieces_are_equal_wherever_a_rotation_puts_them(made: str, seed: int) -> None:
    piece = run(f"p = {made}").lines[-1].value
    place = np.eye(4)
    place[:3, :3] = Rotation.random(random_state=seed).as_matrix()
    place[:3, 3] = np.random.default_rng(seed).uniform(-500, 500, 3)
    assert are_equal(Body(piece), Body(placed(piece, place)))
    image = placed(piece, place @ mirrored(np.array([1.0, 0, 0]), np.zeros(3)))
    if made in CHIRAL:
        assert not are_equal(Body(piece), Body(image)), "left and right are different pieces"


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("box(100 mm, 60 mm, 5 mm) - cylinder(4 mm, 5 mm).move(20 mm, 10 mm)", "box(100 mm, 60 mm, 5 mm) - cylinder(4 mm, 5 mm).move(20.01 mm, 10 mm)"),
        ("box(100 mm, 100 mm, 5 mm) - extrude(slot(30 mm, 4 mm), 5 mm)", "box(100 mm, 100 mm, 5 mm) - extrude(slot(30 mm, 4 mm).turn(30°), 5 mm)"),
        ("cylinder(30 mm, 9 mm) - cylinder(4 mm, 9 mm).move(10 mm)", "cylinder(30 mm, 9 mm) - cylinder(4 mm, 9 mm).move(11 mm)"),
        ("pipe(helix(20 mm, 8 mm, 2), 1.5 mm)", "pipe(helix(20 mm, 8.5 mm, 2), 1.5 mm)"),
    ],
)  # fmt: skip
def test_pieces_that_differ_a_little_are_different(one: str, other: str) -> None:
    """A hole moved or turned within its plate changes neither volume nor surface."""
    a, b = (Body(run(f"p = {made}").lines[-1].value) for made in (one, other))
    assert not are_equal(a, b) and are_equal(a, a)


def test_the_same_piece_made_in_another_way_is_equal() -> None:
    ways = ("cylinder(10 mm, 5 mm)", "extrude(disc(10 mm), 5 mm).turn(13°)", "revolve(rect(10 mm, 5 mm).move(5 mm, 2.5 mm))")  # fmt: skip
    bodies = [Body(run(f"p = {made}").lines[-1].value) for made in ways]
    assert are_equal(bodies[0], bodies[1]) and are_equal(bodies[0], bodies[2])


@pytest.mark.parametrize(
    ("made", "sizes"),
    [
        ("box(10 cm, 10 cm, 5 mm).turn(45°) - cylinder(10 mm, 20 mm)", [100, 100, 5]),
        ("box(80 mm, 10 mm, 5 mm).turn(37°, about = (1, 1, 2)) - cylinder(1 mm, 300 mm)", [80, 10, 5]),
        ("cylinder(25 mm, 8 mm).turn(20°, about = (1, 2, 3))", [50, 50, 8]),
        ("extrude(polygon(3, 20 mm), 4 mm).turn(50°, about = x)", [20 * math.sqrt(3), 30, 4]),
    ],
)  # fmt: skip
def test_sizes_are_those_of_a_piece_that_lies_well(made: str, sizes: list[float]) -> None:
    found = sizes_of_solid(run(f"p = {made}").lines[-1].value)
    np.testing.assert_allclose(found, sizes, rtol=1e-9)


def test_the_sizes_of_a_disc_are_its_diameters() -> None:
    np.testing.assert_allclose(sizes_of_region(region.disc(25.0)), [50, 50], rtol=1e-12)


def test_closed_wires_of_one_length_are_told_apart() -> None:
    square = "polyline([(0 mm, 0 mm), (40 mm, 0 mm), (40 mm, 40 mm), (0 mm, 40 mm), (0 mm, 0 mm)])"
    begun_elsewhere = "polyline([(40 mm, 20 mm), (40 mm, 40 mm), (0 mm, 40 mm), (0 mm, 0 mm), (40 mm, 0 mm), (40 mm, 20 mm)]).turn(31°)"  # fmt: skip
    oblong = "polyline([(0 mm, 0 mm), (60 mm, 0 mm), (60 mm, 20 mm), (0 mm, 20 mm), (0 mm, 0 mm)])"
    left = "helix(20 mm, 8 mm, 3)"
    wires = [Wire(run(f"c = {made}").lines[-1].value) for made in (square, begun_elsewhere, oblong, left, f"{left}.mirror(x)", f"{left}.turn(70°, about = (1, 1, 0))")]  # fmt: skip
    assert wires_equal(wires[0], wires[1]) and not wires_equal(wires[0], wires[2])
    assert wires_equal(wires[3], wires[5]) and not wires_equal(wires[3], wires[4])


_PROFILE = "spline([(8 mm, 12 mm), ({wide}, 30 mm), (5 mm, 70 mm), (8 mm, 90 mm)])"
_OUTLINE = f"join([line((0 mm, 0 mm), (8 mm, 0 mm)), line((8 mm, 0 mm), (8 mm, 12 mm)), {_PROFILE}, line((8 mm, 90 mm), (0 mm, 90 mm)), line((0 mm, 90 mm), (0 mm, 0 mm))])"  # fmt: skip
_MADE_TWICE = {
    "a turned piece": f"revolve(region({_OUTLINE}))",
    "a part of one": f"revolve(region({_OUTLINE}), 200°)",
    "an extrusion": f"extrude(region({_OUTLINE}), {{wide}})",
    "a bar": "sweep(rect(6 mm, 9 mm), spline([(0 mm, 0 mm), ({wide}, 30 mm), (5 mm, 70 mm)]))",
    "two apart": f"revolve(region({_OUTLINE})) + box(5 mm, {{wide}}, 5 mm).move(40 mm)",
}


@pytest.mark.parametrize("size", [1.0, 40.0])
@pytest.mark.parametrize("made", _MADE_TWICE.values(), ids=_MADE_TWICE)
def test_what_is_made_again_from_figures_that_differ_by_noise_is_one_piece(
    made: str, size: float
) -> None:
    """Also where it is so large, or so finely divided, that its chords are laid on each other in vain."""
    widths = [10.0, 10.000000000000012, 9.99999999999999]
    lines = [f"part p{k} = ({made.format(wide=f'{wide!r} mm')}).scale({size}).turn({17 * k + 3}°, (1, 2, {k}))" for k, wide in enumerate(widths)]  # fmt: skip
    outcome = run(*lines)
    assert not outcome.problems, outcome.problems
    found = [Solid(group.shape, at) for part in outcome.parts.values() for group in part.groups for at in group.matrices]  # fmt: skip
    assert len({one.shape.key for one in found}) == 3
    assert solids(*found) == [0, 0, 0]


@pytest.mark.parametrize("seed", range(12))
def test_the_box_round_a_piece_grows_and_turns_with_it(seed: int) -> None:
    """A hull of points has no side by which it lies well: its box is found by trying."""
    points = np.random.default_rng(seed).normal(size=(40, 3)) * [200.0, 120.0, 30.0]
    sizes = sizes_of_solid(hull([], points))
    assert sizes_of_solid(hull([], 10 * points)) == pytest.approx(10 * sizes, rel=1e-6)
    turn = Rotation.random(random_state=seed).as_matrix()
    assert sizes_of_solid(hull([], points @ turn.T)) == pytest.approx(sizes, rel=1e-6)
    assert np.prod(sizes) <= np.prod(np.ptp(points, axis=0)) * (1 + 1e-9)
