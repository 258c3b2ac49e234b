"""Which pieces are equal in shape and size, wherever they stand; and how large they are.

Pieces are equal where a motion takes one to the other: mirror images are different pieces. What is
cheap to tell apart is told by figures that no motion changes (volume, surface, principal moments);
the rest is laid upon each other, in every way that their moments and corners allow.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from functools import cached_property, partial
from typing import Any

import manifold3d
import numpy as np
import shapely
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.arrays.setting_out import on_curve
from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Cubic, Straight
from ovolo.geometry.meshes.hull import convex_hull
from ovolo.geometry.meshes.mesh import Mesh, sharp_corners
from ovolo.geometry.placement import IDENTITY, applied, determinant, keeps_lengths
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import LEAST, ROUNDING, SAME_SHARE
from ovolo.geometry.solids.form_figures import same_form
from ovolo.geometry.solids.forms import Layer, Revolution, Stack
from ovolo.geometry.solids.primitives import extrusion, lying_flat
from ovolo.geometry.solids.solid import Solid, in_space
from ovolo.geometry.solids.swept_form import Swept
from ovolo.geometry.types import Floats
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.remembering import Remembered

_SAME = 1e-6
"""By what share figures of equal pieces may differ that are exact, or made alike."""

_SAME_CHORDS = 2e-3
"""By what share they may where round faces are divided differently."""

_EVEN = 1e-5
"""Moments that differ by less (as a share) leave it open how a piece is turned."""

_MOST_WAYS = 400
"""So many ways to lay a piece upon another are tried."""


# --- sizes ---


def sizes_of_solid(solid: Solid) -> Floats:
    """Length, width and thickness (3,) of the smallest box round a solid of those that lie on one
    of its flat sides or along its own or its principal axes, or are found by turning such a box about
    its own; the longest first. They are the same wherever it stands, and looked for once for each way
    in which a shape is turned and scaled."""
    turned = solid.matrix.copy()
    turned[:3, 3] = 0.0
    key = solid.shape.key, turned.tobytes()
    known = _SIZES.get(key)
    if known is None:
        known = _smallest_box(Solid(solid.shape, turned))
        _SIZES.put(key, known)
    return known


_SIZES = Remembered[Floats](lambda sizes: 700)
"""By the keys of shapes and how they are turned and scaled; what one holds with its key was measured with tracemalloc."""


def _smallest_box(solid: Solid) -> Floats:
    corners = applied(solid.matrix, solid.shape.extremes)
    frame, ups = np.eye(3), _ups(solid)
    best = math.inf
    while True:
        around = min((_smallest_about(corners, up) for up in ups), key=partial(_box_size, corners))
        size = _box_size(corners, around)
        if size >= best * (1 - SAME_SHARE):
            break
        best, frame, ups = size, around, around.T
    back = IDENTITY.copy()
    back[:3, :3] = frame.T
    low, high = Solid(solid.shape, back @ solid.matrix).bounds()
    return np.sort(high - low)[::-1]


_MOST_SIDES = 100


def _ups(solid: Solid) -> Floats:
    """Directions to which a solid may lie: of its largest flat sides, its own and principal axes."""
    corners = applied(solid.matrix, solid.shape.extremes)
    mesh = convex_hull(corners) or solid.mesh
    vectors = mesh.area_vectors()
    areas = np.linalg.norm(vectors, axis=1)
    units = vectors[areas > 0] / areas[areas > 0][:, None]
    units = units * np.where(_leading(units) < 0, -1.0, 1.0)[:, None]
    _, group = np.unique(np.round(units, 5) + 0.0, axis=0, return_inverse=True)
    sizes = np.bincount(group.reshape(-1), weights=areas[areas > 0])
    first = np.array(
        [np.argmax(group.reshape(-1) == one) for one in np.argsort(-sizes)[:_MOST_SIDES]]
    )
    own = solid.matrix[:3, :3] / np.linalg.norm(solid.matrix[:3, :3], axis=0)
    _, axes, _ = _principal(mesh)
    found: Floats = np.concatenate([units[first], own.T, axes.T])
    return found


def _box_size(corners: Floats, frame: Floats) -> float:
    return float(np.prod(np.ptp(corners @ frame, axis=0)))


def _leading(units: Floats) -> Floats:
    """The first coordinate of each that is not 0."""
    at = np.argmax(np.abs(units) > 1e-6, axis=1)
    leading: Floats = units[np.arange(len(units)), at]
    return leading


def _smallest_about(corners: Floats, up: Floats) -> Floats:
    """The frame (columns) about an upright direction in which a box round points is smallest."""
    x = cross_product(up, np.eye(3)[int(np.argmin(np.abs(up)))])
    x /= np.linalg.norm(x)
    y = cross_product(up, x)
    seen = corners @ np.column_stack([x, y])
    turn = _least_rectangle(seen)
    c, s = math.cos(turn), math.sin(turn)
    return np.column_stack([c * x + s * y, c * y - s * x, up])


def _least_rectangle(points: Floats) -> float:
    """The angle at which the smallest rectangle round points (n, 2) lies."""
    # One line through all of them is made sooner than as many points.
    hull = shapely.convex_hull(shapely.linestrings(points))
    ring = shapely.get_coordinates(hull)
    sides = np.diff(ring, axis=0)
    angles = np.arctan2(sides[:, 1], sides[:, 0]) % (math.pi / 2)
    angles = np.unique(np.concatenate([[0.0], np.round(angles, 12)]))
    c, s = np.cos(angles), np.sin(angles)
    width = np.ptp(ring @ np.array([c, s]), axis=0)
    height = np.ptp(ring @ np.array([-s, c]), axis=0)
    areas = width * height
    return float(angles[int(np.argmax(areas <= areas.min() * (1 + SAME_SHARE)))])


def sizes_of_region(region: Region) -> Floats:
    """Length and width (2,) of the smallest rectangle round a region, the longer first."""
    turn = _least_rectangle(np.concatenate(region.rings()))
    c, s = math.cos(turn), math.sin(turn)
    back = IDENTITY.copy()
    back[:2, :2] = [[c, s], [-s, c]]
    low, high = lying_flat(region).placed(back).bounds()
    return np.sort((high - low)[:2])[::-1]


# --- pieces to be compared ---


class Body(Struct, frozen=True, eq=False, dict=True):
    """A solid to be compared with others."""

    solid: Solid

    @cached_property
    def mesh(self) -> Mesh:
        return self.solid.mesh

    @cached_property
    def print(self) -> Floats:
        """Figures (6,) that are equal for equal pieces."""
        moments = self.principal[0]
        radii = np.sqrt(np.maximum(moments, 0.0) / self.mesh.volume())
        return np.array([np.cbrt(self.solid.volume), np.sqrt(self.solid.area), *radii, self.reach])

    @cached_property
    def reach(self) -> float:
        """How far its farthest corner is from its middle."""
        return float(np.linalg.norm(self.corners, axis=1).max())

    @cached_property
    def principal(self) -> tuple[Floats, Floats, Floats]:
        return _principal(self.mesh)

    @cached_property
    def corners(self) -> Floats:
        """Its corners about its middle, along its principal axes."""
        _, axes, middle = self.principal
        corners: Floats = (self.mesh.corners - middle) @ axes
        return corners

    @cached_property
    def sharp(self) -> Floats:
        """Those of its corners at which faces meet: not within flat ones."""
        _, axes, middle = self.principal
        sharp = sharp_corners(self.mesh, 1e-4)
        return (sharp - middle) @ axes if len(sharp) else self.corners

    @property
    def slack(self) -> float:
        """By what share its mesh may differ from another of the same piece."""
        return _SAME if self.solid.shape.flat else _SAME_CHORDS

    @cached_property
    def marks(self) -> Floats | None:
        """What its exact faces are told by where it stands, (n, 6): places, each with a radius or
        two and its sort. None where they are not known."""
        return marks_of(self.solid)

    @cached_property
    def rims(self) -> tuple[Floats, Floats]:
        """The ends (n, 3) of the pieces of its edges, about its middle, along its axes."""
        edges = self.solid.shape.drawing.edges.astype(float).reshape(-1, 3)
        _, axes, middle = self.principal
        ends = ((applied(self.solid.matrix, edges) - middle) @ axes).reshape(-1, 2, 3)
        return ends[:, 0], ends[:, 1]

    @cached_property
    def rough(self) -> float:
        """By how much (mm³) its mesh differs from what it stands for, about."""
        return 0.0 if self.solid.shape.flat else self.solid.shape.missed.volume * self.mesh.volume()

    def laid(self, way: Floats) -> manifold3d.Manifold:
        """The kernel's own object about its middle, along its principal axes, then turned."""
        _, axes, middle = self.principal
        frame = IDENTITY.copy()
        frame[:3, :3] = way @ axes.T
        frame[:3, 3] = -frame[:3, :3] @ middle
        return in_space(self.solid).transform(np.ascontiguousarray(frame[:3]))


