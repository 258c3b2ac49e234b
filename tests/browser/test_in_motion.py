"""A study that takes long to work out follows the hand by coarser pictures; what is measured comes when it rests."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import row_value
from tests.browser.test_workspace import head_text

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]

BALL = """input across = 60 mm from 20 mm to 120 mm step 1 mm "Across"
double = 2 * across
part ball = sphere(across / 2) "Ball"
held = volume(ball)
check held < 1 m^3 "it is small"
dim height(ball) from (0 mm, 0 mm) to (0 mm, across)
"""


def slowly(page: Page, asked: list[dict[str, Any]]) -> None:
    """The whole scene takes long from now on; what was asked is noted."""

    def wait(route: Route) -> None:
        body = json.loads(route.request.post_data or "{}")
        asked.append(body)
        if not body["moving"]:
            time.sleep(0.15)
        route.continue_()

    page.route("**/evaluate", wait)


def shown(page: Page, name: str) -> str:
    row = page.locator(".row", has=page.locator(f".row-name:text-is('{name}')"))
    return (row.locator(".row-value").text_content() or "").strip()


def press_on(page: Page, name: str, share: float) -> None:
    box = page.locator(f"[data-input={name}] .rule-body").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + share * box["width"], box["y"] + box["height"] / 2)


def triangles(page: Page) -> int:
    """How many the ball is shown with."""
    return int(page.evaluate("() => window.ovolo.stage.parts.get('ball').part.triangles"))


def test_what_is_measured_comes_when_the_hand_rests(open_study: Opener, drive: Driver) -> None:
    study = open_study("Ball", BALL)
    asked: list[dict[str, Any]] = []
    dragged: list[tuple[str, str, int]] = []

    def turn(page: Page) -> None:
        slowly(page, asked)
        press_on(page, "across", 0.4)
        page.mouse.down()
        for step in range(14):
            press_on(page, "across", 0.3 + step / 100)
            page.wait_for_timeout(30)
            dragged.append((shown(page, "double"), shown(page, "held"), triangles(page)))

    drive(turn)
    assert any(body["moving"] for body in asked)
    assert "…" in [held for _, held, _ in dragged]
    assert all("…" not in double for double, _, _ in dragged), (
        "what needs no geometry is there at once"
    )
    drive(lambda page: expect(page.locator("body")).to_have_attribute("data-settled", "yes"))
    assert not asked[-1]["moving"], "the hand rests, though it still holds the rule"
    assert drive(triangles) > 2 * min(count for _, _, count in dragged)

    drive(lambda page: page.mouse.up())
    settled(drive)
    across = float(head_text(study).split("across = ")[1].split(" mm")[0])
    assert row_value(drive, "double") == f"{2 * across:g} mm"
    assert "…" not in row_value(drive, "held") and not asked[-1]["moving"]
    drive(lambda page: expect(page.get_by_role("button", name="Checks")).to_contain_text("1 hold"))
