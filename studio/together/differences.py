"""Where two texts differ, line by line; in time that grows with their length alone, for it is asked in the web process."""

from __future__ import annotations

import bisect
from collections import Counter
from collections.abc import Iterator, Sequence
from difflib import SequenceMatcher
from typing import NamedTuple

_FEW = 50
"""So many lines on both sides are compared each with each."""

_DEEPEST = 32
"""So often what lies between lines that hold is parted again: a text made for it could be parted line by line."""


class Difference(NamedTuple):
    """The lines of the old text from `start` to before `end` have become those of the new one from `new_start` to
    before `new_end`; all counted from 0."""

    start: int
    end: int
    new_start: int
    new_end: int

    @property
    def is_empty(self) -> bool:
        return self.start == self.end and self.new_start == self.new_end

    @property
    def is_one_sided(self) -> bool:
        """Whether lines were only put in, or only taken out."""
        return self.start == self.end or self.new_start == self.new_end


def differences(old: Sequence[str], new: Sequence[str]) -> list[Difference]:
    """Where two texts differ, in order; between two of them stands at least one line that both have.

    A patience diff: what both begin and end with is set aside, then the lines that each has once hold the texts
    together, and what is between them is treated alike. Few lines without such a one are left to `difflib`; many
    are taken as replaced.
    """
    return list(_within(old, new, Difference(0, len(old), 0, len(new)), 0))


def _within(
    old: Sequence[str], new: Sequence[str], span: Difference, depth: int
) -> Iterator[Difference]:
    span = _trimmed(old, new, span)
    if span.is_empty:
        return
    held = [] if span.is_one_sided or depth == _DEEPEST else _held(old, new, span)
    if held:
        start, new_start = span.start, span.new_start
        for at, new_at in [*held, (span.end, span.new_end)]:
            yield from _within(old, new, Difference(start, at, new_start, new_at), depth + 1)
            start, new_start = at + 1, new_at + 1
    elif span.is_one_sided or max(span.end - span.start, span.new_end - span.new_start) > _FEW:
        yield span
    else:
        yield from _compared(old, new, span)


def _trimmed(old: Sequence[str], new: Sequence[str], span: Difference) -> Difference:
    """Without the lines that both begin or end with."""
    start, end, new_start, new_end = span
    while start < end and new_start < new_end and old[start] == new[new_start]:
        start, new_start = start + 1, new_start + 1
    while start < end and new_start < new_end and old[end - 1] == new[new_end - 1]:
        end, new_end = end - 1, new_end - 1
    return Difference(start, end, new_start, new_end)


def _held(old: Sequence[str], new: Sequence[str], span: Difference) -> list[tuple[int, int]]:
    """Where the lines stand that both have just once, as many as stand in the same order in both."""
    before = _once(old, span.start, span.end)
    after = _once(new, span.new_start, span.new_end)
    return _rising([(at, after[line]) for line, at in before.items() if line in after])


def _once(lines: Sequence[str], start: int, end: int) -> dict[str, int]:
    counts = Counter(lines[start:end])
    return {lines[at]: at for at in range(start, end) if counts[lines[at]] == 1}


def _rising(pairs: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """The longest choice of pairs, sorted by their first, in which the second rises too (patience sorting)."""
    tops: list[int] = []  # the least second with which a choice of each length can end
    ends: list[int] = []  # the pair it ends with
    before: list[int] = []  # the pair that stands before each
    for index, (_, second) in enumerate(pairs):
        length = bisect.bisect_left(tops, second)
        before.append(ends[length - 1] if length else -1)
        tops[length : length + 1] = [second]
        ends[length : length + 1] = [index]
    found: list[tuple[int, int]] = []
    at = ends[-1] if ends else -1
    while at >= 0:
        found.append(pairs[at])
        at = before[at]
    return found[::-1]


def _compared(old: Sequence[str], new: Sequence[str], span: Difference) -> Iterator[Difference]:
    start, end, new_start, new_end = span
    matcher = SequenceMatcher(None, old[start:end], new[new_start:new_end], autojunk=False)
    for kind, a, b, c, d in matcher.get_opcodes():
        if kind != "equal":
            yield Difference(start + a, start + b, new_start + c, new_start + d)
