"""The spacing of sheets: by one rule, and nothing is said otherwise after it."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.sheet.reader import read_sheet
from ovolo.sheet.spacing import spaced
from ovolo.sheet.tree import Unreadable
from tests.sheets import DEMO

PIECES = st.sampled_from(
    ["a", "=", " ", "   ", "(", ")", "[", "]", ",", "3 mm", "3.5", "+", "-", "*", "==", '"x  y"', "# so  it", "if", "then", "..", "°", "\n", "\n    ", "part ", "input "]
)  # fmt: skip


def said(text: str) -> list[str]:
    """What each statement says: its kind, and its text without blanks outside texts."""
    found = []
    for one in read_sheet(text).statements:
        quoted = one.text.split('"')
        quoted[::2] = ["".join(piece.split()) for piece in quoted[::2]]
        if any(quoted):
            found.append(f"{type(one.content).__name__} {one.comment} {chr(34).join(quoted)}")
    return found


@pytest.mark.parametrize("path", sorted(DEMO.glob("*.ovo")), ids=lambda path: path.stem)
def test_every_study_says_the_same_and_is_spaced_once(path: object) -> None:
    text = path.read_text(encoding="utf-8")  # type: ignore[attr-defined]
    new = spaced(text)
    assert said(new) == said(text) and spaced(new) == new
    assert not any(isinstance(one.content, Unreadable) for one in read_sheet(new).statements)


@given(st.lists(PIECES, max_size=25).map("".join))
def test_whatever_is_written_says_the_same(text: str) -> None:
    new = spaced(text)
    assert spaced(new) == new
    assert "".join(said(new)).replace("Blank", "") == "".join(said(text)).replace("Blank", "")


def test_the_rule() -> None:
    ugly = 'study   "A  b"  \n\n\n\na=3 mm   # why\nb   =  f( a,2 ,  [1,2] )\n   # alone  \ncheck a<=b\nc = [i*2 for   i in 0 .. 3]\n\n'
    assert spaced(ugly) == (
        'study "A  b"\n\na = 3 mm  # why\nb = f(a, 2, [1, 2])\n   # alone\ncheck a<=b\nc = [i*2 for i in 0 .. 3]\n'
    )
