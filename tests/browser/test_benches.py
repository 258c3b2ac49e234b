"""The benches in a browser: what is set, what is seen, what is handed over."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, Route, expect

from ovolo.benches.gcode import blocks
from studio.projects.models import BenchSettings, MachineProfile, Study
from tests.browser.conftest import Driver, settled
from tests.browser.test_access import serious

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]

BRACKET = """units mm, deg
part plate = box(40 mm, 30 mm, 4 mm) + box(4 mm, 30 mm, 20 mm).move(x = -18 mm) "Bracket"
part rib = box(20 mm, 20 mm, 4 mm) + box(20 mm, 0.3 mm, 4 mm).move(x = 20 mm) "Rib"
part outline = rect(10 mm, 10 mm) "Outline"
"""


@pytest.fixture
def bracket(open_study: Opener) -> Study:
    return open_study("Bracket", BRACKET)


def test_a_print_from_settings_to_code(drive: Driver, bracket: Study) -> None:
    def begin(page: Page) -> None:
        page.get_by_role("link", name="Benches").click()
        expect(page.get_by_label("Layer height")).to_have_value("0.2")

    drive(begin)
    settled(drive)

    def look(page: Page) -> None:
        found = page.get_by_label("What it takes")
        expect(found).to_contain_text(re.compile(r"walls under one line\s*✕"))
        expect(page.get_by_text("flat, left out")).to_be_visible()
        page.get_by_role("button", name="Show the place: walls under one line").click()
        page.get_by_label("What Rib is").select_option("left out")
        expect(found).to_contain_text(re.compile(r"walls under one line\s*none"))
        layers = page.get_by_role("slider", name="Layer")
        layers.press("End")
        expect(page.get_by_text(re.compile(r"Layer \d+ of \d+"))).to_contain_text("Layer 99 of 99")
        box = page.get_by_label("Layer height")
        box.fill("0.4")
        box.press("Tab")
        expect(page.get_by_text(re.compile(r"Layer \d+ of \d+"))).to_contain_text("of 50")
        box.fill("4")
        box.press("Tab")
        expect(page.get_by_role("alert")).to_contain_text("higher than a line is wide")
        expect(box).to_have_value("0.4")

    drive(look)
    settled(drive)

    def run(page: Page) -> str:
        page.get_by_role("button", name="Run the simulated printer").click()
        expect(page.get_by_text("beside the bench's figure")).to_be_visible()
        for view in ("Stack", "Plate"):
            page.get_by_role("button", name=view, exact=True).click()
        expect(page.locator("#picture")).to_have_attribute("aria-label", "Plate 1: 1 pieces")
        with page.expect_download() as waiting:
            page.get_by_role("button", name="Hand over G-code").click()
        assert waiting.value.suggested_filename == "Bracket, plate 1.gcode"
        return waiting.value.path().read_text("ascii")

    assert sum(one.words.get("G") == 1 for one in blocks(drive(run).splitlines())) > 500
    settled(drive)
    kept = BenchSettings.objects.get(study=bracket)
    assert kept.said["settings"] == {"layer": "0.4"} and kept.said["roles"] == {"rib": "left out"}


def test_a_profile_is_copied_and_changed(drive: Driver, bracket: Study) -> None:
    drive.visit(f"/studies/{bracket.pk}/print")
    settled(drive)

    def change(page: Page) -> None:
        page.get_by_role("button", name="its profile…").click()
        text = page.get_by_label("Text of the profile")
        expect(text).to_be_visible()
        said = text.input_value()
        text.fill(said.replace('layer = "0.2 mm"', 'layer = "0.2 kg"'))
        page.get_by_role("button", name="Keep as mine").click()
        expect(page.get_by_role("dialog")).to_contain_text("Layer height is a length")
        text.fill(
            said.replace('layer = "0.2 mm"', 'layer = "0.3 mm"').replace("Bench printer", "Mine")
        )
        page.get_by_role("button", name="Keep as mine").click()
        expect(page.get_by_label("Layer height")).to_have_value("0.3")

    drive(change)
    settled(drive)
    assert MachineProfile.objects.get().title.startswith("Mine")

    def forget(page: Page) -> None:
        said = {"message": "It is kept elsewhere."}
        page.route(re.compile("printer/forget$"), lambda route: route.fulfill(status=400, json=said), times=1)  # fmt: skip
        page.get_by_role("button", name="its profile…").click()
        page.get_by_role("button", name="Forget it").click()
        expect(page.get_by_role("dialog")).to_contain_text("It is kept elsewhere.")
        page.get_by_role("button", name="Forget it").click()
        expect(page.get_by_label("Layer height")).to_have_value("0.2")

    drive(forget)
    settled(drive)
    assert not MachineProfile.objects.exists()


PLATES = """units mm, deg
part plates = [rect(160 mm, 90 mm) - disc(20 mm) for i in 0 .. 5] "Plates"
part posts = [box(40 mm, 40 mm, 900 mm).move(x = i * 60 mm) for i in 0 .. 4] "Posts"
part ball = sphere(20 mm) "Ball"
"""


def test_sheets_and_bars(drive: Driver, open_study: Opener) -> None:
    study = open_study("Frames", PLATES)
    drive.visit(f"/studies/{study.pk}/cut")
    settled(drive)

    def look(page: Page) -> str:
        found = page.get_by_label("What it takes")
        expect(found).to_contain_text("Ball is no flat piece")
        expect(found).to_contain_text("Posts is 40 mm thick; the cutter goes through 30 mm")
        page.get_by_label("Whether Ball is cut").select_option("left out")
        expect(found).not_to_contain_text("no flat piece")
        page.get_by_role("button", name="Bars").click()
        expect(
            page.get_by_text("5 pieces from 2 bars of 3000 mm (fewer will not do)")
        ).to_be_visible()
        bar = page.get_by_label("Bar, long")
        bar.fill("2 m")
        bar.press("Tab")
        expect(
            page.get_by_text("5 pieces from 3 bars of 2000 mm (fewer will not do)")
        ).to_be_visible()
        page.get_by_role("button", name="Sheets").click()
        page.get_by_role("button", name="Run the simulated cutter").click()
        expect(found).to_contain_text(re.compile(r"pieces fallen out\s*(\d+) of \1"))
        expect(page.locator("#cut-sheet .piece.well").first).to_be_visible()
        kerf = page.get_by_label("Kerf")
        kerf.fill("8 mm")
        kerf.press("Tab")
        expect(page.get_by_role("alert")).to_contain_text("off the sheet")
        expect(kerf).to_have_value("0.2")
        page.get_by_text("Hand over", exact=True).click()
        with page.expect_download() as waiting:
            page.get_by_role("button", name="The cut list as CSV").click()
        assert waiting.value.suggested_filename == "Frames, cut list.csv"
        return waiting.value.path().read_text("utf-8")

    assert len(drive(look).splitlines()) == 1 + 6
    settled(drive)
    assert BenchSettings.objects.get(study=study, machine="cutter").said["settings"] == {
        "bar": "2 m"
    }


def test_where_nothing_is_laid_out_what_each_part_is_can_be_said_all_the_same(
    drive: Driver, open_study: Opener
) -> None:
    posts_alone = "\n".join(
        line for line in PLATES.split("\n") if "part" not in line or "Posts" in line
    )
    study = open_study("Posts", posts_alone)

    def look(page: Page) -> None:
        expect(page.get_by_role("alert").first).to_contain_text("the cutter goes through 30 mm")
        expect(page.get_by_label("What it takes")).to_contain_text("goes through 30 mm")
        posts = page.get_by_label("Whether Posts is cut")
        expect(posts).to_have_value("cut")
        depth = page.get_by_label("Cuts through")
        depth.fill("40 mm")
        depth.press("Tab")
        expect(page.get_by_label("What it takes")).to_contain_text("1 sheet")
        expect(page.get_by_label("What it takes")).not_to_contain_text("goes through")
        posts.select_option("left out")
        expect(page.get_by_role("alert").first).to_contain_text("nothing to cut")
        expect(posts).to_have_value("left out")
        page.goto(page.url.replace("/cut", "/print"))
        expect(page.get_by_label("What Posts is")).to_have_value("print")

    drive.visit(f"/studies/{study.pk}/cut")
    drive(look)
    settled(drive)


def test_the_benches_are_accessible(drive: Driver, bracket: Study) -> None:
    for bench in ("print", "cut"):
        drive.visit(f"/studies/{bracket.pk}/{bench}")
        settled(drive)
        for scheme in ("light", "dark"):
            drive(lambda page, scheme=scheme: page.emulate_media(color_scheme=scheme))
            assert serious(drive) == []


def test_a_hand_over_is_put_together(drive: Driver, open_study: Opener) -> None:
    study = open_study("Frames", PLATES)

    def put(page: Page) -> None:
        page.locator("#hand-over > summary").click()
        page.get_by_role("link", name="Put a hand-over together…").click()
        table = page.get_by_role("table")
        expect(table).to_contain_text("Frames Posts.stl")
        page.get_by_label("How many files of STL").select_option("")
        expect(table).to_contain_text("Frames.stl")
        page.get_by_label("How many files of STL").select_option("each")
        expect(table).to_contain_text("Frames Posts.stl")
        rule = page.get_by_label("Rule for names")
        rule.fill("{study}")
        rule.press("Tab")
        expect(page.get_by_role("alert")).to_contain_text("say {part} in the rule")
        rule.fill("{part} of {study}")
        rule.press("Tab")
        expect(table).to_contain_text("Ball of Frames.stl")
        page.get_by_label("Posts").uncheck()
        expect(table).not_to_contain_text("Posts of Frames.stl")
        expect(page.get_by_alt_text("Drawing as it is")).to_be_visible()
        with page.expect_download() as waiting:
            page.get_by_role("button", name="Hand over the file").or_(page.get_by_role("button", name="Hand over as ZIP")).click()  # fmt: skip
        assert waiting.value.suggested_filename == "Frames.zip"
        first = waiting.value.path().read_bytes()
        with page.expect_download() as again:
            page.get_by_role("button", name="Make again").click()
        assert again.value.path().read_bytes() == first

    drive(put)
    settled(drive)
    assert study.handed_over.count() == 1
    assert serious(drive) == []


def test_what_was_kept_and_fits_no_more_is_left_out(drive: Driver, bracket: Study) -> None:
    said = {"machine": "gone", "settings": {"layer": "9 mm"}, "roles": {"gone": "print"}}
    BenchSettings.objects.create(study=bracket, machine="printer", said=said)
    drive.visit(f"/studies/{bracket.pk}/print")

    def look(page: Page) -> None:
        expect(page.get_by_label("Layer height")).to_have_value("0.2")
        expect(page.get_by_role("alert")).to_contain_text("higher than a line is wide")
        expect(page.get_by_label("What it takes")).to_contain_text("99")

    drive(look)
    settled(drive)


def test_what_is_set_while_pieces_are_being_nested_is_kept(
    drive: Driver, open_study: Opener
) -> None:
    """Another setting overtakes the nest that the first one began; one that is refused takes only itself back."""
    stars = "part s = [polygon(5, 40 mm) - disc(20 mm) for i in 0 .. 3]"
    study = open_study("Stars", f"units mm, deg\n{stars}\n")
    drive.visit(f"/studies/{study.pk}/cut")
    settled(drive)

    def change(page: Page, across: str) -> None:
        page.get_by_label("Turned by").select_option("45°" if across[0] == "-" else "30°")
        field = page.get_by_label("Sheet, across")
        field.fill(across)
        field.press("Enter")

    drive(lambda page: change(page, "-3 mm"))

    def refused(page: Page) -> None:
        expect(page.get_by_role("alert")).to_contain_text("Sheet, across is -3 mm")
        expect(page.get_by_label("Sheet, across")).to_have_value("610")
        expect(page.get_by_label("Turned by")).to_have_value("45°")

    drive(refused)
    settled(drive)
    drive(refused)
    drive(lambda page: change(page, "700 mm"))
    settled(drive)
    drive(lambda page: expect(page.get_by_label("Sheet, across")).to_have_value("700"))
    drive(lambda page: expect(page.get_by_label("Turned by")).to_have_value("30°"))
    kept = BenchSettings.objects.get(study=study, machine="cutter").said["settings"]
    assert kept == {"turned": "30°", "height": "700 mm"}


TWO_PLATES = """units mm, deg
part square = box(200 mm, 200 mm, 2 mm) "Square"
part round_one = cylinder(95 mm, 2 mm) "Round"
"""


def test_the_lines_of_one_plate_are_not_shown_on_another(drive: Driver, open_study: Opener) -> None:
    """Nor where they come after the other plate was asked for."""
    study = open_study("Two plates", TWO_PLATES)
    drive.visit(f"/studies/{study.pk}/print")
    settled(drive)

    def on_plate(number: str) -> Callable[[Page], list[str]]:
        return lambda page: page.get_by_label("Plate", exact=True).select_option(label=number)

    def press(key: str) -> Callable[[Page], None]:
        return lambda page: page.get_by_role("slider", name="Layer").press(key)

    def picture(page: Page) -> bytes:
        return page.locator("#picture canvas").screenshot()

    drive(on_plate("2"))
    drive(press("End"))
    settled(drive)
    wanted = drive(picture)
    drive(on_plate("1"))
    settled(drive)
    assert drive(picture) != wanted
    drive(press("ArrowLeft"))
    settled(drive)

    def overtake(page: Page) -> None:
        held: list[Route] = []
        page.route(re.compile("print/layer$"), lambda route: route.continue_() if held else held.append(route))  # fmt: skip
        press("End")(page)
        while not held:
            page.wait_for_timeout(20)
        on_plate("2")(page)
        page.wait_for_timeout(50)
        held[0].continue_()

    drive(overtake)
    settled(drive)
    assert drive(picture) == wanted


def test_what_is_set_last_is_kept_however_long_the_first_is_on_its_way(
    drive: Driver, bracket: Study
) -> None:
    drive.visit(f"/studies/{bracket.pk}/print")
    settled(drive)
    held: list[Route] = []

    def set_to(page: Page, height: str, layers: int) -> None:
        page.get_by_label("Layer height").fill(height)
        page.get_by_label("Layer height").press("Tab")
        expect(page.get_by_text(re.compile(r"Layer \d+ of \d+"))).to_contain_text(f"of {layers}")

    def overtake(page: Page) -> None:
        page.route(re.compile("print/keep$"), lambda route: route.continue_() if held else held.append(route))  # fmt: skip
        set_to(page, "0.3", 67)
        set_to(page, "0.25", 80)
        while not held:
            page.wait_for_timeout(20)
        page.wait_for_timeout(300)
        assert len(held) == 1
        held[0].continue_()

    drive(overtake)
    settled(drive)
    kept = BenchSettings.objects.get(study=bracket, machine="printer").said["settings"]
    assert kept == {"layer": "0.25"}


def widened(study: Study, before: str, after: str) -> None:
    """As another person changes it."""
    study.refresh_from_db()
    study.save_text(study.text.replace(before, after), study.head_id)


@pytest.mark.parametrize(
    ("page", "begin", "anew"),
    [("print", "", "Lay it out anew"), ("cut", "", "Lay it out anew"), ("package", "", "Look anew"), ("variations", "Work it out", "Work it out anew")],
)  # fmt: skip
def test_what_another_changes_is_told_before_one_asks(
    drive: Driver, open_study: Opener, page: str, begin: str, anew: str
) -> None:
    shelf = open_study("Shelf", "input w = 40 mm from 20 mm to 80 mm step 10 mm\npart p = box(w, 30 mm, 4 mm)")  # fmt: skip
    drive.visit(f"/studies/{shelf.pk}/{page}")
    settled(drive)
    if begin:
        drive(lambda page: page.get_by_role("button", name=begin, exact=True).click())
        settled(drive)
    notice = "The study has changed since this was worked out."

    def look(page: Page) -> None:
        with page.expect_response("**/standing"):
            page.evaluate("() => { window.dispatchEvent(new Event('focus')); }")

    drive(look)
    drive(lambda page: expect(page.get_by_text(notice)).to_be_hidden())
    widened(shelf, "30 mm", "35 mm")
    drive(look)
    drive(lambda page: expect(page.get_by_text(notice)).to_be_visible())
    drive(lambda page: page.get_by_role("button", name=anew).click())
    drive(lambda page: expect(page.get_by_text(notice)).to_be_hidden())
    settled(drive)
    drive(look)
    drive(lambda page: expect(page.get_by_text(notice)).to_be_hidden())


def test_what_another_changes_is_laid_out_anew_before_it_leaves(
    drive: Driver, bracket: Study
) -> None:
    """On both benches and at the hand-over: nothing leaves that was not looked at."""
    drive.visit(f"/studies/{bracket.pk}/print")
    settled(drive)
    takes = '[aria-label="What it takes"]'
    drive(lambda page: expect(page.locator(takes)).to_contain_text(re.compile(r"Layers\s*99")))
    widened(bracket, "4 mm, 30 mm, 20 mm", "4 mm, 30 mm, 30 mm")

    def refused(page: Page, name: str) -> None:
        page.get_by_role("button", name=name).first.click()
        expect(page.get_by_role("alert")).to_contain_text("has changed since")

    def taken(page: Page, name: str) -> str:
        with page.expect_download() as downloaded:
            page.get_by_role("button", name=name).first.click()
        return downloaded.value.suggested_filename

    drive(lambda page: refused(page, "G-code"))
    settled(drive)
    drive(lambda page: expect(page.locator(takes)).to_contain_text(re.compile(r"Layers\s*149")))
    assert drive(lambda page: taken(page, "G-code")) == "Bracket, plate 1.gcode"
    drive.visit(f"/studies/{bracket.pk}/package")
    settled(drive)
    widened(bracket, '"Rib"', '"Web"')
    drive(lambda page: refused(page, "Hand over"))
    settled(drive)
    assert drive(lambda page: taken(page, "Hand over")).startswith("Bracket.")
