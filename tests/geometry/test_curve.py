"""Curves of many cubics, worked out together, against each cubic by itself and dense samples."""

import itertools
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.corners import meetings
from ovolo.geometry.curves.curve import Curve, closest
from ovolo.geometry.curves.drafting import by_equation
from ovolo.geometry.curves.pieces import Arc, Cubic, Piece, Straight
from ovolo.geometry.placement import turned
from ovolo.outcome.outcome import outcome_of

poles = st.lists(st.floats(-100, 100), min_size=12, max_size=12).map(
    lambda f: np.array(f).reshape(4, 3)
)


@given(st.lists(poles, min_size=1, max_size=5))
def test_bounds_of_cubics_hold_all_their_points_and_touch_some(many: list[Any]) -> None:
    low, high = Cubics(np.array(many)).bounds()
    samples = np.concatenate([Cubic(one).at(np.linspace(0, 1, 2001)) for one in many])
    assert (samples.min(axis=0) >= low - 1e-9).all() and (samples.max(axis=0) <= high + 1e-9).all()
    assert samples.min(axis=0) == pytest.approx(low, abs=1e-3)
    each = np.array([Cubic(one).bounds() for one in many])
    assert low == pytest.approx(each[:, 0].min(axis=0), abs=1e-9)


@given(poles, st.floats(0.01, 1))
def test_chords_stay_within_the_tolerance(one: Any, tolerance: float) -> None:
    piece = Cubic(one)
    corners = np.concatenate([piece.start[None], Cubics(one[None]).points(tolerance)[1]])
    count = len(corners) - 1
    assert corners[-1] == pytest.approx(piece.end, abs=1e-9)
    middles = piece.at((np.arange(count) + 0.5) / count)
    gaps = np.linalg.norm(middles - (corners[:-1] + corners[1:]) / 2, axis=1)
    assert gaps.max() <= tolerance * (1 + 1e-9)


def chain(seed: int) -> list[Piece]:
    """Pieces of all kinds, each from where the one before it ends: lines, arcs of circles and ellipses, cubics."""
    rng = np.random.default_rng(seed)
    pieces: list[Piece] = []
    end = rng.uniform(-50, 50, 3)
    for kind in rng.integers(0, 4, int(rng.integers(4, 40))).tolist():
        u, v, w = rng.uniform(-40, 40, (3, 3))
        if kind == 0:
            pieces.append(Straight(end, end + u))
        elif kind == 3:
            pieces.append(Cubic(np.array([end, end + u, end + v, end + w])))
        else:
            if kind == 1:  # a circle
                v = np.cross(u, w)
                v = v * np.linalg.norm(u) / np.linalg.norm(v)
            angle, sweep = (
                float(rng.uniform(-6, 6)),
                float(rng.choice([-1, 1]) * rng.uniform(0.1, 6.2)),
            )
            centre = end - math.cos(angle) * u - math.sin(angle) * v
            pieces.append(Arc(centre, u, v, angle, sweep))
        end = pieces[-1].end
    return pieces


@given(st.integers(0, 10_000), st.sampled_from([0.01, 0.05, 0.4]))
def test_many_pieces_at_once_are_each_by_itself(seed: int, tolerance: float) -> None:
    pieces = chain(seed)
    curve, each = Curve(tuple(pieces)), [Curve((one,)) for one in pieces]
    near = pytest.approx
    for many in (lambda one: one.points(tolerance), lambda one: one.sides(tolerance)):
        wanted = np.concatenate([curve.start[None], *(many(one)[1:] for one in each)])
        assert many(curve) == near(wanted, abs=1e-9)
    boxes = np.array([one.bounds() for one in each])
    assert curve.bounds()[0] == near(boxes[:, 0].min(axis=0), abs=1e-9)
    assert curve.bounds()[1] == near(boxes[:, 1].max(axis=0), abs=1e-9)
    assert curve.ends == near(np.cumsum([one.length for one in each]), rel=1e-11)
    matrix = turned(0.7, np.array([0.0, 1.0, 1.0]), np.array([3.0, 4.0, 5.0])) @ np.diag(
        [1.0, 1.5, -2.0, 1.0]
    )
    for placed, one in zip(curve.placed(matrix).pieces, pieces, strict=True):
        assert placed.figures == near(one.placed(matrix).figures, abs=1e-9)
        assert type(placed) is type(one)
    assert curve.key != Curve(tuple(pieces[:-1])).key


def test_placing_many_at_once_is_placing_each() -> None:
    wave = by_equation(lambda t: np.array([t, np.sin(t), t * t / 50]), 0.0, 20.0)
    matrix = turned(0.7, np.array([0.0, 1.0, 1.0]), np.array([3.0, 4.0, 5.0]))
    placed = wave.placed(matrix)
    for before, after in zip(wave.pieces, placed.pieces, strict=True):
        assert after.at(0.3) == pytest.approx((matrix @ [*before.at(0.3), 1.0])[:3])
    assert placed.length == pytest.approx(wave.length, rel=1e-12)


def test_equal_curves_have_equal_keys_and_others_do_not() -> None:
    first, second = (by_equation(lambda t, k=k: np.array([t, k * t * t, 0.0]), 0.0, 1.0) for k in (1.0, 1.0 + 1e-9))  # fmt: skip
    again = Curve(first.pieces)
    assert first.key == again.key != second.key


