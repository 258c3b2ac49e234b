"""The page of variations, and what of it stands in the workspace: rolled, held, pinned, compared, taken,
aimed, proved, and the band that works."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import ContactSheet, Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import open_line, press
from tests.browser.test_workspace import head_text

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]

TEXT = """units mm
input width = 900 mm from 300 mm to 1200 mm step 50 mm "Width"
input high = 400 mm from 100 mm to 800 mm step 10 mm "Height"
input seed = 4 from 1 to 99 step 1
shelves = floor(high / 130 mm) "Shelves"
area = width * high "Area"
knots = floor(random(3, 0, 9))
check width <= 1000 mm "not too wide"
part boards = [box(width, 200 mm, 20 mm).move(z = i * 120 mm) for i in 0 .. shelves] "Boards"
"""


@pytest.fixture
def shelf(open_study: Opener) -> Study:
    return open_study("Shelf", TEXT)


def visit(drive: Driver, shelf: Study) -> None:
    drive.visit(f"/studies/{shelf.pk}/variations")
    drive(lambda page: expect(page.get_by_role("button", name="Work it out")).to_be_visible())


def work_out(drive: Driver, trials: int = 12) -> None:
    def work(page: Page) -> None:
        page.get_by_role("textbox", name="Trials").fill(str(trials))
        page.keyboard.press("Tab")
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_text(f"worked out {trials} of {trials}")).to_be_visible()

    drive(work)
    settled(drive)


def cards(drive: Driver) -> list[str]:
    """What stands on the cards, in the order in which they are seen."""
    return drive(lambda page: page.locator(".card").evaluate_all(
        "(all) => all.sort((a, b) => a.getAttribute('aria-posinset') - b.getAttribute('aria-posinset')).map((one) => one.innerText)"
    ))  # fmt: skip


@pytest.mark.painted
def test_a_roll_is_worked_out_seen_and_taken_back(shelf: Study, drive: Driver) -> None:
    visit(drive, shelf)
    work_out(drive)
    drive(lambda page: expect(page.locator(".card")).to_have_count(12))
    drive(lambda page: expect(page.locator(".card-picture[data-drawn=yes]")).to_have_count(12))
    assert any("holds" in one for one in cards(drive))
    drive(lambda page: expect(page.locator(".plot-dot, .plot-cross")).not_to_have_count(0))
    said = drive(lambda page: page.locator(".card[data-number='3'] .card-inputs").inner_text())
    wide = re.search(r"width\s+(\d+) mm", said)
    assert wide
    drive(lambda page: page.get_by_role("button", name="Take number 4", exact=True).first.click())
    drive(lambda page: page.wait_for_url(f"**/studies/{shelf.pk}/"))
    settled(drive)
    assert f"input width = {wide[1]} mm from" in head_text(shelf)
    press(drive, "Undo")
    assert head_text(shelf) == TEXT


def test_what_is_held_stays_and_ranges_are_narrowed_by_keys(shelf: Study, drive: Driver) -> None:
    visit(drive, shelf)
    press(drive, "hold Height")
    least = drive.page.get_by_role("slider", name="least Width")
    drive(lambda page: least.focus())
    for _ in range(4):
        drive(lambda page: page.keyboard.press("ArrowRight"))
    drive(lambda page: expect(least).to_have_attribute("aria-valuetext", "500 mm"))
    work_out(drive)
    found = " ".join(cards(drive))
    widths = [int(one) for one in re.findall(r"width\s+(\d+) mm", found)]
    assert widths and min(widths) >= 500 and "high" not in found
    drive(lambda page: page.reload())
    drive(lambda page: expect(page.get_by_role("button", name="held Height")).to_be_visible())


def test_what_can_be_varied_is_of_the_study_as_it_is_worked_out(
    shelf: Study, drive: Driver
) -> None:
    """Another moves a limit, gives an input another label and adds one; what was held and narrowed stays so."""
    visit(drive, shelf)
    press(drive, "hold Height")
    drive(lambda page: page.get_by_role("slider", name="greatest Width").press("ArrowLeft"))
    work_out(drive)
    shelf.refresh_from_db()
    changed = shelf.text.replace("to 1200 mm", "to 1500 mm").replace('"Width"', '"Width of it"')
    shelf.save_text(f"{changed}input more = 2 from 1 to 9\n", shelf.head_id)
    work_out(drive, 10)
    rail = ".variations-rail"
    for said in ("1500 mm", "Width of it", "more"):
        drive(lambda page, said=said: expect(page.locator(rail)).to_contain_text(said))
    drive(lambda page: expect(page.get_by_role("button", name="held Height")).to_be_visible())
    greatest = drive.page.get_by_role("slider", name="greatest Width of it")
    drive(lambda page: expect(greatest).to_have_attribute("aria-valuetext", "1150 mm"))


def test_cards_are_sorted_filtered_and_brushed(shelf: Study, drive: Driver) -> None:
    visit(drive, shelf)
    work_out(drive, 30)
    count = drive(lambda page: page.locator(".card").count())
    press(drive, "only those that hold")
    drive(lambda page: expect(page.locator(".card.failing")).to_have_count(0))
    press(drive, "only those that hold")
    drive(lambda page: page.get_by_label("Sorted by").select_option("area"))
    areas = [
        float(found[1]) for one in cards(drive) if (found := re.search(r"area\s+([\d.]+)", one))
    ]
    assert areas == sorted(areas)

    def brush(page: Page, key: str = "") -> None:
        box = page.locator("#plot svg").bounding_box()
        assert box
        x, y, w, h = box["x"], box["y"], box["width"], box["height"]
        page.mouse.move(x + 60, y + 14)
        page.mouse.down()
        page.mouse.move(x + 60 + (w - 60) / 3, y + h - 30, steps=4)
        if key:
            page.keyboard.press(key)
        page.mouse.up()

    drive(lambda page: page.locator("#plot svg").click(button="right"))
    drive(lambda page: brush(page, "Escape"))
    drive(lambda page: expect(page.get_by_role("button", name="all of the plot")).to_be_hidden())
    drive(brush)
    drive(lambda page: expect(page.get_by_role("button", name="all of the plot")).to_be_visible())
    drive(lambda page: expect(page.get_by_text(re.compile("30 trials, \\d+ seen"))).to_be_visible())
    press(drive, "all of the plot")
    assert drive(lambda page: page.locator(".card").count()) == count


def test_pinned_trials_are_compared_side_by_side_and_overlaid(shelf: Study, drive: Driver) -> None:
    visit(drive, shelf)
    work_out(drive, 6)
    for number in (1, 2):
        press(drive, f"Pin number {number}")
    press(drive, "Compare 2 pinned")
    drive(lambda page: expect(page.locator("[data-compared] canvas")).to_have_count(2))
    drive(lambda page: expect(page.locator(".variations-table tr.differs")).not_to_have_count(0))
    drive(lambda page: expect(page.locator(".variations-table")).to_contain_text("width"))
    press(drive, "overlay")
    drive(lambda page: expect(page.locator("[data-compared] canvas")).to_have_count(1))
    press(drive, "Close")
    drive(lambda page: expect(page.locator(".variations-compare")).to_have_count(0))


def test_a_contact_sheet_is_kept_and_opened_again(shelf: Study, drive: Driver) -> None:
    visit(drive, shelf)
    work_out(drive, 7)
    before = cards(drive)

    def keep(page: Page) -> None:
        page.locator("#contact-sheets summary").click()
        page.get_by_label("Name of the contact sheet").fill("Seven")
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Seven", exact=True)).to_be_visible()

    drive(keep)
    assert ContactSheet.objects.get(study=shelf).plan["number"] == 7
    shelf.save_text(TEXT + "more = 1\n", shelf.head_id)
    visit(drive, shelf)
    drive(lambda page: page.locator("#contact-sheets summary").click())
    drive(lambda page: page.get_by_role("button", name="Seven", exact=True).click())
    drive(lambda page: expect(page.get_by_text("The sheet has changed since")).to_be_visible())
    drive(lambda page: expect(page.get_by_text("worked out 7 of 7")).to_be_visible())
    settled(drive)
    assert cards(drive) == before


def test_trials_are_kept_as_a_preset_and_saved_as_csv(shelf: Study, drive: Driver) -> None:
    visit(drive, shelf)
    work_out(drive, 4)
    drive(lambda page: page.locator(".card[data-number='2']").focus())
    press(drive, "Keep as preset…")
    drive(lambda page: page.get_by_label("Name of the preset").fill("Third"))
    drive(lambda page: page.keyboard.press("Enter"))
    drive(lambda page: expect(page.get_by_text("preset Third saved")).to_be_visible())
    assert 'preset "Third": width = ' in head_text(shelf)

    def save(page: Page) -> str:
        with page.expect_download() as download:
            page.get_by_role("button", name="All as CSV").click()
        assert download.value.suggested_filename == "shelf.csv"
        return download.value.path().read_text(encoding="utf-8")

    table = drive(save)
    assert table.startswith("number,width,high,seed,") and len(table.splitlines()) == 5


def test_a_plan_that_makes_no_sense_is_told_and_the_page_goes_on(
    shelf: Study, drive: Driver
) -> None:
    visit(drive, shelf)
    drive(lambda page: page.get_by_label("Trials").fill("1000000"))
    drive(lambda page: page.keyboard.press("Tab"))
    press(drive, "Work it out")
    drive(lambda page: expect(page.get_by_role("alert")).to_contain_text("1,000,000 trials are too many"))  # fmt: skip
    work_out(drive, 3)
    drive(lambda page: expect(page.get_by_role("alert")).to_be_hidden())


def test_hundreds_of_cards_scroll_and_only_the_seen_are_there(shelf: Study, drive: Driver) -> None:
    visit(drive, shelf)
    drive(lambda page: page.get_by_label("pieces and masses").uncheck())
    work_out(drive, 400)
    assert drive(lambda page: page.locator(".card").count()) < 60
    drive(
        lambda page: page.locator("#cards").evaluate("(one) => (one.scrollTop = one.scrollHeight)")
    )
    drive(lambda page: expect(page.locator(".card[data-number='399']")).to_be_visible())
    assert drive(lambda page: page.locator(".card").count()) < 60
    drive(lambda page: page.locator(".card[data-number='399']").focus())
    drive(lambda page: page.keyboard.press("Home"))
    drive(lambda page: expect(page.locator(".card[data-number='0']")).to_be_focused())


def test_long_work_is_stopped_and_what_is_there_stays(shelf: Study, drive: Driver) -> None:
    visit(drive, shelf)

    def work(page: Page) -> int:
        page.get_by_label("Trials").fill("2000")
        page.keyboard.press("Tab")
        page.get_by_role("button", name="Work it out").click()
        expect(page.locator(".card").first).to_be_visible()
        page.get_by_role("button", name="Stop").click()
        expect(page.get_by_role("button", name="Work it out")).to_be_visible()
        return page.locator(".card").count()

    assert drive(work) > 0
    settled(drive)
    drive(
        lambda page: expect(page.get_by_text(re.compile("worked out \\d+ of 2000"))).to_be_visible()
    )


def test_figures_at_the_axes_are_whole(open_study: Opener, drive: Driver) -> None:
    """Also the last one, which stands at the edge of the plot."""
    long = open_study(
        "Rail",
        "input long = 4 m from 1 m to 12 m\ninput wide = 1 m from 100 mm to 10 m\nsum = long + wide",
    )
    visit(drive, long)
    work_out(drive)
    cut = drive(lambda page: page.locator("svg:has(.plot-axis) text").evaluate_all("""(all) => all
      .filter((one) => { const [own, room] = [one, one.ownerSVGElement].map((each) => each.getBoundingClientRect());
        return own.right > room.right || own.left < room.left; }).map((one) => one.textContent)"""))  # fmt: skip
    assert cut == []
    figures = drive(lambda page: page.locator("svg:has(.plot-axis) text").all_text_contents())
    assert max(int(re.sub(r"\D", "", one)) for one in figures) >= 10_000


# --- in the workspace ---


def throw_the_same(drive: Driver) -> None:
    """The page's dice: what is rolled could be what is there already."""
    drive(lambda page: page.evaluate("() => { Math.random = () => 0.4; }"))


