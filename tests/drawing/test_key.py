"""A plan with numbers at its placed studies, and the table that says what they are."""

from __future__ import annotations

import functools
import itertools

import numpy as np
import pytest

from ovolo.drawing import key, piece_marks
from ovolo.drawing.marks import Group, Label, Page, extent, fitted
from ovolo.drawing.paper import drawn_sheet, layout_said
from ovolo.drawing.title_block import Layout
from ovolo.drawing.views import PLAN, VIEWS
from ovolo.outcome.placed_schedule import placed_schedule
from ovolo.problems import Failure
from tests.meaning.test_used import beside, using
from tests.outcome.test_placed_schedule import POST
from tests.sheets import demo_outcome, run


def group(page: Page, name: str) -> Group:
    return next(one for one in page.groups if one.name == name)


@functools.cache
def sheet(paper: str) -> Page:
    return drawn_sheet(demo_outcome("science-garden"), Layout(PLAN, paper, key=True))


def test_each_placed_piece_has_its_number_in_the_plan_and_its_row_in_the_table() -> None:
    page = sheet("A3")
    numbers = [label.text for label in group(page, "numbers").labels]
    assert numbers == [str(k) for k in range(1, len(numbers) + 1)]
    rows = rows_of(group(page, "key").labels)
    assert rows[0] == ["No.", "Piece", "Study", "Settings", "Pieces", "Mass"]
    assert [row[0] for row in rows[1:]] == numbers
    assert rows[1][1:3] == ["Walk to the gate", "Boardwalk"]
    pieces = sum(int(row[4].replace("\u2009", "")) for row in rows[1:])
    assert pieces == sum(one.pieces for one in placed_schedule(demo_outcome("science-garden")))


def rows_of(labels: tuple[Label, ...]) -> list[list[str]]:
    def height(label: Label) -> float:
        return -round(float(label.place[1]), 3)

    return [
        [one.text for one in sorted(row, key=lambda label: float(label.place[0]))]
        for _, row in itertools.groupby(sorted(labels, key=height), key=height)
    ]


def test_a_number_stands_in_the_middle_of_its_piece_at_the_scale_of_the_sheet() -> None:
    outcome = using(
        "part a = baluster().move(1 m, 2 m)", "part b = baluster().move(4 m, 0 m)",
        studies=beside(POST),
    )  # fmt: skip
    found = key.numbers(key.entries(outcome), PLAN, 0.05)
    assert [(x, y + 0.5 * label.size) for label in found.labels for x, y in [label.place]] == [
        pytest.approx([50, 100]), pytest.approx([200, 0]),
    ]  # fmt: skip


@pytest.mark.parametrize("view", VIEWS)
def test_numbers_of_pieces_on_one_place_stand_beside_each_other(view: str) -> None:
    outcome = using(*(f"part p{k} = baluster()" for k in range(30)), studies=beside(POST))
    found = key.numbers(key.entries(outcome), VIEWS[view], 0.05)
    for one, other in itertools.combinations(found.labels, 2):
        assert np.linalg.norm(one.place - other.place) >= 2 * piece_marks.RADIUS - 1e-9


def test_the_table_stands_on_the_title_block_and_the_drawing_above_it() -> None:
    page = sheet("A3")
    low, high = extent([group(page, "key")])  # type: ignore[misc]
    assert high[0] - page.low[0] == pytest.approx(420 - 10, abs=0.01)
    assert low[1] - page.low[1] == pytest.approx(10 + 22, abs=0.01)
    for one in page.groups:
        if one.name not in ("key", "sheet"):
            box = extent([one])
            assert box is not None and (box[0][1] >= high[1] or box[1][0] <= low[0])
    edges = [stroke.curves[0].bounds()[:, 0] for stroke in group(page, "key").strokes]
    columns = sorted({round(float(x), 3) for pair in edges for x in pair})
    for label in group(page, "key").labels:
        left, right = label.corners[:, 0].min(), label.corners[:, 0].max()
        assert any(a <= left and right <= b for a, b in itertools.pairwise(columns)), label.text


def test_a_long_text_is_made_smaller_then_cut() -> None:
    label = Label("floor_height = 3.1 m, outline = kite, going = 240 mm", np.zeros(2), 2.2, anchor="start")  # fmt: skip
    width = float(np.ptp(label.corners[:, 0]))
    assert fitted(label, width + 1, 0.75) is label
    smaller = fitted(label, 0.8 * width, 0.75)
    assert smaller.text == label.text and smaller.size == pytest.approx(0.8 * 2.2)
    cut = fitted(label, 0.3 * width, 0.75)
    assert cut.text.endswith("…") and cut.width <= 0.3 * width
    assert fitted(label, 0.3 * width).text == label.text, "where nothing is said, it is never cut"


def test_without_a_placed_study_or_room_it_says_so() -> None:
    plain = run("part plate = rect(400 mm, 250 mm)")
    with pytest.raises(Failure, match="nothing for a key"):
        drawn_sheet(plain, layout_said(plain, {"key": "yes"}))
    many = using(*(f"part p{k} = baluster().move({k} m, 0 m)" for k in range(40)), studies=beside(POST))  # fmt: skip
    with pytest.raises(Failure, match="a key of 40 lines leaves no room for the drawing on A4"):
        drawn_sheet(many, Layout(PLAN, key=True))
    assert drawn_sheet(many, Layout(PLAN, "A2", upright=True, key=True)).groups


def test_without_a_key_the_sheet_is_as_it_was() -> None:
    placed = using("part p = baluster().move(1 m, 0 m)", studies=beside(POST))
    plain = drawn_sheet(placed, Layout(PLAN, "A3"))
    assert not {"key", "numbers"} & {one.name for one in plain.groups}
