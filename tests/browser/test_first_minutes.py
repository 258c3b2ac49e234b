"""The first minutes of somebody who has read nothing: nothing vanishes, no key is lost, handles stay
under the pointer, what is open closes."""

from __future__ import annotations

import time
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, Route, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, place_on_screen, settled, stage
from tests.browser.editor import add_line, open_line, press
from tests.browser.test_turning import handles
from tests.browser.test_workspace import head_text

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]


def camera(drive: Driver) -> list[float]:
    return drive(lambda page: page.evaluate(
        "() => { const { camera } = window.ovolo.stage; return [camera.top, camera.zoom, ...camera.position.toArray()]; }"
    ))  # fmt: skip


def test_a_solid_that_is_no_part_is_seen_and_becomes_one(open_study: Opener, drive: Driver) -> None:
    study = open_study("Shelf", "units mm")
    add_line(drive, "side = box(18 mm, 250 mm, 1.8 m)")
    add_line(drive, "other = side.move(x = 900 mm)")
    shown = stage(drive)
    assert shown["side"]["paled"] and shown["other"]["paled"]
    drive(lambda page: expect(page.get_by_text("side: no part yet")).to_be_visible())
    press(drive, "Make side a part")
    assert "part side = box(18 mm, 250 mm, 1.8 m)" in head_text(study)
    shown = stage(drive)
    assert not shown["side"]["paled"] and shown["other"]["paled"]
    open_line(drive, "other")
    press(drive, "Make it a part")
    assert not stage(drive)["other"]["paled"]
    drive(lambda page: expect(page.get_by_text("no part yet")).to_have_count(0))


def test_a_line_is_added_as_a_part_at_once(open_study: Opener, drive: Driver) -> None:
    study = open_study("Shelf", "units mm")
    drive(lambda page: page.get_by_role("button", name="Add a line", exact=True).click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())
    drive(lambda page: page.keyboard.insert_text("side = box(18 mm, 250 mm, 1.8 m)"))
    settled(drive)
    press(drive, "Make it a part")
    assert head_text(study).endswith("part side = box(18 mm, 250 mm, 1.8 m)")


def test_no_key_is_lost_while_the_server_is_slow(open_study: Opener, drive: Driver) -> None:
    """Line after line typed without a pause, each answer of the server half a second late."""
    lines = ["w = 900 mm", "side = 18 mm", "high = 1800 mm", "deep = 250 mm"]

    def late(route: Route) -> None:
        time.sleep(0.5)
        route.continue_()

    def type_all(page: Page) -> None:
        page.get_by_role("button", name="Add a line", exact=True).click()
        expect(page.locator(".editor .cm-content")).to_be_focused()
        for line in lines:
            page.keyboard.type(line)
            page.keyboard.press("Enter")
        page.keyboard.type("last = 3")

    # Before the page is there, which then asks through it.
    drive(lambda page: page.route("**/edit", late))
    study = open_study("Shelf", "units mm")
    drive(type_all)
    drive(lambda page: expect(page.locator(".row-name:text-is('deep')")).to_be_visible())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_have_text("last = 3"))
    drive(lambda page: page.keyboard.press("Enter"))
    drive(lambda page: expect(page.locator(".row-name:text-is('last')")).to_be_visible())
    settled(drive)
    assert head_text(study).split("\n")[1:] == [*lines, "last = 3"]


def test_what_the_server_refuses_comes_back_with_all_that_was_typed_since(
    open_study: Opener, drive: Driver
) -> None:
    def refuse(route: Route) -> None:
        time.sleep(0.3)
        route.fulfill(status=400, json={"message": "not today", "hint": ""})

    def type_two(page: Page) -> None:
        page.get_by_role("button", name="Add a line", exact=True).click()
        expect(page.locator(".editor .cm-content")).to_be_focused()
        page.keyboard.type("a = 1")
        page.keyboard.press("Enter")
        page.keyboard.type("b = 2")

    drive(lambda page: page.route("**/edit", refuse, times=1))
    study = open_study("Shelf", "units mm")
    drive(type_two)
    drive(lambda page: expect(page.get_by_role("alert")).to_contain_text("not today"))
    drive(lambda page: expect(page.locator(".editor .cm-line")).to_have_text(["a = 1", "b = 2"]))
    drive(lambda page: page.keyboard.press("Escape"))
    assert head_text(study) == "units mm"


POINTS = """units mm
input foot = (100 mm, 0 mm) from -500 mm to 500 mm step 10 mm "Foot"
input way = [(0 mm, 0 mm), (400 mm, 0 mm), (400 mm, 300 mm)] "Way"
part post = cylinder(20 mm, 300 mm).move(x = foot.x, y = foot.y)
"""