def test_a_seed_is_rolled_alone_and_everything_by_one_key(shelf: Study, drive: Driver) -> None:
    throw_the_same(drive)
    press(drive, "Roll seed")
    rolled = head_text(shelf)
    assert re.sub(r"seed = \d+", "seed = 4", rolled) == TEXT and rolled != TEXT
    press(drive, "Undo")
    drive(lambda page: page.keyboard.press("Alt+r"))
    settled(drive)
    lines = [(a, b) for a, b in zip(TEXT.split("\n"), head_text(shelf).split("\n"), strict=True) if a != b]  # fmt: skip
    assert {a.split(" ")[1] for a, _ in lines} <= {"width", "high", "seed"} and len(lines) >= 2
    press(drive, "Undo")
    assert head_text(shelf) == TEXT


def test_what_is_held_in_the_workspace_stays_when_all_is_rolled_and_varied(
    shelf: Study, drive: Driver
) -> None:
    for label in ("Width", "seed"):
        press(drive, f"Hold {label}")
    throw_the_same(drive)
    drive(lambda page: page.keyboard.press("Alt+r"))
    settled(drive)
    rolled = head_text(shelf)
    assert re.sub(r"high = \d+ mm", "high = 400 mm", rolled) == TEXT and rolled != TEXT
    drive.visit(f"/studies/{shelf.pk}/")
    settled(drive)
    held = drive(lambda page: page.locator(".hold-here[aria-pressed=true]").evaluate_all("(all) => all.map((one) => one.ariaLabel)"))  # fmt: skip
    assert held == ["Hold Width", "Hold seed"]
    visit(drive, shelf)
    drive(
        lambda page: expect(page.get_by_role("button", name=re.compile("^held"))).to_have_count(2)
    )


