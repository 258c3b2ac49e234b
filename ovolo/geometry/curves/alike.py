"""Pieces of one kind, worked out all at once: a curve may have thousands."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.curves.pieces import NODES, WEIGHTS, Cubic, Piece, chords_of_cubics
from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.same import ROUNDING, SMALLEST
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product

_FEW_NODES, _FEW_WEIGHTS = np.polynomial.legendre.leggauss(16)


class Cubics(Struct, frozen=True, eq=False, dict=True):
    """Many cubics that follow each other, worked out all at once: `poles` is (n, 4, 3)."""

    poles: Points

    @classmethod
    def of(cls, pieces: Iterable[Piece]) -> Cubics:
        return cls(np.array([piece.poles for piece in pieces if isinstance(piece, Cubic)]))

    def pieces(self) -> list[Piece]:
        return [Cubic(poles) for poles in self.poles]

    def placed(self, matrix: Matrix) -> Cubics:
        return Cubics(applied(matrix, self.poles.reshape(-1, 3)).reshape(-1, 4, 3))

    @cached_property
    def powers(self) -> tuple[Points, Points, Points, Points]:
        """The coefficients (n, 3) of their powers of t, from the constant on."""
        a, b, c, d = np.moveaxis(self.poles, 1, 0)
        return a, 3 * (b - a), 3 * (a - 2 * b + c), d - 3 * c + 3 * b - a

    def _at(self, which: Any, t: Points) -> Points:
        c0, c1, c2, c3 = (c[which] for c in self.powers)
        points: Points = c0 + t * (c1 + t * (c2 + t * c3))
        return points

    def places(self, t: Points) -> Points:
        """The points of each at parameters t, (n, len(t), 3)."""
        c0, c1, c2, c3 = (c[:, None, :] for c in self.powers)
        t = t[None, :, None]
        places: Points = c0 + t * (c1 + t * (c2 + t * c3))
        return places

    def slopes(self, t: Points) -> Points:
        """The derivatives of each at parameters t, (n, len(t), 3)."""
        _, c1, c2, c3 = (c[:, None, :] for c in self.powers)
        t = t[None, :, None]
        slopes: Points = c1 + t * (2 * c2 + t * 3 * c3)
        return slopes

    @cached_property
    def lengths(self) -> Points:
        """The length of each, as `Piece.length_to` has it; those that bend much, one by one."""
        lengths = self._in_one_go.copy()
        for at in np.flatnonzero(self._uneven):
            lengths[at] = Cubic(self.poles[at]).length
        return lengths

    @cached_property
    def _in_one_go(self) -> Points:
        return self._lengths_by(NODES, WEIGHTS)

    @cached_property
    def _uneven(self) -> NDArray[np.bool_]:
        """Which of them bend too much to be measured in one go."""
        few, many = self._lengths_by(_FEW_NODES, _FEW_WEIGHTS), self._in_one_go
        uneven: NDArray[np.bool_] = np.abs(many - few) > 1e-13 * np.maximum(many, SMALLEST)
        return uneven

    def parameters_at(self, which: NDArray[np.int64], lengths: Points) -> Points:
        """The parameters (m,) at lengths from the start of those of the numbers given, by Newton's
        method on the arc length; on those that bend much, one by one."""
        totals = self.lengths[which]
        t = np.clip(lengths / totals, 0.0, 1.0)
        _, c1, c2, c3 = (c[which][:, None, :] for c in self.powers)
        for _ in range(8):
            places = (t[:, None] * np.append((1 + NODES) / 2, 1.0))[..., None]
            speeds = np.linalg.norm(c1 + places * (2 * c2 + places * 3 * c3), axis=2)
            miss = (speeds[:, :-1] @ WEIGHTS) * t / 2 - lengths
            t = np.clip(t - miss / np.maximum(speeds[:, -1], ROUNDING), 0.0, 1.0)
            if np.all(np.abs(miss) < 1e-13 * totals):
                break
        for at in np.unique(which[self._uneven[which]]):
            here = which == at
            t[here] = Cubic(self.poles[at]).parameters_at(lengths[here])
        return t

    def _lengths_by(self, nodes: Points, weights: Points) -> Points:
        speeds = np.linalg.norm(self.slopes((1 + nodes) / 2), axis=2)
        lengths: Points = speeds @ weights / 2
        return lengths

    def smooth_runs(self, bend: float) -> list[Cubics]:
        """The same in stretches within which each goes on in the direction of the one before, but
        for a bend in radians."""
        ends, starts = (
            self.poles[:-1, 3] - self.poles[:-1, 2],
            self.poles[1:, 1] - self.poles[1:, 0],
        )
        sines = np.linalg.norm(cross_product(ends, starts), axis=1)
        turns = np.arctan2(sines, dot_product(ends, starts))
        edges = np.flatnonzero(turns > bend) + 1
        return [Cubics(poles) for poles in np.split(self.poles, edges)]

    def at(self, which: NDArray[np.int64], steps: Points) -> tuple[Points, Points]:
        """Places and directions (m, 3) on those of the numbers given, at parameters."""
        steps = steps[:, None]
        _, c1, c2, c3 = (c[which] for c in self.powers)
        slopes = c1 + steps * (2 * c2 + steps * 3 * c3)
        return self._at(which, steps), slopes / np.linalg.norm(slopes, axis=1, keepdims=True)

    def chords(self, tolerance: float) -> NDArray[np.int64]:
        """Into how many chords each is divided."""
        return chords_of_cubics(self.poles, tolerance)

    def points(self, tolerance: float) -> Points:
        """The ends of its chords (m, 3), without the start of the first."""
        which, steps = _steps_of(self.chords(tolerance))
        return self._at(which, steps[:, None])

    def sides(self, tolerance: float) -> Points:
        """The corners (m, 3) of the sides that stand for each, without the start of the first."""
        counts = self.chords(tolerance)
        which, steps = _steps_of(counts)
        size = (1 / counts[which])[:, None]
        at = self._at(which, steps[:, None])
        before, after = (self._at(which, steps[:, None] + way * size) for way in (-1.0, 1.0))
        inner = (steps < 1 - ROUNDING)[:, None]
        share = np.where(counts > 1, counts / np.maximum(counts - 1, 1), 0.0)[which][:, None] / 12
        sides: Points = at - np.where(inner, (before - 2 * at + after) * share, 0.0)
        return sides

    def bounds(self) -> Points:
        """The least and greatest corner, (2, 3): at the ends, or where a coordinate turns."""
        _, c1, c2, c3 = self.powers
        a, b = 3 * c3, 2 * c2
        square = b * b - 4 * a * c1
        half = -(b + np.copysign(np.sqrt(np.maximum(square, 0.0)), b)) / 2
        low, high = (
            end.copy() for end in (self.poles[:, [0, 3]].min(1), self.poles[:, [0, 3]].max(1))
        )
        with np.errstate(divide="ignore", invalid="ignore"):
            for root in (half / a, c1 / half):
                turns = np.where((square >= 0) & (root > 0) & (root < 1), root, 0.0)
                at = self._at(slice(None), turns)
                low, high = np.minimum(low, at), np.maximum(high, at)
        return np.array([low.min(axis=0), high.max(axis=0)])


def _steps_of(counts: NDArray[np.int64]) -> tuple[NDArray[np.int64], Points]:
    """For things parted into so many steps each: whose step it is, and where it ends."""
    which = np.repeat(np.arange(len(counts)), counts)
    before = np.repeat(np.cumsum(counts) - counts, counts)
    return which, (np.arange(len(which)) - before + 1) / counts[which]
