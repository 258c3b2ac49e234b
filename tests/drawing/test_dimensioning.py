"""Dims on paper: in their true size, clear of each other, marked where they are wrong."""

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from ovolo.drawing.marks import Group, Label
from ovolo.drawing.picture import drawn
from ovolo.drawing.views import FRONT, PLAN, SIDE, View
from tests.sheets import demo, run


def dims(*lines: str, view: View = PLAN, scale: float = 0.1, names: bool = False) -> Group:
    groups = drawn(run(*lines), view, scale, names=names)
    return next((one for one in groups if one.name == "dims"), Group("dims", "Dims"))


def box(label: Label) -> shapely.Polygon:
    return shapely.Polygon(label.corners)


@pytest.mark.parametrize("sheet", ["drive-gear", "slit-window", "terrace-falls", "sundial"])
@pytest.mark.parametrize("names", [False, True])
def test_texts_of_dims_never_overlap(sheet: str, names: bool) -> None:
    outcome = run(*demo(sheet).split("\n"))
    for view, scale in itertools.product((PLAN, FRONT), (0.02, 1.0)):
        groups = drawn(outcome, view, scale, names=names)
        labels = [label for group in groups for label in group.labels]
        for a, b in itertools.combinations(labels, 2):
            assert not box(a).overlaps(box(b)), (a.text, b.text)


@given(st.lists(st.tuples(st.integers(0, 40), st.integers(0, 40)), min_size=2, max_size=9, unique=True))  # fmt: skip
def test_texts_stay_apart_whatever_is_measured(places: list[tuple[int, int]]) -> None:
    lines = ["part p = rect(1 m, 1 m)"]
    for (x, y), (u, v) in itertools.pairwise(places):
        lines.append(
            f"dim {math.hypot(u - x, v - y):.6f} mm from ({x} mm, {y} mm) to ({u} mm, {v} mm)"
        )
    labels = dims(*lines, scale=1.0).labels
    assert len(labels) == len(places) - 1
    for a, b in itertools.combinations(labels, 2):
        assert box(a).intersection(box(b)).area < 1e-9


def test_a_text_reads_from_below_or_from_the_right() -> None:
    """ISO 129-1: texts are read from the bottom or from the right (from memory)."""
    for turn in range(0, 360, 15):
        a = math.radians(turn)
        end = f"({300 * math.cos(a):.9f} mm, {300 * math.sin(a):.9f} mm)"
        (label,) = dims("part p = disc(1 mm)", f"dim 300 mm from (0 mm, 0 mm) to {end}").labels
        assert -math.pi / 2 < label.angle <= math.pi / 2 + 1e-12


def test_a_view_shows_only_dims_in_their_true_size() -> None:
    lines = (
        "part p = box(1 m, 1 m, 2 m)",
        "dim 1 m from (0 m, 0 m, 0 m) to (1 m, 0 m, 0 m)",
        "dim 2 m from (0 m, 0 m, 0 m) to (0 m, 0 m, 2 m)",
        "dim 3 m from (0 m, 0 m, 0 m) to (1 m, 2 m, 2 m)",
    )
    said = {view.name: [one.text for one in dims(*lines, view=view).labels] for view in (PLAN, FRONT, SIDE)}  # fmt: skip
    assert said == {
        "plan": ["1\u2009000 mm"], "front": ["1\u2009000 mm", "2\u2009000 mm"], "side": ["2\u2009000 mm"],
    }  # fmt: skip


def test_lines_on_paper_are_as_long_as_the_scale_says() -> None:
    group = dims("part p = disc(1 mm)", "dim 800 mm from (0 mm, 0 mm) to (800 mm, 0 mm) offset 100 mm")  # fmt: skip
    line = group.strokes[0].curves[0]
    assert line.length == pytest.approx(80)
    assert line.start[1] == pytest.approx(-10), "to the right of its way"
    extensions = [stroke.curves[0] for stroke in group.strokes[1:3]]
    assert [one.length for one in extensions] == pytest.approx([11, 11]), "a gap of 1, 2 beyond"


def test_names_are_shown_on_request() -> None:
    lines = (
        "span = 800 mm",
        "part p = disc(1 mm)",
        "dim span from (0 mm, 0 mm) to (800 mm, 0 mm)",
    )
    assert [one.text for one in dims(*lines).labels] == ["800 mm"]
    assert [one.text for one in dims(*lines, names=True).labels] == ["span = 800 mm"]


def test_radius_diameter_and_angle_have_arrows() -> None:
    group = dims(
        "part p = disc(300 mm)",
        "dim radius 300 mm about (0 mm, 0 mm) through (300 mm, 0 mm)",
        "dim diameter 600 mm about (0 mm, 0 mm) through (0 mm, 300 mm)",
        "dim angle 90° at (0 mm, 0 mm) from (300 mm, 0 mm) to (0 mm, 300 mm)",
    )
    arrows = [stroke for stroke in group.strokes if stroke.role == "arrow"]
    assert len(arrows) == 1 + 2 + 2
    assert sorted(one.text for one in group.labels) == ["90°", "R 300 mm", "⌀ 600 mm"]
    arc = next(s.curves[0] for s in group.strokes if type(s.curves[0].pieces[0]).__name__ == "Arc")
    assert arc.length == pytest.approx(math.pi / 2 * 0.7 * 30)


def test_arrows_stand_outside_where_they_have_no_room() -> None:
    group = dims(
        "part p = disc(1 mm)", "dim angle 1° at (0 m, 0 m) from (1 m, 0 m) to polar(1 m, 1°)"
    )
    tips = [s.curves[0].bounds() for s in group.strokes if s.role == "arrow"]
    low, high = tips[0][1, 1], tips[1][0, 1]
    assert low < high, "the one points up from below, the other down from above"


def test_levels_are_marked_above_their_datum() -> None:
    lines = (
        'part p = rect(1 m, 2 m).move(y = 1 m).on("front")',
        "top = 2 m",
        "dim level top at (0 m, 0 m, 2 m)",
        "dim level 0 m at (0 m, 0 m, 0 m)",
        "dim level -0.5 m at (0 m, 0 m, 1.5 m) above (0 m, 0 m, 2 m)",
        "dim level 2 m at (0 m, 0 m, 1 m)",
    )
    outcome = run(*lines)
    assert ["this dim says" in one.message for one in outcome.problems] == [True]
    said = [one.text for one in dims(*lines, view=FRONT).labels]
    assert said == ["+2\u2009000 mm", "±0 mm", "-500 mm", "✕ +2\u2009000 mm, measures 1000 mm"]
    marks = dims(lines[0], "dim level 2 m at (0 m, 0 m, 2 m)", view=FRONT).strokes
    tip = np.concatenate([s.curves[0].points() for s in marks])
    assert tip[:, 1].min() == pytest.approx(200), "the sign stands on its level"