def test_what_another_page_holds_meanwhile_is_held_here_too(shelf: Study, drive: Driver) -> None:
    """A second page of the same browser, as who looks at variations beside the workspace has it."""
    held = "(all) => all.map((one) => one.ariaLabel)"

    def hold_elsewhere(page: Page) -> None:
        other = page.context.new_page()
        other.goto(page.url + "variations")
        for name in ("hold Width", "hold seed"):
            other.get_by_role("button", name=name).click()
        other.close()
        expect(page.locator(".hold-here[aria-pressed=true]")).to_have_count(2)

    drive(hold_elsewhere)
    found = drive(lambda page: page.locator(".hold-here[aria-pressed=true]").evaluate_all(held))
    assert found == ["Hold Width", "Hold seed"]
    press(drive, "Hold Width")
    drive(lambda page: page.keyboard.press("Alt+r"))
    settled(drive)
    assert "input seed = 4 from" in head_text(shelf) and head_text(shelf) != TEXT


def test_a_value_is_aimed_at_and_what_is_found_is_taken(shelf: Study, drive: Driver) -> None:
    open_line(drive, "area")
    press(drive, "Aim and reach…")
    bars = drive(lambda page: page.get_by_role("list", name="Reach").inner_text())
    assert "Width" in bars and "Height" in bars
    drive(lambda page: expect(page.locator("#aim")).to_contain_text("not moved by: seed"))

    def aim(page: Page) -> None:
        page.get_by_label("Width may move").uncheck()
        page.get_by_label("Height may move").check()
        page.locator("#aim-goal").fill("450000 mm^2")
        page.keyboard.press("Enter")
        expect(page.get_by_role("list", name="Found")).to_contain_text("high 500 mm")
        page.get_by_role("button", name="Take it").click()

    drive(aim)
    settled(drive)
    assert "input high = 500 mm from" in head_text(shelf)
    press(drive, "Undo")
    assert head_text(shelf) == TEXT


