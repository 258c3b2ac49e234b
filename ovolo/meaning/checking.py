"""Checking an expression: names are found, kinds and dimensions settled, before anything runs.

The rules for each kind of node stand in expressions.py and calls.py.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from ovolo.meaning import checked_tree
from ovolo.meaning.operator_kinds import ROUNDED_EDGE, with_unit
from ovolo.meaning.scope import Scope
from ovolo.problems import Failure
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import (
    CURVE,
    EDGE,
    REGION,
    SOLID,
    YES_NO,
    Kind,
    Quantity,
    is_number,
    same_kind,
)
from ovolo.sheet import tree

Rule = Callable[[Any, Scope], checked_tree.Typed]
_RULES: dict[type[tree.Node], Rule] = {}


def checks(kind: type[tree.Node]) -> Callable[[Rule], Rule]:
    """Enters the rule that checks nodes of one kind."""

    def enter(rule: Rule) -> Rule:
        _RULES[kind] = rule
        return rule

    return enter


def check(node: tree.Node, scope: Scope) -> checked_tree.Typed:
    """The checked tree of an expression. Raises Failure with the place within the statement."""
    rule = _RULES[type(node)]
    try:
        return rule(node, scope)
    except Failure as failure:
        raise failure.at(node.span) from None


def check_as(node: tree.Node, scope: Scope, wanted: Kind, what: str) -> checked_tree.Typed:
    """The same, refusing anything but the wanted kind."""
    checked = check(node, scope)
    if same_kind(checked.kind, wanted) is None:
        raise Failure(
            f"{what} must be {wanted.said}; `{scope.written(node)}` is {checked.kind.said}",
            unit_hint(node, scope, checked.kind, wanted),
            node.span,
        )
    return checked


def unit_hint(node: tree.Node, scope: Scope, found: Kind, wanted: Kind) -> str:
    """How a plain number becomes the quantity that is wanted, or a rounded edge a rounded length."""
    if found == EDGE:
        return ROUNDED_EDGE
    if found == CURVE and wanted == REGION:
        written = scope.written(node)
        disc = re.match(r"circle\((.*)\)$", written)
        own = f"`disc({disc[1]})`, or " if disc and "," not in disc[1] else ""
        return f"{own}`region({written})`"
    if wanted == YES_NO and isinstance(found, Quantity):
        return f"compare it: `{scope.written(node)} > 0`"
    if found == REGION and wanted == SOLID:
        return f"make it a solid: `extrude({scope.written(node)}, 5 mm)`"
    if not (is_number(found) and isinstance(wanted, Quantity)) or wanted.dimension == NUMBER:
        return ""
    unit = {"length": "mm", "angle": "°", "area": "mm^2", "volume": "mm^3"}.get(wanted.word)
    if unit is None:
        return ""
    return f"give the number a unit: `{with_unit(scope.written(node), unit)}`"
