"""`note "Each tread rises {rise}"`: a sentence whose figures follow the sheet."""

from __future__ import annotations

from typing import Any

from ovolo.quantities.kinds import TEXT
from ovolo.sheet import tree
from ovolo.sheet.construct import Blank, Construct
from ovolo.sheet.formulas import Reading, pieces_of_text
from ovolo.sheet.statements.registry import Checker, StatementType


class Note(tree.Content, frozen=True):
    said: tree.Text


def _read(reading: Reading) -> Note:
    reading.take()
    said = reading.expect("text")
    reading.end(after_value=True)
    return Note(tree.Text(said.span, pieces_of_text(reading.code, said)))


def _kind(content: Note, checker: Checker) -> Any:
    return checker.done(TEXT, checker.check_as(content.said, TEXT, "a note"))


_GRAMMAR = 'note: "note" TEXT'

STATEMENT = StatementType(
    "note", "a sentence whose figures follow", Note, {"note": _read}, 65, grammar=_GRAMMAR, kind=_kind,
    leads=True, says=True,
    constructs=(
        Construct(
            "A check", "A sentence with figures that follow", 'note "{words} {{value}}"',
            (Blank("words", "words", "what is said", "Twice as wide:"),
             Blank("value", "a formula", "the figure in it", "2 * 150 mm")),
        ),
    ),
)  # fmt: skip