def test_what_was_found_is_not_taken_once_the_sheet_has_changed(
    shelf: Study, drive: Driver
) -> None:
    open_line(drive, "area")
    press(drive, "Aim and reach…")
    drive(lambda page: page.locator("#aim-goal").fill("450000 mm^2"))
    drive(lambda page: page.keyboard.press("Enter"))
    take = "Take it"
    drive(lambda page: expect(page.get_by_role("button", name=take).first).to_be_visible())
    drive(lambda page: page.locator("[data-input='width'] input").first.fill("800"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    drive(
        lambda page: expect(page.locator("#aim")).to_contain_text(
            "What is shown has changed since."
        )
    )
    drive(lambda page: expect(page.get_by_role("button", name=take)).to_have_count(0))
    press(drive, "Look again")
    drive(lambda page: expect(page.get_by_text("What is shown has changed since.")).to_be_hidden())
    press(drive, "Find")
    drive(lambda page: expect(page.get_by_role("button", name=take).first).to_be_visible())


def test_an_aim_that_cannot_be_reached_says_why(shelf: Study, drive: Driver) -> None:
    open_line(drive, "area")
    press(drive, "Aim and reach…")
    drive(lambda page: page.locator("#aim-goal").fill("3 kg"))
    drive(lambda page: page.keyboard.press("Enter"))
    drive(lambda page: expect(page.locator("#aim [role=alert]")).to_contain_text("is a mass"))
    press(drive, "as large as possible")
    drive(lambda page: expect(page.locator("#aim")).to_contain_text("in the way"))


def test_the_study_is_proved_and_one_goes_where_it_fails(shelf: Study, drive: Driver) -> None:
    press(drive, "Proof")
    press(drive, "Try and prove")
    drive(lambda page: expect(page.locator("#proof")).to_contain_text("width <= 1000 mm"))
    drive(lambda page: expect(page.locator("#proof .tag.fails")).to_have_count(1))
    drive(lambda page: page.locator("#proof").get_by_role("button", name="go there").last.click())
    settled(drive)
    drive(lambda page: expect(page.locator(".row .tag.fails")).to_have_count(1))
    press(drive, "Undo")
    assert head_text(shelf) == TEXT


def test_where_it_fails_is_drawn_beside_the_slide_rule(shelf: Study, drive: Driver) -> None:
    band = "[data-input=width] .rule-bands g"
    drive(lambda page: expect(page.locator(band)).to_have_count(1))
    said = drive(lambda page: page.locator(f"{band} title").text_content())
    assert said == "fails from 1050 mm to 1200 mm: not too wide"
    drive(lambda page: page.get_by_role("slider", name="Width").focus())
    drive(lambda page: page.keyboard.press("End"))
    drive(lambda page: expect(page.locator(band)).to_have_count(0))


def test_a_moment_of_the_history_is_compared(shelf: Study, drive: Driver) -> None:
    drive(lambda page: page.get_by_role("slider", name="Width").focus())
    drive(lambda page: page.keyboard.press("Home"))
    drive(lambda page: expect(page.locator("body")).to_have_attribute("data-settled", "yes"))
    drive(lambda page: page.get_by_role("slider", name="Width").blur())
    settled(drive)
    press(drive, "History")
    drive(lambda page: page.get_by_role("link", name="Compare").last.click())
    table = drive.page.locator(".variations-table")
    drive(lambda page: expect(table).to_contain_text("900 mm"))
    drive(lambda page: expect(table).to_contain_text("300 mm"))
