"""Turning inputs: limits typed in place, lists, points, dims with handles, what an input moves."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled, stage
from tests.browser.editor import alert, open_line, press, row_value, type_line
from tests.browser.test_workspace import drag_rule, head_text

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]


def drag_handle(drive: Driver, label: str, dx: float, dy: float) -> None:
    def drag(page: Page) -> None:
        box = page.get_by_role("button", name=label).bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + dx, y + dy, steps=10)
        page.mouse.up()

    drive(drag)
    settled(drive)


def handles(drive: Driver) -> dict[str, Any]:
    found = drive(lambda page: page.evaluate("() => window.ovolo.stage.handles.report()"))
    return {one["key"]: one for one in found}


def test_a_double_click_returns_and_limits_and_the_step_are_typed_where_they_stand(
    stair: Study, drive: Driver
) -> None:
    drag_rule(drive, "going", 1.0)
    assert row_value(drive, "going") == "320 mm"
    drive(lambda page: page.locator("[data-input=going] .rule-body").dblclick())
    settled(drive)
    assert row_value(drive, "going") == "240 mm"

    def type_limit(which: str, text: str) -> None:
        def work(page: Page) -> None:
            page.locator("[data-input=going]").get_by_role("button", name=which).click()
            page.keyboard.insert_text(text)
            page.keyboard.press("Enter")

        drive(work)
        settled(drive)

    type_limit("upper limit of Going", "0.4m")
    type_limit("step 5 of Going", "10 mm")
    assert "input going = 240 mm from 200 mm to 0.4 m step 10 mm" in head_text(stair)
    type_limit("lower limit of Going", "3 kg")
    assert "mass" in alert(drive) and "from 200 mm to 0.4 m" in head_text(stair)
    drive(lambda page: expect(page.get_by_text("Not saved")).to_be_visible())
    press(drive, "Close")
    drive(lambda page: expect(page.get_by_text("Not saved")).to_be_hidden())
    drag_rule(drive, "going", 1.0)
    assert row_value(drive, "going") == "400 mm"


def test_a_list_is_a_row_of_small_slide_rules(open_study: Opener, drive: Driver) -> None:
    study = open_study(
        "Rings",
        'input radii = [40 mm, 60 mm, 90 mm] from 20 mm to 120 mm step 1 mm "Radii"\nt = sum(radii)',
    )
    drive(lambda page: expect(page.locator("[data-input=radii] .rule-body")).to_have_count(3))
    drive(lambda page: page.locator("[data-input=radii] .rule-body").nth(1).focus())
    drive(lambda page: page.keyboard.press("End"))
    assert row_value(drive, "t") in ("190 mm", "250 mm")
    drive(lambda page: page.keyboard.press("Tab"))
    settled(drive)
    assert "input radii = [40 mm, 120 mm, 90 mm] from" in head_text(study)
    drive(lambda page: page.locator("#value-radii-2").fill("5 cm"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert "[40 mm, 120 mm, 5 cm]" in head_text(study) and row_value(drive, "t") == "210 mm"


def test_an_input_with_a_problem_says_so_in_its_place(stair: Study, drive: Driver) -> None:
    open_line(drive, "going")
    type_line(drive, "input going = 190 mm from 200 mm to 320 mm step 5 mm")
    drive(
        lambda page: expect(page.locator("[data-input=going]")).to_contain_text(
            "is below the lower limit"
        )
    )
    open_line(drive, "going")
    type_line(drive, "input going = 190 mmm")
    drive(lambda page: expect(page.locator("[data-input=going]")).to_contain_text("mmm"))
    drive(lambda page: page.locator("[data-input=going] button").click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())


@pytest.mark.painted
def test_the_boardwalk_is_pulled_out_to_its_length(boardwalk: Study, drive: Driver) -> None:
    before = handles(drive)["dim 32"]["value"] if "dim 32" in handles(drive) else None
    key = next(key for key in handles(drive) if key.startswith("dim"))
    before = handles(drive)[key]["value"]
    assert before == 4200
    drag_handle(drive, "Length, the end of its dim", 60, -30)
    after = handles(drive)[key]["value"]
    assert after > before and after % 50 == 0, "in steps"
    assert f"input walk_length = {after:g} mm" in head_text(boardwalk)
    assert stage(drive)["boards"]["instances"] == int((after + 6) // 101)
    drag_handle(drive, "Length, the end of its dim", 3000, -1500)
    assert handles(drive)[key]["value"] <= 12000, "within its limits"


def test_handles_and_choices_are_turned_by_keys(boardwalk: Study, drive: Driver) -> None:
    drive(lambda page: page.get_by_role("button", name="Length, the end of its dim").focus())
    drive(lambda page: page.keyboard.press("ArrowRight"))
    drive(lambda page: page.keyboard.press("Shift+ArrowRight"))
    drive(lambda page: expect(page.get_by_role("status").first).to_have_text("Saved"))
    settled(drive)
    assert "input walk_length = 4750 mm" in head_text(boardwalk)
    assert boardwalk.revisions.count() == 2
    drive(lambda page: page.get_by_role("radio", name="narrow").focus())
    drive(lambda page: page.keyboard.press("ArrowRight"))
    settled(drive)
    assert 'size = "wide" of' in head_text(boardwalk)


def test_a_point_is_dragged_on_the_stage(open_study: Opener, drive: Driver) -> None:
    study = open_study(
        "Post", 'input foot = (200 mm, 100 mm) step 10 mm "Foot"\n'
        "part ground = box(1 m, 1 m, 10 mm)\npart post = cylinder(40 mm, 300 mm).move(foot.x, foot.y)"
    )  # fmt: skip
    press(drive, "Plan")
    drag_handle(drive, "Foot, a point to drag", 100, 50)
    x, y = handles(drive)["point foot"]["value"]
    assert x > 250 and y < 100 and x % 10 == 0 and y % 10 == 0
    assert f"input foot = ({x:g} mm, {y:g} mm)" in head_text(study)
    drive(lambda page: page.locator("#value-foot-0").fill("-150"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert handles(drive)["point foot"]["value"][0] == -150


def test_inputs_show_what_they_move_and_are_grouped_by_sections_but_for_internal_ones(
    stair: Study, drive: Driver
) -> None:
    drive(lambda page: page.locator("[data-input=going] .rule-body").hover())
    moved = ".row:has(.row-name:text-is('pitch')) .row-moved"
    drive(lambda page: expect(page.locator(moved)).to_have_text("→ 36.3°"))
    drive(
        lambda page: expect(
            page.locator(".row:has(.row-name:text-is('risers')) .row-moved")
        ).to_have_count(0)
    )
    assert stage(drive)["treads"]["marked"] and not stage(drive)["post"]["marked"]
    drive(lambda page: page.mouse.move(700, 400))
    drive(lambda page: expect(page.locator(".row-moved")).to_have_count(0))
    drive(lambda page: expect(page.locator("#faceplate h3:visible")).to_have_text(
        ["Levels", "Treads", "Balustrade"]))  # fmt: skip
    open_line(drive, "rail_height")
    press(drive, "Keep internal")
    assert "step 10 mm internal" in head_text(stair)
    drive(lambda page: expect(page.locator("[data-input=rail_height]")).to_have_count(0))
    open_line(drive, "rail_height")
    press(drive, "Put on the faceplate")
    drive(lambda page: expect(page.locator("[data-input=rail_height]")).to_have_count(1))
    title = "[data-input=floor_height] label"
    drive(
        lambda page: expect(page.locator(title)).to_have_attribute(
            "title", "finished floor to finished floor"
        )
    )


WATCH = """() => {
  window.touched = new Set();
  new MutationObserver((changes) => {
    for (const { target } of changes) {
      const place = (target.nodeType === 1 ? target : target.parentElement)?.closest("[data-line], [data-input]");
      if (place) window.touched.add(place.dataset.line ?? place.dataset.input);
    }
  }).observe(document.body, { subtree: true, childList: true, attributes: true, characterData: true });
}"""


def test_a_turn_writes_only_what_it_changes(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    """The law behind quick turns: of lines and inputs that stay, nothing is written again."""
    open_study("Rods", "input a = 10 mm from 0 mm to 20 mm step 1 mm\ninput b = 5 mm from 0 mm to 9 mm\n"
               "twice = 2 * a\nthrice = 3 * b\nnote \"{a} and {b}\"\npart rod = box(a, b, 1 mm) colour oak")  # fmt: skip
    # Where it fails is drawn beside the rules while nobody does anything: not here.
    none = {"message": "", "hint": ""}
    drive(lambda page: page.route("**/bands", lambda route: route.fulfill(status=400, json=none)))
    drive(lambda page: page.evaluate(WATCH))
    drag_rule(drive, "a", 0.9)
    touched = set(drive(lambda page: page.evaluate("() => [...window.touched]")))
    assert {"1", "a", "3", "5"} <= touched, "the input, what follows from it, and the sentence"
    assert not touched & {"2", "b", "4"}
    assert row_body(drive, "note") == "18 mm and 5 mm"


def row_body(drive: Driver, name: str) -> str:
    row = ".row", f".row-name:text-is('{name}')"
    return drive(
        lambda page: (
            page.locator(row[0], has=page.locator(row[1])).locator(".row-body").inner_text()
        )
    )


def test_a_rule_pulled_past_its_limit_stops_on_its_step(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    study = open_study("Rods", "input a = 13 mm from 3 mm to 20 mm step 5 mm\ntwice = 2 * a")
    drag_rule(drive, "a", 1.0)
    assert row_value(drive, "twice") == "36 mm" and "input a = 18 mm from" in head_text(study)
    drag_rule(drive, "a", 0.0)
    assert row_value(drive, "twice") == "6 mm"


def test_what_is_turned_is_a_round_figure_in_its_own_unit(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    """Angles are kept in radians, lengths in millimetres; what is written is in degrees and inches."""
    study = open_study(
        "Vane",
        "units in, deg\ninput lean = 52° from 20° to 65° step 0.1°\ninput free = 50°\ninput wide = 3 in\ntwice = 2 * lean",
    )
    drag_rule(drive, "lean", 1.0)
    assert "input lean = 65° from" in head_text(study) and row_value(drive, "twice") == "130 °"

    def press_on(name: str, key: str) -> str:
        drive(lambda page: page.locator(f"[data-input={name}]").get_by_role("slider").focus())
        drive(lambda page: page.keyboard.press(key))
        drive(lambda page: page.keyboard.press("Tab"))
        settled(drive)
        return head_text(study)

    for key, written in (("ArrowLeft", "64.9°"), ("Home", "20°"), ("End", "65°")):
        assert f"input lean = {written} from" in press_on("lean", key)
    assert "input free = 51°\n" in press_on("free", "ArrowRight")
    assert "input wide = 3.1 in\n" in press_on("wide", "ArrowRight")
