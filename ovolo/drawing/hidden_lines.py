"""The edges of solids as they are seen: what lies behind something is told apart.

Edges are the creases of the solids and, of round ones, where they turn away from the viewer. Each is parted
where another crosses it in the picture; between two crossings all of it is seen or none (Appel, The notion
of quantitative invisibility and the machine rendering of solids, ACM National Conference, 1967), which a
line towards the viewer from its middle decides. What crosses what, and what is behind, the sides of the
meshes tell. Straight edges are exact; a crease that is an arc by the form of its solid is drawn as one, and
parted where its true course is crossed. Other round edges are as their chords. Where two solids run into
each other there is no edge.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np
import shapely
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.drawing.ellipses import Ellipses, by_ellipse, joined, without
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import polyline
from ovolo.geometry.curves.pieces import Arc
from ovolo.geometry.meshes.mesh import CREASE, Mesh
from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.solids.forms import Form
from ovolo.geometry.solids.round_edges import along_arcs, arcs_of
from ovolo.geometry.solids.solid import Shape
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product, plane_product
from ovolo.problems import Failure

MOST_TRIANGLES = 400_000
MOST_EDGES = 60_000

_NEAR = 1e-6
"""Of the size of the picture: what lies no deeper than this is not behind."""

_ONE = 1e-6
"""Of the size of the picture: ends that lie no further apart are one."""

_SHORT = 1e-7
"""Of the size of the picture: shorter pieces of edges are left out."""

_TURN = 2 * math.pi
_APART = 2 * _TURN
"""So far apart the angles of different arcs are counted."""

_FLAT = 1e-6
"""An arc whose ellipse is narrower than this share of its length is seen from its edge: a straight line."""


class Lines(Struct, frozen=True, eq=False):
    """What is drawn in a picture: straight pieces (n, 2, 2), and arcs (z = 0)."""

    straight: Points
    arcs: tuple[Arc, ...] = ()

    @property
    def length(self) -> float:
        straight = np.linalg.norm(self.straight[:, 1] - self.straight[:, 0], axis=1)
        return float(straight.sum()) + math.fsum(arc.length for arc in self.arcs)

    def curves(self, size: float) -> list[Curve]:
        """As long lines, and arcs; `size` is that of the picture."""
        lines = [polyline(np.column_stack([line, np.zeros(len(line))])) for line in chained(self.straight, size)]  # fmt: skip
        return [*lines, *(Curve((arc,)) for arc in self.arcs)]

    def bounds(self) -> Points | None:
        """The least and the greatest place, (2, 2); None where there is nothing."""
        corners = [self.straight.reshape(-1, 2), *(arc.bounds()[:, :2] for arc in self.arcs)]
        every = np.concatenate(corners)
        return np.array([every.min(axis=0), every.max(axis=0)]) if len(every) else None


class Fronts:
    """What faces the viewer: triangles (m, 3, 3) of a picture of a size."""

    def __init__(self, triangles: Points, size: float) -> None:
        self._triangles, self._size = triangles, size
        self._tree = shapely.STRtree(shapely.polygons(triangles[:, :, :2]))

    def hide(self, places: Points) -> NDArray[np.bool_]:
        """Whether one of them lies nearer to the viewer than each place (n, 3)."""
        behind = np.zeros(len(places), dtype=bool)
        place, height, lean = self._at(places)
        # A face that is seen almost from its edge tells its height only so well.
        nearer = height > places[place, 2] + _NEAR * self._size * (1 + lean)
        np.logical_or.at(behind, place[nearer], True)
        return behind

    def heights(self, places: Points) -> Points:
        """How near the nearest of them is at each place (n, 2); minus infinity where there is none."""
        found = np.full(len(places), -np.inf)
        place, height, _ = self._at(places)
        np.maximum.at(found, place, height)
        return found

    def _at(self, places: Points) -> tuple[NDArray[np.int64], Points, Points]:
        """All that lies at places: their numbers, how near it is there, and how much it leans away."""
        place, face = self._tree.query(shapely.points(places[:, :2]), predicate="intersects")
        a, b, c = (self._triangles[face, corner] for corner in range(3))
        normal = cross_product(b - a, c - a)
        offset = places[place, :2] - a[:, :2]
        height = a[:, 2] - np.einsum("ij,ij->i", normal[:, :2], offset) / normal[:, 2]
        return place, height, np.linalg.norm(normal[:, :2], axis=1) / normal[:, 2]


class Edges(Struct, frozen=True, eq=False):
    """What is seen of the edges, and what is behind."""

    seen: Lines
    hidden: Lines
    fronts: Fronts
    """What they are behind of."""


class _Sides(Struct, frozen=True, eq=False):
    """Sides of meshes, or pieces of them, (n, 2, 3) in the picture. `arc` (n,) is the number of the arc that
    one stands for, -1 for none, and `angles` (n, 2) are those of its ends."""

    ends: Points
    arc: NDArray[np.int64]
    angles: Points

    def __len__(self) -> int:
        return len(self.ends)

    def taken(self, which: NDArray[np.bool_] | NDArray[np.int64]) -> _Sides:
        return _Sides(self.ends[which], self.arc[which], self.angles[which])


class _Rounds(Struct, frozen=True, eq=False):
    """Pieces of arcs: the number of the arc (n,), from which of its angles to which (n, 2), and the place in
    the middle (n, 3), on the side of the mesh that stands for it there."""

    arc: NDArray[np.int64]
    spans: Points
    middles: Points


def edges_seen(
    solids: Sequence[tuple[Shape, Matrix]],
    cut_from: Sequence[tuple[Form | None, Matrix]] | None = None,
) -> Edges:
    """The edges of solids, each with its place (4, 4) in the picture: x to the right, y up, z at the viewer.
    `cut_from` are the forms and places of what each is a part of. Raises Failure where there are too many."""
    count = sum(len(shape.mesh.triangles) for shape, _ in solids)
    if count > MOST_TRIANGLES:
        raise Failure(
            f"a drawing without hidden lines has at most {MOST_TRIANGLES:,} triangles; here are {count:,}",
            "draw fewer parts, or with a coarser `tolerance`",
        )
    meshes = [_placed(shape, matrix) for shape, matrix in solids]
    facing = [_faces_viewer(mesh) for mesh in meshes]
    known = cut_from or [(shape.form, matrix) for shape, matrix in solids]
    arcs = [
        [arc for one in arcs_of(form) if not _is_flat(arc := one.placed(matrix))]
        for form, matrix in known
    ]
    sides, every = _every_side(meshes, facing, arcs, [form is not None for form, _ in known])
    if len(sides) > MOST_EDGES:
        raise Failure(
            f"a drawing without hidden lines has at most {MOST_EDGES:,} edges; here are {len(sides):,}",
            "draw fewer parts, or with a coarser `tolerance`",
        )
    corners = sides.ends.reshape(-1, 3)
    size = (float(np.ptp(corners, axis=0).max()) if len(corners) else 0.0) or 1.0
    fronts = Fronts(_facing_viewer(meshes, facing), size)
    if not len(sides):
        nothing = Lines(np.empty((0, 2, 2)))
        return Edges(nothing, nothing, fronts)
    sides = sides.taken(_once(sides.ends, size))
    straight, rounds = _parted(sides, every, size)
    behind = fronts.hide(straight.mean(axis=1))
    hidden = fronts.hide(rounds.middles)
    seen_arcs, hidden_arcs = _drawn_arcs(every, rounds, hidden)
    # What lies behind each other in the picture is one line, and what is under a seen one is not drawn.
    front, back = (
        pieces[_once(pieces, size)]
        for pieces in (straight[which][:, :, :2] for which in (~behind, behind))
    )
    return Edges(Lines(front, seen_arcs), Lines(_not_under(back, front, size), hidden_arcs), fronts)


def _is_flat(arc: Arc) -> bool:
    u, v = arc.u[:2], arc.v[:2]
    return abs(float(plane_product(u, v))) <= _FLAT * float(u @ u + v @ v)


def _drawn_arcs(
    arcs: Sequence[Arc], rounds: _Rounds, hidden: NDArray[np.bool_]
) -> tuple[tuple[Arc, ...], tuple[Arc, ...]]:
    """The arcs that are seen, and those that are hidden and under no seen one."""
    if not len(rounds.arc):
        return (), ()
    ellipses = Ellipses(arcs)
    before, behind = (by_ellipse(ellipses, rounds.arc[which], rounds.spans[which]) for which in (~hidden, hidden))  # fmt: skip
    seen = [arc for one, spans in before.items() for arc in ellipses.drawn(one, joined(spans))]
    rest = [arc for one, spans in behind.items() for arc in ellipses.drawn(one, without(spans, before.get(one, ())))]  # fmt: skip
    return tuple(seen), tuple(rest)


def _placed(shape: Shape, matrix: Matrix) -> Mesh:
    source = shape.mesh
    flipped = np.linalg.det(matrix[:3, :3]) < 0
    triangles = source.triangles[:, ::-1] if flipped else source.triangles
    return Mesh(applied(matrix, source.corners), np.ascontiguousarray(triangles))


def _faces_viewer(mesh: Mesh) -> NDArray[np.bool_]:
    vectors = mesh.area_vectors()
    sizes = np.linalg.norm(vectors, axis=1)
    return np.asarray(vectors[:, 2] > 1e-9 * np.where(sizes > 0, sizes, 1.0))


def _facing_viewer(meshes: Sequence[Mesh], facing: Sequence[NDArray[np.bool_]]) -> Points:
    """The triangles (m, 3, 3) that face the viewer."""
    sides = [
        mesh.corners[mesh.triangles[front]] for mesh, front in zip(meshes, facing, strict=True)
    ]
    return np.concatenate([np.empty((0, 3, 3)), *sides])


def _every_side(
    meshes: Sequence[Mesh],
    facing: Sequence[NDArray[np.bool_]],
    arcs: Sequence[Sequence[Arc]],
    known: Sequence[bool],
) -> tuple[_Sides, list[Arc]]:
    """The edges of all solids, and the arcs that they stand for. What is no crease of a solid whose form is
    `known` stands for an arc of another one where it is seen along it."""
    every = [arc for some in arcs for arc in some]
    all_arcs = list(every)
    found, before = [_Sides(np.empty((0, 2, 3)), np.empty(0, dtype=int), np.empty((0, 2)))], 0
    for mesh, front, own, is_known in zip(meshes, facing, arcs, known, strict=True):
        creases, contours = _edges(mesh, front)
        ends, arc, angles = along_arcs(creases, own)
        found.append(_Sides(ends, np.where(arc < 0, arc, arc + before), angles))
        before += len(own)
        loose = np.concatenate([contours, np.empty((0, 2, 3)) if is_known else ends[arc < 0]])
        if not is_known:
            found[-1] = found[-1].taken(arc >= 0)
        ends, arc, angles = along_arcs(loose, all_arcs, axes=2)
        used, numbers = np.unique(arc[arc >= 0], return_inverse=True)
        # It lies elsewhere in space than that arc: one of its own.
        arc[arc >= 0] = len(every) + numbers
        every += [all_arcs[at] for at in used.tolist()]
        found.append(_Sides(ends, arc, angles))
    sides = (
        np.concatenate([getattr(one, name) for one in found]) for name in ("ends", "arc", "angles")
    )
    return _Sides(*sides), every


def _edges(mesh: Mesh, front: NDArray[np.bool_]) -> tuple[Points, Points]:
    """The creases of a solid, and where its round faces turn away, (n, 2, 3) each."""
    vectors = mesh.area_vectors()
    sizes = np.linalg.norm(vectors, axis=1)
    normals = vectors / np.where(sizes > 0, sizes, 1.0)[:, None]
    half = mesh.triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2).astype(np.int64)
    number = len(mesh.corners)
    there = half.min(axis=1) * number + half.max(axis=1)
    order = np.argsort(there, kind="stable")
    pairs = there[order][:-1] == there[order][1:]
    first, second = order[:-1][pairs], order[1:][pairs]
    sharp = dot_product(normals[first // 3], normals[second // 3]) < math.cos(CREASE)
    turning = (front[first // 3] != front[second // 3]) & ~sharp
    ends = mesh.corners[half[first]]
    return ends[sharp], ends[turning]


def _once(edges: Points, size: float) -> NDArray[np.int64]:
    """Which edges (n, 2, 2 or 3) are left where each is taken once, and none that is a point in the picture."""
    long = np.flatnonzero(np.linalg.norm(edges[:, 1, :2] - edges[:, 0, :2], axis=1) > _SHORT * size)
    rounded = np.round(edges[long] / (size * _ONE)).astype(np.int64)
    apart = rounded[:, 0] - rounded[:, 1]
    swap = np.take_along_axis(apart, np.argmax(apart != 0, axis=1)[:, None], axis=1)[:, 0] > 0
    rounded[swap] = rounded[swap][:, ::-1]
    _, first = np.unique(rounded.reshape(len(rounded), 2 * edges.shape[2]), axis=0, return_index=True)  # fmt: skip
    return np.asarray(long[np.sort(first)])


def _parted(sides: _Sides, arcs: Sequence[Arc], size: float) -> tuple[Points, _Rounds]:
    """The straight pieces (n, 2, 3) and those of arcs between which another edge crosses them in the picture."""
    lines = shapely.linestrings(sides.ends[:, :, :2])
    tree = shapely.STRtree(lines)
    # Of edges that lie along each other but for noise, what ends at one ends at the other, too.
    one, other = tree.query(lines, predicate="dwithin", distance=_ONE * size)
    apart = one != other
    one, other = one[apart], other[apart]
    edges = sides.ends
    a, d = edges[one, 0, :2], edges[one, 1, :2] - edges[one, 0, :2]
    b, e = edges[other, 0, :2], edges[other, 1, :2] - edges[other, 0, :2]
    cross = plane_product(d, e)
    lengths = np.linalg.norm(d, axis=1) * np.linalg.norm(e, axis=1)
    level = np.abs(cross) > 1e-9 * lengths
    with np.errstate(divide="ignore", invalid="ignore"):
        share = plane_product(b - a, e) / cross
        beyond = plane_product(b - a, d) / cross
    share[level] = _true_shares(sides, arcs, one[level], other[level], share[level], beyond[level], size)  # fmt: skip
    # Edges that lie along each other part each other at their ends.
    squares = np.einsum("ij,ij->i", d, d)
    along = np.concatenate([np.einsum("ij,ij->i", b - a, d) / squares, np.einsum("ij,ij->i", b + e - a, d) / squares])  # fmt: skip
    cuts = np.concatenate([share[level], along[np.tile(~level, 2)]])
    owner = np.concatenate([one[level], np.tile(one, 2)[np.tile(~level, 2)]])
    return _straight_pieces(sides, owner, cuts, size), _round_pieces(sides, owner, cuts)


def _straight_pieces(sides: _Sides, owner: NDArray[np.int64], cuts: Points, size: float) -> Points:
    """Between the places, as shares of sides, at which those that stand for no arc are cut."""
    own = np.flatnonzero(sides.arc < 0)
    inside = (cuts > 1e-9) & (cuts < 1 - 1e-9) & (sides.arc[owner] < 0)
    ends = np.concatenate([cuts[inside], np.zeros(len(own)), np.ones(len(own))])
    of = np.concatenate([owner[inside], own, own])
    order = np.lexsort((ends, of))
    ends, of = ends[order], of[order]
    same = of[1:] == of[:-1]
    begin, end, at = ends[:-1][same], ends[1:][same], of[:-1][same]
    base, step = sides.ends[at, 0], sides.ends[at, 1] - sides.ends[at, 0]
    pieces = np.stack([base + begin[:, None] * step, base + end[:, None] * step], axis=1)
    long = np.linalg.norm(pieces[:, 1, :2] - pieces[:, 0, :2], axis=1) > _SHORT * size
    return np.asarray(pieces[long])


def _round_pieces(sides: _Sides, owner: NDArray[np.int64], cuts: Points) -> _Rounds:
    """Between the angles at which arcs are cut; where one goes on from side to side it is one piece."""
    turned = sides.angles[owner, 0] + cuts * (sides.angles[owner, 1] - sides.angles[owner, 0])
    cut_at = dict(_by_arc(sides.arc[owner], turned))
    bounds = np.sort(sides.angles, axis=1)
    found = [
        (number, first, last)
        for number, spans in _by_arc(sides.arc, bounds)
        for begin, end in joined(map(tuple, spans.tolist()))
        for first, last in pairwise(_angles_between(begin, end, cut_at.get(number, np.empty(0))))
    ]
    arc = np.array([number for number, _, _ in found], dtype=np.int64)
    spans = np.array([span for _, *span in found]).reshape(-1, 2)
    return _Rounds(arc, spans, _on_sides(sides, arc, spans.mean(axis=1)))


def _by_arc(arc: NDArray[np.int64], figures: Points) -> Iterator[tuple[int, Points]]:
    """The figures (n, ...) of each arc; those of no arc are left out."""
    order = np.argsort(arc, kind="stable")
    order = order[np.searchsorted(arc[order], 0) :]
    starts = np.flatnonzero(np.diff(arc[order], prepend=-1))
    for some in np.split(order, starts[1:]) if len(order) else ():
        yield int(arc[some[0]]), figures[some]


def _on_sides(sides: _Sides, arc: NDArray[np.int64], angles: Points) -> Points:
    """The places (n, 3) at angles of arcs, on the sides that stand for these there."""
    own = np.flatnonzero(sides.arc >= 0)
    flip = sides.angles[own, 0] > sides.angles[own, 1]
    low, high = (np.where(flip[:, None], sides.ends[own, a], sides.ends[own, b]) for a, b in ((1, 0), (0, 1)))  # fmt: skip
    begin, span = sides.angles[own].min(axis=1) % _TURN, np.ptp(sides.angles[own], axis=1)
    # Of those of an arc, the last one that begins before the angle; before all of them, the last of all.
    order = np.argsort(sides.arc[own] * _APART + begin)
    keys = (sides.arc[own] * _APART + begin)[order]
    at = np.searchsorted(keys, arc * _APART + angles % _TURN, side="right") - 1
    last = np.searchsorted(keys, (arc + 1) * _APART) - 1
    outside = (at < 0) | (sides.arc[own[order[np.maximum(at, 0)]]] != arc)
    side = order[np.where(outside, last, at)]
    share = np.clip(((angles - begin[side]) % _TURN) / span[side], 0.0, 1.0)
    return np.asarray(low[side] + share[:, None] * (high[side] - low[side]))


def _angles_between(begin: float, end: float, at: Points) -> list[float]:
    """The angles at which a span is cut, with its ends; a whole turn begins where it is cut."""
    cuts = np.unique(np.mod(at - begin, _TURN))
    cuts = cuts[(cuts > _ONE) & (cuts < end - begin - _ONE)]
    if end - begin >= _TURN - _ONE and len(cuts):
        return [*(begin + cuts).tolist(), float(begin + cuts[0] + _TURN)]
    return [begin, *(begin + cuts).tolist(), end]


_STEPS = 8


def _true_shares(
    sides: _Sides,
    arcs: Sequence[Arc],
    one: NDArray[np.int64],
    other: NDArray[np.int64],
    share: Points,
    beyond: Points,
    size: float,
) -> Points:
    """Where sides are crossed, as shares of them or of the angles that they span: where the arcs that they
    stand for cross, by Newton's method from where the sides do."""
    found = share.copy()
    bent = np.flatnonzero((sides.arc[one] >= 0) | (sides.arc[other] >= 0))
    if not len(bent):
        return found
    first, second = _Courses(sides.taken(one[bent]), arcs), _Courses(sides.taken(other[bent]), arcs)
    p, q = share[bent], beyond[bent]
    for _ in range(_STEPS):
        apart = second.at(q) - first.at(p)
        along, across = first.slope(p), second.slope(q)
        whole = plane_product(along, across)
        whole = np.where(np.abs(whole) > 0, whole, np.inf)  # they touch: it stays where it is
        p = p + plane_product(apart, across) / whole
        q = q + plane_product(apart, along) / whole
        p, q = np.clip(p, -1.0, 2.0), np.clip(q, -1.0, 2.0)
    met = np.linalg.norm(second.at(q) - first.at(p), axis=1) < _SHORT * size
    found[bent[met]] = p[met]
    return found


