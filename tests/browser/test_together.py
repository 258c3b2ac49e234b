"""Several people, and visitors, in browsers of their own."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest
import trimesh
from django.contrib.auth.models import User
from django.test import Client
from playwright.sync_api import Dialog, Page, expect

from studio.projects.models import Study
from studio.rights.models import Invitation, Link, Member
from tests.browser.conftest import SIZE, Driver, settled, stage
from tests.browser.editor import alert, open_line, press, row_value, type_line
from tests.browser.test_access import serious
from tests.browser.test_saving import ask_for_news, head_text

pytestmark = pytest.mark.browser
SHEET = """study "Wind vane"
units mm, deg
input chord = 300 mm from 100 mm to 900 mm step 10 mm "Chord"
input form = "plain" of "plain", "swept" "Form"
half = chord / 2
third = chord / 3
part fin = box(20 mm, half, chord) colour oak "Fin"
preset "Small": chord = 120 mm
"""


@pytest.fixture
def vane(open_study: Callable[[str, str], Study]) -> Study:
    return open_study("Wind vane", SHEET)


class Other:
    """Another person's browser, driven like the first."""

    def __init__(self, drive: Driver, person: User, address: str) -> None:
        self.drive, self.address = drive, address
        client = Client()
        client.force_login(person)
        cookie = {
            "name": "sessionid",
            "value": client.cookies["sessionid"].value,
            "url": drive.address,
        }
        self.page: Page = drive.executor.submit(self._open, cookie).result()

    def _open(self, cookie: Any) -> Page:
        browser = self.drive.context.browser
        assert browser is not None
        context = browser.new_context(viewport=SIZE)
        context.add_cookies([cookie])
        page = context.new_page()
        page.goto(self.address)
        return page

    def __call__(self, work: Callable[[Page], Any]) -> Any:
        return self.drive.executor.submit(work, self.page).result()

    def close(self) -> None:
        self(lambda page: page.context.close())


@pytest.fixture
def mara(vane: Study, drive: Driver) -> Iterator[Any]:
    person = User.objects.create_user("mara", first_name="Mara", last_name="Voss")
    Member.objects.create(project=vane.project, person=person, role="editor")
    other = Other(drive, person, f"{drive.address}/studies/{vane.pk}/?antialias=off")
    settled(other)  # type: ignore[arg-type]
    yield other
    other.close()


def _a_proof_is_of_what_is_shown(viewer: Any) -> None:
    """Who turns inputs for themselves is told when a proof is of other values."""
    old = "What is shown has changed since."
    press(viewer, "Proof")
    press(viewer, "Try and prove")
    viewer(lambda page: expect(page.get_by_role("button", name="Again")).to_be_visible())
    viewer(lambda page: expect(page.get_by_text(old)).to_be_hidden())
    viewer(lambda page: page.get_by_role("slider", name="Chord").press("ArrowRight"))
    viewer(lambda page: expect(page.get_by_text(old)).to_be_visible())
    press(viewer, "Again")
    viewer(lambda page: expect(page.get_by_text(old)).to_be_hidden())


def test_two_people_at_one_study(vane: Study, drive: Driver, mara: Any) -> None:
    """Different lines go together, also where one was offline; the same line asks; a remark is answered."""
    open_line(mara, "third")
    ask_for_news(mara)
    ask_for_news(drive)
    drive(lambda page: expect(page.locator("#people-here")).to_have_text("with Mara Voss"))
    drive(lambda page: expect(page.locator(".row-others")).to_have_text("Mara Voss"))

    open_line(drive, "half")
    type_line(drive, "half = chord / 4")
    mara(lambda page: page.context.set_offline(True))
    mara(lambda page: page.keyboard.press("Control+a"))
    mara(lambda page: page.keyboard.insert_text("third = chord / 6"))
    mara(lambda page: page.keyboard.press("Enter"))
    mara(
        lambda page: expect(
            page.get_by_role("status").filter(has_text="1 change waits")
        ).to_be_visible()
    )
    mara(lambda page: page.context.set_offline(False))
    settled(mara)
    assert {row_value(mara, "half"), row_value(mara, "third")} == {"75 mm", "50 mm"}
    text = head_text(vane)
    assert "half = chord / 4" in text and "third = chord / 6" in text

    open_line(drive, "half")
    open_line(mara, "half")
    type_line(mara, "half = chord / 8")
    settled(mara)
    type_line(drive, "half = chord / 5")
    said = alert(drive)
    assert "The same line was changed by Mara Voss" in said and "half = chord / 8" in said
    press(drive, "Take over with mine")
    assert "half = chord / 5" in head_text(vane)

    ask_for_news(mara)
    mara(
        lambda page: expect(
            page.get_by_role("status").filter(has_text="taken over")
        ).to_be_visible()
    )
    settled(mara)
    assert row_value(mara, "half") == "60 mm", "a window at rest follows"

    open_line(mara, "half")
    press(mara, "Remark…")
    mara(lambda page: page.get_by_label("Remark", exact=True).fill("Why a fifth?"))
    press(mara, "Say it")
    ask_for_news(drive)
    drive(lambda page: expect(page.locator(".row-remarks")).to_have_text("1 remark"))
    press(drive, "Remarks 1")
    panel = drive(lambda page: page.locator("#remarks").inner_text())
    assert "Why a fifth?" in panel and "Mara Voss" in panel and "half = chord / 5" in panel
    assert serious(drive) == []
    Member.objects.update(role="viewer")
    keep = mara(lambda page: page.get_by_role("button", name="Save these values"))
    mara(lambda page: expect(keep).to_be_visible())
    ask_for_news(mara)
    mara(lambda page: expect(keep).to_be_hidden())
    _a_proof_is_of_what_is_shown(mara)
    press(drive, "Settle")
    drive(lambda page: expect(page.locator(".row-remarks")).to_have_count(0))


