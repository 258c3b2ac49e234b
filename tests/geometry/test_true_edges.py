"""Edges of solids, measured by the lines, arcs and curves they stand for: against formulas and scipy."""

import itertools
import math
import pickle

import numpy as np
import pytest
from scipy.integrate import quad
from scipy.special import ellipe

from ovolo.geometry.curves.rounds import arc_touched
from ovolo.geometry.placement import moved, turned
from ovolo.geometry.solids import primitives
from ovolo.geometry.solids.booleans import combined
from ovolo.geometry.types import Points
from ovolo.outcome.outcome import outcome_of
from tests.sheets import demo, run, value


def lengths(solid: str) -> list[float]:
    return sorted(value(f"[e.length for e in edges({solid})]"))


def ellipse(a: float, b: float) -> float:
    """The way around (DLMF 19.9.9)."""
    return float(4 * a * ellipe(1 - (b / a) ** 2))


SOLIDS = [
    *((f"extrude(polygon({n}, 50 mm), 9 mm)", [100 * n * math.sin(math.pi / n)] * 2) for n in (24, 47, 150)),
    ("extrude(region(ellipse(60 mm, 30 mm)), 5 mm)", [ellipse(60, 30)] * 2),
    ("cylinder(20 mm, 30 mm).scale(2, 1, 1)", [ellipse(40, 20)] * 2),
    ("sphere(30 mm) & box(99 mm, 99 mm, 99 mm).turn(30°, about = x).move(z = 10 mm)", [2 * math.pi * math.sqrt(825)]),
    ("cone(20 mm, 30 mm) & box(99 mm, 99 mm, 10 mm)", [2 * math.pi * 40 / 3, 2 * math.pi * 20]),
    ("revolve(disc(5 mm).move(20 mm, 0 mm)) & box(99 mm, 99 mm, 9 mm).move(z = 3 mm)", [2 * math.pi * 16, 2 * math.pi * 24]),
]  # fmt: skip


@pytest.mark.parametrize(("solid", "wanted"), SOLIDS)
@pytest.mark.parametrize(
    ("placed", "size"),
    [("", 1), (".turn(20°, about = (1, 2, 3)).move(300 mm, -70 mm, 11 mm)", 1), (".scale(10)", 10)],
)
@pytest.mark.parametrize("given", ["units mm", "tolerance 0.02 mm"])
def test_edges_are_as_long_as_what_they_stand_for(
    solid: str, wanted: list[float], placed: str, size: float, given: str
) -> None:
    found = value(f"[e.length for e in edges(({solid}){placed})]", given)
    assert sorted(found) == pytest.approx(sorted(size * one for one in wanted), rel=1e-6)


def test_an_edge_of_a_curve_given_by_a_function() -> None:
    """A flat arch y = x² / 100 on its chord: scipy's integral of the length of a parabola."""
    arch, _ = quad(lambda x: math.hypot(1, x / 50), -60, 60)
    shape = "region(join([curve(t -> (t * 1 mm, t^2 * 0.01 mm), -60, 60), line((60 mm, 36 mm), (-60 mm, 36 mm))]))"
    found = lengths(f"extrude({shape}, 8 mm)")
    assert found == pytest.approx(sorted([arch, arch, 120, 120, 8, 8]), rel=1e-6)


def test_the_middle_of_a_closed_edge_is_that_of_its_line() -> None:
    """A triangle, grown by 10 mm: sides, and arcs about its corners (the centroid of an arc: 2 r sin(a / 2) / a)."""
    corners = np.array([[0.0, 0.0], [90.0, 0.0], [0.0, 30.0]])
    parts = []
    for at, corner in enumerate(corners):
        before, after = corner - corners[at - 1], corners[(at + 1) % 3] - corner
        normals = [np.array([way[1], -way[0]]) / np.linalg.norm(way) for way in (before, after)]
        parts.append((np.linalg.norm(after), corner + after / 2 + 10 * normals[1]))
        turn = math.acos(normals[0] @ normals[1])
        out = (normals[0] + normals[1]) / np.linalg.norm(normals[0] + normals[1])
        parts.append((10 * turn, corner + 20 * math.sin(turn / 2) / turn * out))
    middle = sum(length * place for length, place in parts) / sum(length for length, _ in parts)
    triangle = "region([(0 mm, 0 mm), (90 mm, 0 mm), (0 mm, 30 mm)])"
    for low in value(f"[e.at for e in edges(extrude(offset({triangle}, 10 mm), 8 mm))]"):
        assert low[:2] == pytest.approx(middle, abs=0.01)


