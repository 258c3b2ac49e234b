"""Picked points and edges, measured. Lengths of circles and arcs are those of the true curve."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.optimize import minimize, minimize_scalar
from scipy.special import ellipe

from ovolo.geometry.solids.edges import Edges
from ovolo.outcome.measure import _between_segments, as_json, measured
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.picked_edge import drawn_edges, edge_of
from ovolo.problems import Failure
from tests.sheets import run

PLATE = ("input h = 40 mm", "part plate = box(200 mm, 100 mm, h).move(500 mm)",
         "part post = cylinder(75 mm, 300 mm)", "part flat = rect(30 mm, 40 mm) - disc(5 mm)")  # fmt: skip


def edges_of(outcome: Outcome, part: str, count: int) -> list[Any]:
    return [edge_of(outcome.parts[part], 0, at) for at in range(count)]


def numbers(outcome: Outcome, *picks: dict[str, Any]) -> dict[str, float]:
    return {one.name: one.value for one in measured(outcome, list(picks)).found}


def test_a_rim_is_a_circle_of_the_true_radius() -> None:
    found = numbers(run(*PLATE), {"part": "post", "item": 0, "edge": 5})
    assert found["radius"] == pytest.approx(75, rel=1e-6)
    assert found["length around"] == pytest.approx(2 * math.pi * 75, rel=1e-6)


def test_a_hole_in_a_region_too() -> None:
    found = numbers(run(*PLATE), {"part": "flat", "item": 0, "edge": 20})
    assert found["diameter"] == pytest.approx(10, rel=1e-6)


def test_a_half_round_is_an_arc() -> None:
    outcome = run("half = disc(40 mm) & rect(200 mm, 200 mm).move(100 mm)", "part p = half")
    arcs = [edge for edge in edges_of(outcome, "p", 20) if edge.centre is not None]
    assert arcs and arcs[0].radius == pytest.approx(40, rel=1e-6)
    assert arcs[0].length == pytest.approx(math.pi * 40, rel=1e-6)
    assert not arcs[0].closed


def test_the_edges_of_a_box() -> None:
    outcome = run(*PLATE)
    lengths = sorted(round(edge.length, 4) for edge in edges_of(outcome, "plate", 12))
    assert lengths == [40] * 4 + [100] * 4 + [200] * 4


def test_two_points_with_their_components() -> None:
    found = numbers(run(*PLATE), {"point": [0, 0, 0]}, {"point": [30, 40, 0]})
    assert (found["distance"], found["along x"], found["along y"]) == (50, 30, 40)
    assert found["slope"] == 0
    steep = numbers(run(*PLATE), {"point": [0, 0, 0]}, {"point": [1, 0, 1]})
    assert steep["slope"] == pytest.approx(math.pi / 4)


def test_edges_at_right_angles_and_parallel_ones() -> None:
    outcome = run(*PLATE)
    edges = edges_of(outcome, "plate", 12)

    def pick(direction: int, nth: int = 0) -> dict[str, Any]:
        along = [
            at for at, e in enumerate(edges) if abs((e.corners[-1] - e.corners[0])[direction]) > 1
        ]
        return {"part": "plate", "item": 0, "edge": along[nth]}

    square = numbers(outcome, pick(0), pick(1))
    assert square["angle"] == pytest.approx(math.pi / 2)
    parallel = numbers(outcome, pick(2, 0), pick(2, 1))
    assert parallel["angle"] == pytest.approx(0, abs=1e-9)
    assert parallel["distance"] in (
        pytest.approx(100),
        pytest.approx(200),
        pytest.approx(math.hypot(100, 200)),
    )


def test_a_circle_is_measured_from_its_centre() -> None:
    found = numbers(run(*PLATE), {"part": "post", "item": 0, "edge": 0}, {"point": [300, 400, 0]})
    assert found["distance"] in (
        pytest.approx(500, rel=1e-6),
        pytest.approx(math.hypot(500, 300), rel=1e-6),
    )


def test_the_lines_it_offers_speak_in_the_names_of_the_sheet() -> None:
    outcome = run(*PLATE)
    found = as_json(
        measured(outcome, [{"point": [400, 50, 0]}, {"point": [400, 50, 40]}]), outcome, ["plate"]
    )
    assert found["dim"] == "dim h from (400 mm, 50 mm, 0 mm) to (400 mm, 50 mm, h)"
    assert found["check"].startswith(
        "check distance((400 mm, 50 mm, 0 mm), (400 mm, 50 mm, h)) == h within"
    )
    for line in (found["dim"], found["check"]):
        stated = run(*PLATE, line)
        assert stated.well, [str(problem) for problem in stated.problems]
    assert not run("input h = 55 mm", *PLATE[1:], found["dim"]).problems, "it follows the input"


def test_names_the_part_does_not_depend_on_are_not_used() -> None:
    outcome = run("other = 40 mm", *PLATE[1:2], "input h = 40 mm")
    found = as_json(
        measured(outcome, [{"point": [0, 0, 0]}, {"point": [0, 0, 40]}]), outcome, ["plate"]
    )
    assert "dim h " in found["dim"]


@pytest.mark.parametrize(
    ("picks", "said"),
    [
        ([], "0 things were picked"),
        ([{"point": [1, 2]}], "a pick is a point or an edge"),
        ([{"point": [1, 2, math.inf]}], "a pick is a point or an edge"),
        ([{"part": "plat", "edge": 0}], "there is no part `plat`"),
        ([{"part": "plate", "item": 0, "edge": 99}], "has no edge 99"),
        ([{"part": "plate", "item": 7, "edge": 0}], "has no item 7"),
    ],
)  # fmt: skip
def test_picks_that_name_nothing(picks: list[dict[str, Any]], said: str) -> None:
    with pytest.raises(Failure, match=said.replace("(", r"\(")):
        measured(run(*PLATE), picks)


corner = st.tuples(*[st.integers(-50, 50)] * 3).map(lambda p: np.array(p, dtype=float))


@given(corner, corner, corner, corner)
def test_the_nearest_points_of_two_segments(p: Any, q: Any, r: Any, s: Any) -> None:
    """Against a general minimiser (SciPy, L-BFGS-B) of the distance over both segments."""
    a, b = _between_segments(p, q, r, s)
    ours = float(np.linalg.norm(b - a))

    def gap(x: Any) -> float:
        step = p + x[0] * (q - p) - r - x[1] * (s - r)
        return float(step @ step)

    best = min(
        minimize(gap, start, bounds=[(0, 1), (0, 1)]).fun
        for start in ((0, 0), (1, 1), (0.5, 0.5), (0, 1), (1, 0))
    )
    assert ours <= math.sqrt(max(best, 0)) + 1e-3
    for point, start, end in ((a, p, q), (b, r, s)):
        assert np.linalg.norm(point - start) + np.linalg.norm(end - point) == pytest.approx(
            np.linalg.norm(end - start), abs=1e-6
        )


def picked(formula: str, *given: str) -> set[tuple[float, float]]:
    """The lengths and radii (0 where there is none) of all edges drawn of a thing."""
    drawn = drawn_edges(run(*given, f"part p = {formula}").parts["p"], 0)
    middles, found, left = drawn.edges.mean(axis=1), set(), set(range(len(drawn.edges)))
    while left:
        edge = drawn.edge(at := left.pop())
        found.add((round(edge.length, 4), round(edge.radius, 4)))
        own = (edge.corners[:-1] + edge.corners[1:]) / 2
        close = np.abs(middles[:, None] - own[None]).max(axis=2).min(axis=1) < 1e-3
        left -= {at, *np.flatnonzero(close).tolist()}
    return found


def around(a: float, b: float) -> float:
    """The way around an ellipse (DLMF 19.9.9), by scipy's complete elliptic integral."""
    return float(4 * a * ellipe(1 - (b / a) ** 2))


