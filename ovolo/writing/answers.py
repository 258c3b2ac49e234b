"""What the page is told of the language: its words and lines ready to fill, for who writes. (Lines, operators and
pictures are dataclasses of their own.)"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TypedDict

from ovolo.sheet.construct import Construct
from ovolo.writing.operators import Operator
from ovolo.writing.pictures import Picture


class ArgumentSaid(TypedDict):
    """What a word takes; `written` is what its example has there, which may be nothing."""

    name: str
    kind: str
    meaning: str
    default: str | None
    optional: bool
    many: bool
    written: str


class WordSaid(TypedDict):
    """A word, with what its example gives and the names by which it may be looked for."""

    name: str
    trade: str
    usage: str
    meaning: str
    constant: bool
    example: str
    gives: str
    others: list[str]
    parameters: list[ArgumentSaid]
    picture: Picture | None


class NeedSaid(TypedDict):
    """What somebody wants to write, and the trades whose words are for it."""

    title: str
    trades: Sequence[str]


class StartingSaid(TypedDict):
    """A study to begin from; `needs` are those it answers."""

    key: str
    title: str
    said: str
    needs: str


class VocabularySaid(TypedDict):
    """All an editor offers: units by their symbols with their dimensions, statements by their words with their
    meanings, and the keywords within these."""

    words: list[WordSaid]
    constructs: Sequence[Construct]
    needs: list[NeedSaid]
    starting: list[StartingSaid]
    operators: Sequence[Operator]
    unit_names: Mapping[str, str]
    units: Mapping[str, str]
    colours: Mapping[str, str]
    reserved: list[str]
    statements: Mapping[str, str]
    clauses: Mapping[str, Sequence[str]]
