"""By how much the flat faces of a mesh miss the round ones they stand for.

Across an edge at which two faces meet smoothly the true surface goes on bending. From the edges of a triangle follows the
direction of the true surface at each of its places, and from that its distance: of faces that touch what is round in their
middles it grows with the square of the way from there, else it is nothing at their corners. What is cut out of such
faces has the same distances, also where no edge is left that tells of them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.meshes.mesh import CREASE, Mesh, neighbours
from ovolo.geometry.same import LEAST, SAME_SHARE
from ovolo.geometry.tolerance import Chords
from ovolo.geometry.types import Floats
from ovolo.geometry.vectors import cross_product, dot_product


class Faces(Struct, frozen=True, eq=False):
    """A mesh whose faces stand for round ones, which they miss by no more than `most` mm. Spare ones only count where no
    others are known."""

    mesh: Mesh
    chords: Chords
    most: float
    spare: bool = False


class Bends(Struct, frozen=True, eq=False):
    """How true surfaces bend away from the planes of k faces.

    ways (k, 2, 3) are the directions in them along which the surface bends most and least. At a place p, with
    u = ways · (p - centre), the true normal is turned along the ways by tilts + turns u, and the plane lies outside of the
    true surface by levels + leans · u + turns · u² / 2 (mm), which is no more than most. Whether it lies outside or within
    is sure for some.
    """

    centres: Floats
    ways: Floats
    tilts: Floats
    turns: Floats
    levels: Floats
    leans: Floats
    most: Floats
    sure: NDArray[np.bool_]

    def looked_at(self, signs: Floats) -> Bends:
        """The same faces, those where the sign (k,) is -1 from the other side."""
        kept = {"centres", "ways", "most", "sure"}
        columns = [(name, getattr(self, name)) for name in self.__struct_fields__]
        return Bends(*(c if name in kept else (c.T * signs).T for name, c in columns))

    def away(self, places: Floats) -> tuple[Floats, Floats]:
        """At places (k, n, 3) of the planes, the square of the angle by which the true normal is turned (k, n), and how far
        outside of the true surface they lie (k, n)."""
        along = (places - self.centres[:, None]) @ self.ways.swapaxes(1, 2)
        turned = self.turns[:, None] * along
        heights = self.levels[:, None] + dot_product(self.leans[:, None] + turned / 2, along)
        most = self.most[:, None]
        # Beside a needle it may be anything.
        tilts = np.clip(self.tilts[:, None] + turned, -math.pi, math.pi)
        return dot_product(tilts, tilts), np.clip(heights, -most, most)


class Missed(Struct, frozen=True):
    """By what shares a mesh may be wrong: of its volume, of its surface, and of its size where its centre or its bounds
    are asked for."""

    volume: float = 0.0
    surface: float = 0.0
    centre: float = 0.0
    bounds: float = 0.0

    def and_of(self, other: Missed, part: float) -> Missed:
        """Together with what another mesh misses, of which this one's is a part."""
        return Missed(
            self.volume + part * other.volume,
            self.surface + part * other.surface,
            self.centre + other.centre,
            self.bounds + other.bounds,
        )


_SURELY = 1.5
"""What is said to be missed is this much more than what is reckoned: chords are short, but not without end. A single place,
with nothing to make up for it, once more."""

_NEVER_LESS = 0.1
"""Of what is missed inwards and outwards together this share is told at least."""

_MOST = 20_000
"""So many triangles are looked at; of more, every second, every third and so on stands for those beside it."""


def missed(mesh: Mesh, made_of: Sequence[Faces]) -> Missed:
    """By what shares a mesh misses what it stands for: its faces are parts of those of some others, or its own."""
    if not made_of:
        return Missed()
    step = math.ceil(len(mesh.triangles) / _MOST)
    at, bends = _found(mesh, np.arange(0, len(mesh.triangles), step), made_of)
    if not len(at):
        return Missed()
    places = mesh.corners[mesh.triangles[at]]
    sides = places[:, [1, 2, 0]] - places
    areas = step * np.linalg.norm(cross_product(sides[:, 0], sides[:, 1]), axis=1) / 2
    # The mean of a square over a triangle is that of the middles of its sides.
    squares, heights = bends.away(places + sides / 2)
    ends = bends.away(places)[1]
    deep = areas * heights.mean(axis=1)
    tilted = float(areas @ np.minimum(squares, CREASE**2).mean(axis=1))
    # At an edge the other face ends elsewhere, by the height over the sine of the angle (Simpson's rule along the side).
    along = np.abs(ends + 4 * heights + ends[:, [1, 2, 0]]) / 6 * np.linalg.norm(sides, axis=2)
    steep = _steepness(mesh)[at]
    shifted = step * float(np.sum(along * steep))
    gross = float(np.abs(deep).sum())
    net = abs(float(deep[bends.sure].sum())) + float(np.abs(deep[~bends.sure]).sum())
    size = float(np.ptp(mesh.corners, axis=0).max())
    whole = gross / mesh.volume()
    # An edge lies as far out of both faces as these do, where they meet at right angles; what lies farthest out may be
    # halfway along it.
    beside = np.maximum(np.abs(heights), np.maximum(np.abs(ends), np.abs(ends[:, [1, 2, 0]])))
    out = float((beside * np.maximum(steep, 1.0)).max()) / size
    return Missed(
        _SURELY * max(net / mesh.volume(), _NEVER_LESS * whole),
        _SURELY * max((tilted + shifted) / mesh.area(), whole),
        _SURELY * max(out, whole),
        _SURELY**2 * out,
    )


