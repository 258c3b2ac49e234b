"""Draws the pictures of the starting points anew: `.venv/bin/python docs/take_pictures.py http://127.0.0.1:8000`

on a running demonstration. Each becomes a study of a project of its own, whose cards are drawn by the stage."""

from __future__ import annotations

import io
import json
import sys
from pathlib import Path

from PIL import Image
from playwright.sync_api import Page, sync_playwright

from ovolo.writing.starting import StartingPoint, starting_points

FOLDER = Path(__file__).parents[1] / "studio" / "static" / "starting"
SIZE = (480, 360)
PROJECT = "Starting points"


def main(address: str) -> None:
    FOLDER.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=["--no-sandbox"])  # fmt: skip
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.set_default_timeout(300_000)
        _make_studies(page, address)
        for one in starting_points():
            _keep(page, address, one)
        browser.close()
    digests = {one.key: one.digest for one in starting_points()}
    (FOLDER / "drawn.json").write_text(json.dumps(digests, indent=1) + "\n")


def _make_studies(page: Page, address: str) -> None:
    page.goto(f"{address}/")
    page.get_by_text("New project").click()
    page.get_by_label("Name").first.fill(PROJECT)
    page.get_by_role("button", name="Make it").first.click()
    for one in starting_points():
        page.goto(f"{address}/")
        page.get_by_role("region", name=PROJECT).get_by_role("button", name="New study").click()
        page.locator(f"input[value='point:{one.key}']").check()
        page.get_by_role("button", name="Begin").click()
        page.locator("body[data-settled='yes']").wait_for()
    page.goto(f"{address}/")
    page.wait_for_function("() => [...document.querySelectorAll('canvas[data-study]')].every((one) => one.dataset.drawn)")  # fmt: skip
    page.wait_for_timeout(2000)
    page.reload()


def _keep(page: Page, address: str, point: StartingPoint) -> None:
    card = page.get_by_role("region", name=PROJECT).get_by_alt_text(f"Picture of {point.title}", exact=True)  # fmt: skip
    data = page.request.get(address + str(card.get_attribute("src"))).body()
    with Image.open(io.BytesIO(data)) as drawn:
        small = drawn.convert("RGB").resize(SIZE, Image.Resampling.LANCZOS)
        small.quantize(96).save(FOLDER / f"{point.key}.png", optimize=True)
    print(point.key)


if __name__ == "__main__":
    main(sys.argv[1].rstrip("/"))