def test_the_view_is_held_while_a_hand_drags(open_study: Opener, drive: Driver) -> None:
    """The handle stays under the pointer, though what is seen grows; the view follows afterwards."""
    open_study("Post", POINTS)

    def press_and_move(page: Page) -> tuple[float, float]:
        box = page.get_by_role("button", name="Foot, a point to drag").bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 60, y + 30, steps=6)
        return x + 60, y + 30

    before = camera(drive)
    pointer = drive(press_and_move)
    settled(drive)
    assert camera(drive) == before
    at = place_on_screen(drive, [*handles(drive)["point foot"]["value"], 0])
    step = 10 / drive(lambda page: page.evaluate("() => window.ovolo.stage.millimetresPerPixel()"))
    assert at == pytest.approx(pointer, abs=step)
    drive(lambda page: page.mouse.up())
    settled(drive)
    assert camera(drive) != before


def test_a_point_goes_along_one_axis_and_to_its_limits(open_study: Opener, drive: Driver) -> None:
    study = open_study("Post", POINTS)

    def keys(*pressed: str) -> list[float]:
        drive(lambda page: page.get_by_role("button", name="Foot, a point to drag").focus())
        for key in pressed:
            drive(lambda page, key=key: page.keyboard.press(key))  # type: ignore[misc]
        drive(lambda page: page.wait_for_timeout(700))
        settled(drive)
        return list(handles(drive)["point foot"]["value"])

    assert keys("PageUp") == [100, 100]
    assert keys("x", "PageUp") == [200, 100], "ten steps along x only"
    drive(lambda page: page.keyboard.press("x"))
    assert keys("y", "End") == [200, 500]
    assert "input foot = (200 mm, 500 mm)" in head_text(study)


def test_shift_keeps_a_dragged_point_on_its_axis(open_study: Opener, drive: Driver) -> None:
    open_study("Post", POINTS)
    press(drive, "Plan")

    def drag(page: Page) -> None:
        box = page.get_by_role("button", name="Foot, a point to drag").bounding_box()
        assert box
        page.mouse.move(box["x"] + 6, box["y"] + 6)
        page.keyboard.down("Shift")
        page.mouse.down()
        page.mouse.move(box["x"] + 66, box["y"] + 26, steps=6)
        page.mouse.up()
        page.keyboard.up("Shift")

    drive(drag)
    settled(drive)
    x, y = handles(drive)["point foot"]["value"]
    assert x > 100 and y == 0


def test_coordinates_are_typed_at_the_handle(open_study: Opener, drive: Driver) -> None:
    study = open_study("Post", POINTS)

    def type_(name: str, text: str, key: str = "Enter") -> None:
        def work(page: Page) -> None:
            page.get_by_role("button", name=name).focus()
            page.keyboard.press("Enter")
            page.locator(".handle-typed").fill(text)
            page.keyboard.press(key)

        drive(work)
        settled(drive)

    type_("Foot, a point to drag", "-250, 12 cm")
    assert "input foot = (-250 mm, 120 mm)" in head_text(study).replace("12 cm", "120 mm")
    type_("Way, point 2 to drag", "450, 20")
    assert "[(0 mm, 0 mm), (450 mm, 20 mm), (400 mm, 300 mm)]" in head_text(study)
    type_("Foot, a point to drag", "1, 2", "Escape")
    assert "1 mm, 2 mm" not in head_text(study)
    type_("Foot, a point to drag", "3,5, 20")
    drive(lambda page: expect(page.get_by_role("alert")).to_contain_text("3 figures"))