def sides_of(turns: list[float], r: float = 30.0) -> Points:
    """The corners of sides that touch a circle at angles in degrees; the first and the last lie on their sides."""
    middles = np.radians(turns)
    corners = [r * np.array([1.0, 0.3 * math.tan(middles[0] - middles[1])])]
    for a, b in itertools.pairwise(middles):
        size = r / math.cos((b - a) / 2)
        corners.append(size * np.array([math.cos((a + b) / 2), math.sin((a + b) / 2)]))
    way = np.array([-math.sin(middles[-1]), math.cos(middles[-1])])
    corners.append(r * np.array([math.cos(middles[-1]), math.sin(middles[-1])]) + 0.4 * way)
    return np.column_stack([corners, np.zeros(len(corners))])


def test_an_arc_goes_as_far_as_its_ends_wherever_these_cut_its_sides() -> None:
    corners = sides_of([0, 6, 12, 18, 24, 30, 36, 42])
    arc = arc_touched(corners)
    begin, end = (math.atan2(corner[1], corner[0]) for corner in (corners[0], corners[-1]))
    assert arc is not None and arc.radius == pytest.approx(30, rel=1e-9)
    assert arc.sweep == pytest.approx(end - begin, rel=1e-9)


def test_few_sides_and_flat_bends_are_no_arc() -> None:
    """Any three sides touch one circle; a parabola bends by little and is none either."""
    assert arc_touched(sides_of([0, 6, 12])) is None
    places = np.linspace(0, 9, 10)
    assert arc_touched(np.column_stack([places, places**2 / 150, 0 * places])) is None


def test_the_edges_of_a_wheel_of_thousands_of_curves() -> None:
    """The arcs of the tips, as the sheet has half of one."""
    text = (
        demo("dome-drive-gear")
        + "\nlengths = [e.length for e in edges(gear)]\ntip = length(tip_arc)\n"
    )
    values = outcome_of(text, time_limit=60).as_json()["values"]
    tips = [
        one for one in values["lengths"]["value"] if abs(one - 2 * values["tip"]["value"]) < 1e-6
    ]
    assert len(tips) == 2 * 24


def test_what_was_cut_many_times_does_not_hold_all_that_it_was() -> None:
    plate = primitives.box(500, 50, 5)
    for at in range(40):
        hole = primitives.box(1, 70, 9).placed(
            moved(np.array([10.0 * at - 200, 0.0, -2.0])).astype(float)
        )
        plate = combined(
            "-", plate, hole.placed(turned(0.1, np.array([0.0, 1.0, 0.0]), np.zeros(3)))
        )
    assert plate.shape.flat and len(list(plate.shape.made_from())) == 1


@pytest.mark.parametrize("tolerance", ["0.02 mm", "0.05 mm", "3 mm"])
@pytest.mark.parametrize("size", [0.1, 1.0, 10.0])
@pytest.mark.parametrize("flat", [1.5, 5.3, 20.0])
def test_the_tips_of_an_ellipse_are_no_edges(flat: float, size: float, tolerance: str) -> None:
    rim = f"region(ellipse({60 * size} mm, {60 * size / flat} mm))"
    found = value(
        f"[e.length for e in edges(extrude({rim}, {20 * size} mm))]", f"tolerance {tolerance}"
    )
    assert found == pytest.approx([ellipse(60 * size, 60 * size / flat)] * 2, rel=1e-9)


def share_told(formula: str, *lines: str) -> float | None:
    told = run(*lines, f"told = {formula}").lines[-1].result
    assert told is not None
    return told.within


@pytest.mark.parametrize("tolerance", ["0.1 mm", "0.02 mm"])
@pytest.mark.parametrize(
    ("solid", "wanted"),
    [
        # A bore through a bar: 2 ∫ √(r² + (r² sin t cos t)² / (R² - r² cos² t)) dt, by SciPy.
        (
            "cylinder(20 mm, 90 mm) - cylinder(12 mm, 99 mm).turn(90°, about = x).move(0 mm, 50 mm, 45 mm)",
            quad(lambda t: math.hypot(12, 144 * math.sin(t) * math.cos(t) / math.sqrt(400 - 144 * math.cos(t) ** 2)), 0, 2 * math.pi)[0],
        ),
        ("cylinder(20 mm, 200 mm).move(z = -100 mm) & box(99 mm, 99 mm, 99 mm).turn(45°, about = x)", ellipse(20 * math.sqrt(2), 20)),
        # A cone cut beside its axis: z = 3 (20 - √(x² + 100)).
        ("cone(20 mm, 60 mm) & box(99 mm, 99 mm, 99 mm).move(y = -59.5 mm)", quad(lambda x: math.hypot(1, 3 * x / math.hypot(x, 10)), -math.sqrt(300), math.sqrt(300))[0]),
    ],
)  # fmt: skip
def test_what_follows_chords_tells_how_far_it_may_be_off(
    solid: str, wanted: float, tolerance: str
) -> None:
    every = f"[e.length for e in edges({solid})]"
    found, share = value(every, f"tolerance {tolerance}"), share_told(every, f"tolerance {tolerance}")  # fmt: skip
    assert share is not None and 0 < share < (0.05 if tolerance == "0.1 mm" else 0.01)
    assert min(abs(one - wanted) for one in found) <= share * wanted


