"""The tokens of a statement: figures with their units, names, texts and marks, with their places."""

from __future__ import annotations

import re
from functools import partial
from typing import NamedTuple

from ovolo.quantities.units import UNIT_PATTERN
from ovolo.sheet.keywords import RESERVED


class Token(NamedTuple):
    """`kind` is the mark itself for marks and the word itself for words of expressions; else name,
    text, colour, one of the figures, unreadable, or end."""

    kind: str
    text: str
    start: int
    end: int

    @property
    def span(self) -> tuple[int, int]:
        return self.start, self.end


FIGURE = r"(?:\d+\.\d+|\.\d+|\d+)(?:[eE][-+]?\d+)?"
_FRACTION = r"(?:\d+[ \t])?\d+/\d+"
_FIGURES = rf"""
    (?P<sexagesimal>{FIGURE}\s?°\s?\d+(?:\.\d+)?'(?:\s?\d+(?:\.\d+)?")?)
  | (?P<feet_inches>{FIGURE}\s?ft\s?(?:{_FRACTION}|{FIGURE})\s?in(?!\w)
        | {FIGURE}'(?:[ \t]?-?[ \t]?(?:{_FRACTION}|{FIGURE})")?)
  | (?P<fraction>{_FRACTION}[ \t]?(?:{UNIT_PATTERN}))
  | (?P<slope>{FIGURE}:{FIGURE}(?![\w.]))
  | (?P<quantity>{FIGURE}[ \t]?(?:{UNIT_PATTERN}))
  | (?P<number>(?>{FIGURE})(?![\w°]))
"""
"""What it is is settled by the first of these that fits."""

_TOKEN = re.compile(
    rf"""\s*(?:
    (?P<name>[^\W\d]\w*)
  | (?P<mark>->|\.\.|[<>=!]=|[-+*/^&=<>≤≥≠×·−(),\[\]:]|\.(?!\d))
  | (?!(?<=[\w)\]])\.)(?:{_FIGURES})       # a point behind a value is no figure
  | (?P<text>"(?:\\.|[^"\\\n])*")
  | (?P<colour>\#(?:[0-9A-Fa-f]{{6}}|[0-9A-Fa-f]{{3}})\b)
  | (?P<unreadable>\S)
    )""",
    re.VERBOSE,
)

SPELLINGS = {"−": "-", "×": "*", "·": "*", "≤": "<=", "≥": ">=", "≠": "!="}
"""Marks that are another way to write one."""


_token = partial(tuple.__new__, Token)
"""As `Token(...)`, without a call in between: there are many."""


def tokens_of(code: str, start: int, end: int) -> list[Token]:
    """The tokens of a piece of a statement, and one for its end."""
    tokens = []
    for found in _TOKEN.finditer(code, start, end):
        kind = found.lastgroup or ""
        text = found[kind]
        if kind == "mark":
            kind = SPELLINGS.get(text, text)
        elif kind == "name" and text in RESERVED:
            kind = text
        until = found.end()
        tokens.append(_token((kind, text, until - len(text), until)))
    last = tokens[-1].end if tokens else start
    tokens.append(Token("end", "", last, last))
    return tokens
