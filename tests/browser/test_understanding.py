"""Understanding: working, threads, geometry and its line, items of an array, construction."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled, stage
from tests.browser.editor import open_line, press, type_line

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]


def hover_row(drive: Driver, name: str) -> None:
    drive(
        lambda page: page.locator(".row", has=page.locator(f".row-name:text-is('{name}')")).hover()
    )


def construction(drive: Driver) -> dict[str, tuple[int, int]]:
    found = drive(lambda page: page.evaluate("() => window.ovolo.stage.construction.report()"))
    return {one["name"]: (one["shapes"], one["points"]) for one in found}


def test_the_working_goes_down_to_the_inputs(stair: Study, drive: Driver) -> None:
    open_line(drive, "gap")
    press(drive, "Working")
    drive(lambda page: expect(page.locator("#working .working-step .katex").first).to_be_visible())
    said = drive(lambda page: page.locator("#working").inner_text())
    for label in (
        "Clear gap",
        "Widest gap between balusters",
        "Radius of the stair",
        "Going on the walking line",
    ):
        assert label in said
    assert drive(lambda page: page.locator("#working .katex-error").count()) == 0
    drive(lambda page: page.locator("#working .working-step button").last.click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())


def test_tall_brackets_are_drawn_as_wide_as_they_are(open_study: Opener, drive: Driver) -> None:
    """Their drawing may not bring a style of its own, which the page's policy refuses (and says so)."""
    open_study("Bores", TALL)
    open_line(drive, "bore")
    press(drive, "Working")
    drive(lambda page: page.locator("#working .katex svg").first.wait_for(state="attached"))
    widths = drive(lambda page: page.evaluate(_WIDTHS))
    assert widths and all(own == pytest.approx(around, rel=0.01) for own, around in widths)


TALL = """input size = "M6" of "M6", "M8", "M10", "M12"
bore = if size == "M6" then 6.6 mm else if size == "M8" then 9 mm else if size == "M10" then 11 mm else 13.5 mm
"""
_WIDTHS = """() => [...document.querySelectorAll('#working .katex svg')].map((one) => [one, one.parentElement]
  .map((node) => node.getBoundingClientRect().width))"""


LOWEST_IN_SIGHT = """() => {
  const end = document.getElementById("sheet").getBoundingClientRect().bottom;
  const rows = [...document.querySelectorAll("#sheet .row:has(.row-name)")];
  return rows.findLast((row) => row.getBoundingClientRect().bottom < end).querySelector(".row-name").textContent;
}"""


def test_the_working_leaves_its_line_in_sight_and_can_be_printed_alone(
    stair: Study, drive: Driver
) -> None:
    open_line(drive, drive(lambda page: page.evaluate(LOWEST_IN_SIGHT)))
    press(drive, "Working")
    drive(lambda page: page.locator("#working .katex").first.wait_for())
    drive(lambda page: expect(page.locator("#sheet .cm-content")).to_be_in_viewport(ratio=1))
    drive(lambda page: page.emulate_media(media="print"))
    drive(lambda page: expect(page.locator("#working")).to_be_visible())
    for hidden in ("header", "#sheet", "#stage", ".faceplate", "footer"):
        drive(lambda page, hidden=hidden: expect(page.locator(hidden).first).to_be_hidden())


def test_threads_tie_a_line_to_what_it_uses_and_what_uses_it(stair: Study, drive: Driver) -> None:
    hover_row(drive, "rise")
    drive(lambda page: expect(page.locator("#threads .uses")).to_have_count(2))
    dashed = drive(lambda page: page.locator("#threads .used-by").count())
    assert dashed == 7, "pitch, two checks, the treads, the balusters and two lines of the rail"
    untied = ".row.untied .row-name:text-is('post_radius')"
    drive(lambda page: expect(page.locator(untied)).to_have_count(1))
    parts = stage(drive)
    assert (
        parts["treads"]["marked"] and parts["balusters"]["marked"] and not parts["post"]["marked"]
    )
    drive(lambda page: page.mouse.move(900, 300))
    drive(lambda page: expect(page.locator("#threads path")).to_have_count(0))
    assert not stage(drive)["treads"]["marked"]
    drive(
        lambda page: page.locator(".row", has=page.locator(".row-name:text-is('risers')")).focus()
    )
    drive(lambda page: expect(page.locator("#threads .uses")).to_have_count(2))


