"""Pieces of one kind, worked out all at once: a curve may have thousands."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.curves.pieces import (
    MOST_POINTS,
    NODES,
    WEIGHTS,
    Arc,
    Cubic,
    Piece,
    Straight,
    chords_of_cubics,
)
from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.same import ROUNDING, SAME_SHARE, SMALLEST
from ovolo.geometry.tolerance import segments_for
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product

_FEW_NODES, _FEW_WEIGHTS = np.polynomial.legendre.leggauss(16)

Corners = tuple[NDArray[np.int64], Points]
"""How many corners each of some pieces has (n,), without its start, and where they lie (m, 3)."""


class Straights(Struct, frozen=True, eq=False):
    """Many straight lines: their ends `a` and `b` are (n, 3)."""

    a: Points
    b: Points

    @classmethod
    def of(cls, pieces: Sequence[Any]) -> Straights:
        return cls(np.array([line.a for line in pieces]), np.array([line.b for line in pieces]))

    @property
    def figures(self) -> tuple[Points, ...]:
        """All that makes them."""
        return self.a, self.b

    def pieces(self) -> list[Piece]:
        return [Straight(a, b) for a, b in zip(self.a, self.b, strict=True)]

    def placed(self, matrix: Matrix) -> Straights:
        return Straights(applied(matrix, self.a), applied(matrix, self.b))

    @property
    def lengths(self) -> Points:
        return _sizes(self.b - self.a)

    def points(self, tolerance: float) -> Corners:
        """Into how many chords each is divided (n,), and where these end (m, 3)."""
        return np.ones(len(self.b), dtype=np.int64), self.b

    def sides(self, tolerance: float) -> Corners:
        """The same of the sides that stand for each in the outline of a region."""
        return self.points(tolerance)

    def bounds(self) -> Points:
        """The least and greatest corner, (2, 3)."""
        return np.array([np.minimum(self.a, self.b).min(0), np.maximum(self.a, self.b).max(0)])


class Arcs(Struct, frozen=True, eq=False, dict=True):
    """Many arcs of circles and ellipses: `centre`, `u` and `v` are (n, 3), `angle` and `sweep` (n,)."""

    centre: Points
    u: Points
    v: Points
    angle: Points
    sweep: Points

    @classmethod
    def of(cls, pieces: Sequence[Any]) -> Arcs:
        figures = np.array([arc.figures for arc in pieces])
        return cls(figures[:, :3], figures[:, 3:6], figures[:, 6:9], figures[:, 9], figures[:, 10])

    @property
    def figures(self) -> tuple[Points, ...]:
        return self.centre, self.u, self.v, self.angle, self.sweep

    def pieces(self) -> list[Piece]:
        each = zip(self.centre, self.u, self.v, self.angle.tolist(), self.sweep.tolist(), strict=True)  # fmt: skip
        return [Arc(*one) for one in each]

    def placed(self, matrix: Matrix) -> Arcs:
        turn = matrix[:3, :3].T
        return Arcs(applied(matrix, self.centre), self.u @ turn, self.v @ turn, self.angle, self.sweep)  # fmt: skip

    @cached_property
    def lengths(self) -> Points:
        """Of circles; of ellipses, one by one."""
        lengths = _sizes(self.u) * np.abs(self.sweep)
        for at in np.flatnonzero(~self._are_circles).tolist():
            lengths[at] = self._one(at).length
        return lengths

    def points(self, tolerance: float) -> Corners:
        """Into how many chords each is divided (n,), and where these end (m, 3)."""
        counts = self._chords(tolerance)
        which, steps = _steps_of(counts)
        return counts, self._at(which, self.angle[which] + steps * self.sweep[which])

    def sides(self, tolerance: float) -> Corners:
        """The same of the sides that stand for each in the outline of a region: they touch it at even steps, and
        those at its ends are half as long."""
        chords = self._chords(tolerance)
        counts = chords + 1
        which, steps = _steps_of(counts)
        is_end = steps >= 1
        turned = np.where(is_end, 1.0, (steps * counts[which] - 0.5) / chords[which])
        out = np.where(is_end, 1.0, 1 / np.cos(self.sweep / chords / 2)[which])
        return counts, self._at(which, self.angle[which] + turned * self.sweep[which], out)

    def bounds(self) -> Points:
        """The least and greatest corner, (2, 3): at the ends, or where a coordinate turns."""
        extreme = np.arctan2(self.v, self.u)
        whole = (2 * np.pi / np.abs(self.sweep))[:, None]
        places = [self._at(slice(None), self.angle), self._at(slice(None), self.angle + self.sweep)]
        for angles in (extreme, extreme + np.pi):
            turns = np.mod((angles - self.angle[:, None]) / self.sweep[:, None], whole)
            on = self.angle[:, None] + np.where(turns < 1, turns, 0.0) * self.sweep[:, None]
            places.append(self.centre + np.cos(on) * self.u + np.sin(on) * self.v)
        every = np.concatenate(places)
        return np.array([every.min(axis=0), every.max(axis=0)])

    @cached_property
    def _are_circles(self) -> NDArray[np.bool_]:
        r, s = _sizes(self.u), _sizes(self.v)
        found: NDArray[np.bool_] = (np.abs(r - s) <= ROUNDING * r) & (
            np.abs(dot_product(self.u, self.v)) <= ROUNDING * r * r
        )
        return found

    def _one(self, at: int) -> Arc:
        return Arc(self.centre[at], self.u[at], self.v[at], float(self.angle[at]), float(self.sweep[at]))  # fmt: skip

    def _at(self, which: Any, angles: Points, out: Points | float = 1.0) -> Points:
        u, v = (np.broadcast_to(out * one, angles.shape)[:, None] for one in (np.cos(angles), np.sin(angles)))  # fmt: skip
        points: Points = self.centre[which] + u * self.u[which] + v * self.v[which]
        return points

    def _chords(self, tolerance: float) -> NDArray[np.int64]:
        """As `Arc.chords` has it: arcs of one radius have as many round a whole turn."""
        sizes = np.maximum(_sizes(self.u), _sizes(self.v))
        different, alike = np.unique(sizes, return_inverse=True)
        whole = np.array([segments_for(float(one), tolerance, MOST_POINTS) for one in different])
        counts = np.ceil(whole[alike] * np.abs(self.sweep) / (2 * np.pi) - SAME_SHARE)
        for at in np.flatnonzero(~self._are_circles).tolist():
            counts[at] = self._one(at).chords(tolerance)
        found: NDArray[np.int64] = np.clip(counts, 1, MOST_POINTS).astype(np.int64)
        return found


class Cubics(Struct, frozen=True, eq=False, dict=True):
    """Many cubics: `poles` is (n, 4, 3)."""

    poles: Points

    @classmethod
    def of(cls, pieces: Sequence[Any]) -> Cubics:
        return cls(np.array([cubic.poles for cubic in pieces]))

    @property
    def figures(self) -> tuple[Points, ...]:
        return (self.poles,)

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
        """Into how many chords each is divided (n,)."""
        return chords_of_cubics(self.poles, tolerance)

    def points(self, tolerance: float) -> Corners:
        """Into how many chords each is divided (n,), and where these end (m, 3)."""
        counts = self.chords(tolerance)
        which, steps = _steps_of(counts)
        return counts, self._at(which, steps[:, None])

    def sides(self, tolerance: float) -> Corners:
        """The same of the sides that stand for each in the outline of a region."""
        counts = self.chords(tolerance)
        which, steps = _steps_of(counts)
        size = (1 / counts[which])[:, None]
        at = self._at(which, steps[:, None])
        before, after = (self._at(which, steps[:, None] + way * size) for way in (-1.0, 1.0))
        inner = (steps < 1 - ROUNDING)[:, None]
        share = np.where(counts > 1, counts / np.maximum(counts - 1, 1), 0.0)[which][:, None] / 12
        return counts, at - np.where(inner, (before - 2 * at + after) * share, 0.0)

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


def _sizes(vectors: Points) -> Points:
    sizes: Points = np.linalg.norm(vectors, axis=1)
    return sizes


Alike = Straights | Arcs | Cubics


_KINDS: dict[type[Piece], type[Alike]] = {Straight: Straights, Arc: Arcs, Cubic: Cubics}


def alike(pieces: Sequence[Piece]) -> list[tuple[NDArray[np.int64], Alike]]:
    """The pieces of each kind together, with their numbers among all."""
    numbers: dict[type[Piece], list[int]] = {kind: [] for kind in _KINDS}
    for at, piece in enumerate(pieces):
        numbers[type(piece)].append(at)
    return [
        (np.array(own), _KINDS[kind].of([pieces[at] for at in own]))
        for kind, own in numbers.items()
        if own
    ]