def _principal(mesh: Mesh) -> tuple[Floats, Floats, Floats]:
    """The principal second moments (3,), their axes (columns, right-handed) and the centroid.
    (Moments of tetrahedra: with h the complete symmetric polynomial in the four corners, the
    integral of x^n is V n! 3! / (n + 3)! h.)"""
    middle = mesh.centroid()
    a, b, c = (mesh.corners[mesh.triangles[:, i]] - middle for i in range(3))
    volumes = np.einsum("ij,ij->i", a, cross_product(b, c)) / 6
    total = a + b + c
    second = sum(np.einsum("i,ij,ik->jk", volumes, v, v) for v in (a, b, c, total)) / 20
    moments, axes = np.linalg.eigh(second)
    if np.linalg.det(axes) < 0:
        axes = axes * [1.0, 1.0, -1.0]
    return moments, axes, middle


def body_of_region(region: Region) -> Body:
    """A region as a thin body: turned over it is the same piece."""
    made = extrusion(lying_flat(region), math.sqrt(region.area) / 10)
    assert isinstance(made, Solid)
    return Body(made)


# --- laying one upon the other ---


def are_equal(one: Body, other: Body) -> bool:
    """Whether a motion takes one body to the other."""
    if not _alike(one.print, other.print, max(one.slack, other.slack)):
        return False
    if one.solid.shape.exact and other.solid.shape.exact and not _alike(one.print[:2], other.print[:2], _SAME):  # fmt: skip
        return False
    bars = one.solid.shape.form, other.solid.shape.form
    if isinstance(bars[0], Swept) and isinstance(bars[1], Swept) and _move_only(one, other):
        return _bars_equal(bars[0], bars[1])
    made_alike = one.solid.shape.key == other.solid.shape.key or same_form(
        one.solid.shape.form, other.solid.shape.form
    )
    if made_alike and _same_but_for_a_motion(one.solid, other.solid):
        return True
    told_alike = type(one.solid.shape.form) is type(other.solid.shape.form)
    if told_alike and one.marks is not None and other.marks is not None:
        a, b = _pose_of(one.marks), _pose_of(other.marks)
        ways = itertools.islice(_ways(a, b), _MOST_WAYS)
        gap = _SAME * one.reach + _SAME
        return any(_cover_each_other(a.turned(way), b.points, gap) for way in ways)
    poses = [Pose(body.principal[0], body.sharp) for body in (one, other)]
    return any(_fits(one, other, way) for way in itertools.islice(_ways(*poses), _MOST_WAYS))


