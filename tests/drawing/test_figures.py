"""Sheets with several figures: how they stand, sections, details, marks, tables."""

from __future__ import annotations

import math
import re

import numpy as np
import pytest

from ovolo.drawing.marks import Group, Page, extent
from ovolo.drawing.paper import drawn_sheet, layout_said
from ovolo.formats.pdf import write_pdf
from ovolo.formats.svg import write_svg
from ovolo.geometry.curves.pieces import Arc
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure
from tests.sheets import run

BLOCK = (
    'study "Block"',
    "units mm, deg",
    'part block = box(120 mm, 60 mm, 40 mm) - cylinder(10 mm, 90 mm).move(x = 30 mm, z = -10 mm) "Block"',
    'part pegs = [cylinder(5 mm, 30 mm).move(x = -100 mm - i * 20 mm) for i in 0 .. 1] "Pegs" material 0.7 g/cm^3'.replace(
        '"Pegs" material 0.7 g/cm^3', 'material 700 kg/m^3 "Pegs"'
    ),
    'check 1 < 2 "it fits"',
    'check 3 < 2 "it does not"',
)


@pytest.fixture(scope="module")
def block() -> Outcome:
    outcome = run(*BLOCK)
    assert not outcome.problems
    return outcome


def page_of(outcome: Outcome, figures: str, **more: object) -> Page:
    return drawn_sheet(outcome, layout_said(outcome, {"paper": "A2", "figures": figures, **more}))


def group(page: Page, name: str) -> Group:
    return next(one for one in page.groups if one.name == name)


def box(page: Page, name: str) -> np.ndarray:
    return np.array(extent([group(page, name)]))


def texts(page: Page) -> list[str]:
    return [label.text for one in page.groups for label in one.labels]


def test_views_stand_in_third_angle_and_in_line(block: Outcome) -> None:
    page = page_of(block, "plan; front; side; axonometric")
    plan, front, side, whole = (box(page, one) for one in ("plan", "front", "side", "axonometric"))
    assert plan[:, 0] == pytest.approx(front[:, 0]) and plan[0, 1] > front[1, 1]
    assert side[:, 1] == pytest.approx(front[:, 1]) and side[0, 0] > front[1, 0]
    assert whole[0, 0] > plan[1, 0] and whole[0, 1] > side[1, 1]
    frame = box(page, "sheet")
    for one in (plan, front, side, whole):
        assert np.all(one[0] > frame[0]) and np.all(one[1] < frame[1])
    # 180 mm long at 1:2 on A2: 120 + 2 pegs on the left.
    scale = float(np.ptp(plan[:, 0])) / (60 + 125)
    assert f"1:{1 / scale:.0f}" in texts(page) or "1:1" in texts(page)


def test_a_section_is_hatched_and_what_lies_before_it_is_gone(block: Outcome) -> None:
    page = page_of(block, "plan; section y")
    section = group(page, "A–A")
    roles = {stroke.role for stroke in section.strokes}
    assert roles >= {"outline", "hatch", "solid"}
    cut = [np.array(curve.bounds()) for stroke in section.strokes if stroke.role == "outline" for curve in stroke.curves]  # fmt: skip
    assert len(cut) == 4, "the block in two pieces, both pegs"
    marks = group(page, "cut A")
    assert [label.text for label in marks.labels] == ["A", "A"]
    ends = [stroke.curves[0].bounds() for stroke in marks.strokes]
    middle = box(page, "plan").mean(axis=0)[1]
    assert all(abs(one[0, 1] - middle) < 30 for one in ends)
    assert any(text.startswith("A–A") for text in texts(page))


def test_a_section_where_it_is_said(block: Outcome) -> None:
    assert group(page_of(block, "front; section x 30 mm"), "A–A").strokes
    with pytest.raises(Failure, match="cuts nothing"):
        page_of(block, "section x 2 m")


def test_a_detail_is_twice_as_large(block: Outcome) -> None:
    page = page_of(block, "plan; detail plan 30 mm, 0 mm, 15 mm")
    ring = box(page, "Detail A ring")
    shown = box(page, "Detail A")
    circle = float(np.ptp(shown[:, 0]))
    assert circle == pytest.approx(2 * float(np.ptp(ring[:, 0])), rel=0.02)


