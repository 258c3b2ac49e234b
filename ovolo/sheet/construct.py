"""Lines ready to fill, by what a person needs. Each works as it stands, in an empty sheet.

A blank is written `{name}` in the pattern; what a word takes is not told here but read from the
registry of words.
"""

from __future__ import annotations

import re

from msgspec import Struct


class Blank(Struct, frozen=True):
    """A place to fill in a line: what it takes, what it means, and what stands in it at first."""

    name: str
    kind: str
    meaning: str
    written: str
    optional: bool = False


class Construct(Struct, frozen=True):
    """A kind of line. Where a blank is left empty, the piece of the pattern in ‹ › around it
    falls away."""

    need: str
    title: str
    pattern: str
    blanks: tuple[Blank, ...]

    def filled(self) -> str:
        """The line as it is offered."""
        line = self.pattern
        for blank in self.blanks:
            if not blank.written:
                line = re.sub(rf"‹[^‹]*{{{blank.name}}}[^›]*›", "", line)
            line = line.replace(f"{{{blank.name}}}", blank.written)
        return line.replace("‹", "").replace("›", "")


_NAME = "a letter, then letters, figures and _"


def blank_name(written: str) -> Blank:
    return Blank("name", "a name", _NAME, written)


def blank_label(written: str) -> Blank:
    return Blank("label", "a text", "what others read at its slide rule or value", written, True)
