"""Texts as outlines, against the typeface's own figures as fontTools reads them."""

import pytest
from fontTools.pens.areaPen import AreaPen
from fontTools.pens.boundsPen import BoundsPen
from fontTools.ttLib import TTFont

from ovolo.geometry.regions import lettering
from tests.sheets import problem, run, value

FONT = TTFont(lettering.FONT)
CAPITAL = FONT["OS/2"].sCapHeight


@pytest.mark.parametrize("letter", ["H", "O", "g", "8", "Å", "é"])
def test_area_and_extent_of_a_letter(letter: str) -> None:
    glyphs = FONT.getGlyphSet()
    name = FONT.getBestCmap()[ord(letter)]
    area, bounds = AreaPen(glyphs), BoundsPen(glyphs)
    glyphs[name].draw(area)
    glyphs[name].draw(bounds)
    size = 10 / CAPITAL
    drawn = f'text("{letter}", 10 mm, up = "baseline")'
    low, _, high, top = (edge * size for edge in bounds.bounds)
    assert value(f"width({drawn})") == pytest.approx(high - low, abs=0.06)
    assert value(f"area({drawn})") == pytest.approx(abs(area.value) * size**2, rel=0.02)
    (part,) = run(f"part p = {drawn}").parts.values()
    assert part.bounds is not None and part.bounds[1][1] == pytest.approx(top, abs=0.06)


def test_alignment_and_height() -> None:
    assert value('depth(text("HEX", 12 mm))') == pytest.approx(12, rel=0.03)
    left = run('part p = text("HEX", 12 mm, "left", "baseline")').parts["p"].bounds
    assert left is not None and left[0][0] > 0 and left[0][1] == pytest.approx(0, abs=0.2)
    right = run('part p = text("HEX", 12 mm, "right", "top")').parts["p"].bounds
    assert right is not None and right[1][0] < 0 and right[1][1] == pytest.approx(0, abs=0.2)


def test_pairs_of_letters_are_kerned() -> None:
    apart = value('width(text("A", 10 mm)) + width(text("V", 10 mm))')
    assert value('width(text("AV", 10 mm))') < apart + 1


def test_texts_are_raised_letters_that_are_closed() -> None:
    part = run('part p = extrude(text("XII 08", 10 mm), 2 mm)').parts["p"]
    assert part.closed and part.volume == pytest.approx(
        2 * value('area(text("XII 08", 10 mm))'), rel=1e-2
    )


@pytest.mark.parametrize(
    ("formula", "said"),
    [
        ('text("a", -1 mm)', "the height is -1 mm"),
        ('text("木", 10 mm)', "the typeface has no letter “木”"),
        ('text("a", 10 mm, "middle")', "is no way to align across"),
    ],
)
def test_problems(formula: str, said: str) -> None:
    assert said in problem(f"t = {formula}").message