class Pose(Struct, frozen=True, eq=False):
    """Places (n, 3 or more) about their middle along principal axes, with their moments; beyond the
    third column stands what no turn changes."""

    moments: Floats
    points: Floats

    def turned(self, way: Floats) -> Floats:
        return np.column_stack([self.points[:, :3] @ way.T, self.points[:, 3:]])


def _pose_of(marks: Floats) -> Pose:
    """Exact places about their own middle and axes."""
    places = marks[:, :3] - marks[:, :3].mean(axis=0)
    weights = 1 + marks[:, 3] + marks[:, 4]
    moments, axes = np.linalg.eigh(np.einsum("i,ij,ik->jk", weights, places, places))
    if np.linalg.det(axes) < 0:
        axes = axes * [1.0, 1.0, -1.0]
    return Pose(moments, np.column_stack([places @ axes, marks[:, 3:]]))


def _same_but_for_a_motion(one: Solid, other: Solid) -> bool:
    a, b = one.matrix[:3, :3], other.matrix[:3, :3]
    gram = np.abs(a.T @ a - b.T @ b).max() < SAME_SHARE * np.abs(a.T @ a).max()
    return bool(gram and determinant(one.matrix) * determinant(other.matrix) > 0)


def _move_only(one: Body, other: Body) -> bool:
    return (
        keeps_lengths(one.solid.matrix)
        and keeps_lengths(other.solid.matrix)
        and all(determinant(body.solid.matrix) > 0 for body in (one, other))
    )


