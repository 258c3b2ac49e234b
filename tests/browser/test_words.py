"""Words looked up: by name, by other names, by what they do, from where one writes."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import open_line, press
from tests.browser.test_access import serious
from tests.browser.test_workspace import head_text

pytestmark = pytest.mark.browser


def found(drive: Driver, asked: str) -> list[str]:
    def look(page: Page) -> list[str]:
        page.locator("#words input").fill(asked)
        return [one.split("\n")[0] for one in page.locator("#words li b").all_inner_texts()]

    return drive(look)


def test_a_word_is_found_by_name_by_other_names_and_by_what_it_does(
    boardwalk: Study, drive: Driver
) -> None:
    press(drive, "Words")
    drive(lambda page: expect(page.locator("#words input")).to_be_focused())
    assert found(drive, "move")[0] == "move"
    assert found(drive, "translate")[0] == "move"
    assert found(drive, "cuboid")[0] == "box"
    assert found(drive, "subtract")[0] == "-"
    assert "pipe" in found(drive, "round bar")
    assert found(drive, "inch")[0] == "in"
    assert found(drive, "preset")[0] == "preset"
    assert found(drive, "qwertz") == []
    drive(lambda page: expect(page.get_by_text("Nothing here is called")).to_be_visible())


def test_the_word_at_the_cursor_is_explained_by_one_key(boardwalk: Study, drive: Driver) -> None:
    open_line(drive, "whole")
    for key in ["Home", *["ArrowRight"] * len("whole = fl"), "F1"]:
        drive(lambda page, key=key: page.keyboard.press(key))  # type: ignore[misc]
    explained = drive(lambda page: page.locator(".word-explained").inner_text())
    assert "floor(x, multiple)" in explained and "gives" in explained
    drive(lambda page: page.keyboard.press("Escape"))
    drive(lambda page: expect(page.locator("#words")).to_have_count(0))
    drive(lambda page: expect(page.locator(".editor")).to_have_count(1))


def test_a_word_that_was_found_is_inserted(boardwalk: Study, drive: Driver) -> None:
    press(drive, "Words")
    found(drive, "cuboid")
    drive(lambda page: page.locator("#words").get_by_role("button", name="Insert…").click())
    drive(lambda page: page.locator("#insert").get_by_role("button", name="Insert").click())
    settled(drive)
    assert "new_box = box(" in head_text(boardwalk)


def test_a_word_is_found_by_need_and_tried_on_its_page(drive: Driver) -> None:
    """Also by who has not signed in."""
    drive.visit("/reference/?find=round+up")
    assert serious(drive) == []
    drive(lambda page: page.locator("main li a").first.click())
    settled(drive)
    tried = drive(lambda page: page.locator("#tried"))
    drive(lambda page: expect(tried).to_contain_text("result ="))
    drive(lambda page: page.locator("#try").fill("a = ceil(7.2 m, 2 m)\npart p = disc(a)"))
    drive(lambda page: expect(tried).to_contain_text("a = 8"))
    drive(lambda page: expect(page.locator("#tried-picture")).to_be_visible())
    drive(lambda page: page.locator("#try").fill("a = ceil(7 kg, 2 m)"))
    drive(lambda page: expect(tried).to_contain_text("✕"))
    settled(drive)
    assert serious(drive) == []
