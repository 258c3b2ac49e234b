"""How curves and solids look in a view."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from ovolo.drawing.picture import drawn, loose_page, parts_drawn
from ovolo.drawing.views import FRONT, PLAN, SIDE, VIEWS, flattened, view_of
from ovolo.geometry.curves.drafting import circular
from ovolo.geometry.placement import turned
from ovolo.problems import Failure
from tests.sheets import run


@pytest.mark.parametrize("view", VIEWS.values())
def test_a_view_is_a_rotation(view: object) -> None:
    turn = view.matrix[:3, :3]  # type: ignore[attr-defined]
    assert np.linalg.det(turn) == pytest.approx(1)
    assert turn @ turn.T == pytest.approx(np.eye(3))


@given(st.floats(0.05, 3.1), st.tuples(*[st.floats(-1, 1)] * 3))
def test_a_turned_circle_is_an_ellipse_of_its_shadow(angle: float, axis: tuple[float, ...]) -> None:
    """Every point of the flattened curve is the shadow of the point of the circle itself."""
    about = np.add(axis, [0.01, 1.7, 0.02])
    circle = circular(np.zeros(3), 50.0, 0.3, 4.0).placed(turned(angle, about, np.zeros(3)))
    seen = flattened(circle, PLAN, 2.0)
    assert seen is not None
    (arc,) = seen.pieces
    shares = np.linspace(0, 1, 9)
    assert arc.at(shares)[:, :2] == pytest.approx(2 * circle.pieces[0].at(shares)[:, :2], abs=1e-9)


def test_a_circle_seen_edge_on_is_a_line() -> None:
    seen = flattened(circular(np.zeros(3), 50.0, 0.0, 2 * math.pi), FRONT, 1.0)
    assert seen is not None and seen.length == pytest.approx(200), "there and back"
    assert np.ptp(seen.points()[:, 1]) < 1e-9


def test_a_line_along_the_view_is_not_seen() -> None:
    outcome = run("part p = line((0 m, 0 m, 0 m), (0 m, 0 m, 1 m))")
    assert not drawn(outcome, PLAN, 1.0)[0].strokes
    assert drawn(outcome, SIDE, 1.0)[0].strokes


def test_the_view_in_which_all_lies_flat() -> None:
    level = [[0.0, 0.0, 5.0], [1.0, 2.0, 5.0]]
    upright = [[0.0, 3.0, 0.0], [1.0, 3.0, 2.0]]
    assert view_of([level]) is PLAN and view_of([upright]) is FRONT
    assert view_of([level, upright]) is None and view_of([]) is None


def test_solids_are_drawn_by_their_outline_the_nearest_last() -> None:
    outcome = run(
        "part far = box(200 mm, 200 mm, 10 mm)",
        "part near = cylinder(30 mm, 50 mm)",
        'part through = extrude(rect(300 mm, 300 mm) - disc(50 mm), 5 mm)',
    )  # fmt: skip
    groups = drawn(outcome, PLAN, 1.0)
    assert [group.name for group in groups] == ["through", "far", "near"]
    (stroke,) = groups[0].strokes
    areas = sorted(shapely.Polygon(c.points()[:, :2]).area for c in stroke.curves)
    assert areas == pytest.approx([math.pi * 2500, 90_000], rel=5e-3)


def test_too_many_solids_are_refused() -> None:
    outcome = run("part p = [box(1 mm, 1 mm, 1 mm).move(x = i * 2 mm) for i in 0 .. 2999]")
    with pytest.raises(Failure, match="at most 2,000 solids"):
        loose_page(outcome, drawn(outcome, PLAN, 1.0))


@pytest.mark.parametrize("shift", [0.1 * at for at in range(1, 40, 3)])
def test_what_is_equally_near_stays_in_the_order_of_the_sheet(shift: float) -> None:
    """Both fronts lie in one plane, but for what rounding leaves: which of them hides the other does not hang on
    where they stand."""
    outcome = run(
        f"y0 = {shift!r} mm",
        "part one = box(30 mm, 20 mm, 10 mm).move(y = y0 + 10 mm)",
        "part other = box(20 mm, 30 mm, 10 mm).turn(90°).move(x = 20 mm, y = y0 + 10 mm)",
    )
    assert not outcome.problems
    assert [group.name for group in parts_drawn(outcome, FRONT, 1.0)] == ["one", "other"]
    colours = run(
        f"y0 = {shift!r} mm",
        "part both = [box(30 mm, 20 mm, 10 mm).turn(90° * i).move(x = if i == 1 then 40 mm else 0 mm, y = y0 + (if i == 1 then 15 mm else 10 mm)) for i in 0 .. 1] colour by [i for i in 0 .. 1]",
    )
    assert not colours.problems
    (group,) = parts_drawn(colours, FRONT, 1.0)
    places = [stroke.curves[0].bounds()[0][0] for stroke in group.strokes]
    assert places == sorted(places)
