"""Several lines picked in the list; the text over the whole window; what is announced."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import add_line, alert, open_line, press
from tests.browser.test_workspace import head_text

pytestmark = pytest.mark.browser


def pick(drive: Driver, first: str, last: str) -> None:
    def work(page: Page) -> None:
        row = ".row:has(.row-name:text-is('{}'))"
        page.locator(row.format(first)).focus()
        page.locator(row.format(last)).click(modifiers=["Shift"])
        expect(page.locator("#picked")).to_be_visible()

    drive(work)


def keys(drive: Driver, *presses: str) -> None:
    for one in presses:
        drive(lambda page, one=one: page.keyboard.press(one))
        settled(drive)


def names(study: Study) -> list[str]:
    return [line.split(" ")[0] for line in head_text(study).split("\n")]


def test_picked_lines_move_together_and_are_commented_out_and_in_again(
    boardwalk: Study, drive: Driver
) -> None:
    before = head_text(boardwalk)
    pick(drive, "whole", "sliver")
    drive(lambda page: expect(page.locator(".row.picked")).to_have_count(2))
    keys(drive, "Alt+ArrowUp")
    lines, moved = before.split("\n"), head_text(boardwalk).split("\n")
    at = next(i for i, line in enumerate(lines) if line.startswith("whole ="))
    assert moved[at - 1 : at + 2] == [lines[at], lines[at + 1], lines[at - 1]]
    drive(lambda page: expect(page.locator(".row.picked")).to_have_count(2))
    press(drive, "Undo")
    assert head_text(boardwalk) == before
    drive(lambda page: page.keyboard.press("Escape"))
    before = head_text(boardwalk)
    pick(drive, "whole", "sliver")
    keys(drive, "Control+/")
    assert "\n# whole =" in head_text(boardwalk) and "\n# sliver =" in head_text(boardwalk)
    press(drive, "Comment out or in")
    assert head_text(boardwalk) == before
    drive(lambda page: page.keyboard.press("Escape"))
    before = head_text(boardwalk)
    pick(drive, "whole", "sliver")
    keys(drive, "Delete")
    assert head_text(boardwalk) == before and "need" in alert(drive)
    press(drive, "Delete all the same")
    assert not {"whole", "sliver"} & set(names(boardwalk))
    focused = drive(lambda page: page.evaluate("document.activeElement.className"))
    assert "row" in focused.split()


def test_the_text_may_have_the_whole_window_and_lines_are_pasted_as_text(
    boardwalk: Study, drive: Driver
) -> None:
    press(drive, "As text")
    press(drive, "Over the whole window")
    wide = drive(lambda page: page.locator("#as-text").bounding_box())
    assert wide and wide["width"] > 1270
    press(drive, "Beside the picture")
    narrow = drive(lambda page: page.locator("#as-text").bounding_box())
    assert narrow and narrow["width"] < 700
    press(drive, "As text")
    drive(lambda page: page.context.grant_permissions(["clipboard-read", "clipboard-write"]))
    lines = head_text(boardwalk).split("\n")
    wanted = [line for line in lines if line.startswith(("whole =", "sliver ="))]
    pick(drive, "whole", "sliver")
    keys(drive, "Control+c")
    assert drive(lambda page: page.evaluate("navigator.clipboard.readText()")) == (
        "\n".join(wanted) + "\n"
    )
    keys(drive, "Escape", "Control+v")
    drive(lambda page: expect(page.locator("#picked")).to_have_count(0))
    assert [line for line in head_text(boardwalk).split("\n") if line in wanted] == wanted * 2
    focused = drive(lambda page: page.evaluate("document.activeElement.className"))
    assert "row" in focused.split()


def test_what_cannot_be_an_input_is_not_offered_as_one(boardwalk: Study, drive: Driver) -> None:
    offer = "Make it an input"
    open_line(drive, "whole")
    drive(lambda page: expect(page.get_by_role("button", name=offer)).to_be_visible())
    drive(lambda page: page.keyboard.press("Escape"))
    add_line(drive, "piece = box(1 m, 1 m, 1 m)")
    open_line(drive, "piece")
    drive(lambda page: expect(page.get_by_role("button", name=offer)).to_be_hidden())


def test_what_is_wrong_with_a_line_is_tied_to_its_box_and_announced(
    boardwalk: Study, drive: Driver
) -> None:
    add_line(drive, 'check 1 > 2 "too little"')
    drive(lambda page: expect(page.locator("#announced")).to_contain_text("Fails: too little"))
    open_line(drive, "whole")
    drive(lambda page: page.keyboard.type(" + nothing_such"))
    box = drive.page.locator(".editor .cm-content")
    drive(lambda page: expect(box).to_have_attribute("aria-invalid", "true"))
    tied = drive(lambda page: box.get_attribute("aria-describedby"))
    drive(lambda page: expect(page.locator(f"#{tied}")).to_contain_text("nothing_such"))
