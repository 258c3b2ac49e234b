"""Writing lines: completion, hints, problems while typing, figures turned in place, insert, order."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled, stage
from tests.browser.editor import add_line, open_line, press, row_value, type_line, typed
from tests.browser.test_workspace import head_text

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]


def begin_line(drive: Driver) -> None:
    drive(lambda page: page.get_by_role("button", name="Add a line", exact=True).click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())


def keys(drive: Driver, *presses: str) -> None:
    for one in presses:
        drive(lambda page, one=one: page.keyboard.press(one))
    settled(drive)


def letters(drive: Driver, text: str) -> None:
    drive(lambda page: page.keyboard.type(text, delay=15))
    settled(drive)


def offered(drive: Driver, wanted: str) -> str:
    """The entry of the completion that begins like this."""
    entry = f".cm-tooltip-autocomplete li:has-text('{wanted}')"
    return drive(lambda page: page.locator(entry).first.inner_text())


def test_names_and_words_are_completed_with_what_they_are(stair: Study, drive: Driver) -> None:
    begin_line(drive)
    letters(drive, "double = 2 * ris")
    assert "180 mm" in offered(drive, "rise") and "18" in offered(drive, "risers")
    keys(drive, "ArrowDown", "Tab")
    assert typed(drive) in ("double = 2 * rise", "double = 2 * risers")
    keys(drive, "Enter")
    assert "double = 2 * rise" in head_text(stair)
    keys(drive, "Escape")
    begin_line(drive)
    letters(drive, "lid = cylin")
    assert "(r, h)" in offered(drive, "cylinder")
    keys(drive, "ArrowDown")

    def card(page: Page) -> tuple[str, int]:
        info = page.locator(".cm-completionInfo")
        info.wait_for()
        return info.inner_text(), info.locator("svg.word-picture polyline").count()

    said, lines = drive(card)
    assert "A cylinder of radius r" in said and lines > 0
    keys(drive, "Tab")
    assert typed(drive) == "lid = cylinder(r, h)"
    letters(drive, "40 mm")
    keys(drive, "Tab")
    letters(drive, "12 mm")
    assert typed(drive) == "lid = cylinder(40 mm, 12 mm)"
    keys(drive, "Enter")
    assert row_value(drive, "lid") == "solid"


def test_units_and_colours_are_completed_and_arguments_hinted(stair: Study, drive: Driver) -> None:
    begin_line(drive)
    letters(drive, "a = 3 m")
    assert "length" in offered(drive, "mm")
    keys(drive, "Escape")
    letters(drive, "m\b\b\b")
    type_line(drive, "part lid = box(1 m, 1 m, 1 m) colour ", key="End")
    letters(drive, "br")
    assert "brass" in offered(drive, "brass")
    keys(drive, "Escape", "Escape")
    begin_line(drive)
    letters(drive, "a = clamp(rise, ")

    def hint(page: Page) -> tuple[str, str]:
        card = page.locator(".word-card.cm-tooltip").first
        return card.locator("b").inner_text(), card.inner_text()

    assert drive(hint)[0] == "lo"
    letters(drive, "1 mm, ")
    bold, said = drive(hint)
    assert bold == "hi" and "clamp(x, lo, hi)" in said
    keys(drive, "Escape", "Escape")
    begin_line(drive)
    letters(drive, "b = baluster(")
    assert drive(hint)[0] == "k", "functions of the sheet too"


def test_names_have_colours_and_problems_are_underlined_while_nothing_else_moves(
    stair: Study, drive: Driver
) -> None:
    open_line(drive, "rise")

    def marked(page: Page, kind: str) -> list[str]:
        return page.locator(f".editor .tok-{kind}").all_inner_texts()

    assert drive(lambda page: marked(page, "input")) == ["floor_height"]
    assert drive(lambda page: marked(page, "line")) == ["rise", "risers"]
    assert drive(lambda page: marked(page, "text")) == ['"Rise"']
    keys(drive, "Escape")
    open_line(drive, "rise")
    place = drive(lambda page: page.locator(".row", has_text="pitch").first.bounding_box())
    type_line(drive, "rise = floor_height / spam", key="End")
    drive(lambda page: expect(page.locator(".editor .cm-lintRange-error")).to_have_text("spam"))
    drive(
        lambda page: expect(page.locator(".open-said")).to_contain_text(
            "nothing here is called spam"
        )
    )
    assert row_value(drive, "pitch") == "36.87 °".replace(" °", " °"), "the rest keeps its values"
    assert drive(lambda page: page.locator(".row", has_text="pitch").first.bounding_box()) == place
    assert not stage(drive)["treads"]["paled"]
    assert "spam" not in head_text(stair), "nothing is saved while it is typed"
    keys(drive, "Escape", "Escape")
    assert row_value(drive, "rise") == "180 mm"


def test_values_follow_live_while_a_good_line_is_typed(stair: Study, drive: Driver) -> None:
    open_line(drive, "max_rise")
    type_line(drive, "max_rise = 240 mm", key="End")
    assert row_value(drive, "risers") == "14"
    assert stage(drive)["treads"]["instances"] == 13
    keys(drive, "Escape", "Escape")
    assert row_value(drive, "risers") == "18" and stage(drive)["treads"]["instances"] == 17


def test_an_unknown_name_is_made_an_input(stair: Study, drive: Driver) -> None:
    begin_line(drive)
    type_line(drive, "overhang = lip * tan(pitch)", key="End")
    press(drive, "Make lip an input")
    assert (
        "input lip = 100 mm from 0 mm to 200 mm step 5 mm\noverhang = lip * tan(pitch)"
        in head_text(stair)
    )
    assert row_value(drive, "overhang") == "75 mm"
    drive(lambda page: page.locator("[data-input=lip] .rule-body").wait_for())


def test_a_study_of_ones_own_is_written_line_by_line(open_study: Opener, drive: Driver) -> None:
    study = open_study("New", 'study "New"\nunits mm, deg\n')
    begin_line(drive)
    for line in ("input span = 3 m", "input pitch = 24°", "rise = span / 2 * tan(pitch)"):
        type_line(drive, line)
    keys(drive, "Escape")
    assert row_value(drive, "rise") == "667.84 mm"
    assert head_text(study).rstrip().endswith("rise = span / 2 * tan(pitch)")
    assert study.revisions.count() == 4


def test_a_block_is_written_over_several_lines(open_study: Opener, drive: Driver) -> None:
    study = open_study("New", 'study "New"\n')
    begin_line(drive)
    letters(drive, "double(x):")
    keys(drive, "Enter")
    letters(drive, "y = 2 * x")
    keys(drive, "Escape", "Shift+Enter")
    letters(drive, "y")
    keys(drive, "Enter")
    keys(drive, "Escape")
    assert "double(x):\n    y = 2 * x\n    y" in head_text(study)
    add_line(drive, "four = double(2)")
    assert row_value(drive, "four") == "4"


def test_a_figure_is_turned_by_dragging_and_by_keys(stair: Study, drive: Driver) -> None:
    open_line(drive, "max_rise")

    def drag(page: Page) -> None:
        box = page.locator(".editor .tok-number").first.bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 80, y, steps=8)
        page.mouse.up()

    drive(drag)
    settled(drive)
    assert typed(drive).startswith("max_rise = 210 mm")
    assert row_value(drive, "risers") == "16", "live, before it is kept"
    keys(drive, "Alt+ArrowUp", "Alt+Shift+ArrowDown")
    assert typed(drive).startswith("max_rise = 201 mm")
    keys(drive, "Enter")
    assert "max_rise = 201 mm" in head_text(stair)


def test_the_sheet_as_text_and_as_lines_is_one_text(stair: Study, drive: Driver) -> None:
    press(drive, "As text")
    editor = "#as-text .cm-content"
    drive(lambda page: page.locator(editor).wait_for())

    def change(page: Page) -> None:
        page.locator(editor).click()
        page.keyboard.press("Control+End")
        page.keyboard.insert_text("tenth = rise / 10\n")

    drive(change)
    drive(lambda page: expect(page.get_by_role("status").first).to_have_text("Saved"))
    settled(drive)
    assert head_text(stair).endswith("tenth = rise / 10\n")
    drive(lambda page: page.locator("[data-input='going'] .rule-body").focus())
    keys(drive, "ArrowRight")
    drive(lambda page: page.locator(editor).press("Control+Home"))
    drive(lambda page: expect(page.locator(editor)).to_contain_text("going = 245 mm"))
    press(drive, "As text")
    assert row_value(drive, "tenth") == "18 mm" and row_value(drive, "going") == "245 mm"


def test_problems_stand_in_the_text_too(stair: Study, drive: Driver) -> None:
    press(drive, "As text")
    drive(lambda page: page.locator("#as-text .cm-content").click())
    drive(lambda page: page.keyboard.press("Control+End"))
    drive(lambda page: page.keyboard.insert_text("odd = ghost + 1\n"))
    drive(lambda page: expect(page.locator("#as-text .cm-lintRange-error")).to_have_text("ghost"))


def test_insert_offers_lines_by_need_ready_to_fill(stair: Study, drive: Driver) -> None:
    drive(lambda page: page.get_by_role("button", name="Insert…").last.click())
    press(drive, "A solid")

    def fill(page: Page) -> str:
        page.locator("#insert .offer", has_text="extrude").click()
        form = page.locator("#insert form")
        assert "a region" in form.inner_text()
        form.get_by_label("name").fill("lid")
        height = form.locator(".blank", has=page.get_by_text("h", exact=True))
        height.locator("input").fill("rise / 3")
        return page.locator("#insert-line").inner_text()

    assert drive(fill) == "lid = extrude(rect(10 mm, 10 mm), rise / 3)"
    drive(lambda page: page.locator("#insert form .boxed").click())
    settled(drive)
    assert row_value(drive, "lid") == "solid"
    assert "lid = extrude(rect(10 mm, 10 mm), rise / 3)" in head_text(stair)


def test_every_need_inserts_a_line_that_works(open_study: Opener, drive: Driver) -> None:
    study = open_study("New", 'study "New"\n')
    needs = ["An input", "A formula", "A rounding rule", "A point", "An outline", "A solid",
             "An array", "A check", "A dimension", "A part"]  # fmt: skip
    for need in needs:
        drive(lambda page: page.get_by_role("button", name="Insert…").last.click())
        press(drive, need)
        drive(lambda page: page.locator("#insert .offer").first.click())
        drive(lambda page: page.locator("#insert form .boxed").click())
        settled(drive)
    assert drive(lambda page: page.locator("footer").inner_text()).endswith("no problems")
    assert len(head_text(study).strip().split("\n")) == len(needs) + 1


def test_rows_are_dragged_and_moved_by_keys(stair: Study, drive: Driver) -> None:
    def drag(page: Page) -> None:
        row = page.locator(".row", has=page.locator(".row-name:text-is('going')"))
        start = row.locator(".row-margin").bounding_box()
        above = page.locator(
            ".row", has=page.locator(".row-name:text-is('floor_height')")
        ).bounding_box()
        assert start and above
        page.mouse.move(start["x"] + 10, start["y"] + 10)
        page.mouse.down()
        page.mouse.move(start["x"] + 10, above["y"] + 4, steps=6)
        page.mouse.up()

    drive(drag)
    settled(drive)
    text = head_text(stair)
    assert text.index("input going") < text.index("input floor_height")
    assert drive(lambda page: page.locator(".editor").count()) == 0, "a drag opens nothing"
    drive(lambda page: page.locator(".row", has=page.locator(".row-name:text-is('going')")).focus())
    keys(drive, "Alt+ArrowDown")
    text = head_text(stair)
    assert text.index("input floor_height") < text.index("input going")


def test_sections_are_folded_and_stay_so(stair: Study, drive: Driver) -> None:
    fold = "fold Levels"
    drive(lambda page: page.get_by_role("button", name=fold, exact=True).click())
    row = ".row:visible .row-name:text-is('rise')"
    drive(lambda page: expect(page.locator(row)).to_have_count(0))
    drive(lambda page: page.reload())
    settled(drive)
    drive(lambda page: expect(page.locator(row)).to_have_count(0))
    drive(lambda page: page.get_by_role("button", name="unfold 8 lines Levels").click())
    drive(lambda page: expect(page.locator(row)).to_have_count(1))


def test_the_keyboard_goes_from_line_to_line(stair: Study, drive: Driver) -> None:
    drive(
        lambda page: page.locator(".row", has=page.locator(".row-name:text-is('max_rise')")).focus()
    )
    keys(drive, "ArrowDown", "ArrowDown", "Enter")
    assert typed(drive).startswith("rise = ")
    keys(drive, "F2")
    drive(lambda page: expect(page.locator("#new-name")).to_be_focused())
    drive(lambda page: page.keyboard.insert_text("step_height"))
    keys(drive, "Enter")
    assert "pitch = atan(step_height / going)" in head_text(stair)


def test_opening_another_line_keeps_what_was_typed(stair: Study, drive: Driver) -> None:
    open_line(drive, "max_rise")
    type_line(drive, "max_rise = 200 mm", key="End")
    open_line(drive, "pitch")
    settled(drive)
    assert "max_rise = 200 mm" in head_text(stair)
    assert typed(drive).startswith("pitch = ")


def test_the_shortcuts_are_listed(stair: Study, drive: Driver) -> None:
    """What is not open is not put together: neither they nor the lists of the drawer."""
    drive(lambda page: expect(page.locator("#keys dt, #drawer > ul")).to_have_count(0))
    drive(lambda page: page.keyboard.press("?"))
    drive(lambda page: expect(page.locator("#keys")).to_contain_text("rename everywhere"))
    drive(lambda page: page.keyboard.press("Escape"))
    drive(lambda page: expect(page.locator("#keys")).to_be_hidden())
