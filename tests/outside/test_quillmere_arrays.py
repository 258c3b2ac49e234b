"""The studies of arrays: their figures against NumPy, SciPy, Shapely and the rules of the trade."""

from __future__ import annotations

import csv
import itertools
import math
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.distance import pdist

from ovolo.outcome.outcome import Outcome
from ovolo.outcome.schedule import cut_list, schedule
from tests.sheets import DEMO, demo_outcome


def figures(outcome: Outcome) -> dict[str, Any]:
    found = outcome.as_json()["values"]
    return {name: one["value"] for name, one in found.items()}


# --- the louvre screen ---


@given(st.integers(24, 90), st.integers(1, 20), st.integers(120, 400))
def test_louvre_blades_stand_in_equal_bays_on_the_arc(chord: int, rise: int, widest: int) -> None:
    """r from chord and rise: (c²/4 + h²) / 2h, the arc r times twice the angle whose sine is
    c / 2r (any machinist's handbook, circle segment)."""
    c, h = chord * 100.0, min(rise * 100.0, chord * 49.0)
    outcome = demo_outcome("louvre-screen", {"chord": c, "rise": h, "widest": float(widest)})
    found = figures(outcome)
    r = (c * c / 4 + h * h) / (2 * h)
    half = math.asin(min(c / 2 / r, 1.0))
    arc = 2 * r * (half if h <= r else math.pi - half)
    assert found["sill_length"] == pytest.approx(arc, rel=1e-9)
    assert found["equal_bays"] == math.ceil(arc / widest - 1e-9)
    blades = [group.matrices for group in outcome.parts["blades"].groups]
    places = np.concatenate(blades)[:, :2, 3]
    assert len(places) == found["equal_bays"] + 1
    centre = np.array([0.0, h - r])
    np.testing.assert_allclose(np.linalg.norm(places - centre, axis=1), r, rtol=1e-9)
    for end in (-c / 2, c / 2):
        assert np.min(np.linalg.norm(places - [end, 0.0], axis=1)) < 1e-6, "one on either end"


def test_the_boards_of_the_plinth_cover_the_sill() -> None:
    found = figures(demo_outcome("louvre-screen"))
    whole = math.floor((found["sill_length"] + 4) / (420 + 4))
    assert found["last_board"] == pytest.approx(found["sill_length"] - whole * 424)
    pieces = schedule([demo_outcome("louvre-screen").parts["cladding"]])
    assert [one.quantity for one in pieces] == [whole, 1]
    assert pieces[0].sizes[0] == pytest.approx(420)


# --- paving ---


@pytest.mark.parametrize("stones", [1, 2, 55, 180])
def test_each_stone_is_a_golden_angle_on(stones: int) -> None:
    """Vogel 1979: 137.508° from one to the next; areas before it say how far out it lies."""
    outcome = demo_outcome("seed-head-paving", {"stones": float(stones), "jitter": 0.0})
    assert not outcome.problems
    places = np.concatenate([g.matrices[:, :2, 3] for g in outcome.parts["paving"].groups])
    assert len(places) == stones
    turns = np.degrees(np.arctan2(places[:, 1], places[:, 0])) % 360
    steps = np.diff(turns) % 360
    np.testing.assert_allclose(steps, 137.50776405, atol=1e-6)
    sizes = 42 + (88 - 42) * np.arange(stones) / max(stones - 1, 1)
    np.testing.assert_allclose(
        np.linalg.norm(places, axis=1), 1.32 * np.sqrt(np.cumsum(sizes**2)), rtol=1e-9
    )


def test_stones_of_the_presets_keep_apart_as_the_sheet_says() -> None:
    """The closest of all pairs (SciPy's pdist) is one of those the sheet looks at."""
    outcome = demo_outcome("seed-head-paving")
    places = np.concatenate([g.matrices[:, :2, 3] for g in outcome.parts["paving"].groups])
    sizes = 42 + (88 - 42) * np.arange(180) / 179
    gaps = pdist(places) - np.array([a + b for a, b in itertools.combinations(sizes, 2)])
    assert figures(outcome)["closest_gap"] == pytest.approx(gaps.min(), abs=1e-6)


def test_no_stones_are_an_empty_bed() -> None:
    outcome = demo_outcome("seed-head-paving", {"stones": 0.0})
    assert outcome.well and outcome.parts["paving"].count == 0 and outcome.parts["bed"].count == 1


# --- the star map ---


def stars() -> list[dict[str, str]]:
    with (DEMO / "stars.csv").open(newline="", encoding="utf-8") as file:
        return list(csv.DictReader(file))


