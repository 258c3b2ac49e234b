"""Exact outlines of overlaid figures.

Overlays (union, difference, intersection) are worked out on chords. Every side of the result lies
on a chord of one of the curves that went in; following these, the outline is put together again
from the exact pieces, parted where they truly meet.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ovolo.geometry.corners import met_near
from ovolo.geometry.curve import Curve, Piece, Points, Straight
from ovolo.geometry.tolerance import chord_tolerance

_ON = 1e-6
"""By how many mm a side may miss the chord it lies on."""

_SAME = 1e-9
"""Parameters that differ by less are the same place."""


@dataclass(frozen=True, slots=True)
class _Run:
    """A stretch of one piece from parameter `begin` to `end` (less where it runs backwards)."""

    piece: int
    begin: float
    end: float


class _Chords:
    """The chords of many curves, to be found by place."""

    def __init__(self, sources: Sequence[Curve]) -> None:
        self.pieces: list[Piece] = [piece for curve in sources for piece in curve.pieces]
        counts = np.array([piece.chords(chord_tolerance()) for piece in self.pieces])
        steps = [np.linspace(0.0, 1.0, n + 1) for n in counts]
        points = [piece.at(at)[:, :2] for piece, at in zip(self.pieces, steps, strict=True)]
        self.which = np.repeat(np.arange(len(counts)), counts)
        self.t0 = np.concatenate([at[:-1] for at in steps])
        self.t1 = np.concatenate([at[1:] for at in steps])
        self.a = np.concatenate([one[:-1] for one in points])
        self.b = np.concatenate([one[1:] for one in points])
        self.tree = shapely.STRtree(shapely.linestrings(np.stack([self.a, self.b], axis=1)))

    def under(self, starts: Points, ends: Points) -> NDArray[np.int64]:
        """The chord on which each side (n, 2) lies; -1 for none."""
        middles = shapely.points((starts + ends) / 2)
        sides, chords = self.tree.query(middles, predicate="dwithin", distance=_ON)
        along = ends[sides] - starts[sides]
        chord = self.b[chords] - self.a[chords]
        sizes = np.linalg.norm(along, axis=1) * np.linalg.norm(chord, axis=1)
        cross = along[:, 0] * chord[:, 1] - along[:, 1] * chord[:, 0]
        aligned = np.abs(cross) <= 1e-4 * sizes + _ON * np.linalg.norm(chord, axis=1)
        found = np.full(len(starts), -1, dtype=np.int64)
        # The last assignment stands; going backwards, that is the first chord.
        found[sides[aligned][::-1]] = chords[aligned][::-1]
        return found

    def parameters(self, chords: NDArray[np.int64], points: Points) -> NDArray[np.float64]:
        """The parameters of points (n, 2) on their chords."""
        along = self.b[chords] - self.a[chords]
        shares = np.sum((points - self.a[chords]) * along, axis=1) / np.sum(along**2, axis=1)
        shares = np.where(
            np.abs(shares) < 1e-7, 0.0, np.where(np.abs(shares - 1) < 1e-7, 1.0, shares)
        )
        parameters: NDArray[np.float64] = self.t0[chords] + shares * (
            self.t1[chords] - self.t0[chords]
        )
        return parameters


def retraced(rings: Sequence[Points], sources: Sequence[Curve]) -> tuple[Curve, ...]:
    """Closed rings of corners (n, 2) that run on the chords of curves, as exact curves; where a
    ring cannot be followed, it stays as its chords."""
    if not rings:
        return ()
    chords = _Chords(sources)
    starts = np.concatenate(rings)
    ends = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    under = chords.under(starts, ends)
    which = np.where(under < 0, -1, chords.which[under])
    begins, stops = (chords.parameters(under, points) for points in (starts, ends))
    edges = np.cumsum([0, *map(len, rings)])
    return tuple(
        _retraced_ring(chords.pieces, which[a:b], begins[a:b], stops[a:b], starts[a:b])
        for a, b in itertools.pairwise(edges)
    )


def _retraced_ring(
    pieces: Sequence[Piece],
    which: NDArray[np.int64],
    begins: Points,
    stops: Points,
    corners: Points,
) -> Curve:
    """One ring: of each side the piece under it and its parameters there, and the corners."""
    parts = None if which.min() < 0 else _joined(pieces, _runs(which, begins, stops))
    if parts is None:
        return _as_chords(corners)
    curve = Curve(tuple(parts))
    low, high = curve.bounds()[:, :2]
    drift = max(np.abs(low - corners.min(axis=0)).max(), np.abs(high - corners.max(axis=0)).max())
    return curve if curve.closed and drift < 4 * chord_tolerance() else _as_chords(corners)


def _as_chords(corners: Points) -> Curve:
    flat = np.column_stack([corners, np.zeros(len(corners))])
    return Curve(
        tuple(Straight(a, b) for a, b in zip(flat, np.roll(flat, -1, axis=0), strict=True))
    )


def _runs(which: NDArray[np.int64], begins: Points, stops: Points) -> list[_Run]:
    """The sides gathered while they go on along one piece."""
    ways = np.sign(stops - begins)
    before = np.arange(-1, len(which) - 1)
    goes_on = (which == which[before]) & (np.abs(begins - stops[before]) < _SAME)
    goes_on &= ways == ways[before]
    firsts = np.flatnonzero(~goes_on)
    if not len(firsts):
        firsts = np.array([0])
    lasts = np.append(firsts[1:], firsts[0]) - 1
    return [
        _Run(int(which[first]), float(begins[first]), float(stops[last]))
        for first, last in zip(firsts, lasts, strict=True)
    ]


def _joined(pieces: Sequence[Piece], runs: list[_Run]) -> list[Piece] | None:
    """The pieces of the runs, each ended where it truly meets the next; None where it does not."""
    count = len(runs)
    begins = [run.begin for run in runs]
    ends = [run.end for run in runs]
    for at, run in enumerate(runs):
        onward = (at + 1) % count
        after = runs[onward]
        p, q = pieces[run.piece], pieces[after.piece]
        if np.linalg.norm(p.at(run.end) - q.at(after.begin)) < _ON / 10:
            continue
        met = met_near(p, q, run.end, after.begin)
        if met is None or abs(met[0] - run.end) > 0.5 or abs(met[1] - after.begin) > 0.5:
            return None
        ends[at], begins[onward] = met
    parts = []
    for run, begin, end in zip(runs, begins, ends, strict=True):
        if abs(end - begin) < 1e-13 or (end - begin) * (run.end - run.begin) <= 0:
            continue
        piece = pieces[run.piece]
        parts.append(piece if (begin, end) == (0.0, 1.0) else piece.part(begin, end))
    return parts or None