def _bars_equal(one: Swept, other: Swept) -> bool:
    """Whether round bars run along equal ways; others are laid upon each other as any solid."""
    sections = [body_of_region(bar.region) for bar in (one, other)]
    return are_equal(*sections) and wires_equal(Wire(one.path), Wire(other.path))


def _alike(a: Floats, b: Floats, share: float) -> bool:
    return bool(np.all(np.abs(a - b) <= share * np.maximum(np.abs(a), np.abs(b)) + SAME_SHARE))


def _ways(one: Pose, other: Pose) -> Iterator[Floats]:
    """The turns (3, 3) that may take one to the other."""
    yield from _half_turns()
    even = np.diff(one.moments) < _EVEN * one.moments[-1]
    if not np.any(even):
        return
    if np.all(even):
        yield from _by_two_corners(one, other)
        return
    axis = np.eye(3)[2 if even[0] else 0]
    for flip in (1.0, -1.0):
        over = np.eye(3) if flip > 0 else _half_turn(np.eye(3)[1])
        yield from _about(axis, one.points[:, :3] @ over.T, other.points[:, :3], over)


def _half_turns() -> Iterator[Floats]:
    for signs in ((1, 1, 1), (1, -1, -1), (-1, 1, -1), (-1, -1, 1)):
        yield np.diag(np.array(signs, dtype=float))


def _half_turn(axis: Floats) -> Floats:
    turn: Floats = 2 * np.outer(axis, axis) - np.eye(3)
    return turn


def _about(axis: Floats, from_: Floats, to: Floats, before: Floats) -> Iterator[Floats]:
    """Turns about an axis that take one corner of the rarest sort to each of its sort."""
    mine, theirs = (np.column_stack([corners @ axis, np.linalg.norm(cross_product(corners, axis), axis=1)]) for corners in (from_, to))  # fmt: skip
    size = max(float(np.abs(mine).max()), ROUNDING)
    chosen, sort = _rarest(mine, theirs, size, lambda tag: tag[:, 1] > 1e-3 * size)
    if chosen is None:
        return
    x = cross_product(axis, [axis[1], axis[2], axis[0]])
    x /= np.linalg.norm(x)
    y = cross_product(axis, x)
    start = math.atan2(float(from_[chosen] @ y), float(from_[chosen] @ x))
    for corner in to[sort]:
        angle = math.atan2(float(corner @ y), float(corner @ x)) - start
        c, s = math.cos(angle), math.sin(angle)
        cross = cross_product(np.eye(3), axis)
        turn = c * np.eye(3) + s * cross.T + (1 - c) * np.outer(axis, axis)
        yield turn @ before


