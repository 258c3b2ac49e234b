"""Looking: the cutting plane, ghosts, wire, dims, and measuring."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, picture, place_on_screen, settled, stage
from tests.browser.editor import press
from tests.browser.test_turning import drag_handle
from tests.browser.test_workspace import head_text

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]
BLOCK = "input h = 40 mm\npart block = box(200 mm, 100 mm, h) - cylinder(20 mm, 100 mm)"


@pytest.fixture
def block(open_study: Opener) -> Study:
    return open_study("Block", BLOCK)


def cut(drive: Driver) -> dict[str, Any]:
    return drive(lambda page: page.evaluate(
        "() => { const { cut } = window.ovolo.stage; return { axis: cut.axis, at: cut.at, segments: cut.segments, flipped: cut.flipped }; }"
    ))  # fmt: skip


def pixel(drive: Driver, point: list[float]) -> list[int]:
    """The colour of the stage where a point in space is drawn."""
    return drive(lambda page: page.evaluate(
        """(point) => {
          const { stage } = window.ovolo;
          stage.drawNow();
          const gl = stage.renderer.getContext();
          const at = stage.camera.position.clone().set(...point).project(stage.camera);
          const { width, height } = stage.renderer.domElement;
          const pixel = new Uint8Array(4);
          gl.readPixels(Math.round((at.x + 1) / 2 * width), Math.round((at.y + 1) / 2 * height), 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
          return [...pixel];
        }""", point))  # fmt: skip


@pytest.mark.painted
def test_the_cut_is_filled_and_moves_by_slide_rule_and_by_dragging(
    block: Study, drive: Driver
) -> None:
    press(drive, "Cut")
    drive(lambda page: page.get_by_role("radio", name="y", exact=True).click())
    press(drive, "Front")
    assert cut(drive)["axis"] == "y" and cut(drive)["at"] == 0
    assert cut(drive)["segments"] >= 8, "the outline of two rectangles, beside the hole"
    filled, hole = pixel(drive, [60, 0, 20]), pixel(drive, [0, 0, 20])
    assert max(filled[:3]) < 225, "the fill is darker than plaster"
    assert filled != hole, "the hole is not filled"
    drive(lambda page: page.locator("#value-cut").fill("-70"))
    drive(lambda page: page.keyboard.press("Enter"))
    assert cut(drive)["at"] == -50, "held within what there is"
    drive(lambda page: page.locator("#cut .rule-body").focus())
    drive(lambda page: page.keyboard.press("End"))
    assert cut(drive)["at"] == 50
    press(drive, "Axonometric")
    drag_handle(drive, "The cutting plane", 60, 40)
    assert -50 <= cut(drive)["at"] < 50
    before = cut(drive)["flipped"]
    press(drive, "Flip")
    assert cut(drive)["flipped"] != before
    press(drive, "Cut")
    assert cut(drive)["axis"] is None


def test_the_cut_of_a_solid_is_hatched_where_it_says_so(open_study: Opener, drive: Driver) -> None:
    """Lines 10 mm apart at 45° over all of 100 by 60 mm seen from the front, through the origin."""
    open_study("Block", "part block = box(100 mm, 60 mm, 40 mm) hatch 45°, 10 mm\npart pin = cylinder(9 mm, 60 mm)")  # fmt: skip
    press(drive, "Cut")
    drive(lambda page: page.get_by_role("radio", name="y", exact=True).click())
    lines = drive(lambda page: page.evaluate("() => window.ovolo.stage.cut.hatchLines"))
    across = (100 + 60) * math.sqrt(0.5)
    assert lines == pytest.approx(across / 10, abs=2)


@pytest.mark.painted
def test_the_cut_follows_when_an_input_turns(block: Study, drive: Driver) -> None:
    press(drive, "Cut")
    drive(lambda page: page.get_by_role("radio", name="y", exact=True).click())
    seen = picture(drive)
    drive(lambda page: page.locator("[data-input=h] .rule-body").focus())
    drive(lambda page: page.keyboard.press("End"))
    settled(drive)
    assert cut(drive)["segments"] >= 8 and picture(drive) != seen


def test_parts_are_ghosted_and_hidden(stair: Study, drive: Driver) -> None:
    press(drive, "Ghost Treads")
    assert stage(drive)["treads"]["ghosted"]
    press(drive, "Parts 4")
    press(drive, "make solid")
    assert not stage(drive)["treads"]["ghosted"]
    drive(lambda page: page.get_by_role("button", name="hide", exact=True).first.click())
    assert not stage(drive)["treads"]["visible"]


@pytest.mark.painted
def test_wire_or_plaster_ground_and_dims(stair: Study, drive: Driver) -> None:
    plaster = picture(drive)
    press(drive, "Looks")
    drive(lambda page: page.get_by_role("radio", name="wire").click())
    assert stage(drive)["treads"]["wire"]
    wire = picture(drive)
    assert wire != plaster
    drive(lambda page: page.get_by_label("ground").uncheck())
    assert picture(drive) != wire
    drive(lambda page: page.get_by_label("Size of dims").fill("18"))
    drive(lambda page: page.get_by_label("Their strength").fill("40"))
    said = drive(lambda page: page.locator(".dim-said").evaluate(
        "(label) => [getComputedStyle(label).fontSize, getComputedStyle(label).opacity]"))  # fmt: skip
    assert said == ["18px", "0.4"]
    drive(lambda page: page.reload())
    settled(drive)
    assert stage(drive)["treads"]["wire"], "looks are remembered"


def click_at(drive: Driver, point: list[float]) -> None:
    """Clicks where a point in space is on the screen."""
    x, y = drive(lambda page: page.evaluate(
        """(point) => {
          const { stage } = window.ovolo;
          const place = stage.onScreen(stage.camera.position.clone().set(...point));
          const host = stage.host.getBoundingClientRect();
          return [place.x + host.left, place.y + host.top];
        }""", point))  # fmt: skip
    drive(lambda page: page.mouse.click(x, y))
    drive(lambda page: page.wait_for_timeout(300))


def figures(drive: Driver) -> dict[str, str]:
    def read(page: Page) -> dict[str, str]:
        page.locator("#measure dd").first.wait_for()
        names = page.locator("#measure dt").all_inner_texts()
        return dict(zip(names, page.locator("#measure dd").all_inner_texts(), strict=True))

    return drive(read)


def test_corners_are_measured_and_kept_as_a_dim_and_a_check(block: Study, drive: Driver) -> None:
    press(drive, "Measure")
    click_at(drive, [-100, -50, 0])
    assert figures(drive)["x"] == "-100 mm"
    click_at(drive, [-100, -50, 40])
    found = figures(drive)
    assert found["distance"] == "40 mm" and found["along z"] == "40 mm" and found["slope"] == "90°"
    press(drive, "Keep as a dim")
    press(drive, "Keep as a check")
    text = head_text(block)
    assert "\ndim h from (-100 mm, -50 mm, 0 mm) to (-100 mm, -50 mm, h)" in text
    assert "\ncheck distance(" in text
    assert drive(lambda page: page.locator(".dim-said").count()) == 1
    assert drive(lambda page: page.locator("footer").inner_text()).endswith("no problems")


def turned(drive: Driver, name: str, to: str) -> None:
    """Where a value is typed: the picture is not left for it."""
    drive(lambda page: page.locator(f"[data-input='{name}'] input").first.fill(to))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)


def test_figures_of_what_has_changed_are_shown_no_longer(open_study: Opener, drive: Driver) -> None:
    """A length that was measured, once its part is another; not where only something beside it changes."""
    text = "input high = 40 mm from 10 mm to 90 mm\ninput wide = 20 mm from 10 mm to 90 mm\n"
    open_study(
        "Two",
        f"{text}part a = box(200 mm, 100 mm, high)\npart b = box(wide, wide, wide).move(300 mm)",
    )
    press(drive, "Measure")
    click_at(drive, [-100, -50, 0])
    click_at(drive, [-100, -50, 40])
    assert figures(drive)["distance"] == "40 mm"
    turned(drive, "wide", "30")
    assert figures(drive)["distance"] == "40 mm"
    turned(drive, "high", "60")
    drive(lambda page: expect(page.locator("#measure dd")).to_have_count(0))
    drive(
        lambda page: expect(page.locator("#measure")).to_contain_text("has changed: pick it again")
    )
    click_at(drive, [-100, -50, 60])
    assert figures(drive)["z"] == "60 mm"


def test_the_card_of_an_item_tells_its_values_as_they_are(
    open_study: Opener, drive: Driver
) -> None:
    """Also where another person changes the study while it is open."""
    study = open_study(
        "Row", "gap = 100 mm\npart row_ = [box(40 mm, 40 mm, 40 mm).move(i * gap) for i in 0 .. 2]"
    )
    click_at(drive, [100, 0, 40])
    drive(lambda page: expect(page.locator("#card")).to_contain_text(re.compile(r"i\s*1")))
    study.refresh_from_db()
    study.save_text(study.text.replace("0 .. 2", "4 .. 6"), study.head_id)
    drive(
        lambda page: page.evaluate("() => dispatchEvent(new Event('focus'))")
    )  # it asks what is new
    settled(drive)
    drive(lambda page: expect(page.locator("#card")).to_contain_text(re.compile(r"i\s*5")))


def test_edges_are_measured_by_length_and_radius(open_study: Opener, drive: Driver) -> None:
    """Of a prism of 24 sides just the side that is picked (2 r sin(180° / 24))."""
    open_study("Block", f"{BLOCK}\npart nut = extrude(polygon(24, 50 mm), 40 mm).move(200 mm)")
    press(drive, "Measure")
    click_at(drive, [10, -50, 40])
    assert figures(drive)["length"] == "200 mm"
    press(drive, "Clear")
    press(drive, "Plan")
    click_at(drive, [20 * 0.7071, -20 * 0.7071, 40])
    found = figures(drive)
    assert found["radius"] == "20 mm" and found["diameter"] == "40 mm"
    press(drive, "Clear")
    middle, turn = 50 * math.cos(math.pi / 24), math.radians(7.5)
    click_at(drive, [200 + middle * math.cos(turn), middle * math.sin(turn), 40])
    assert figures(drive)["length"] == "13.05 mm"
    drive(lambda page: page.keyboard.press("Escape"))
    drive(lambda page: expect(page.locator("#measure")).to_have_count(0))


def test_views_by_keys(stair: Study, drive: Driver) -> None:
    drive(lambda page: page.keyboard.press("Alt+2"))
    drive(
        lambda page: expect(page.get_by_role("button", name="Plan", exact=True)).to_have_attribute(
            "aria-pressed", "true"
        )
    )
    drive(lambda page: page.keyboard.press("Alt+c"))
    drive(lambda page: expect(page.locator("#cut")).to_be_visible())


PEGS = "units mm\npart pegs = row(cylinder(20 mm, 90 mm), 5, 100 mm, skip = [1])\npart wall = box(2 m, 30 mm, 400 mm).move(y = 300 mm)\ndim 400 mm from (0 mm, 0 mm) to (400 mm, 0 mm) offset 80 mm"


def viewpoint(drive: Driver) -> dict[str, Any]:
    found: dict[str, Any] = drive(
        lambda page: page.evaluate("() => window.ovolo.stage.viewpoint()")
    )
    return found


def test_numbers_stand_on_items_as_skip_counts_them(open_study: Opener, drive: Driver) -> None:
    open_study(
        "Pegs",
        PEGS.replace("units mm", "units mm\ninput apart = 100 mm from 50 mm to 200 mm").replace(
            "5, 100 mm", "5, apart"
        ),
    )
    press(drive, "Looks")
    drive(lambda page: page.get_by_label("numbers", exact=True).check())
    drive(lambda page: expect(page.locator(".item-number")).to_have_text(["0", "2", "3", "4"]))
    place = "(one) => one.style.translate"
    before = drive(lambda page: page.locator(".item-number").last.evaluate(place))
    drive(lambda page: page.locator("[data-input=apart] .rule-body").focus())
    drive(lambda page: page.keyboard.press("End"))
    settled(drive)
    assert drive(lambda page: page.locator(".item-number").last.evaluate(place)) != before
    at = place_on_screen(drive, [4 * 200, 0, 45])
    number = drive(lambda page: page.locator(".item-number").last.bounding_box())
    assert number["x"] + number["width"] / 2 == pytest.approx(at[0], abs=2)
    drive(lambda page: page.get_by_label("numbers", exact=True).uncheck())
    drive(lambda page: expect(page.locator(".item-number")).to_have_count(0))


def test_numbers_stand_in_holes_that_items_of_an_array_cut(
    open_study: Opener, drive: Driver
) -> None:
    """In the middle of each hole, also when its input was turned."""
    open_study(
        "Sieve",
        "units mm\ninput apart = 100 mm from 50 mm to 110 mm\n"
        "holes = row(cylinder(10 mm, 60 mm), 4, apart, skip = [1])\n"
        "part plate = box(500 mm, 80 mm, 20 mm).move(150 mm, 0 mm) - holes",
    )
    press(drive, "Looks")
    drive(lambda page: page.get_by_label("numbers", exact=True).check())
    drive(lambda page: expect(page.locator(".item-number")).to_have_text(["0", "2", "3"]))
    for apart, key in ((100, ""), (50, "Home")):
        if key:
            drive(lambda page: page.locator("[data-input=apart] .rule-body").focus())
            drive(lambda page, key=key: page.keyboard.press(key))
            settled(drive)
        drive(lambda page, at=[3 * apart, 0, 10]: page.wait_for_function(
            """(point) => {
              const { stage } = window.ovolo;
              const at = stage.onScreen(stage.camera.position.clone().set(...point));
              const box = [...document.querySelectorAll(".item-number")].at(-1)?.getBoundingClientRect();
              const x = box && box.x + box.width / 2 - stage.host.getBoundingClientRect().left;
              return box && Math.abs(x - at.x) < 2;
            }""", arg=at,
        ))  # fmt: skip


def test_the_picture_is_seen_from_behind_and_from_below(open_study: Opener, drive: Driver) -> None:
    open_study("Pegs", PEGS)
    ways = {}
    for key, view in (("3", "front"), ("4", "side"), ("2", "plan")):
        drive(lambda page, key=key: page.keyboard.press(f"Alt+{key}"))  # type: ignore[misc]
        there = viewpoint(drive)
        drive(lambda page: page.keyboard.press("Alt+5"))
        back = viewpoint(drive)
        ways[view] = [
            [p - t for p, t in zip(one["position"], one["target"], strict=True)]
            for one in (there, back)
        ]
    for there_way, back_way in ways.values():
        assert back_way == pytest.approx([-one for one in there_way], abs=1e-6)


def test_one_walks_around_by_keys_and_comes_back_to_a_view_that_was_kept(
    open_study: Opener, drive: Driver
) -> None:
    open_study("Pegs", PEGS)
    drive(lambda page: page.locator("#stage canvas").focus())
    before = viewpoint(drive)
    for key in ("ArrowLeft", "ArrowUp", "+", "Shift+ArrowRight"):
        drive(lambda page, key=key: page.keyboard.press(key))  # type: ignore[misc]
    here = viewpoint(drive)
    assert here["position"] != before["position"] and here["zoom"] > before["zoom"]
    assert math.dist(here["target"], here["position"]) == pytest.approx(
        math.dist(before["target"], before["position"])
    )
    press(drive, "Looks")
    drive(lambda page: page.locator("#looks-views summary").click())
    drive(lambda page: page.get_by_label("Name of the view").fill("By the wall"))
    drive(lambda page: page.keyboard.press("Enter"))
    press(drive, "Plan")
    drive(lambda page: page.reload())
    settled(drive)
    press(drive, "Looks")
    press(drive, "By the wall")
    again = viewpoint(drive)
    for part in ("position", "target", "up", "frame"):
        assert again[part] == pytest.approx(here[part], rel=1e-6, abs=1e-6)
    press(drive, "Fit")
    assert viewpoint(drive)["position"] != again["position"]
    press(drive, "Looks")
    press(drive, "Forget the view By the wall")
    drive(lambda page: expect(page.get_by_text("By the wall")).to_have_count(0))


@pytest.mark.painted
def test_the_stage_is_saved_as_a_picture_of_any_size(open_study: Opener, drive: Driver) -> None:
    import io

    from PIL import Image

    open_study("Pegs", PEGS)
    press(drive, "Looks")

    def save(page: Page) -> bytes:
        page.locator("#looks-picture summary").click()
        page.get_by_label("Width of the picture in pixels").fill("1500")
        with page.expect_download() as download:
            page.get_by_role("button", name="Save PNG").click()
        assert download.value.suggested_filename == "pegs.png"
        return download.value.path().read_bytes()

    image = Image.open(io.BytesIO(drive(save)))
    seen = drive(lambda page: page.locator("#stage canvas").bounding_box())
    assert image.width == 1500
    assert image.height == pytest.approx(1500 * seen["height"] / seen["width"], abs=1)
    assert len(image.convert("RGB").resize((300, 200)).getcolors(60_000) or []) > 50
    assert drive(lambda page: page.locator("#stage canvas").bounding_box()) == seen


def test_the_list_of_parts_does_not_lie_over_them(open_study: Opener, drive: Driver) -> None:
    open_study("Wall", 'part wall = box(3 m, 100 mm, 200 mm) "A wall with a rather long name"')
    press(drive, "Front")

    def edges(page: Page) -> tuple[float, float]:
        box = page.locator("#parts-shown").bounding_box()
        assert box
        right: float = page.evaluate(
            """() => {
              const { stage } = window.ovolo;
              const at = stage.onScreen(stage.camera.position.clone().set(1500, 0, 100));
              return stage.host.getBoundingClientRect().left + at.x;
            }"""
        )
        return right, box["x"]

    right, left = drive(edges)
    assert right < left


def test_dims_are_clear_of_each_other(open_study: Opener, drive: Driver) -> None:
    """Five dims whose middles fall on one place: their texts do not overlap, at any size."""
    lines = "\n".join(
        f"dim {w} mm from (-{w / 2:g} mm, 0 mm) to ({w / 2:g} mm, 0 mm) offset 20 mm"
        for w in (400, 380, 360, 340, 320)
    )
    open_study("Dims", f"units mm\npart plate = box(400 mm, 300 mm, 20 mm)\n{lines}")
    press(drive, "Looks")
    for size in (9, 20):
        drive(lambda page, size=size: page.get_by_label("Size of dims").fill(str(size)))  # type: ignore[misc]
        drive(lambda page: page.wait_for_timeout(300))
        boxes = drive(lambda page: page.locator(".dim-said").evaluate_all(
            "(all) => all.map((one) => { const { top, bottom, left, right } = one.getBoundingClientRect(); return [top, bottom, left, right]; })"
        ))  # fmt: skip
        assert len(boxes) == 5
        for at, (top, bottom, left, right) in enumerate(boxes):
            for other in boxes[at + 1 :]:
                beside = other[3] <= left + 1 or other[2] >= right - 1
                assert beside or other[1] <= top + 1 or other[0] >= bottom - 1


@pytest.mark.painted
def test_what_is_said_at_a_dim_is_clear_of_the_parts_and_led_back(
    open_study: Opener, drive: Driver
) -> None:
    """A dim across the middle of a plate, seen from above: its text leaves the plate, with a line to
    where it belongs; turned to where it is clear, it stands at its line again."""
    open_study("Plate", "units mm\ninput up = 0 mm from 0 mm to 150 mm\npart plate = box(400 mm, 60 mm, 20 mm)\npart post = box(20 mm, 20 mm, 20 mm).move(190 mm, 300 mm)\ndim 200 mm from (-100 mm, up) to (100 mm, up)")  # fmt: skip
    press(drive, "Plan")
    edge = {
        side: place_on_screen(drive, [0, y, 0])[1] for side, y in (("top", 30), ("bottom", -30))
    }
    drive(lambda page: page.wait_for_function(
        """({ top, bottom }) => {
          const { top: above, bottom: below } = document.querySelector(".dim-said").getBoundingClientRect();
          return below <= top + 8 || above >= bottom - 8;
        }""", arg=edge,
    ))  # fmt: skip
    drive(lambda page: expect(page.locator(".dim-leader")).to_be_visible())
    drive(lambda page: page.locator("[data-input=up] .rule-body").focus())
    drive(lambda page: page.keyboard.press("End"))
    settled(drive)
    drive(lambda page: expect(page.locator(".dim-leader")).to_be_hidden())


@pytest.mark.painted
def test_hollows_are_shaded_and_open_faces_are_not(open_study: Opener, drive: Driver) -> None:
    """Seen from above: the bottom of a slot is darker than it was, the open top is not."""
    open_study("Slot", "units mm\npart block = box(400 mm, 400 mm, 200 mm) - box(400 mm, 40 mm, 150 mm).move(0 mm, 0 mm, 160 mm)")  # fmt: skip
    press(drive, "Plan")

    def light(point: list[float]) -> int:
        return drive(lambda page: page.evaluate(
            """(point) => {
              const { stage } = window.ovolo;
              stage.render();
              const gl = stage.renderer.getContext();
              const at = stage.onScreen(stage.camera.position.clone().set(...point));
              const scale = gl.drawingBufferWidth / stage.size.width;
              const pixel = new Uint8Array(4);
              gl.readPixels(at.x * scale, (stage.size.height - at.y) * scale, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
              return pixel[0] + pixel[1] + pixel[2];
            }""", point,
        ))  # fmt: skip

    slot, top = [0.0, 0.0, 160.0], [100.0, 120.0, 200.0]
    plain = light(slot), light(top)
    press(drive, "Looks")
    drive(lambda page: page.get_by_label("hollows").check())
    shaded = light(slot), light(top)
    assert shaded[0] < 0.9 * plain[0]
    assert shaded[1] == pytest.approx(plain[1], rel=0.02)
    drive(lambda page: page.get_by_label("hollows").uncheck())
    assert light(slot) == plain[0]


def shine_on_the_equator(drive: Driver) -> None:
    """The sun of an equinox, at the hour that is set."""
    press(drive, "Looks")

    def shine(page: Page) -> None:
        page.locator("#looks-sun summary").click()
        page.get_by_label("light and shadows of a place").check()
        page.get_by_label("latitude").fill("0")
        page.get_by_label("day").fill("2026-03-22")

    drive(shine)
    settled(drive)


@pytest.mark.painted
def test_light_and_shadows_follow_the_sun_of_a_place_and_an_hour(
    open_study: Opener, drive: Driver
) -> None:
    """At the equator, at an equinox, the sun stands in the east in the morning and shadows fall west;
    by night there are none."""
    open_study("Pegs", PEGS)
    shine_on_the_equator(drive)
    drive(lambda page: page.get_by_role("slider", name="hour").fill("9"))
    settled(drive)
    drive(lambda page: expect(page.locator("#looks-sun summary")).to_contain_text("45° high, 90°"))
    slant = drive(lambda page: page.evaluate("window.ovolo.stage.ground.slant"))
    assert slant == pytest.approx([-1, 0], abs=0.02)
    drive(lambda page: page.get_by_role("slider", name="hour").fill("23"))
    settled(drive)
    drive(lambda page: expect(page.locator("#looks-sun summary")).to_contain_text("sun is down"))
    assert drive(lambda page: page.evaluate("window.ovolo.stage.ground.slant")) is None
    drive(lambda page: page.get_by_label("light and shadows of a place").uncheck())
    settled(drive)
    assert drive(lambda page: page.evaluate("window.ovolo.stage.ground.slant")) == [0.22, 0.3]


@pytest.mark.painted
def test_a_turn_around_the_parts_is_saved_as_a_film(open_study: Opener, drive: Driver) -> None:
    open_study("Pegs", PEGS)
    before = viewpoint(drive)
    press(drive, "Looks")

    def save(page: Page) -> bytes:
        page.locator("#looks-picture summary").click()
        with page.expect_download() as download:
            page.get_by_role("button", name="Save a turn around").click()
        assert download.value.suggested_filename == "pegs.webm"
        return download.value.path().read_bytes()

    film = drive(save)
    assert film[:4] == b"\x1a\x45\xdf\xa3", "the mark of EBML (RFC 8794), of which WebM is made"
    assert b"webm" in film[:64] and len(film) > 10_000
    assert viewpoint(drive)["position"] == pytest.approx(before["position"])