def circle(r: float, share: float = 1.0) -> tuple[float, float]:
    return round(2 * math.pi * r * share, 4), round(r, 4)


def rises(sides: int) -> list[tuple[float, float]]:
    """Where a prism bends by more than 20° its upright edges are drawn."""
    return [(10.0, 0.0)] if 360 / sides > 20 else []


TRUE = [
    *(
        (formula, {(round(2 * 50 * math.sin(math.pi / n), 4), 0.0), *more})
        for n in (6, 24, 60)
        for formula, more in (
            (f"polygon({n}, 50 mm)", ()),
            (f"extrude(polygon({n}, 50 mm), 10 mm)", rises(n)),
            (f"extrude(polygon({n}, 50 mm) - disc(7 mm), 10 mm)", [*rises(n), circle(7)]),
            (f"extrude(polygon({n}, 50 mm), 10 mm) - sphere(9 mm)", [*rises(n), circle(9)]),
        )
    ),
    ("ellipse(60 mm, 30 mm)", {(round(around(60, 30), 4), 0.0)}),
    ("extrude(region(ellipse(60 mm, 30 mm)), 5 mm)", {(round(around(60, 30), 4), 0.0)}),
    ("cylinder(20 mm, 30 mm).scale(2, 1, 1)", {(round(around(40, 20), 4), 0.0)}),
    ("slot(40 mm, 10 mm)", {(40.0, 0.0), circle(10, 1 / 2)}),
    ("extrude(round_corners(rect(60 mm, 40 mm), 8 mm), 5 mm)", {(44.0, 0.0), (24.0, 0.0), circle(8, 1 / 4)}),
    ("revolve(rect(10 mm, 20 mm).move(30 mm, 0 mm), 90°)", {(10.0, 0.0), (20.0, 0.0), circle(25, 1 / 4), circle(35, 1 / 4)}),
    # Cut by planes: a ring of round section (R = 20, r = 5) at 3 mm, a cone at a third of its height, balls anywhere.
    ("revolve(disc(5 mm).move(20 mm, 0 mm)) & box(99 mm, 99 mm, 9 mm).move(z = 3 mm)", {circle(16), circle(24)}),
    ("cone(20 mm, 30 mm) & box(99 mm, 99 mm, 10 mm)", {circle(20), circle(40 / 3)}),
    ("sphere(30 mm) - box(99 mm, 99 mm, 99 mm)", {circle(30)}),
    ("sphere(30 mm) & box(99 mm, 99 mm, 99 mm).turn(30°, about = x).move(z = 10 mm)", {circle(math.sqrt(900 - 75))}),
    ("cylinder(20 mm, 30 mm) - box(99 mm, 99 mm, 99 mm).move(y = 59.5 mm, z = -9 mm)", {(30.0, 0.0), (round(20 * math.sqrt(3), 4), 0.0), circle(20, 2 / 3)}),
]  # fmt: skip


