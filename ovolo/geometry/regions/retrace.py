"""Exact outlines of overlaid figures.

Overlays (union, difference, intersection) are worked out on straight sides. Every side of the
result lies on a side of one of the curves that went in; following these, the outline is put
together again from the exact pieces, parted where they truly meet.
"""

from __future__ import annotations

import bisect
import itertools
import math
import operator
from collections.abc import Callable, Iterator, Sequence

import numpy as np
import shapely
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.corners import met_near
from ovolo.geometry.curves.curve import Curve, closest
from ovolo.geometry.curves.pieces import Arc, Piece, Straight
from ovolo.geometry.placement import Matrix
from ovolo.geometry.regions.moments import moments
from ovolo.geometry.same import LEAST, SAME_PLACE, SAME_SHARE, SMALLEST
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import dot_product, plane_product

_ON = 4 * SAME_PLACE
"""By how many mm a side may miss the one it lies on: an overlay moves each corner by less."""

Sides = Callable[[Piece], tuple[Points, Points]]
"""The parameters (n,) and places (n, 3) of the corners that stand for a piece."""


class Trace(Struct, frozen=True, eq=False):
    """The sides that stand for curves in plan: of each the piece it belongs to, its parameters at
    both ends, and its ends (m, 2). `loops` are the first sides of the curves, and their number."""

    pieces: tuple[Piece, ...]
    which: NDArray[np.int64]
    t0: Points
    t1: Points
    a: Points
    b: Points
    loops: NDArray[np.int64]
    places: tuple[tuple[int, Matrix | None], ...] = ()
    """Up to which piece each placement holds: pieces are placed when they are looked at."""

    def piece(self, at: int) -> Piece:
        where = bisect.bisect_right(self.places, at, key=operator.itemgetter(0))
        matrix = self.places[where][1] if where < len(self.places) else None
        return self.pieces[at] if matrix is None else self.pieces[at].placed(matrix)

    def placed(self, matrix: Matrix) -> Trace:
        turn, shift = matrix[:2, :2].T, matrix[:2, 3]
        places = self.places or ((len(self.pieces), None),)
        moved = tuple((end, matrix if m is None else matrix @ m) for end, m in places)
        return Trace(self.pieces, self.which, self.t0, self.t1, self.a @ turn + shift, self.b @ turn + shift, self.loops, moved)  # fmt: skip


def trace_of(curves: Sequence[Curve], sides: Sides | None = None) -> Trace:
    """The sides of closed curves: those they have by themselves, or by a rule for all pieces."""
    made = [one for curve in curves for one in _divided(curve, sides)]
    counts = [len(steps) - 1 for steps, _ in made]
    per_curve = np.cumsum([0, *(len(curve.pieces) for curve in curves)])
    edges = np.cumsum([0, *counts])
    return Trace(
        tuple(piece for curve in curves for piece in curve.pieces),
        np.repeat(np.arange(len(counts)), counts),
        np.concatenate([steps[:-1] for steps, _ in made]),
        np.concatenate([steps[1:] for steps, _ in made]),
        np.concatenate([places[:-1, :2] for _, places in made]),
        np.concatenate([places[1:, :2] for _, places in made]),
        edges[per_curve],
    )


def _divided(curve: Curve, sides: Sides | None) -> Iterator[tuple[Points, Points]]:
    """The parameters and places of the corners of each piece."""
    for run in curve.runs:
        if isinstance(run, Cubics) and sides is not None:
            yield from map(sides, run.pieces())
        elif isinstance(run, Cubics):
            counts, corners = run.sides(curve.tolerance)
            ends = np.split(corners, np.cumsum(counts)[:-1])
            for start, corners, count in zip(run.poles[:, 0], ends, counts.tolist(), strict=True):
                yield np.linspace(0.0, 1.0, count + 1), np.concatenate([start[None], corners])
        else:
            yield sides(run) if sides is not None else run.sides(curve.tolerance)