@pytest.mark.parametrize("shown_to", [1.0, 2.5, 5.0])
def test_a_hole_for_each_star_and_the_thinnest_web(shown_to: float) -> None:
    outcome = demo_outcome("star-map-screen", {"shown_to": shown_to})
    seen = [row for row in stars() if float(row["magnitude"]) <= shown_to]
    brightness = [float(row["magnitude"]) for row in stars()]
    least, most = min(brightness), max(brightness)
    radii = [14 + (4 - 14) * (float(r["magnitude"]) - least) / (most - least) for r in seen]
    points = np.array([[float(r["x [mm]"]), float(r["y [mm]"])] for r in seen])
    found = figures(outcome)
    assert found["count"] == len(seen)
    webs = pdist(points) - np.array([a + b for a, b in itertools.combinations(radii, 2)])
    assert found["thinnest"] == pytest.approx(webs.min(), abs=1e-9)
    plate = shapely.box(-600, -400, 600, 400)
    holes = sum(math.pi * r * r for r in radii)
    corners = 4 * 30 * 30 - math.pi * 30 * 30  # what rounding takes off
    assert found["open_area"] == pytest.approx((holes + corners) / plate.area, rel=1e-9)
    assert outcome.parts["lamps"].count == len(seen)


# --- the canopy ---


def b_spline(net: np.ndarray, u: float, v: float) -> np.ndarray:
    """The surface of 4 x 4 control points is one Bézier patch: Bernstein's polynomials."""

    def weights(t: float) -> np.ndarray:
        return np.array([math.comb(3, k) * t**k * (1 - t) ** (3 - k) for k in range(4)])

    found: np.ndarray = np.einsum("i,j,ijc->c", weights(u), weights(v), net)
    return found


def test_struts_of_the_canopy_run_from_node_to_node() -> None:
    outcome = demo_outcome("terrace-canopy")
    net = np.array([[p for p in row] for row in figures(outcome)["net"]])  # noqa: C416
    nodes = np.array([[b_spline(net, i / 7, j / 5) for j in range(6)] for i in range(8)])
    along = np.linalg.norm(np.diff(nodes, axis=0), axis=2)
    across = np.linalg.norm(np.diff(nodes, axis=1), axis=2)
    assert figures(outcome)["strut_metres"] == pytest.approx(along.sum() + across.sum())
    section = figures(outcome)
    for part, lengths in (("struts_along", along), ("struts_across", across)):
        pieces = schedule([outcome.parts[part]])
        total = sum(piece.total_length for piece in pieces)
        assert total == pytest.approx(lengths.sum(), rel=1e-9), section["strut_metres"]
        assert outcome.parts[part].count == lengths.size
    assert outcome.parts["panels"].count == 35


def test_panels_lie_on_the_struts_and_may_be_left_out() -> None:
    outcome = demo_outcome("terrace-canopy", {"drop_out": True})
    assert outcome.parts["panels"].count == 35 - 3
    top = demo_outcome("terrace-canopy").parts["panels"].bounds
    struts = demo_outcome("terrace-canopy").parts["struts_along"].bounds
    assert top is not None and struts is not None
    assert top[1][2] > struts[1][2], "the radius of a strut and the panel above it"


# --- the cabin ---


@given(st.integers(60, 180), st.integers(48, 108), st.integers(44, 96))
def test_windows_of_the_cabin_fit_between_their_buffers(long: int, wide: int, high: int) -> None:
    """n windows with n - 1 piers of at least the least fit between the buffers; common practice."""
    sizes = {"long": long * 50.0, "wide": wide * 50.0, "high": high * 50.0}
    outcome = demo_outcome("keepers-cabin", sizes)
    rows = max(math.floor((sizes["high"] - 900 - 760 - 200) / 1350 + 1e-9) + 1, 0)

    def columns(face: float) -> int:
        return max(math.floor((face - 1000 + 420) / (620 + 420) + 1e-9), 0)

    count = 2 * rows * (columns(sizes["long"]) + columns(sizes["wide"] - 360))
    count -= len(beside_the_door(sizes["long"], columns(sizes["long"]), rows))
    found = figures(outcome)
    assert found["rows_of"] == rows and found["window_count"] == count
    walls = outcome.parts["walls"]
    assert walls.closed and walls.count == 4


def beside_the_door(long: float, count: int, rows: int) -> list[float]:
    """The middles of the windows that would come nearer than half a pier to the door: 900 mm wide,
    and higher than the sill of the lower row alone."""
    step = (long - 1000 - 620) / (count - 1) if count > 1 else 0.0
    places = [-long / 2 + 500 + 310 + step * k for k in range(count)] if count > 1 else [0.0]
    near = [x for x in places[:count] if abs(x) - (620 + 900) / 2 < 210 - 1e-9]
    return near if rows else []


def test_the_walls_are_less_their_windows_and_the_door() -> None:
    outcome = demo_outcome("keepers-cabin")
    found, pitch, inner = figures(outcome), math.radians(32), 3600 - 360
    gable = inner * 2700 + inner * inner / 4 * math.tan(pitch)
    area = 2 * 5400 * 2700 + 2 * gable - found["window_count"] * 620 * 760
    area -= 900 * 2050
    assert found["window_count"] == 12 - len(beside_the_door(5400, 4, 1)) == 10
    assert outcome.parts["walls"].volume == pytest.approx(area * 180, rel=1e-9)


