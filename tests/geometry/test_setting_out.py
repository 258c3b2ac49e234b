"""Setting out on lengths, curves, rings and curves, against SciPy."""

import itertools
import math
from fractions import Fraction

import numpy as np
import pytest
import scipy.integrate
from hypothesis import assume, given
from hypothesis import strategies as st

from ovolo.geometry.arrays.setting_out import (
    CUT,
    RESTS,
    angles,
    bays,
    fewest_bays,
    frames,
    on_curve,
    stations,
    whole_steps,
)
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import by_equation, circular, polyline, spline
from ovolo.geometry.placement import scaled
from ovolo.problems import Failure

_WHOLE = st.integers(1, 2000)


@given(st.integers(0, 5000), st.integers(1, 300))
def test_counts_are_those_of_exact_arithmetic(length: int, step: int) -> None:
    """Tenths of a mm are not exact in floating point; the counts are those of fractions."""
    exact = Fraction(length, 10) / Fraction(step, 10)
    assert whole_steps(length / 10, step / 10) == math.floor(exact)
    assert fewest_bays(length / 10, step / 10) == max(math.ceil(exact), 1)


@given(_WHOLE, st.integers(1, 400), st.sampled_from(RESTS))
def test_stations_keep_within_the_length_and_their_spacing(length: int, step: int, rest: str) -> None:  # fmt: skip
    found = stations(float(length), float(step), rest)
    assert found.min() >= -1e-9 and found.max() <= length + 1e-9
    gaps = np.diff(found)
    if rest == "squeeze":
        assert np.all(gaps <= step * (1 + 1e-9))
    elif rest == "stretch":
        assert np.all(gaps >= min(step, length) * (1 - 1e-9))
    else:
        np.testing.assert_allclose(gaps, step)
    first, last = found[0], length - found[-1]
    ends = {"end": first == 0, "start": last < 1e-9, "both": abs(first - last) < 1e-9}
    assert ends.get(rest, first == 0 and last < 1e-9)


@given(_WHOLE, st.integers(1, 400), st.integers(0, 30), st.sampled_from((*RESTS, CUT)))
def test_bays_follow_each_other_with_their_gaps(length: int, piece: int, gap: int, rest: str) -> None:  # fmt: skip
    assume(rest not in ("stretch", "squeeze") or length > 3 * gap)
    try:
        found = bays(float(length), float(piece), float(gap), rest)
    except Failure:
        assert rest == "squeeze", "only a squeeze may leave nothing beside its gaps"
        return
    for one, after in itertools.pairwise(found):
        assert after.start - (one.start + one.length) == pytest.approx(gap, abs=1e-6)
    if found:
        assert found[0].start >= -1e-9
        assert found[-1].start + found[-1].length <= length + 1e-6
    if rest in ("stretch", "squeeze"):
        assert found[-1].start + found[-1].length == pytest.approx(length)
        assert len({round(one.length, 6) for one in found}) == 1


@given(st.integers(1, 400), st.floats(0.1, 6.28))
def test_angles_of_a_ring(count: int, sweep: float) -> None:
    found = angles(count, sweep, 0.3)
    assert len(found) == count and found[0] == 0.3
    assert count == 1 or found[-1] == pytest.approx(0.3 + sweep)
    whole = angles(count, 2 * math.pi)
    assert len({round(a % (2 * math.pi), 9) for a in whole}) == count


# --- on curves ---


def arc_length(curve: Curve, at: float) -> float:
    """By SciPy's quadrature over the pieces, up to a parameter counted through them."""
    total = 0.0
    for number, piece in enumerate(curve.pieces):
        end = min(max(at - number, 0.0), 1.0)
        if end > 0:
            speed = lambda t, piece=piece: float(np.linalg.norm(piece.slope(t)))  # noqa: E731
            total += scipy.integrate.quad(speed, 0.0, end, epsabs=1e-11, epsrel=1e-12, limit=200)[0]
    return total


CURVES = {
    "ellipse": circular(np.zeros(3), 100.0, 0.0, 2 * math.pi).placed(scaled((3.0, 1.0, 1.0))),
    "spline": spline(np.array([[0.0, 0, 0], [80, 90, 0], [200, 20, 40], [260, 90, 0]]), None, None),
    "equation": by_equation(lambda t: np.array([t, 40 * math.sin(t / 30), 0.0]), 0.0, 300.0),
    "corners": polyline(np.array([[0.0, 0, 0], [90, 0, 0], [90, 50, 0], [0, 50, 70]])),
}


@pytest.mark.parametrize("name", CURVES)
def test_places_on_a_curve_lie_at_their_lengths(name: str) -> None:
    curve = CURVES[name]
    lengths = np.linspace(0.0, curve.length, 23)
    places, ways = on_curve(curve, lengths)
    np.testing.assert_allclose(places[0], curve.start, atol=1e-9)
    np.testing.assert_allclose(places[-1], curve.end, atol=1e-7)
    np.testing.assert_allclose(np.linalg.norm(ways, axis=1), 1.0)
    for at, length in enumerate(lengths):
        number, t = curve.locate(float(length))
        np.testing.assert_allclose(places[at], curve.pieces[number].at(t), atol=1e-6)
        if name != "equation":  # thousands of pieces
            assert arc_length(curve, number + t) == pytest.approx(length, rel=1e-8, abs=1e-6)


def test_lengths_may_come_in_any_order_and_beyond_the_ends_is_nothing() -> None:
    curve = CURVES["spline"]
    mixed = np.array([50.0, 0.0, 120.0, 50.0])
    places, _ = on_curve(curve, mixed)
    np.testing.assert_array_equal(places[0], places[3])
    np.testing.assert_allclose(places[1], curve.start, atol=1e-12)
    with pytest.raises(Failure, match="nothing at"):
        on_curve(curve, np.array([curve.length + 1.0]))


def test_frames_are_square_and_level() -> None:
    ways = np.array([[1.0, 0, 0], [0, 1, 0], [0, 0, 1], [1, 1, 1]])
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    found = frames(np.zeros((4, 3)), ways)[:, :3, :3]
    np.testing.assert_allclose(found.swapaxes(1, 2) @ found, np.tile(np.eye(3), (4, 1, 1)), atol=1e-12)  # fmt: skip
    np.testing.assert_allclose(np.linalg.det(found), 1.0)
    assert np.all(np.abs(found[:, 2, 1]) < 1e-12), "the way to the left is level"


@pytest.mark.parametrize(
    "work",
    [
        lambda: stations(-1.0, 10.0),
        lambda: stations(10.0, 0.0),
        lambda: stations(10.0, 2.0, "middle"),
        lambda: bays(10.0, 0.0),
        lambda: bays(10.0, 3.0, -1.0),
        lambda: bays(10.0, 3.0, 0.0, "middle"),
        lambda: fewest_bays(10.0, 0.0),
        lambda: angles(4, 7.0),
    ],
)
def test_what_makes_no_sense_is_refused_with_a_hint(work) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(Failure) as caught:
        work()
    assert caught.value.hint