def traces_together(traces: Sequence[Trace]) -> Trace:
    """Several as one."""
    if len(traces) == 1:
        return traces[0]
    pieces = np.cumsum([0, *(len(one.pieces) for one in traces)])
    sides = np.cumsum([0, *(len(one.which) for one in traces)])
    places: list[tuple[int, Matrix | None]] = []
    for before, one in zip(pieces, traces, strict=False):
        own = one.places or ((len(one.pieces), None),)
        places += [(int(before) + end, matrix) for end, matrix in own]
    which = np.concatenate([one.which + n for one, n in zip(traces, pieces, strict=False)])
    loops = [one.loops[:-1] + n for one, n in zip(traces, sides, strict=False)]
    everything = tuple(piece for one in traces for piece in one.pieces)
    return Trace(
        everything,
        which,
        np.concatenate([one.t0 for one in traces]),
        np.concatenate([one.t1 for one in traces]),
        np.concatenate([one.a for one in traces]),
        np.concatenate([one.b for one in traces]),
        np.concatenate([*loops, sides[-1:]]),
        tuple(places),
    )


def retraced(rings: Sequence[Points], trace: Trace) -> tuple[tuple[Curve, ...], bool]:
    """Closed rings of corners (n, 2) that run on the sides of curves, as exact curves; and whether
    all could be followed. Where one cannot, it stays as its sides."""
    if not rings:
        return (), True
    found: list[Curve | None] = _untouched(rings, trace)
    rest = [at for at, one in enumerate(found) if one is None]
    exact = True
    if rest:
        chosen = [rings[at] for at in rest]
        follow = _Follow(trace, np.concatenate(chosen))
        for at, (curve, followed) in zip(rest, follow.rings(chosen), strict=True):
            found[at] = curve
            exact = exact and followed
    return tuple(one for one in found if one is not None), exact


def _untouched(rings: Sequence[Points], trace: Trace) -> list[Curve | None]:
    """Of each ring the curve that it is the whole of, if it is."""
    found: list[Curve | None] = [None] * len(rings)
    counts = np.diff(trace.loops)
    by_size: dict[int, list[int]] = {}
    for loop, count in enumerate(counts.tolist()):
        by_size.setdefault(count, []).append(loop)
    corners = {}
    for size in {len(ring) for ring in rings} & set(by_size):
        for loop in by_size[size]:
            start = int(trace.loops[loop])
            row = trace.a[start : start + size]
            corners[_least(row)] = (loop, row)
    for at, ring in enumerate(rings):
        known = corners.get(_least(ring))
        if known is None or len(known[1]) != len(ring):
            continue
        loop, row = known
        start = int(np.argmin(np.abs(row - ring[0]).sum(axis=1)))
        for turned, way in ((np.roll(row, -start, axis=0), 1), (np.roll(row[::-1], start + 1, axis=0), -1)):  # fmt: skip
            if np.abs(turned - ring).max() < SAME_PLACE:
                first, last = (trace.which[trace.loops[loop + k] - k] for k in (0, 1))
                curve = Curve(tuple(trace.piece(i) for i in range(first, last + 1)))
                found[at] = curve if way > 0 else curve.reversed()
                break
    return found


def _least(ring: Points) -> tuple[int, int, int]:
    """What finds a ring again: its size and its lowest corner."""
    at = int(np.lexsort((ring[:, 0], np.round(ring[:, 1], 5)))[0])
    x, y = np.round(ring[at], 4).tolist()
    return len(ring), round(x * 1e4), round(y * 1e4)


class _Run(Struct, frozen=True):
    """A stretch of one piece from parameter `begin` to `end` (less where it runs backwards)."""

    piece: int
    begin: float
    end: float


