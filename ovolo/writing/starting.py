"""Starting points: small studies by the job they do, each a page of the help and a piece to drop into a sheet.

A starting point is a sheet in `starting_points/`. Comments above `study` say what it is needed for (`# needs: a, b`)
and what it is; comments below the head of a section explain the section.
"""

from __future__ import annotations

import hashlib
import re
from functools import cache
from itertools import takewhile
from pathlib import Path

from msgspec import Struct

from ovolo.problems import Failure, meant
from ovolo.sheet import tree
from ovolo.sheet.names import references
from ovolo.sheet.placing import free_name
from ovolo.sheet.reader import read_sheet, title_of
from ovolo.writing.renaming import renamed

FOLDER = Path(__file__).parent / "starting_points"
_OF_THE_WHOLE = (tree.Study, tree.Units, tree.Tolerance, tree.Preset)
"""What a piece does not bring along: the sheet it is dropped into has its own."""


class Passage(Struct, frozen=True):
    """A section as it is explained: its title, what is said of it, its lines."""

    title: str
    said: str
    lines: str


class StartingPoint(Struct, frozen=True):
    key: str
    needs: tuple[str, ...]
    said: str
    sheet: str
    """The sheet without what stands above `study`."""

    @property
    def title(self) -> str:
        return title_of(self.sheet)

    @property
    def digest(self) -> str:
        """Of the sheet: its picture is made anew when that has changed."""
        return hashlib.sha256(self.sheet.encode()).hexdigest()[:16]

    @property
    def passages(self) -> tuple[Passage, ...]:
        pieces = re.split(r"^== (.+?) ==\n", self.sheet, flags=re.MULTILINE)
        titled = zip(pieces[1::2], pieces[2::2], strict=True)
        return tuple(_passage(title, body) for title, body in titled)


def _passage(title: str, body: str) -> Passage:
    lines = body.strip("\n").split("\n")
    said = list(takewhile(lambda line: line.startswith("#"), lines))
    told = " ".join(line.removeprefix("#").strip() for line in said)
    return Passage(title, told, "\n".join(lines[len(said) :]).strip("\n"))


@cache
def starting_points() -> tuple[StartingPoint, ...]:
    """All starting points, in the order in which they are offered."""
    return tuple(_read(path) for path in sorted(FOLDER.glob("*.ovo")))


def _read(path: Path) -> StartingPoint:
    above, study, below = path.read_text(encoding="utf-8").partition("study ")
    said = [line.removeprefix("# ") for line in above.splitlines()]
    needs = next(line.removeprefix("needs: ") for line in said if line.startswith("needs: "))
    told = " ".join(line for line in said if not line.startswith("needs: "))
    return StartingPoint(path.stem.partition("-")[2], tuple(needs.split(", ")), told, study + below)


def starting_point(key: str) -> StartingPoint:
    """The one of this key. Raises Failure where there is none."""
    found = {one.key: one for one in starting_points()}
    if key not in found:
        there = f"there are {', '.join(found)}"
        raise Failure(f"there is no starting point `{key}`", meant(key, list(found), there))
    return found[key]


def piece_for(text: str, key: str) -> str:
    """The lines of a starting point as they are dropped into a sheet: what the whole sheet says is left out, and
    names that are taken there have a figure behind them. Raises Failure where a line of the sheet hides a word that
    the piece needs."""
    piece = starting_point(key).sheet
    own, used = _names_of(piece)
    lines, named = _names_of(text)
    hidden = sorted(lines & (used - own))
    if hidden:
        raise Failure(
            f"a line of this sheet is called `{hidden[0]}`, which the piece needs as a word",
            "give that line another name first",
        )
    for name in sorted(own & (lines | named)):
        piece = renamed(piece, name, free_name(f"{text}\n{piece}", name))
    statements = read_sheet(piece).statements
    kept = [one.text for one in statements if not isinstance(one.content, _OF_THE_WHOLE)]
    return "\n".join(kept).strip("\n")


def _names_of(text: str) -> tuple[set[str], set[str]]:
    """The names that a sheet has lines for, and those that its lines use."""
    statements = read_sheet(text).statements
    used = {name for one in statements for name, _ in references(one.content)}
    return {one.name for one in statements if one.name}, used
