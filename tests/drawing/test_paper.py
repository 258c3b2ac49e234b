"""Sheets of paper: sizes, scales, what fits, and the title block."""

import datetime

import pytest

from ovolo.drawing.marks import Page
from ovolo.drawing.paper import drawn_sheet, layout_said
from ovolo.drawing.standards import FOOT_SCALES, SCALES, paper_size, read_scale, said_scale
from ovolo.drawing.title_block import Layout
from ovolo.drawing.views import PLAN, view_named
from ovolo.problems import Failure
from tests.sheets import demo, run

PLATE = ('study "Plate"', "part plate = rect(400 mm, 250 mm)")


def texts(page: Page) -> list[str]:
    return [label.text for group in page.groups for label in group.labels]


@pytest.mark.parametrize(
    ("name", "width", "height"),
    [("A0", 841, 1189), ("A1", 594, 841), ("A2", 420, 594), ("A3", 297, 420), ("A4", 210, 297), ("A5", 148, 210), ("A6", 105, 148)],
)  # fmt: skip
def test_papers_are_those_of_iso_216(name: str, width: float, height: float) -> None:
    """Trimmed sizes of the A series, ISO 216 (from memory)."""
    assert paper_size(name) == (width, height)


@pytest.mark.parametrize(
    ("name", "width", "height"),
    [("ANSI A", 8.5, 11), ("ANSI B", 11, 17), ("ANSI C", 17, 22), ("ANSI D", 22, 34), ("ANSI E", 34, 44)],
)  # fmt: skip
def test_papers_in_inches_are_those_of_y14_1(name: str, width: float, height: float) -> None:
    """ANSI/ASME Y14.1, Drawing Sheet Size and Format (from memory)."""
    assert paper_size(name) == pytest.approx((width * 25.4, height * 25.4))


def test_scales_of_feet_are_parts_of_an_inch_for_a_foot() -> None:
    """Common practice, no source: 1/16", 1/8", 1/4", 3/8", 1/2", 3/4", 1" and 3" for a foot, and 10,
    20, 40, 100 and 200 ft for an inch."""
    for inches in (1 / 16, 1 / 8, 1 / 4, 3 / 8, 1 / 2, 3 / 4, 1, 3):
        assert pytest.approx(inches / 12) in FOOT_SCALES
    for feet in (20, 40, 100, 200):
        assert pytest.approx(1 / (12 * feet)) in FOOT_SCALES


def test_a_study_in_feet_and_inches_goes_on_paper_in_inches() -> None:
    outcome = run(
        "units ft-in",
        "part wall = rect(24' 6\", 9')",
        "dim 9' from (0 ft, 0 ft) to (0 ft, 9') offset 2'",
    )
    layout = layout_said(outcome, {})
    assert layout.paper == "ANSI B"
    page = drawn_sheet(outcome, layout)
    assert (page.width, page.height) == pytest.approx((17 * 25.4, 11 * 25.4))
    said = texts(page)
    assert "1:24" in said and "ft and in" in said and any("9'" in one for one in said)


def test_scales_are_those_of_iso_5455() -> None:
    """Each is 1, 2 or 5 times a power of ten (ISO 5455, from memory)."""
    for scale in SCALES:
        leading = f"{max(scale, 1 / scale):.0f}".rstrip("0")
        assert leading in ("1", "2", "5")
    assert [said_scale(one) for one in (2.0, 1.0, 1 / 20)] == ["2:1", "1:1", "1:20"]


@pytest.mark.parametrize(("said", "scale"), [("1:20", 0.05), ("2 : 1", 2.0), ("1:2.5", 0.4)])
def test_a_scale_is_read_as_it_is_written(said: str, scale: float) -> None:
    assert read_scale(said) == pytest.approx(scale)


@pytest.mark.parametrize("said", ["20", "1:0", "a:b", "", "1:1e-9"])
def test_what_is_no_scale_is_refused(said: str) -> None:
    with pytest.raises(Failure, match="is no scale"):
        read_scale(said)


def test_the_largest_standard_scale_that_fits_is_taken() -> None:
    outcome = run(*PLATE)
    for paper, scale in (("A4", 1 / 2), ("A3", 1 / 2), ("A2", 1.0), ("A5", 1 / 5)):
        page = drawn_sheet(outcome, Layout(PLAN, paper))
        assert (page.height, page.width) == paper_size(paper)
        assert said_scale(scale) in texts(page), paper
        (stroke,) = next(group for group in page.groups if group.name == "plate").strokes
        low, high = stroke.curves[0].bounds()
        assert (high - low)[:2] == pytest.approx([400 * scale, 250 * scale])


def test_a_scale_that_does_not_fit_names_one_that_does() -> None:
    with pytest.raises(Failure) as caught:
        drawn_sheet(run(*PLATE), Layout(PLAN, "A4", scale=1.0))
    assert "at 1:1 the drawing takes 400 x 250 mm" in caught.value.message
    assert "1:2 fits" in caught.value.hint


def test_the_drawing_stands_within_the_frame_above_the_title_block() -> None:
    page = drawn_sheet(run(*demo("drive-gear").split("\n")), Layout(PLAN, "A3"))
    for group in page.groups:
        if group.name == "sheet":
            continue
        for stroke in group.strokes:
            for curve in stroke.curves:
                low, high = curve.bounds()[:, :2] - page.low
                assert low[0] >= 20 and low[1] >= 10 + 22
                assert high[0] <= page.width - 10 and high[1] <= page.height - 10


def test_the_title_block_says_study_preset_date_scale_and_author() -> None:
    outcome = run(*demo("slit-window").split("\n"))
    layout = Layout(
        PLAN, "A4", author="Fathom & Lark", preset="Stair", date=datetime.date(2026, 3, 9)
    )
    said = texts(drawn_sheet(outcome, layout))
    for text in ("Arched slit window", "Stair", "2026-03-09", "1:10", "Fathom & Lark", "plan"):
        assert text in said


def test_a_sheet_lists_how_many_dims_disagree() -> None:
    outcome = run(*PLATE, "dim 300 mm from (-200 mm, 0 mm) to (200 mm, 0 mm)")
    said = texts(drawn_sheet(outcome, Layout(PLAN)))
    assert "✕ 1 dim of this study disagrees with the drawing" in said
    assert "✕ 300 mm, measures 400 mm" in said


def test_nothing_to_draw_and_an_unknown_view_are_refused() -> None:
    with pytest.raises(Failure, match="nothing to draw"):
        drawn_sheet(run("a = 1"), Layout(PLAN))
    with pytest.raises(Failure, match="there is no view `back`"):
        view_named("back")
    with pytest.raises(Failure, match="there is no paper `B4`"):
        paper_size("B4")
