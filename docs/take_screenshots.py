"""Takes the pictures in docs/screenshots/ from a running demonstration (`make demo`).

Usage: python docs/take_screenshots.py [http://127.0.0.1:8000]
"""

import io
import sys
from collections.abc import Callable
from pathlib import Path

from PIL import Image
from playwright.sync_api import Locator, Page, expect, sync_playwright

SHOTS = Path(__file__).with_name("screenshots")
STAIR = "Spiral stair to the dome"


def row(page: Page, name: str) -> Locator:
    return page.locator(".row", has=page.locator(f".row-name:text-is('{name}')"))


def press(page: Page, name: str) -> None:
    page.get_by_role("button", name=name, exact=True).last.click()
    page.wait_for_timeout(300)


def open_line(page: Page, name: str) -> None:
    row(page, name).click()
    page.locator(".editor .cm-content").wait_for()


def working(page: Page) -> None:
    open_line(page, "gap")
    press(page, "Working")
    page.locator("#working .katex").first.wait_for()


def line_with_a_problem(page: Page) -> None:
    """A formula changed badly and not kept."""
    open_line(page, "rise")
    page.keyboard.press("Control+a")
    page.keyboard.press("Delete")
    page.keyboard.insert_text("rise = floor_height / risers + pitch")
    page.locator(".cm-lintRange-error").wait_for()
    page.keyboard.press("Escape")


def on_paper(page: Page) -> None:
    press(page, "Drawing")
    page.locator("#drawing svg").wait_for()
    press(page, "On paper")


def schedule(page: Page) -> None:
    page.get_by_role("button", name="Parts").last.click()
    press(page, "Schedule")
    page.locator("#schedule td").first.wait_for()
    page.locator("#drawer").evaluate("(drawer) => drawer.scrollTo(0, 150)")


def hand_over(page: Page) -> None:
    page.locator("#hand-over summary").click()


def aim(page: Page) -> None:
    open_line(page, "pitch")
    press(page, "Aim and reach…")
    page.locator("#aim-goal").fill("38°")
    page.keyboard.press("Enter")
    page.get_by_role("list", name="Found").wait_for()


def proof(page: Page) -> None:
    """What is tried and proved, and after a rest the band that works."""
    press(page, "Proof")
    press(page, "Try and prove")
    page.locator("#proof .tag").first.wait_for(timeout=60_000)
    page.locator(".rule-bands g").first.wait_for(timeout=60_000)


def variations(page: Page) -> None:
    """The contact sheet that is kept with the study, with two trials pinned."""
    page.get_by_role("link", name="Variations").click()
    page.locator("#contact-sheets summary").click()
    page.locator("#contact-sheets button.grow").first.click()
    page.get_by_text("worked out 60 of 60").wait_for(timeout=60_000)
    page.locator("body[data-settled='yes']").wait_for(timeout=60_000)
    page.keyboard.press("Escape")


def bench(name: str, settings: dict[str, str] | None = None) -> Callable[[Page], None]:
    """A bench of the study, with some settings; its machine has been run."""

    def prepare(page: Page) -> None:
        page.goto(f"{page.url}{name}")
        _settled(page)
        for label, value in (settings or {}).items():
            page.get_by_label(label).fill(value)
            page.get_by_label(label).press("Tab")
            _settled(page)
        machine = page.get_by_role("button", name="Run the simulated")
        if machine.count():
            machine.click()
            _settled(page)
        if name == "print":
            rule = page.get_by_role("slider", name="Layer")
            for _ in range(4):
                rule.press("PageDown")
            _settled(page)

    return prepare


def people(page: Page) -> None:
    """Somebody invited, and a link made for a joiner."""
    page.locator("header summary", has_text="Study").click()
    page.get_by_role("link", name="Share it…").click()
    form = page.get_by_role("form", name="Make a link")
    form.get_by_label("for", exact=True).fill("the joiner")
    for name in ("STL", "DXF"):
        form.get_by_label(name, exact=True).check()
    form.get_by_role("button", name="Make the link").click()
    page.get_by_role("button", name="Invite").click()


def visitor(page: Page) -> None:
    """What the joiner sees, an input turned."""
    page.locator("header summary", has_text="Study").click()
    page.get_by_role("link", name="Share it…").click()
    page.goto(page.get_by_label("Address of the link").first.input_value())
    _settled(page)
    rule = page.get_by_role("slider", name="Floor to floor")
    for _ in range(3):
        rule.press("PageDown")
    _settled(page)