@pytest.mark.parametrize(("formula", "wanted"), TRUE)
def test_edges_are_measured_by_what_they_stand_for(
    formula: str, wanted: set[tuple[float, float]]
) -> None:
    """Not by what is drawn: many sides are no circle, and an ellipse is as long as it is; also turned and moved."""
    assert picked(formula) == wanted
    turned = picked(f"({formula}).turn(20°, about = (1, 2, 3)).move(300 mm, -70 mm, 11 mm)")
    assert len(turned) >= len(wanted)
    for edge in turned:
        assert min(math.dist(edge, one) for one in wanted) < 1e-3


ROUND = [
    ("disc(50 mm)", circle(50)),
    ("circle(50 mm)", circle(50)),
    ("cylinder(50 mm, 9 mm)", circle(50)),
    ("extrude(disc(50 mm), 9 mm)", circle(50)),
    ("region(ellipse(50 mm, 3 mm))", (round(around(50, 3), 4), 0.0)),
    ("sphere(50 mm) - box(200 mm, 200 mm, 200 mm)", circle(50)),
]  # fmt: skip


@pytest.mark.parametrize(("formula", "edge"), ROUND)
@pytest.mark.parametrize("size", [1, 10])
@pytest.mark.parametrize("tolerance", ["5 mm", "0.1 mm", "0.02 mm"])
def test_however_coarsely_an_edge_is_drawn_it_is_one(
    formula: str, edge: tuple[float, float], size: int, tolerance: str
) -> None:
    """Ten times as large, too, and with another tolerance than that of what was measured before."""
    (found,) = picked(f"({formula}).scale({size})", f"tolerance {tolerance}")
    assert found == pytest.approx([size * one for one in edge], abs=2e-4 * size)