class _Bent(Struct, frozen=True, eq=False):
    """Which triangles (k,) of some faces stand for something round: their normals, and by how much the true normal differs
    at the middles of their sides (k, 3, 3)."""

    faces: Faces
    at: NDArray[np.int64]
    normals: Floats
    tilts: Floats

    @property
    def planes(self) -> Floats:
        """Their normals and offsets (k, 4)."""
        mesh = self.faces.mesh
        first = mesh.corners[mesh.triangles[self.at, 0]]
        return np.column_stack([self.normals, dot_product(self.normals, first)])


def _bent(faces: Faces) -> _Bent:
    units, spans = _units(faces.mesh)
    tilts = _tilts_at_sides(faces.mesh, units, spans)
    at = np.flatnonzero(np.abs(tilts).max(axis=(1, 2)) > SAME_SHARE)
    return _Bent(faces, at, units[at], tilts[at])


def _bends(bent: _Bent, some: NDArray[np.int64]) -> Bends:
    """How some of the triangles bend."""
    faces, at, normals, tilts = bent.faces, bent.at[some], bent.normals[some], bent.tilts[some]
    mesh = faces.mesh
    places = mesh.corners[mesh.triangles[at]]
    centres = places.mean(axis=1)
    # How the share of each corner changes over a triangle: inwards from the side over against it.
    sides = places[:, [2, 0, 1]] - places[:, [1, 2, 0]]
    spans = np.maximum(np.linalg.norm(cross_product(sides[:, 0], sides[:, 1]), axis=1), LEAST)
    shares = cross_product(normals[:, None], sides) / spans[:, None, None]
    # The tilt is linear, and has its values at the middles of the sides (Crouzeix and Raviart 1973).
    turns, ways = _principal(normals, sides[:, 0], -2 * tilts[:, [1, 2, 0]], shares)
    middle = (ways @ tilts.mean(axis=1)[:, :, None])[:, :, 0]
    if faces.chords != "unknown":
        # It touches where the tilt is nothing, the nearest to the centre.
        bending = np.abs(turns) > _FLAT * np.abs(turns).max(axis=1, keepdims=True)
        back = np.where(bending, middle / np.where(bending, turns, 1.0), 0.0)
        levels, leans = dot_product(turns, back**2) / 2, turns * back
    else:
        # Where it bends outwards one way and inwards the other, it is not sure which of them the faces follow.
        turns = np.abs(turns)
        along = (places - centres[:, None]) @ ways.swapaxes(1, 2)
        corners = dot_product(turns[:, None], along**2) / 2
        levels = -corners.mean(axis=1)
        leans = -(ways @ (corners[:, None] @ shares).swapaxes(1, 2))[:, :, 0]
    most = np.full(len(at), faces.most)
    sure = np.full(len(at), faces.chords == "outside")
    return Bends(centres, ways, middle, turns, levels, leans, most, sure)


_FLAT = 1e-3
"""A direction in which a surface bends by less than this share of where it bends most is straight."""


def _principal(
    normals: Floats, side: Floats, tilts: Floats, shares: Floats
) -> tuple[Floats, Floats]:
    """How much a surface bends (k, 2) along the directions (k, 2, 3) in which that is most and least: of the change of the
    tilt, the sum of tilts (k, 3, 3) by shares (k, 3, 3), what is the same both ways round."""
    x = side / np.maximum(np.linalg.norm(side, axis=1), LEAST)[:, None]
    plane = np.stack([x, cross_product(normals, x)], axis=1)
    change = (tilts @ plane.swapaxes(1, 2)).swapaxes(1, 2) @ (shares @ plane.swapaxes(1, 2))
    a, b, c = change[:, 0, 0], (change[:, 0, 1] + change[:, 1, 0]) / 2, change[:, 1, 1]
    turn = np.arctan2(2 * b, a - c) / 2
    reach = np.hypot((a - c) / 2, b)
    cosine, sine = np.cos(turn), np.sin(turn)
    frame = np.stack([np.stack([cosine, sine], axis=1), np.stack([-sine, cosine], axis=1)], axis=1)
    return np.stack([(a + c) / 2 + reach, (a + c) / 2 - reach], axis=1), frame @ plane