def test_the_nearest_place_by_its_formula_is_that_found_by_search() -> None:
    """Of lines and of parts of circles, against SciPy's bounded minimum (Brent)."""
    draws = np.random.default_rng(8)
    for _ in range(200):
        u = draws.normal(size=3)
        v = np.cross(u, draws.normal(size=3))
        v *= np.linalg.norm(u) / np.linalg.norm(v)
        sweep = draws.choice([-1, 1]) * draws.uniform(0.2, 2 * math.pi)
        arc = Arc(draws.normal(size=3), u, v, draws.uniform(-9, 9), sweep)
        for piece in (arc, Straight(draws.normal(size=3), draws.normal(size=3))):
            point = 2 * draws.normal(size=3)

            def gap(t: float, piece: Piece = piece, point: Any = point) -> float:
                return float(np.linalg.norm(piece.at(t) - point))

            searched = min(gap(t) for t in (Piece.nearest(piece, point), 0.0, 1.0))
            assert gap(piece.nearest(point)) == pytest.approx(searched, abs=1e-9)


def test_what_is_kept_of_a_curve_cannot_be_altered() -> None:
    curve = by_equation(lambda t: np.stack([t, t**2, 0 * t], axis=-1), 0.0, 3.0)
    before = curve.bounds().copy()
    with pytest.raises(ValueError, match="read-only"):
        curve.bounds()[0] -= 5.0
    assert (curve.bounds() == before).all()
    moved_on = curve.placed(turned(0.4, np.array([0, 0, 1.0]), np.zeros(3))).bounds()
    assert not (moved_on == before).all(), "another place has bounds of its own"


@pytest.mark.parametrize(
    "point", [(0.0, 0.0, 0.0), (0.0, 0.0, 5.0), (3.0, 0.0, 0.0), (-3.0, 0.0, 0.0)]
)
def test_the_nearest_place_from_the_centre_and_at_the_seam(point: Any) -> None:
    """From the axis every place of an arc is as near; behind its gap an end is."""
    whole = Arc(np.zeros(3), np.array([2.0, 0, 0]), np.array([0, 2.0, 0]), 0.0, 2 * math.pi)
    half = Arc(np.zeros(3), np.array([2.0, 0, 0]), np.array([0, 2.0, 0]), 0.0, math.pi)
    wanted = math.hypot(abs(point[0]) - 2 if point[0] else 2, point[2])
    for one in (whole, half):
        gaps = [np.linalg.norm(one.at(t) - point) for t in (one.nearest(np.array(point)), 0.0, 1.0)]
        assert min(gaps) == pytest.approx(wanted, abs=1e-9)


@given(st.integers(0, 10_000))
def test_the_closest_place_of_many_pieces_is_that_of_all_of_them(seed: int) -> None:
    """Against every piece looked at for itself, though most are passed over by their boxes."""
    rng = np.random.default_rng(seed)
    places = np.column_stack([rng.uniform(-50, 50, (24, 2)), np.zeros(24)])
    pieces: list[Piece] = []
    for at, (a, b) in enumerate(itertools.pairwise(places)):
        side = rng.uniform(-9, 9, (2, 3))
        pieces.append(Straight(a, b) if at % 2 else Cubic(np.array([a, a + side[0], b + side[1], b])))  # fmt: skip
    curve = Curve(tuple(pieces))
    for point in (rng.uniform(-80, 80, 3), pieces[7].end):
        at, t = closest(curve, point)
        gap = np.linalg.norm(pieces[at].at(t) - point)
        every = [
            np.linalg.norm(one.at(u) - point)
            for one in pieces
            for u in (one.nearest(point), 0.0, 1.0)
        ]
        assert gap == min(every)


@given(st.integers(0, 10_000))
def test_meetings_of_many_pieces_are_those_of_each_pair(seed: int) -> None:
    rng = np.random.default_rng(seed)

    def zigzag() -> Curve:
        places = np.column_stack([rng.uniform(-50, 50, (9, 2)), np.zeros(9)])
        return Curve(tuple(Straight(a, b) for a, b in itertools.pairwise(places)))

    first, second = zigzag(), zigzag()
    pairs = [
        point
        for p in first.pieces
        for q in second.pieces
        for point in meetings(Curve((p,)), Curve((q,)))
    ]
    found = meetings(first, second)
    assert len(found) == len(pairs)
    assert np.array(sorted(map(tuple, found))) == pytest.approx(np.array(sorted(map(tuple, pairs))))


@pytest.mark.parametrize(
    "formula",
    ["disc(30 * s)", *(f"region(ellipse(30 * s, 30 * s / {flat}))" for flat in (1.4, 3, 9, 50))],
)
@pytest.mark.parametrize("tolerance", [0.02, 0.05, 0.3, 5.0])
def test_no_ellipse_turns_by_more_than_18_degrees_within_a_chord(
    formula: str, tolerance: float
) -> None:
    """So that none of its chords is seen as an edge."""
    for size in (0.1, 1.0, 10.0):
        outcome = outcome_of(f"tolerance {tolerance} mm\ns = {size} mm\nr = {formula}")
        (ring,) = outcome.lines[-1].value.rings()
        sides = np.roll(ring, -1, axis=0) - ring
        ways = sides / np.linalg.norm(sides, axis=1, keepdims=True)
        turns = np.arccos(np.clip(np.sum(np.roll(ways, -1, axis=0) * ways, axis=1), -1, 1))
        assert np.degrees(turns.max()) < 18.2
