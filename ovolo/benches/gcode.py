"""G-code (RS-274): words of a letter and a figure, a move a line; written piece by piece, and read back.

Moves are G0 (travel) and G1 (work), arcs G2 (clockwise) and G3; X, Y, Z in mm (G21), absolute (G90); E is
what is fed in the move (M83), F the speed in mm a minute. Source: Kramer, Proctor and Messina, The NIST
RS274NGC Interpreter, version 3, NISTIR 6556 (2000), for the words; E and M83 are common practice of
printers.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from msgspec import Struct

from ovolo.problems import Failure

MOST_CHARACTERS = 256
"""A line of a program is no longer (NIST RS274NGC, 3.3)."""

_WORD = re.compile(r"\s*([A-Za-z])\s*([-+]?(?:\d+\.?\d*|\.\d+))")
_COMMENT = re.compile(r"\([^()]*\)|;.*$")


class Block(Struct, frozen=True):
    """A line that says something: its number from 1, and its words by their letters."""

    line: int
    words: dict[str, float]

    @property
    def said(self) -> str:
        return " ".join(f"{letter}{value:g}" for letter, value in self.words.items())


def blocks(lines: Iterable[str]) -> Iterator[Block]:
    """The lines of a program, its comments left out. Raises Failure at what is no word, and at a letter
    that a line has twice."""
    for number, line in enumerate(lines, 1):
        if len(line) > MOST_CHARACTERS:
            raise Failure(f"line {number} is longer than {MOST_CHARACTERS} characters")
        said = _COMMENT.sub("", line) if "(" in line or ";" in line else line
        found = _WORD.findall(said)
        if not found and said.strip() in ("", "%"):
            continue
        words = {letter.upper(): float(value) for letter, value in found}
        if len(words) < len(found) or _WORD.sub("", said).strip():
            _refuse(said, number)
        yield Block(number, words)


def _refuse(said: str, number: int) -> None:
    rest = _WORD.sub("", said).strip()
    if rest:
        raise Failure(f"line {number}: `{rest[:20]}` is no word", "a letter and a figure")
    raise Failure(f"line {number} says a letter twice: {said.strip()[:60]}")


def comment(said: str) -> str:
    """A line that a machine passes over; what would end it is left out."""
    plain = "".join(one for one in said if one.isprintable() and one not in "();\n\r")
    return f"({plain.encode('ascii', 'replace').decode()[: MOST_CHARACTERS - 2]})"
