"""What lies below 0 by noise alone: `r^2 - x^2` at x = r, whose square root is wanted."""

from __future__ import annotations

from typing import Any

import numpy as np

from ovolo.meaning import checked_tree
from ovolo.quantities.show import NOISE
from ovolo.running.code import Closure, Code, Frame, Together, compiled_node


def settled_node(node: checked_tree.Typed, together: Together) -> Code:
    """The code of an expression whose value is 0 where it is negative by no more than the noise of the
    terms it is summed from."""
    code = compiled_node(node, together)
    if not any(_is_sum(one) for one in checked_tree.descendants(node)):
        return code
    inner, size = code.run, _size(node, together)

    def run(frame: Frame) -> Any:
        value = inner(frame)
        if not np.any(np.less(value, 0)):
            return value
        return np.where((value < 0) & (value >= -NOISE * size(frame)), 0.0, value)[()]

    return Code(run, code.many)


def _is_sum(node: checked_tree.Typed) -> bool:
    return isinstance(node, checked_tree.Operation) and node.rule in ("add", "subtract")


def _size(node: checked_tree.Typed, together: Together) -> Closure:
    """How large a value would be if none of its terms took away from another."""
    match node:
        case checked_tree.Operation(rule="add" | "subtract", operands=(a, b)):
            one, other = _size(a, together), _size(b, together)
            return lambda frame: np.maximum(one(frame), other(frame))
        case checked_tree.Operation(rule="multiply", operands=(a, b)):
            one, other = _size(a, together), _size(b, together)
            return lambda frame: one(frame) * other(frame)
        case checked_tree.Operation(rule="divide", operands=(a, b)):
            one, below = _size(a, together), compiled_node(b, together).run
            return lambda frame: one(frame) / np.abs(below(frame))
        case checked_tree.Operation(rule="negate", operands=(a,)):
            return _size(a, together)
    run = compiled_node(node, together).run
    return lambda frame: np.abs(run(frame))
