"""Curves against outside truth: circle-segment tables, elliptic integrals, SciPy and Shapely."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.special import ellipe

from ovolo.geometry.curves.corners import filleted, meetings, offset
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import (
    by_equation,
    circular,
    close,
    elliptic,
    polyline,
    straight,
)
from tests.sheets import run, value

SEGMENTS = [
    # angle, chord, height, arc, area of a segment of radius 1 (any machinist's handbook; the row
    # for 60° is from memory, the others are computed by the formulas printed beside such tables:
    # c = 2 sin(a/2), h = 1 - cos(a/2), l = a, area = (a - sin a) / 2).
    (60, 1.00000, 0.13397, 1.04720, 0.09059),
    (90, 1.41421, 0.29289, 1.57080, 0.28540),
    (120, 1.73205, 0.50000, 2.09440, 0.61418),
]


@pytest.mark.parametrize(("angle", "chord", "rise", "arc", "area"), SEGMENTS)
def test_circle_segments(angle: float, chord: float, rise: float, arc: float, area: float) -> None:
    drawn = f"arc_rise((0 mm, 0 mm), ({chord} m, 0 mm), {rise} m)"
    assert value(f"length({drawn})") == pytest.approx(arc * 1000, abs=0.02)
    assert value(f"depth({drawn})") == pytest.approx(rise * 1000, abs=1e-6)
    closed = f"area(region(arc_rise((0 mm, 0 mm), ({chord} m, 0 mm), {rise} m).close()))"
    assert value(closed) == pytest.approx(area * 1e6, rel=2e-3), "within the chord tolerance"


@given(st.floats(1, 500), st.floats(1, 500))
def test_the_length_of_an_ellipse_is_the_complete_elliptic_integral(a: float, b: float) -> None:
    """SciPy's E(m): 4 a E(1 - b²/a²) for a >= b."""
    a, b = max(a, b), min(a, b)
    assert elliptic(a, b).length == pytest.approx(4 * a * ellipe(1 - (b / a) ** 2), rel=1e-9)


def test_the_length_of_a_helix_and_of_a_parabola() -> None:
    assert value("length(helix(10 mm, 5 mm, 3))") == pytest.approx(
        3 * math.hypot(2 * math.pi * 10, 5), rel=1e-9
    )
    drawn = "length(curve(x -> (x, x^2 / 100 mm), 0 mm, 80 mm))"
    exact = quad(lambda x: math.hypot(1, x / 50), 0, 80, epsabs=1e-12)[0]
    assert value(drawn) == pytest.approx(exact, rel=1e-9)


def test_the_involute_of_a_circle() -> None:
    """Arc length r t² / 2 (ISO 21771 draws flanks so)."""

    def point(t: float) -> np.ndarray:
        return np.array(
            [20 * (math.cos(t) + t * math.sin(t)), 20 * (math.sin(t) - t * math.cos(t)), 0]
        )

    assert by_equation(point, 0.0, 1.5).length == pytest.approx(20 * 1.5**2 / 2, rel=1e-7)


corner = st.tuples(st.floats(-100, 100), st.floats(-100, 100)).map(lambda p: np.array([*p, 0.0]))


@given(st.lists(corner, min_size=3, max_size=6), st.floats(0.5, 60))
def test_fillets_are_tangent_or_say_what_fits(points: list[np.ndarray], radius: float) -> None:
    from ovolo.problems import Failure

    try:
        made = filleted(polyline(np.array(points)), radius)
    except Failure as failure:
        assert (
            "largest that fits" in failure.hint
            or "back" in failure.message
            or "coincide" in failure.message
        )
        return
    for before, after in zip(made.pieces[:-1], made.pieces[1:], strict=True):
        a, b = before.slope(1.0), after.slope(0.0)
        turn = np.linalg.norm(np.cross(a, b)) / (np.linalg.norm(a) * np.linalg.norm(b))
        assert turn < 1e-6 and a @ b > 0
        assert np.linalg.norm(before.end - after.start) < 1e-6


