"""PDF sheets, read back with pypdf."""

import io
import math
import re
from pathlib import Path

import pypdf
import pytest

from ovolo.command.__main__ import main
from ovolo.drawing.title_block import Layout
from ovolo.drawing.views import PLAN
from ovolo.formats.export import exported_sheet
from ovolo.problems import Failure
from tests.sheets import DEMO, demo, run

POINT = 25.4 / 72
PLATE = (
    'study "Plate"', "part rim = circle(40 mm)", "part plate = rect(100 mm, 60 mm) colour slate",
    "dim diameter 80 mm about (0 mm, 0 mm) through (40 mm, 0 mm)",
)  # fmt: skip


def page_of(data: bytes) -> pypdf.PageObject:
    (page,) = pypdf.PdfReader(io.BytesIO(data)).pages
    return page


def test_the_page_has_the_size_of_its_paper() -> None:
    page = page_of(exported_sheet(run(*PLATE), "plate.pdf", Layout(PLAN, "A3")))
    assert float(page.mediabox.width) * POINT == pytest.approx(420, abs=0.01)
    assert float(page.mediabox.height) * POINT == pytest.approx(297, abs=0.01)


def test_texts_stay_texts_in_the_shipped_typeface() -> None:
    page = page_of(exported_sheet(run(*PLATE), "plate.pdf", Layout(PLAN, author="Fathom & Lark")))
    text = page.extract_text()
    for said in ("Plate", "Fathom & Lark", "Ø 80 mm", "Scale"):
        assert said in text
    fonts = str(page["/Resources"]["/Font"])  # type: ignore[index]
    assert fonts.count("/F") >= 1
    assert b"/FontFile2" in exported_sheet(run(*PLATE), "plate.pdf", Layout(PLAN))


def test_curves_have_their_true_size_on_paper() -> None:
    """The circle is traced at 1:1: the cubics it is written with enclose 40 mm of radius."""
    page = page_of(exported_sheet(run(*PLATE), "plate.pdf", Layout(PLAN, "A4", scale=1.0)))
    content = page.get_contents().get_data().decode("latin-1")  # type: ignore[union-attr]
    numbers = [float(n) for n in re.findall(r"-?\d*\.?\d+", content)]
    assert any(abs(n - 40) < 1e-3 for n in numbers)
    assert any(abs(n - 40 * math.cos(math.pi / 4)) < 1e-3 for n in numbers)


def test_the_same_study_gives_the_same_bytes() -> None:
    outcome = run(*demo("slit-window").split("\n"))
    assert exported_sheet(outcome, "a.pdf", Layout(PLAN)) == exported_sheet(outcome, "a.pdf", Layout(PLAN))  # fmt: skip


def test_other_endings_are_no_sheets() -> None:
    with pytest.raises(Failure, match="no format of a sheet"):
        exported_sheet(run(*PLATE), "a.dxf", Layout(PLAN))


def test_the_command_line_writes_a_sheet(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    sheet = str(next(DEMO.glob("*terrace-falls.ovo")))
    target = tmp_path / "falls.pdf"
    assert main(["export", sheet, "--to", str(target), "--scale", "1:25", "--author", "F & L"]) == 0
    text = page_of(target.read_bytes()).extract_text()
    for said in ("1:25", "front", "North terrace", "F & L", "+109 mm", "±0 mm"):
        assert said in text, "set upright, its levels are seen from the front"
    assert main(["export", sheet, "--to", str(target), "--scale", "1:1"]) == 2
    assert "1:20 fits" in capsys.readouterr().err
    assert main(["export", sheet, "--to", str(tmp_path / "a.svg"), "--paper", "A3", "--names"]) == 0
    assert "run = " in (tmp_path / "a.svg").read_text(encoding="utf-8")
