"""Shells: how near a hollow comes to the surface, told by trimesh point by point, and volumes by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from ovolo.geometry.solids import hollowing, primitives
from ovolo.geometry.solids.solid import Solid
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from ovolo.running.evaluate import Memo
from tests.sheets import problem, run, value
from tests.witness import inside

SIZES = [0.1, 1.0, 10.0]
PLACED = ["", ".turn(50°, about = (1, 2, 3)).move(700 mm, -40 mm, 90 mm)"]


@given(st.floats(0.3, 6), st.sampled_from(["top", "bottom", "both", "none"]))
def test_shells_of_a_box(t: float, open_: str) -> None:
    box = primitives.box(40.0, 30.0, 20.0)
    assert isinstance(box, Solid)
    inner = {"top": 20 - t, "bottom": 20 - t, "both": 20.0, "none": 20 - 2 * t}[open_]
    made = hollowing.shell(box, t, open_)
    assert made.shape.closed
    assert made.volume == pytest.approx(24_000 - (40 - 2 * t) * (30 - 2 * t) * inner, rel=1e-9)


def test_a_shell_too_thick_names_what_fits() -> None:
    box = primitives.box(40.0, 30.0, 20.0)
    assert isinstance(box, Solid)
    with pytest.raises(Failure) as caught:
        hollowing.shell(box, 16)
    assert caught.value.hint == "14.98 mm fits", "at 15 mm nothing is left between"


def solid(expression: str, *lines: str) -> Solid:
    outcome = run(*lines, f"the_result = {expression}")
    assert not outcome.problems, [str(one) for one in outcome.problems]
    found = outcome.lines[-1].value
    assert isinstance(found, Solid)
    return found


def corners(size: float, *places: tuple[float, float, float]) -> str:
    return ", ".join(f"({size * x} mm, {size * y} mm, {size * z} mm)" for x, y, z in places)


SKEW = (-8.3, -3.8, 24.9), (-20.3, 19.1, -28.1), (-26.3, -6.4, -7.8), (3.2, 19.2, -22), (-7.2, 8.3, 14.7)  # fmt: skip
DENT = (0, 0, 0), (30, 2, 0), (31, 28, 1), (2, 25, 3), (14, 12, 22)


@pytest.mark.parametrize("size", SIZES)
@pytest.mark.parametrize("placed", PLACED)
@pytest.mark.parametrize("t", [0.3, 1.38, 2.48, 4.0])
def test_between_the_planes_of_a_convex_solid_nothing_is_nearer_than_said(
    size: float, placed: str, t: float
) -> None:
    """Where four planes meet at a corner, they do so in no one place once they have moved."""
    body = f"body = convex_hull([{corners(size, *SKEW)}]){placed}"
    whole, hollow = solid("body", body), solid(f'body - shell(body, {t * size} mm, "none")', body)
    planes = np.unique(whole.mesh.area_vectors().round(9), axis=0)
    normals = planes / np.linalg.norm(planes, axis=1)[:, None]
    levels = (whole.mesh.corners @ normals.T).max(axis=0)
    apart = levels - hollow.mesh.corners @ normals.T
    assert apart.min() == pytest.approx(t * size, rel=1e-6)
    touched = np.abs(apart - t * size) < 1e-6 * size
    assert (touched.sum(axis=1) >= 3).all(), "each corner lies in three planes or more"


SHAPES = {
    "a ball with an arm": "sphere({0} mm * 20) + box({0} mm * 50, {0} mm * 10, {0} mm * 10)",
    "a ball with a slot": "sphere({0} mm * 20) - box({0} mm * 50, {0} mm * 10, {0} mm * 10)",
    "two balls": "sphere({0} mm * 20) + sphere({0} mm * 14).move({0} mm * 22, {0} mm * 3, {0} mm * 5)",
    "a box with a dent": "box({0} mm * 40, {0} mm * 40, {0} mm * 30) - convex_hull([{1}]).move(0 mm, 0 mm, {0} mm * 5)",
    "a box with a spire": "box({0} mm * 40, {0} mm * 40, {0} mm * 12) + convex_hull([{1}])",
    "walls that twist": "twist(box({0} mm * 30, {0} mm * 20, {0} mm * 50), 40°)",
    "a bar that is bent": "bend(box({0} mm * 100, {0} mm * 20, {0} mm * 12), {0} mm * 50)",
    "two rooms": "box({0} mm * 40, {0} mm * 40, {0} mm * 30) + box({0} mm * 40, {0} mm * 40, {0} mm * 30).move({0} mm * 60, 0 mm, 0 mm)"
    " + box({0} mm * 60, {0} mm * 7, {0} mm * 7).move({0} mm * 30, 0 mm, {0} mm * 9)",
}  # fmt: skip


def away(mesh: trimesh.Trimesh, places: np.ndarray) -> np.ndarray:
    """How far places are from a surface: the least of all triangles, by trimesh."""
    found = []
    for place in places:
        nearest = trimesh.triangles.closest_point(
            mesh.triangles, np.tile(place, (len(mesh.triangles), 1))
        )
        found.append(np.linalg.norm(nearest - place, axis=1).min())
    return np.array(found)


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize(
    ("t", "size", "placed"), [(1.5, 1.0, ""), (4.0, 0.4, PLACED[1]), (2.5, 10.0, PLACED[1])]
)
def test_a_hollow_is_all_that_lies_further_in_than_its_walls(
    name: str, t: float, size: float, placed: str
) -> None:
    """Random places: those nearer to the surface than the walls are thick lie in the walls, and those further than a
    mitre of edges that turn inwards square to each other reaches (sqrt 3 at a corner of such) do not."""
    tolerance = f"tolerance {0.15 * size} mm"
    body = "body = (" + SHAPES[name].format(size, corners(size, *DENT)) + ")" + placed
    whole, hollow = (
        solid("body", tolerance, body),
        solid(f'body - shell(body, {t * size} mm, "none")', tolerance, body),
    )
    surface = trimesh.Trimesh(whole.mesh.corners, whole.mesh.triangles, process=False)
    random = np.random.default_rng(3)
    some = random.permutation(len(hollow.mesh.corners))[:25]
    assert away(surface, hollow.mesh.corners[some]).min() > t * size - 0.2 * size
    low, high = whole.bounds()
    places = random.uniform(low, high, (1000, 3))
    places = places[inside(whole, places)][:50]
    depth, within = away(surface, places), inside(hollow, places)
    assert not within[depth < (t - 0.2) * size].any()
    assert within[depth > (math.sqrt(3) * t + 0.2) * size].all()


def test_a_neck_too_thin_for_a_hollow_parts_it() -> None:
    """Two rooms of 36 x 36 x 26 mm, and between them a passage whose walls meet, or leave 1 mm of it."""
    rooms = "rooms(w) = extrude(rect(40 mm, 40 mm), 30 mm) + extrude(rect(40 mm, 40 mm), 30 mm).move(80 mm, 0 mm, 0 mm) + extrude(rect(80 mm, w), 30 mm).move(40 mm, 0 mm, 0 mm)"  # fmt: skip
    hollow = 'hollow(w) = volume(rooms(w) - shell(rooms(w), 2 mm, "none")) / (1 mm^3)'
    assert value("hollow(3 mm)", rooms, hollow) == pytest.approx(2 * 36 * 36 * 26)
    assert value("hollow(5 mm)", rooms, hollow) == pytest.approx(2 * 36 * 36 * 26 + 44 * 1 * 26)


@pytest.mark.parametrize("radius", [0.3, 2.0, 5.0])
def test_round_a_narrow_hole_walls_stand_far_out(radius: float) -> None:
    """A hole in a block: its wall is a tube, however small it is; by chords to 0.6 %."""
    block = "block = box(40 mm, 40 mm, 40 mm)"
    pierced = f"pierced = block - cylinder({radius} mm, 50 mm).move(0 mm, 0 mm, -5 mm)"
    tube = value('volume(shell(pierced, 5 mm, "both") - shell(block, 5 mm, "both")) / (1 mm^3)', block, pierced)  # fmt: skip
    assert tube == pytest.approx(math.pi * ((radius + 5) ** 2 - radius**2) * 40, rel=6e-3)


def test_at_an_open_face_walls_go_on_as_their_planes_do() -> None:
    """A frustum of square levels, wider below, and the same with a notch in one side: by prismatoids
    ((low + 4 middle + high) h / 6)."""
    frustum = "frustum = loft([rect(40 mm, 40 mm), rect(20 mm, 20 mm).move(z = 30 mm)])"
    slant = math.hypot(10, 30)
    wall, tall = 2 * slant / 30, 28.0  # of 2 mm, seen level; from the bottom's wall to the open top

    def width(z: float) -> float:
        return 40 - 20 * z / 30 - 2 * wall

    hollow = (width(2) ** 2 + 4 * width(16) ** 2 + width(30) ** 2) * tall / 6
    assert value("volume(frustum - shell(frustum, 2 mm)) / (1 mm^3)", frustum) == pytest.approx(hollow, rel=1e-6)  # fmt: skip
    notched = "notched = frustum + box(4 mm, 4 mm, 1 mm).move(0 mm, 0 mm, 29 mm)"
    assert value("volume(notched - shell(notched, 2 mm)) / (1 mm^3)", frustum, notched) == pytest.approx(hollow, rel=1e-6)  # fmt: skip


def test_what_leaves_no_hollow_names_what_does() -> None:
    spikes = "spikes = extrude(star(500, 1000 mm, 1 mm), 3 mm)"
    assert "no sound hollow" in problem(spikes, 'hollow = shell(spikes, 1 mm, "none")').message
    slab = "slab = box(40 mm, 40 mm, 10 mm) + box(10 mm, 10 mm, 18 mm)"
    said = problem(slab, 'hollow = shell(slab, 9 mm, "none")')
    fits = float(str(said.hint).split(" mm")[0])
    assert 4.7 < fits < 5.9, "half of what is thickest, or a little less"
    assert value(f'volume(shell(slab, {fits} mm, "none")) / volume(slab)', slab) <= 1
    balls = "balls = sphere(20 mm) + sphere(14 mm).move(22 mm, 3 mm, 5 mm)"
    assert "too much to work out" in problem(balls, 'hollow = shell(balls, 12 mm, "none")').message
    assert problem(balls, 'hollow = shell(balls, 30 mm, "none")').hint == "2.501 mm fits"
    loft = "loft_made = loft([rect(30 mm, 30 mm), disc(10 mm).move(z = 30 mm)])"
    assert problem("tolerance 0.3 mm", loft, 'hollow = shell(loft_made, 40 mm, "none")').hint != ""


@pytest.mark.parametrize(
    ("solid", "open_", "closed"),
    [
        ("sphere(20 mm)", "top", ["top"]),
        ("sphere(20 mm)", "none", []),
        ("cone(20 mm, 50 mm)", "both", ["top"]),
        ("box(40 mm, 40 mm, 40 mm)", "both", []),
        ("box(40 mm, 40 mm, 40 mm).turn(20°, about = x)", "both", ["top", "bottom"]),
        ("sphere(20 mm) & box(50 mm, 50 mm, 15 mm)", "top", []),
    ],
)
def test_where_nothing_lies_level_a_shell_is_closed_and_says_so(
    solid: str, open_: str, closed: list[str]
) -> None:
    memo = Memo()
    for _ in range(2):  # and says so again where it is remembered
        outcome = outcome_of(f'part p = shell({solid}, 2 mm, "{open_}")', {}, memo)
        notes = [note.message for note in outcome.lines[0].notes]
        assert notes == [
            f"no face lies level at the {end} of what is hollowed: it is closed there"
            for end in closed
        ]
        shape = outcome.lines[0].value.shape
        hollow = trimesh.Trimesh(shape.mesh.corners, shape.mesh.triangles)
        assert (hollow.body_count == 2) == (
            open_ == "none" or len(closed) == (2 if open_ == "both" else 1)
        )
