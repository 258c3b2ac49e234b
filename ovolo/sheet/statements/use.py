"""`use name from "Study"`: another study as a function."""

from __future__ import annotations

from ovolo.sheet import tree
from ovolo.sheet.clauses import expect_word, plain
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import StatementType


def _read(reading: Reading) -> tree.Use:
    reading.take()
    token = reading.name()
    expect_word(reading, "from")
    study = reading.expect("text")
    reading.end()
    return tree.Use(token.text, plain(study), token.span)


def _body(statement: tree.Statement) -> str:
    content = statement.content
    assert isinstance(content, tree.Use)
    return f'from "{content.study}"'


_GRAMMAR = 'use: "use" NAME "from" TEXT'

STATEMENT = StatementType(
    "use", "another study as a function", tree.Use, {"use": _read}, 90, grammar=_GRAMMAR, keywords=("from",),
    kind=lambda content, checker: checker.use(content), body=_body, reaches_out=True,
)  # fmt: skip
