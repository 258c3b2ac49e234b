"""By how much a figure may be wrong that is reckoned from measures which may be.

The line is run again as if one of these were off by as much as it may be, one way and the other; what that changes is
added up. So a small difference of two large figures tells how little of it is left to trust, and a sum tells no more than
its parts. Where that would make geometry anew, or take very many steps, the largest share of what it is reckoned from is
told.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

import numpy as np

from ovolo.meaning import checked_tree
from ovolo.meaning.checked_tree import Typed
from ovolo.problems import Failure
from ovolo.quantities.kinds import GEOMETRY, Kind, Quantity, innermost
from ovolo.running.figures import figures_of, with_one_off
from ovolo.running.values import InDoubt, LimitReached
from ovolo.words.measures_taken import Doubt, Taken

_MOST = 400
"""Inexact figures that are looked at one by one; they are not off together, for some may be taken from others."""

_MOST_STEPS = 20_000
"""Items of loops and calls of functions that are gone through once more for all of them."""

_REPEATING = (checked_tree.ForEach, checked_tree.FunctionCall, checked_tree.Applied)
_MAKING = (checked_tree.WordCall, checked_tree.Operation, checked_tree.Opposite)

Off = Mapping[str, tuple[Any, tuple[float, ...] | None]]
"""Values of other lines, by their names, and each of their figures by how much it may be wrong."""

Again = Callable[[Mapping[str, Any], Doubt | None], Any]
"""What a line gives where some values of others, or what it measures, are off."""


def in_doubt(
    node: Typed | None,
    value: Any,
    taken: Sequence[Taken],
    needs: Mapping[str, tuple[Any, InDoubt]],
    steps: int,
    again: Again,
) -> InDoubt:
    """By how much a value may be wrong, by the measures taken in its line and by the other values that it needs; running
    the line took so many `steps`."""
    told = [*(one.share for one in taken), *(doubt.share or 0.0 for _, doubt in needs.values())]
    largest = max(told, default=None)
    figures = figures_of(value) if largest and node is not None else None
    if not largest or node is None or not figures:
        return InDoubt(largest)
    if len(told) == 1 and taken and value is taken[0].found:
        return InDoubt(largest, _missed(taken[0], figures))  # the measure itself
    off = {name: (was, doubt.off) for name, (was, doubt) in needs.items() if doubt.share}
    cases = list(_cases(taken, off)) if _is_run_again(node, taken, off) else []
    repeats = steps * len(_WAYS) * len(cases)
    if not cases or len(cases) > _MOST or repeats > _MOST_STEPS:
        return InDoubt(largest, tuple(largest * abs(one) for one in figures))
    away = [0.0] * len(figures)
    for case in cases:
        changed = [_changed(figures, values, doubt, again) for values, doubt in case]
        away = [so_far + max(each) for so_far, *each in zip(away, *changed, strict=True)]
    if not _is_figure(node.kind):  # of places it is told as a share of a size
        return InDoubt(largest, tuple(away))
    shares = [by / max(abs(one), by) for one, by in zip(figures, away, strict=True) if by]
    return InDoubt(max(shares, default=largest), tuple(away))


_WAYS = (1, -1)


def _missed(taken: Taken, figures: list[float]) -> tuple[float, ...] | None:
    if taken.missed is None:
        return None
    by = np.broadcast_to(np.abs(taken.missed), np.shape(taken.found)).reshape(-1)
    return tuple(by.tolist()) if len(by) == len(figures) else None


def _is_figure(kind: Kind | None) -> bool:
    """Whether values of a kind are figures, or lists of them."""
    return kind is not None and isinstance(innermost(kind), Quantity)


def _is_run_again(node: Typed, taken: Sequence[Taken], off: Off) -> bool:
    """Whether all that is in doubt has figures that can be off, and running the line again makes no geometry anew: what
    it makes is there still where it is made of the same, and once."""
    if any(one.share and one.missed is None for one in taken):
        return False
    if any(by is None for _, by in off.values()):
        return False
    all_of_it = list(_with_bodies(node))
    repeats = any(isinstance(one, _REPEATING) for one in all_of_it)
    return not ((off or repeats) and any(_makes(one, off) for one in all_of_it))


def _with_bodies(node: Typed) -> Iterator[Typed]:
    """All nodes within a node, and within the functions that it calls; each once."""
    seen: set[int] = set()
    waiting = [node]
    while waiting:
        one = waiting.pop()
        if id(one) in seen:
            continue
        seen.add(id(one))
        yield one
        waiting += checked_tree.children(one)
        if isinstance(one, checked_tree.FunctionCall | checked_tree.Applied):
            waiting.append(one.body)


def _makes(node: Typed, off: Off) -> bool:
    """Whether geometry is made here that may be another each time: of what is off, of an item or of an argument."""
    is_study = isinstance(node, checked_tree.StudyCall)
    if not is_study and not (isinstance(node, _MAKING) and innermost(node.kind) in GEOMETRY):
        return False
    return any(
        isinstance(one, checked_tree.LocalName)
        or (isinstance(one, checked_tree.Line) and one.name in off)
        for one in _with_bodies(node)
    )


def _cases(taken: Sequence[Taken], off: Off) -> Iterator[list[tuple[Mapping[str, Any], Doubt]]]:
    """What is off, one after the other, each both ways."""
    for at, one in enumerate(taken):
        if one.share:
            yield [({}, Doubt(taken, at, way)) for way in _WAYS]
    exact = Doubt(taken, -1, 1)
    for name, (was, figures) in off.items():
        for at, by in enumerate(figures or ()):
            if by:
                yield [({name: with_one_off(was, at, way * by)}, exact) for way in _WAYS]


def _changed(
    figures: list[float], values: Mapping[str, Any], doubt: Doubt, again: Again
) -> list[float]:
    """By how much figures change where something is off; all of them by themselves where there would be none."""
    try:
        found = figures_of(again(values, doubt))
    except LimitReached:
        raise
    except (Failure, ArithmeticError):
        found = None
    if found is None or len(found) != len(figures):
        return [abs(one) for one in figures]
    return [abs(one - was) for one, was in zip(found, figures, strict=True)]