class _Courses:
    """The true courses of sides, by shares of them: straight, or round."""

    def __init__(self, sides: _Sides, arcs: Sequence[Arc]) -> None:
        self.round = (sides.arc >= 0)[:, None]
        self.start = sides.ends[:, 0, :2]
        self.step = sides.ends[:, 1, :2] - self.start
        at = np.maximum(sides.arc, 0)
        self.centre, self.u, self.v = (np.array([getattr(arc, name)[:2] for arc in arcs])[at] for name in ("centre", "u", "v"))  # fmt: skip
        self.angle = sides.angles[:, :1]
        self.sweep = sides.angles[:, 1:] - self.angle

    def at(self, share: Points) -> Points:
        turn = self.angle + share[:, None] * self.sweep
        bent = self.centre + np.cos(turn) * self.u + np.sin(turn) * self.v
        return np.where(self.round, bent, self.start + share[:, None] * self.step)

    def slope(self, share: Points) -> Points:
        turn = self.angle + share[:, None] * self.sweep
        bent = self.sweep * (np.cos(turn) * self.v - np.sin(turn) * self.u)
        return np.where(self.round, bent, self.step)


def _not_under(hidden: Points, seen: Points, size: float) -> Points:
    """The hidden pieces that no seen one covers in the picture."""
    if not len(hidden) or not len(seen):
        return hidden
    tree = shapely.STRtree(shapely.linestrings(seen))
    middles = shapely.points(hidden.mean(axis=1))
    covered, over = tree.query(middles, predicate="dwithin", distance=_NEAR * size)
    d = hidden[covered, 1] - hidden[covered, 0]
    e = seen[over, 1] - seen[over, 0]
    lengths = np.linalg.norm(d, axis=1) * np.linalg.norm(e, axis=1)
    turn = np.abs(plane_product(d, e)) / lengths
    kept = np.ones(len(hidden), dtype=bool)
    kept[covered[turn < 1e-3]] = False
    return hidden[kept]


def chained(pieces: Points, size: float) -> list[Points]:
    """Pieces (n, 2, 2) as long lines (k, 2): those that go on from each other are one."""
    if not len(pieces):
        return []
    merged = shapely.line_merge(
        shapely.set_precision(shapely.multilinestrings(pieces), _SHORT * size)
    )
    # Which ends are one was told by rounding them; the lines run through the ends themselves.
    ends = pieces.reshape(-1, 2)
    tree = shapely.STRtree(shapely.points(ends))
    lines = [shapely.get_coordinates(line) for line in shapely.get_parts(merged)]
    return [ends[tree.nearest(shapely.points(line))] for line in lines]
