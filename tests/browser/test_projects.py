"""The projects page."""

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Project, Study
from tests.browser.conftest import Driver
from tests.sheets import demo

pytestmark = pytest.mark.browser


def test_cards_have_live_pictures_and_lead_to_the_workspace(
    project: Project, drive: Driver
) -> None:
    study = Study.objects.create(project=project, title="Boardwalk")
    study.save_text(demo("boardwalk"), None)
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
        page.get_by_text("New study").click()
        page.get_by_label("Title").fill("Jetty")
        page.get_by_label("Begin with").select_option("Boardwalk")
        page.get_by_role("button", name="Begin", exact=True).click()
        page.locator("body[data-settled='yes']").wait_for()
        return page.locator("h1").inner_text()

    assert drive(begin).endswith("Jetty")
    study = Study.objects.get(title="Jetty")
    assert 'study "Jetty"' in study.text and "part boards" in study.text


def test_a_study_goes_out_as_a_file_and_comes_in_again(project: Project, drive: Driver) -> None:
    study = Study.objects.create(project=project, title="Boardwalk")
    study.save_text(demo("boardwalk"), None)
    drive.visit("/")

    def give_out(page: Page) -> bytes:
        page.get_by_label("More for Boardwalk").click()
        with page.expect_download() as caught:
            page.get_by_role("link", name="Give out as .ovo").click()
        return Path(caught.value.path()).read_bytes()

    data = drive(give_out)
    assert data.decode() == demo("boardwalk")
    drive(lambda page: page.locator("[data-take-in] input[type=file]").set_input_files(
        {"name": "walk.ovo", "mimeType": "text/plain", "buffer": data}))  # fmt: skip
    drive(lambda page: page.locator("body[data-settled='yes']").wait_for())
    assert Study.objects.get(title="Boardwalk 2").text.count("part boards") == 1


def test_a_study_is_copied_and_removed_after_a_question(project: Project, drive: Driver) -> None:
    study = Study.objects.create(project=project, title="Boardwalk")
    study.save_text(demo("boardwalk"), None)
    drive.visit("/")

    def copy(page: Page) -> None:
        page.get_by_label("More for Boardwalk").click()
        page.get_by_role("button", name="Copy it").click()
        page.locator("body[data-settled='yes']").wait_for()

    drive(copy)
    assert Study.objects.filter(title="Boardwalk (copy)").exists()
    drive.visit("/")

    def remove(page: Page, answer: str) -> None:
        page.once("dialog", lambda dialog: getattr(dialog, answer)())
        page.get_by_label("More for Boardwalk (copy)").click()
        page.locator("li", has_text="Boardwalk (copy)").get_by_role(
            "button", name="Remove it…"
        ).click()

    drive(lambda page: remove(page, "dismiss"))
    assert Study.objects.filter(title="Boardwalk (copy)").exists()
    drive(lambda page: page.reload())
    drive(lambda page: remove(page, "accept"))
    drive(lambda page: expect(page.get_by_role("alert")).to_contain_text("was removed"))
    assert not Study.objects.filter(title="Boardwalk (copy)").exists()
