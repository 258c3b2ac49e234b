"""`== Title ==`: a section, to which the lines below it belong."""

from __future__ import annotations

from ovolo.problems import Failure
from ovolo.sheet import tree
from ovolo.sheet.construct import Blank, Construct
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import StatementType


def _read(reading: Reading) -> tree.Section:
    stripped = reading.code.strip()
    title = stripped[2:-2].strip() if len(stripped) > 4 and stripped.endswith("==") else ""
    if not title:
        raise Failure("a section is written == Title ==", "two equals signs on either side")
    return tree.Section(title)


STATEMENT = StatementType(
    "", "a section", tree.Section, {"section": _read}, 100, runs=False, row="section",
    title=lambda content: content.title,
    constructs=(
        Construct("Order", "A section", "== {title} ==", (Blank("title", "a title", "groups the lines below it", "New section"),)),
    ),
)  # fmt: skip
