"""The projects page."""

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Picture, Project, Study
from studio.projects.pictures import state_shown
from tests.browser.conftest import Driver
from tests.browser.editor import let_go
from tests.sheets import demo

pytestmark = pytest.mark.browser


def boardwalk_in(project: Project) -> Study:
    study = Study.objects.create(project=project, title="Boardwalk")
    study.save_text(demo("boardwalk"), None)
    return study


@pytest.mark.painted
def test_cards_have_live_pictures_and_lead_to_the_workspace(
    project: Project, drive: Driver
) -> None:
    boardwalk_in(project)
    drive.visit("/")

    def follow(page: Page) -> str:
        expect(page.locator("canvas[data-drawn=yes]")).to_have_count(1)
        page.get_by_role("link", name="Boardwalk").click()
        page.locator("body[data-settled='yes']").wait_for()
        return page.title()

    assert drive(follow) == "Boardwalk · Ovolo"


def test_a_study_is_begun_from_a_starting_point(project: Project, drive: Driver) -> None:
    drive.visit("/")

    def begin(page: Page) -> str:
        page.get_by_role("button", name="New study").click()
        page.get_by_label("Title").fill("Jetty")
        page.get_by_label("What it is for").fill("deck")
        expect(page.locator("label.start:visible")).to_have_count(
            2
        )  # the empty sheet, and what is found
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Begin", exact=True).click()
        page.locator("body[data-settled='yes']").wait_for()
        return page.locator("h1").inner_text()

    assert drive(begin).endswith("Jetty")
    study = Study.objects.get(title="Jetty")
    assert 'study "Jetty"' in study.text and "part deck" in study.text

    def insert(page: Page) -> None:
        page.get_by_role("button", name="Insert…").click()
        page.get_by_role("button", name="A starting point").click()
        page.get_by_role("button", name="Flange").click()
        expect(page.locator(".row-name:text-is('flange')")).to_be_visible()

    drive(insert)
    study.refresh_from_db()
    assert "part flange" in study.text and study.head.said == "added: Flange"


def test_a_study_goes_out_as_a_file_and_comes_in_again(project: Project, drive: Driver) -> None:
    boardwalk_in(project)
    drive.visit("/")

    def give_out(page: Page) -> bytes:
        page.get_by_label("More for Boardwalk").click()
        with page.expect_download() as caught:
            page.get_by_role("link", name="Give out as .ovo").click()
        return Path(caught.value.path()).read_bytes()

    data = drive(give_out)
    assert data.decode() == demo("boardwalk")
    drive(lambda page: page.locator("[data-take-in] input[name=sheet]").set_input_files(
        {"name": "walk.ovo", "mimeType": "text/plain", "buffer": data}))  # fmt: skip
    drive(lambda page: page.locator("body[data-settled='yes']").wait_for())
    assert Study.objects.get(title="Boardwalk 2").text.count("part boards") == 1
    drive.visit("/")
    let_go(drive, f"section[aria-label='{project.title}'] h2", {"walk.ovo": data.decode()})
    drive(lambda page: page.wait_for_url("**/studies/*/"))
    assert Study.objects.filter(title="Boardwalk 3").exists(), "let go over the project"


def test_a_study_is_copied_put_into_the_bin_and_brought_back(
    project: Project, drive: Driver
) -> None:
    boardwalk_in(project)
    drive.visit("/")

    def copy(page: Page) -> None:
        page.get_by_label("More for Boardwalk").click()
        page.get_by_role("button", name="Copy it").click()
        page.locator("body[data-settled='yes']").wait_for()

    drive(copy)
    assert Study.objects.filter(title="Boardwalk (copy)").exists()
    drive.visit("/")

    def remove(page: Page) -> None:
        page.get_by_label("More for Boardwalk (copy)").click()
        page.locator("li", has_text="Boardwalk (copy)").get_by_role(
            "button", name="Put it into the bin"
        ).click()
        expect(page.get_by_role("status")).to_contain_text("is in the bin")

    drive(remove)
    assert not Study.objects.filter(title="Boardwalk (copy)").exists()

    def bring_back(page: Page) -> None:
        page.get_by_text("Bin: 1 study").click()
        page.get_by_role("button", name="Bring back Boardwalk (copy)").click()
        expect(page.get_by_role("status")).to_contain_text("is back")

    drive(bring_back)
    assert Study.objects.filter(title="Boardwalk (copy)").exists()
    drive(remove)

    def remove_for_good(page: Page, answer: str) -> None:
        page.once("dialog", lambda dialog: getattr(dialog, answer)())
        page.get_by_text("Bin: 1 study").click()
        page.get_by_role("button", name="Remove Boardwalk (copy) for good").click()

    drive(lambda page: remove_for_good(page, "dismiss"))
    assert Study.everything.filter(title="Boardwalk (copy)").exists()
    drive(lambda page: page.reload())
    drive(lambda page: remove_for_good(page, "accept"))
    drive(lambda page: expect(page.get_by_role("status")).to_contain_text("removed for good"))
    assert not Study.everything.filter(title="Boardwalk (copy)").exists()