# --- the cage, the diffuser, the boardwalk ---


@given(st.integers(20, 300), st.integers(8, 100), st.integers(2, 40))
def test_as_many_balls_as_the_webs_allow(bore: int, ball: int, web: int) -> None:
    """n pockets of diameter d fit where 2 R sin(180° / n) >= d + web."""
    inputs = {"bore": float(bore), "ball": ball / 2, "least_web": web / 2}
    outcome = demo_outcome("bearing-cage", inputs)
    pocket = ball / 4 + 0.4
    radius = bore / 2 + 5 + pocket
    count = math.floor(math.pi / math.asin((2 * pocket + web / 2) / (2 * radius)) + 1e-9)
    found = figures(outcome)
    assert found["balls"] == count and found["web"] >= web / 2 - 1e-9
    tighter = 2 * radius * math.sin(math.pi / (count + 1)) - 2 * pocket
    assert tighter < web / 2 + 1e-9, "one more would not fit"


def test_the_plate_and_the_pegs_of_the_cage_fill_the_ring() -> None:
    plate = demo_outcome("bearing-cage").parts["cage"].volume
    pegs = demo_outcome("bearing-cage", {"what": "pegs"}).parts["cage"]
    assert plate is not None and pegs.volume is not None
    ring = math.pi * (figures(demo_outcome("bearing-cage"))["outer"] ** 2 - 45**2) * 10
    assert plate + pegs.volume / 3 == pytest.approx(ring, rel=2e-3)


def test_the_pier_carries_the_cage_and_has_its_pockets() -> None:
    outcome = demo_outcome("telescope-pier")
    assert outcome.well
    cage = demo_outcome("bearing-cage").parts["cage"].volume
    balls = demo_outcome("bearing-cage").parts["rollers"].volume
    assert outcome.parts["cage"].volume == pytest.approx(cage + balls, rel=1e-3)  # type: ignore[operator]
    assert outcome.parts["cage"].count == 17


@pytest.mark.parametrize("prime", [5, 7, 11, 13, 17])
def test_blocks_of_the_diffuser_by_the_depth_of_their_wells(prime: int) -> None:
    """Schroeder: depths n² mod p; a block fills what is not as deep as the deepest."""
    outcome = demo_outcome("lecture-room-diffuser", {"prime": float(prime)})
    sequence = [n * n % prime for n in range(prime)] * 3
    filled = [s for s in sequence if s < max(sequence)]
    assert outcome.parts["blocks"].count == len(filled)
    pieces = schedule([outcome.parts["blocks"]])
    counts = sorted(piece.quantity for piece in pieces)
    assert counts == sorted(filled.count(s) for s in set(filled))
    tinting = outcome.parts["blocks"].tinting
    assert tinting is not None and len(set(tinting.of_items)) == len(set(filled))


@given(st.integers(0, 240), st.sampled_from(["narrow", "wide"]))
def test_the_cut_list_of_the_boardwalk_covers_its_length(steps: int, size: str) -> None:
    length = steps * 50.0
    outcome = demo_outcome("boardwalk", {"walk_length": length, "size": size})
    parts = [outcome.parts[name] for name in ("boards", "last_board")]
    boards = schedule(parts)
    board = 95 if size == "narrow" else 145
    whole = math.floor((length + 6) / (board + 6))
    quantity = sum(piece.quantity for piece in boards if piece.part == "boards")
    assert quantity == whole
    rest = max(length - whole * (board + 6), 0)
    cut = [piece for piece in boards if piece.part == "last_board"]
    assert bool(cut) == (rest >= 20)
    if cut:
        assert sorted(cut[0].sizes)[1] == pytest.approx(rest) or rest < 28
    assert sum(stock.total for stock in cut_list(boards)) == pytest.approx(
        1200 * (quantity + len(cut))
    )


def test_posts_of_the_boardwalk_are_no_wider_apart_than_allowed() -> None:
    for length in (400.0, 1600.0, 4200.0, 12000.0):
        posts = demo_outcome("boardwalk", {"walk_length": length}).parts["posts"]
        xs = np.unique(np.round(np.concatenate([g.matrices[:, 0, 3] for g in posts.groups]), 6))
        assert xs[0] == 100 and xs[-1] == pytest.approx(length - 100)
        assert np.all(np.diff(xs) <= 1400 + 1e-6)


def test_balusters_of_the_stair_are_those_of_their_own_study() -> None:
    stair = demo_outcome("spiral-stair")
    pieces = {round(p.sizes[0]): p for p in schedule([stair.parts["balusters"]])}
    assert set(pieces) == {930, 990, 1050} and {p.quantity for p in pieces.values()} == {17}
    alone = demo_outcome("turned-baluster", {"height": 930.0, "widest": 9.0}).parts["body"]
    assert alone.volume is not None
    assert pieces[930].volume == pytest.approx(alone.volume, rel=0.02), "the tolerances differ"
