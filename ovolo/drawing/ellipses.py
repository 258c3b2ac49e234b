"""Arcs in a picture that run over each other: what of an ellipse is drawn, each stretch once."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.curves.pieces import Arc
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE, gathered
from ovolo.geometry.types import Points

Span = tuple[float, float]
"""From an angle to a greater one, in radians."""

_TURN = 2 * math.pi
_ONE = 1e-6
"""Radians: spans that lie no further apart go on from each other."""


def joined(spans: Iterable[Span]) -> list[Span]:
    """Spans of a circle put together where they meet or overlap; all of it is (0, 2 pi).

    >>> joined([(3.0, 4.0), (1.0, 2.0), (1.5, 3.0)])
    [(1.0, 4.0)]
    >>> joined([(0.0, 4.0), (3.5, 7.0)]) == [(0.0, 2 * math.pi)]
    True
    """
    found: list[Span] = []
    for begin, end in sorted(_from_nothing(one) for one in spans):
        if found and begin <= found[-1][1] + _ONE:
            found[-1] = found[-1][0], max(found[-1][1], end)
        else:
            found.append((begin, end))
    while len(found) > 1 and found[-1][1] >= found[0][0] + _TURN - _ONE:  # round the start
        begin, end = found.pop()
        found[0] = begin - _TURN, max(found[0][1], end - _TURN)
    if found and found[0][1] - found[0][0] >= _TURN - _ONE:
        return [(0.0, _TURN)]
    return found


def without(spans: Iterable[Span], others: Iterable[Span]) -> list[Span]:
    """What others do not cover of spans of a circle.

    >>> without([(0.0, 3.0)], [(1.0, 2.0)])
    [(0.0, 1.0), (2.0, 3.0)]
    >>> without([(6.0, 7.0)], [(0.0, 2.0)]) == [(6.0, 2 * math.pi)]
    True
    """
    rest = _unwound(joined(spans))
    for begin, end in _unwound(joined(others)):
        rest = [
            left
            for a, b in rest
            for left in ((a, min(b, begin)), (max(a, end), b))
            if left[1] - left[0] > _ONE
        ]
    return joined(rest)


def _from_nothing(span: Span) -> Span:
    begin = span[0] % _TURN
    return begin, begin + span[1] - span[0]


def _unwound(spans: Iterable[Span]) -> list[Span]:
    """Spans within 0 to 2 pi."""
    found = []
    for begin, end in (_from_nothing(one) for one in spans):
        found.append((begin, min(end, _TURN)))
        if end > _TURN:
            found.append((0.0, end - _TURN))
    return found


class Ellipses:
    """The ellipses that some arcs lie on, seen along z: those that are the same are one."""

    def __init__(self, arcs: Sequence[Arc]) -> None:
        self._middles = np.array([arc.centre[:2] for arc in arcs])
        maps = np.array([np.column_stack([arc.u[:2], arc.v[:2]]) for arc in arcs])
        axes, sizes, _ = np.linalg.svd(maps)
        even = sizes[:, 0] - sizes[:, 1] <= SAME_SHARE * sizes[:, 0]
        axes[even] = np.eye(2)
        # The longer axis points to the right (or up), and the other one lies to its left.
        axes[(axes[:, 0, 0] < -SAME_SHARE) | ((np.abs(axes[:, 0, 0]) <= SAME_SHARE) & (axes[:, 1, 0] < 0))] *= -1  # fmt: skip
        axes[np.linalg.det(axes) < 0, :, 1] *= -1
        self._axes, self._sizes = axes, sizes
        turned = np.swapaxes(axes, 1, 2) @ maps / sizes[:, :, None]
        self._from = np.arctan2(turned[:, 1, 0], turned[:, 0, 0])
        self._way = np.sign(np.linalg.det(turned))
        self.of = self._grouped()

    def _grouped(self) -> NDArray[np.int64]:
        """For each arc the first one that lies on the same ellipse."""
        lean = (self._sizes[:, 0] - self._sizes[:, 1])[:, None] * self._axes[:, :, 0]
        columns = np.column_stack([self._middles, self._sizes, lean])
        for at, column in enumerate(columns.T):
            same = gathered(column)
            if same is not None:
                columns[:, at] = same
        _, first, which = np.unique(columns, axis=0, return_index=True, return_inverse=True)
        found: NDArray[np.int64] = first[which.reshape(-1)]
        return found

    def spans(self, arc: NDArray[np.int64], angles: Points) -> list[Span]:
        """Stretches of arcs, between angles (n, 2) of their own, in angles of their ellipses."""
        turned = self._from[arc][:, None] + self._way[arc][:, None] * angles
        return [(a, b) for a, b in np.sort(turned, axis=1).tolist()]

    def drawn(self, arc: int, spans: Iterable[Span]) -> list[Arc]:
        """What is drawn of the ellipse of an arc, in the picture (z = 0); what is but a point is left out."""
        centre = np.append(self._middles[arc], 0.0)
        u, v = (np.append(size * axis, 0.0) for size, axis in zip(self._sizes[arc], self._axes[arc].T, strict=True))  # fmt: skip
        least = SAME_PLACE / float(self._sizes[arc, 0])
        return [
            Arc(centre, u, v, begin, end - begin) for begin, end in spans if end - begin > least
        ]


def by_ellipse(ellipses: Ellipses, arc: NDArray[np.int64], angles: Points) -> dict[int, list[Span]]:
    """The spans of stretches of arcs, by the first arc of each ellipse."""
    rows = sorted(zip(ellipses.of[arc].tolist(), ellipses.spans(arc, angles), strict=True))
    return {
        of: [span for _, span in some] for of, some in itertools.groupby(rows, lambda row: row[0])
    }
