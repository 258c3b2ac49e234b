"""Quiet hints: never problems."""

import pytest

from tests.sheets import run


@pytest.mark.parametrize(
    ("lines", "at", "message"),
    [
        (("input a = 3 mm", "input b = 4 mm", "c = b"), 0, "nothing uses the input `a`"),
        (("input a = 3", 'preset "P": a = 4'), 0, "nothing uses the input `a`"),
        (("a = 2 * 40 mm", "b = 3 mm + 40 mm"), 0, "40 mm also stands in line 2"),
        (("sin = 3",), 0, "`sin` hides the word of that name"),
        (("part p = [box(1 mm, 1 mm, 1 mm) for i in 0 .. -1]",), 0, "this part is empty"),
        (("a = 3", "check a <= a"), 1, "this compares a with itself"),
    ],
)
def test_hints(lines: tuple[str, ...], at: int, message: str) -> None:
    outcome = run(*lines)
    assert not outcome.problems
    assert [note.message for note in outcome.lines[at].notes if message in note.message]


@pytest.mark.parametrize(
    "lines",
    [
        ("input seed = 3", "a = random(1, 0, 1)"),
        ("a = 40 mm", "b = 40 mm"),
        ("a = sin(30°)", "b = cos(30°)"),
        ("a = [3 mm, 0 mm]", "b = [0 mm, 4 mm]"),
        ("n = 2", "a = n * 1 mm", "b = 3 * n * 1 mm"),
        ("part p = box(1 m, 1 m, 1 m) when 1 > 2",),
        ("x = 3", "f(sin) = sin + x"),
    ],
)
def test_what_is_in_order_gets_no_hint(lines: tuple[str, ...]) -> None:
    assert [note.message for line in run(*lines).lines for note in line.notes] == []