def _home(page: Page) -> str:
    return page.url.partition("/studies")[0]


def how_to(page: Page) -> None:
    page.goto(_home(page) + "/reference/how-to/holes-in-a-ring")
    _settled(page)


def new_study(page: Page) -> None:
    page.goto(_home(page))
    page.get_by_role("button", name="New study").last.click()
    page.locator("input[value='point:turned-tower']").check()


def exercise(page: Page) -> None:
    """The first exercise of the first hour, two of its steps done."""
    page.goto(_home(page) + "/first-hour/")
    page.get_by_role("button", name="Begin", exact=True).first.click()
    _settled(page)
    for line in (
        'input base = 2 m from 1 m to 4 m step 50 mm "Base"',
        'input pitch = 35° from 10° to 60° step 1° "Pitch"',
    ):
        page.get_by_role("button", name="Add a line").click()
        page.locator(".editor .cm-content").wait_for()
        page.keyboard.insert_text(line)
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        _settled(page)
    page.locator(".guide-step.now").get_by_role("button", name="Hint").click()


def turn(page: Page, target: Path) -> None:
    """A moving picture: the stair while its height is turned up and down again."""
    rule = page.get_by_role("slider", name="Floor to floor")
    rule.press("Home")
    _settled(page)
    frames = []
    for _ in range(18):
        with Image.open(io.BytesIO(page.screenshot())) as shot:
            frames.append(shot.convert("RGB").resize((960, 600), Image.Resampling.LANCZOS))
        rule.press("PageUp")
        rule.press("PageUp")
        page.wait_for_timeout(60)
        page.locator("body[data-settled='yes']").wait_for(timeout=120_000)
    there_and_back = [*frames, *frames[-2:0:-1]]
    target.parent.mkdir(exist_ok=True)
    there_and_back[0].save(
        target,
        save_all=True,
        append_images=there_and_back[1:],
        duration=110,
        loop=0,
        quality=55,
        method=6,
    )


def _settled(page: Page) -> None:
    page.wait_for_timeout(800)
    page.locator("body[data-settled='yes']").wait_for(timeout=120_000)


WORKSPACES: list[tuple[str, str, Callable[[Page], None]]] = [
    ("workspace", STAIR, lambda page: open_line(page, "rise")),
    ("workspace-schedule", "Boardwalk", schedule),
    ("workspace-aim", STAIR, aim),
    ("workspace-proof", STAIR, proof),
    ("variations", "Louvre screen", variations),
    ("workspace-problem", STAIR, line_with_a_problem),
    ("workspace-working", STAIR, working),
    ("workspace-garden", "Science garden", lambda page: press(page, "Plan")),
    ("workspace-pier", "Telescope pier", hand_over),
    ("drawing-on-paper", "Dome drive gear", on_paper),
    ("bench-print", "Dome drive gear", bench("print")),
    ("bench-cutting", "Star-map screen", bench("cut", {"Sheet, across": "1000 mm"})),
    ("hand-over", "Boardwalk", bench("package")),
    ("people", STAIR, people),
    ("visitor", STAIR, visitor),
    ("how-to", STAIR, how_to),
    ("new-study", STAIR, new_study),
    ("exercise", STAIR, exercise),
]


def main(address: str) -> None:
    SHOTS.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell",
            args=["--no-sandbox", "--disable-background-networking"],
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script("localStorage.setItem('ovolo.tour', 'seen')")
        page.goto(address)
        expect(page.locator("canvas[data-study]:not([data-drawn])")).to_have_count(
            0, timeout=90_000
        )
        page.reload()
        page.wait_for_load_state("networkidle")
        page.screenshot(path=SHOTS / "projects.png")
        for name, title, prepare in WORKSPACES:
            page.goto(address)
            page.get_by_role("link", name=title).first.click()
            page.locator("body[data-settled='yes']").wait_for()
            prepare(page)
            page.wait_for_timeout(1500)
            page.screenshot(path=SHOTS / f"{name}.png")
        page.goto(address)
        page.get_by_role("link", name=STAIR).first.click()
        page.locator("body[data-settled='yes']").wait_for()
        turn(page, SHOTS.with_name("pictures") / "turn.webp")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000")