def test_what_only_touches_a_circle_is_none() -> None:
    """A bar cut askew: its ellipse (semi-axes 20 and 20 √2) touches the circle of that height."""
    ((length, radius),) = {
        (round(length, 1), radius)
        for length, radius in picked(
            "cylinder(20 mm, 200 mm).move(z = -100 mm) & box(99 mm, 99 mm, 99 mm).turn(45°, about = x)"
        )
    }
    assert radius == 0 and length == pytest.approx(around(20 * math.sqrt(2), 20), rel=1e-3)


@pytest.mark.parametrize("tolerance", [0.2, 0.02])
@pytest.mark.parametrize("placed", ["", ".turn(35°, about = (1, 2, 3))", ".scale(2.5)"])
@pytest.mark.parametrize(("r", "aside"), [(3, 0), (12, 0), (12, 4), (17, 0), (8, 9)])
def test_where_a_bore_comes_out_of_a_bar_is_one_edge(r: int, aside: int, placed: str, tolerance: float) -> None:  # fmt: skip
    """Though it touches circles of both. Its length by SciPy's quadrature of what two cylinders share: x = aside + r cos t,
    z = r sin t, y = √(R² - x²)."""

    def slope(t: float) -> float:
        x = aside + r * math.cos(t)
        return math.hypot(r, x * r * math.sin(t) / math.sqrt(400 - x * x))

    size = 2.5 if "scale" in placed else 1
    around_bore = quad(slope, 0, 2 * math.pi)[0] * size
    bored = f"(cylinder(20 mm, 90 mm) - cylinder({r} mm, 99 mm).turn(90°, about = x).move({aside} mm, 50 mm, 45 mm)){placed}"
    found = picked(bored, f"tolerance {tolerance} mm")
    assert {radius for _, radius in found} == {0, 20 * size}
    assert all(
        length == pytest.approx(around_bore, rel=0.1 * tolerance)
        for length, radius in found if not radius
    )  # fmt: skip


def test_what_is_known_by_chords_alone_says_so() -> None:
    bored = "part p = cylinder(20 mm, 90 mm) - cylinder(12 mm, 99 mm).turn(90°, about = x).move(0 mm, 50 mm, 45 mm)"
    outcome = run(bored)
    drawn = drawn_edges(outcome.parts["p"], 0)
    mouth = next(at for at in range(len(drawn.edges)) if not drawn.edge(at).radius)
    rim = next(at for at in range(len(drawn.edges)) if drawn.edge(at).radius)

    def shown(*picks: dict[str, Any]) -> list[str]:
        return [
            one["shown"] for one in as_json(measured(outcome, [*picks]), outcome, ["p"])["found"]
        ]

    of_mouth, of_rim = ({"part": "p", "item": 0, "edge": at} for at in (mouth, rim))
    assert "mm, within 0." in shown(of_mouth)[0] and not any(
        "within" in one for one in shown(of_rim)
    )
    assert all("within" in one for one in shown(of_mouth, {"point": [50, 20, 30]})[:2])
    assert not any("within" in one for one in shown(of_rim, {"point": [50, 20, 30]}))


