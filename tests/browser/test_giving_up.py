"""A drag that is given up by Escape leaves all as it was, whatever is dragged; one that comes back has changed nothing."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, Route, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled, stage
from tests.browser.editor import open_line, press, row_value
from tests.browser.test_saving import ask_for_news

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]
Place = Callable[[Page], Locator]

SHELF = """study "Shelf"
units mm, deg

== Sizes ==
input wide = 0.90 m from 300 mm to 1500 mm step 10 mm "Width"
input deep = 203 mm from 100 mm to 300 mm step 10 mm "Depth"
input post = (120 mm, 80 mm) "Post"
high = wide * 2

== Parts ==
part board = box(wide, deep, 20 mm) "Board"
part foot = cylinder(20 mm, 90 mm).move(post.x, post.y) "Foot"
dim wide along x "Width"
"""

SEEN = "() => document.querySelector('#sheet').innerText.includes('wide * %d')"


@pytest.fixture
def shelf(open_study: Opener) -> Study:
    return open_study("Shelf", SHELF)


def dragged(
    drive: Driver, place: Place, by: tuple[float, float], last: Callable[[Page], Any]
) -> None:
    """Presses at the middle of a place and moves; what is done last ends the drag."""

    def drag(page: Page) -> None:
        box = place(page).bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + by[0], y + by[1], steps=6)
        last(page)
        page.mouse.move(x, y + 200)  # after it was given up, the pointer moves nothing
        page.mouse.up()

    drive(drag)
    settled(drive)


def escape(page: Page) -> None:
    page.keyboard.press("Escape")


def rule(page: Page) -> Locator:
    return page.locator("[data-input=wide] .rule-body")


def unchanged(study: Study, revision: int | None, text: str = SHELF) -> bool:
    study.refresh_from_db()
    return bool(study.head_id == revision and study.text == text)


@pytest.mark.parametrize(("name", "shown"), [("wide", "900"), ("deep", "203")])
def test_a_turn_of_a_slide_rule(name: str, shown: str, shelf: Study, drive: Driver) -> None:
    """Also from a value between two steps."""
    press(drive, "Words")
    value, body = f"#value-{name}", f"[data-input={name}] .rule-body"

    def last(page: Page) -> None:
        expect(page.locator(value)).not_to_have_value(shown)
        escape(page)

    dragged(drive, lambda page: page.locator(body), (60, 0), last)
    assert row_value(drive, name) == f"{shown} mm" and row_value(drive, "high") == "1800 mm"
    assert drive(lambda page: page.locator(value).input_value()) == shown
    drive(lambda page: expect(page.locator("#words")).to_be_visible())  # Escape closed nothing
    assert unchanged(shelf, shelf.head_id)


def test_a_window_whose_turn_came_to_nothing_follows_others(shelf: Study, drive: Driver) -> None:
    """Nothing is being turned any more: what another changes is shown at once. By Escape, to and fro, where the
    browser takes the pointer away, and by keys."""

    def cancelled(page: Page) -> None:
        gone = "new PointerEvent('pointercancel', { pointerId: 1, bubbles: true })"
        rule(page).evaluate(f"(body) => body.dispatchEvent({gone})")

    def keys(page: Page) -> None:
        rule(page).focus()
        for key in ("ArrowRight", "ArrowLeft"):
            page.keyboard.press(key)
        page.wait_for_timeout(800)

    def turned(last: Callable[[Page], Any]) -> Callable[[], None]:
        return lambda: dragged(drive, rule, (60, 0), last)

    ways = [turned(escape), turned(lambda page: None), turned(cancelled), lambda: drive(keys)]
    for times, way in enumerate(ways, 3):
        before = shelf.text
        way()
        settled(drive)
        assert unchanged(shelf, shelf.head_id, before)
        after = SHELF.replace("wide * 2", f"wide * {times}")
        shelf.save_text(after, shelf.head_id, f"{times} times")
        ask_for_news(drive)
        drive(lambda page, seen=SEEN % times: page.wait_for_function(seen))  # type: ignore[misc]
        settled(drive)


def test_a_line_that_is_moved(shelf: Study, drive: Driver) -> None:
    margin = ".row:has(.row-name:text-is('high')) .row-margin"
    dragged(drive, lambda page: page.locator(margin), (0, -70), escape)
    drive(lambda page: expect(page.locator(".drop-mark")).to_have_count(0))
    assert unchanged(shelf, shelf.head_id)


def test_a_figure_in_a_formula(shelf: Study, drive: Driver) -> None:
    open_line(drive, "high")
    figure: Place = lambda page: page.locator(".editor .tok-number")  # noqa: E731
    dragged(
        drive,
        figure,
        (60, 0),
        lambda page: (
            expect(page.locator(".editor .cm-content")).to_have_text("high = wide * 17"),
            escape(page),
        ),
    )
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_have_text("high = wide * 2"))
    assert unchanged(shelf, shelf.head_id)


def test_a_handle_on_the_stage(shelf: Study, drive: Driver) -> None:
    press(drive, "Plan")
    before = stage(drive)["foot"]
    dragged(
        drive,
        lambda page: page.get_by_role("button", name="Post, a point to drag"),
        (70, -40),
        escape,
    )
    assert stage(drive)["foot"] == before and row_value(drive, "post") == "(120, 80) mm"
    drive(lambda page: page.get_by_role("button", name="Post, a point to drag").focus())
    drive(lambda page: [page.keyboard.press(key) for key in ("ArrowRight", "ArrowLeft")])
    drive(lambda page: page.wait_for_timeout(700))
    settled(drive)
    assert stage(drive)["foot"] == before
    assert unchanged(shelf, shelf.head_id)


def test_a_divider(shelf: Study, drive: Driver) -> None:
    def width() -> float:
        return (drive(lambda page: page.locator("#sheet-side").bounding_box()) or {})["width"]

    before = width()
    divider: Place = lambda page: page.get_by_role("separator", name="Between sheet and stage")  # noqa: E731
    dragged(drive, divider, (100, 0), escape)
    assert width() == before
    drive(lambda page: page.reload())
    settled(drive)
    assert width() == before


def test_the_other_buttons_of_the_mouse_drag_nothing(shelf: Study, drive: Driver) -> None:
    def right(page: Page) -> None:
        rule(page).click(button="right")
        page.get_by_role("separator", name="Between sheet and stage").click(button="right")
        rule(page).click(button="middle")

    drive(right)
    settled(drive)
    assert row_value(drive, "wide") == "900 mm" and unchanged(shelf, shelf.head_id)


def test_a_turn_given_up_while_the_one_before_is_being_saved(shelf: Study, drive: Driver) -> None:
    """What was turned first stays, and is all that is saved; then the window is at rest."""
    held: list[Route] = []
    drive(lambda page: page.route("**/edit", lambda route: held.append(route)))

    def twice(page: Page) -> None:
        box = rule(page).bounding_box()
        assert box
        y, end = box["y"] + box["height"] / 2, box["x"] + box["width"]
        for to, last in ((end, "Tab"), (box["x"], "Escape")):
            page.mouse.move(box["x"] + box["width"] / 2, y)
            page.mouse.down()
            page.mouse.move(to, y, steps=4)
            if last == "Escape":
                page.keyboard.press(last)
            page.mouse.up()

    drive(twice)
    at_first = re.compile(r"wide.*1\s?500\s?mm", re.DOTALL)
    drive(lambda page: expect(page.locator(".row", has_text="Width").first).to_have_text(at_first))
    assert len(held) == 1
    drive(lambda page: page.unroute("**/edit"))  # now it goes on
    settled(drive)
    assert row_value(drive, "wide") == "1500 mm"
    shelf.refresh_from_db()
    assert "input wide = 1.5 m" in shelf.text and shelf.revisions.count() == 2
    shelf.save_text(shelf.text.replace("wide * 2", "wide * 3"), shelf.head_id, "three times")
    drive(lambda page: page.wait_for_function(SEEN % 3))


def test_a_range_of_a_plan(shelf: Study, drive: Driver) -> None:
    """Also from a limit between two steps."""
    shelf.save_text(SHELF.replace("to 300 mm step 10 mm", "to 297 mm step 10 mm"), shelf.head_id)
    drive.visit(f"/studies/{shelf.pk}/variations")
    settled(drive)
    end: Place = lambda page: page.get_by_role("slider", name="greatest Depth")  # noqa: E731

    def last(page: Page) -> None:
        expect(end(page)).not_to_have_attribute("aria-valuenow", "297")
        escape(page)

    dragged(drive, end, (-60, 0), last)
    drive(lambda page: expect(end(page)).to_have_attribute("aria-valuenow", "297"))
