"""Edges of solids: where two faces meet at an angle; how long they are, at what angle, and how far that may be off."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.groups import groups_of
from ovolo.geometry.meshes.mesh import CREASE
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.solids.true_edges import Stretch, length_along, true_edges
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product

Indices = NDArray[np.int64]

_BEND = math.radians(31)
"""Pieces of an edge that turn by less go on as one edge: a circle has 24 chords or more."""

_FLATTEST = 0.05
"""The sine of the angle between faces, or of what is left of it to half a turn, below which an edge is not doubted further."""

_FADING = 1.5 * CREASE
"""Where faces turn by less, an edge may go on or end by how they are divided."""

_NEIGHBOURS = 12
"""So many flat sides lie smoothly beside one of them, or next to those, at most, that stands for a piece of something round."""


class Edge(Struct, frozen=True, eq=False, dict=True):
    """Pieces (k of them) that go on smoothly from each other. `corners` are the numbers of their ends
    in order, the first again at the end where it is closed, and `points` (k + 1, 3) their places.
    `left` and `right` (k, 3) are the outward directions of both faces: seen from outside, the first
    lies to the left of the way; `groups` (k, 2) tells which faces they are, `pieces` (k,) which of
    all those of the solid."""

    points: Points
    corners: Indices
    left: Points
    right: Points
    groups: Indices
    pieces: Indices
    of: Edges

    @property
    def closed(self) -> bool:
        return bool(self.corners[0] == self.corners[-1])

    @property
    def length(self) -> float:
        """mm; of arcs and other known curves their own, not that of their chords."""
        return self._measured.length

    @property
    def missed(self) -> float:
        """By how much (mm) that may be off."""
        return self._measured.missed

    @property
    def aside(self) -> float:
        """How far (mm) it may lie beside its place: where two faces meet at an angle, one that misses what it stands for
        moves their edge by that over the sine."""
        return self.of.true.misses / max(float(np.sin(self.angles).min()), _FLATTEST)

    @cached_property
    def _measured(self) -> Stretch:
        ends = self.of.ends_missed(self)
        if len(self.lengths) == 1 and not any(ends):
            return Stretch(self.points, float(self.lengths[0]))
        under = [self.of.under[piece] for piece in self.pieces]
        return length_along(self.of.true, self.points, under, self.closed, self.aside, ends)

    @property
    def middle(self) -> Points:
        """Its centre where it is closed, however it is divided; otherwise the place halfway along it."""
        if self.closed:
            between = (self.points[:-1] + self.points[1:]) / 2
            centre: Points = self.lengths @ between / self.lengths.sum()
            return centre
        return self._measured.place(self.length / 2)

    @property
    def middle_missed(self) -> float:
        """By how much (mm) that may be off: as it may lie beside its place, and its ends be off along it."""
        return self._beside + self.missed / 2

    @property
    def _beside(self) -> float:
        bends = not self.of.is_flat[self.of.sides[self.pieces]].all()
        return self.aside if bends and not self._measured.is_known else 0.0

    @property
    def along(self) -> Points:
        """From its start to its end, of length 1; square to a closed one."""
        if self.closed:
            out = self.points[:-1] - self.middle
            normal = np.sum(cross_product(out, np.roll(out, -1, axis=0)), axis=0)
        else:
            normal = self._way
        unit: Points = normal / (np.linalg.norm(normal) or 1.0)
        return unit

    @property
    def along_missed(self) -> float:
        """By how much (radians) that may be off: as each of its ends may be."""
        across = self.length / math.pi if self.closed else float(np.linalg.norm(self._way))
        return min((2 * self._beside + self.missed) / (across or 1.0), 2.0)

    @property
    def _way(self) -> Points:
        """From its start to its end."""
        start, end = self._measured.ends
        return end - start

    @cached_property
    def lengths(self) -> Points:
        """Of its pieces."""
        found: Points = np.linalg.norm(np.diff(self.points, axis=0), axis=1)
        return found

    @cached_property
    def ways(self) -> Points:
        """The directions of its pieces, (k, 3)."""
        found: Points = np.diff(self.points, axis=0) / self.lengths[:, None]
        return found

    @cached_property
    def angles(self) -> Points:
        """Between both faces through the solid, in radians, by pieces."""
        sines = dot_product(cross_product(self.left, self.right), self.ways)
        cosines = dot_product(self.left, self.right)
        found: Points = math.pi - np.arctan2(sines, cosines)
        return found

    @cached_property
    def angle(self) -> float:
        """Between both faces through the solid, in radians: below 180° where it juts out."""
        return float(self.angles.mean())

    @property
    def angle_missed(self) -> float:
        """By how much (radians) that may be off: a flat side of what is round lies as steep as that only in its middle."""
        return float(self.of.bends[self.pieces].mean()) / 2

    @property
    def convex(self) -> bool:
        return self.angle < math.pi

    @property
    def straight(self) -> bool:
        return len(self.left) == 1 or (
            not self.closed
            and bool(
                np.linalg.norm(self.points[-1] - self.points[0])
                > self.lengths.sum() * (1 - SAME_SHARE)
            )
        )


def edges_of(solid: Solid) -> list[Edge]:
    """The edges of a solid: where its surface turns by more than 20°."""
    return Edges(solid).edges


class Edges:
    """The edges of a mesh, and which triangles lie smoothly beside each other. `ends` (k, 2), `left`,
    `right` (k, 3) and `sides` (k, 2) are those of all pieces: their corners, the outward directions
    of both faces, and the groups of triangles these belong to."""

    def __init__(self, solid: Solid) -> None:
        self.mesh = mesh = solid.mesh
        self.true = true_edges(solid)
        vectors = mesh.area_vectors()
        sizes = np.linalg.norm(vectors, axis=1)
        self.normals = vectors / np.where(sizes > 0, sizes, 1.0)[:, None]
        self._part()
        self.edges = self._chains()

    def _part(self) -> None:
        """Finds the pieces: the sides of triangles at which the surface turns."""
        triangles = self.mesh.triangles.astype(np.int64)
        half = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
        count = len(self.mesh.corners)
        forward = half[:, 0] * count + half[:, 1]
        backward = half[:, 1] * count + half[:, 0]
        order = np.argsort(backward)
        partner = order[np.searchsorted(backward, forward, sorter=order)]
        mine = np.arange(len(half))
        once = mine < partner
        first, second = mine[once] // 3, partner[once] // 3
        cosines = dot_product(self.normals[first], self.normals[second])
        sharp = cosines < math.cos(CREASE)
        self.smooth: Indices = np.column_stack([first[~sharp], second[~sharp]])
        self.group = groups_of(self.smooth, len(triangles))
        self.ends: Indices = half[once][sharp]
        self.left, self.right = self.normals[first[sharp]], self.normals[second[sharp]]
        self.beside: Indices = np.column_stack([first[sharp], second[sharp]])
        self.sides: Indices = self.group[self.beside]

    def _chains(self) -> list[Edge]:
        """The pieces put together to edges."""
        onward = self._onward().tolist()
        ends = self.ends.tolist()
        used = [False] * len(ends)
        found = []
        for start, (first, last) in enumerate(ends):
            if used[start]:
                continue
            used[start] = True
            ahead, last = _followed(start, last, first, onward, ends, used)
            behind, _ = _followed(start, first, last, onward, ends, used)
            pieces = [
                *((piece, not turned) for piece, turned in behind[::-1]),
                (start, False),
                *ahead,
            ]
            found.append(self._edge(*zip(*pieces, strict=True)))
        return found

    def _onward(self) -> Indices:
        """The piece (k, 2) with which an edge goes on smoothly beyond each end of a piece; -1 where
        it does not, or where more than two meet."""
        count, corners = len(self.ends), self.mesh.corners
        at = self.ends.reshape(-1)
        order = np.argsort(at, kind="stable")
        met = np.bincount(at, minlength=len(corners))
        starts = np.cumsum(met) - met
        two = np.flatnonzero(met == 2)
        one, other = order[starts[two]], order[starts[two] + 1]
        far = self.ends[:, ::-1].reshape(-1)
        come, go = corners[two] - corners[far[one]], corners[far[other]] - corners[two]
        across = np.linalg.norm(cross_product(come, go), axis=1)
        smooth = np.arctan2(across, dot_product(come, go)) < _BEND
        found = np.full(2 * count, -1)
        found[one[smooth]], found[other[smooth]] = other[smooth] // 2, one[smooth] // 2
        return found.reshape(-1, 2)

    def _edge(self, pieces: Sequence[int], turned: Sequence[bool]) -> Edge:
        """The edge of pieces in order, of which some run the other way."""
        at, back = np.array(pieces), np.array(turned)[:, None]
        ends = np.where(back, self.ends[at, ::-1], self.ends[at])
        corners = np.append(ends[:, 0], ends[-1, 1])
        left, right = self.left[at], self.right[at]
        return Edge(
            self.mesh.corners[corners],
            corners,
            np.where(back, right, left),
            np.where(back, left, right),
            np.where(back, self.sides[at, ::-1], self.sides[at]),
            at,
            self,
        )

    @cached_property
    def bends(self) -> Points:
        """By how much (radians) the surface turns about each piece (k,) from the flat sides that meet there to those that go
        on smoothly from them; nowhere where these stand for nothing round. A side with many of these is a face of its own, and
        as it is."""
        found = np.zeros(len(self.ends))
        if not self.true.misses:
            return found
        ways = self.mesh.corners[self.ends[:, 1]] - self.mesh.corners[self.ends[:, 0]]
        ways = ways / np.linalg.norm(ways, axis=1)[:, None]
        side, normals = self._flat_sides
        pairs = self._side_by_side
        for own in side[self.beside].T:
            low, high = (np.searchsorted(pairs[:, 0], own, end) for end in ("left", "right"))
            turned = np.zeros(len(own))
            for step in range(_NEIGHBOURS):
                some = np.flatnonzero((low + step < high) & (high - low <= _NEIGHBOURS))
                next_to = normals[pairs[low[some] + step, 1]]
                turns = _turned_about(ways[some], normals[own[some]], next_to)
                turned[some] = np.maximum(turned[some], turns)
            found += turned
        return found

    @cached_property
    def _side_by_side(self) -> Indices:
        """Pairs (k, 2) of flat sides that lie smoothly beside each other, in order; of a single triangle also those next to
        its neighbours, for these lie beside it and not onward."""
        side, normals = self._flat_sides
        pairs = side[np.concatenate([self.smooth, self.smooth[:, ::-1]])]
        pairs = np.unique(pairs[pairs[:, 0] != pairs[:, 1]], axis=0)
        alone = np.bincount(side, minlength=len(normals)) == 1
        first = np.searchsorted(pairs[:, 0], np.arange(len(normals) + 1))
        few = pairs[alone[pairs[:, 0]] & (np.diff(first)[pairs[:, 1]] <= _NEIGHBOURS)]
        counts = np.diff(first)[few[:, 1]]
        onward = np.repeat(first[few[:, 1]] - np.cumsum(counts) + counts, counts) + np.arange(
            counts.sum()
        )
        further = np.column_stack([np.repeat(few[:, 0], counts), pairs[onward, 1]])
        both = np.concatenate([pairs, further])
        return np.asarray(np.unique(both[both[:, 0] != both[:, 1]], axis=0))

    @cached_property
    def _flat_sides(self) -> tuple[Indices, Points]:
        """In which flat side each triangle lies, and which way each of these looks (n, 3)."""
        alike = dot_product(*self.normals[self.smooth.T]) > 1 - SAME_SHARE
        side = groups_of(self.smooth[alike], len(self.normals))
        return side, self.normals[np.unique(side, return_index=True)[1]]

    def ends_missed(self, edge: Edge) -> tuple[float, float]:
        """By how much (mm) each end of an edge may be off along it."""
        if not self.true.misses or edge.closed:
            return 0.0, 0.0
        first, last = (self._end_missed(int(edge.pieces[at]), int(edge.corners[at])) for at in (0, -1))  # fmt: skip
        return first, last

    def _end_missed(self, piece: int, corner: int) -> float:
        """The same of one end, at a corner: as the three faces that meet there may lie beside what they stand for, and at
        other angles. An edge that fades, where a face that bends turns by less, ends anywhere."""
        others = [one for one in self._meeting[corner] if one != piece]
        alike = float(dot_product(self.left[piece], self.right[piece]))
        own, there = self.sides[piece], self.sides[others].ravel()
        bends = not self.is_flat[own].all()
        if bends and (not others or alike > math.cos(_FADING)):
            return math.inf
        third = ~np.isin(there, own)
        normals = np.stack([self.left[others], self.right[others]], axis=1).reshape(-1, 3)[third]
        way = self.mesh.corners[self.ends[piece, 1]] - self.mesh.corners[self.ends[piece, 0]]
        steep = np.abs(normals @ way) / np.linalg.norm(way)
        least = max(float(steep.min(initial=1.0)), _FLATTEST)
        beside = 0.0
        if bends:
            sine = max(math.sqrt(max(1 - alike**2, 0.0)), _FLATTEST)
            beside = math.sqrt(1 - least**2) / sine
        missed = beside + (not self.is_flat[there[third]].all())
        return 2 * self.true.misses * float(missed) / least

    @cached_property
    def _meeting(self) -> dict[int, list[int]]:
        """The pieces that meet at each corner."""
        found: dict[int, list[int]] = {}
        for piece, ends in enumerate(self.ends.tolist()):
            for corner in ends:
                found.setdefault(corner, []).append(piece)
        return found

    @cached_property
    def is_flat(self) -> NDArray[np.bool_]:
        """Of each group of triangles whether all of it looks one way."""
        _, first = np.unique(self.group, return_index=True)
        alike = dot_product(self.normals, self.normals[first[self.group]]) > 1 - SAME_SHARE
        flat = np.ones(len(first), dtype=bool)
        np.logical_and.at(flat, self.group, alike)
        return flat

    @cached_property
    def under(self) -> list[Curve | None]:
        """The curves on which all pieces lie."""
        return self.true.under(self.mesh.corners[self.ends])


def _turned_about(axes: Points, one: Points, other: Points) -> Points:
    """By how much (k,) directions turn about axes (all (k, 3)) from one to another, in radians."""
    across = dot_product(cross_product(one, other), axes)
    level = dot_product(one, other) - dot_product(one, axes) * dot_product(other, axes)
    return np.abs(np.arctan2(across, level))


def _followed(
    piece: int,
    corner: int,
    goal: int,
    onward: list[list[int]],
    ends: list[list[int]],
    used: list[bool],
) -> tuple[list[tuple[int, bool]], int]:
    """The pieces with which an edge goes on from a corner of one, and whether each runs towards that
    corner; up to where it comes round to `goal`. Marks them as used, and tells the last corner."""
    found = []
    while corner != goal:
        piece = onward[piece][ends[piece].index(corner)]
        if piece < 0 or used[piece]:
            break
        used[piece] = True
        a, b = ends[piece]
        found.append((piece, b == corner))
        corner = a if b == corner else b
    return found, corner
