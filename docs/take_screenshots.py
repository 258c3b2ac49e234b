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


def line_with_a_problem(page: Page) -> None:
    """A formula changed badly, its line opened; then undone."""
    page.get_by_role("link", name="Spiral stair to the dome").click()
    row = page.locator(".row", has=page.locator(".row-name:text-is('rise')"))
    row.click()
    page.locator(".editor textarea").fill("rise = floor_height / risers + pitch")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="problem").click()
    page.locator(".row.failing").first.click()
    page.screenshot(path=SHOTS / "workspace-problem.png")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("status").get_by_text("Saved").wait_for()


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
        workspace(page, "Garden sundial", "workspace-sundial")
        workspace(page, "Lecture-room diffuser", "workspace-diffuser")
        line_with_a_problem(page)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000")
