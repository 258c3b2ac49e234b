"""Edges that are picked on the stage, found from one of their drawn pieces.

The pieces that go on smoothly from it, at either end, belong to it; of a solid they are those that the word `edges`
tells of. It is measured by the line, arc or curve it stands for, where that is known (true_edges.py). Where it is not,
and its corners are those of an arc, the pieces touch it (those of a curve end on it; a round bar has a section as large
as its disc): see geometry/tolerance.py.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Straight
from ovolo.geometry.curves.rounds import ROUND, arc_touched
from ovolo.geometry.meshes.mesh import CREASE
from ovolo.geometry.placement import IDENTITY, Matrix, applied
from ovolo.geometry.same import ROUNDING, SAME_PLACE
from ovolo.geometry.solids import edges
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.solids.swept_form import Swept
from ovolo.geometry.solids.true_edges import (
    Stretch,
    TrueEdges,
    by_itself,
    standing_for,
    stretch,
    true_edges,
)
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.outcome.part import Part
from ovolo.problems import Failure


class Edge(Struct, frozen=True, eq=False):
    """An edge in space: its corners (n, 3) in order; a closed one ends where it begins.

    `centre`, `radius` (mm) and `sweep` (radians) where it is an arc or a circle; `curve` is the line, arc or curve on which
    it lies, where that is known, and `along` how much of it there is (mm). By `aside` (mm) its places may be off, and by
    `missed` its length.
    """

    corners: Points
    centre: Points | None = None
    radius: float = 0.0
    sweep: float = 0.0
    curve: Curve | None = None
    along: float = 0.0
    aside: float = 0.0
    missed: float = 0.0

    @property
    def closed(self) -> bool:
        return bool(np.linalg.norm(self.corners[0] - self.corners[-1]) < SAME_PLACE)

    @property
    def straight(self) -> bool:
        if self.curve is not None:
            return isinstance(self.curve.pieces[0], Straight)
        if self.centre is not None:
            return False
        along = self.corners[-1] - self.corners[0]
        size = float(np.linalg.norm(along))
        if size < SAME_PLACE:
            return False
        off = np.linalg.norm(cross_product(self.corners - self.corners[0], along / size), axis=1)
        return bool(off.max() < max(SAME_PLACE, 1e-7 * size))

    @property
    def length(self) -> float:
        """mm; of an arc or a known curve its own, not that of its chords."""
        if self.curve is not None:
            return self.along
        if self.centre is not None:
            return self.radius * self.sweep
        return float(np.linalg.norm(np.diff(self.corners, axis=0), axis=1).sum())


def edge_of(part: Part, item: int, piece: int) -> Edge:
    """The whole edge to which a drawn piece of an item belongs, where the item stands."""
    drawn = drawn_edges(part, item)
    if not 0 <= piece < len(drawn.edges):
        raise Failure(f"item {item} of `{part.name}` has no edge {piece}")
    return drawn.edge(piece)


class _Chain(NamedTuple):
    """Drawn pieces that go on smoothly from each other: their corners (n + 1, 3) in order, the curves on which they lie, at
    which number the picked one is, and whether the last goes on into the first. By `aside` (mm) they may lie beside those, and
    by `ends` be off along them where they end."""

    corners: Points
    under: Sequence[Curve | None]
    at: int
    closed: bool
    aside: float = 0.0
    ends: tuple[float, float] = (0.0, 0.0)


class _Drawn(Struct, eq=False, dict=True):
    """What is drawn of an item where it stands: its pieces (k, 2, 3), the true curves that are known of it, and how other arcs
    are told from their corners."""

    edges: Points
    true: TrueEdges
    arc: Callable[[Points], Edge | None]

    def chain(self, piece: int) -> _Chain:
        raise NotImplementedError

    def edge(self, piece: int) -> Edge:
        """The edge to which a piece belongs: those that go on smoothly from it, as far as they stand for the same curve."""
        chain = self.chain(piece)
        known = standing_for(chain.under, chain.closed)
        own = _same_around(known, chain.at, chain.closed)
        corners = np.array([chain.corners[own[0]], *(chain.corners[one + 1] for one in own)])
        curve = known[chain.at] or self.true.of_balls(corners)
        part = stretch(curve, corners) if curve else by_itself(corners, chain.aside)
        part = part.ending(
            chain.ends[0] if own[0] == 0 else 0.0,
            chain.ends[1] if own[-1] == len(known) - 1 else 0.0,
        )
        if curve:
            return _edge_on(curve, part)
        edge = self.arc(corners) or Edge(corners)
        return replace(edge, aside=chain.aside, missed=part.missed)


def _same_around(known: Sequence[Curve | None], at: int, closed: bool) -> list[int]:
    """The numbers of those beside each other that are the same as one, and it, in order; round the end where it is closed."""
    count = len(known)
    if closed and all(one is known[at] for one in known):
        return [*range(count)]
    low = high = at
    while (closed or low > 0) and known[low - 1] is known[at]:
        low -= 1
    while (closed or high < count - 1) and known[(high + 1) % count] is known[at]:
        high += 1
    return [one % count for one in range(low, high + 1)]


class _OfSolid(_Drawn, eq=False, dict=True):
    """The edges of a solid: where two of its faces meet, as the language has them (edges.py)."""

    solid: Solid

    @cached_property
    def _every(self) -> list[edges.Edge]:
        return edges.edges_of(self.solid)

    @cached_property
    def _middles(self) -> tuple[Points, Points]:
        """The middles (k, 3) of the pieces of all edges, and of each the number of its edge and its own there (k, 2)."""
        middles = [(one.points[:-1] + one.points[1:]) / 2 for one in self._every]
        numbers = [np.column_stack([np.full(len(some), at), np.arange(len(some))]) for at, some in enumerate(middles)]  # fmt: skip
        return np.concatenate(middles), np.concatenate(numbers)

    def chain(self, piece: int) -> _Chain:
        middles, numbers = self._middles
        away = np.linalg.norm(middles - self.edges[piece].mean(axis=0), axis=1)
        which, at = numbers[int(away.argmin())]
        edge = self._every[which]
        pieces = np.stack([edge.points[:-1], edge.points[1:]], axis=1)
        aside = edge.aside if len(pieces) > 1 else 0.0
        under, ends = self.true.under(pieces), edge.of.ends_missed(edge)
        return _Chain(edge.points, under, int(at), edge.closed, aside, ends)


class _OfCurves(_Drawn, eq=False, dict=True):
    """The edges of a curve, or of a region, of which what is not known may lie `aside` (mm)."""

    aside: float = 0.0

    @cached_property
    def _places(self) -> Points:
        return np.round(self.edges, 4)

    @cached_property
    def _meeting(self) -> dict[tuple[float, ...], list[int]]:
        """The pieces by the places of their ends."""
        found: dict[tuple[float, ...], list[int]] = {}
        for index, end in itertools.product(range(len(self.edges)), (0, 1)):
            found.setdefault(tuple(self._places[index, end]), []).append(index)
        return found

    def chain(self, piece: int) -> _Chain:
        before, after = self._going_on(piece, 0, {piece}), []
        closed = bool(before) and (piece, 0) in self._smooth(*before[-1])
        if not closed:
            after = self._going_on(piece, 1, {piece, *(one for one, _ in before)})
        chain = [*((one, 1 - far) for one, far in before[::-1]), (piece, 1), *after]
        first, end = chain[0]
        corners = np.array(
            [self.edges[first, 1 - end], *(self.edges[one, to] for one, to in chain)]
        )
        aside = self.aside if len(chain) > 1 else 0.0
        return _Chain(corners, [self._under[one] for one, _ in chain], len(before), closed, aside)

    def _going_on(self, piece: int, end: int, used: set[int]) -> list[tuple[int, int]]:
        """The pieces that go on from an end of a piece, where just one goes on from the last, each with its far end."""
        found: list[tuple[int, int]] = []
        while True:
            smooth = [one for one in self._smooth(piece, end) if one[0] not in used]
            if len(smooth) != 1:
                return found
            piece, end = smooth[0]
            used.add(piece)
            found.append((piece, end))

    def _smooth(self, piece: int, end: int) -> list[tuple[int, int]]:
        """The pieces that go on without a corner from an end of another, and which of their ends is the far one. Those that
        stand for one curve go on, however coarsely it is drawn."""
        here = tuple(self._places[piece, end])
        before = self.edges[piece, end] - self.edges[piece, 1 - end]
        found = []
        for index in self._meeting[here]:
            far = 1 if tuple(self._places[index, 0]) == here else 0
            after = self.edges[index, far] - self.edges[index, 1 - far]
            one_curve = self._under[index] is not None and self._under[index] is self._under[piece]
            if index != piece and (one_curve or _bends_little(before, after, self.true.limit)):
                found.append((index, far))
        return found

    @cached_property
    def _under(self) -> list[Curve | None]:
        return self.true.under(self.edges)


def drawn_edges(part: Part, item: int) -> _Drawn:
    for group in part.groups:
        found = np.flatnonzero(group.items == item)
        if len(found):
            solid = Solid(group.shape, group.matrices[found[0]])
            rule = _bar_round if isinstance(solid.shape.form, Swept) else _arc_touched
            drawn = _placed(solid.shape.drawing.edges, solid.matrix)
            return _OfSolid(drawn, true_edges(solid), rule, solid)
    if item < len(part.regions):
        region = part.regions[item]
        drawn = _placed(region.drawing.edges, region.frame)
        return _OfCurves(drawn, true_edges(region), _arc_touched, region.bounds_missed)
    if item < len(part.curves):
        curve = part.curves[item]
        return _OfCurves(_placed(curve.drawing.edges, IDENTITY), true_edges(curve), _arc_through)
    raise Failure(f"`{part.name}` has no item {item}")


def _placed(edges: Any, matrix: Matrix) -> Points:
    return applied(matrix, edges.astype(float).reshape(-1, 3)).reshape(-1, 2, 3)


def _bends_little(before: Points, after: Points, limit: float) -> bool:
    """Whether one piece goes on into another as sides of something round do: these miss it by no more than a limit, and a
    side of length s that turns by a misses its arc by s a / 8."""
    turn = float(np.arctan2(np.linalg.norm(cross_product(before, after)), before @ after))
    side = min(float(np.linalg.norm(before)), float(np.linalg.norm(after)))
    return turn < CREASE and side * turn / 8 < limit


def _edge_on(curve: Curve, part: Stretch) -> Edge:
    """The part of a curve that is drawn, its ends those of the curve itself."""
    first = curve.pieces[0]
    if isinstance(first, Arc) and first.is_circle:
        sweep = part.length / first.radius
        return Edge(part.corners, first.centre, first.radius, sweep, curve, part.length, missed=part.missed)  # fmt: skip
    return Edge(part.corners, curve=curve, along=part.length, missed=part.missed)


def _arc_touched(corners: Points) -> Edge | None:
    found = arc_touched(corners)
    return None if found is None else Edge(corners, found.centre, found.radius, found.sweep)


def _arc_through(corners: Points) -> Edge | None:
    """The arc on which all corners lie, if there is one. The centre of the circle through three
    points in space: Weisstein, Circumcircle."""
    if len(corners) < 4:
        return None
    a, b, c = corners[0], corners[len(corners) // 3], corners[2 * len(corners) // 3]
    ab, ac = b - a, c - a
    normal = cross_product(ab, ac)
    square = float(normal @ normal)
    if square < ROUNDING * float(ab @ ab) * float(ac @ ac) or square == 0:
        return None
    to_centre = (cross_product(normal, ab) * (ac @ ac) + cross_product(ac, normal) * (ab @ ab)) / (
        2 * square
    )
    radius = float(np.linalg.norm(to_centre))
    centre = a + to_centre
    off_circle = np.abs(np.linalg.norm(corners - centre, axis=1) - radius)
    off_plane = np.abs((corners - centre) @ (normal / math.sqrt(square)))
    if max(off_circle.max(), off_plane.max()) > ROUND * radius:
        return None
    chords = np.linalg.norm(np.diff(corners, axis=0), axis=1)
    return Edge(corners, centre, radius, float(2 * np.arcsin(np.minimum(chords / 2 / radius, 1)).sum()))  # fmt: skip


def _bar_round(corners: Points) -> Edge | None:
    """The circle as large as the polygon of corners, which the end of a round bar is."""
    edge = _arc_through(corners)
    if edge is None or not edge.closed:
        return edge
    step = 2 * math.pi / (len(corners) - 1)
    return replace(edge, radius=edge.radius * math.sqrt(math.sin(step) / step))
