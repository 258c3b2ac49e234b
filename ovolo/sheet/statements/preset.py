"""`preset "Attic": going = 220 mm, rise = 190 mm`: a named set of input values."""

from __future__ import annotations

from typing import Any

from ovolo.problems import Failure
from ovolo.quantities.kinds import PRESET
from ovolo.sheet import tree
from ovolo.sheet.clauses import plain
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import Checker, StatementType


def _read(reading: Reading) -> tree.Preset:
    reading.take()
    title = reading.expect("text")
    reading.expect(":")
    settings = [_setting(reading)]
    while reading.takes(","):
        settings.append(_setting(reading))
    reading.end(after_value=True)
    if not plain(title):
        raise Failure("a preset needs a name", 'for example preset "Attic": going = 220 mm')
    return tree.Preset(plain(title), tuple(settings))


def _setting(reading: Reading) -> tree.Setting:
    token = reading.any_name()
    reading.expect("=")
    value = reading.expression()
    return tree.Setting((token.start, value.span[1]), token.text, value)


def _kind(content: tree.Preset, checker: Checker) -> Any:
    terms = {}
    for setting in content.settings:
        if setting.name in terms:
            raise Failure(f"`{setting.name}` is given twice", "", setting.span)
        if setting.name in checker.overruled:
            continue
        wanted = checker.line_kind(setting.name)
        assert wanted is not None
        checker.check_as(setting.value, wanted, f"`{setting.name}`")
        terms[setting.name] = checker.literal(setting.value)
    return checker.done(PRESET, None, terms)


_GRAMMAR = r"""
preset: "preset" TEXT ":" setting ("," setting)*
setting: NAME "=" expression
"""

STATEMENT = StatementType(
    "preset",
    "a named set of input values",
    tree.Preset,
    {"preset": _read},
    120,
    grammar=_GRAMMAR,
    kind=_kind,
)
