"""`units mm, deg`: how values are shown."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ovolo.problems import Failure
from ovolo.sheet import tree
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import Settings, StatementType


def _read(reading: Reading) -> tree.Units:
    """By its text: the names of units are written as they are elsewhere shown, `m^2` and `ft in`."""
    stripped = reading.code.strip()
    body = stripped.removeprefix("units")
    symbols = []
    for found in re.finditer(r"[^,]+", body):
        symbol = found[0].strip()
        at = len("units") + found.start() + found[0].index(symbol) if symbol else 0
        if symbol:
            symbols.append((symbol, (at, at + len(symbol))))
    if not symbols:
        raise Failure("which units?", "for example units mm, deg")
    return tree.Units(tuple(symbols))


def _settle(content: tree.Units, settings: Settings) -> Iterator[Failure]:
    for symbol, span in content.symbols:
        try:
            settings.units = settings.units.with_unit(symbol)
        except Failure as failure:
            yield failure.at(span)


STATEMENT = StatementType(
    "units", "how values are shown", tree.Units, {"units": _read}, 20, runs=False, settle=_settle
)
