"""The projects page."""

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
