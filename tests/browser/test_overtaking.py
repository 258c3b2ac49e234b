"""What is shown answers what was asked last, also where an older answer comes later; keys on lines are for the
lines that are seen, however quickly they follow each other, and whoever else changes the sheet; what is clicked
twice by habit is done once."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
import trimesh
from playwright.sync_api import Page, Route, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, place_in, place_on_screen, settled
from tests.browser.editor import open_line, press
from tests.browser.test_looking import shine_on_the_equator
from tests.browser.test_saving import ask_for_news, head_text
from tests.browser.test_several import pick

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]
Step = Callable[[Page], Any]

PEGS = """study "Pegs"
units mm, deg
input wide = 40 mm from 20 mm to 80 mm step 1 mm "Width"
area = wide * wide
part left = box(wide, 30 mm, 20 mm).move(x = -60 mm) "Left"
part right = box(30 mm, 30 mm, 20 mm).move(x = 60 mm) "Right"
"""


def overtaken(drive: Driver, address: str, first: Step, then: Step, shown: Step) -> None:
    """The answer to what is asked first comes after that to what is asked then."""

    def work(page: Page) -> None:
        held: list[Route] = []

        def hold(route: Route) -> None:
            held.append(route) if not held else route.continue_()

        page.route(re.compile(address), hold)
        with page.expect_request(re.compile(address)):
            first(page)
        with page.expect_response(re.compile(address)):
            then(page)
        with page.expect_response(re.compile(address)):
            held[0].continue_()
        page.unroute_all()

    drive(work)
    settled(drive)
    drive(shown)


def at_rest(drive: Driver) -> None:
    """Waits until the picture, which makes room for what lies over it, stands still."""
    seen: list[tuple[float, float]] = []
    for _ in range(100):
        seen.append(place_on_screen(drive, [0, 0, 0]))
        if len(seen) > 5 and len(set(seen[-5:])) == 1:
            return
        drive(lambda page: page.wait_for_timeout(120))
    pytest.fail("the picture goes on moving")


def click(*point: float) -> Step:
    """A click at a point in space, wherever it is just then."""
    return lambda page: page.mouse.click(*place_in(page, list(point)))


def test_the_sun_is_that_of_the_hour_set_last(open_study: Opener, drive: Driver) -> None:
    open_study("Pegs", PEGS)
    shine_on_the_equator(drive)

    def at(hour: str) -> Step:
        return lambda page: page.get_by_role("slider", name="hour").fill(hour)

    sun = "#looks-sun summary"
    overtaken(
        drive, "/sun", at("9"), at("12"),
        lambda page: expect(page.locator(sun)).to_contain_text("90° high"),
    )  # fmt: skip
    off: Step = lambda page: page.get_by_label("light and shadows of a place").uncheck()  # noqa: E731

    def gone(page: Page) -> None:
        with page.expect_response(re.compile("/sun")):
            at("8")(page)
            off(page)

    drive(gone)
    settled(drive)
    assert drive(lambda page: page.evaluate("window.ovolo.stage.ground.slant")) == [0.22, 0.3]


def test_the_card_and_the_measure_are_those_of_what_was_picked_last(
    open_study: Opener, drive: Driver
) -> None:
    open_study("Pegs", PEGS)
    at_rest(drive)
    overtaken(
        drive, "/item", click(-60, 0, 20), click(60, 0, 20),
        lambda page: expect(page.locator("#card")).to_contain_text("Right"),
    )  # fmt: skip
    press(drive, "Measure")
    at_rest(drive)
    overtaken(
        drive, "/measure", click(45, -15, 20), click(75, -15, 20),
        lambda page: expect(page.locator("#measure")).to_contain_text("30 mm"),
    )  # fmt: skip


def test_an_aim_is_what_was_asked_last(open_study: Opener, drive: Driver) -> None:
    open_study("Pegs", PEGS)
    open_line(drive, "area")
    press(drive, "Aim and reach…")

    def ask(name: str) -> Step:
        return lambda page: page.get_by_role("button", name=name).click()

    overtaken(
        drive, "/aim", ask("as small as possible"), ask("as large as possible"),
        lambda page: expect(page.locator("#aim")).to_contain_text("wide 80 mm"),
    )  # fmt: skip


def test_what_was_saved_here_is_not_replaced_by_an_older_state(
    open_study: Opener, drive: Driver
) -> None:
    """Another changed the study; while its state is on the way, something is saved here."""
    study = open_study("Pegs", PEGS)
    study.save_text(PEGS.replace("Left", "West"), study.head_id, "West")
    reply: list[dict[str, Any]] = []

    def work(page: Page) -> None:
        held: list[Route] = []
        page.route(re.compile("/state$"), lambda route: held.append(route))
        page.evaluate("() => dispatchEvent(new Event('focus'))")
        for _ in range(1000):
            if not held:
                page.wait_for_timeout(20)
        fetched = held[0].fetch()
        reply.append(fetched.json())
        with page.expect_response(re.compile("/edit$")):
            page.get_by_role("slider", name="Width").press("ArrowRight")
        expect(page.locator("#value-wide")).to_have_value("41")
        page.locator("body[data-settled='yes']").wait_for()
        held[0].fulfill(response=fetched)
        page.wait_for_timeout(100)
        page.unroute_all()

    drive(work)
    settled(drive)
    study.refresh_from_db()
    assert study.head_id != reply[0]["revision"] and "wide = 41 mm" in study.text
    shown = drive(lambda page: page.locator("#value-wide").input_value())
    assert shown == "41", "now: a few seconds later it would be right again"
    assert "West" in head_text(study), "both changes are there"


FIVE = 'study "Five"\nunits mm, deg\n' + "".join(
    f"{one} = {at} mm\n" for at, one in enumerate("abcdef", 1)
)


IN_ORDER = "() => [...document.querySelectorAll('#sheet .row-name')].map((one) => one.innerText).join('') === 'abcdef'"


def order(study: Study) -> str:
    return "".join(re.findall(r"^([a-z]+) =", head_text(study), re.MULTILINE))


def focus(name: str) -> Step:
    return lambda page: page.locator(f".row:has(.row-name:text-is('{name}'))").focus()


KEYS = [
    (("e", "e"), "Alt+ArrowUp", "aebcdf"),
    (("b", "b"), "Alt+ArrowDown", "acdebf"),
    (("e", "f"), "Alt+ArrowUp", "aefbcd"),
    (("b", "b"), "Delete", "aef"),
    (("b", "b"), "Control+/", "acdef"),  # out, in again, and out
]


def test_keys_on_lines_go_after_each_other(open_study: Opener, drive: Driver) -> None:
    study = open_study("Five", FIVE)
    for (first, last), key, wanted in KEYS:
        if first == last:
            drive(focus(first))
        else:
            pick(drive, first, last)
        drive(lambda page, key=key: [page.keyboard.press(key) for _ in range(3)])  # type: ignore[misc]
        settled(drive)
        assert order(study) == wanted, key
        drive(lambda page: page.keyboard.press("Escape"))
        study.refresh_from_db()
        study.save_text(FIVE, study.head_id, "as it was")
        ask_for_news(drive)
        drive(lambda page: page.wait_for_function(IN_ORDER))
        settled(drive)


def test_the_line_with_the_focus_stays_the_same_while_others_change_the_sheet(
    open_study: Opener, drive: Driver
) -> None:
    study = open_study("Five", FIVE)
    drive(focus("c"))
    more = FIVE.replace("a = ", "y = 8 mm\nz = 9 mm\na = ")
    study.save_text(more, study.head_id, "two lines more")
    ask_for_news(drive)
    drive(lambda page: page.locator(".row-name:text-is('z')").wait_for())
    settled(drive)
    drive(lambda page: page.keyboard.press("Delete"))
    settled(drive)
    assert order(study) == "yzabdef"
    pick(drive, "b", "d")
    study.refresh_from_db()
    study.save_text(head_text(study).replace("y = 8 mm\n", ""), study.head_id, "one line less")
    ask_for_news(drive)
    drive(lambda page: expect(page.locator(".row-name:text-is('y')")).to_have_count(0))
    settled(drive)
    drive(lambda page: page.keyboard.press("Delete"))
    settled(drive)
    assert order(study) == "zaef"


def test_what_is_clicked_twice_is_done_once(open_study: Opener, drive: Driver) -> None:
    """A second dim, and a yes to what the first click asks, were not meant."""
    study = open_study("Pegs", PEGS)
    press(drive, "Measure")
    at_rest(drive)
    x, y = place_on_screen(drive, [60, 0, 20])
    drive(lambda page: page.mouse.click(x, y))
    settled(drive)
    at = place_on_screen(drive, [-60, 0, 20])
    drive(lambda page: page.mouse.click(*at))
    settled(drive)
    drive(lambda page: page.get_by_role("button", name="Keep as a dim").dblclick())
    settled(drive)
    assert len(re.findall("^dim ", head_text(study), re.MULTILINE)) == 1
    open_line(drive, "wide")
    drive(lambda page: page.get_by_role("button", name="Delete line").dblclick())
    settled(drive)
    assert "input wide" in head_text(study), "others need it, which is asked first"
    drive(lambda page: page.get_by_role("button", name="Delete all the same").click())
    settled(drive)
    assert "input wide" not in head_text(study)


def test_an_outline_that_is_closed_twice_is_written_once(open_study: Opener, drive: Driver) -> None:
    study = open_study("Pegs", PEGS)
    press(drive, "Outline")
    at_rest(drive)
    corners = [place_on_screen(drive, [x, y, 0]) for x, y in ((-20, 10), (20, 10), (20, -10))]

    def draw(page: Page) -> None:
        for x, y in corners:
            page.mouse.click(x, y)
        page.keyboard.press("Enter")
        page.keyboard.press("Enter")

    drive(draw)
    settled(drive)
    assert len(re.findall("^outline.*close", head_text(study), re.MULTILINE)) == 1


def test_a_key_that_is_held_takes_out_one_line(open_study: Opener, drive: Driver) -> None:
    """And undo, pressed more often than there is anything to take back, complains of nothing."""
    study = open_study("Five", FIVE)
    drive(focus("b"))
    drive(lambda page: [page.keyboard.down("Delete") for _ in range(4)])
    drive(lambda page: page.keyboard.up("Delete"))
    settled(drive)
    assert order(study) == "acdef"
    drive(lambda page: page.locator("body").press("Control+z"))
    drive(lambda page: [page.keyboard.press("Control+z") for _ in range(3)])
    settled(drive)
    assert order(study) == "abcdef"
    drive(lambda page: expect(page.get_by_role("alert").filter(visible=True)).to_have_count(0))


def test_what_leaves_is_what_was_seen(open_study: Opener, drive: Driver) -> None:
    """Handed over while a change is on its way; and while another's change waits for a line that is open."""
    study = open_study(
        "Pegs", "input w = 30 mm from 10 mm to 90 mm step 1 mm\npart p = box(w, w, w)"
    )

    def height(page: Page, hold: bool) -> float:
        held: list[Route] = []
        if hold:
            page.route(re.compile("/edit$"), lambda route: held.append(route))
            box = page.locator("[data-input='w'] input").first
            box.fill("40")
            box.press("Enter")
        page.locator("#hand-over summary").click()
        with page.expect_download() as caught:
            page.locator("#hand-over a[href$='parts.stl']").click()
            for change in held:
                page.wait_for_timeout(300)
                change.continue_()
        page.unroute_all()
        mesh = trimesh.load_mesh(caught.value.path(), file_type="stl")
        return float(mesh.extents[2])

    assert drive(lambda page: height(page, True)) == pytest.approx(40)
    settled(drive)
    open_line(drive, "p")
    study.refresh_from_db()
    study.save_text(study.text.replace("(w, w, w)", "(w, w, 2 * w)"), study.head_id)
    assert drive(lambda page: height(page, False)) == pytest.approx(40)
    press(drive, "Leave (Esc)")
    ask_for_news(drive)
    settled(drive)
    said = "#hand-over .menu-list"
    drive(lambda page: page.locator("#hand-over summary").click())
    drive(lambda page: expect(page.locator(said)).to_contain_text("40 × 40 × 80 mm"))
    study.refresh_from_db()
    study.save_text(study.text.replace("2 * w", "3 * w"), study.head_id)
    ask_for_news(drive)
    drive(lambda page: expect(page.locator(said)).to_contain_text("40 × 40 × 120 mm"))
