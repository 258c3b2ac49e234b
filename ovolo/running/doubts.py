"""By how much a figure may be wrong that is reckoned from measures which may be.

The line is run again as if one of these were off by as much as it may be, one way and the other; what that changes is
added up, or is what all change together. So a small difference of two large figures tells how little of it is left to
trust, and a sum tells no more than its parts. Where that would make geometry anew, or take very many steps, the largest
share of what it is reckoned from is told.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from itertools import pairwise, product
from typing import Any, NamedTuple

import numpy as np

from ovolo.meaning import checked_tree
from ovolo.meaning.checked_tree import Typed
from ovolo.problems import Failure
from ovolo.quantities.kinds import GEOMETRY, Kind, Quantity, innermost
from ovolo.running.figures import figures_of, with_one_off
from ovolo.running.operators import compare
from ovolo.running.values import InDoubt, LimitReached
from ovolo.words.measures_taken import Doubt, Taken

_MOST = 400
"""Inexact figures that are looked at one by one; they are not off together, for some may be taken from others."""

_MOST_STEPS = 20_000
"""Items of loops and calls of functions that are gone through once more for all of them."""

_MOST_TOGETHER = 8
"""So many times all figures are looked at as if they were off together, each its way."""

_MOST_CORNERS = 6
"""Of so many figures all ways to be off together are looked at, for what says yes or no."""

_REPEATING = (checked_tree.ForEach, checked_tree.FunctionCall, checked_tree.Applied)
_MAKING = (checked_tree.WordCall, checked_tree.Operation, checked_tree.Opposite)

Off = Mapping[str, tuple[Any, tuple[float, ...] | None]]
"""Values of other lines, by their names, and each of their figures by how much it may be wrong."""

Again = Callable[[Mapping[str, Any], Doubt | None, Typed | None], Any]
"""What a line, or a piece of it, gives where some values of others, or what it measures, are off."""


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
    decides = isinstance(value, bool | np.bool_)
    figures = [float(value)] if decides else figures_of(value)
    if not largest or node is None or not figures:
        return InDoubt(largest)
    if len(told) == 1 and taken and value is taken[0].found:
        return InDoubt(largest, _missed(taken[0], figures))  # the measure itself
    off = {name: (was, doubt.off) for name, (was, doubt) in needs.items() if doubt.share}
    cases = list(_cases(taken, off)) if _is_run_again(node, taken, off) else []
    if not cases or len(cases) > _MOST or (len(cases) + _MOST_TOGETHER) * 2 * steps > _MOST_STEPS:
        return InDoubt(largest, None if decides else tuple(largest * abs(one) for one in figures))
    if decides:
        is_sure = _decided(node, cases, _Runs(taken, off, again)) is not None
        return InDoubt(0.0, (0.0,)) if is_sure else InDoubt(largest, (1.0,))
    away = _away(figures, cases, _Runs(taken, off, again))
    if not _is_figure(node.kind):  # of places it is told as a share of a size
        return InDoubt(largest, tuple(away))
    shares = [by / max(abs(one), by) for one, by in zip(figures, away, strict=True) if by]
    return InDoubt(max(shares, default=largest), tuple(away))


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
    all_of_it = list(checked_tree.with_bodies(node))
    repeats = any(isinstance(one, _REPEATING) for one in all_of_it)
    return not ((off or repeats) and any(_makes(one, off) for one in all_of_it))


def _makes(node: Typed, off: Off) -> bool:
    """Whether geometry is made here that may be another each time: of what is off, of an item or of an argument."""
    is_study = isinstance(node, checked_tree.StudyCall)
    if not is_study and not (isinstance(node, _MAKING) and innermost(node.kind) in GEOMETRY):
        return False
    return any(
        isinstance(one, checked_tree.LocalName)
        or (isinstance(one, checked_tree.Line) and one.name in off)
        for one in checked_tree.with_bodies(node)
    )


def _decided(node: Typed, cases: Sequence[Case], runs: _Runs) -> bool | None:
    """What says yes or no, if it does so however far off is what decides it; else None (Kleene's logic of three values)."""
    if isinstance(node, checked_tree.Both):
        return _all_or_any(node.operator, [_decided(one, cases, runs) for one in node.operands])
    if isinstance(node, checked_tree.Compared) and isinstance(node.operands[0].kind, Quantity):
        links = zip(node.operators, pairwise(node.operands), strict=True)
        within = None if node.within is None else runs.value({}, node.within)
        return _all_or_any(
            "and", [_compared(one, pair, within, cases, runs) for one, pair in links]
        )
    found = {_yes_or_no(runs.value(ways, node)) for ways in _ways(cases)}
    return found.pop() if len(found) == 1 else None


def _all_or_any(operator: str, found: Sequence[bool | None]) -> bool | None:
    decisive = operator == "or"
    if decisive in found:
        return decisive
    return None if None in found else not decisive


def _yes_or_no(found: Any) -> bool | None:
    return None if found is None else bool(found)


def _compared(
    operator: str, sides: tuple[Typed, Typed], within: Any, cases: Sequence[Case], runs: _Runs
) -> bool | None:
    """Whether two figures compare so, however far off their difference is."""
    left, right = (runs.value({}, side) for side in sides)
    if left is None or right is None:
        return None
    off = 0.0
    for case in cases:
        changes = [_apart(left - right, sides, {case: way}, runs) for way in (1, -1)]
        if None in changes:
            return None
        off += max(abs(one) for one in changes if one is not None)
    low, high = left - right - off, left - right + off
    apart = (low, high, min(max(0.0, low), high))
    found = {bool(compare(operator, right + by, right, within)) for by in apart}
    return found.pop() if len(found) == 1 else None


def _apart(
    was: float, sides: tuple[Typed, Typed], ways: Mapping[Case, int], runs: _Runs
) -> float | None:
    """What is added to the difference of two sides where some cases are off: what stands on both cancels."""
    left, right = (runs.value(ways, side) for side in sides)
    return None if left is None or right is None else float(left - right) - was


def _ways(cases: Sequence[Case]) -> Iterator[dict[Case, int]]:
    """None is off; then each way (1 or -1) in which so many are; of many, all one way, and each alone."""
    yield {}
    if len(cases) <= _MOST_CORNERS:
        yield from (
            dict(zip(cases, ways, strict=True)) for ways in product((1, -1), repeat=len(cases))
        )
        return
    for way in (1, -1):
        yield dict.fromkeys(cases, way)
        yield from ({case: way} for case in cases)


Case = tuple[str, int]
"""One figure that is off: of a line its name and the number of its figure, or of what is measured here "" and its number."""


def _cases(taken: Sequence[Taken], off: Off) -> Iterator[Case]:
    yield from (("", at) for at, one in enumerate(taken) if one.share)
    for name, (_, figures) in off.items():
        yield from ((name, at) for at, by in enumerate(figures or ()) if by)


class _Runs(NamedTuple):
    """The line run again, some of what it is reckoned from being off."""

    taken: Sequence[Taken]
    off: Off
    again: Again

    def changed(self, figures: list[float], ways: Mapping[Case, int]) -> list[float] | None:
        """What is added to each figure where each of some cases is off, one way (1) or the other (-1); None where there
        would be none, or others."""
        found = figures_of(self.value(ways))
        if found is None or len(found) != len(figures):
            return None
        return [one - was for one, was in zip(found, figures, strict=True)]

    def value(self, ways: Mapping[Case, int], node: Typed | None = None) -> Any:
        """What the line, or a piece of it, gives then; None where it fails."""
        values: dict[str, Any] = {}
        for (name, at), way in ways.items():
            if name:
                was, by = self.off[name]
                assert by is not None
                values[name] = with_one_off(values.get(name, was), at, way * by[at])
        doubt = Doubt(self.taken, {at: way for (name, at), way in ways.items() if not name})
        try:
            return self.again(values, doubt, node)
        except LimitReached:
            raise
        except (Failure, ArithmeticError):
            return None


def _away(figures: list[float], cases: Sequence[Case], runs: _Runs) -> list[float]:
    """By how much each figure may be off: what each case changes, added up; or, where a figure goes one way with each, what
    all change together, which is less for the least of some and the like."""
    changes = [[runs.changed(figures, {case: way}) for way in (1, -1)] for case in cases]
    if any(one is None for both in changes for one in both):
        return [abs(one) for one in figures]
    away = [0.0] * len(figures)
    together: dict[tuple[int, ...], list[float]] = {}
    for figure in range(len(figures)):
        pairs = [(up[figure], down[figure]) for up, down in changes if up and down]
        away[figure] = sum(max(abs(up), abs(down)) for up, down in pairs)
        if sum(bool(up or down) for up, down in pairs) < 2 or any(up * down > 0 for up, down in pairs):  # fmt: skip
            continue
        ways = tuple(int(np.sign(up - down)) for up, down in pairs)
        if ways not in together and len(together) < _MOST_TOGETHER:
            together[ways] = _all_off(figures, cases, ways, runs)
        if ways in together:
            away[figure] = min(away[figure], together[ways][figure])
    return away


def _all_off(
    figures: list[float], cases: Sequence[Case], ways: Sequence[int], runs: _Runs
) -> list[float]:
    """By how much figures change where all cases are off, each its way, or the other."""
    found = [
        runs.changed(
            figures, {case: turn * way for case, way in zip(cases, ways, strict=True) if way}
        )
        for turn in (1, -1)
    ]
    return [
        max((math.inf if one is None else abs(one[at])) for one in found)
        for at in range(len(figures))
    ]
