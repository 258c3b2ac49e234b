"""The flat drawing on the stage, sheets of paper, pictures under the drawing, and datums."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pypdf
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from studio.projects.models import Project, Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import press, row_value
from tests.sheets import demo

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]


@pytest.fixture
def window(open_study: Opener) -> Study:
    return open_study("Arched slit window", demo("slit-window"))


def said_at_dims(drive: Driver) -> list[str]:
    return drive(lambda page: page.locator("#drawing #dims text").all_text_contents())


def view_box(drive: Driver) -> list[float]:
    said = drive(lambda page: page.locator("#drawing svg").get_attribute("viewBox")) or ""
    return [float(one) for one in said.split()]


def test_the_drawing_is_true_curves_and_follows_a_turn(window: Study, drive: Driver) -> None:
    press(drive, "Drawing")
    drive(lambda page: expect(page.locator("#drawing svg")).to_be_visible())
    assert any("260 mm" in one for one in said_at_dims(drive))
    path = drive(lambda page: page.locator("#drawing #frame path").first.get_attribute("d")) or ""
    assert "A" in path, "arcs stay arcs"
    drive(lambda page: page.locator("[data-input=sill_width] .rule-body").focus())
    drive(lambda page: page.keyboard.press("ArrowRight"))
    settled(drive)
    drive(lambda page: expect(page.locator("#drawing #dims text").filter(has_text="265 mm")).to_be_visible())  # fmt: skip


def test_names_stand_at_dims_on_request(window: Study, drive: Driver) -> None:
    press(drive, "Drawing")
    drive(lambda page: page.locator("#drawing svg").wait_for())
    drive(lambda page: page.get_by_label("names at dims", exact=True).check())
    settled(drive)
    assert any(one.startswith("sill_width = ") for one in said_at_dims(drive))


def test_it_is_moved_and_enlarged_by_hand_and_by_keys(window: Study, drive: Driver) -> None:
    press(drive, "Drawing")
    drive(lambda page: page.locator("#drawing svg").wait_for())
    before = view_box(drive)

    def drag(page: Page) -> None:
        page.mouse.move(900, 400)
        page.mouse.down()
        page.mouse.move(950, 430)
        page.mouse.up()

    drive(drag)
    moved = view_box(drive)
    assert moved[0] < before[0] and moved[1] < before[1] and moved[2:] == before[2:]
    size = drive(lambda page: page.locator("#drawing #dims text").first.get_attribute("font-size"))
    drive(lambda page: page.mouse.wheel(0, -300))
    drive(lambda page: page.wait_for_timeout(300))
    settled(drive)
    path = drive(lambda page: page.evaluate("() => window.ovolo.drawing.scale"))
    assert path > 0
    again = drive(lambda page: page.locator("#drawing #dims text").first.get_attribute("font-size"))
    assert again == size, "texts keep their size on paper"
    drive(lambda page: page.locator("#drawing").focus())
    at = view_box(drive)
    drive(lambda page: page.keyboard.press("ArrowRight"))
    assert view_box(drive)[0] > at[0]
    press(drive, "Fit")
    drive(lambda page: page.keyboard.press("Alt+D"))
    drive(lambda page: expect(page.locator("#drawing")).to_be_hidden())


def test_a_wrong_dim_is_marked_and_a_part_leads_to_its_line(open_study: Opener, drive: Driver) -> None:  # fmt: skip
    open_study("Plate", "part plate = rect(2 m, 1 m)\ndim 3 m from (-1 m, 0 m) to (1 m, 0 m)")
    press(drive, "Drawing")
    drive(lambda page: page.locator("#drawing text.mark-wrong").wait_for())
    assert said_at_dims(drive) == ["✕ 3\u2009000 mm, measures 2000 mm"]
    drive(lambda page: page.locator("#drawing #plate path").click(position={"x": 12, "y": 12}))
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_contain_text("part plate"))


def test_a_sheet_of_paper_is_handed_over_or_refused_in_words(window: Study, drive: Driver) -> None:
    def take(page: Page) -> bytes:
        page.locator("#hand-over summary").click()
        page.get_by_role("button", name="A drawing on paper").click()
        page.locator("#paper [name=author]").fill("Fathom & Lark")
        page.locator("#paper [name=scale]").select_option("1:1")
        page.get_by_role("button", name="Hand over", exact=True).click()
        expect(page.locator("#paper [role=alert]")).to_contain_text("1:10 fits")
        page.locator("#paper [name=scale]").select_option("1:10")
        with page.expect_download() as download:
            page.get_by_role("button", name="Hand over", exact=True).click()
        assert download.value.suggested_filename == "arched-slit-window.pdf"
        return Path(download.value.path()).read_bytes()

    (page,) = pypdf.PdfReader(io.BytesIO(drive(take))).pages
    text = page.extract_text()
    assert "Fathom & Lark" in text and "1:10" in text


def test_a_plan_goes_on_paper_with_numbers_and_a_key(
    open_study: Opener, project: Project, drive: Driver
) -> None:
    post = Study.objects.create(project=project, title="Post")
    post.save_text('study "Post"\ninput high = 1 m\npart shaft = box(400 mm, 400 mm, high)', None)
    open_study("Yard", 'study "Yard"\nuse post from "Post"\npart gate = post().move(2 m, 0 m) "Gate post"\npart far = post(high = 2 m).move(6 m, 0 m)')  # fmt: skip

    def take(page: Page) -> bytes:
        page.locator("#hand-over summary").click()
        page.get_by_role("button", name="A drawing on paper").click()
        page.locator("#paper [name=view]").select_option("plan")
        page.get_by_label("Numbers and a key").check()
        with page.expect_download() as download:
            page.get_by_role("button", name="Hand over", exact=True).click()
        return Path(download.value.path()).read_bytes()

    (page,) = pypdf.PdfReader(io.BytesIO(drive(take))).pages
    text = page.extract_text()
    assert "Gate post" in text and "high = 2 m" in text and "as in the study" in text


def test_a_picture_is_attached_laid_out_and_drawn_over(open_study: Opener, drive: Driver, tmp_path: Path) -> None:  # fmt: skip
    study = open_study("Site", "input span = 4 m from 1 m to 9 m\npart bed = rect(span, 1 m)")
    Image.new("RGB", (400, 300), "#d8c8a8").save(tmp_path / "site plan.png")

    def lay(page: Page) -> None:
        page.get_by_role("button", name="Files", exact=True).click()
        page.locator("#attach").set_input_files(str(tmp_path / "site plan.png"))
        page.get_by_role("button", name="Lay out", exact=True).click()
        picture = page.locator(".layout-picture image")
        expect(picture).to_be_visible()
        box: Any = picture.bounding_box()
        for share in (0.25, 0.75):
            page.mouse.click(box["x"] + box["width"] * share, box["y"] + box["height"] * 0.5)
        page.locator("#calibrate [name=distance]").fill("span")
        page.locator("#calibrate [name=x]").fill("-2 m")
        page.get_by_role("button", name="Lay it out").click()
        expect(page.locator("#calibrate")).to_be_hidden()

    drive(lay)
    settled(drive)
    study.refresh_from_db()
    assert 'file site_plan = "site plan.png" from (' in study.text
    assert "is span at (-2 m, 0 mm) turn 0° strength 50 %" in study.text

    def width() -> float:
        (shown,) = drive(lambda page: page.evaluate("() => window.ovolo.stage.underlays.report()"))
        found: float = shown["corners"][1][0] - shown["corners"][0][0]
        return found

    assert width() == pytest.approx(8000, rel=0.01), "half the picture is the span"
    drive(lambda page: page.locator("[data-input=span] .rule-body").focus())
    drive(lambda page: page.keyboard.press("End"))
    settled(drive)
    assert width() == pytest.approx(18_000, rel=0.01)
    press(drive, "Drawing")
    drive(lambda page: expect(page.locator("#drawing image")).to_have_attribute("opacity", "0.5"))


def test_datums_are_shown_faint_and_snapped_to(open_study: Opener, drive: Driver) -> None:
    text = "input p = (0 mm, 0 mm)\nq = (310 mm, 170 mm)\nedge = line((0 mm, 0 mm), (700 mm, 0 mm))\npart plate = rect(800 mm, 500 mm)"  # fmt: skip
    open_study("Datums", text)
    press(drive, "Plan")
    press(drive, "Looks")
    drive(lambda page: page.get_by_label("datums", exact=True).check())
    settled(drive)
    shown = drive(lambda page: page.evaluate("() => window.ovolo.stage.construction.report()"))
    assert {one["name"] for one in shown} == {"p", "q", "edge"}
    press(drive, "Close")

    def drag(page: Page) -> None:
        handle: Any = page.locator(".handle").bounding_box()
        target = page.evaluate(
            """() => { const { stage } = window.ovolo; const v = stage.camera.position.clone().set(310, 170, 0);
            const at = stage.onScreen(v); const box = stage.host.getBoundingClientRect(); return [at.x + box.left, at.y + box.top]; }"""
        )
        page.mouse.move(handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2)
        page.mouse.down()
        page.mouse.move(target[0] - 60, target[1])
        page.mouse.move(target[0] + 5, target[1] + 4)
        page.mouse.up()

    drive(drag)
    settled(drive)
    assert row_value(drive, "p") == "(310, 170) mm"


def test_a_hand_over_that_is_refused_says_why_on_the_page(open_study: Opener, drive: Driver) -> None:  # fmt: skip
    open_study("Flat", "part plate = rect(2 m, 1 m)")

    def ask(page: Page) -> None:
        page.locator("#hand-over summary").click()
        page.get_by_role("link", name="Solids as STEP").click()
        expect(page.locator("[role=alert]")).to_contain_text("this study has no solid parts")

    drive(ask)
