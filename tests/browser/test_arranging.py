"""How the screen is arranged: dividers, notes below lines, groups of inputs, units of the scale bar."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import press
from tests.browser.test_workspace import head_text

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]


def drag_divider(drive: Driver, name: str, dx: float, dy: float) -> None:
    def drag(page: Page) -> None:
        box = page.get_by_role("separator", name=name).bounding_box()
        assert box
        x, y = box["x"] + min(box["width"] / 2, 60), box["y"] + min(box["height"] / 2, 60)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + dx, y + dy, steps=4)
        page.mouse.up()

    drive(drag)


def size(drive: Driver, part: str) -> tuple[float, float]:
    box = drive(lambda page: page.locator(part).bounding_box())
    assert box
    return box["width"], box["height"]


def test_dividers_are_dragged_turned_by_keys_and_remembered(
    boardwalk: Study, drive: Driver
) -> None:
    width, height = size(drive, "#sheet-side")[0], size(drive, "#faceplate-side")[1]
    drag_divider(drive, "Between sheet and stage", 100, 0)
    drag_divider(drive, "Between stage and faceplate", 0, -50)
    assert size(drive, "#sheet-side")[0] == pytest.approx(width + 100, abs=1)
    assert size(drive, "#faceplate-side")[1] == pytest.approx(height + 50, abs=1)
    drive(lambda page: page.reload())
    settled(drive)
    assert size(drive, "#sheet-side")[0] == pytest.approx(width + 100, abs=1)
    drive(lambda page: page.get_by_role("separator", name="Between sheet and stage").focus())
    drive(lambda page: page.keyboard.press("ArrowLeft"))
    assert size(drive, "#sheet-side")[0] == pytest.approx(width + 76, abs=1)
    drive(lambda page: page.get_by_role("separator", name="Between sheet and stage").dblclick())
    assert size(drive, "#sheet-side")[0] == pytest.approx(width, abs=1)
    drag_divider(drive, "Between sheet and stage", 3000, 0)
    assert size(drive, "#stage")[0] >= 400, "the other side keeps its room"


def test_a_long_line_is_seen_whole(open_study: Opener, drive: Driver) -> None:
    line = "total = " + " + ".join(f"{n} mm" for n in range(100, 118))
    open_study("Sum", line)
    row = drive(lambda page: page.locator(".row-said").first.evaluate(
        "(one) => [one.scrollHeight <= one.clientHeight + 1, one.scrollWidth <= one.clientWidth + 1]"
    ))  # fmt: skip
    assert row == [True, True]


def test_small_groups_of_inputs_stand_side_by_side(open_study: Opener, drive: Driver) -> None:
    text = "\n".join(
        f"== Group {k} ==\ninput a{k} = {k + 1} mm from 0 mm to 9 mm" for k in range(3)
    )
    open_study("Groups", text)
    tops = drive(lambda page: page.locator(".input-group").evaluate_all(
        "(all) => all.map((one) => Math.round(one.getBoundingClientRect().top))"
    ))  # fmt: skip
    assert len(tops) == 3 and len(set(tops)) == 1


@pytest.mark.parametrize(("units", "said"), [("ft-in", "ft"), ("cm", "cm"), ("mm", "m")])
def test_scale_and_grid_are_in_the_units_of_the_study(
    open_study: Opener, drive: Driver, units: str, said: str
) -> None:
    open_study("Wall", f"units {units}\npart wall = box(9 m, 300 mm, 3 m)")
    scale = drive(lambda page: page.get_by_label("Scale", exact=True).inner_text())
    first, grid = scale.split("grid")
    assert first.split()[-1] == said and grid.split()[-1] == said


def test_only_the_parts_that_are_ticked_are_handed_over(boardwalk: Study, drive: Driver) -> None:
    import io
    import zipfile

    def open_menu(page: Page) -> None:
        page.locator("summary", has_text="Hand over").click()

    drive(open_menu)
    drive(lambda page: expect(page.locator("#hand-over")).to_contain_text("triangles"))
    labels = drive(lambda page: page.locator("#hand-over label").all_inner_texts())
    assert len(labels) > 2
    for label in labels[1:]:
        drive(lambda page, label=label: page.locator("#hand-over").get_by_label(label, exact=True).uncheck())  # type: ignore[misc]  # fmt: skip

    def take(page: Page) -> bytes:
        with page.expect_download() as caught:
            page.locator("#hand-over").get_by_role("link", name="Each part as STL").first.click()
        assert caught.value.suggested_filename == "boardwalk.stl.zip"
        return caught.value.path().read_bytes()

    names = zipfile.ZipFile(io.BytesIO(drive(take))).namelist()
    assert len(names) == 1
    drive(open_menu)
    drive(lambda page: page.locator("#hand-over").get_by_label(labels[0], exact=True).uncheck())
    drive(lambda page: expect(page.locator("#hand-over")).to_contain_text("no part is ticked"))
    drive(lambda page: page.locator("#hand-over").get_by_role("link", name="Solids as STEP").click())  # fmt: skip
    drive(lambda page: expect(page.get_by_role("alert")).to_contain_text("no part is ticked"))


def test_the_text_of_a_sheet_is_searched_replaced_and_commented_out(
    open_study: Opener, drive: Driver
) -> None:
    study = open_study("Shelf", "wide = 3 mm\ntwice = 2 * wide\nthrice = 3 * wide")

    def replace(page: Page) -> None:
        page.get_by_role("button", name="As text").click()
        page.locator("#as-text .cm-content").click()
        page.keyboard.press("Control+f")
        page.locator(".cm-search [name=search]").fill("wide")
        page.locator(".cm-search input[name=replace]").fill("broad")
        page.locator(".cm-search [name=replaceAll]").click()
        page.keyboard.press("Escape")
        page.locator("#as-text .cm-content").click()
        page.keyboard.press("Control+End")
        page.keyboard.press("Control+/")

    drive(replace)
    drive(lambda page: page.wait_for_timeout(1500))
    settled(drive)
    assert head_text(study) == "broad = 3 mm\ntwice = 2 * broad\n# thrice = 3 * broad"
    drive(lambda page: page.keyboard.press("Alt+ArrowUp"))
    drive(lambda page: page.wait_for_timeout(1500))
    settled(drive)
    assert head_text(study) == "broad = 3 mm\n# thrice = 3 * broad\ntwice = 2 * broad"


def test_regions_are_reached_by_one_key_and_what_stands_below_lines_is_switched_off(
    boardwalk: Study, drive: Driver
) -> None:
    def regions(page: Page) -> list[str]:
        found = []
        page.locator("h1 a").focus()
        for _ in range(4):
            page.keyboard.press("F6")
            found.append(
                page.evaluate(
                    "() => document.activeElement.closest('[data-region]').dataset.region"
                )
            )
        return found

    assert drive(regions) == ["sheet", "stage", "faceplate", "head"]

    def tab_from_a_line(page: Page) -> bool:
        page.locator(".row").nth(4).focus()
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Tab")
        row: bool = page.evaluate("() => document.activeElement.matches('.row')")
        return row

    assert not drive(tab_from_a_line)
    drive(lambda page: page.keyboard.press("Shift+Tab"))
    drive(lambda page: expect(page.locator(".row").nth(5)).to_be_focused())
    comment = "a narrower board is not worth cutting"
    drive(lambda page: expect(page.get_by_text(comment, exact=True)).to_be_visible())
    press(drive, "Notes")
    drive(lambda page: expect(page.get_by_text(comment, exact=True)).to_have_count(0))
    drive(lambda page: page.reload())
    settled(drive)
    drive(lambda page: expect(page.get_by_text(comment, exact=True)).to_have_count(0))