def test_a_visitor_takes_what_was_turned(vane: Study, drive: Driver) -> None:
    """Not the study as its maker left it, which is not what is seen."""
    link = Link.objects.create(
        project=vane.project, study=vane, by=vane.project.owner, formats=["stl"]
    )
    drive.visit(f"/links/{link.token}/")
    settled(drive)

    def height(page: Page) -> float:
        page.locator("#hand-over summary").click()
        with page.expect_download() as caught:
            page.locator("#hand-over a[href$='parts.stl']").click()
        mesh = trimesh.load_mesh(caught.value.path(), file_type="stl")
        return float(mesh.bounds[1][2])

    assert drive(height) == pytest.approx(300)
    press(drive, "Small")
    assert stage(drive)["fin"]["top"] == pytest.approx(120)
    assert drive(height) == pytest.approx(120)
    press(drive, "As in the study")
    assert drive(height) == pytest.approx(300)


def test_a_visitor_copies_what_was_turned(vane: Study, drive: Driver) -> None:
    link = Link.objects.create(project=vane.project, study=vane, by=vane.project.owner, copies=True)
    drive.visit(f"/links/{link.token}/")
    settled(drive)

    def turn_both_at_once(page: Page) -> None:
        """The second before the first is answered."""
        page.get_by_role("slider", name="Chord").press("ArrowRight")
        page.get_by_role("radio", name="swept").click()

    drive(turn_both_at_once)
    settled(drive)
    assert stage(drive)["fin"]["top"] == pytest.approx(310)
    drive(lambda page: page.get_by_role("link", name="Take a copy").click())
    drive(lambda page: expect(page.get_by_text("As you turned it: chord, form.")).to_be_visible())
    press(drive, "Take it")
    settled(drive)
    copy = vane.project.studies.latest("pk")
    assert copy.pk != vane.pk and "chord = 310 mm" in copy.text and 'form = "swept"' in copy.text
    assert "chord = 300 mm" in head_text(vane)


def _answer_edits_late(page: Page) -> None:
    page.evaluate(
        """() => {
          const { fetch } = window;
          window.fetch = async (...asked) => {
            if (String(asked[0]).endsWith("/edit")) await new Promise((done) => setTimeout(done, 800));
            return fetch(...asked);
          };
        }"""
    )


def test_a_link_is_followed_once_all_is_saved(vane: Study, drive: Driver) -> None:
    """And nobody is asked whether to leave."""
    asked: list[str] = []

    def stay(dialog: Dialog) -> None:
        asked.append(dialog.type)
        dialog.dismiss()

    def change_and_leave(page: Page) -> None:
        page.on("dialog", stay)
        _answer_edits_late(page)
        page.get_by_role("slider", name="Chord").press("ArrowRight")
        page.get_by_role("link", name="Benches").click()
        page.wait_for_url("**/print")
        page.remove_listener("dialog", stay)

    drive(change_and_leave)
    assert "chord = 310 mm" in head_text(vane) and asked == []


def test_a_link_is_not_followed_where_the_change_before_it_was_refused(
    vane: Study, drive: Driver
) -> None:
    def change_and_leave(page: Page) -> None:
        _answer_edits_late(page)
        page.locator("[data-input='chord'] input").first.fill("12 kg")
        page.keyboard.press("Enter")
        page.get_by_role("link", name="Benches").click()
        expect(page.get_by_role("alert")).to_contain_text("12 kg is a mass")
        page.wait_for_timeout(300)
        assert page.url.endswith(f"/studies/{vane.pk}/") or f"/studies/{vane.pk}/?" in page.url

    drive(change_and_leave)
    drive(lambda page: page.get_by_role("link", name="Benches").click())
    drive(lambda page: page.wait_for_url("**/print"))