@pytest.mark.parametrize(
    "formula",
    [
        "[e.length for e in edges(box(9 mm, 8 mm, 7 mm) - cylinder(2 mm, 20 mm))]",
        "[e.length for e in edges(box(30 mm, 20 mm, 9 mm) - cylinder(4 mm, 20 mm).move(15 mm, 10 mm, -1 mm))]",
        "sum([e.length for e in edges(cone(20 mm, 30 mm))])",
        "[e.angle for e in edges(cylinder(20 mm, 30 mm) - box(9 mm, 9 mm, 99 mm))]",
        "[e.angle for e in edges(convex_hull([(30 mm * cos(i * 18°), 30 mm * sin(i * 18°), mod(i * 7, 5) * 1 mm) for i in 0 .. 19]))]",
        "len(edges(cylinder(20 mm, 90 mm) - cylinder(12 mm, 99 mm).turn(90°, about = x).move(z = 45 mm)))",
    ],
)
def test_what_stands_for_lines_and_arcs_is_not_in_doubt(formula: str) -> None:
    """Beside a bore, too, also where it takes a corner away; and what is no length."""
    assert not share_told(formula)


@pytest.mark.parametrize("tolerance", ["0.5 mm", "0.05 mm"])
@pytest.mark.parametrize(
    ("solid", "wanted"),
    [
        ("sphere(30 mm) & box(99 mm, 99 mm, 99 mm)", 90.0),
        ("sphere(30 mm) - cylinder(10 mm, 99 mm).move(z = -40 mm)", math.degrees(math.acos(1 / 3))),
        ("cylinder(20 mm, 30 mm) & box(99 mm, 99 mm, 99 mm).move(x = 55 mm)", math.degrees(math.acos(5.5 / 20))),
        ("revolve(disc(5 mm).move(20 mm, 0 mm)) & box(99 mm, 99 mm, 9 mm).move(z = 3 mm)", math.degrees(math.acos(3 / 5))),
        ("cone(20 mm, 30 mm)", math.degrees(math.atan2(30, 20))),
    ],
)  # fmt: skip
def test_an_angle_at_what_is_round_tells_how_far_it_may_be_off(
    solid: str, wanted: float, tolerance: str
) -> None:
    """By the normals of ball, cylinder, ring and cone: a flat side is as steep as these only in its middle."""
    every = f"[e.angle for e in edges({solid}) if abs(e.angle - {wanted}°) < 15°]"
    found = value(every, f"tolerance {tolerance}")
    share = share_told(f"min({every})", f"tolerance {tolerance}")
    assert share is not None and 0 < share < (0.13 if tolerance == "0.5 mm" else 0.06)
    assert all(abs(one - wanted) <= share * one + 1e-6 for one in found) and found


@pytest.mark.parametrize("figure", ["length", "angle"])
@pytest.mark.parametrize(
    "solid",
    [
        "cylinder(20 mm, 90 mm) - cylinder(12 mm, 99 mm).turn(90°, about = x).move(0 mm, 50 mm, 45 mm)",
        "cylinder(20 mm, 30 mm) & box(99 mm, 99 mm, 99 mm).turn(30°, about = x).move(z = 10 mm)",
    ],
)
def test_the_share_is_the_same_wherever_it_stands_and_however_large_it_is(
    solid: str, figure: str
) -> None:
    """Of flat faces, too, that meet at no more than the angle at which one that bends would fade."""
    told = share_told(f"[e.{figure} for e in edges({solid})]")
    assert told and told < 0.04
    for placed in (".turn(20°, about = (1, 2, 3)).move(300 mm, -70 mm, 11 mm)", ".scale(10)", ".scale(0.1)"):  # fmt: skip
        there = share_told(f"[e.{figure} for e in edges(({solid}){placed})]")
        assert there == pytest.approx(told, rel=0.1)


def off(name: str, *lines: str) -> tuple[Points, Points]:
    """The figures of a line, and by how much each is told to be off."""
    outcome = run(*lines, f"told = {name}")
    result = outcome.lines[-1].result
    assert result is not None and not outcome.problems
    return np.array(result.value), np.array(result.doubt.off or np.zeros(3))


@pytest.mark.parametrize("r", [7.0, 20.0, 31.0, 77.0])
def test_the_middle_of_an_arc_lies_on_the_arc(r: float) -> None:
    """Of a quarter, and not on the chord that happens to be there."""
    at = f"[e.at for e in edges(cylinder({r} mm, 9 mm) & box({r} mm, {r} mm, 9 mm).move({r / 2} mm, {r / 2} mm)) if e.length > {r} mm and e.at.z == 0 mm][0]"
    found = value(at)
    assert found == pytest.approx([r * math.sqrt(0.5), r * math.sqrt(0.5), 0])


