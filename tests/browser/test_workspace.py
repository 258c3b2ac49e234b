"""The workspace, driven as a person does."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, picture, settled, stage
from tests.browser.editor import add_line, open_line, row_value, type_line, typed

pytestmark = pytest.mark.browser


def drag_rule(drive: Driver, name: str, share: float, steps: int = 12) -> None:
    """Drags the hairline of a slide rule to a share of its length."""

    def drag(page: Page) -> None:
        box = page.locator(f"[data-input='{name}'] .rule-body").bounding_box()
        assert box
        y = box["y"] + box["height"] / 2
        page.mouse.move(box["x"] + box["width"] / 2, y)
        page.mouse.down()
        page.mouse.move(box["x"] + 6 + share * (box["width"] - 12), y, steps=steps)
        page.mouse.up()

    drive(drag)
    settled(drive)


def head_text(study: Study) -> str:
    study.refresh_from_db()
    return study.text


@pytest.mark.painted
def test_turning_floor_to_floor_moves_everything(stair: Study, drive: Driver) -> None:
    assert row_value(drive, "risers") == "18"
    assert stage(drive)["treads"]["instances"] == 17
    before = picture(drive)
    drag_rule(drive, "floor_height", 1.0)
    assert row_value(drive, "floor_height") == "4200 mm"
    assert row_value(drive, "risers") == "23"
    assert row_value(drive, "rise") == "182.61 mm"
    parts = stage(drive)
    assert (parts["treads"]["instances"], parts["treads"]["shapes"]) == (22, 1)
    assert parts["treads"]["top"] == pytest.approx(4200 - 4200 / 23)
    assert picture(drive) != before
    assert "input floor_height = 4200 mm from 2400 mm" in head_text(stair)
    assert stair.revisions.count() == 2, "letting go saves one revision"


def test_no_two_requests_are_under_way_and_the_last_value_wins(stair: Study, drive: Driver) -> None:
    spans: list[tuple[str, Any]] = []

    def watch(page: Page) -> None:
        page.on(
            "request", lambda r: spans.append(("begun", r)) if r.url.endswith("/evaluate") else None
        )
        page.on(
            "requestfinished",
            lambda r: spans.append(("done", r)) if r.url.endswith("/evaluate") else None,
        )

    drive(watch)
    drag_rule(drive, "floor_height", 0.11, steps=60)
    kinds = [kind for kind, _ in spans]
    assert all(a != b for a, b in itertools.pairwise(kinds)), "begun and done alternate"
    shown = row_value(drive, "floor_height")
    assert f"input floor_height = {shown} from" in head_text(stair)


def test_arrow_keys_turn_a_slide_rule(stair: Study, drive: Driver) -> None:
    def press(page: Page) -> None:
        page.locator("[data-input='going'] .rule-body").focus()
        for _ in range(3):
            page.keyboard.down("ArrowRight")
        page.keyboard.up("ArrowRight")
        expect(page.get_by_role("status")).to_have_text("Saved")

    drive(press)
    settled(drive)
    assert row_value(drive, "going") == "255 mm"
    assert "input going = 255 mm from" in head_text(stair)
    assert stair.revisions.count() == 2, "a run of key presses is one change"


def test_changes_in_quick_succession_are_all_kept(boardwalk: Study, drive: Driver) -> None:
    def press(page: Page) -> None:
        for name in ("wide", "narrow", "wide"):
            page.get_by_role("radio", name=name).click()
        page.get_by_role("radio", name="no", exact=True).click()

    drive(press)
    settled(drive)
    assert 'size = "wide" of' in head_text(boardwalk) and "cut_last = no " in head_text(boardwalk)
    assert boardwalk.revisions.count() == 5


def test_a_value_is_typed_in_any_unit_and_nonsense_is_refused(stair: Study, drive: Driver) -> None:
    def type_value(text: str) -> None:
        def work(page: Page) -> None:
            page.locator("#value-floor_height").fill(text)
            page.keyboard.press("Enter")

        drive(work)
        settled(drive)

    type_value("2.88m")
    assert row_value(drive, "floor_height") == "2880 mm"
    type_value("3 kg")
    assert "is a mass" in drive(lambda page: page.locator("[role=alert]").inner_text())
    assert row_value(drive, "floor_height") == "2880 mm"
    assert (
        drive(lambda page: page.locator("#value-floor_height").input_value()).replace("\u2009", "")
        == "2880"
    )


def test_a_choice_and_a_yes_no(boardwalk: Study, drive: Driver) -> None:
    assert stage(drive)["boards"]["instances"] == 41
    drive(lambda page: page.get_by_role("radio", name="wide").click())
    settled(drive)
    assert row_value(drive, "board") == "145 mm"
    assert stage(drive)["boards"]["instances"] == 27
    drive(lambda page: page.get_by_role("radio", name="no", exact=True).click())
    settled(drive)
    assert stage(drive)["last_board"]["instances"] == 0
    assert 'size = "wide" of' in head_text(boardwalk) and "cut_last = no " in head_text(boardwalk)


def test_a_line_is_changed_badly_and_well(stair: Study, drive: Driver) -> None:
    open_line(drive, "rise")
    type_line(drive, "rise = floor_height / (risers")
    assert row_value(drive, "rise") == "the bracket ( is not closed"
    assert row_value(drive, "pitch").startswith("waits for rise")
    assert row_value(drive, "risers") == "18", "other lines go on"
    foot = "footer button:last-of-type"
    drive(lambda page: expect(page.locator(foot)).to_have_text("1 problem", use_inner_text=True))
    drive(lambda page: expect(page.locator(foot)).to_have_attribute("title", re.compile(r"^1 problem, \d+ waiting$")))  # fmt: skip
    parts = stage(drive)
    assert parts["treads"]["paled"] and parts["treads"]["instances"] == 17
    assert not parts["post"]["paled"]
    assert "rise = floor_height / (risers\n" in head_text(stair), "the text stays as typed"
    open_line(drive, "rise")
    type_line(drive, "rise = floor_height / (risers + 2)")
    assert row_value(drive, "rise") == "162 mm"
    assert not stage(drive)["treads"]["paled"]


BAD_LINES = {
    "x = spam": "nothing here is called spam",
    "x = rise + pitch": "a length (rise) plus an angle (pitch) makes no sense",
    "x = 1 / (risers - 18)": "division by zero",
    "x = half(extrude(wedge, 1 mm), -z)": "nothing is left of this solid",
    "x = x + 1": "this line needs itself",
}


def test_bad_input_is_a_problem_at_its_line(stair: Study, drive: Driver) -> None:
    add_line(drive, "x = 1")
    for line, said in BAD_LINES.items():
        open_line(drive, "x")
        type_line(drive, line)
        assert said in row_value(drive, "x")
        assert row_value(drive, "rise") == "180 mm"
        assert stage(drive)["treads"]["instances"] == 17
        assert drive(lambda page: page.locator("footer").inner_text()).endswith("1 problem")


def test_lines_are_left_as_they_were_added_and_deleted(stair: Study, drive: Driver) -> None:
    before = stair.text
    open_line(drive, "rise")
    type_line(drive, "rise = 1 mm", key="Escape")
    drive(lambda page: page.keyboard.press("Escape"))  # the first one closes what is offered
    settled(drive)
    assert row_value(drive, "rise") == "180 mm"
    assert head_text(stair) == before
    open_line(drive, "rise")
    drive(lambda page: page.get_by_role("button", name="Add a line below").click())
    type_line(drive, "double = 2 * rise")
    assert row_value(drive, "double") == "360 mm"
    assert 'rise = floor_height / risers "Rise"\ndouble = 2 * rise\npitch' in head_text(stair)
    open_line(drive, "double")
    drive(lambda page: page.get_by_role("button", name="Delete line").click())
    settled(drive)
    assert "double" not in head_text(stair)


def test_undo_and_redo_survive_a_reload(stair: Study, drive: Driver) -> None:
    drag_rule(drive, "floor_height", 1.0)
    drag_rule(drive, "going", 0.0)
    drive(lambda page: page.reload())
    settled(drive)
    assert row_value(drive, "going") == "200 mm"
    drive(lambda page: page.get_by_role("button", name="Undo", exact=True).click())
    settled(drive)
    assert (row_value(drive, "going"), row_value(drive, "floor_height")) == ("240 mm", "4200 mm")
    drive(lambda page: page.keyboard.press("Control+z"))
    settled(drive)
    assert row_value(drive, "floor_height") == "3240 mm"
    assert drive(lambda page: page.get_by_role("button", name="Undo", exact=True).is_disabled())
    drive(lambda page: page.reload())
    settled(drive)
    drive(lambda page: page.get_by_role("button", name="Redo", exact=True).click())
    settled(drive)
    assert row_value(drive, "floor_height") == "4200 mm"
    assert stage(drive)["treads"]["instances"] == 22


def test_a_change_made_elsewhere_is_not_overwritten(stair: Study, drive: Driver) -> None:
    open_line(drive, "rise")
    theirs = stair.text.replace("rise = floor_height / risers", "rise = 170 mm") + "\nmine = 3\n"
    assert theirs.count("170 mm") == 1
    stair.save_text(theirs, stair.head_id)
    type_line(drive, "rise = 1 mm")
    assert "The same line was changed by another window" in drive(
        lambda page: page.locator("[role=alert]").inner_text()
    )
    assert "mine = 3" in head_text(stair) and "170 mm" in head_text(stair)
    assert typed(drive) == "rise = 1 mm"


@pytest.mark.painted
def test_views_and_parts_of_the_stage(stair: Study, drive: Driver) -> None:
    seen = {"axonometric": picture(drive)}
    for view in ("Plan", "Front", "Side"):
        drive(lambda page, view=view: page.get_by_role("button", name=view, exact=True).click())
        seen[view] = picture(drive)
    assert len(set(seen.values())) == 4
    drive(lambda page: page.get_by_role("button", name="Treads 17", exact=True).click())
    assert not stage(drive)["treads"]["visible"]
    assert picture(drive) != seen["Side"]
    drive(lambda page: page.get_by_role("button", name="Treads 17", exact=True).click())
    assert stage(drive)["treads"]["visible"]


@pytest.mark.painted
def test_the_stage_is_turned_and_zoomed_by_hand(stair: Study, drive: Driver) -> None:
    before = picture(drive)

    def orbit(page: Page) -> None:
        page.mouse.move(800, 300)
        page.mouse.down()
        page.mouse.move(900, 340, steps=4)
        page.mouse.up()

    drive(orbit)
    turned = picture(drive)
    assert turned != before
    drive(lambda page: page.mouse.wheel(0, -400))
    drive(lambda page: page.wait_for_timeout(200))
    assert picture(drive) != turned


def test_the_treads_are_saved_as_stl(stair: Study, drive: Driver) -> None:
    def save(page: Page) -> bytes:
        with page.expect_download() as caught:
            page.locator("#hand-over summary").click()
            page.get_by_role("link", name="Solids as STL", exact=True).click()
        return Path(caught.value.path()).read_bytes()

    data = drive(save)
    assert int.from_bytes(data[80:84], "little") * 50 + 84 == len(data) > 10_000


def test_a_check_that_may_be_otherwise_is_marked_among_the_checks(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    """A ball cut by a block, at coarse chords: its volume is known to some per cent."""
    body = "part body = sphere(20 mm) & box(15 mm, 15 mm, 90 mm)"
    checks = [f"check volume(body) < {limit} cm^3" for limit in (4.283, 4.5)]
    open_study("Bar", "\n".join(["tolerance 0.5 mm", body, *checks]))

    def listed(page: Page) -> list[str]:
        page.get_by_role("button", name="Checks 2 hold ◦").click()
        return page.locator("#drawer li:visible").all_inner_texts()

    first, second = drive(listed)
    assert "✓ holds ◦" in first and "a finer tolerance tells" in first
    assert "✓ holds" in second and "◦" not in second


def test_checks_and_problems_are_listed_and_lead_to_their_lines(
    stair: Study, drive: Driver
) -> None:
    drag_rule(drive, "floor_height", 0.0)
    open_line(drive, "max_rise")
    type_line(drive, "max_rise = 300 mm")

    def look(page: Page) -> str:
        page.get_by_role("button", name="Checks").click()
        return page.locator("#drawer").inner_text()

    said = drive(look)
    assert "✕ fails" in said and "550 mm <= 840 mm <= 700 mm" in said
    drive(lambda page: page.locator("#drawer li button:visible").first.click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_have_text(
        'check 550 mm <= 2*rise + going <= 700 mm "2R + G is comfortable"'))  # fmt: skip