def test_a_decimal_comma_at_a_slide_rule_is_refused(open_study: Opener, drive: Driver) -> None:
    """One figure is typed there: only at the handle a comma parts coordinates."""
    study = open_study("Post", POINTS)
    drive(lambda page: page.locator("[data-input=foot] .rule-typed").first.fill("3,5"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    drive(lambda page: expect(page.get_by_role("alert")).to_contain_text("write a decimal point"))
    assert head_text(study) == POINTS


def test_figures_at_a_handle_are_in_one_unit_and_unchanged_they_stay(
    open_study: Opener, drive: Driver
) -> None:
    text = "units ft-in\ninput foot = (12.3456789 in, 2 ft)\npart post = cylinder(1 in, 1 ft).move(x = foot.x, y = foot.y)"
    study = open_study("Post", text)

    def type_(page: Page, change: str) -> str:
        page.get_by_role("button", name="foot, a point to drag").focus()
        page.keyboard.press("Enter")
        before = page.locator(".handle-typed").input_value()
        if change:
            page.locator(".handle-typed").fill(change)
        page.keyboard.press("Enter")
        return before

    assert drive(lambda page: type_(page, "")).count("in") == 2
    settled(drive)
    assert head_text(study) == text, "not rounded to what is shown"
    drive(lambda page: type_(page, "6 in, 18 in"))
    settled(drive)
    x, y = handles(drive)["point foot"]["value"]
    assert (x, y) == pytest.approx((6 * 25.4, 18 * 25.4))


def test_a_turn_that_is_not_kept_yet_goes_with_a_new_point(
    open_study: Opener, drive: Driver
) -> None:
    study = open_study("Post", POINTS)
    drive(lambda page: page.get_by_role("button", name="Way, point 2 to drag").focus())
    for key in ("ArrowRight", "Insert"):
        drive(lambda page, key=key: page.keyboard.press(key))  # type: ignore[misc]
    drive(lambda page: page.wait_for_timeout(900))
    settled(drive)
    way = head_text(study).split("\n")[2]
    assert way.count("(") == 4, "the key before it does not take the point back"
    assert "(400 mm, 0 mm), (400 mm, 150 mm)" not in way, "and is not lost"


def test_what_grows_out_of_the_frame_is_brought_back(open_study: Opener, drive: Driver) -> None:
    open_study(
        "Post", "units mm\ninput h = 300 mm from 100 mm to 9000 mm\npart post = cylinder(20 mm, h)"
    )
    drive(lambda page: page.locator("#stage canvas").focus())
    drive(lambda page: page.keyboard.press("ArrowLeft"))

    def way() -> list[float]:
        found: list[float] = drive(lambda page: page.evaluate(
            "() => { const { camera, controls } = window.ovolo.stage; return camera.position.clone().sub(controls.target).normalize().toArray(); }"
        ))  # fmt: skip
        return found

    before = way()
    drive(lambda page: page.locator("#value-h").fill("8000"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    box = drive(lambda page: page.locator("#stage").bounding_box())
    for z in (0, 8000):
        x, y = place_on_screen(drive, [0, 0, z])
        assert box["x"] < x < box["x"] + box["width"] and box["y"] < y < box["y"] + box["height"]
    assert way() == pytest.approx(before), "seen from where one looks"


def test_a_list_of_points_grows_and_is_thinned_on_the_stage(
    open_study: Opener, drive: Driver
) -> None:
    study = open_study("Post", POINTS)

    def press_at(name: str, key: str) -> str:
        drive(lambda page: page.get_by_role("button", name=name).focus())
        drive(lambda page: page.keyboard.press(key))
        settled(drive)
        return head_text(study).split("\n")[2]

    assert "(0 mm, 0 mm), (200 mm, 0 mm), (400 mm, 0 mm)" in press_at("Way, point 1 to drag", "Insert")  # fmt: skip
    assert press_at("Way, point 2 to drag", "Delete") == POINTS.split("\n")[2]
    assert "(400 mm, 450 mm)" in press_at("Way, point 3 to drag", "Insert"), "as far again"
    assert len([key for key in handles(drive) if key.startswith("point way")]) == 4


def test_an_item_is_left_out_and_brought_back_by_one_key(open_study: Opener, drive: Driver) -> None:
    text = "units mm\npart pegs = grid(cylinder(20 mm, 90 mm), 4, 3, 100 mm, 100 mm)"
    study = open_study("Pegs", text)
    press(drive, "Plan")
    card = "#card"

    def pick(*point: float) -> None:
        x, y = place_on_screen(drive, list(point))
        drive(lambda page: page.mouse.click(x, y))
        drive(lambda page: expect(page.locator(card)).to_contain_text("column"))

    pick(100, 100, 90)
    drive(lambda page: expect(page.locator(card)).to_contain_text("pegs, item 5"))
    drive(lambda page: expect(page.locator(card)).to_contain_text("column 1, row 1"))
    drive(lambda page: page.keyboard.press("Delete"))
    settled(drive)
    assert "skip = [5]" in head_text(study)
    assert stage(drive)["pegs"]["instances"] == 11
    drive(lambda page: page.keyboard.press("Delete"))
    settled(drive)
    assert head_text(study) == text
    drive(lambda page: page.keyboard.press("Delete"))
    settled(drive)
    drive(lambda page: page.keyboard.press("Escape"))
    pick(200, 100, 90)
    drive(lambda page: expect(page.locator(card)).to_contain_text("item 6"))
    press(drive, "Bring back item 5")
    assert stage(drive)["pegs"]["instances"] == 12


def test_a_hole_is_picked_left_out_and_brought_back(open_study: Opener, drive: Driver) -> None:
    text = "\n".join(
        (
            "units mm",
            "holes = grid(cylinder(30 mm, 90 mm), 2, 2, 100 mm, 100 mm)",
            "part plate = box(300 mm, 300 mm, 40 mm).move(50 mm, 50 mm) - holes",
        )
    )
    study = open_study("Plate", text)
    x, y = place_on_screen(drive, [100 + 30 * 0.62, 100 + 30 * 0.785, 20])  # on the far wall
    drive(lambda page: page.mouse.click(x, y))
    drive(
        lambda page: expect(page.locator("#card")).to_contain_text("Hole in plate: holes, item 3")
    )
    drive(lambda page: expect(page.locator("#card")).to_contain_text("column 1, row 1"))
    count = "window.ovolo.stage.parts.get('plate').triangles"
    triangles = drive(lambda page: page.evaluate(count))
    drive(lambda page: page.keyboard.press("Delete"))
    settled(drive)
    assert "skip = [3]" in head_text(study)
    assert drive(lambda page: page.evaluate(count)) < triangles
    drive(lambda page: page.keyboard.press("Delete"))
    settled(drive)
    assert head_text(study) == text


def test_escape_closes_one_thing_at_a_time_from_anywhere(boardwalk: Study, drive: Driver) -> None:
    def escape() -> None:
        drive(lambda page: page.keyboard.press("Escape"))

    drive(lambda page: page.locator("summary", has_text="Hand over").click())
    press(drive, "Front")  # a click elsewhere closes the menu
    drive(lambda page: expect(page.locator("#hand-over")).not_to_have_attribute("open", ""))
    press(drive, "Cut")
    drive(lambda page: page.locator("#value-cut").focus())
    escape()
    drive(lambda page: expect(page.locator("#cut")).to_be_visible())  # it has left the box only
    escape()
    drive(lambda page: expect(page.locator("#cut")).to_have_count(0))
    drive(lambda page: page.locator("summary", has_text="Study").click())
    escape()
    drive(lambda page: expect(page.locator("details.menu[open]")).to_have_count(0))
    open_line(drive, "thickness")
    drive(lambda page: page.get_by_role("button", name="Fit", exact=True).focus())
    escape()
    drive(lambda page: expect(page.locator(".editor")).to_have_count(0))


def test_the_last_line_stays_open_while_it_is_empty(open_study: Opener, drive: Driver) -> None:
    study = open_study("Shelf", "units mm\nw = 3 mm")
    open_line(drive, "w")
    drive(lambda page: page.keyboard.press("Control+a"))
    drive(lambda page: page.keyboard.press("Delete"))
    settled(drive)
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())
    drive(lambda page: page.keyboard.insert_text("w = 5 mm"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert head_text(study) == "units mm\nw = 5 mm"


def test_a_click_beside_the_lines_keeps_the_line_and_closes_it(
    open_study: Opener, drive: Driver
) -> None:
    study = open_study("Shelf", "units mm\nw = 3 mm")
    open_line(drive, "w")
    drive(lambda page: page.keyboard.press("Control+a"))
    drive(lambda page: page.keyboard.press("Delete"))
    drive(lambda page: page.keyboard.insert_text("w = 4 mm"))
    settled(drive)
    drive(lambda page: page.mouse.click(250, 650))
    drive(lambda page: expect(page.locator(".row .row-value").last).to_contain_text("4"))
    drive(lambda page: expect(page.locator(".editor")).to_have_count(0))
    settled(drive)
    assert head_text(study) == "units mm\nw = 4 mm"


def test_a_sheet_without_checks_says_none_and_a_red_line_is_a_problem(
    open_study: Opener, drive: Driver
) -> None:
    open_study("Shelf", "units mm\nw = 3 mm")
    drive(lambda page: expect(page.get_by_text("0 hold")).to_have_count(0))
    open_line(drive, "w")
    drive(lambda page: page.keyboard.insert_text(" + spam"))
    drive(lambda page: expect(page.locator(".open-said")).to_contain_text("spam"))
    summary = "unfinished line"
    drive(lambda page: expect(page.get_by_role("button", name=summary)).to_be_visible())


BOOKSHELF = [
    # what a newcomer writes, what is said to it, and what is written then
    ("shelf width = 900 mm", "write shelf_width = …", "input shelf_width = 900 mm"),
    ("let high = 1800 mm", "write high = 1800 mm", "input high = 1800 mm"),
    ("deep := 250 mm", "write deep = …", "deep = 250 mm"),
    ("thick = 18 milimetres", "did you mean 18 mm", "thick = 18 mm"),
    ("side = cuboid(thick, deep, high)", "write box(w, d, h)", "side = box(thick, deep, high)"),
    (
        "part sides = [side, translate(side, shelf_width)]",
        "write move(what, x = 5 mm)",
        "part sides = [side, side.move(x = shelf_width)]",
    ),
    ("part back = box(shelf_width, 6, high)", "6 mm", "part back = box(shelf_width, 6 mm, high).move(x = shelf_width / 2, y = deep / 2)"),
    ("board = box(shelf_width, deep, thick", "(", "board = box(shelf_width, deep, thick).move(x = shelf_width / 2)"),
    (
        "part boards = repeat(board, 5)",
        "write row(what, n, step)",
        "part boards = [board.move(z = i * 400 mm) for i in 0 .. 4]",
    ),
    ("part top = board.move(z = high) color oak", "colour", 'part top = board.move(z = high) colour oak "Top"'),
    ("soft = fillet(side, 3 mm)", "round_edges", "soft = round_edges(side, 3 mm)"),
]  # fmt: skip


def test_a_bookshelf_is_written_as_a_newcomer_writes_it(open_study: Opener, drive: Driver) -> None:
    """Each stumble is answered with what to write here, before the line is kept; at the end there is
    a shelf to hand over."""
    study = open_study("Shelf", "units mm")

    def stumble(page: Page, wrong: str, answer: str) -> None:
        expect(page.locator(".editor .cm-content")).to_be_focused()
        page.keyboard.insert_text(wrong)
        expect(page.locator(".open-said")).to_contain_text(answer)
        page.keyboard.press("Control+a")
        page.keyboard.press("Delete")

    drive(lambda page: page.get_by_role("button", name="Add a line", exact=True).click())
    for wrong, answer, right in BOOKSHELF:
        drive(lambda page, wrong=wrong, answer=answer: stumble(page, wrong, answer))  # type: ignore[misc]
        drive(lambda page, right=right: page.keyboard.insert_text(right))  # type: ignore[misc]
        drive(lambda page: page.keyboard.press("Enter"))
        settled(drive)
    drive(lambda page: page.keyboard.press("Escape"))
    settled(drive)
    assert head_text(study).split("\n")[1:] == [right for _, _, right in BOOKSHELF]
    drive(lambda page: expect(page.get_by_role("button", name="no problems")).to_be_visible())
    shown = stage(drive)
    assert {name: shown[name]["instances"] for name in ("sides", "back", "boards", "top")} == {
        "sides": 2, "back": 1, "boards": 5, "top": 1,
    }  # fmt: skip
    assert shown["soft"]["paled"] and not shown["top"]["paled"]
    drive(lambda page: page.locator("summary", has_text="Hand over").click())

    def take(page: Page) -> str:
        with page.expect_download() as caught:
            page.locator("#hand-over").get_by_role("link", name="STL").first.click()
        return caught.value.suggested_filename

    assert drive(take).startswith("shelf")


def test_nothing_is_red_before_a_pause(open_study: Opener, drive: Driver) -> None:
    """Key by key: no complaint is seen while keys follow each other, and one after a pause (of 450 ms: where the machine made
    one between two keys, what is said in it counts as said after it)."""
    open_study("Shelf", "units mm\nwide = 900 mm")
    drive(lambda page: page.get_by_role("button", name="Add a line", exact=True).click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())

    def type_slowly(page: Page) -> list[str]:
        page.evaluate(
            """() => {
              window.complaints = [];
              let typed = performance.now();
              let before = "";
              addEventListener("keydown", () => (typed = performance.now()), { capture: true });
              new MutationObserver(() => {
                const said = document.querySelector(".open-said .complaint")?.textContent;
                if (said && said !== before && performance.now() - typed < 400) window.complaints.push(said);
                before = said;
              }).observe(document.querySelector(".open-said"), { childList: true, subtree: true, characterData: true });
            }"""
        )
        page.keyboard.type("twice = 2 * wid", delay=60)
        found: list[str] = page.evaluate("() => window.complaints")
        return found

    assert drive(type_slowly) == []
    drive(lambda page: expect(page.locator(".open-said .complaint")).to_contain_text("wid"))
    drive(lambda page: page.keyboard.type("e"))
    drive(lambda page: expect(page.locator(".open-said .complaint")).to_have_count(0))
