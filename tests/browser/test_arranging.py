"""How the screen is arranged: dividers, notes below lines, groups of inputs, units of the scale bar."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import press

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]


def drag_divider(drive: Driver, name: str, dx: float, dy: float) -> None:
    def drag(page: Page) -> None:
        box = page.get_by_role("separator", name=name).bounding_box()
        assert box
        x, y = box["x"] + min(box["width"] / 2, 60), box["y"] + min(box["height"] / 2, 60)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + dx, y + dy, steps=4)
        page.mouse.up()

    drive(drag)


def size(drive: Driver, part: str) -> tuple[float, float]:
    box = drive(lambda page: page.locator(part).bounding_box())
    assert box
    return box["width"], box["height"]


def test_dividers_are_dragged_turned_by_keys_and_remembered(
    boardwalk: Study, drive: Driver
) -> None:
    width, height = size(drive, "#sheet-side")[0], size(drive, "#faceplate-side")[1]
    drag_divider(drive, "Between sheet and stage", 100, 0)
    drag_divider(drive, "Between stage and faceplate", 0, -50)
    assert size(drive, "#sheet-side")[0] == pytest.approx(width + 100, abs=1)
    assert size(drive, "#faceplate-side")[1] == pytest.approx(height + 50, abs=1)
    drive(lambda page: page.reload())
    settled(drive)
    assert size(drive, "#sheet-side")[0] == pytest.approx(width + 100, abs=1)
    drive(lambda page: page.get_by_role("separator", name="Between sheet and stage").focus())
    drive(lambda page: page.keyboard.press("ArrowLeft"))
    assert size(drive, "#sheet-side")[0] == pytest.approx(width + 76, abs=1)
    drive(lambda page: page.get_by_role("separator", name="Between sheet and stage").dblclick())
    assert size(drive, "#sheet-side")[0] == pytest.approx(width, abs=1)
    drag_divider(drive, "Between sheet and stage", 3000, 0)
    assert size(drive, "#stage")[0] >= 400, "the other side keeps its room"


def test_labels_and_comments_stand_below_their_lines_until_switched_off(
    boardwalk: Study, drive: Driver
) -> None:
    comment = "a narrower board is not worth cutting"
    drive(lambda page: expect(page.get_by_text(comment, exact=True)).to_be_visible())
    press(drive, "Notes")
    drive(lambda page: expect(page.get_by_text(comment, exact=True)).to_have_count(0))
    drive(lambda page: page.reload())
    settled(drive)
    drive(lambda page: expect(page.get_by_text(comment, exact=True)).to_have_count(0))


def test_a_long_line_is_seen_whole(open_study: Opener, drive: Driver) -> None:
    line = "total = " + " + ".join(f"{n} mm" for n in range(100, 118))
    open_study("Sum", line)
    row = drive(lambda page: page.locator(".row-said").first.evaluate(
        "(one) => [one.scrollHeight <= one.clientHeight + 1, one.scrollWidth <= one.clientWidth + 1]"
    ))  # fmt: skip
    assert row == [True, True]


def test_small_groups_of_inputs_stand_side_by_side(open_study: Opener, drive: Driver) -> None:
    text = "\n".join(
        f"== Group {k} ==\ninput a{k} = {k + 1} mm from 0 mm to 9 mm" for k in range(3)
    )
    open_study("Groups", text)
    tops = drive(lambda page: page.locator(".input-group").evaluate_all(
        "(all) => all.map((one) => Math.round(one.getBoundingClientRect().top))"
    ))  # fmt: skip
    assert len(tops) == 3 and len(set(tops)) == 1


@pytest.mark.parametrize(("units", "said"), [("ft-in", "ft"), ("cm", "cm"), ("mm", "m")])
def test_scale_and_grid_are_in_the_units_of_the_study(
    open_study: Opener, drive: Driver, units: str, said: str
) -> None:
    open_study("Wall", f"units {units}\npart wall = box(9 m, 300 mm, 3 m)")
    scale = drive(lambda page: page.get_by_label("Scale", exact=True).inner_text())
    first, grid = scale.split("grid")
    assert first.split()[-1] == said and grid.split()[-1] == said
