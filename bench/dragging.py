"""How long a turn of a slide rule takes, from the turn to the new scene handed to the renderer.

`make bench-drag` serves the demonstration from a database of its own, drags a slide rule of each
study for five seconds in headless Chromium and prints the distribution. The time of drawing is
printed beside it: in a headless browser it is done in software, on the same processors.
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, Playwright, sync_playwright

from bench.serving import at_share, managed, served

SECONDS = 5.0
TURNED = {
    "Spiral stair to the dome": "floor_height",
    "Boardwalk": "walk_length",
    "Garden sundial": "latitude",
    "Lecture-room diffuser": "panel_height",
    "Arched slit window": "springing",
    "Dome drive gear": "modulus",
    "Wind vane": "chord",
    "Terrace falls": "run",
    "Dome and shutter": "span",
    "Lens heater coil": "tube",
    "Baffle tube": "bore",
    "Telescope pier": "height",
    "Louvre screen": "chord",
    "Seed-head paving": "room",
    "Terrace canopy": "crown",
    "Star-map screen": "brightest",
    "Keeper's cabin": "long",
    "Bearing cage": "ball",
    "Turned baluster": "height",
}

# The turn whose value a request carries is the newest before it was sent; its time runs until the
# scene that answers it is handed to the renderer.
_WATCH = """() => {
  const seen = { turns: [], scenes: [], draws: [], most: 0, under: 0 };
  const { stage } = window.ovolo;
  let turned = 0;
  addEventListener('pointermove', (event) => { turned = event.timeStamp; }, true);
  const apply = stage.apply.bind(stage);
  stage.apply = (scene) => { apply(scene); seen.scenes.push(performance.now()); };
  const draw = stage.drawNow.bind(stage);
  stage.drawNow = () => { const from = performance.now(); draw(); seen.draws.push(performance.now() - from); };
  const fetched = window.fetch;
  window.fetch = async (address, options) => {
    if (!String(address).endsWith('/evaluate')) return fetched(address, options);
    seen.under += 1;
    seen.most = Math.max(seen.most, seen.under);
    seen.turns.push(turned);
    try { return await fetched(address, options); } finally { seen.under -= 1; }
  };
  window.watched = seen;
}"""


def dragged(page: Page, address: str, title: str, name: str) -> dict[str, Any]:
    """Drags a slide rule to and fro; gives the times that were watched (ms)."""
    page.goto(address)
    page.get_by_role("link", name=title).click()
    page.locator("body[data-settled='yes']").wait_for()
    page.wait_for_timeout(1500)
    page.evaluate(_WATCH)
    rule = page.locator(f"[data-input='{name}'] .rule-body")
    rule.scroll_into_view_if_needed()
    box = rule.bounding_box()
    assert box is not None
    y = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] / 2, y)
    page.mouse.down()
    began, step = time.monotonic(), 0
    while time.monotonic() - began < SECONDS:
        step += 1
        share = abs((step % 200) / 100 - 1)
        page.mouse.move(box["x"] + 6 + share * (box["width"] - 12), y)
        page.wait_for_timeout(16)
    page.mouse.up()
    page.locator("body[data-settled='yes']").wait_for()
    found: dict[str, Any] = page.evaluate("() => window.watched")
    shown = page.locator(f"#value-{name}").input_value()
    found["last"] = shown == page.locator(f"[data-input='{name}'] input").first.input_value()
    return found


def main() -> None:
    with tempfile.TemporaryDirectory() as name, sync_playwright() as playwright:
        folder = Path(name)
        managed(folder, "migrate")
        managed(folder, "load_demo")
        with served(folder, OVOLO_DEMO="1") as port:
            _measure(playwright, f"http://127.0.0.1:{port}")


def _measure(playwright: Playwright, address: str) -> None:
    """Drags in each study and prints the distribution."""
    browser = playwright.chromium.launch(
        executable_path="/usr/bin/chromium-headless-shell",
        args=["--no-sandbox", "--disable-background-networking"],
    )
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    print(
        f"{'turn to scene, ms':28}{'turns':>7}{'median':>9}{'95 %':>8}{'most':>8}   drawing median, 95 %"
    )
    for title, name in TURNED.items():
        found = dragged(page, address, title, name)
        times = [b - a for a, b in zip(found["turns"], found["scenes"], strict=False)]
        draws = found["draws"]
        print(
            f"{title:28}{len(times):7}{at_share(times, 0.5):9.0f}{at_share(times, 0.95):8.0f}{max(times):8.0f}"
            f"   {at_share(draws, 0.5):.0f}, {at_share(draws, 0.95):.0f}; at most {found['most']} request under way"
        )
    browser.close()


if __name__ == "__main__":
    main()
