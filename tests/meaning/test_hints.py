"""Quiet hints: never problems."""

from collections.abc import Iterator

import pytest

from ovolo.meaning import hints
from ovolo.problems import Note
from ovolo.sheet.tree import Statement
from tests.sheets import run


@pytest.mark.parametrize(
    ("lines", "at", "message"),
    [
        (("input a = 3 mm", "input b = 4 mm", "c = b"), 0, "nothing uses the input `a`"),
        (("input a = 3", 'preset "P": a = 4'), 0, "nothing uses the input `a`"),
        (("a = 2 * 40 mm", "b = 3 mm + 40 mm"), 0, "40 mm also stands in line 2"),
        (("sin(a) = a", "b = sin(3 mm)"), 0, "`sin` hides the word of that name"),
        (("pi = 3",), 0, "`pi` hides the word of that name"),
        (("a = 1.2 * 3 mm", "b = 4 kg * 1.2"), 1, "1.2 also stands in line 1"),
        (("t = 12 mm", "a = 2 t"), 1, "2 t is a mass here, in the unit t; for so many times the"),
        (("f(h) = 2 h",), 0, "write 2 * h"),
        (("m = 2", "a = 3 m/s"), 1, "for so many times the name `m` write 3 * m/s"),
        (("a = 1/20 mm",), 0, "to divide by 20 mm write 1 / (20 mm)"),
        (("a = round(12.7 mm)",), 0, "is the finish of an edge; to round a length say to what"),
        (("a = round(2.345, 2)",), 0, "goes to multiples of 2; to 2 decimals: `round(…, 0.01)`"),
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
        ("width = 3 mm", "a = width(box(width, 2 mm, 1 mm))"),
        ("a = 12 mm / 1 ft", "b = 13 mm / 1 ft"),
        ("a = 0.5 * 3 mm", "b = 2 * 0.5 kg", "c = 4^1.5", "d = 5^1.5"),
        ("a = 1/4 in / 1 ft",),
    ],
)
def test_what_is_in_order_gets_no_hint(lines: tuple[str, ...]) -> None:
    assert [note.message for line in run(*lines).lines for note in line.notes] == []


def test_hints_are_looked_for_when_somebody_asks_for_the_first(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    asked: list[int] = []
    looked_for = hints._hints

    def noted(statements: tuple[Statement, ...]) -> Iterator[tuple[Statement, Note]]:
        asked.append(len(statements))
        return looked_for(statements)

    monkeypatch.setattr(hints, "_hints", noted)
    outcome = run("a = 3.7 mm * 2", "b = 3.7 mm + 1 mm")
    assert [line.value for line in outcome.lines] == pytest.approx([7.4, 4.7]) and not asked
    assert all(line.notes for line in outcome.lines) and asked == [2]