class _Follow:
    """Follows rings along the sides of a trace."""

    def __init__(self, trace: Trace, corners: Points) -> None:
        low, high = corners.min(axis=0) - 1.0, corners.max(axis=0) + 1.0
        near = np.all((np.minimum(trace.a, trace.b) <= high) & (np.maximum(trace.a, trace.b) >= low), axis=1)  # fmt: skip
        self.trace = trace
        self.row = np.flatnonzero(near)
        lines = np.stack([trace.a[self.row], trace.b[self.row]], axis=1)
        self.tree = shapely.STRtree(shapely.linestrings(lines))
        self.pieces: dict[int, Piece] = {}

    def piece(self, at: int) -> Piece:
        if at not in self.pieces:
            self.pieces[at] = self.trace.piece(at)
        return self.pieces[at]

    def rings(self, rings: Sequence[Points]) -> list[tuple[Curve, bool]]:
        starts = np.concatenate(rings)
        ends = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
        under = self._under(starts, ends)
        which = np.where(under < 0, -1, self.trace.which[under])
        begins, stops = (self._parameters(under, points) for points in (starts, ends))
        edges = np.cumsum([0, *map(len, rings)])
        return [
            self._ring(which[a:b], begins[a:b], stops[a:b], starts[a:b])
            for a, b in itertools.pairwise(edges)
        ]

    def _under(self, starts: Points, ends: Points) -> NDArray[np.int64]:
        """The side of the trace on which each side (n, 2) lies; -1 for none."""
        middles = (starts + ends) / 2
        sides, near = self.tree.query(shapely.points(middles), predicate="dwithin", distance=_ON)
        rows = self.row[near]
        along = ends[sides] - starts[sides]
        chord = self.trace.b[rows] - self.trace.a[rows]
        size = np.linalg.norm(along, axis=1)
        length = np.maximum(np.linalg.norm(chord, axis=1), LEAST)
        sine = np.abs(plane_product(along, chord)) / length
        # Both ends of the side lie on the line of the other.
        aligned = sine <= 2 * _ON + 1e-7 * size
        # Of those on which it lies, one that does not end before, for a long side that touches a circle lies on a short
        # one of that, too; of these, the one that it misses least; of equal ones, the first.
        off = middles[sides] - self.trace.a[rows]
        miss = np.abs(plane_product(off, chord)) / length + sine
        rank = np.round(miss / SAME_PLACE)
        spots = [dot_product(one[sides] - self.trace.a[rows], chord) / length for one in (starts, ends)]  # fmt: skip
        beyond = np.max([np.maximum(-one, one - length) for one in spots], axis=0) > 2 * _ON
        order = np.lexsort((rows, rank, beyond, sides))
        order = order[aligned[order]]
        found = np.full(len(starts), -1, dtype=np.int64)
        found[sides[order][::-1]] = rows[order][::-1]
        return found

    def _parameters(self, rows: NDArray[np.int64], points: Points) -> NDArray[np.float64]:
        """The parameters of points (n, 2) on their sides."""
        trace = self.trace
        along = trace.b[rows] - trace.a[rows]
        square = np.maximum(np.sum(along**2, axis=1), LEAST)
        shares = dot_product(points - trace.a[rows], along) / square
        slack = np.maximum(1e-7, SAME_PLACE / np.sqrt(square))
        shares = np.where(np.abs(shares) < slack, 0.0, np.where(np.abs(shares - 1) < slack, 1.0, shares))  # fmt: skip
        found: NDArray[np.float64] = trace.t0[rows] + shares * (trace.t1[rows] - trace.t0[rows])
        return found

    def _ring(
        self, which: NDArray[np.int64], begins: Points, stops: Points, corners: Points
    ) -> tuple[Curve, bool]:
        """One ring: of each side the piece under it and its parameters there, and the corners."""
        parts = None if which.min() < 0 else self._joined(_runs(which, begins, stops))
        if parts is None:
            return _as_sides(corners), False
        curve = Curve(tuple(parts))
        return (curve, True) if _is_round(curve, corners) else (_as_sides(corners), False)

    def _joined(self, runs: list[_Run]) -> list[Piece] | None:
        """The pieces of the runs, each ended where it truly meets the next; None where it does
        not."""
        count = len(runs)
        begins = [run.begin for run in runs]
        ends = [run.end for run in runs]
        for at, run in enumerate(runs):
            onward = (at + 1) % count
            after = runs[onward]
            p, q = self.piece(run.piece), self.piece(after.piece)
            both_end = run.end in (0.0, 1.0) and after.begin in (0.0, 1.0)
            if both_end and _gap(p, q, run.end, after.begin) < SAME_PLACE:
                continue
            met = _nearest_meeting(p, q, run.end, after.begin)
            if met is None:
                if _gap(p, q, run.end, after.begin) < 2 * _ON:
                    continue  # they run along each other, and pass over into each other here
                return None
            ends[at], begins[onward] = met
        parts, left = [], []
        for run, begin, end in zip(runs, begins, ends, strict=True):
            if abs(end - begin) < 1e-13 or (end - begin) * (run.end - run.begin) <= 0:
                continue
            left.append(run)
            piece = self.piece(run.piece)
            parts.append(piece if (begin, end) == (0.0, 1.0) else piece.part(begin, end))
        if 1 < len(left) < count:  # what was beside those that are none meets itself
            return self._joined(left) or parts
        return parts or None