def _rarest(
    a: Floats, b: Floats, size: float, wanted: Callable[[Floats], Any]
) -> tuple[int | None, NDArray[np.int64]]:
    """A corner of the first whose sort is rarest among the second, and those of that sort there."""
    step = max(_SAME_CHORDS * size, SAME_SHARE)
    best: tuple[int, NDArray[np.int64]] | None = None
    _, first = np.unique(np.round(a / step), axis=0, return_index=True)
    for index in first[wanted(a[first])].tolist():
        sort = np.flatnonzero(np.all(np.abs(b - a[index]) <= 1.5 * step, axis=1))
        if len(sort) and (best is None or len(sort) < len(best[1])):
            best = index, sort
    return best if best is not None else (None, np.zeros(0, dtype=np.int64))


def _by_two_corners(one: Pose, other: Pose) -> Iterator[Floats]:
    """Turns that take a corner of the rarest sort, and a second beside it, to two such."""
    mine, theirs = one.points[:, :3], other.points[:, :3]
    near_or_far, others = (np.linalg.norm(one, axis=1)[:, None] for one in (mine, theirs))
    size = float(near_or_far.max())
    chosen, sort = _rarest(near_or_far, others, size, lambda tag: tag[:, 0] > 1e-3 * size)
    if chosen is None:
        return
    a = mine[chosen]
    off = np.linalg.norm(cross_product(mine, a), axis=1)
    second = mine[int(np.argmax(off))]
    step = 1.5 * _SAME_CHORDS * size
    for b in theirs[sort]:
        near = np.abs(np.linalg.norm(theirs, axis=1) - np.linalg.norm(second)) < step
        near &= np.abs(theirs @ b - second @ a) < step * size
        for d in theirs[near]:
            yield _frame_of(b, d) @ _frame_of(a, second).T


def _frame_of(a: Floats, b: Floats) -> Floats:
    x = a / np.linalg.norm(a)
    z = cross_product(a, b)
    z /= max(float(np.linalg.norm(z)), LEAST)
    return np.column_stack([x, cross_product(z, x), z])


def _fits(one: Body, other: Body, way: Floats) -> bool:
    """Whether one body, turned, is the other: by its corners where its faces are flat, else by its
    edges and by what both have in common."""
    size = one.reach
    if _cover_each_other(one.corners @ way.T, other.corners, 1e-6 * size + 1e-6):
        return True
    if one.solid.shape.flat and other.solid.shape.flat:
        return _cover_each_other(one.sharp @ way.T, other.sharp, 1e-6 * size + 1e-5)
    allowed = min(0.1, _SAME_CHORDS * size)
    start, end = (ends @ way.T for ends in one.rims)
    if _farthest(start, *other.rims) > allowed or _farthest(other.rims[0], start, end) > allowed:
        return False
    a, b = one.laid(way), other.laid(np.eye(3))
    rest = float((a - b).volume() + (b - a).volume())
    # Chords of one round face that begin elsewhere: each encloses a little more than the face.
    return rest <= 4 * (one.rough + other.rough) + 1e-6 * one.mesh.volume()


def _cover_each_other(a: Floats, b: Floats, gap: float) -> bool:
    """Whether each of two lists of places has one of the other near every place."""
    from scipy.spatial import cKDTree

    if not len(a) or not len(b):
        return len(a) == len(b)
    return all(
        float(cKDTree(these).query(those)[0].max()) < gap for these, those in ((a, b), (b, a))
    )


def _farthest(places: Floats, start: Floats, end: Floats) -> float:
    """How far the farthest of places (n, 3) is from segments (m, 3)."""
    if not len(places) or not len(start):
        return 0.0 if len(places) == len(start) else math.inf
    along = end - start
    square = np.maximum(np.sum(along**2, axis=1), LEAST)
    worst = 0.0
    for at in range(0, len(places), 200):
        gap = places[at : at + 200, None] - start
        share = np.clip(dot_product(gap, along) / square, 0.0, 1.0)
        off = np.linalg.norm(gap - share[..., None] * along, axis=2)
        worst = max(worst, float(off.min(axis=1).max()))
    return worst


