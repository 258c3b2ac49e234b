"""Placing on the picture: every gesture with the text it wrote, and what is typed gives the same."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import ezdxf
import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Project, Study
from tests.browser.conftest import Driver, place_on_screen, settled
from tests.browser.editor import alert, press
from tests.browser.test_workspace import head_text

pytestmark = pytest.mark.browser
Opener = Callable[[str, str], Study]

POST = """study "Post"
units m
input high = 1 m from 0.2 m to 3 m step 0.1 m "Height"
input cap = "flat" of "flat", "round" "Cap"
part shaft = box(0.4 m, 0.4 m, high) "Shaft"
preset "Tall": high = 2.5 m
"""
SITE = 'study "Yard"\nunits m\nuse post from "Post"\npart ground = box(10 m, 6 m, 0.1 m).move(5 m, 3 m, -0.1 m) "Ground"\n'


@pytest.fixture
def yard(open_study: Opener, project: Project) -> Callable[[str], Study]:
    def open_(line: str) -> Study:
        post = Study.objects.create(project=project, title="Post")
        post.save_text(POST, None)
        return open_study("Yard", SITE + line)

    return open_


def pick(drive: Driver, *point: float) -> None:
    x, y = place_on_screen(drive, list(point))
    drive(lambda page: page.mouse.click(x, y))
    drive(lambda page: expect(page.locator("#card")).to_be_visible())
    settled(drive)


def last_line(study: Study) -> str:
    return head_text(study).rstrip("\n").split("\n")[-1]


PLACED = 'part post_1 = post().move(2 m, 3 m) "Post 1"\n'


@pytest.mark.painted
def test_a_study_is_placed_where_one_clicks_and_where_one_types(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    study = yard("")
    press(drive, "Files")
    press(drive, "Place… Post")
    x, y = place_on_screen(drive, [4000, 2000, 0])
    drive(lambda page: page.mouse.click(x, y))
    settled(drive)
    assert last_line(study).startswith("part post_1 = post().move(") and '"Post 1"' in last_line(
        study
    )
    place = last_line(study).split("move(")[1].split(")")[0]
    found = [float(one.removesuffix(" m")) for one in place.split(", ")]
    assert found == pytest.approx([4, 2], abs=0.06), "on a round step under the pointer"
    press(drive, "Undo")
    assert head_text(study) == SITE
    press(drive, "Place… Post")
    x, y = place_on_screen(drive, [10_000, 6_000, 0])
    drive(lambda page: page.mouse.click(x - 3, y + 2))
    settled(drive)
    assert "move(10 m, 6 m)" in last_line(study), "near a corner, at that"
    press(drive, "Undo")
    press(drive, "Place… Post")
    x, y = place_on_screen(drive, [4_000, 2_000, 0])
    drive(lambda page: page.mouse.dblclick(x, y))
    settled(drive)
    assert head_text(study).count("post().move(") == 1, "a double click places it once"
    press(drive, "Undo")
    assert head_text(study) == SITE
    press(drive, "Place… Post")
    for wrong in ("2000 mm, 3", "2"):  # in metres, as the box says
        drive(lambda page, wrong=wrong: page.get_by_label("Where it is to stand").fill(wrong))  # type: ignore[misc]
        drive(lambda page: page.keyboard.press("Enter"))
        drive(lambda page: expect(page.locator("body")).to_contain_text("two or three figures are wanted"))  # fmt: skip
        assert head_text(study) == SITE
    drive(lambda page: page.get_by_label("Where it is to stand").fill("2 m, 3 m"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert last_line(study) + "\n" == PLACED


def test_a_placed_piece_has_the_inputs_of_its_study_on_its_card(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    study = yard(PLACED)
    pick(drive, 2000, 3000, 1000)
    card = drive.page.locator("#card")
    drive(lambda page: expect(card).to_contain_text("“Post”"))
    drive(lambda page: expect(card.get_by_label("Height", exact=True)).to_have_value("1 m"))

    def type_(page: Page) -> None:
        card.get_by_label("Height", exact=True).fill("150 cm")
        page.keyboard.press("Enter")

    drive(type_)
    settled(drive)
    assert last_line(study) == 'part post_1 = post(high = 150 cm).move(2 m, 3 m) "Post 1"'
    drive(lambda page: expect(card.get_by_label("Height", exact=True)).to_have_value("150 cm"))
    press(drive, "as in the study: Height")
    assert last_line(study) + "\n" == PLACED
    drive(lambda page: card.get_by_label("Height", exact=True).fill("3 kg"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert "is a mass" in alert(drive) and last_line(study) + "\n" == PLACED


def test_a_piece_is_dragged_turned_copied_and_moved_by_keys(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    study = yard(PLACED)
    press(drive, "Plan")
    pick(drive, 2000, 3000, 1000)
    handle = drive.page.get_by_role("button", name="Post 1, a piece to move")
    before = place_on_screen(drive, [2000, 3000, 0])
    after = place_on_screen(drive, [5000, 1000, 0])

    def drag(page: Page) -> None:
        box = handle.bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + after[0] - before[0], y + after[1] - before[1], steps=5)
        page.mouse.up()

    drive(drag)
    settled(drive)
    place = last_line(study).split("move(")[1].split(")")[0]
    found = [float(one.removesuffix(" m")) for one in place.split(", ")]
    assert found == pytest.approx([5, 1], abs=0.06)
    drive(lambda page: page.get_by_label("Turn it by").fill("30°"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert last_line(study).startswith("part post_1 = post().turn(30°).move(")
    press(drive, "Copy it")
    assert last_line(study).startswith("part post_2 = post().turn(30°).move(") and '"Post 2"' in last_line(study)  # fmt: skip
    for _ in range(3):
        press(drive, "Undo")
    assert last_line(study) + "\n" == PLACED, "one undo each"
    pick(drive, 2000, 3000, 1000)
    drive(lambda page: handle.focus())
    for key in ("ArrowRight", "ArrowRight", "ArrowUp"):
        drive(lambda page, key=key: page.keyboard.press(key))  # type: ignore[misc]
    drive(lambda page: page.wait_for_timeout(700))
    settled(drive)
    place = last_line(study).split("move(")[1].split(")")[0]
    x, y = (float(one.removesuffix(" m")) for one in place.split(", "))
    assert x - 2 == pytest.approx(2 * (y - 3)) and y > 3, "by keys in steps"


def test_an_input_is_set_for_several_pieces_at_once(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    two = PLACED + 'part post_2 = post(high = 2 m).move(6 m, 3 m) "Post 2"\n'
    study = yard(two)
    pick(drive, 2000, 3000, 1000)
    x, y = place_on_screen(drive, [6000, 3000, 2000])
    drive(lambda page: page.keyboard.down("Shift"))
    drive(lambda page: page.mouse.click(x, y))
    drive(lambda page: page.keyboard.up("Shift"))
    card = drive.page.locator("#card")
    drive(lambda page: expect(card).to_contain_text("Post 1, Post 2"))
    drive(lambda page: card.get_by_label("Height", exact=True).fill("1.5 m"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert head_text(study).count("post(high = 1.5 m)") == 2
    press(drive, "Undo")
    assert head_text(study) == SITE + two, "one change"


def test_a_place_that_is_a_formula_is_not_dragged_and_says_so(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    study = yard('at = 2 m\npart post_1 = post().move(at, 3 m) "Post 1"\n')
    pick(drive, 2000, 3000, 1000)
    drive(lambda page: expect(page.locator("#card")).to_contain_text("its place is a formula"))
    drive(lambda page: expect(page.get_by_role("button", name="a piece to move")).to_have_count(0))
    before = head_text(study)
    press(drive, "Copy it")
    assert "is a formula: at" in alert(drive) and "change at" in alert(drive)
    assert head_text(study) == before


def test_a_piece_begins_from_a_preset_of_its_study(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    yard('part post_1 = post(preset = "Tall").move(2 m, 3 m) "Post 1"\n')
    pick(drive, 2000, 3000, 2500)
    drive(
        lambda page: expect(page.locator("#card").get_by_label("Height", exact=True)).to_have_value(
            "2.5 m"
        )
    )


DIMS = """units mm
input w = 300 mm from 100 mm to 900 mm step 10 mm "Width"
half = w / 2 "Half"
part plate = box(w, 200 mm, 20 mm).move(half, 0 mm)
dim w from (0 mm, -150 mm) to (w, -150 mm)
dim half from (0 mm, -300 mm) to (half, -300 mm)
dim 2 * w from (0 mm, -450 mm) to (2 * w, -450 mm)
"""


def type_dim(drive: Driver, said: str, typed: str) -> None:
    def type_(page: Page) -> None:
        label = page.locator(".dim-said", has_text=said)
        label.locator("b").click()
        page.get_by_label(f"{said}, value").fill(typed)
        page.keyboard.press("Enter")

    drive(type_)
    settled(drive)


def test_a_dim_is_typed_and_its_input_takes_the_value(open_study: Opener, drive: Driver) -> None:
    """Where it is a formula, that is aimed at; where it has no name, that is said."""
    study = open_study("Plate", DIMS)
    press(drive, "Plan")
    type_dim(drive, "2 * w", "1 m")
    said = "which is no line of its own"
    drive(lambda page: expect(page.get_by_role("alert").first).to_contain_text(said))
    assert head_text(study) == DIMS
    drive(lambda page: page.locator(".dim-said", has_text="w").first.locator("b").click())
    drive(lambda page: page.get_by_label("w, value", exact=True).fill("45 cm"))
    drive(lambda page: page.keyboard.press("Enter"))
    settled(drive)
    assert "input w = 450 mm from" in head_text(study) or "input w = 45 cm from" in head_text(study)
    press(drive, "Undo")
    assert head_text(study) == DIMS
    type_dim(drive, "half", "200 mm")
    drive(lambda page: expect(page.get_by_role("list", name="Found")).to_contain_text("w 400 mm"))
    press(drive, "Take it")
    assert "input w = 400 mm from" in head_text(study)


ROOF = """units m
input w = 4 m from 2 m to 8 m "Width"
input h = 1.5 m from 0.5 m to 3 m "Rise"
ridge = (w / 2, h)
part wall = box(w, h, 0.01 m).move(w / 2, h / 2) "Wall"
"""


def test_the_roof_triangle_is_drawn_without_typing_a_coordinate_that_a_name_has(
    open_study: Opener, drive: Driver
) -> None:
    """Its eaves are corners of what stands there, its ridge is a datum: each stands by its name."""
    study = open_study("Roof", ROOF)
    press(drive, "Looks")
    drive(lambda page: page.get_by_label("datums").check())
    settled(drive)
    drive(lambda page: page.keyboard.press("Escape"))
    press(drive, "Outline")
    for place in ([0, 0, 0], [4000, 0, 0], [2000, 1500, 0]):
        x, y = place_on_screen(drive, place)
        drive(lambda page, x=x, y=y: page.mouse.click(x + 2, y - 2))  # type: ignore[misc]
    drive(lambda page: expect(page.locator("#sketch")).to_contain_text("3 corners"))
    press(drive, "Close it")
    assert last_line(study) == "outline_1 = start((0 m, 0 m)).to((w, 0 m)).to(ridge).close()"
    press(drive, "Undo")
    assert head_text(study) == ROOF


def test_lengths_and_directions_are_typed_or_at_right_angles(
    open_study: Opener, drive: Driver
) -> None:
    study = open_study("Roof", ROOF)
    press(drive, "Outline")
    x, y = place_on_screen(drive, [0, 0, 0])
    drive(lambda page: page.mouse.click(x, y))
    for length, turn in (("3", "0"), ("2", "90")):
        drive(lambda page, length=length: page.get_by_label("Length", exact=True).fill(length))  # type: ignore[misc]
        drive(lambda page, turn=turn: page.get_by_label("Direction in degrees").fill(turn))  # type: ignore[misc]
        press(drive, "Add")
    press(drive, "Leave it open")
    assert last_line(study) == "outline_1 = start((0 m, 0 m)).to((3 m, 0 m)).to((3 m, 2 m))"
    press(drive, "Undo")
    press(drive, "Outline")
    clicked(drive, [0, 0, 0], [4000, 1500, 0])
    x, y = place_on_screen(drive, [4000 + 300, 1500 - 790, 0])
    drive(lambda page: page.keyboard.down("Shift"))
    drive(lambda page: page.mouse.click(x, y))
    drive(lambda page: page.keyboard.up("Shift"))
    press(drive, "Leave it open")
    assert re.search(r"\.to\(\(w, h\) \+ 0\.\d+ m \* unit\(\(w, h\) - \(0 m, 0 m\)\)\.turn\(-90°\)\)$", last_line(study))  # fmt: skip


WALL = """part wall = box(4 m, 0.2 m, 3 m).move(5 m, 3 m) "Wall"
part tower = cylinder(1 m, 2 m).move(8.5 m, 3 m) "Tower"
part hill = surface((u, v) -> (10 m * u, -6 m * v, 1 m * u * v)) "Hill"
"""


def test_a_laid_piece_has_the_inputs_of_its_study_and_its_ends_are_pulled(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    line = 'input far = (4 m, 2 m)\npart post_1 = laid((0 m, 2 m), far, l -> post(high = l)) "Post 1"\n'
    study = yard(line)
    press(drive, "Plan")
    pick(drive, 0, 2_000, 4_000)
    cap = drive.page.locator("#card").get_by_role("textbox", name="Cap")
    drive(lambda page: cap.fill("round"))
    drive(lambda page: cap.press("Enter"))
    settled(drive)
    assert 'l -> post(high = l, cap = "round"))' in last_line(study)
    assert drive(lambda page: page.get_by_role("button", name="a piece to move").count()) == 0
    press(drive, "Undo")
    drive(lambda page: page.get_by_role("button", name="far, a point to drag").focus())
    drive(lambda page: page.keyboard.press("ArrowRight"))
    drive(lambda page: page.wait_for_timeout(700))
    settled(drive)
    assert "input far = (4 m, 2 m)" not in head_text(study) and last_line(study) + "\n" == line.split("\n")[1] + "\n"  # fmt: skip


def test_a_piece_is_turned_by_its_handle_in_steps(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    """Dragged to a quarter turn round its place; by keys in steps of 5°; one that lies on a wall has none."""
    study = yard(PLACED + 'part post_2 = post().on("front").move(8 m, 3 m) "Post 2"\n')
    press(drive, "Plan")
    pick(drive, 2_000, 3_000, 1_000)
    handle = drive.page.get_by_role("button", name="Post 1, to turn it")

    def drag(page: Page) -> None:
        box = handle.bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(*up, steps=6)
        expect(page.locator(".handle-said", has_text="turn Post 1 by 90°")).to_be_visible()
        page.mouse.up()

    up = place_on_screen(drive, [2_000, 3_700, 0])
    drive(drag)
    settled(drive)
    assert last_line(study).startswith("part post_2") and "post().turn(90°).move(2 m, 3 m)" in head_text(study)  # fmt: skip
    drive(lambda page: handle.focus())
    drive(lambda page: page.keyboard.press("ArrowLeft"))
    drive(lambda page: page.wait_for_timeout(700))
    settled(drive)
    assert "post().turn(85°).move(2 m, 3 m)" in head_text(study)
    press(drive, "Undo")
    press(drive, "Undo")
    assert head_text(study).endswith(
        PLACED + 'part post_2 = post().on("front").move(8 m, 3 m) "Post 2"\n'
    )
    press(drive, "Axonometric")
    pick(drive, 8_000, 2_500, 0)
    assert drive(lambda page: page.get_by_role("button", name="to turn it").count()) == 0


def test_a_study_stands_on_the_face_of_a_wall_and_on_a_surface(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    """Upright before a wall, at its level on a hill; a round face has no plane."""
    study = yard(WALL)
    text = head_text(study)
    press(drive, "Files")
    press(drive, "Place… Post")
    drive(lambda page: page.get_by_role("radio", name="on a face").click())
    press(drive, "Front")
    clicked(drive, [5_500, 2_900, 1_200])
    settled(drive)
    found = re.fullmatch(r'part post_1 = post\(\)\.on\("front"\)\.move\((\S+) m, 2\.9 m, (\S+) m\) "Post 1"', last_line(study))  # fmt: skip
    assert found and [float(one) for one in found.groups()] == pytest.approx([5.5, 1.2], abs=0.06)
    drive(lambda page: expect(page.locator("footer")).to_contain_text("no problems"))
    press(drive, "Undo")
    press(drive, "Place… Post")
    drive(lambda page: page.get_by_role("radio", name="on a face").click())
    press(drive, "Front")
    clicked(drive, [8_500, 2_000, 1_000])
    drive(
        lambda page: expect(page.get_by_role("alert").first).to_contain_text("this face is round")
    )
    press(drive, "Plan")
    clicked(drive, [4_000, -3_000, 200])
    settled(drive)
    found = re.fullmatch(r'part post_1 = post\(\)\.move\((\S+) m, (\S+) m, level\(hill, \(\1 m, \2 m\)\)\) "Post 1"', last_line(study))  # fmt: skip
    assert found and [float(one) for one in found.groups()] == pytest.approx([4, -3], abs=0.06)
    drive(lambda page: expect(page.locator("footer")).to_contain_text("no problems"))
    press(drive, "Undo")
    assert head_text(study) == text


def test_from_the_front_and_from_behind_a_study_is_placed_in_the_upright_plane(
    yard: Callable[[str], Study], drive: Driver
) -> None:
    study = yard("")
    press(drive, "Files")
    for turned in (False, True):
        press(drive, "Place… Post")
        press(drive, "Front")
        if turned:
            drive(lambda page: page.keyboard.press("Alt+5"))
        clicked(drive, [4_000, 0, 500])
        settled(drive)
        found = re.fullmatch(r'part post_1 = post\(\)\.move\((\S+) m, 0 m, (\S+) m\) "Post 1"', last_line(study))  # fmt: skip
        assert found and [float(one) for one in found.groups()] == pytest.approx([4, 0.5], abs=0.06)
        press(drive, "Undo")


def clicked(drive: Driver, *places: list[float]) -> None:
    for place in places:
        x, y = place_on_screen(drive, place)
        drive(lambda page, x=x, y=y: page.mouse.click(x, y))  # type: ignore[misc]


def test_a_splayed_opening_is_drawn_with_its_arc(open_study: Opener, drive: Driver) -> None:
    """From corner to corner of what stands there, through the datum that is its crown; then again by a
    radius that is typed."""
    study = open_study("Opening", ROOF + "crown = (w / 2, h + 0.4 m)\n")
    text = head_text(study)
    press(drive, "Looks")
    drive(lambda page: page.get_by_label("datums").check())
    settled(drive)
    drive(lambda page: page.keyboard.press("Escape"))
    press(drive, "Outline")
    clicked(drive, [0, 0, 0], [4000, 0, 0], [4000, 1500, 0])
    drive(lambda page: page.get_by_role("radio", name="arc through").click())
    clicked(drive, [2000, 1900, 0])
    drive(lambda page: expect(page.locator("#sketch")).to_contain_text("where the arc ends"))
    clicked(drive, [0, 1500, 0])
    press(drive, "Close it")
    assert last_line(study) == "outline_1 = start((0 m, 0 m)).to((w, 0 m)).to((w, h)).arc_through(crown, (0 m, h)).close()"  # fmt: skip
    press(drive, "Undo")
    press(drive, "Outline")
    clicked(drive, [0, 0, 0], [4000, 0, 0], [4000, 1500, 0])
    drive(lambda page: page.get_by_role("radio", name="arc of radius").click())
    clicked(drive, [0, 1500, 0])
    drive(lambda page: expect(page.get_by_role("alert").first).to_contain_text("wants a radius"))
    drive(lambda page: page.get_by_label("Radius", exact=True).fill("2.5"))
    clicked(drive, [0, 1500, 0])
    press(drive, "Leave it open")
    assert last_line(study).endswith(".to((w, h)).arc_to((0 m, h), 2.5 m)")
    press(drive, "Undo")
    assert head_text(study) == text


def test_the_lines_of_an_attached_drawing_are_datums_of_a_site(
    open_study: Opener, drive: Driver, tmp_path: Path
) -> None:
    """A boundary from a DXF file: what is drawn to its ends stands by its name, and moves with the file."""
    plot = ezdxf.new()  # type: ignore[attr-defined]
    plot.header["$INSUNITS"] = 4  # mm
    plot.modelspace().add_line((0, 0), (5000, 2000), dxfattribs={"layer": "edge"})
    plot.saveas(tmp_path / "plot.dxf")
    study = open_study("Site", 'units m\nfile plot = "plot.dxf"\npart bed = box(6 m, 3 m, 0.01 m).move(3 m, 1.5 m)\nboundary = plot.edge\n')  # fmt: skip
    press(drive, "Files")
    drive(lambda page: page.locator("#attach").set_input_files(str(tmp_path / "plot.dxf")))
    settled(drive)
    press(drive, "Looks")
    drive(lambda page: page.get_by_label("datums").check())
    settled(drive)
    drive(lambda page: page.keyboard.press("Escape"))
    press(drive, "Outline")
    clicked(drive, [0, 3_000, 0], [5_000, 2_000, 0])
    press(drive, "Leave it open")
    assert last_line(study).endswith(".to(boundary[0].point_at(share = 1))")
    drive(lambda page: expect(page.locator("footer")).to_contain_text("no problems"))


def test_corners_of_a_drawn_outline_are_dragged_where_they_are_figures(
    open_study: Opener, drive: Driver
) -> None:
    line = "bed = start((0 m, 0 m)).to((w, 0.5 m)).to((3 m, 2 m)).close()\n"
    study = open_study("Bed", ROOF + line)
    press(drive, "Looks")
    drive(lambda page: page.get_by_label("datums").check())
    press(drive, "Plan")
    settled(drive)
    handle = drive.page.get_by_role("button", name="bed, corner 3, a point to drag")

    def drag(page: Page) -> None:
        box = handle.bounding_box()
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(*to, steps=5)
        page.mouse.up()

    to = place_on_screen(drive, [2_500, 1_700, 0])
    drive(drag)
    settled(drive)
    found = re.search(r"\.to\(\((\S+) m, (\S+) m\)\)\.close\(\)$", last_line(study))
    assert found and [float(one) for one in found.groups()] == pytest.approx([2.5, 1.7], abs=0.06)
    held = drive.page.get_by_role("button", name="bed, corner 2, a point to drag")
    drive(lambda page: held.focus())
    for key in ("ArrowRight", "ArrowUp"):
        drive(lambda page, key=key: page.keyboard.press(key))  # type: ignore[misc]
    drive(lambda page: page.wait_for_timeout(700))
    settled(drive)
    assert ".to((w, 0.5" in last_line(study) and ".to((w, 0.5 m))" not in last_line(study)
    press(drive, "Undo")
    press(drive, "Undo")
    assert head_text(study) == ROOF + line


def test_an_arc_that_was_begun_closes_the_outline_and_is_not_dropped(
    open_study: Opener, drive: Driver
) -> None:
    study = open_study("Lid", ROOF)
    press(drive, "Outline")
    clicked(drive, [0, 0, 0], [4000, 0, 0])
    drive(lambda page: page.get_by_role("radio", name="arc through").click())
    clicked(drive, [4000, 1500, 0])
    press(drive, "Leave it open")
    drive(lambda page: expect(page.get_by_role("alert").first).to_contain_text("the arc has no end yet"))  # fmt: skip
    assert head_text(study) == ROOF
    press(drive, "Close it")
    assert last_line(study) == "outline_1 = start((0 m, 0 m)).to((w, 0 m)).arc_through((w, h), (0 m, 0 m)).close()"  # fmt: skip
    drive(lambda page: expect(page.locator("footer")).to_contain_text("no problems"))


def test_the_middle_of_a_chord_is_no_place_of_a_round_edge(
    open_study: Opener, drive: Driver
) -> None:
    """Chords miss what is round: their middles do not draw a click to them, those of straight edges do."""
    open_study("Coin", "tolerance 20 mm\nunits mm\npart coin = disc(400 mm)\npart plate = rect(300 mm, 200 mm).move(700 mm, 0 mm)")  # fmt: skip
    press(drive, "Plan")
    found = drive(lambda page: page.evaluate(
        """() => {
          const { stage } = window.ovolo;
          const { left, top } = stage.host.getBoundingClientRect();
          const middles = [];
          for (const model of stage.visibleParts()) {
            for (const mesh of model.meshes()) {
              const ends = mesh.userData.edges.attributes.position;
              const matrix = mesh.matrixWorld.clone();
              mesh.getMatrixAt(0, matrix);
              for (let at = 0; at < ends.count; at += 2) {
                const [a, b] = [at, at + 1].map((end) => stage.camera.position.clone().fromBufferAttribute(ends, end).applyMatrix4(matrix));
                const { x, y } = stage.onScreen(a.lerp(b, 0.5));
                middles.push([model.part.name, Boolean(stage.picking.middleAt(left + x, top + y))]);
              }
            }
          }
          return middles;
        }"""
    ))  # fmt: skip
    by_part = {name: {seen for other, seen in found if other == name} for name in ("coin", "plate")}
    assert by_part == {"coin": {False}, "plate": {True}}


def test_half_a_tooth_is_drawn_and_mirrored_in_one_step(open_study: Opener, drive: Driver) -> None:
    """It begins and ends on the middles of two edges; its lengths that no name has become inputs."""
    text = 'units mm\ninput w = 80 mm from 40 mm to 160 mm "Foot"\npart plate = box(w, 100 mm, 1 mm).move(0 mm, 50 mm) "Plate"\n'
    study = open_study("Tooth", text)
    press(drive, "Outline")
    drive(lambda page: page.get_by_label("name its lengths").check())
    clicked(drive, [0, 0, 0], [40, 0, 0])
    drive(lambda page: page.get_by_label("Length", exact=True).fill("20"))
    drive(lambda page: page.get_by_label("Direction in degrees").fill("90"))
    press(drive, "Add")
    clicked(drive, [0, 100, 0])
    drive(lambda page: expect(page.locator("#sketch")).to_contain_text("4 corners"))
    press(drive, "Mirror it")
    assert head_text(study) == text + (
        "input long_1 = 20 mm\ninput turn_1 = 90°\ninput long_2 = 100 mm\n"
        "outline_1_half = start((0 mm, 0 mm)).to((w / 2, 0 mm)).to((w / 2, 0 mm) + polar(long_1, turn_1)).to((0 mm, long_2))\n"
        "outline_1 = join([outline_1_half, outline_1_half.mirror(x).reverse()])\n"
    )
    press(drive, "Undo")
    assert head_text(study) == text


def test_an_item_of_an_array_may_differ(open_study: Opener, drive: Driver) -> None:
    study = open_study("Pegs", "units mm\npart pegs = row(cylinder(20 mm, 90 mm), 4, 100 mm)\n")
    press(drive, "Plan")
    pick(drive, 200, 0, 90)
    press(drive, "Let this one differ")
    line = "part pegs = row(c -> if c.index == 2 then cylinder(20 mm, 90 mm) else cylinder(20 mm, 90 mm), 4, 100 mm)"
    assert last_line(study) == line
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())


def test_an_outline_lies_in_the_plane_in_which_it_was_begun(
    open_study: Opener, drive: Driver
) -> None:
    """One may look at it from elsewhere while it is drawn: what is clicked there is in that plane, too."""
    study = open_study("Roof", ROOF)
    press(drive, "Outline")

    def click(place: list[float]) -> None:
        x, y = place_on_screen(drive, place)
        drive(lambda page: page.mouse.move(x, y))
        drive(lambda page: page.mouse.click(x, y))

    click([1000, 500, 0])
    click([3000, 500, 0])
    press(drive, "Axonometric")
    click([3000, 1000, 0])
    press(drive, "Close it")
    figures = re.findall(r"\((-?[\d.]+) m, (-?[\d.]+) m\)", last_line(study))
    found = [float(figure) for pair in figures for figure in pair]
    assert found == pytest.approx([1, 0.5, 3, 0.5, 3, 1], abs=0.05)
    press(drive, "Undo")
    press(drive, "Plan")
    press(drive, "Outline")
    click([1000, 500, 0])
    press(drive, "Front")
    click([3000, 0, 1000])
    assert "seen from its edge" in alert(drive)
    drive(lambda page: expect(page.locator("#sketch")).to_contain_text("1 corner."))


@pytest.mark.painted
def test_where_one_clicks_is_a_round_figure_in_the_unit_of_the_sheet(
    open_study: Opener, project: Project, drive: Driver
) -> None:
    post = Study.objects.create(project=project, title="Post")
    post.save_text(POST, None)
    study = open_study("Yard", SITE.replace("units m", "units in"))
    press(drive, "Files")
    press(drive, "Place… Post")
    x, y = place_on_screen(drive, [4000, 2000, 0])
    drive(lambda page: page.mouse.click(x, y))
    settled(drive)
    place = last_line(study).split("move(")[1].split(")")[0]
    found = [one.removesuffix(" in") for one in place.split(", ")]
    assert [float(one) * 25.4 for one in found] == pytest.approx([4000, 2000], abs=60)
    assert all(len(one.replace(".", "")) <= 5 for one in found), place
