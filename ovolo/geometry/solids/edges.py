"""Edges of solids, rounded and bevelled.

Along each edge that is chosen runs a cutter (of a corner that juts in: a filling), whose section
lies between both faces and the arc tangent to them. Sections stand in the planes that halve the
bends of an edge, and at its ends in the planes of the faces there. Where three edges of a corner
are rounded alike, a ball rounds the corner.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import cached_property

import manifold3d
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import CREASE, triangulated
from ovolo.geometry.meshes.skin import skinned
from ovolo.geometry.same import ROUNDING, SAME_SHARE
from ovolo.geometry.solids.edge_profile import Finish
from ovolo.geometry.solids.solid import Solid, in_space, manifold_of, shape_made
from ovolo.geometry.solids.true_edges import length_along, true_edges
from ovolo.geometry.tolerance import segments_for
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure

Indices = NDArray[np.int64]

_BEND = math.radians(31)
"""Pieces of an edge that turn by less go on as one edge: a circle has 24 chords or more."""

_FLATTEST = 0.05
"""The sine of the angle between faces, or of what is left of it to half a turn, below which an edge is not doubted further."""

_FADING = 1.5 * CREASE
"""Where faces turn by less, an edge may go on or end by how they are divided."""

_NEIGHBOURS = 12
"""So many flat sides lie smoothly beside one of them, or next to those, at most, that stands for a piece of something round."""

_AIR = 1e-4
"""mm by which a cutter stands out of what it cuts, so that no skin is left."""


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
    of: _Edges

    @property
    def closed(self) -> bool:
        return bool(self.corners[0] == self.corners[-1])

    @property
    def length(self) -> float:
        """mm; of arcs and other known curves their own, not that of their chords."""
        return self._measured[0]

    @property
    def missed(self) -> float:
        """By how much (mm) that may be off."""
        return self._measured[1]

    @property
    def aside(self) -> float:
        """How far (mm) it may lie beside its place: where two faces meet at an angle, one that misses what it stands for
        moves their edge by that over the sine."""
        return self.of.true.misses / max(float(np.sin(self.angles).min()), _FLATTEST)

    @cached_property
    def _measured(self) -> tuple[float, float]:
        ends = self.of.ends_missed(self)
        if len(self.lengths) == 1 and not any(ends):
            return float(self.lengths[0]), 0.0
        under = [self.of.under[piece] for piece in self.pieces]
        return length_along(self.of.true, self.points, under, self.closed, self.aside, ends)

    @property
    def middle(self) -> Points:
        """Its centre where it is closed, however it is divided; otherwise the place halfway along it."""
        if self.closed:
            between = (self.points[:-1] + self.points[1:]) / 2
            centre: Points = self.lengths @ between / self.lengths.sum()
            return centre
        where = np.concatenate([[0.0], np.cumsum(self.lengths)])
        half = where[-1] / 2
        return np.array([np.interp(half, where, self.points[:, k]) for k in range(3)])

    @property
    def along(self) -> Points:
        """From its start to its end, of length 1; square to a closed one."""
        if self.closed:
            out = self.points[:-1] - self.middle
            normal = np.sum(cross_product(out, np.roll(out, -1, axis=0)), axis=0)
        else:
            normal = self.points[-1] - self.points[0]
        unit: Points = normal / (np.linalg.norm(normal) or 1.0)
        return unit

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
    return _Edges(solid).edges


class _Edges:
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
        self.group = _parted(self.smooth, len(triangles))
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
        on smoothly from them. A side with many of these is a face of its own, and as it is."""
        ways = self.mesh.corners[self.ends[:, 1]] - self.mesh.corners[self.ends[:, 0]]
        ways = ways / np.linalg.norm(ways, axis=1)[:, None]
        side, normals = self._flat_sides
        pairs = self._side_by_side
        found = np.zeros(len(self.ends))
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
        side = _parted(self.smooth[alike], len(self.normals))
        return side, self.normals[np.unique(side, return_index=True)[1]]

    def ends_missed(self, edge: Edge) -> tuple[float, float]:
        """By how much (mm) each end of an edge may be off along it."""
        if not self.true.misses or edge.closed:
            return 0.0, 0.0
        first, last = (self._end_missed(int(edge.pieces[at]), int(edge.corners[at])) for at in (0, -1))  # fmt: skip
        return first, last

    def _end_missed(self, piece: int, corner: int) -> float:
        """The same of one end, at a corner: as the three faces that meet there may lie beside what they stand for, and at
        other angles. An edge that fades, where its faces turn by less, ends anywhere."""
        others = [one for one in self._meeting[corner] if one != piece]
        alike = float(dot_product(self.left[piece], self.right[piece]))
        if not others or alike > math.cos(_FADING):
            return math.inf
        own, there = self.sides[piece], self.sides[others].ravel()
        third = ~np.isin(there, own)
        normals = np.stack([self.left[others], self.right[others]], axis=1).reshape(-1, 3)[third]
        way = self.mesh.corners[self.ends[piece, 1]] - self.mesh.corners[self.ends[piece, 0]]
        steep = np.abs(normals @ way) / np.linalg.norm(way)
        least = max(float(steep.min(initial=1.0)), _FLATTEST)
        beside = 0.0
        if not self._is_flat[own].all():
            sine = max(math.sqrt(max(1 - alike**2, 0.0)), _FLATTEST)
            beside = math.sqrt(1 - least**2) / sine
        missed = beside + (not self._is_flat[there[third]].all())
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
    def _is_flat(self) -> NDArray[np.bool_]:
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