def _gap(p: Piece, q: Piece, s: float, t: float) -> float:
    return float(np.linalg.norm(p.at(s) - q.at(t)))


def _is_round(curve: Curve, corners: Points) -> bool:
    """Whether a curve goes once round what a ring of sides (n, 2) does: without a gap, over the same area and as far."""
    low, high = curve.bounds()[:, :2]
    drift = np.abs(np.array([low - corners.min(axis=0), high - corners.max(axis=0)])).max()
    if not curve.closed or drift > 4 * curve.tolerance + 0.01 * float((high - low).max()):
        return False
    starts, ends = (
        np.array([getattr(one, end) for one in curve.pieces]) for end in ("start", "end")
    )
    gap = float(np.abs(ends - np.roll(starts, -1, axis=0)).max())
    around = corners - corners[0]
    area = float(plane_product(around, np.roll(around, -1, axis=0)).sum()) / 2
    missed = abs(_area_of(curve) - area)
    return gap < 2 * _ON and missed < 4 * curve.tolerance * curve.length


def _area_of(curve: Curve) -> float:
    """What a closed curve encloses, in mm²; the quicker way for a circle, of which plates have many."""
    first = curve.pieces[0]
    if len(curve.pieces) == 1 and isinstance(first, Arc) and first.is_circle:
        return first.radius**2 * first.sweep / 2 * float(np.sign(first.normal[2]))
    return float(moments(curve)[0])


def _nearest_meeting(p: Piece, q: Piece, s: float, t: float) -> tuple[float, float] | None:
    """Where two pieces truly meet near the parameters s and t at which their sides do. Arcs of one circle meet all
    along: they pass over into each other where one of them ends."""
    if isinstance(p, Straight) and isinstance(q, Straight):
        crossing = _crossing(p, q)
        if crossing is not None:
            return crossing
    if _are_of_one_circle(p, q):
        if min(s, 1 - s) <= min(t, 1 - t):
            return s, _parameter_near(q, p.at(s), t)
        return _parameter_near(p, q.at(t), s), t
    met = met_near(p, q, min(max(s, 0.0), 1.0), min(max(t, 0.0), 1.0))
    if met is not None and abs(met[0] - s) < 0.5 and abs(met[1] - t) < 0.5:
        return met
    return _touching(p, q, s, t)


_ASKEW = 1e-6
"""The sine of the angle from which on the crossing of two lines is plain."""