def middle_of(drive: Driver, part: str, item: int) -> tuple[float, float]:
    """Where the middle of an item of a part is on the screen."""
    x, y = drive(lambda page: page.evaluate(
        """([part, item]) => {
          const { stage } = window.ovolo;
          const model = stage.parts.get(part);
          for (const mesh of model.meshes()) {
            const at = mesh.userData.items.indexOf(item);
            if (at < 0) continue;
            const matrix = mesh.matrixWorld.clone();
            mesh.getMatrixAt(at, matrix);
            const box = mesh.geometry.boundingBox.clone().applyMatrix4(matrix);
            const centre = box.getCenter(box.min.clone());
            centre.z = box.max.z;
            const place = stage.onScreen(centre);
            const host = stage.host.getBoundingClientRect();
            return [place.x + host.left, place.y + host.top];
          }
        }""", [part, item]))  # fmt: skip
    return x, y


def test_an_item_of_an_array_is_hovered_and_picked_with_the_values_that_made_it(
    boardwalk: Study, drive: Driver
) -> None:
    x, y = middle_of(drive, "boards", 20)
    drive(lambda page: page.mouse.move(x - 4, y - 4))
    drive(lambda page: page.mouse.move(x, y))
    drive(lambda page: expect(page.locator(".row.pointed .row-name")).to_have_text("boards"))
    x, y = middle_of(drive, "boards", 20)
    drive(lambda page: page.mouse.click(x, y))
    card = "#card"
    drive(lambda page: expect(page.locator(card)).to_contain_text("Whole boards, item 20"))
    said = drive(lambda page: page.locator(card).inner_text())
    assert "move x" in said and "2067.5 mm" in said.replace("\u2009", "")
    drive(lambda page: page.get_by_role("button", name="Open its line").click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_contain_text("part boards ="))


def test_construction_is_shown_while_its_line_is_chosen_or_pinned(
    open_study: Opener, drive: Driver
) -> None:
    open_study(
        "Datums", "foot = [polar(1 m, i * 60°) for i in 0 .. 5]\nbase = polygon(6, 1 m)\n"
        "part post = cylinder(50 mm, 1 m)\nn = 3"
    )  # fmt: skip
    assert construction(drive) == {}
    open_line(drive, "foot")
    settled(drive)
    assert construction(drive) == {"foot": (0, 6)}
    press(drive, "Pin on the stage")
    drive(lambda page: page.keyboard.press("Escape"))
    open_line(drive, "base")
    settled(drive)
    assert construction(drive) == {"foot": (0, 6), "base": (1, 0)}
    drive(lambda page: page.reload())
    settled(drive)
    assert construction(drive) == {"foot": (0, 6)}, "what is pinned stays"


def test_checks_show_the_measured_numbers_and_an_open_line_its_working(
    stair: Study, drive: Driver
) -> None:
    press(drive, "Checks 5 hold")
    said = drive(lambda page: page.locator("#drawer").inner_text()).replace("\u2009", "")
    assert "550 mm <= 600 mm <= 700 mm" in said and "✓ holds" in said
    open_line(drive, "rise")
    said = ".open-said .katex-mathml annotation"
    drive(lambda page: page.locator(said).wait_for(state="attached"))
    text = drive(lambda page: page.locator(said).text_content()) or ""
    assert r"\dfrac{3\,240\,\text{mm}}{18} = 180\,\text{mm}" in text
    assert drive(lambda page: page.locator(".open-said .katex-error").count()) == 0


def test_the_working_of_a_failing_line_says_why(stair: Study, drive: Driver) -> None:
    open_line(drive, "rise")
    type_line(drive, "rise = floor_height / (risers - 18)")
    open_line(drive, "rise")
    press(drive, "Working")
    drive(lambda page: expect(page.locator("#working")).to_contain_text("division by zero"))


def test_a_word_in_a_hint_is_looked_up(stair: Study, drive: Driver) -> None:
    drive(lambda page: page.get_by_role("button", name="Add a line", exact=True).click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())
    drive(lambda page: page.keyboard.insert_text("a = translate(side, 3 mm)"))
    settled(drive)
    drive(lambda page: page.locator(".open-said code.known", has_text="move").click())
    drive(
        lambda page: expect(page.locator("#words .word-explained")).to_contain_text(
            "moved by lengths"
        )
    )
    drive(
        lambda page: expect(page.locator(".editor .cm-content")).to_contain_text("translate(side")
    )