@pytest.mark.parametrize(
    "solid",
    [
        "cylinder(20 mm, 90 mm) - cylinder(12 mm, 99 mm).turn(90°, about = x).move(0 mm, 50 mm, 45 mm)",
        "cylinder(20 mm, 30 mm) & box(99 mm, 99 mm, 99 mm).turn(30°, about = x).move(z = 10 mm)",
        "cone(20 mm, 60 mm) & box(99 mm, 99 mm, 99 mm).move(y = -59.5 mm)",
        "(sphere(30 mm) - cylinder(10 mm, 99 mm).move(5 mm, z = -40 mm)).scale(2.5)",
    ],
)
def test_the_stage_tells_of_an_edge_what_the_language_does(solid: str) -> None:
    outcome = run(f"part p = {solid}")
    drawn = drawn_edges(outcome.parts["p"], 0)
    picked = {(round(one.length, 4), round(one.missed, 4)) for one in map(drawn.edge, range(len(drawn.edges)))}  # fmt: skip
    of_language = Edges(outcome.parts["p"].value).edges
    assert picked == {(round(one.length, 4), round(one.missed, 4)) for one in of_language}
    assert any(missed for _, missed in picked)


def test_so_does_a_section_that_is_known_by_chords() -> None:
    """An ellipse: a bar of 20 mm cut at 45°."""
    drawn = drawn_edges(run("part p = cut_at(cylinder(20 mm, 90 mm), (1, 0, 1), (0 mm, 0 mm, 45 mm))").parts["p"], 0)  # fmt: skip
    edge = drawn.edge(0)
    true = around(20 * math.sqrt(2), 20)
    assert 0 < abs(edge.length - true) <= edge.missed < 0.01 * true


def test_the_distance_of_a_curve_is_its_own_and_not_that_of_its_chords() -> None:
    """Of an ellipse and a point: by scipy's search for the least."""
    outcome = run("part oval = region(ellipse(60 mm, 30 mm))")
    found = numbers(outcome, {"part": "oval", "item": 0, "edge": 3}, {"point": [50, 40, 0]})
    least = minimize_scalar(
        lambda t: math.dist((60 * math.cos(t), 30 * math.sin(t)), (50, 40)), (0.2, 0.8)
    )
    assert found["distance"] == pytest.approx(least.fun, abs=1e-9)


@pytest.mark.parametrize("tolerance", [0.3, 0.03])
def test_what_ends_at_a_ball_is_measured_as_far_off_as_it_may_be(tolerance: float) -> None:
    """A corner of a box in a ball of 20 mm: along each axis, between two of its edges, and to a point."""
    x, y, z = 3.0, 8.0, -5.0
    outcome = run(
        f"tolerance {tolerance} mm",
        f"part p = sphere(20 mm) & box(99 mm, 99 mm, 99 mm).move({x + 49.5} mm, {y + 49.5} mm, {z} mm)",
    )
    count = len(drawn_edges(outcome.parts["p"], 0).edges)
    straight = [at for at in range(count) if edge_of(outcome.parts["p"], 0, at).straight]
    wanted = {
        "along x": math.sqrt(400 - y * y - z * z) - x,
        "along y": math.sqrt(400 - x * x - z * z) - y,
        "along z": math.sqrt(400 - x * x - y * y) - z,
    }
    seen = set()
    for at in straight:
        pick = {"part": "p", "item": 0, "edge": at}
        along = max(measured(outcome, [pick]).found[1:4], key=lambda one: one.value)
        assert abs(along.value - wanted[along.name]) <= along.missed < 4 * tolerance
        seen.add(along.name)
        beyond = {"point": [x + 200, y, z]}
        distance = measured(outcome, [pick, beyond]).found[0]
        nearest = wanted["along x"] if along.name == "along x" else 0.0
        assert abs(distance.value - (200 - nearest)) <= distance.missed + 1e-9
        assert distance.missed > 0 or along.name != "along x"
    assert seen == set(wanted)