def _parted(pairs: Indices, count: int) -> Indices:
    """In which group each of some things is (count,), of which pairs (k, 2) belong together."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    joined = coo_array((np.ones(len(pairs)), pairs.T), shape=(count, count))
    _, group = connected_components(joined, directed=False)
    return np.asarray(group, dtype=np.int64)


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


# --- finishing ---


def finished_edges(
    solid: Solid, finish: Finish, wanted: Callable[[Edge], bool] | None = None
) -> Solid:
    """A solid with edges rounded or bevelled: all, or those wanted. Raises Failure where none is
    wanted, and where the size does not fit, with the largest that does and the place."""
    if finish.is_none:
        return solid
    found = _Edges(solid)
    chosen = [edge for edge in found.edges if wanted is None or wanted(edge)]
    if not chosen:
        raise Failure(
            f"none of the {len(found.edges)} edges of this solid is meant", "look at the condition"
        )
    _refuse_too_large(found, chosen, finish)
    places = [edge.points for edge in chosen]
    key = digest("edges", solid.key, finish, *places)

    def make() -> manifold3d.Manifold:
        made_once: _Made = {}
        cutters, fillings = (
            [_along(found, edge, finish, made_once) for edge in chosen if edge.convex == convex]
            for convex in (True, False)
        )
        if finish.form == "round":
            cutters += _corners(found, chosen, finish.size)
        made = in_space(solid)
        if fillings:
            made = manifold3d.Manifold.batch_boolean([made, *fillings], manifold3d.OpType.Add)
        if cutters:
            made = manifold3d.Manifold.batch_boolean([made, *cutters], manifold3d.OpType.Subtract)
        return made

    return Solid(shape_made(key, make, "rounding these edges", made_of=[solid]))


def _setback(finish: Finish, angle: float) -> float:
    """How far from the edge the finish begins on either face."""
    if finish.form == "bevel":
        return finish.size
    half = (angle if angle < math.pi else 2 * math.pi - angle) / 2
    return finish.size / math.tan(half)


def _refuse_too_large(found: _Edges, chosen: Sequence[Edge], finish: Finish) -> None:
    """Looks from each piece of an edge across both faces: what it takes must lie before the next
    edge there, and before half the way where that is finished, too."""
    rooms = _Rooms(found, chosen)
    reach = 2 * max(_setback(finish, edge.angle) for edge in chosen)
    fitting = rooms.sizes(chosen, finish, reach) >= finish.size * (1 - SAME_SHARE)
    tight = [edge for edge, fits in zip(chosen, fitting, strict=True) if not fits]
    if not tight:
        return
    sizes = rooms.sizes(tight, finish, math.inf)
    least = int(np.argmin(sizes))
    where = (tight[least].points[0] + tight[least].points[1]) / 2
    place = ", ".join(f"{x:.6g} mm" for x in where)
    what = "a radius" if finish.form == "round" else "a bevel"
    raise Failure(
        f"{what} of {finish.size:.6g} mm does not fit the edge at ({place})",
        f"the largest that fits is {sizes[least]:.6g} mm",
    )


class _Rooms:
    """How far faces go on from the pieces of their edges."""

    def __init__(self, found: _Edges, chosen: Sequence[Edge]) -> None:
        from scipy.spatial import cKDTree

        corners = found.mesh.corners
        self.ends, self.groups = found.ends, found.sides
        self.points = corners[self.ends]
        taken = np.concatenate([np.stack([e.corners[:-1], e.corners[1:]], axis=1) for e in chosen])
        self.taken = np.isin(_numbered(self.ends, len(corners)), _numbered(taken, len(corners)))
        lengths = np.linalg.norm(np.diff(self.points, axis=1)[:, 0], axis=1)
        # The few long ones are always looked at, so that the others can be looked for closely.
        self.usual = 4 * float(np.median(lengths))
        self.long = np.flatnonzero(lengths > self.usual)
        self.short = np.flatnonzero(lengths <= self.usual)
        self.tree = cKDTree(self.points[self.short].mean(axis=1))

    def sizes(self, edges: Sequence[Edge], finish: Finish, reach: float) -> Points:
        """The largest size that fits each edge; only what lies within reach of it is looked at."""
        shares = np.array([_setback(finish, edge.angle) / finish.size for edge in edges])
        found = np.full(len(edges), math.inf)
        rows = _Pieces.of(edges)
        looked_at = len(self.long) if math.isfinite(reach) else len(self.ends)
        step = min(_MOST_PAIRS // max(looked_at, 1) + 1, _MOST_ROWS)
        for at in range(0, len(rows.owners), step):
            some = rows.between(at, at + step)
            which, others = self._near(some, reach)
            own = self.ends[others][:, :, None] == some.corners[which][:, None, :]
            apart = ~own.any(axis=(1, 2))  # its neighbours touch it
            which, others = which[apart], others[apart]
            for face, across in enumerate(some.across):
                there = (self.groups[others] == some.groups[which, face, None]).any(axis=1)
                mine, theirs = which[there], others[there]
                rooms = self._rooms(some, mine, theirs, across)
                owners = some.owners[mine]
                np.minimum.at(found, owners, rooms / shares[owners])
        return found

    def _near(self, some: _Pieces, reach: float) -> tuple[Indices, Indices]:
        """Pairs of pieces and of those that may lie within reach of them."""
        count = len(some.owners)
        every = self.long if math.isfinite(reach) else np.arange(len(self.ends))
        which, others = np.repeat(np.arange(count), len(every)), np.tile(every, count)
        if not math.isfinite(reach) or not len(self.short):
            return which, others
        middles = some.starts + some.ways * some.lengths[:, None] / 2
        near = self.tree.query_ball_point(middles, some.lengths / 2 + reach + self.usual / 2)
        found = np.repeat(np.arange(count), [len(one) for one in near])
        close = self.short[np.concatenate([np.array(one, dtype=np.int64) for one in near])]
        return np.concatenate([which, found]), np.concatenate([others, close])

    def _rooms(self, some: _Pieces, which: Indices, others: Indices, across: Points) -> Points:
        """How far it is, square to pieces of an edge and on one face, to others there; infinite
        where they do not lie beside each other."""
        offsets = self.points[others] - some.starts[which][:, None]
        x = np.einsum("kij,kj->ki", offsets, across[which])
        t = np.einsum("kij,kj->ki", offsets, some.ways[which])
        back = (t[:, 0] > t[:, 1])[:, None]
        x, t = np.where(back, x[:, ::-1], x), np.where(back, t[:, ::-1], t)
        length = some.lengths[which]
        over = (t[:, 1] >= SAME_SHARE * length) & (t[:, 0] <= length * (1 - SAME_SHARE))
        spans = t[:, 1:] - t[:, :1]
        inside = np.clip(np.column_stack([np.zeros(len(length)), length]), t[:, :1], t[:, 1:])
        shares = np.where(spans > ROUNDING, (inside - t[:, :1]) / np.maximum(spans, ROUNDING), [[0.0, 1.0]])  # fmt: skip
        nearest = (x[:, :1] + shares * (x[:, 1:] - x[:, :1])).min(axis=1)
        halved = np.where(self.taken[others], nearest / 2, nearest)
        found: Points = np.where(over & (nearest > SAME_SHARE), halved, math.inf)
        return found


_MOST_PAIRS = 1_000_000
_MOST_ROWS = 4_000
"""So many pairs of pieces, and pieces, are looked at together."""


class _Pieces(Struct, frozen=True, eq=False):
    """The pieces (k of them) of some edges: where each begins, which way it runs and how far, the
    ways across both its faces and their groups (k, 2), its corners (k, 2), the number of its edge."""

    starts: Points
    ways: Points
    lengths: Points
    across: tuple[Points, Points]
    groups: Indices
    corners: Indices
    owners: Indices

    @classmethod
    def of(cls, edges: Sequence[Edge]) -> _Pieces:
        ways = np.concatenate([edge.ways for edge in edges])
        left, right = (np.concatenate(sides) for sides in zip(*((e.left, e.right) for e in edges), strict=True))  # fmt: skip
        return cls(
            np.concatenate([edge.points[:-1] for edge in edges]),
            ways,
            np.concatenate([edge.lengths for edge in edges]),
            (cross_product(left, ways), -cross_product(right, ways)),
            np.concatenate([edge.groups for edge in edges]),
            np.concatenate([np.column_stack([e.corners[:-1], e.corners[1:]]) for e in edges]),
            np.repeat(np.arange(len(edges)), [len(edge.left) for edge in edges]),
        )

    def between(self, a: int, b: int) -> _Pieces:
        left, right = self.across
        return _Pieces(
            self.starts[a:b], self.ways[a:b], self.lengths[a:b], (left[a:b], right[a:b]),
            self.groups[a:b], self.corners[a:b], self.owners[a:b],
        )  # fmt: skip


def _numbered(ends: Indices, count: int) -> Indices:
    """One number (k,) for the two ends of each piece (k, 2), whichever comes first."""
    found: Indices = ends.min(axis=1) * count + ends.max(axis=1)
    return found


def _sections(edge: Edge, finish: Finish) -> Points:
    """The sections of a cutter or a filling, the edge at the origin, for each piece of it
    (k, n, 3): along the arc (or the chord) from one face to the other, and back round the edge."""
    angles = edge.angles
    turn = 1.0 if edge.convex else -1.0
    set_in = np.array([_setback(finish, float(angle)) for angle in angles])[:, None]
    # Into either face, away from the edge.
    p = set_in * cross_product(edge.left, edge.ways)
    q = -set_in * cross_product(edge.right, edge.ways)
    inner = [p, q]
    if finish.form == "round":
        centre = p - turn * finish.size * edge.left
        u, w = p - centre, q - centre
        sweep = np.arccos(np.clip(dot_product(u, w) / finish.size**2, -1, 1))[:, None]
        v = (w - np.cos(sweep) * u) / np.sin(sweep)
        bend = abs(math.pi - edge.angle)
        steps = max(math.ceil(segments_for(finish.size) * bend / (2 * math.pi)), 4)
        inner = [centre + np.cos(s * sweep) * u + np.sin(s * sweep) * v for s in np.linspace(0, 1, steps + 1)]  # fmt: skip
    lift = turn * _AIR
    flatness = np.maximum(1 + np.sum(edge.left * edge.right, axis=1, keepdims=True), 0.05)
    tip = lift * (edge.left + edge.right) / flatness
    found: Points = np.stack([*inner, q + lift * edge.right, tip, p + lift * edge.left], axis=1)
    return found


_Made = dict[tuple[bool, bytes], manifold3d.Manifold]
"""Cutters and fillings, their first corner at the origin, by what they are made of."""


def _along(found: _Edges, edge: Edge, finish: Finish, made_once: _Made) -> manifold3d.Manifold:
    """The cutter or filling along an edge; one that is like another is that one, moved."""
    sections = _sections(edge, finish)
    before, after = sections, np.roll(sections, -1, axis=0)
    onward = np.roll(edge.ways, -1, axis=0)
    normals = edge.ways + onward
    # In the plane that halves a bend, what comes and what goes on meet.
    rings = (_slid(before, edge.ways, normals) + _slid(after, onward, normals)) / 2
    if edge.closed:
        rings = edge.points[1:, None] + rings
    else:
        first = (
            _slid(sections[:1], edge.ways[:1], _end_plane(found, edge, True)) - _AIR * edge.ways[0]
        )
        last = (
            _slid(sections[-1:], edge.ways[-1:], _end_plane(found, edge, False))
            + _AIR * edge.ways[-1]
        )
        rings = edge.points[:, None] + np.concatenate([first, rings[:-1], last])
    flat = _flattened(sections[0], edge.ways[0])
    if _signed(flat) < 0:
        rings, flat = rings[:, ::-1], flat[::-1]
    place = rings[0, 0].copy()
    rings = rings - place
    key = edge.closed, (np.round(rings, 9) + 0.0).tobytes()
    if key not in made_once:
        cap = None if edge.closed else triangulated([flat])
        made_once[key] = manifold_of(skinned(rings, [len(flat)], cap, cap))
    return made_once[key].translate(tuple(place))


def _slid(sections: Points, ways: Points, normals: Points) -> Points:
    """Sections (k, n, 3) slid along the edge into planes through their ends."""
    normals = np.broadcast_to(normals, ways.shape)
    down = dot_product(ways, normals)
    down = np.where(
        np.abs(down) < SAME_SHARE, 1.0, down
    )  # of an open edge's last, which is not used
    off = np.einsum("knj,kj->kn", sections, normals) / down[:, None]
    slid: Points = sections - off[..., None] * ways[:, None]
    return slid


def _flattened(section: Points, way: Points) -> Points:
    """A section in its own plane, seen along the way."""
    x = section[0] / np.linalg.norm(section[0])
    y = cross_product(way, x)
    return np.column_stack([section @ x, section @ y])


def _signed(ring: Points) -> float:
    x, y = ring.T
    return float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)))


def _end_plane(found: _Edges, edge: Edge, at_start: bool) -> Points:
    """The plane in which an edge ends: that of the face across its end, if there is one that is
    not nearly along it; otherwise square to it."""
    corner = edge.corners[0 if at_start else -1]
    groups = edge.groups[0 if at_start else -1]
    way: Points = edge.ways[0 if at_start else -1]
    touching = np.flatnonzero(np.any(found.mesh.triangles == corner, axis=1))
    others = [t for t in touching if found.group[t] not in groups]
    if others:
        normal: Points = np.sum(found.normals[others], axis=0)
        normal = normal / (np.linalg.norm(normal) or 1.0)
        if abs(float(normal @ way)) > 0.2:
            return normal
    return way


_End = tuple[Points, Points, Points]
"""The way in which an edge goes from a corner, and the outward directions of both faces there."""


def _corners(found: _Edges, chosen: Sequence[Edge], radius: float) -> list[manifold3d.Manifold]:
    """Where three straight edges that jut out are rounded at a corner, what a ball leaves of it."""
    at: dict[int, list[_End]] = {}
    for edge in chosen:
        if not edge.closed:
            for end, way in ((0, edge.ways[0]), (-1, -edge.ways[-1])):
                faces = edge.left[end], edge.right[end]
                at.setdefault(int(edge.corners[end]), []).append((way, *faces))
    pieces = []
    for corner, ends in at.items():
        if len(ends) == 3:
            piece = _corner(found.mesh.corners[corner], ends, radius)
            if piece is not None:
                pieces.append(piece)
    return pieces


def _corner(place: Points, ends: Sequence[_End], radius: float) -> manifold3d.Manifold | None:
    normals: list[Points] = []
    for _, *faces in ends:
        for normal in faces:
            if all(float(normal @ known) < 1 - 1e-6 for known in normals):
                normals.append(normal)
    if len(normals) != 3 or any(float(way @ normal) > 1e-6 for way, *_ in ends for normal in normals):  # fmt: skip
        return None  # it juts in somewhere, or more faces meet there
    planes = np.array(normals)
    if abs(float(np.linalg.det(planes))) < 1e-6:
        return None
    centre = place + np.linalg.solve(planes, np.full(3, -radius))
    feet = [centre + radius * normal for normal in planes]
    on_edges = [place + float((centre - place) @ way) * way for way, *_ in ends]
    block = np.array([place, centre, *feet, *on_edges])
    block = centre + (block - centre) * (1 + _AIR / radius)
    count = max(segments_for(radius), 48)
    ball = manifold3d.Manifold.sphere(radius, count).translate(tuple(centre))
    return manifold3d.Manifold.hull_points(np.ascontiguousarray(block)) - ball
