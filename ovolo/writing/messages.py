"""All that can be said to be wrong, read from where it is said: every `Failure` of the core, with its hint.

What a message fills in (a name, a figure) is shown as `…`.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

from msgspec import Struct

ROOMS = {
    "sheet": "Reading a line",
    "meaning": "Names and kinds",
    "quantities": "Figures and units",
    "running": "Working out",
    "words": "Words",
    "geometry": "Geometry",
    "outcome": "Measures and dims",
    "drawing": "Drawings",
    "formats": "Files",
    "exploring": "Variations, aim and proof",
    "benches": "Benches",
    "hand_over": "Handing over",
    "exercises": "The first hour",
    "writing": "Writing",
    "calling": "From Python",
    "command": "The command line",
}
"""What the packages of the core are about, in the order in which a sheet meets them."""

_OPEN = "…"
_CORE = Path(__file__).parents[1]
_FEWEST = 12
"""So many letters of its own a message has by which another text is known to be it."""


class Message(Struct, frozen=True):
    said: str
    hint: str
    room: str

    def fits(self, text: str) -> bool:
        """Whether a text is this message, filled in: its own pieces stand in it one after another. Each is looked for
        once, so that it takes a time in proportion to the text."""
        pieces = self.said.split(_OPEN)
        at = 0
        for piece in pieces:
            found = text.find(piece, at)
            if found < 0:
                return False
            at = found + len(piece)
        return sum(map(len, pieces)) >= _FEWEST


@cache
def messages() -> tuple[Message, ...]:
    """All messages by their rooms, each once."""
    found: dict[tuple[str, str], Message] = {}
    for package, room in ROOMS.items():
        for path in sorted((_CORE / package).rglob("*.py")):
            for said, hint in _failures(ast.parse(path.read_text(encoding="utf-8"))):
                found.setdefault((said, room), Message(said, hint, room))
    return tuple(found.values())


def messages_for(text: str, most: int = 3) -> list[Message]:
    """The messages that a text is, those with the most letters of their own first."""
    fitting = [one for one in messages() if one.fits(text)]
    return sorted(fitting, key=lambda one: -len(one.said.replace(_OPEN, "")))[:most]


def _failures(tree: ast.AST) -> Iterator[tuple[str, str]]:
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "Failure" and node.args:  # fmt: skip
            hints = [*node.args[1:2], *(one.value for one in node.keywords if one.arg == "hint")]
            said = _said(node.args[0])
            if said.strip(f" {_OPEN}"):
                yield said, _said(hints[0]) if hints else ""


def _said(node: ast.expr) -> str:
    """A text as it stands in the source."""
    if isinstance(node, ast.Constant):
        return str(node.value)
    if isinstance(node, ast.JoinedStr):
        return re.sub(f"{_OPEN}+", _OPEN, "".join(_said(one) for one in node.values))
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
        return _said(node.left) + _said(node.right)
    if isinstance(node, ast.IfExp):
        return _said(node.body)
    return _OPEN
