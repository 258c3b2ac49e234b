"""What the page is told when it asks about one thing: what an input moves, how an item was made, what was
measured. Declared once, for who makes it and for the scripts that take it."""

from __future__ import annotations

from typing import TypedDict


class MoveSaid(TypedDict):
    """A line that changes for one small step of an input."""

    line: int
    name: str
    before: str
    after: str


class MovesSaid(TypedDict):
    moves: list[MoveSaid]


class LocalValueSaid(TypedDict):
    """A value by its name: of an item, measured, or of a sheet that is tried."""

    name: str
    shown: str


class ArrayPlaceSaid(TypedDict):
    """The place of an item in the array that makes it, by the word of the line."""

    line: str
    word: str
    number: int
    column: int | None
    row: int | None
    left_out: list[int]
    count: int
    columns: int | None


class HoleSaid(TypedDict):
    """The place of the item of the line `of` that left a hole."""

    of: str
    place: ArrayPlaceSaid


class PieceInputSaid(TypedDict):
    """An input of a placed study: as it is written where it is placed, none where its own value stands."""

    name: str
    label: str
    own: str | None
    value: str
    choices: list[str]


class PieceSaid(TypedDict):
    """A placed study; its place in mm, where that is figures."""

    title: str
    inputs: list[PieceInputSaid]
    preset: str | None
    place: list[float] | None
    level: bool


class ItemSaid(TypedDict):
    piece: PieceSaid | None
    values: list[LocalValueSaid]
    place: ArrayPlaceSaid | None
    hole: HoleSaid | None


class CutItemSaid(TypedDict):
    """What an item of an array left in a part: its number and the middle of its faces, in mm."""

    number: int
    middle: list[float]


class NumbersSaid(TypedDict):
    """By the names of parts: the number of each item, and what items of arrays left in it."""

    numbers: dict[str, list[int] | None]
    cuts: dict[str, list[CutItemSaid]]


class MeasuredSaid(TypedDict):
    """Figures, the ends of the distance, what was picked as lines (in mm), and the lines of a sheet that
    would state it."""

    found: list[LocalValueSaid]
    ends: list[list[float]] | None
    outline: list[list[list[float]]]
    dim: str
    check: str


class OutlineSaid(TypedDict):
    """The lines of a sheet that draw through what was clicked."""

    lines: list[str]


class ScheduleSaid(TypedDict):
    """The distinct pieces under their heads, what is cut from which section, how many pieces there are."""

    heads: list[str]
    rows: list[list[str]]
    stock: list[str]
    count: int


class WholeScheduleSaid(ScheduleSaid):
    """With a row for each placed study and setting: study, settings, parts, pieces, mass."""

    placed: list[list[str]]
