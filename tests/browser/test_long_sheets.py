"""Sheets of hundreds and thousands of lines: they are written, turned and looked through as short ones are."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import add_line, open_line, press, row_value, type_line, typed

Opener = Callable[[str, str], Study]
LINES = 620
TEXT = "\n".join(
    [
        "units mm",
        "== Sizes ==",
        "input wide = 300 mm from 100 mm to 900 mm step 10 mm",
        "input deep = 40 mm from 10 mm to 90 mm step 10 mm",
        "== Rows ==",
        *(f"row_{at} = {'wide' if at % 100 == 50 else 'deep'} * {at}" for at in range(6, LINES)),
        "part top = box(wide, deep, row_50)",
    ]
)  # the name of each row tells its line

IN_ORDER = """() => [...document.querySelectorAll('#sheet .row, #sheet .editor')].every((one, at) => Number(one.dataset.line) === at + 1)"""
WATCH = """() => {
  window.touched = new Set();
  new MutationObserver((changes) => {
    for (const { target } of changes) {
      const row = (target.nodeType === 1 ? target : target.parentElement)?.closest('.row, [data-line]');
      if (row) window.touched.add(row.dataset.line);
    }
  }).observe(document.querySelector('#lines'), { subtree: true, childList: true, characterData: true });
}"""


@pytest.fixture
def long_sheet(open_study: Opener) -> Study:
    return open_study("Shelves", TEXT)


def asked(drive: Driver, script: str) -> Any:
    return drive(lambda page: page.evaluate(script))


def test_every_line_is_there_and_few_elements_for_each(long_sheet: Study, drive: Driver) -> None:
    assert asked(drive, "() => document.querySelectorAll('#sheet .row').length") == LINES
    assert asked(drive, IN_ORDER)
    assert asked(drive, "() => document.querySelectorAll('#sheet *').length") < 16 * LINES
    assert row_value(drive, "row_550").replace(" ", "") == "165000mm"


def test_a_turn_touches_the_lines_that_follow_from_it_and_no_other(long_sheet: Study, drive: Driver) -> None:  # fmt: skip
    asked(drive, WATCH)
    drive(lambda page: page.locator("[data-input='wide'] .rule-body").press("ArrowRight"))
    drive(lambda page: page.locator("[data-input='wide'] .rule-body").blur())
    drive(lambda page: expect(page.get_by_role("status").first).to_have_text("Saved"))
    settled(drive)
    changed = {3, *range(50, LINES, 100)}
    assert {int(line) for line in asked(drive, "() => [...window.touched]")} == changed
    assert row_value(drive, "row_550").replace(" ", "") == "170500mm"


def test_lines_are_opened_added_and_taken_out_far_down(long_sheet: Study, drive: Driver) -> None:
    def open_row(page: Page) -> None:
        page.locator(".row[data-line='600']").click()
        expect(page.locator(".editor[data-line='600'] .cm-content")).to_be_focused()
        expect(page.locator(".editor .cm-content")).to_be_in_viewport()

    drive(open_row)
    assert typed(drive) == "row_600 = deep * 600" and asked(drive, IN_ORDER), "where its line stood"
    press(drive, "Add a line below")
    type_line(drive, "half = row_600 / 2")
    drive(lambda page: page.keyboard.press("Escape"))
    settled(drive)
    assert asked(drive, IN_ORDER) and row_value(drive, "half").replace(" ", "") == "12000mm"
    rows = "() => document.querySelectorAll('#sheet .row').length"
    assert asked(drive, rows) == LINES + 1
    drive(lambda page: page.locator(".row[data-line='601']").press("Delete"))
    settled(drive)
    drive(lambda page: expect(page.locator(".row-name:text-is('half')")).to_have_count(0))
    assert asked(drive, rows) == LINES and asked(drive, IN_ORDER)
    assert asked(drive, "() => document.activeElement.dataset.line") == "601"


def test_what_is_typed_stays_open_while_all_else_is_shown_anew(long_sheet: Study, drive: Driver) -> None:  # fmt: skip
    """The lines around it are worked out at each key; its editor, with the focus in it, is the same."""
    drive(lambda page: page.locator(".row[data-line='4']").click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())
    asked(drive, "() => { window.there = document.querySelector('.editor .cm-content'); }")
    drive(lambda page: page.keyboard.press("Control+a"))
    drive(lambda page: page.keyboard.press("Delete"))
    drive(
        lambda page: page.keyboard.insert_text("input deep = 50 mm from 10 mm to 90 mm step 10 mm")
    )
    settled(drive)
    assert row_value(drive, "row_619").replace(" ", "") == "30950mm", "before it is kept"
    assert asked(drive, "() => window.there.isConnected && document.activeElement === window.there")
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert asked(drive, "() => document.activeElement.dataset.line") == "4" and asked(
        drive, IN_ORDER
    )


def test_a_section_is_folded_with_all_its_lines(long_sheet: Study, drive: Driver) -> None:
    seen = "() => [...document.querySelectorAll('#sheet .row')].filter((one) => one.offsetParent).length"
    fold = ".row-fold >> nth=1"
    drive(lambda page: page.locator(fold).click())
    assert drive(lambda page: page.locator(fold).inner_text()) == f"unfold {LINES - 5} lines"
    assert drive(lambda page: page.locator(fold).get_attribute("aria-expanded")) == "false"
    assert asked(drive, seen) == 5
    drive(lambda page: page.locator(".row[data-line='5']").press("ArrowUp"))
    assert asked(drive, "() => document.activeElement.dataset.line") == "4"
    drive(lambda page: page.locator(fold).click())
    assert asked(drive, seen) == LINES


def test_a_line_that_is_undone_while_it_is_open_goes_with_its_editor(open_study: Opener, drive: Driver) -> None:  # fmt: skip
    open_study("Shelf", "units mm\nwide = 300 mm")
    add_line(drive, "half = wide / 2")
    open_line(drive, "half")
    press(drive, "Undo")
    drive(lambda page: expect(page.locator(".editor")).to_have_count(0))
    assert asked(drive, "() => document.querySelectorAll('#sheet .row').length") == 2
    press(drive, "Redo")
    assert asked(drive, IN_ORDER) and row_value(drive, "half").replace(" ", "") == "150mm"
