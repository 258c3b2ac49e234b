"""Edges of solids, rounded and bevelled.

Along each edge that is chosen runs a cutter (of a corner that juts in: a filling), whose section
lies between both faces and the arc tangent to them. Sections stand in the planes that halve the
bends of an edge, and at its ends in the planes of the faces there. Where three edges of a corner
are rounded alike, a ball rounds the corner.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.curves.rounds import arc_touched
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import CREASE, Mesh, triangulated
from ovolo.geometry.meshes.skin import skinned
from ovolo.geometry.same import ROUNDING, SAME_SHARE
from ovolo.geometry.solids.finished_extrusion import Finish
from ovolo.geometry.solids.solid import Solid, in_space, manifold_of, shape_made
from ovolo.geometry.tolerance import segments_for
from ovolo.geometry.types import Points
from ovolo.problems import Failure

_BEND = math.radians(31)
"""Pieces of an edge that turn by less go on as one edge: a circle has 24 chords or more."""

_AIR = 1e-4
"""mm by which a cutter stands out of what it cuts, so that no skin is left."""


@dataclass(frozen=True, eq=False)
class Side:
    """A piece of an edge: its ends, the outward directions of both faces, and the groups of
    triangles they belong to. Seen from outside, the first face lies to its left."""

    a: int
    b: int
    left: Points
    right: Points
    groups: tuple[int, int]


@dataclass(frozen=True, eq=False)
class Edge:
    """Pieces that go on smoothly from each other; `corners` are their ends in order, the first
    again at the end where it is closed."""

    sides: tuple[Side, ...]
    points: Points
    corners: tuple[int, ...]

    @property
    def closed(self) -> bool:
        return self.corners[0] == self.corners[-1]

    @cached_property
    def length(self) -> float:
        """mm; of an arc of a circle its own, not that of its chords."""
        arc = arc_touched(self.points)
        return float(self.lengths.sum()) if arc is None else arc.radius * arc.sweep

    @property
    def middle(self) -> Points:
        """Its centre where it is closed; otherwise the place halfway along it."""
        if self.closed:
            centre: Points = self.points[:-1].mean(axis=0)
            return centre
        where = np.concatenate([[0.0], np.cumsum(self.lengths)])
        half = where[-1] / 2
        return np.array([np.interp(half, where, self.points[:, k]) for k in range(3)])

    @property
    def along(self) -> Points:
        """From its start to its end, of length 1; square to a closed one."""
        if self.closed:
            out = self.points[:-1] - self.middle
            normal = np.sum(np.cross(out, np.roll(out, -1, axis=0)), axis=0)
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
    def left(self) -> Points:
        """The outward directions of the face to its left, by pieces."""
        return np.array([side.left for side in self.sides])

    @cached_property
    def right(self) -> Points:
        return np.array([side.right for side in self.sides])

    @cached_property
    def angles(self) -> Points:
        """Between both faces through the solid, in radians, by pieces."""
        sines = np.sum(np.cross(self.left, self.right) * self.ways, axis=1)
        cosines = np.sum(self.left * self.right, axis=1)
        found: Points = math.pi - np.arctan2(sines, cosines)
        return found

    @cached_property
    def angle(self) -> float:
        """Between both faces through the solid, in radians: below 180° where it juts out."""
        return float(self.angles.mean())

    def stretches(self) -> list[Edge]:
        """The edge in stretches of few pieces, which are worked on together."""
        step = 64
        return [
            Edge(self.sides[at : at + step], self.points[at : at + step + 1], self.corners[at : at + step + 1])
            for at in range(0, len(self.sides), step)
        ]  # fmt: skip

    @property
    def convex(self) -> bool:
        return self.angle < math.pi

    @property
    def straight(self) -> bool:
        return len(self.sides) == 1 or (
            not self.closed
            and bool(
                np.linalg.norm(self.points[-1] - self.points[0])
                > self.lengths.sum() * (1 - SAME_SHARE)
            )
        )


def edges_of(solid: Solid) -> list[Edge]:
    """The edges of a solid: where its surface turns by more than 20°."""
    return _Edges(solid.mesh).edges


class _Edges:
    """The edges of a mesh, and which triangles lie smoothly beside each other."""

    def __init__(self, mesh: Mesh) -> None:
        self.mesh = mesh
        vectors = mesh.area_vectors()
        sizes = np.linalg.norm(vectors, axis=1)
        self.normals = vectors / np.where(sizes > 0, sizes, 1.0)[:, None]
        self.places: list[list[float]] = mesh.corners.tolist()
        self.sides = self._sides()
        self.edges = self._chains()

    def _sides(self) -> list[Side]:
        from scipy.sparse import coo_array
        from scipy.sparse.csgraph import connected_components

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
        cosines = np.sum(self.normals[first] * self.normals[second], axis=1)
        sharp = cosines < math.cos(CREASE)
        size = len(triangles)
        smooth = coo_array((np.ones(int((~sharp).sum())), (first[~sharp], second[~sharp])), shape=(size, size))  # fmt: skip
        _, self.group = connected_components(smooth, directed=False)
        return [
            Side(int(a), int(b), self.normals[p], self.normals[q], (int(self.group[p]), int(self.group[q])))
            for (a, b), p, q in zip(half[once][sharp], first[sharp], second[sharp], strict=True)
        ]  # fmt: skip

    def _chains(self) -> list[Edge]:
        at: dict[int, list[int]] = {}
        for index, side in enumerate(self.sides):
            at.setdefault(side.a, []).append(index)
            at.setdefault(side.b, []).append(index)
        used: set[int] = set()
        found = []
        for index in range(len(self.sides)):
            if index not in used:
                found.append(self._chain(index, at, used))
        return found

    def _chain(self, start: int, at: dict[int, list[int]], used: set[int]) -> Edge:
        used.add(start)
        sides, corners = [self.sides[start]], [self.sides[start].a, self.sides[start].b]
        for forwards in (True, False):
            while corners[0] != corners[-1]:
                end, last = (corners[-1], sides[-1]) if forwards else (corners[0], sides[0])
                onward = self._onward(end, last, at, used)
                if onward is None:
                    break
                used.add(onward)
                side = _turned_to(self.sides[onward], end, forwards)
                if forwards:
                    sides.append(side)
                    corners.append(side.b)
                else:
                    sides.insert(0, side)
                    corners.insert(0, side.a)
        return Edge(tuple(sides), self.mesh.corners[corners], tuple(corners))

    def _onward(
        self, corner: int, last: Side, at: dict[int, list[int]], used: set[int]
    ) -> int | None:
        """The piece with which an edge goes on smoothly beyond a corner."""
        if len(at[corner]) != 2:
            return None
        others = (one for one in at[corner] if not self._same(self.sides[one], last))
        other = next(others, None)
        if other is None or other in used:
            return None
        side = self.sides[other]
        far = side.b if side.a == corner else side.a
        before = last.a if last.b == corner else last.b
        return other if self._bend(before, corner, far) < _BEND else None

    def _bend(self, before: int, corner: int, far: int) -> float:
        """By how much the way turns at a corner. (In plain figures: it is asked for every piece.)"""
        (x0, y0, z0), (x1, y1, z1), (x2, y2, z2) = (self.places[at] for at in (before, corner, far))
        ax, ay, az, bx, by, bz = x1 - x0, y1 - y0, z1 - z0, x2 - x1, y2 - y1, z2 - z1
        across = math.hypot(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx)
        return math.atan2(across, ax * bx + ay * by + az * bz)

    @staticmethod
    def _same(one: Side, other: Side) -> bool:
        return {one.a, one.b} == {other.a, other.b}


def _turned_to(side: Side, corner: int, forwards: bool) -> Side:
    """The piece so that it begins (backwards: ends) at a corner."""
    if (side.a if forwards else side.b) == corner:
        return side
    return Side(side.b, side.a, side.right, side.left, side.groups[::-1])


# --- finishing ---


def finished_edges(
    solid: Solid, finish: Finish, wanted: Callable[[Edge], bool] | None = None
) -> Solid:
    """A solid with edges rounded or bevelled: all, or those wanted. Raises Failure where none is
    wanted, and where the size does not fit, with the largest that does and the place."""
    if finish.is_none:
        return solid
    found = _Edges(solid.mesh)
    chosen = [edge for edge in found.edges if wanted is None or wanted(edge)]
    if not chosen:
        raise Failure(
            f"none of the {len(found.edges)} edges of this solid is meant", "look at the condition"
        )
    _refuse_too_large(found, chosen, finish)
    places = [edge.points for edge in chosen]
    key = digest("edges", solid.key, finish, *places)

    def make() -> manifold3d.Manifold:
        cutters = [_along(found, edge, finish) for edge in chosen if edge.convex]
        fillings = [_along(found, edge, finish) for edge in chosen if not edge.convex]
        if finish.form == "round":
            cutters += _corners(found, chosen, finish.size)
        made = in_space(solid)
        if fillings:
            made = manifold3d.Manifold.batch_boolean([made, *fillings], manifold3d.OpType.Add)
        if cutters:
            made = manifold3d.Manifold.batch_boolean([made, *cutters], manifold3d.OpType.Subtract)
        return made

    return Solid(shape_made(key, make, "rounding these edges"))


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
    tight = [
        edge for edge in chosen if rooms.of(edge, finish, reach) < finish.size * (1 - SAME_SHARE)
    ]
    if not tight:
        return
    sizes = [rooms.of(edge, finish, math.inf) for edge in tight]
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

        taken = {frozenset((s.a, s.b)) for edge in chosen for s in edge.sides}
        corners = found.mesh.corners
        self.ends = np.array([(s.a, s.b) for s in found.sides])
        self.points = corners[self.ends]
        self.groups = np.array([s.groups for s in found.sides])
        self.taken = np.array([frozenset((s.a, s.b)) in taken for s in found.sides])
        lengths = np.linalg.norm(np.diff(self.points, axis=1)[:, 0], axis=1)
        # The few long ones are always looked at, so that the others can be looked for closely.
        self.usual = 4 * float(np.median(lengths))
        self.long = np.flatnonzero(lengths > self.usual)
        self.short = np.flatnonzero(lengths <= self.usual)
        self.tree = cKDTree(self.points[self.short].mean(axis=1))

    def of(self, edge: Edge, finish: Finish, reach: float) -> float:
        """The largest size that fits an edge; only what lies within reach of it is looked at."""
        share = _setback(finish, edge.angle) / finish.size
        best = math.inf
        for part in edge.stretches():
            near = self._near(part, reach)
            for normals, which, sign in ((part.left, 0, 1.0), (part.right, 1, -1.0)):
                groups = np.array([side.groups[which] for side in part.sides])
                across = sign * np.cross(normals, part.ways)
                best = min(best, self._room(near, part, groups, across) / share)
        return best

    def _near(self, edge: Edge, reach: float) -> NDArray[np.int64]:
        """The pieces that may lie within reach of an edge."""
        if not math.isfinite(reach):
            return np.arange(len(self.ends))
        low, high = edge.points.min(axis=0), edge.points.max(axis=0)
        wide = float(np.linalg.norm(high - low)) / 2
        near = self.tree.query_ball_point((low + high) / 2, wide + reach + self.usual)
        return np.concatenate([self.short[near], self.long]).astype(np.int64)

    def _room(
        self, others: NDArray[np.int64], edge: Edge, groups: NDArray[np.int64], across: Points
    ) -> float:
        """How far it is, square to the pieces of an edge and on one face, to the nearest of other
        pieces there."""
        corners = np.array([(side.a, side.b) for side in edge.sides])
        own = np.any(self.ends[others][None, :, :, None] == corners[:, None, None, :], axis=(2, 3))
        here = np.any(self.groups[others][None] == groups[:, None, None], axis=2) & ~own
        rows, columns = np.nonzero(here)
        if not len(rows):
            return math.inf
        offsets = self.points[others[columns]] - edge.points[:-1][rows][:, None]
        x = np.einsum("kij,kj->ki", offsets, across[rows])
        t = np.einsum("kij,kj->ki", offsets, edge.ways[rows])
        order = np.argsort(t, axis=1)
        x, t = np.take_along_axis(x, order, axis=1), np.take_along_axis(t, order, axis=1)
        length = edge.lengths[rows]
        over = (t[:, 1] >= SAME_SHARE * length) & (t[:, 0] <= length * (1 - SAME_SHARE))
        x, t, length, taken = x[over], t[over], length[over], self.taken[others[columns[over]]]
        spans = t[:, 1:] - t[:, :1]
        inside = np.clip(np.column_stack([np.zeros(len(length)), length]), t[:, :1], t[:, 1:])
        shares = np.where(spans > ROUNDING, (inside - t[:, :1]) / np.maximum(spans, ROUNDING), [[0.0, 1.0]])  # fmt: skip
        nearest = (x[:, :1] + shares * (x[:, 1:] - x[:, :1])).min(axis=1)
        nearest = np.where(taken, nearest / 2, nearest)[nearest > SAME_SHARE]
        return float(nearest.min()) if len(nearest) else math.inf


def _sections(edge: Edge, finish: Finish) -> Points:
    """The sections of a cutter or a filling, the edge at the origin, for each piece of it
    (k, n, 3): along the arc (or the chord) from one face to the other, and back round the edge."""
    angles = edge.angles
    turn = 1.0 if edge.convex else -1.0
    set_in = np.array([_setback(finish, float(angle)) for angle in angles])[:, None]
    # Into either face, away from the edge.
    p = set_in * np.cross(edge.left, edge.ways)
    q = -set_in * np.cross(edge.right, edge.ways)
    inner = [p, q]
    if finish.form == "round":
        centre = p - turn * finish.size * edge.left
        u, w = p - centre, q - centre
        sweep = np.arccos(np.clip(np.sum(u * w, axis=1) / finish.size**2, -1, 1))[:, None]
        v = (w - np.cos(sweep) * u) / np.sin(sweep)
        bend = abs(math.pi - edge.angle)
        steps = max(math.ceil(segments_for(finish.size) * bend / (2 * math.pi)), 4)
        inner = [centre + np.cos(s * sweep) * u + np.sin(s * sweep) * v for s in np.linspace(0, 1, steps + 1)]  # fmt: skip
    lift = turn * _AIR
    flatness = np.maximum(1 + np.sum(edge.left * edge.right, axis=1, keepdims=True), 0.05)
    tip = lift * (edge.left + edge.right) / flatness
    found: Points = np.stack([*inner, q + lift * edge.right, tip, p + lift * edge.left], axis=1)
    return found


def _along(found: _Edges, edge: Edge, finish: Finish) -> manifold3d.Manifold:
    """The cutter or filling along an edge."""
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
    cap = None if edge.closed else triangulated([flat])
    return manifold_of(skinned(rings, [len(flat)], cap, cap))


def _slid(sections: Points, ways: Points, normals: Points) -> Points:
    """Sections (k, n, 3) slid along the edge into planes through their ends."""
    normals = np.broadcast_to(normals, ways.shape)
    down = np.sum(ways * normals, axis=1)
    down = np.where(
        np.abs(down) < SAME_SHARE, 1.0, down
    )  # of an open edge's last, which is not used
    off = np.einsum("knj,kj->kn", sections, normals) / down[:, None]
    slid: Points = sections - off[..., None] * ways[:, None]
    return slid


def _flattened(section: Points, way: Points) -> Points:
    """A section in its own plane, seen along the way."""
    x = section[0] / np.linalg.norm(section[0])
    y = np.cross(way, x)
    return np.column_stack([section @ x, section @ y])


def _signed(ring: Points) -> float:
    x, y = ring.T
    return float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)))


def _end_plane(found: _Edges, edge: Edge, at_start: bool) -> Points:
    """The plane in which an edge ends: that of the face across its end, if there is one that is
    not nearly along it; otherwise square to it."""
    corner = edge.corners[0 if at_start else -1]
    side = edge.sides[0 if at_start else -1]
    way: Points = edge.ways[0 if at_start else -1]
    touching = np.flatnonzero(np.any(found.mesh.triangles == corner, axis=1))
    others = [t for t in touching if int(found.group[t]) not in side.groups]
    if others:
        normal: Points = np.sum(found.normals[others], axis=0)
        normal = normal / (np.linalg.norm(normal) or 1.0)
        if abs(float(normal @ way)) > 0.2:
            return normal
    return way


def _corners(found: _Edges, chosen: Sequence[Edge], radius: float) -> list[manifold3d.Manifold]:
    """Where three straight edges that jut out are rounded at a corner, what a ball leaves of it."""
    at: dict[int, list[tuple[Points, Side]]] = {}
    for edge in chosen:
        if edge.closed:
            continue
        for corner, side in ((edge.corners[0], edge.sides[0]), (edge.corners[-1], edge.sides[-1])):
            other = side.b if side.a == corner else side.a
            way = found.mesh.corners[other] - found.mesh.corners[corner]
            at.setdefault(corner, []).append((way / np.linalg.norm(way), side))
    pieces = []
    for corner, ends in at.items():
        if len(ends) == 3:
            piece = _corner(found.mesh.corners[corner], ends, radius)
            if piece is not None:
                pieces.append(piece)
    return pieces


def _corner(
    place: Points, ends: Sequence[tuple[Points, Side]], radius: float
) -> manifold3d.Manifold | None:
    normals: list[Points] = []
    for _, side in ends:
        for normal in (side.left, side.right):
            if all(float(normal @ known) < 1 - 1e-6 for known in normals):
                normals.append(normal)
    if len(normals) != 3 or any(float(way @ normal) > 1e-6 for way, _ in ends for normal in normals):  # fmt: skip
        return None  # it juts in somewhere, or more faces meet there
    faces = np.array(normals)
    if abs(float(np.linalg.det(faces))) < 1e-6:
        return None
    centre = place + np.linalg.solve(faces, np.full(3, -radius))
    feet = [centre + radius * normal for normal in faces]
    on_edges = [place + float((centre - place) @ way) * way for way, _ in ends]
    block = np.array([place, centre, *feet, *on_edges])
    block = centre + (block - centre) * (1 + _AIR / radius)
    count = max(segments_for(radius), 48)
    ball = manifold3d.Manifold.sphere(radius, count).translate(tuple(centre))
    return manifold3d.Manifold.hull_points(np.ascontiguousarray(block)) - ball
