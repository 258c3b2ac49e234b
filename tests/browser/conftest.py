"""A browser on the running application.

Playwright runs in a thread of its own, for its event loop must not sit on the thread in which
the tests use the database.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

import pytest
from playwright.sync_api import BrowserContext, Dialog, Page, ViewportSize, expect, sync_playwright

from ovolo.sheet.names import studies_used
from studio.accounts.demo_user import DEMO_USER
from studio.engine import pool
from studio.projects.demo import demo_sheets
from studio.projects.models import Project, Study
from tests.sheets import demo

Result = TypeVar("Result")
SIZE: ViewportSize = {"width": 1280, "height": 800}
ARGUMENTS = [
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # Pages are put together without the drawing library in software, and in fewer processes: quicker by a seventh.
    "--disable-gpu-compositing",
    "--in-process-gpu",
    "--no-first-run",
    "--disable-features=BackForwardCache",  # what was left is not kept
]


class Driver:
    """Runs pieces of browser work; each is a function of the page. Tests share one page, which is
    left as it was found: a new one would compile all scripts and shaders again."""

    def __init__(self, executor: ThreadPoolExecutor, context: BrowserContext, address: str) -> None:
        self.executor, self.context, self.address = executor, context, address
        self.errors: list[str] = []
        self.page: Page = executor.submit(self._open).result()

    def _open(self) -> Page:
        page = self.context.pages[0] if self.context.pages else self.context.new_page()
        page.on("pageerror", self._fail)
        page.on("console", self._listen)
        page.set_default_timeout(30_000)
        expect.set_options(timeout=20_000)
        return page

    def _fail(self, error: Any) -> None:
        self.errors.append(f"{error}\n{getattr(error, 'stack', '')}"[:600])

    def _listen(self, message: Any) -> None:
        expected = ("server responded with a status of 4", "ERR_INTERNET_DISCONNECTED")
        if message.type == "error" and not any(said in message.text for said in expected):
            self.errors.append(message.text)

    def __call__(self, work: Callable[[Page], Result]) -> Result:
        return self.executor.submit(work, self.page).result()

    def visit(self, path: str) -> None:
        self(lambda page: page.goto(self.address + path))

    def close(self) -> None:
        self(self._leave_nothing)

    def _leave_nothing(self, page: Page) -> None:
        """Nothing of a test is there for the next one. (The page goes to a file of the same server: from
        one that is nowhere, the next would be put together in a process of its own.)"""
        page.remove_listener("pageerror", self._fail)
        page.remove_listener("console", self._listen)
        page.unroute_all()
        page.on("dialog", _leave_all_behind)
        page.goto(f"{self.address}/static/dist/fonts.css")
        page.remove_listener("dialog", _leave_all_behind)
        page.set_viewport_size(SIZE)
        page.emulate_media(media="null", color_scheme="null", reduced_motion="null")
        self.context.set_offline(False)
        self.context.clear_cookies()
        storage = {"origin": self.address, "storageTypes": "local_storage"}
        session = self.context.new_cdp_session(page)
        session.send("Storage.clearDataForOrigin", storage)
        session.detach()


def _leave_all_behind(dialog: Dialog) -> None:
    """A page asks before changes are lost that it has not sent."""
    dialog.accept()


class Browsers:
    """One that paints pictures in space, which is done in software and takes a third of all work, and one that
    does not; each is started when it is first asked for."""

    def __init__(self) -> None:
        self.executor = ThreadPoolExecutor(1)
        self.playwright = self.executor.submit(lambda: sync_playwright().start()).result()
        self._contexts: dict[bool, BrowserContext] = {}

    def context(self, paints: bool) -> BrowserContext:
        if paints not in self._contexts:
            self._contexts[paints] = self.executor.submit(self._begin, paints).result()
        return self._contexts[paints]

    def _begin(self, paints: bool) -> BrowserContext:
        browser = self.playwright.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell",
            args=ARGUMENTS if paints else [*ARGUMENTS, "--disable-3d-apis"],
        )
        context = browser.new_context(viewport=SIZE, accept_downloads=True)
        # The tour of a first opening is over; a test of it begins it.
        context.add_init_script("try { localStorage.setItem('ovolo.tour', 'seen'); } catch {}")
        return context

    def close(self) -> None:
        self.executor.submit(self._end).result()
        self.executor.shutdown()

    def _end(self) -> None:
        for context in self._contexts.values():
            if context.browser:
                context.browser.close()
        self.playwright.stop()


@pytest.fixture(scope="session")
def _browsers() -> Iterator[Browsers]:
    browsers = Browsers()
    yield browsers
    browsers.close()
    pool.stop_workers()


@pytest.fixture
def signed_in_demo(settings: Any) -> None:
    """Visitors are signed in as the demo user, as `make demo` does."""
    settings.DEMO = True


@pytest.fixture
def project(signed_in_demo: None, django_user_model: Any, transactional_db: None) -> Project:
    user = django_user_model.objects.create_user(DEMO_USER)
    return Project.objects.create(owner=user, title="Quillmere Observatory")


@pytest.fixture
def open_study(project: Project, drive: Driver) -> Callable[[str, str], Study]:
    """Makes a study and opens its workspace, waiting for its first picture."""

    def make(title: str, text: str) -> Study:
        study = Study.objects.create(project=project, title=title)
        study.save_text(text, None, "as delivered")
        for used in set(studies_used(text).values()) & set(demo_sheets()):
            beside = Study.objects.create(project=project, title=used)
            beside.save_text(demo_sheets()[used], None, "as delivered")
        drive.visit(f"/studies/{study.pk}/?antialias=off")
        settled(drive)
        return study

    return make


@pytest.fixture
def stair(open_study: Callable[[str, str], Study]) -> Study:
    """At a coarse tolerance, for it is drawn in software."""
    coarse = demo("spiral-stair").replace("tolerance 0.5 mm", "tolerance 5 mm")
    return open_study("Spiral stair to the dome", coarse)


@pytest.fixture
def boardwalk(open_study: Callable[[str, str], Study]) -> Study:
    return open_study("Boardwalk", demo("boardwalk"))


@pytest.fixture
def drive(
    request: pytest.FixtureRequest, _browsers: Browsers, live_server: Any, signed_in_demo: None
) -> Iterator[Driver]:
    """What is seen in space is painted for the tests that are marked so; all others do without."""
    paints = request.node.get_closest_marker("painted") is not None
    driver = Driver(_browsers.executor, _browsers.context(paints), live_server.url)
    yield driver
    driver.close()
    assert not driver.errors


def settled(drive: Driver) -> None:
    """Waits until no request is under way and the newest answer is shown."""
    drive(lambda page: page.locator("body[data-settled='yes']").wait_for())


def stage(drive: Driver) -> dict[str, dict[str, Any]]:
    """The parts as the stage's own scene holds them."""
    report = drive(lambda page: page.evaluate("() => window.ovolo.stage.report()"))
    return {part["name"]: part for part in report}


def picture(drive: Driver) -> bytes:
    assert drive(lambda page: page.evaluate("() => window.ovolo.stage.paints"))
    return drive(lambda page: page.locator("#stage canvas").screenshot())


def place_on_screen(drive: Driver, point: list[float]) -> tuple[float, float]:
    """Where a point in space is in the window, in pixels."""
    return drive(lambda page: place_in(page, point))


def place_in(page: Page, point: list[float]) -> tuple[float, float]:
    found: dict[str, Any] = page.evaluate(
        """async (point) => {
          await new Promise((done) => setTimeout(done)); // what was to come next has come: the picture makes room for a strip
          const { stage } = window.ovolo;
          const { left, top } = stage.host.getBoundingClientRect();
          const at = stage.onScreen(stage.camera.position.clone().set(...point));
          return { x: left + at.x, y: top + at.y };
        }""", point,
    )  # fmt: skip
    return found["x"], found["y"]
