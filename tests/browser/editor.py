"""Typing in the editor as a person does."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.browser.conftest import Driver, settled


def open_line(drive: Driver, name: str) -> None:
    def open_(page: Page) -> None:
        page.locator(".row", has=page.locator(f".row-name:text-is('{name}')")).click()
        expect(page.locator(".editor .cm-content")).to_be_focused()

    drive(open_)


def type_line(drive: Driver, text: str, key: str = "Enter") -> None:
    def type_(page: Page) -> None:
        page.locator(".editor .cm-content").focus()
        page.keyboard.press("Control+a")
        page.keyboard.press("Delete")
        page.keyboard.insert_text(text)
        page.keyboard.press(key)

    drive(type_)
    settled(drive)


def add_line(drive: Driver, text: str) -> None:
    """A line at the end of the sheet; the next one is then begun and left."""
    drive(lambda page: page.get_by_role("button", name="Add a line", exact=True).click())
    drive(lambda page: expect(page.locator(".editor .cm-content")).to_be_focused())
    type_line(drive, text)
    drive(lambda page: page.keyboard.press("Escape"))
    settled(drive)


def typed(drive: Driver) -> str:
    return drive(lambda page: page.locator(".editor .cm-content").inner_text())


def row_value(drive: Driver, name: str) -> str:
    """What the sheet shows at the right of a line."""

    def read(page: Page) -> str:
        row = page.locator(".row", has=page.locator(f".row-name:text-is('{name}')"))
        shown = (
            row.locator(".row-value").text_content() or ""
        )  # also of a line that is out of sight
        return " ".join(shown.replace("\u2009", "").split())

    return drive(read)


def press(drive: Driver, name: str) -> None:
    drive(lambda page: page.get_by_role("button", name=name, exact=True).last.click())
    settled(drive)


def alert(drive: Driver) -> str:
    return drive(lambda page: page.locator("[role=alert]").inner_text())


_BROUGHT = """(files) => {
  const data = new DataTransfer();
  for (const [name, text] of Object.entries(files)) data.items.add(new File([text], name));
  return data;
}"""


def let_go(drive: Driver, place: str, files: dict[str, str]) -> None:
    """Files are brought from elsewhere and let go over a place of the page."""

    def work(page: Page) -> None:
        data = page.evaluate_handle(_BROUGHT, files)
        for event in ("dragover", "drop"):
            page.dispatch_event(place, event, {"dataTransfer": data})

    drive(work)
