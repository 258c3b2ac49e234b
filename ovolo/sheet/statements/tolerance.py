"""`tolerance 0.5 mm`: by how much chords may miss what is round, in all of the study."""

from __future__ import annotations

from collections.abc import Iterator

from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH
from ovolo.sheet import tree
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import Settings, StatementType

LEAST, MOST = 0.001, 50.0
"""Within what it may be chosen, in mm."""


def _read(reading: Reading) -> tree.Tolerance:
    reading.take()
    value = reading.expression()
    reading.end(after_value=True)
    return tree.Tolerance(value)


def _settle(content: tree.Tolerance, settings: Settings) -> Iterator[Failure]:
    try:
        settings.tolerance = _length(content.value)
    except Failure as failure:
        yield failure.at(content.value.span)


def _length(node: tree.Node) -> float:
    """In mm: a length that is written out, within reason."""
    if not isinstance(node, tree.Number) or node.dimension != LENGTH:
        raise Failure(
            "the tolerance is a length that is written out", "for example tolerance 0.5 mm"
        )
    if not LEAST <= node.value <= MOST:
        raise Failure(
            f"a tolerance of {node.value:g} mm is out of reach", f"from {LEAST:g} mm to {MOST:g} mm"
        )
    return node.value


_GRAMMAR = r"""
tolerance: "tolerance" expression
"""

STATEMENT = StatementType(
    "tolerance", "how finely round things are divided", tree.Tolerance, {"tolerance": _read}, 30, grammar=_GRAMMAR,
    runs=False, row="units", settle=_settle,
)  # fmt: skip
