"""Takes the pictures in docs/screenshots/ from a running demonstration (`make demo`).

Usage: python docs/take_screenshots.py [http://127.0.0.1:8000]
"""

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

SHOTS = Path(__file__).with_name("screenshots")


def workspace(page: Page, title: str, name: str) -> None:
    page.get_by_role("link", name=title).click()
    page.locator("body[data-settled='yes']").wait_for()
    page.wait_for_timeout(500)
    page.screenshot(path=SHOTS / f"{name}.png")
    page.go_back()


def main(address: str) -> None:
    SHOTS.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium",
            args=["--no-sandbox", "--disable-background-networking"],
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        count = page.locator("canvas[data-study]").count()
        page.locator("canvas[data-drawn=yes]").nth(count - 1).wait_for()
        page.screenshot(path=SHOTS / "projects.png")
        workspace(page, "Spiral stair to the dome", "workspace")
        workspace(page, "Boardwalk", "workspace-boardwalk")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000")
