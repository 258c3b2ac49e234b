"""How long a turn of a slide rule takes, from the turn to the new scene handed to the renderer.

`make bench-drag` serves the demonstration from a database of its own, drags a slide rule of each
study for five seconds in headless Chromium and prints the distribution. The time of drawing is
printed beside it: in a headless browser it is done in software, on the same processors.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
PORT = 8765
ADDRESS = f"http://127.0.0.1:{PORT}"
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


@contextmanager
def served() -> Iterator[None]:
    """The demonstration, served from a fresh database."""
    with tempfile.TemporaryDirectory() as folder:
        environment = {**os.environ, "OVOLO_VAR": folder, "OVOLO_DEMO": "1", "PORT": str(PORT)}
        manage = [sys.executable, "manage.py"]
        for command in ("migrate", "load_demo"):
            subprocess.run(
                [*manage, command, "-v", "0"], cwd=ROOT, env=environment, check=True,
                stdout=subprocess.DEVNULL,
            )  # fmt: skip
        gunicorn = [
            str(Path(sys.executable).with_name("gunicorn")),
            "-c",
            "studio/config/gunicorn.py",
        ]
        server = subprocess.Popen([*gunicorn, "studio.config.wsgi"], cwd=ROOT, env=environment)
        try:
            _wait()
            yield
        finally:
            server.terminate()
            server.wait(15)


def _wait() -> None:
    for _ in range(100):
        try:
            urllib.request.urlopen(ADDRESS, timeout=2)
            return
        except OSError:
            time.sleep(0.1)
    raise SystemExit("the server did not start")


def dragged(page: Page, title: str, name: str) -> dict[str, Any]:
    """Drags a slide rule to and fro; gives the times that were watched (ms)."""
    page.goto(ADDRESS)
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


def _share(times: list[float], share: float) -> float:
    ordered = sorted(times) or [0.0]
    return ordered[min(int(share * len(ordered)), len(ordered) - 1)]


def main() -> None:
    with served(), sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium",
            args=["--no-sandbox", "--disable-background-networking"],
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        print(
            f"{'turn to scene, ms':28}{'turns':>7}{'median':>9}{'95 %':>8}{'most':>8}   drawing median, 95 %"
        )
        for title, name in TURNED.items():
            found = dragged(page, title, name)
            times = [b - a for a, b in zip(found["turns"], found["scenes"], strict=False)]
            draws = found["draws"]
            print(
                f"{title:28}{len(times):7}{_share(times, 0.5):9.0f}{_share(times, 0.95):8.0f}{max(times):8.0f}"
                f"   {_share(draws, 0.5):.0f}, {_share(draws, 0.95):.0f}; at most {found['most']} request under way"
            )
        browser.close()


if __name__ == "__main__":
    main()