# --- exact faces ---


def marks_of(solid: Solid) -> Floats | None:
    """Corners, and the centres of arcs with their radii, of a stack of layers or a revolution
    where it stands, as rows of place (3), two radii and a sort; None of any other solid."""
    linear = solid.matrix[:3, :3]
    gram = linear.T @ linear
    even = np.abs([gram[0, 1], gram[0, 2], gram[1, 2], gram[0, 0] - gram[1, 1]]).max()
    form = solid.shape.form
    if form is None or not form.exact or even > SAME_SHARE * gram.max():
        return None
    scale = math.sqrt(gram[0, 0])
    if isinstance(form, Stack):
        rows = [row for layer in form.layers for row in _marks_of_layer(layer, scale)]
    elif isinstance(form, Revolution) and form.whole:
        rows = list(_marks_turned(form, scale, math.sqrt(gram[2, 2])))
    else:
        return None
    if not rows or any(row is None for row in rows):
        return None
    found = np.array(rows, dtype=float)
    found[:, :3] = applied(solid.matrix, found[:, :3])
    _, kept = np.unique(np.round(found, 6), axis=0, return_index=True)
    return found[kept]


def _marks_of_layer(layer: Layer, scale: float) -> Iterator[tuple[float, ...] | None]:
    for curve in layer.region.outlines:
        for piece, onward in zip(curve.pieces, [*curve.pieces[1:], curve.pieces[0]], strict=True):
            if isinstance(piece, Cubics | Cubic) or (
                isinstance(piece, Arc) and not piece.is_circle
            ):
                yield None
                return
            a, b = piece.slope(1.0), onward.slope(0.0)
            bend = math.atan2(float(np.linalg.norm(cross_product(a, b))), float(a @ b))
            for height in (layer.low, layer.high):
                if bend > 1e-6 and len(curve.pieces) > 1:
                    yield *piece.end[:2], height, 0.0, 0.0, 0.0
                if isinstance(piece, Arc):
                    yield *piece.centre[:2], height, piece.radius * scale, 0.0, 1.0


def _marks_turned(form: Revolution, across: float, up: float) -> Iterator[tuple[float, ...] | None]:
    """Rings as places on the axis with their radius."""
    for curve in form.outlines:
        for piece, onward in zip(curve.pieces, [*curve.pieces[1:], curve.pieces[0]], strict=True):
            if not isinstance(piece, Straight | Arc) or (isinstance(piece, Arc) and (not piece.is_circle or abs(across - up) > SAME_SHARE * up)):  # fmt: skip
                yield None
                return
            a, b = piece.slope(1.0), onward.slope(0.0)
            if np.linalg.norm(cross_product(a, b)) > 1e-6 * np.linalg.norm(a) * np.linalg.norm(b):
                yield 0.0, 0.0, float(piece.end[2]), float(piece.end[0]) * across, 0.0, 2.0
            if isinstance(piece, Arc):
                yield 0.0, 0.0, float(piece.centre[2]), float(piece.centre[0]) * across, piece.radius * across, 3.0  # fmt: skip


# --- curves ---


