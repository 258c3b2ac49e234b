"""Studies used in others, the schedule, colours by value, and work that is stopped."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Picture, Project, Study
from tests.browser.conftest import Driver, settled, stage
from tests.browser.editor import alert, open_line, press

pytestmark = pytest.mark.browser

PEG = 'study "Peg"\ninput long = 80 mm from 10 mm to 300 mm\npart body = cylinder(6 mm, long) colour brass'
SQUARE = PEG.replace('"Peg"', '"Square peg"').replace("cylinder(6 mm, long)", "box(12 mm, 12 mm, long)")  # fmt: skip
OTHER = 'study "Hoop"\ninput wide = 80 mm\npart hoop = disc(wide)'
RACK = (
    'study "Rack"\nuse peg from "Peg"\ninput n = 5 from 0 to 40 step 1 "Pegs"\n'
    'part pegs = row(peg(long = 60 mm), n, 30 mm) "Pegs"\n'
    "part tags = row(box(8 mm, 8 mm, 2 mm), n, 30 mm).move(y = 40 mm) colour by [i * 1 mm for i in 0 .. n - 1]"
)


@pytest.fixture
def rack(project: Project, open_study: Callable[[str, str], Study]) -> Study:
    for title, text in (("Peg", PEG), ("Square peg", SQUARE), ("Hoop", OTHER)):
        Study.objects.create(project=project, title=title).save_text(text, None)
    return open_study("Rack", RACK)


def test_a_study_is_swapped_for_another_that_fits(rack: Study, drive: Driver) -> None:
    assert stage(drive)["pegs"]["instances"] == 5
    open_line(drive, "peg")
    press(drive, "Swap…")
    offers = drive(lambda page: page.locator("[aria-label='Studies to swap for'] li").all_inner_texts())  # fmt: skip
    assert "Square peg" in offers[0] and "fits" in offers[0]
    assert "lacks long, set here" in offers[1] and "misfits" in offers[1]
    press(drive, "Square peg")
    rack.refresh_from_db()
    assert 'use peg from "Square peg"' in rack.text
    press(drive, "Undo")
    rack.refresh_from_db()
    assert 'use peg from "Peg"' in rack.text


def test_renaming_an_input_is_followed_by_those_that_set_it(
    rack: Study, project: Project, drive: Driver
) -> None:
    peg = project.studies.get(title="Peg")
    drive.visit(f"/studies/{peg.pk}/?antialias=off")
    settled(drive)
    press(drive, "Files")
    users = drive(lambda page: page.locator("#drawer").inner_text())
    assert "Rack" in users and "sets long" in users
    open_line(drive, "long")
    press(drive, "Rename everywhere")
    drive(lambda page: page.locator("#new-name").fill("tall"))
    press(drive, "Rename")
    settled(drive)
    peg.refresh_from_db()
    rack.refresh_from_db()
    assert "input tall" in peg.text and "tall = " in rack.text and "long" not in rack.text
    drive.visit(f"/studies/{rack.pk}/?antialias=off")
    settled(drive)
    assert drive(lambda page: page.locator(".row.failing").count()) == 0


def test_a_change_of_what_is_used_travels(rack: Study, project: Project, drive: Driver) -> None:
    peg = project.studies.get(title="Peg")
    before = stage(drive)["pegs"]["top"]
    peg.save_text(PEG.replace("cylinder(6 mm, long)", "cylinder(6 mm, 2 * long)"), peg.head_id)
    drive(lambda page: page.evaluate("() => dispatchEvent(new Event('focus'))"))
    for _ in range(100):
        if stage(drive)["pegs"]["top"] != before:
            break
        drive(lambda page: page.wait_for_timeout(100))
    assert (before, stage(drive)["pegs"]["top"]) == (60, 120)


def test_the_pieces_are_cut_from_bars_and_again_when_they_change(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    open_study(
        "Frame",
        "units m\ninput n = 7 from 1 to 20 step 1\npart posts = row(box(90 mm, 90 mm, 1.1 m), n, 1 m)",
    )
    press(drive, "Parts 1")
    press(drive, "Schedule")

    def cut(page: Page, bar: str) -> None:
        page.get_by_label("from bars of").fill(bar)
        page.get_by_label("a cut takes").fill("3 mm")
        page.get_by_role("button", name="Cut them").click()

    drive(lambda page: cut(page, "1"))
    drive(lambda page: expect(page.locator("#drawer .complaint").last).to_contain_text("longer than a bar by 100 mm"))  # fmt: skip
    drive(lambda page: cut(page, "6"))
    drive(lambda page: expect(page.locator("#drawer")).to_contain_text("7 pieces from 2 bars of 6 m (fewer will not do)"))  # fmt: skip
    drive(lambda page: page.locator("#value-n").fill("11"))
    drive(lambda page: page.locator("#value-n").press("Enter"))
    drive(lambda page: expect(page.locator("#drawer")).to_contain_text("11 pieces from 3 bars"))


def test_colours_by_value_have_a_legend_and_the_schedule_follows_the_parts(
    rack: Study, drive: Driver
) -> None:
    assert stage(drive)["tags"]["coloured"] and not stage(drive)["pegs"]["coloured"]
    legend = drive(lambda page: page.locator(".legend li").all_inner_texts())
    assert [one.strip() for one in legend] == ["0 mm", "1 mm", "2 mm", "3 mm", "4 mm"]
    press(drive, "Parts 2")
    press(drive, "Schedule")
    cells = "#schedule tbody tr:first-of-type td"
    assert drive(lambda page: page.locator(cells).all_inner_texts())[:4] == ["A", "Pegs", "5", "60"]
    assert "2 kinds of piece, 10 in all" in drive(lambda page: page.locator("#drawer").inner_text())
    box = "#value-n"
    drive(lambda page: page.locator(box).fill("7"))
    drive(lambda page: page.locator(box).press("Enter"))
    drive(lambda page: expect(page.locator(cells).nth(2)).to_have_text("7"))


def test_the_schedule_follows_sizes_though_the_list_of_parts_stays(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    open_study("Rails", "input long = 600 mm from 100 mm to 900 mm\npart rails = [box(long, 40 mm, 20 mm).move(i * 1 m) for i in 0 .. 2]")  # fmt: skip
    press(drive, "Parts 1")
    press(drive, "Schedule")
    row = "#schedule tbody tr"
    drive(lambda page: expect(page.locator(row)).to_contain_text("600"))
    drive(lambda page: page.locator("#value-long").fill("700"))
    drive(lambda page: page.locator("#value-long").press("Enter"))
    drive(lambda page: expect(page.locator(row)).to_contain_text("700"))


@pytest.mark.parametrize(
    "made", ["circle(80 mm).move(i * 200 mm)", "surface((u, v) -> (u * 1 m, v * 1 m, i * 1 m))"]
)
def test_curves_and_surfaces_have_the_colours_of_their_values(
    made: str, open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    open_study(
        "Hoops", f"part hoops = [{made} for i in 0 .. 2] colour #FF0000 to #0000FF by [0, 1, 2]"
    )
    colours = drive(
        lambda page: page.evaluate(
            """() => window.ovolo.stage.parts.get("hoops").group.children
              .filter((one) => one.instanceColor && one.geometry.attributes.position.count)
              .map((one) => [...one.instanceColor.array.slice(0, 3)].map(Math.round))"""
        )
    )
    assert colours[0] == [1, 0, 0] and colours[-1] == [0, 0, 1]


def test_long_work_is_told_and_stopped(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    slow = 'sum([sum([len("{i * j}") for i in 0 .. 3000]) for j in 0 .. 3000])'
    study = open_study("Quick", "quick = 1 + 1")
    study.save_text(f"slow = {slow}", study.head_id)
    drive(lambda page: page.reload(wait_until="commit"))
    drive(lambda page: page.locator("#long-work").wait_for())
    assert "of at most 9 s" in drive(lambda page: page.locator("#long-work").inner_text())
    press(drive, "Stop")
    assert "it was stopped" in alert(drive)


def test_what_other_studies_offer_is_listed_and_used(rack: Study, drive: Driver) -> None:
    drive(lambda page: page.get_by_role("button", name="Add a line", exact=True).click())
    drive(lambda page: page.locator(".editor .cm-content").focus())
    drive(lambda page: page.keyboard.type("x = peg("))
    drive(lambda page: page.locator(".word-card", has_text="long = 80 mm").first.wait_for())
    drive(lambda page: page.keyboard.type("long = 20 mm).bo", delay=20))
    drive(lambda page: page.locator(".cm-tooltip-autocomplete li", has_text="of the study").wait_for())  # fmt: skip
    drive(lambda page: page.keyboard.press("Escape"))
    drive(lambda page: page.keyboard.press("Escape"))
    press(drive, "Files")
    drive(lambda page: page.locator("#drawer li", has_text="wide").get_by_role("button", name="Use").click())  # fmt: skip
    settled(drive)
    rack.refresh_from_db()
    assert rack.text.split("\n")[2] == 'use hoop from "Hoop"'


@pytest.mark.painted
def test_what_is_round_has_a_contour_and_all_cast_shadows_but_not_while_they_move_in_software(
    open_study: Callable[[str, str], Study], drive: Driver
) -> None:
    study = open_study("Ball", "part ball = sphere(30 mm)\npart block = box(9 mm, 9 mm, 9 mm).move(x = 90 mm)\npart many = sphere(600 mm).move(y = 2 m)")  # fmt: skip
    assert not stage(drive)["ball"]["contoured"], "where it is drawn plainly"
    drive.visit(f"/studies/{study.pk}/")
    settled(drive)
    for _ in range(50):  # drawn in software, it waits until everything rests
        if stage(drive)["ball"]["contoured"]:
            break
        drive(lambda page: page.wait_for_timeout(200))
    assert stage(drive)["ball"]["contoured"] and not stage(drive)["block"]["contoured"]
    edges = "() => window.ovolo.stage.parts.get('block').edgeMaterial.opacity"
    strength = drive(lambda page: page.evaluate(edges))
    shadows = "window.ovolo.stage.ground.shadow.children.length"
    assert drive(lambda page: page.evaluate(shadows)) == 3
    contoured = "window.ovolo.stage.report().find((one) => one.name === 'ball').contoured"
    moving = f"() => {{ window.ovolo.stage.moved(); return [{shadows}, {contoured}]; }}"
    assert drive(lambda page: page.evaluate(moving)) == [0, False]
    drive(lambda page: page.wait_for_function(f"() => {shadows} === 3"))
    # Many triangles are fewer while they move, for the eye only: what is picked is the same.
    many = "window.ovolo.stage.parts.get('many')"
    picked = """(() => {
      const { stage } = window.ovolo;
      const box = stage.parts.get("many").bounds;
      const at = stage.onScreen(box.getCenter(box.min.clone()));
      const { left, top } = stage.host.getBoundingClientRect();
      const found = stage.picking.itemAt(left + at.x + 3, top + at.y - 5);
      return [found.part, ...found.point.toArray()];
    })()"""
    drawn = f"{many}.group.children.filter((one) => one.visible && one.isMesh).map((one) => one.geometry.index.count)"
    looked = f"() => [{picked}, {many}.report().coarse, {drawn}.at(-1)]"
    at_rest = drive(lambda page: page.evaluate(looked))
    moved = drive(
        lambda page: page.evaluate(f"() => {{ window.ovolo.stage.moved(); return ({looked})(); }}")
    )
    assert (at_rest[1], moved[1]) == (False, True)
    assert moved[2] < at_rest[2] / 3
    assert moved[0] == [at_rest[0][0], *map(pytest.approx, at_rest[0][1:])]
    drive(lambda page: page.wait_for_function(f"() => !{many}.report().coarse"))

    def saved(page: Page, first: str) -> bytes:
        page.evaluate(f"() => {first}")
        with page.expect_download() as download:
            page.evaluate("() => document.querySelector('#looks-picture button').click()")
        return download.value.path().read_bytes()

    press(drive, "Looks")
    at_rest = drive(lambda page: saved(page, "0"))
    assert drive(lambda page: saved(page, "window.ovolo.stage.moved()")) == at_rest, (
        "what is kept is fine"
    )
    assert stage(drive)["ball"]["contoured"]
    for _ in range(50):  # the picture for its card, with fainter edges, is drawn by this window
        if Picture.objects.filter(study=study).exists():
            break
        drive(lambda page: page.wait_for_timeout(200))
    assert Picture.objects.filter(study=study).exists()
    assert drive(lambda page: page.evaluate(edges)) == strength