@pytest.mark.painted
def test_a_picture_is_drawn_once_and_kept_until_the_study_changes(
    project: Project, drive: Driver
) -> None:
    study = boardwalk_in(project)
    with_picture = "canvas[data-drawn=yes]"

    def look_until_it_is_kept(page: Page) -> None:
        with page.expect_response("**/keep-picture*"):
            page.goto(drive.address)
        expect(page.locator(with_picture)).to_have_count(1)

    drive(look_until_it_is_kept)
    asked: list[str] = []
    drive(lambda page: page.on("request", lambda one: asked.append(one.url)))
    drive.visit("/")
    drive(lambda page: expect(page.locator("li img")).to_have_count(1))
    wide = drive(lambda page: page.locator("li img").evaluate("(one) => one.decode().then(() => one.naturalWidth / one.clientWidth)"))  # fmt: skip
    assert wide == 2, "sharp on any screen"
    assert not any("/evaluate" in one for one in asked)
    study.save_text(demo("boardwalk") + "\n", study.head_id)
    drive.visit("/")
    drive(lambda page: expect(page.locator(with_picture)).to_have_count(1))


def test_studies_are_found_by_title_and_by_what_their_sheets_say(
    project: Project, drive: Driver
) -> None:
    for title, text in (
        ("Gate", "part leaf = box(1 m, 4 cm, 1 m)"),
        ("Fence", "# before the gate"),
    ):
        Study.objects.create(project=project, title=title).save_text(text, None)
    drive.visit("/")

    def find(page: Page, asked: str) -> list[str]:
        page.get_by_label("Find studies").fill(asked)
        with page.expect_navigation():
            page.keyboard.press("Enter")
        return [one.strip() for one in page.locator("li a b").all_inner_texts()]

    assert drive(lambda page: find(page, "leaf")) == ["Gate"]
    assert drive(lambda page: find(page, "GATE")) == ["Fence", "Gate"]
    assert drive(lambda page: find(page, "wall")) == []
    drive(lambda page: expect(page.get_by_text("None of its 2 studies")).to_be_visible())


def test_what_is_not_there_is_said_in_the_manner_of_the_house(
    project: Project, drive: Driver
) -> None:
    drive.visit("/studies/4711/")
    drive(lambda page: expect(page.get_by_text("There is nothing at this address")).to_be_visible())
    drive(lambda page: page.get_by_role("link", name="To the projects").click())
    drive(lambda page: expect(page.get_by_text("Quillmere Observatory")).to_be_visible())


@pytest.mark.painted
def test_the_window_that_changed_a_study_draws_its_picture(boardwalk: Study, drive: Driver) -> None:
    def drawn(page: Page) -> int:
        with page.expect_response("**/keep-picture*") as kept:
            page.reload()
        return kept.value.status

    if not Picture.objects.filter(study=boardwalk).exists():
        assert drive(drawn) == 200
    assert Picture.objects.get(study=boardwalk).of == state_shown(boardwalk)
    drive.visit("/")
    drive(lambda page: expect(page.get_by_role("img", name="Picture of Boardwalk")).to_be_visible())
    drive(lambda page: expect(page.locator("canvas[data-study]")).to_have_count(0))
