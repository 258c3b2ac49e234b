"""By what share a figure may be wrong that is reckoned from measures which may be.

The line is run again as if one of these were off by as much as it may be, one way and the other; what that changes is
added up. So a small difference of two large figures tells how little of it is left to trust, and a sum tells no more than
its parts. Where that would make geometry anew, or run through a loop again, and of very many figures, the largest share
of what it is reckoned from is told.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

import numpy as np

from ovolo.meaning import checked_tree
from ovolo.meaning.checked_tree import Typed
from ovolo.problems import Failure
from ovolo.quantities.kinds import GEOMETRY, Kind, Quantity, innermost
from ovolo.running.values import LimitReached
from ovolo.words.measures_taken import Doubt, Taken

_MOST = 400
"""Inexact figures that are looked at one by one; they are not off together, for some may be taken from others."""

_AGAIN = (
    checked_tree.Constant, checked_tree.Line, checked_tree.Operation, checked_tree.Opposite, checked_tree.Compared,
    checked_tree.Both, checked_tree.Chosen, checked_tree.Items, checked_tree.PointOf, checked_tree.WordCall,
    checked_tree.Coordinate, checked_tree.Field, checked_tree.ItemAt, checked_tree.ItemsAt,
)  # fmt: skip
"""What is run again: no loops, no functions."""


Again = Callable[[Mapping[str, Any], Doubt | None], Any]
"""What a line gives where some values of others, or what it measures, are off."""


def share_in_doubt(
    node: Typed | None,
    value: Any,
    taken: Sequence[Taken],
    needs: Mapping[str, tuple[Any, float]],
    again: Again,
) -> float | None:
    """By what share a value may be wrong, by the measures taken in its line and by the other values that it needs (None
    for one that is no figure), with their shares. None where nothing was measured."""
    told = [*(one.share for one in taken), *(share for _, share in needs.values())]
    largest = max(told, default=None)
    if not largest or node is None or not _is_run_again(node):
        return largest
    if len(told) == 1 and taken and value is taken[0].found:
        return largest  # the measure itself
    figures = _figures(value)
    off = {name: (_figures(was), was, share) for name, (was, share) in needs.items() if share}
    makes = any(_makes(one) for one in checked_tree.descendants(node))
    if figures is None or (off and makes) or any(one is None for one, _, _ in off.values()):
        return largest
    doubted = [at for at, one in enumerate(taken) if one.share]
    if len(doubted) + sum(len(one or ()) for one, _, _ in off.values()) > _MOST:
        return largest
    exact = Doubt(taken, -1, 1)
    cases: list[list[tuple[Mapping[str, Any], Doubt]]] = [
        [({}, Doubt(taken, at, way)) for way in _WAYS] for at in doubted
    ]
    for name, (_, was, share) in off.items():
        both_ways = (_each_off(was, way * share) for way in _WAYS)
        cases += [[({name: one}, exact) for one in each] for each in zip(*both_ways, strict=True)]
    away = [0.0] * len(figures)
    for case in cases:
        changed = [_changed(figures, values, doubt, again) for values, doubt in case]
        away = [so_far + max(each) for so_far, *each in zip(away, *changed, strict=True)]
    shares = [by / max(abs(one), by) for one, by in zip(figures, away, strict=True) if by]
    return max(shares, default=largest)


_WAYS = (1, -1)


def is_figure(kind: Kind | None) -> bool:
    """Whether values of a kind are figures, or lists of them."""
    return kind is not None and isinstance(innermost(kind), Quantity)


def _is_run_again(node: Typed) -> bool:
    return is_figure(node.kind) and all(
        isinstance(one, _AGAIN) for one in checked_tree.descendants(node)
    )


def _makes(node: Typed) -> bool:
    """Whether geometry is made here, and not only named."""
    return innermost(node.kind) in GEOMETRY and not isinstance(node, checked_tree.Line)


def _figures(value: Any) -> list[float] | None:
    """The figures of a value: of a list all of them; None where it is anything else."""
    if isinstance(value, bool):
        return None
    if isinstance(value, int | float):
        return [float(value)]
    if isinstance(value, np.ndarray):
        return None if value.dtype == bool else [float(one) for one in value.reshape(-1)]
    if not isinstance(value, list):
        return None
    found = [_figures(one) for one in value]
    return None if None in found else [one for each in found for one in each or ()]


def _each_off(value: Any, share: float) -> Iterator[Any]:
    """A value with one of its figures off by a share, for each of them."""
    if isinstance(value, np.ndarray):
        for place in np.ndindex(value.shape):
            other = value.copy()
            other[place] *= 1 + share
            yield other
        return
    if not isinstance(value, list):
        yield value * (1 + share)
        return
    for at, one in enumerate(value):
        for other in _each_off(one, share):
            yield [*value[:at], other, *value[at + 1 :]]


def _changed(
    figures: list[float], values: Mapping[str, Any], doubt: Doubt, again: Again
) -> list[float]:
    """By how much figures change where something is off; all of them by themselves where there would be none."""
    try:
        found = _figures(again(values, doubt))
    except LimitReached:
        raise
    except (Failure, ArithmeticError):
        found = None
    if found is None or len(found) != len(figures):
        return [abs(one) for one in figures]
    return [abs(one - was) for one, was in zip(found, figures, strict=True)]