class Wire(Struct, frozen=True, eq=False, dict=True):
    """A curve to be compared with others, by points at even lengths."""

    curve: Curve

    @cached_property
    def print(self) -> Floats:
        """Figures (5,) that are equal for equal curves: its length, how far its ends are apart, how far
        its points lie from their middle along their principal axes. What is nothing beside its length is
        nothing: a straight line has no width, whichever way it runs."""
        gap = float(np.linalg.norm(self.curve.end - self.curve.start))
        radii = np.linalg.svd(self.points, compute_uv=False) / math.sqrt(len(self.points))
        figures = np.array([self.curve.length, gap, *radii])
        return np.where(figures < SAME_SHARE * self.curve.length, 0.0, figures)

    @cached_property
    def points(self) -> Floats:
        return self.from_(0.0)

    def from_(self, begin: float) -> Floats:
        """Points (n, 3) about their middle, from a length on."""
        ends = 0 if self.curve.closed else 1
        lengths = self.curve.length * np.arange(_POINTS + ends) / _POINTS
        if self.curve.closed:
            lengths = (lengths + begin) % self.curve.length
        places = on_curve(self.curve, lengths)[0]
        found: Floats = places - places.mean(axis=0)
        return found


_POINTS = 240


def wires_equal(one: Wire, other: Wire) -> bool:
    """Whether a motion takes one curve to the other, run along either way."""
    size = max(one.curve.length, ROUNDING)
    if not _alike(one.print[:2], other.print[:2], 1e-6):
        return False
    wanted = one.points
    for candidate in _runs(one, other):
        for points in (candidate, candidate[::-1]):
            shifted = np.roll(points, 1, axis=0) if one.curve.closed and points is not candidate else points  # fmt: skip
            if _laid_apart(wanted, shifted) < 1e-4 * size:
                return True
    return False


def _runs(one: Wire, other: Wire) -> Iterator[Floats]:
    """The other's points, from every place that may be the start of the first."""
    if not one.curve.closed:
        yield other.points
        return
    away = np.linalg.norm(one.points[0])
    steps = 2000
    lengths = other.curve.length * np.arange(steps) / steps
    middle = on_curve(other.curve, other.curve.length * np.arange(_POINTS) / _POINTS)[0].mean(axis=0)  # fmt: skip
    gaps = np.linalg.norm(on_curve(other.curve, lengths)[0] - middle, axis=1) - away
    if np.abs(gaps).max() < 1e-6 * other.curve.length:
        yield other.points
        return
    crossing = np.flatnonzero(np.sign(gaps) != np.sign(np.roll(gaps, -1)))
    least = np.flatnonzero((np.abs(gaps) <= np.abs(np.roll(gaps, 1))) & (np.abs(gaps) <= np.abs(np.roll(gaps, -1))))  # fmt: skip
    starts = {float(lengths[at]) for at in least.tolist()}
    for at in crossing.tolist():
        a, b = gaps[at], gaps[(at + 1) % steps]
        starts.add(float(lengths[at] + other.curve.length / steps * (a / (a - b) if a != b else 0)))
    for begin in sorted(starts)[:_MOST_WAYS]:
        yield other.from_(begin)


def _laid_apart(a: Floats, b: Floats) -> float:
    """How far points remain apart after the best turn (Kabsch, Acta Cryst. A32, 1976)."""
    u, _, vt = np.linalg.svd(a.T @ b)
    sign = np.sign(np.linalg.det(u @ vt))
    turn = u @ np.diag([1.0, 1.0, sign]) @ vt
    return float(np.linalg.norm(a - b @ turn.T, axis=1).max())


# --- classes ---


def classes(
    prints: Sequence[Floats], equal: Callable[[int, int], bool], share: float = _SAME_CHORDS
) -> list[int]:
    """For each piece the number of the first class it belongs to, numbered as they are met: it is
    compared with one of each class whose figures are alike."""
    found: list[int] = []
    members: list[int] = []
    kept = np.empty((0, len(prints[0]) if len(prints) else 0))
    for at, one in enumerate(prints):
        near = np.flatnonzero(np.all(np.abs(kept - one) <= share * np.maximum(np.abs(one), SAME_SHARE) + SAME_SHARE, axis=1))  # fmt: skip
        same = next((int(number) for number in near if equal(members[number], at)), None)
        if same is None:
            same = len(members)
            members.append(at)
            kept = np.vstack([kept, one])
        found.append(same)
    return found
