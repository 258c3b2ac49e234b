"""What a file format is, and which there are: each is one entry in a module of this package.

A module says `FORMATS = (Format(…), …)`; menus, the list of what may be attached, the command line and
the page on files read it from there.
"""

from __future__ import annotations

import pkgutil
from collections.abc import Callable, Iterator, Mapping
from functools import cache
from importlib import import_module
from pathlib import PurePath

from msgspec import Struct

from ovolo.drawing.marks import Page
from ovolo.meaning.attachments import Attached
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.problems import Failure
from ovolo.quantities.kinds import CURVE, REGION, SOLID, Kind

SOLIDS, FLAT = (SOLID,), (CURVE, REGION)
A_TABLE = "a table"
"""What a format `holds` that names pieces and carries no shapes."""

Settled = Mapping[str, str]
"""The options of a file, each with what was chosen."""


class Option(Struct, frozen=True):
    """A choice in how a file is written; the first of the choices where nothing is said."""

    name: str
    choices: tuple[str, ...]
    meaning: str


UNIT = Option(
    "unit", ("mm", "cm", "m", "in"), "the length that one of the file's figures stands for"
)
CHORDS = Option(
    "chords",
    ("sheet", "fine", "coarse"),
    "how closely chords follow what is round: as in the sheet, five times closer or less close",
)
_SHARES = {"sheet": 1.0, "fine": 0.2, "coarse": 5.0}
_MILLIMETRES = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}


def millimetres(settled: Settled) -> float:
    """How many mm the unit of a file has."""
    return _MILLIMETRES[settled.get("unit", "mm")]


def share_of_chords(settled: Settled) -> float:
    """By what share of the sheet's tolerance the chords of a file may miss what is round."""
    return _SHARES[settled.get("chords", "sheet")]


class Format(Struct, frozen=True):
    """A file format."""

    ending: str
    title: str
    place: int
    """Where it stands in menus and lists."""

    also: tuple[str, ...] = ()
    """Other endings of the same."""

    holds: str = ""
    """What a sheet takes it for where it reads it: a table, a drawing, a solid, a picture."""

    read: Callable[[bytes, str], Attached] | None = None
    write: Callable[[Outcome, list[Part], Settled], bytes] | None = None
    kinds: tuple[Kind, ...] = ()
    """The kinds of parts that are written, and `otherwise` those where there are none of these."""

    otherwise: tuple[Kind, ...] = ()
    said: str = ""
    """What these parts are called: solid, flat, drawn."""

    offered: str = ""
    """What the menu says; `file` is the name that is proposed, without its ending."""

    file: str = "parts"
    offered_each: str = ""
    """What the menu says of a file for each part, together in a zip."""

    options: tuple[Option, ...] = ()
    draw: Callable[[Page], bytes] | None = None
    """Writes a sheet of paper."""

    @property
    def endings(self) -> tuple[str, ...]:
        return (self.ending, *self.also)

    def taken(self, parts: list[Part]) -> list[Part]:
        """Those of some parts that go into one file."""
        for kinds in (self.kinds, self.otherwise):
            found = [part for part in parts if part.kind in kinds and part.count]
            if found:
                return found
        return []

    def settled(self, asked: Settled) -> dict[str, str]:
        """Every option with its choice. Raises Failure for one there is not, or no choice of it."""
        known = {one.name: one for one in self.options}
        for name, choice in asked.items():
            if name not in known:
                there = ", ".join(f"`{one}`" for one in known) or "there are none"
                raise Failure(f".{self.ending} has no option `{name}`", f"its options: {there}")
            if choice not in known[name].choices:
                raise Failure(
                    f"`{choice}` is no {name} of .{self.ending}",
                    f"one of {', '.join(known[name].choices)}",
                )
        return {one.name: asked.get(one.name, one.choices[0]) for one in self.options}


@cache
def formats() -> tuple[Format, ...]:
    """All formats, in the order in which they are shown."""
    package = __name__.rpartition(".")[0]
    modules = pkgutil.iter_modules(import_module(package).__path__)
    found = (import_module(f"{package}.{one.name}") for one in modules)
    return tuple(sorted(_of(found), key=lambda one: one.place))


def _of(modules: Iterator[object]) -> Iterator[Format]:
    for module in modules:
        yield from getattr(module, "FORMATS", ())


def readable() -> dict[str, Format]:
    """By their endings, the formats that a sheet can read."""
    return {ending: one for one in formats() if one.read for ending in one.endings}


def writable() -> dict[str, Format]:
    """By their endings, the formats in which parts are written."""
    return {ending: one for one in formats() if one.write for ending in one.endings}


def on_paper() -> dict[str, Format]:
    """By their endings, the formats of sheets of paper."""
    return {ending: one for one in formats() if one.draw for ending in one.endings}


def ending_of(file_name: str) -> str:
    """The ending of a file's name in small letters, without its dot."""
    return PurePath(file_name).suffix.lstrip(".").lower()


def dotted(endings: Mapping[str, Format] | tuple[str, ...]) -> str:
    """Endings as they are listed in messages."""
    return ", ".join(f".{one}" for one in endings)