def _crossing(p: Straight, q: Straight) -> tuple[float, float] | None:
    """Where two straight pieces cross that lie well askew; None where they lie along each other, or end before."""
    (dx, dy), (ex, ey), (wx, wy) = ((b[:2] - a[:2]).tolist() for a, b in ((p.a, p.b), (q.a, q.b), (p.a, q.a)))  # fmt: skip
    turn = dx * ey - dy * ex
    if abs(turn) <= _ASKEW * math.hypot(dx, dy) * math.hypot(ex, ey):
        return None
    s, t = (wx * ey - wy * ex) / turn, (wx * dy - wy * dx) / turn
    if not all(-SAME_SHARE <= one <= 1 + SAME_SHARE for one in (s, t)):
        return None
    s, t = min(max(s, 0.0), 1.0), min(max(t, 0.0), 1.0)
    apart = math.hypot(wx + t * ex - s * dx, wy + t * ey - s * dy)
    return (s, t) if apart < SMALLEST else None


def _parameter_near(piece: Piece, point: Points, at: float) -> float:
    """The parameter of a point on a piece; of the two that a whole circle has where it begins, that nearer to `at`."""
    found = piece.nearest(point)
    return found if abs(found - at) < 0.5 else float(np.clip(found + np.rint(at - found), 0.0, 1.0))


def _are_of_one_circle(p: Piece, q: Piece) -> bool:
    if not (isinstance(p, Arc) and isinstance(q, Arc) and p.is_circle and q.is_circle):
        return False
    apart = float(np.linalg.norm(p.centre - q.centre))
    return apart < _ON and abs(p.radius - q.radius) < _ON


def _touching(p: Piece, q: Piece, s: float, t: float) -> tuple[float, float] | None:
    """Where two pieces touch near the parameters s and t: at an end of one, or where they come
    nearest to each other; None where they do not touch."""
    from scipy.optimize import minimize_scalar

    reach = 2 * float(np.linalg.norm(p.at(s) - q.at(t))) + 0.1 * min(p.length, q.length)
    place = (p.at(s) + q.at(t)) / 2
    for piece, other, swapped in ((q, p, False), (p, q, True)):
        for end in (0.0, 1.0):
            point = piece.at(end)
            if np.linalg.norm(point - place) < reach:
                on = closest(Curve((other,)), point)[1]
                if np.linalg.norm(other.at(on) - point) < _ON:
                    return (end, on) if swapped else (on, end)
    low, high = max(min(t, 1.0) - 0.1, 0.0), min(max(t, 0.0) + 0.1, 1.0)

    def gap(at: float) -> float:
        point = q.at(at)
        return float(np.linalg.norm(p.at(closest(Curve((p,)), point)[1]) - point))

    found = minimize_scalar(gap, bounds=(low, high), method="bounded", options={"xatol": 1e-9})
    if float(found.fun) > _ON:
        return None
    on = closest(Curve((p,)), q.at(float(found.x)))[1]
    return on, float(found.x)


def _as_sides(corners: Points) -> Curve:
    flat = np.column_stack([corners, np.zeros(len(corners))])
    return Curve(
        tuple(Straight(a, b) for a, b in zip(flat, np.roll(flat, -1, axis=0), strict=True))
    )


def _runs(which: NDArray[np.int64], begins: Points, stops: Points) -> list[_Run]:
    """The sides gathered while they go on along one piece."""
    ways = np.sign(stops - begins)
    before = np.arange(-1, len(which) - 1)
    goes_on = (which == which[before]) & (np.abs(begins - stops[before]) < SAME_SHARE)
    goes_on &= ways == ways[before]
    firsts = np.flatnonzero(~goes_on)
    if not len(firsts):
        firsts = np.array([0])
    lasts = np.append(firsts[1:], firsts[0]) - 1
    return [
        _Run(int(which[first]), float(begins[first]), float(stops[last]))
        for first, last in zip(firsts, lasts, strict=True)
    ]


def outlines_at(trace: Trace) -> list[Points]:
    """The rings (n, 2) of the sides of each of its curves."""
    return [trace.a[a:b] for a, b in itertools.pairwise(trace.loops)]
