"""A browser that paints nothing in space: WebGL is off, or not there."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, place_on_screen, settled, stage
from tests.browser.editor import alert, press, row_value

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]
BLOCK = "input h = 40 mm from 10 mm to 90 mm\npart block = box(200 mm, 100 mm, h)\nvolume_of = volume(block)"


@pytest.fixture
def block(open_study: Opener) -> Study:
    return open_study("Block", BLOCK)


def test_it_is_said_and_all_else_is_there(block: Study, drive: Driver) -> None:
    said = drive(lambda page: page.locator("#stage .no-picture").inner_text())
    assert "paints no pictures" in said and "WebGL" in said
    assert not drive(lambda page: page.evaluate("() => window.ovolo.stage.paints"))
    assert stage(drive)["block"]["top"] == pytest.approx(40)
    assert row_value(drive, "volume_of") == "800000 mm³"
    press(drive, "Drawing")
    drive(lambda page: expect(page.locator("#drawing svg path").first).to_be_visible())
    drive(lambda page: expect(page.locator("#stage .no-picture")).not_to_be_visible())
    press(drive, "Measure")
    for corner in ([-100, -50, 0], [-100, -50, 40]):
        x, y = place_on_screen(drive, corner)
        drive(lambda page, x=x, y=y: page.mouse.click(x, y))
        settled(drive)
    drive(lambda page: expect(page.locator("#measure")).to_contain_text("distance"))
    drive(lambda page: expect(page.locator("#measure")).to_contain_text("40 mm"))


@pytest.mark.parametrize("name", ["Save PNG", "Save a turn around (WebM)"])
def test_a_picture_is_refused_in_words(block: Study, drive: Driver, name: str) -> None:
    press(drive, "Looks")
    drive(lambda page: page.locator("#looks-picture summary").click())
    press(drive, name)
    assert "paints no pictures" in alert(drive)


INK = """(one) => {
  const { data } = one.getContext("2d").getImageData(0, 0, one.width, one.height);
  return data.filter((part, at) => at % 4 === 3 && part).length;
}"""
"""How many pixels of a canvas are drawn on."""


def test_in_the_place_of_small_pictures_it_is_said(block: Study, drive: Driver) -> None:
    drive.visit("/")
    card = drive(lambda page: page.get_by_label("No pictures in space: WebGL is off"))
    drive(lambda page: expect(card).to_have_count(1))
    assert drive(lambda page: card.evaluate(INK)) > 200
    drive.visit(f"/studies/{block.pk}/variations")
    drive(lambda page: page.get_by_role("button", name="Work it out").click())
    drive(lambda page: expect(page.locator(".card canvas[data-drawn=said]").first).to_be_visible())
    assert drive(lambda page: page.locator(".card canvas").first.evaluate(INK)) > 200
