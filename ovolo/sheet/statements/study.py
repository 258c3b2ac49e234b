"""`study "…"`: the title of the study."""

from __future__ import annotations

from collections.abc import Iterator

from ovolo.problems import Failure
from ovolo.sheet import tree
from ovolo.sheet.clauses import plain
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import Settings, StatementType


def _read(reading: Reading) -> tree.Study:
    reading.take()
    title = reading.expect("text")
    reading.end()
    return tree.Study(plain(title))


def _settle(content: tree.Study, settings: Settings) -> Iterator[Failure]:
    settings.title = content.title
    yield from ()


_GRAMMAR = r"""
study: "study" TEXT
"""

STATEMENT = StatementType(
    "study", "the title of the study", tree.Study, {"study": _read}, 10, grammar=_GRAMMAR, runs=False, settle=_settle,
    title=lambda content: content.title,
)  # fmt: skip