@given(st.floats(5, 200), st.floats(5, 200), st.floats(-90, 60))
def test_parallels_of_a_rectangle_against_shapely(w: float, h: float, d: float) -> None:
    """Area and length of the parallel, against Shapely's buffer with fine rounds."""
    from ovolo.problems import Failure

    assume(abs(d) > 0.01)
    outline = close(polyline(np.array([[0, 0, 0], [w, 0, 0], [w, h, 0], [0, h, 0]], dtype=float)))
    buffered = shapely.box(0, 0, w, h).buffer(
        d, quad_segs=400, join_style="round" if d > 0 else "mitre"
    )
    try:
        made = offset(outline, d)
    except Failure as failure:
        assert buffered.is_empty or min(w, h) + 2 * d < 0.1, failure.said
        return
    assert made.length == pytest.approx(buffered.length, rel=1e-5)


@given(st.floats(-150, 150), st.floats(-150, 150), st.floats(5, 100), st.floats(0, math.pi))
def test_where_a_line_meets_a_circle(x: float, y: float, r: float, angle: float) -> None:
    """Against the quadratic formula."""
    along = np.array([math.cos(angle), math.sin(angle), 0.0])
    line = straight(np.array([x, y, 0.0]) - 400 * along, np.array([x, y, 0.0]) + 400 * along)
    circle = circular(np.zeros(3), r, 0.0, 2 * math.pi)
    off = abs(x * along[1] - y * along[0])
    found = meetings(line, circle)
    if abs(off - r) < 1e-3:
        return  # as good as touching: one or two points, or none
    assert len(found) == (2 if off < r else 0)
    for point in found:
        assert np.linalg.norm(point) == pytest.approx(r, abs=1e-7)


def test_meetings_come_in_order_along_the_first() -> None:
    wave = by_equation(lambda t: np.array([t, 20 * math.sin(t / 10), 0.0]), -5.0, 100.0)
    found = meetings(straight(np.array([-10.0, 0, 0]), np.array([110.0, 0, 0])), wave)
    assert [round(float(p[0]) / (10 * math.pi), 6) for p in found] == [0, 1, 2, 3]


def test_a_fillet_between_a_line_and_an_arc_and_between_two_arcs() -> None:
    for lines in (
        "c = start((-50 mm, 0 mm)).to((0 mm, 0 mm)).arc_to((20 mm, 40 mm), 60 mm)",
        "c = start((-40 mm, -30 mm)).arc_to((0 mm, 0 mm), 80 mm).arc_to((35 mm, -35 mm), -90 mm)",
    ):
        outcome = run(lines, "f = fillet(c, 6 mm)")
        assert not outcome.problems, [str(problem) for problem in outcome.problems]
        made: Curve = outcome.lines[1].value
        assert len(made.pieces) == 3 and made.pieces[1].length > 0  # type: ignore[attr-defined]
        for before, after in zip(made.pieces[:-1], made.pieces[1:], strict=True):
            a, b = before.slope(1.0), after.slope(0.0)
            assert np.linalg.norm(np.cross(a, b)) <= 1e-9 * np.linalg.norm(a) * np.linalg.norm(b)


def test_an_outline_without_splay_is_tangent_at_its_springing() -> None:
    """The arched slit window: the tangent at the springing goes on unbroken."""
    from tests.sheets import demo

    outcome = run(*demo("slit-window").split("\n"))
    assert outcome.well, [str(problem) for problem in outcome.problems]
    opening: Curve = next(line.value for line in outcome.lines if line.line.name == "opening")
    side, arch = opening.pieces[1], opening.pieces[2]
    a, b = side.slope(1.0), arch.slope(0.0)
    assert np.linalg.norm(np.cross(a, b)) <= 1e-9 * np.linalg.norm(a) * np.linalg.norm(b)
