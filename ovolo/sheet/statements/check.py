"""`check condition "message"`: what must hold."""

from __future__ import annotations

from typing import Any

from ovolo.quantities.kinds import YES_NO
from ovolo.sheet import tree
from ovolo.sheet.clauses import label_at_end
from ovolo.sheet.construct import Blank, Construct
from ovolo.sheet.formulas import Reading, pieces_of_text
from ovolo.sheet.statements.registry import Checker, StatementType


def _read(reading: Reading) -> tree.Check:
    reading.take()
    condition = reading.expression()
    message = reading.token if reading.kind == "text" else None
    said = label_at_end(reading)
    if message is None:
        return tree.Check(condition)
    return tree.Check(
        condition, said, tree.Text(message.span, pieces_of_text(reading.code, message))
    )


def _kind(content: tree.Check, checker: Checker) -> Any:
    value = checker.check_as(content.condition, YES_NO, "what a check states")
    terms = {f"side {n}": side for n, side in enumerate(checker.sides(value))}
    if content.said is not None:
        terms["message"] = checker.check(content.said)
    return checker.done(YES_NO, value, terms)


def _body(statement: tree.Statement) -> str:
    content = statement.content
    assert isinstance(content, tree.Check)
    return statement.in_one_line(content.condition.span)


_GRAMMAR = r"""
check: "check" expression [TEXT]
"""

STATEMENT = StatementType(
    "check", "what must hold", tree.Check, {"check": _read}, 60, leads=True, grammar=_GRAMMAR, kind=_kind, body=_body,
    constructs=(
        Construct(
            "A check", "What must hold", 'check {condition}‹ "{message}"›',
            (Blank("condition", "a comparison", "holds or fails", "20 mm <= 30 mm <= 60 mm"),
             Blank("message", "a text", "said where it fails", "wide enough to hold", True)),
        ),
    ),
)  # fmt: skip