def _tilts_at_sides(mesh: Mesh, units: Floats, spans: Floats) -> Floats:
    """By how much the true normal differs from that of each triangle at the middle of each of its sides, (m, 3, 3). Where a
    large face meets a small one, the true surface goes on as the large one does: there it has long been flat."""
    first, second, is_edge = neighbours(mesh, np.ascontiguousarray(units.T), CREASE)
    tilts = np.zeros((len(mesh.triangles) * 3, 3))
    one, other = first[~is_edge], second[~is_edge]
    weights = spans[one // 3] ** 2, spans[other // 3] ** 2
    apart = units[other // 3] - units[one // 3]
    whole = np.maximum(weights[0] + weights[1], LEAST)
    tilts[one] = apart * (weights[1] / whole)[:, None]
    tilts[other] = -apart * (weights[0] / whole)[:, None]
    own = np.repeat(units, 3, axis=0)
    return (tilts - dot_product(tilts, own)[:, None] * own).reshape(-1, 3, 3)


def _units(mesh: Mesh) -> tuple[Floats, Floats]:
    """The normals of the triangles (m, 3), and twice their areas (m,)."""
    vectors = mesh.area_vectors()
    spans = np.linalg.norm(vectors, axis=1)
    return vectors / np.where(spans > 0, spans, 1.0)[:, None], spans


def _steepness(mesh: Mesh) -> Floats:
    """For each side (m, 3) one over the sine of the angle at which another face meets it there; 0 where the surface goes
    on smoothly."""
    units = _units(mesh)[0]
    first, second, is_edge = neighbours(mesh, np.ascontiguousarray(units.T), CREASE)
    one, other = first[is_edge], second[is_edge]
    sines = np.linalg.norm(cross_product(units[one // 3], units[other // 3]), axis=1)
    found = np.zeros(3 * len(mesh.triangles))
    found[one] = found[other] = 1 / np.maximum(sines, _FLATTEST)
    return found.reshape(-1, 3)


_FLATTEST = 0.1


def _found(
    mesh: Mesh, some: NDArray[np.int64], made_of: Sequence[Faces]
) -> tuple[NDArray[np.int64], Bends]:
    """Which of some triangles of a mesh lie in bent faces of those it was made of, (k,), and how these bend."""
    if [one.mesh for one in made_of] == [mesh]:
        own = _bent(made_of[0])
        which = np.flatnonzero(np.isin(own.at, some))
        return own.at[which], _bends(own, which)
    at, bends = _among(mesh, some, [_bent(one) for one in made_of if not one.spare])
    spare = [_bent(one) for one in made_of if one.spare]
    if not spare:
        return at, bends
    more, others = _among(mesh, np.setdiff1d(some, at), spare)
    return np.concatenate([at, more]), _together([bends, others])


def _together(every: Sequence[Bends]) -> Bends:
    columns = [[getattr(bends, name) for bends in every] for name in Bends.__struct_fields__]
    return Bends(*(np.concatenate(column) for column in columns))


def _among(
    mesh: Mesh, some: NDArray[np.int64], known: Sequence[_Bent]
) -> tuple[NDArray[np.int64], Bends]:
    """Which of some triangles lie in faces that are bent; one that was cut away from another looks the other way in it."""
    planes = np.concatenate([np.zeros((0, 4)), *(one.planes for one in known)])
    if not len(planes):
        return some[:0], _bends(known[0], np.zeros(0, dtype=np.int64))
    units = _units(mesh)[0][some]
    size = float(np.abs(mesh.corners).max())
    ours = np.column_stack([units, dot_product(units, mesh.corners[mesh.triangles[some, 0]])])
    grid = _SAME_PLANE * np.array([1.0, 1.0, 1.0, size])
    ours, theirs = ours / grid, np.concatenate([planes, -planes]) / grid
    at = np.full(len(some), -1)
    for shift in (0.0, 0.5):  # what lies beside a line of one grid lies within a cell of the other
        left = np.flatnonzero(at < 0)
        if not len(left):
            break
        at[left] = _equal_rows(np.round(ours[left] + shift), np.round(theirs + shift))
    found = np.flatnonzero(at >= 0)
    which, over = at[found] % len(planes), at[found] >= len(planes)
    ends = np.cumsum([0, *(len(one.at) for one in known)])
    order = np.argsort(np.searchsorted(ends, which, side="right"), kind="stable")
    which, over = which[order], over[order]
    parts = [_bends(one, which[(which >= low) & (which < low + len(one.at))] - low) for one, low in zip(known, ends[:-1], strict=True)]  # fmt: skip
    return some[found[order]], _together(parts).looked_at(np.where(over, -1.0, 1.0))


_SAME_PLANE = 1e-5
"""Planes that differ by less, as a share of where they lie, are one."""


def _equal_rows(ours: Floats, theirs: Floats) -> NDArray[np.int64]:
    """For each row (4) of whole numbers one of theirs that is equal; -1 where there is none."""
    factors = np.array([1, 2_000_003, 4_000_012_000_009, 7_919_000_000_000_007], dtype=np.int64)
    known, asked = (rows.astype(np.int64) @ factors for rows in (theirs, ours))
    order = np.argsort(known)
    near = order[np.minimum(np.searchsorted(known, asked, sorter=order), len(order) - 1)]
    return np.where((theirs[near] == ours).all(axis=1), near, -1)
