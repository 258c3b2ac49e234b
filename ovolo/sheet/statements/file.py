"""`file name = "bolts.csv"`: an attached file; of a picture also how it lies under the drawing."""

from __future__ import annotations

from typing import Any

from ovolo.sheet import tree
from ovolo.sheet.clauses import Clause, behind, clauses, expect_word, one, plain
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import Running, StatementType


def _read(reading: Reading) -> tree.File:
    reading.take()
    token = reading.name()
    reading.expect("=")
    name = reading.expect("text")
    calibration = _calibration(reading) if reading.kind != "end" else None
    return tree.File(token.text, plain(name), token.span, calibration)


def _calibration(reading: Reading) -> tree.Calibration:
    begin = reading.token.start
    expect_word(reading, "from")
    start = reading.expression()
    end = behind(reading, "to")
    distance = behind(reading, "is")
    fields = clauses(reading, _CLAUSES)
    reading.end(after_value=True)
    return tree.Calibration(reading.span_from(begin), start, end, distance, **fields)


def _run(content: tree.File, line: Running) -> Any:
    """What is attached; a picture as it is laid out, where that is said."""
    attached = line.value()
    return attached.calibrated(**line.terms) if line.terms else attached


def _body(statement: tree.Statement) -> str:
    """What stands behind the name."""
    content = statement.content
    assert isinstance(content, tree.File)
    laid = content.calibration
    return " ".join(
        [f'= "{content.file_name}"', *([statement.in_one_line(laid.span)] if laid else [])]
    )


_CLAUSES: dict[str, Clause] = {
    "at": one("place"),
    "turn": one("turn"),
    "strength": one("strength"),
}


_GRAMMAR = r"""
file: "file" NAME "=" TEXT [calibration]
calibration: "from" expression "to" expression "is" expression calibration_clause*
?calibration_clause: "at" expression -> placed_at
    | "turn" expression     -> turned_by
    | "strength" expression -> strength
"""

STATEMENT = StatementType(
    "file", "an attached file", tree.File, {"file": _read}, 110, grammar=_GRAMMAR,
    keywords=("from", "to", "is", "at", "turn", "strength"),
    kind=lambda content, checker: checker.file(content), run=_run, body=_body, reaches_out=True,
)  # fmt: skip
