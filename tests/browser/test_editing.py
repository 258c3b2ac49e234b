"""Edits of the sheet from the screen: presets, renaming, inputs and formulas, moving, files."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Study
from tests.browser.conftest import Driver, settled, stage
from tests.browser.editor import add_line, alert, let_go, open_line, press, row_value
from tests.browser.test_workspace import drag_rule, head_text

pytestmark = pytest.mark.browser


def test_presets_are_applied_matched_and_saved(boardwalk: Study, drive: Driver) -> None:
    def pressed() -> list[str]:
        return drive(
            lambda page: page.locator(
                "[aria-label=Faceplate] .word[aria-pressed=true]"
            ).all_inner_texts()
        )

    assert pressed() == []
    press(drive, "Landing stage")
    assert pressed() == ["Landing stage"]
    assert row_value(drive, "walk_length") == "2400 mm" and row_value(drive, "board") == "145 mm"
    assert boardwalk.revisions.count() == 2, "a preset is one change"
    drag_rule(drive, "gap", 1.0)
    assert pressed() == []

    def save(page: Page) -> None:
        page.get_by_role("button", name="Save these values").click()
        page.locator("#preset-title").fill("Wide gaps")
        page.keyboard.press("Enter")

    drive(save)
    settled(drive)
    assert pressed() == ["Wide gaps"]
    assert (
        'preset "Wide gaps": walk_length = 2400 mm, walk_width = 1800 mm, size = "wide", gap = 20 mm'
        in head_text(boardwalk)
    )


def test_a_formula_typed_into_a_value_box_takes_the_place_of_the_input(
    stair: Study, drive: Driver
) -> None:
    def type_formula(page: Page) -> None:
        page.locator("#value-going").fill("=floor_height / 12")
        page.keyboard.press("Enter")

    drive(type_formula)
    settled(drive)
    assert row_value(drive, "going") == "270 mm"
    assert 'going = floor_height / 12 "Going on the walking line"' in head_text(stair)
    assert drive(lambda page: page.locator("[data-input=going]").count()) == 0
    assert drive(lambda page: page.locator(".row.failing").count()) == 0
    presets = [line for line in head_text(stair).split("\n") if line.startswith("preset")]
    assert presets and all("going = " in line for line in presets)

    def forget(page: Page) -> None:
        page.locator(".row.preset").first.click()
        page.get_by_role("button", name="Take going out of all presets").click()

    drive(forget)
    settled(drive)
    presets = [line for line in head_text(stair).split("\n") if line.startswith("preset")]
    assert presets and not any("going = " in line for line in presets)


def test_lines_become_inputs_and_back_are_moved_and_renamed(stair: Study, drive: Driver) -> None:
    open_line(drive, "thickness")
    press(drive, "Make it an input")
    assert "input thickness = 40 mm\n" in head_text(stair)
    drag_rule(drive, "thickness", 1.0)
    assert row_value(drive, "thickness") == "80 mm"
    open_line(drive, "thickness")
    press(drive, "Make it a formula")
    assert "\nthickness = 80 mm\n" in head_text(stair)
    open_line(drive, "going")
    press(drive, "Move up")
    text = head_text(stair)
    assert text.index("input going") < text.index("input floor_height")

    def open_section(page: Page) -> None:
        page.locator(".row.section", has_text="Post").click()

    drive(open_section)
    press(drive, "Move up")
    text = head_text(stair)
    assert text.index("== Post ==") < text.index("== Balustrade ==")
    assert text.index("part post") < text.index("== Balustrade ==")
    assert stage(drive)["post"]["instances"] == 1
    open_line(drive, "rise")

    def rename(page: Page, new: str) -> None:
        page.get_by_role("button", name="Rename everywhere").click()
        page.locator("#new-name").fill(new)
        page.keyboard.press("Enter")

    drive(lambda page: rename(page, "going"))
    settled(drive)
    assert "already the name of line" in alert(drive)
    drive(lambda page: page.locator("#new-name").fill("step_height"))
    drive(lambda page: page.get_by_role("button", name="Rename", exact=True).click())
    settled(drive)
    assert row_value(drive, "step_height") == "180 mm"
    assert "pitch = atan(step_height / going)" in head_text(stair)
    assert stage(drive)["treads"]["instances"] == 17


def test_deleting_says_who_needs_the_line(stair: Study, drive: Driver) -> None:
    open_line(drive, "pitch")
    press(drive, "Delete line")
    assert "pitch" not in head_text(stair), "nothing needs it"
    open_line(drive, "risers")
    press(drive, "Delete line")
    assert "4 lines need risers: rise (line 9)" in alert(drive)
    assert "risers = ceil" in head_text(stair)
    press(drive, "Delete all the same")
    assert "risers = ceil" not in head_text(stair)
    assert "nothing here is called risers" in row_value(drive, "rise")


def test_a_table_is_attached_seen_replaced_and_removed(
    open_study: Callable[[str, str], Study], drive: Driver, tmp_path: Path
) -> None:
    study = open_study(
        "Plate", 'file bolts = "bolts.csv"\nhole = lookup(bolts, "hole", size = "M8")'
    )
    assert row_value(drive, "bolts") == "there is no file bolts.csv"

    def attach(data: bytes) -> None:
        file = tmp_path / "bolts.csv"
        file.write_bytes(data)
        drive(lambda page: page.locator("#attach").set_input_files(file))
        settled(drive)

    drive(lambda page: page.get_by_role("button", name="Files").click())
    attach(b"size,hole [mm]\nM6,6.6\nM8,9\n")
    assert row_value(drive, "hole") == "9 mm"
    drive(lambda page: page.get_by_role("button", name="See").click())
    drive(lambda page: expect(page.locator("#drawer td")).to_have_text(["M6", "6.6", "M8", "9"]))
    attach(b"size,hole [mm]\nM8,8.4\n")
    assert row_value(drive, "hole") == "8.4 mm"
    attach(b"size;hole [mm]\nM8;8,400\nM9;9,100\n")
    refused = alert(drive)
    assert "it could be 8400 or 8.400" in refused and ": write" in refused
    assert row_value(drive, "hole") == "8.4 mm", "a bad file replaces nothing"
    attach(b"a" * 20_000_001)
    said = alert(drive)
    assert "bolts.csv has 20,000,001 bytes; at most 20,000,000 are taken" in said
    assert ": " not in said, "the hint of the refusal before is gone"

    def download(page: Page) -> bytes:
        with page.expect_download() as caught:
            page.get_by_role("link", name="Download").click()
        return Path(caught.value.path()).read_bytes()

    assert drive(download) == b"size,hole [mm]\nM8,8.4\n"
    press(drive, "Remove")
    assert row_value(drive, "bolts") == "there is no file bolts.csv"
    assert study.attachments.count() == 0


def test_quiet_hints_stand_at_their_lines(boardwalk: Study, drive: Driver) -> None:
    add_line(drive, "input spare = 3 mm")

    def look(page: Page) -> tuple[str, str | None]:
        row = page.locator(".row", has=page.locator(".row-name:text-is('spare')"))
        return row.locator(".row-margin").inner_text(), row.get_attribute("title")

    mark, title = drive(look)
    assert mark.startswith("◦") and title == "nothing uses the input `spare`"
    assert drive(lambda page: page.locator("footer").inner_text()).endswith("no problems")


def test_a_drawing_is_attached_and_drawn_upon(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    from ovolo.formats.export import exported
    from tests.sheets import run

    data = exported(run("part rim = circle(40 mm)"), "plan.dxf")
    open_study("Plate", 'file plan = "plan.dxf"\npart ring = region(offset(plan.rim[0], 10 mm))')
    drive(lambda page: page.get_by_role("button", name="Files").click())
    file = {"name": "plan.dxf", "mimeType": "image/vnd.dxf", "buffer": data}
    drive(lambda page: page.locator("#attach").set_input_files(file))  # type: ignore[arg-type]
    settled(drive)
    assert stage(drive)["ring"]["instances"] == 1
    drive(lambda page: page.get_by_role("button", name="See").click())
    drive(
        lambda page: expect(page.locator("#drawer td")).to_have_text(["rim", "rim", "1", "251.327"])
    )


def test_flat_parts_are_handed_over_as_drawings(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    from pathlib import Path

    open_study("Plate", "part plate = rect(60 mm, 40 mm) - disc(5 mm) hatch 45°, 4 mm\n"
               "dim diameter 10 mm about (0 mm, 0 mm) through (5 mm, 0 mm)")  # fmt: skip
    assert stage(drive)["plate"]["hatched"]
    assert drive(lambda page: page.locator(".dim-said b").inner_text()) == "⌀ 10 mm"

    def save(page: Page, name: str) -> bytes:
        if not page.locator("#hand-over[open]").count():
            page.locator("#hand-over summary").click()
        with page.expect_download() as caught:
            page.get_by_role("link", name=name).click()
        return Path(caught.value.path()).read_bytes()

    assert b"<svg" in drive(lambda page: save(page, "Flat parts as SVG"))
    assert b"LWPOLYLINE" in drive(lambda page: save(page, "Flat parts as DXF"))


def test_files_that_are_let_go_over_the_page_are_attached(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    """Also over the editor, which would take its text; one that cannot be read is refused in words."""
    study = open_study("Bolts", "a = 1 mm")
    open_line(drive, "a")

    table = "size,hole [mm]\nM6,6.6\n"
    let_go(drive, ".editor .cm-content", {"bolts.csv": table, "nuts.csv": table})
    settled(drive)
    assert sorted(one.name for one in study.attachments.all()) == ["bolts.csv", "nuts.csv"]
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_have_text("a = 1 mm"))
    drive(lambda page: expect(page.locator("#drawer")).to_contain_text("bolts.csv"))
    mixed = {"bolts.doc": table, "washers.csv": table, "nuts.doc": table}
    let_go(drive, "#stage canvas", mixed)
    settled(drive)
    said = alert(drive)
    assert "bolts.doc" in said and "nuts.doc" in said, "also where another was taken after it"
    assert study.attachments.count() == 3
