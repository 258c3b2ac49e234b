"""The example of a word as a sheet that can be tried, and what a small sheet yields."""

from __future__ import annotations

from typing import TypedDict

from ovolo.drawing.figures import AXONOMETRIC
from ovolo.drawing.picture import drawn, loose_page, natural_view
from ovolo.formats.attached import read_files
from ovolo.formats.svg import write_svg
from ovolo.outcome.answers import LocalValueSaid
from ovolo.outcome.outcome import Outcome, outcome_of, show_line
from ovolo.problems import Failure
from ovolo.quantities.kinds import GEOMETRY, ListOf
from ovolo.words.registry import Word
from ovolo.writing.vocabulary import call_in_example

SIZES = b"size,hole [mm]\nM6,6.6\nM8,9\nM10,11\n"
"""The table `sizes.csv` that is there for examples that read one (clearance holes, ISO 273, medium)."""

_TABLES = read_files({"sizes.csv": SIZES})

MOST_CHARACTERS = 4_000
"""So long a sheet may be that is tried beside the reference."""


class TriedCheckSaid(TypedDict):
    """Whether a check holds; unknown where it could not be worked out."""

    said: str
    holds: bool | None


class TriedSaid(TypedDict):
    """What a small sheet yields; `picture` is SVG, empty where there is nothing to be seen."""

    values: list[LocalValueSaid]
    problems: list[str]
    checks: list[TriedCheckSaid]
    picture: str


def example_sheet(word: Word) -> str:
    """The example of a word as a sheet: a part where it makes something to be seen; where the example measures
    what the word makes, that is a part of its own."""
    above = f"{word.above}\n" if word.above else ""
    if _makes_geometry(f"{above}result = {word.example}"):
        return f"{above}part result = {word.example}"
    call, text = call_in_example(word)
    made = text[slice(*call.span)] if call is not None else ""
    seen = f"part seen = {made}\n" if made and _makes_geometry(f"{above}result = {made}") else ""
    return f"{above}{seen}result = {word.example}"


def _makes_geometry(text: str) -> bool:
    lines = outcome_of(text, tables=_TABLES).lines
    made = next((one for one in lines if one.line.name == "result" and one.has_value), None)
    kind = made.line.kind if made is not None else None
    while isinstance(kind, ListOf):
        kind = kind.item
    return kind in GEOMETRY


def tried(text: str) -> TriedSaid:
    """What a small sheet yields: of each named line its value as it is shown, or its problem; and a drawing of its
    parts as SVG, empty where there are none. Raises Failure where it is too long."""
    if len(text) > MOST_CHARACTERS:
        raise Failure(
            f"here at most {MOST_CHARACTERS:,} characters are tried", "make a study of it"
        )
    outcome = outcome_of(text, tables=_TABLES)
    values: list[LocalValueSaid] = [
        {"name": one.line.name, "shown": str(show_line(one, outcome.units))}
        for one in outcome.lines
        if one.line.name and one.has_value and not one.problems and one.line.kind not in GEOMETRY
    ]
    return {
        "values": values,
        "problems": [str(one) for one in outcome.problems],
        "checks": [
            {"said": one.text, "holds": one.passed} for one in outcome.checks
        ],
        "picture": _picture(outcome),
    }  # fmt: skip


_LINES = 1 / 160
"""How heavy lines are (their usual weight is made for paper in mm), by the size of what is drawn."""


def _picture(outcome: Outcome) -> str:
    solid = any(part.volume is not None for part in outcome.parts.values())
    try:
        groups = drawn(outcome, AXONOMETRIC if solid else natural_view(outcome), 1.0)
        page = loose_page(outcome, groups)
        weight = max(page.width, page.height) * _LINES
        return write_svg(loose_page(outcome, groups, weight)).decode()
    except Failure:
        return ""
