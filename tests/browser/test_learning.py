"""A newcomer's first exercise, done with nothing but what the screen offers; the tour over the real screen."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from studio.projects.models import Project, Study
from tests.browser.conftest import Driver, settled
from tests.browser.editor import add_line

pytestmark = pytest.mark.browser


def hint(drive: Driver) -> str:
    """What the hint of the present step gives as a line to write."""

    def read(page: Page) -> str:
        step = page.locator(".guide-step.now")
        step.get_by_role("button", name="Hint").click()
        said = step.locator(".guide-hint code").all_inner_texts()
        return next(
            one for one in said if re.match(r"(input|part|check|\w+ =)", one) and len(one) > 12
        )

    return drive(read)


def test_a_newcomers_first_study(project: Project, drive: Driver) -> None:
    drive.visit("/first-hour/")
    drive(lambda page: page.get_by_role("button", name="Begin", exact=True).first.click())
    settled(drive)
    for step in range(5):
        drive(lambda page, step=step: expect(page.locator(".guide-step")).to_have_count(5))
        drive(
            lambda page, step=step: expect(
                page.locator(".guide-step.now .guide-mark")
            ).to_have_text("○")
        )
        add_line(drive, hint(drive))
        drive(
            lambda page, step=step: expect(page.locator(".guide-mark:text-is('✓')")).to_have_count(
                step + 1
            )
        )
    drive(lambda page: expect(page.get_by_role("status").filter(has_text="Done.")).to_be_visible())
    study = Study.objects.get(title="A triangle and its height")
    assert study.exercises.get().done is not None
    drive(lambda page: page.get_by_role("button", name="Next: A count rounded up").click())
    settled(drive)
    drive(lambda page: expect(page.locator("#guide")).to_contain_text("2. A count rounded up"))
    drive(lambda page: page.get_by_role("button", name="Leave it").click())
    drive(lambda page: expect(page.locator("#guide")).to_have_count(0))


def test_the_tour_goes_over_the_screen_and_takes_no_click(stair: Study, drive: Driver) -> None:
    drive(lambda page: expect(page.locator("#tour")).to_have_count(0))  # it was seen
    drive.visit(f"/studies/{stair.pk}/?antialias=off&tour=yes")
    settled(drive)

    def tour(page: Page) -> list[str]:
        titles = []
        for _ in range(5):
            card = page.locator(".tour-card")
            expect(card).to_be_in_viewport(ratio=1)
            titles.append(card.locator("b").inner_text())
            ring = page.locator(".tour-ring").bounding_box()
            assert ring is not None and ring["width"] > 20 and ring["height"] > 10
            card.get_by_role("button").last.click()
        return titles

    assert drive(tour) == [
        "The sheet",
        "The picture",
        "The faceplate",
        "What holds and what does not",
        "Words",
    ]
    drive(lambda page: expect(page.locator("#tour")).to_have_count(0))

    def begin_again(page: Page) -> None:
        page.get_by_text("Study", exact=True).click()
        page.get_by_role("button", name="A tour of this screen").click()
        box = page.locator(".tour-card").bounding_box()
        assert box is not None
        under = page.evaluate(
            "([x, y]) => document.elementFromPoint(x, y).closest('#tour')",
            [box["x"] + 30, box["y"] + 70],
        )
        assert under is None, "a click on the card goes to what is below it"
        page.get_by_role("button", name="Leave the tour").click()
        expect(page.locator("#tour")).to_have_count(0)

    drive(begin_again)
    assert drive(lambda page: page.evaluate("localStorage.getItem('ovolo.tour')")) == "seen"
