"""Edges of solids, rounded and bevelled.

Along each edge that is chosen runs a cutter (of a corner that juts in: a filling), whose section
lies between both faces and the arc tangent to them. Sections stand in the planes that halve the
bends of an edge, and at its ends in the planes of the faces there. Where three edges of a corner
are rounded alike, a ball rounds the corner.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import manifold3d
import numpy as np
from msgspec import Struct

from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import triangulated
from ovolo.geometry.meshes.skin import skinned
from ovolo.geometry.same import ROUNDING, SAME_SHARE
from ovolo.geometry.solids.edge_profile import Finish
from ovolo.geometry.solids.edges import Edge, Edges, Indices
from ovolo.geometry.solids.solid import Solid, in_space, manifold_of, shape_made
from ovolo.geometry.tolerance import segments_for
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure

_AIR = 1e-4
"""mm by which a cutter stands out of what it cuts, so that no skin is left."""


def finished_edges(
    solid: Solid, finish: Finish, wanted: Callable[[Edge], bool] | None = None
) -> Solid:
    """A solid with edges rounded or bevelled: all, or those wanted. Raises Failure where none is
    wanted, and where the size does not fit, with the largest that does and the place."""
    if finish.is_none:
        return solid
    found = Edges(solid)
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


def _refuse_too_large(found: Edges, chosen: Sequence[Edge], finish: Finish) -> None:
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

    def __init__(self, found: Edges, chosen: Sequence[Edge]) -> None:
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


def _along(found: Edges, edge: Edge, finish: Finish, made_once: _Made) -> manifold3d.Manifold:
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


def _end_plane(found: Edges, edge: Edge, at_start: bool) -> Points:
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


def _corners(found: Edges, chosen: Sequence[Edge], radius: float) -> list[manifold3d.Manifold]:
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
