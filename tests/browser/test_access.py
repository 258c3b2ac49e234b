"""Every screen is free of serious findings of axe-core."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from studio.projects.models import Project, Study
from tests.browser.conftest import Driver, place_on_screen, settled
from tests.browser.editor import open_line, type_line
from tests.sheets import demo

pytestmark = pytest.mark.browser
AXE = Path(__file__).parents[2] / "node_modules" / "axe-core" / "axe.min.js"


EVERY_KIND_OF_LINE = """study "Wind vane"
units mm, deg
# what it is for
== Fin ==
input chord = 300 mm from 100 mm to 900 mm step 5 mm "Chord"
input form = "plain" of "plain", "swept" "Form"
input nosing = yes "Rounded nosing"
input tip = (120 mm, 40 mm) "Tip"
half = chord / 2
twice(a) = 2 * a
part fin = row(box(half, 20 mm, 20 mm), 3, 2 * chord) colour by [1, 2, 3] "Fins"
part disc_ = disc(half) colour oak "Disc"
check half < chord "half is less"
check half > chord "half is more"
dim chord from (0 mm, 0 mm) to (chord, 0 mm)
preset "Small": chord = 120 mm
"""


@pytest.fixture
def vane(open_study: Callable[[str, str], Study]) -> Study:
    return open_study("Wind vane", EVERY_KIND_OF_LINE)


def serious(drive: Driver) -> list[str]:
    """Findings of serious or critical weight, each with the place it was found at."""

    def run(page: Any) -> list[dict[str, Any]]:
        if not page.evaluate("() => 'axe' in window"):
            page.evaluate(AXE.read_text(encoding="utf-8"))
        found: dict[str, Any] = page.evaluate("() => axe.run({ resultTypes: ['violations'] })")
        return found["violations"]  # type: ignore[no-any-return]

    return [
        f"{one['id']}: {node['html'][:160]}"
        for one in drive(run)
        if one["impact"] in ("serious", "critical")
        for node in one["nodes"]
    ]


def test_the_workspace(stair: Study, drive: Driver) -> None:
    assert serious(drive) == []


def test_lines_open_and_with_problems(vane: Study, drive: Driver) -> None:
    open_line(drive, "half")
    assert serious(drive) == [], "with a line open"
    type_line(drive, "half = chord / (2")
    drive(lambda page: page.locator("footer button").last.click())
    assert serious(drive) == [], "with problems and the drawer open"


def test_each_panel_of_the_workspace(vane: Study, drive: Driver) -> None:
    """Panels are opened beside one another and looked at together."""

    def press(name: str) -> None:
        drive(lambda page: page.get_by_role("button", name=name, exact=True).last.click())
        settled(drive)

    for opened in (
        ("As text", "History"),
        ("Cut", "Looks", "Working"),
        ("Parts 2", "Schedule", "Measure"),
        ("Files",),
    ):
        for name in opened:
            press(name)
        assert serious(drive) == [], f"with {opened} opened"
    press("As text")
    press("Insert…")
    assert serious(drive) == []


def test_an_item_a_form_and_the_keys(vane: Study, drive: Driver) -> None:
    x, y = place_on_screen(drive, [0, 0, 20])
    drive(lambda page: page.mouse.click(x, y))
    drive(lambda page: page.locator("#card").wait_for())
    assert serious(drive) == [], "with an item picked"
    drive(lambda page: page.get_by_role("button", name="Insert…").last.click())
    drive(lambda page: page.locator("#insert .offer").first.click())
    assert serious(drive) == [], "with a line to fill"
    drive(lambda page: page.keyboard.press("Escape"))
    drive(lambda page: page.locator("body").press("?"))
    assert serious(drive) == [], "with the keys listed"


def test_narrow_and_wide(vane: Study, drive: Driver) -> None:
    for width in (768, 1024, 1920):
        drive(lambda page, width=width: page.set_viewport_size({"width": width, "height": 800}))  # type: ignore[misc]
        settled(drive)
        over = drive(
            lambda page: page.evaluate("() => document.documentElement.scrollWidth > innerWidth")
        )
        assert not over, f"nothing runs over the side at {width} pixels"
        cut = drive(lambda page: page.locator("h1 b").evaluate("(one) => one.scrollWidth > one.clientWidth"))  # fmt: skip
        assert not cut, f"the name of the study is seen whole at {width} pixels"
        if width == 768:
            assert serious(drive) == [], f"at {width} pixels"


def test_the_workspace_in_the_dark(vane: Study, drive: Driver) -> None:
    drive(lambda page: page.emulate_media(color_scheme="dark"))
    settled(drive)
    assert serious(drive) == []


@pytest.mark.painted
def test_projects(project: Project, drive: Driver) -> None:
    Study.objects.create(project=project, title="Boardwalk").save_text(demo("boardwalk"), None)
    drive.visit("/")
    drive(lambda page: page.locator("canvas[data-drawn=yes]").wait_for())
    assert serious(drive) == []


def test_sign_in(drive: Driver) -> None:
    drive.visit("/sign-in/")
    assert serious(drive) == []


def test_variations_aim_and_proof(vane: Study, drive: Driver) -> None:
    for name in ("Proof", "Try and prove"):
        drive(lambda page, name=name: page.get_by_role("button", name=name, exact=True).click())  # type: ignore[misc]
    settled(drive)
    open_line(drive, "half")
    drive(lambda page: page.get_by_role("button", name="Aim and reach…").click())
    drive(lambda page: page.locator("#aim-goal").fill("200 mm"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert serious(drive) == []
    drive.visit(f"/studies/{vane.pk}/variations")
    drive(lambda page: page.get_by_label("Trials").fill("6"))
    drive(lambda page: page.keyboard.press("Tab"))
    drive(lambda page: page.get_by_role("button", name="Work it out").click())
    settled(drive)
    assert serious(drive) == []
    for name in ("Pin number 1", "Pin number 2", "Compare 2 pinned"):
        drive(lambda page, name=name: page.get_by_role("button", name=name, exact=True).click())  # type: ignore[misc]
    settled(drive)
    assert serious(drive) == []
