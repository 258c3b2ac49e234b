"""Never losing anything: history, moments, two windows, a lost server."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import alert, open_line, press, row_value, type_line, typed
from tests.browser.test_workspace import drag_rule, head_text

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]


def test_the_history_is_readable_and_any_moment_can_be_restored(
    stair: Study, drive: Driver
) -> None:
    drag_rule(drive, "going", 1.0)
    open_line(drive, "rise")
    press(drive, "Rename everywhere")
    drive(lambda page: page.locator("#new-name").fill("step_height"))
    press(drive, "Rename")
    press(drive, "History")
    said = drive(lambda page: page.locator("#history .moment").all_inner_texts())
    assert "renamed rise to step_height" in said[0] and "now" in said[0]
    assert "Going on the walking line: 240 mm to 320 mm" in said[1]
    drive(
        lambda page: (
            page.locator("#history .moment").last.get_by_role("button", name="Name it").click()
        )
    )
    drive(lambda page: page.locator("#moment-name").fill("As agreed"))
    drive(lambda page: page.keyboard.press("Enter"))
    drive(lambda page: expect(page.locator("#history .moment").last).to_contain_text("As agreed"))
    drive(
        lambda page: (
            page.locator("#history .moment").last.get_by_role("button", name="Restore").click()
        )
    )
    settled(drive)
    assert row_value(drive, "rise") == "180 mm" and row_value(drive, "going") == "240 mm"
    drive(
        lambda page: expect(page.locator("#history .moment").first).to_contain_text(
            "restored: As agreed"
        )
    )
    press(drive, "Undo")
    assert row_value(drive, "step_height") == "180 mm"


def test_undo_says_what_it_takes_back(stair: Study, drive: Driver) -> None:
    drag_rule(drive, "going", 1.0)
    title = drive(
        lambda page: page.get_by_role("button", name="Undo", exact=True).get_attribute("title")
    )
    assert title == "Take back: Going on the walking line: 240 mm to 320 mm"


def elsewhere(study: Study, old: str = "190 mm", new: str = "200 mm") -> None:
    study.refresh_from_db()
    assert study.text.count(old) == 1
    study.save_text(study.text.replace(old, new), study.head_id, f"{old} to {new}")


def ask_for_news(drive: Driver) -> None:
    drive(lambda page: page.evaluate("() => dispatchEvent(new Event('focus'))"))


RISE = "rise = floor_height / risers", "rise = floor_height / (risers + 1)"


def test_a_window_at_rest_shows_what_another_did(stair: Study, drive: Driver) -> None:
    elsewhere(stair)
    ask_for_news(drive)
    status = drive(lambda page: page.get_by_role("status").filter(has_text="190 mm to 200 mm"))
    drive(lambda page: expect(status).to_be_visible())
    settled(drive)
    assert row_value(drive, "max_rise") == "200 mm"


def test_while_a_line_is_open_it_is_told_and_can_look(stair: Study, drive: Driver) -> None:
    open_line(drive, "rise")
    elsewhere(stair)
    ask_for_news(drive)
    notice = "[role=status].notice"
    drive(lambda page: expect(page.locator(notice)).to_contain_text("190 mm to 200 mm"))
    press(drive, "Look at it")
    assert row_value(drive, "max_rise") == "200 mm"


def test_a_change_of_another_line_goes_with_it(stair: Study, drive: Driver) -> None:
    open_line(drive, "rise")
    elsewhere(stair)
    type_line(drive, "rise = floor_height / 20")
    settled(drive)
    assert row_value(drive, "rise") == "162 mm" and row_value(drive, "max_rise") == "200 mm"
    assert "rise = floor_height / 20" in head_text(stair) and "200 mm" in head_text(stair)


def test_it_can_take_over(stair: Study, drive: Driver) -> None:
    open_line(drive, "rise")
    elsewhere(stair, *RISE)
    elsewhere(stair)
    type_line(drive, "rise = floor_height / 20")
    said = alert(drive)
    assert "The same line was changed by another window" in said
    assert "floor_height / (risers + 1)" in said and "rise = floor_height / 20" in said
    assert typed(drive) == "rise = floor_height / 20", "nothing typed is lost"
    press(drive, "Take over with mine")
    text = head_text(stair)
    assert "rise = floor_height / 20" in text and "max_rise = 200 mm" in text
    assert stair.head is not None and stair.head.said.startswith("taken over: rise rewritten")
    assert row_value(drive, "rise") == "162 mm"


def test_it_can_look_first_and_keep_its_change_aside(stair: Study, drive: Driver) -> None:
    open_line(drive, "rise")
    elsewhere(stair, *RISE)
    elsewhere(stair)
    type_line(drive, "rise = floor_height / 20")
    drive(lambda page: page.locator("[role=alert] button", has_text="Look at it").click())
    settled(drive)
    assert row_value(drive, "max_rise") == "200 mm" and "kept aside" in alert(drive)
    press(drive, "Take over with mine")
    assert "rise = floor_height / 20" in head_text(stair)


def test_or_save_it_as_a_copy(stair: Study, drive: Driver) -> None:
    open_line(drive, "rise")
    elsewhere(stair, *RISE)
    elsewhere(stair)
    type_line(drive, "rise = floor_height / 20")
    press(drive, "Save mine as a copy")
    drive(
        lambda page: expect(page.locator("h1")).to_contain_text("Spiral stair to the dome (copy)")
    )
    settled(drive)
    assert row_value(drive, "rise") == "162 mm" and row_value(drive, "max_rise") == "190 mm"
    assert "max_rise = 200 mm" in head_text(stair), "theirs is untouched"


def test_without_a_server_changes_wait_and_are_sent_when_it_is_back(
    boardwalk: Study, drive: Driver
) -> None:
    drive(lambda page: page.context.set_offline(True))
    drive(lambda page: page.get_by_role("radio", name="wide").click())
    status = drive(lambda page: page.get_by_role("status").filter(has_text="No server"))
    drive(lambda page: expect(status).to_contain_text("1 change waits"))
    drive(lambda page: page.get_by_role("radio", name="no", exact=True).click())
    drive(lambda page: expect(status).to_contain_text("2 changes wait"))
    assert 'size = "narrow" of' in head_text(boardwalk)
    drive(lambda page: page.context.set_offline(False))
    drive(lambda page: expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible())
    settled(drive)
    text = head_text(boardwalk)
    assert 'size = "wide" of' in text and "cut_last = no " in text


def test_without_a_server_an_editor_that_is_not_here_yet_says_so_and_comes_later(
    boardwalk: Study, drive: Driver
) -> None:
    later = "**/dist/editor-*.js"
    drive(lambda page: page.route(later, lambda route: route.abort("internetdisconnected")))
    drive.visit(f"/studies/{boardwalk.pk}/?antialias=off")
    settled(drive)
    row = drive(lambda page: page.locator(".row").first)
    drive(lambda page: row.focus())
    drive(lambda page: page.keyboard.press("Enter"))
    said = drive(lambda page: page.locator("[role=alert]"))
    drive(lambda page: expect(said).to_contain_text("The server is not reached"))
    drive(lambda page: page.unroute(later))
    drive(lambda page: row.focus())
    drive(lambda page: page.keyboard.press("Enter"))
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_visible())


ENDLESS = 'slow = sum([sum([len("{i * j}") for i in 0 .. 3000]) for j in 0 .. 3000])'


def test_an_endless_formula_ends_at_its_limit_and_typing_never_waits_for_it(
    open_study: Opener, drive: Driver
) -> None:
    open_study("Slow", f"{ENDLESS}\nquick = 1 + 1")
    assert "takes too long" in row_value(drive, "slow")
    assert row_value(drive, "quick") == "2"
    open_line(drive, "slow")
    drive(lambda page: page.keyboard.press("End"))
    drive(lambda page: page.keyboard.type(" + 1 + 2 + 3"))
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_contain_text("+ 1 + 2 + 3"))
    assert drive(lambda page: page.locator("body").get_attribute("data-settled")) == "no", (
        "what was typed stands while the evaluation is still under way"
    )
    type_line(drive, "slow = 3")
    assert row_value(drive, "slow") == "3"