@pytest.mark.parametrize("placed", ["", ".scale(10)", ".turn(33°, about = (1, 2, 3)).move(300 mm)"])
@pytest.mark.parametrize("tolerance", [0.3, 0.02])
@pytest.mark.parametrize(("x", "y", "z"), [(3.0, 8.0, -5.0), (-9.0, 11.0, 2.0), (6.5, -4.0, 9.0)])
def test_an_edge_that_ends_in_a_ball_tells_where_and_how_long_it_is(
    x: float, y: float, z: float, tolerance: float, placed: str
) -> None:
    """A corner of a box in a ball of 20 mm: three straight edges, each from the corner to √(400 - …)."""
    size = 10.0 if placed == ".scale(10)" else 1.0
    solid = f"s = (sphere(20 mm) & box(99 mm, 99 mm, 99 mm).move({x + 49.5} mm, {y + 49.5} mm, {z} mm)){placed}"  # fmt: skip
    ends = [(math.sqrt(400 - y * y - z * z), x), (math.sqrt(400 - x * x - z * z), y), (math.sqrt(400 - x * x - y * y), z)]  # fmt: skip
    straight = "l = [e for e in edges(s) if e.straight]"
    lines = f"tolerance {tolerance} mm", solid, straight
    lengths = [off(f"l[{at}].length", *lines) for at in range(3)]
    for wanted in (size * (end - begin) for end, begin in ends):
        found, away = min(lengths, key=lambda one: abs(float(one[0]) - wanted))
        assert abs(found - wanted) <= away + 1e-9 and 0 < away < 4 * size * tolerance
    if not placed:
        middles = [off(f"[l[{at}].at.x, l[{at}].at.y, l[{at}].at.z]", *lines) for at in range(3)]
        for axis, (end, begin) in enumerate(ends):
            place = np.array([x, y, z])
            place[axis] = (end + begin) / 2
            found, away = min(middles, key=lambda one: float(np.abs(one[0] - place).max()))
            assert np.all(np.abs(found - place) <= away + 1e-9) and away.max() > 0


def test_places_and_ways_of_edges_tell_how_far_they_may_be_off() -> None:
    """A bore beside the middle of a bar: its rims are known by their chords, at two tolerances."""
    bored = "s = cylinder(20 mm, 90 mm) - cylinder(9 mm, 99 mm).turn(90°, about = x).move(7 mm, 50 mm, 45 mm)"
    for figure in ("at", "along"):
        one = f"l[0].{figure}"
        lines = bored, "l = [e for e in edges(s) if e.at.y > 1 mm]"
        coarse, away = off(f"[{one}.x, {one}.y, {one}.z]", "tolerance 0.3 mm", *lines)
        fine, rest = off(f"[{one}.x, {one}.y, {one}.z]", "tolerance 0.01 mm", *lines)
        assert np.all(np.abs(coarse - fine) <= away + rest) and 0 < rest.max() < away.max() < 2


def test_an_edge_that_fades_is_in_doubt_wholly() -> None:
    """Where a round foot goes over into a square top, corners begin somewhere: how far down depends on the chords."""
    assert share_told("[e.length for e in edges(loft([disc(20 mm), rect(20 mm, 20 mm).move(z = 20 mm)]) - box(20 mm, 20 mm, 20 mm).move(10 mm, z = 6 mm))]") == 1  # fmt: skip


def test_an_edge_that_is_kept_elsewhere_tells_what_it_told() -> None:
    edges = (
        run("e = edges(sphere(30 mm) - cylinder(10 mm, 99 mm).move(5 mm, z = -40 mm))")
        .lines[-1]
        .value
    )
    assert isinstance(edges, list)
    for one, again in zip(edges, pickle.loads(pickle.dumps(edges)), strict=True):
        assert again["angle"] == one["angle"] and again["angle"].missed == one["angle"].missed > 0
        assert np.all(again["at"] == one["at"]) and again["at"].missed == one["at"].missed
        assert isinstance(again["at"], type(one["at"])) and again["at"].across == one["at"].across


def test_a_condition_on_edges_puts_no_doubt_into_what_is_made() -> None:
    bored = "cylinder(20 mm, 90 mm) - cylinder(12 mm, 99 mm).turn(90°, about = x).move(0 mm, 50 mm, 45 mm)"
    lines = f"s = {bored}", "r = bevel_edges(s, 1 mm, where = e -> e.at.z > 80 mm)"
    chosen = "r = bevel_edges(s, 1 mm, where = e -> e.length > 100 mm and e.angle < 91° and e.at.z > 80 mm)"
    share = share_told("volume(r)", *lines)
    assert share and share_told("volume(r)", lines[0], chosen) == share