def test_a_copy_has_the_change_that_is_on_its_way(vane: Study, drive: Driver) -> None:
    def change_and_copy(page: Page) -> None:
        _answer_edits_late(page)
        page.get_by_role("slider", name="Chord").press("ArrowRight")
        page.locator("summary", has_text="Study").click()
        page.get_by_role("button", name="Copy it", exact=True).click()
        page.wait_for_url(lambda url: f"/studies/{vane.pk}/" not in url)

    drive(change_and_copy)
    assert "chord = 310 mm" in head_text(vane)
    assert "chord = 310 mm" in vane.project.studies.latest("pk").text


def test_a_visitor_turns_inputs_and_changes_nothing(vane: Study, drive: Driver) -> None:
    link = Link.objects.create(
        project=vane.project, study=vane, by=vane.project.owner, formats=["stl"]
    )
    revision = vane.head_id
    drive.visit(f"/links/{link.token}/")
    settled(drive)
    assert serious(drive) == []
    shown = drive(lambda page: page.locator("header").inner_text())
    assert "Undo" not in shown and "History" not in shown and "Quillmere" not in shown
    chord = drive(lambda page: page.locator("[data-input='chord'] input").first)
    drive(lambda page: chord.fill("12 kg"))
    drive(lambda page: chord.press("Enter"))
    drive(lambda page: expect(page.get_by_role("alert")).to_contain_text("12 kg is a mass"))
    drive(lambda page: expect(page.get_by_role("alert")).to_be_in_viewport(ratio=1))
    press(drive, "Close")
    drive(lambda page: page.get_by_role("slider", name="Chord").press("ArrowRight"))
    settled(drive)
    assert stage(drive)["fin"]["top"] == pytest.approx(310)
    drive(lambda page: page.get_by_role("radio", name="swept").click())
    settled(drive)
    press(drive, "Small")
    assert stage(drive)["fin"]["top"] == pytest.approx(120)
    press(drive, "Show the sheet")
    assert row_value(drive, "half") == "60 mm"
    open_line(drive, "half")
    drive(lambda page: page.keyboard.type("12345"))
    settled(drive)
    assert drive(lambda page: page.locator(".cm-content").inner_text()) == "half = chord / 2"
    drive(lambda page: expect(page.locator("#open-said .katex")).to_have_count(1))  # its working
    assert drive(lambda page: page.get_by_role("button", name="Delete line").is_visible()) is False
    press(drive, "As in the study")
    assert stage(drive)["fin"]["top"] == pytest.approx(300)
    drive(lambda page: page.locator("#hand-over summary").click())
    files = drive(lambda page: page.locator("#hand-over a").all_inner_texts())
    assert files and all(
        "STL" in one or one in ("cm", "m", "in", "fine", "coarse") for one in files
    ), files
    assert drive(_taken) == "wind-vane.stl"
    link.end()
    press(drive, "Small")
    assert "There is nothing here any more" in alert(drive)
    vane.refresh_from_db()
    assert vane.head_id == revision and vane.revisions.count() == 1


def _taken(page: Page) -> str:
    with page.expect_download() as download:
        page.locator("#hand-over a").first.click()
    return download.value.suggested_filename


def test_the_pages_of_people_are_accessible(vane: Study, drive: Driver) -> None:
    owner, project = vane.project.owner, vane.project
    invitation = Invitation.objects.create(project=project, role="viewer", by=owner)
    link = Link.objects.create(project=project, by=owner, copies=True, embeds=True)
    for path in (
        "/account/", f"/projects/{project.pk}/people", f"/studies/{vane.pk}/copy-to", f"/invitations/{invitation.token}",
        f"/links/{link.token}/", f"/links/{link.token}/studies/{vane.pk}/embed?antialias=off", "/reset/", "/reset/sent", "/reset/MQ/none",
    ):  # fmt: skip
        drive.visit(path)
        assert serious(drive) == [], path


def test_a_line_that_is_opened_while_news_arrive_stays_open(vane: Study, drive: Driver) -> None:
    vane.save_text(vane.text + "\nadded = 3 mm", vane.head_id, "by somebody else")

    def ask(page: Page) -> None:
        page.evaluate(
            """() => {
              const { fetch } = window;
              window.fetch = async (...asked) => {
                const answer = await fetch(...asked);
                if (String(asked[0]).endsWith("/state")) await new Promise((done) => setTimeout(done, 1000));
                return answer;
              };
            }"""
        )
        with page.expect_response("**/state"):
            page.evaluate("() => { window.dispatchEvent(new Event('focus')); }")

    drive(ask)
    open_line(drive, "half")
    drive(lambda page: page.wait_for_timeout(1100))
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())
    type_line(drive, "half = chord / 3")
    assert "half = chord / 3" in head_text(vane) and "added = 3 mm" in head_text(vane)
