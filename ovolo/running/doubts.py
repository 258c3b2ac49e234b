"""By what share a figure may be wrong that is reckoned from measures which may be.

The line is run again as if one of these were off by as much as it may be, one way and the other; what that changes is
added up. So a small difference of two large figures tells how little of it is left to trust, and a sum tells no more than
its parts. Where that would make geometry anew, or run through a loop again, the largest share of what it is reckoned
from is told.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ovolo.meaning import checked_tree
from ovolo.meaning.checked_tree import Typed
from ovolo.problems import Failure
from ovolo.quantities.kinds import GEOMETRY, Quantity, innermost
from ovolo.running.values import LimitReached
from ovolo.words.measures_taken import Doubt, Taken

_MOST = 8
"""Of more inexact figures all are off the same way at once."""

_AGAIN = (
    checked_tree.Constant, checked_tree.Line, checked_tree.Operation, checked_tree.Opposite, checked_tree.Compared,
    checked_tree.Both, checked_tree.Chosen, checked_tree.Items, checked_tree.PointOf, checked_tree.WordCall,
    checked_tree.Coordinate, checked_tree.Field, checked_tree.ItemAt, checked_tree.ItemsAt,
)  # fmt: skip
"""What is run again: no loops, no functions."""


@dataclass(frozen=True, slots=True)
class Source:
    """What a line is reckoned from that may be wrong: a measure it takes, by its number, or the value of another line, by
    its name; all of its measures, or all of these values, where that is None."""

    measure: bool
    which: int | str | None


Again = Callable[[Mapping[str, Any], Doubt | None], Any]
"""What a line gives where some values of others, or what it measures, are off."""


def share_in_doubt(
    node: Typed | None,
    value: Any,
    taken: Sequence[Taken],
    needs: Mapping[str, tuple[Any, float]],
    again: Again,
) -> float | None:
    """By what share a value may be wrong, by the measures taken in its line and by the other values that it needs, with
    their shares. None where nothing was measured."""
    told = [*(one.share for one in taken), *(share for _, share in needs.values())]
    largest = max(told, default=None)
    if not largest or node is None or not _is_run_again(node):
        return largest
    if len(told) == 1 and taken and value is taken[0].found:
        return largest  # the measure itself
    figures = _figures(value)
    off = {name: _off(was, share) for name, (was, share) in needs.items() if share}
    makes = any(_makes(one) for one in checked_tree.descendants(node))
    if figures is None or (off and makes) or None in off.values():
        return largest
    away = [0.0] * len(figures)
    for source in _sources(taken, off):
        changed = [_changed(figures, source, way, taken, off, again) for way in (1, -1)]
        away = [so_far + max(both) for so_far, *both in zip(away, *changed, strict=True)]
    shares = [by / max(abs(one), by) for one, by in zip(figures, away, strict=True) if by]
    return max(shares, default=largest)


def _is_run_again(node: Typed) -> bool:
    kind = innermost(node.kind)
    return isinstance(kind, Quantity) and all(
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
    if not isinstance(value, list):
        return None
    found = [_figures(one) for one in value]
    return None if None in found else [one for each in found for one in each or ()]


def _off(value: Any, share: float) -> Any:
    """The value, larger by a share and smaller by it; None where it is no figure, nor a list of them."""
    if isinstance(value, bool):
        return None
    if isinstance(value, int | float):
        return value * (1 + share), value * (1 - share)
    if not isinstance(value, list):
        return None
    both = [_off(one, share) for one in value]
    return None if None in both else tuple([one[at] for one in both] for at in (0, 1))


def _sources(taken: Sequence[Taken], off: Mapping[str, Any]) -> Iterator[Source]:
    inexact = [at for at, one in enumerate(taken) if one.share]
    if len(inexact) + len(off) <= _MOST:
        yield from (Source(True, at) for at in inexact)
        yield from (Source(False, name) for name in off)
        return
    if inexact:
        yield Source(True, None)
    if off:
        yield Source(False, None)


def _changed(
    figures: list[float],
    source: Source,
    way: int,
    taken: Sequence[Taken],
    off: Mapping[str, Any],
    again: Again,
) -> list[float]:
    """By how much figures change where a source is off; all of them by themselves where there would be none."""
    values: dict[str, Any] = {}
    doubt = Doubt(taken, -1, way)
    if source.measure:
        assert not isinstance(source.which, str)
        doubt = Doubt(taken, source.which, way)
    else:
        at = 0 if way > 0 else 1
        values = {name: both[at] for name, both in off.items() if source.which in (None, name)}
    try:
        found = _figures(again(values, doubt))
    except LimitReached:
        raise
    except (Failure, ArithmeticError):
        found = None
    if found is None or len(found) != len(figures):
        return [abs(one) for one in figures]
    return [abs(one - was) for one, was in zip(found, figures, strict=True)]