def test_hidden_lines_are_dashed_where_that_is_wished(block: Outcome) -> None:
    plain = group(page_of(block, "front"), "front")
    dashed = group(page_of(block, "front", dashed=True), "front")
    count = [sum(len(stroke.curves) for stroke in one.strokes if stroke.role == "hatch") for one in (plain, dashed)]  # fmt: skip
    assert count[0] == 0 and count[1] > 10


@pytest.mark.parametrize("figure", ["plan", "section z 20 mm"])
def test_round_edges_are_drawn_as_arcs(block: Outcome, figure: str) -> None:
    """Also beyond a cut, where no form is known of what is left of a solid."""
    page = page_of(block, figure, scale="1:2")
    strokes = [one for named in page.groups for one in named.strokes if one.role == "solid"]
    radii = {
        round(piece.radius, 9)
        for stroke in strokes
        for curve in stroke.curves
        for piece in curve.pieces
        if isinstance(piece, Arc)
    }
    assert radii == {5.0, 2.5}, "the bore and the pegs, halved"


def test_dashes_of_a_hidden_arc_lie_on_it() -> None:
    outcome = run(
        "units mm, deg", "part a = cylinder(20 mm, 5 mm)", "part b = box(90 mm, 90 mm, 5 mm).move(z = 20 mm)"
    )  # fmt: skip
    page = page_of(outcome, "plan", dashed=True, scale="1:1")
    (plan,) = (one for one in page.groups if one.name == "plan")
    dashes = [curve for stroke in plan.strokes if stroke.role == "hatch" for curve in stroke.curves]
    assert len(dashes) == math.ceil(2 * math.pi * 20 / (3.0 + 1.2))
    middle = np.mean([piece.centre for curve in dashes for piece in curve.pieces if isinstance(piece, Arc)], axis=0)  # fmt: skip
    for curve in dashes:
        away = np.linalg.norm(curve.points(0.001)[:, :2] - middle[:2], axis=1)
        assert curve.length <= 3.0 + 1e-9 and np.abs(away - 20).max() < 0.01


def test_tables_stand_above_the_title_block(block: Outcome) -> None:
    page = page_of(block, "plan; front", schedule=True, checks=True, revisions=[("First", "2026-03-01", "lark")])  # fmt: skip
    said = texts(page)
    assert {
        "Mark",
        "Block",
        "Pegs",
        "Check",
        "it fits",
        "it does not",
        "Revision",
        "First",
        "lark",
    } <= set(said)
    assert any(text.startswith("✓") for text in said) and any(text.startswith("✕") for text in said)
    schedule, checks, revisions = (box(page, one) for one in ("schedule", "checks", "revisions"))
    assert schedule[0, 1] == pytest.approx(checks[1, 1], abs=0.6)
    assert checks[0, 1] == pytest.approx(revisions[1, 1], abs=0.6)
    pieces = group(page, "pieces")
    assert [label.text for label in pieces.labels] == ["A", "B"]
    assert np.all(box(page, "pieces")[0] >= box(page, "plan")[0] - 4)


@pytest.mark.parametrize(
    ("figures", "said"),
    [
        ("top", "`top` is no figure"),
        ("section w", "is no figure"),
        ("section x 3 kg", "the place of a section is a length"),
        ("detail plan 3 mm", "is no figure"),
        ("detail plan 3 mm 3 mm 0 mm", "more than 0"),
        ("plan; plan", "stands on a sheet once"),
        (";".join(["section x"] * 9), "too many for a sheet"),
    ],
)
def test_what_is_no_figure_is_refused(block: Outcome, figures: str, said: str) -> None:
    with pytest.raises(Failure, match=re.escape(said)):
        page_of(block, figures)


def test_a_scale_that_does_not_fit_is_refused(block: Outcome) -> None:
    with pytest.raises(Failure, match="at 5:1 the figures take"):
        page_of(block, "plan; front", scale="5:1")


def test_it_is_written_as_svg_and_pdf(block: Outcome) -> None:
    page = page_of(block, "plan; front; side; axonometric; section z", dashed=True, schedule=True)
    assert write_svg(page).count(b"<path") > 8 and write_pdf(page).startswith(b"%PDF")


def test_flat_parts_stand_in_figures_too() -> None:
    outcome = run("part p = rect(90 mm, 40 mm)", "dim 90 mm from (-45 mm, -20 mm) to (45 mm, -20 mm) offset 9 mm")  # fmt: skip
    page = page_of(outcome, "plan")
    assert any("90" in text for text in texts(page))
