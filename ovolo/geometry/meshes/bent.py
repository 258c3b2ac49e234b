"""By how much the flat faces of a mesh miss the round ones they stand for.

Across an edge at which two faces meet smoothly the true surface goes on bending. From the edges of a triangle follows the
direction of the true surface at each of its places, and from that its distance: of faces that touch what is round in their
middles it grows with the square of the way from there, else it is nothing at their corners. What is cut out of such
faces has the same distances, also where no edge is left that tells of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.meshes.mesh import CREASE, Mesh, neighbours
from ovolo.geometry.same import LEAST, SAME_SHARE
from ovolo.geometry.tolerance import Chords
from ovolo.geometry.types import Floats
from ovolo.geometry.vectors import cross_product, dot_product


@dataclass(frozen=True, slots=True, eq=False)
class Faces:
    """A mesh whose faces stand for round ones, which they miss by no more than `most` mm. Spare ones only count where no
    others are known."""

    mesh: Mesh
    chords: Chords
    most: float
    spare: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Bends:
    """How true surfaces bend away from the planes of k faces.

    normals and offsets (mm) are those of the planes. At a place p, with w = p - centre, the true normal is turned by
    tilts + turns w, and the plane lies outside of the true surface by levels + leans w + w turns w / 2 (mm), which is no
    more than most. Whether it lies outside or within is sure for some.
    """

    normals: Floats
    offsets: Floats
    centres: Floats
    tilts: Floats
    turns: Floats
    levels: Floats
    leans: Floats
    most: Floats
    sure: NDArray[np.bool_]

    def chosen(self, which: NDArray[np.int64]) -> Bends:
        return Bends(*(getattr(self, one.name)[which] for one in fields(self)))

    def turned_over(self) -> Bends:
        """The same faces looked at from the other side."""
        kept = {"centres", "most", "sure"}
        return Bends(*(value if one.name in kept else -value for one in fields(self) for value in [getattr(self, one.name)]))  # fmt: skip

    def away(self, places: Floats) -> tuple[Floats, Floats]:
        """At places (k, n, 3) of the planes, by how much the true normal is turned (k, n, 3), and how far outside of the
        true surface they lie (k, n)."""
        ways = places - self.centres[:, None]
        turned = np.einsum("kij,knj->kni", self.turns, ways)
        heights = self.levels[:, None] + np.einsum("kj,knj->kn", self.leans, ways) + dot_product(ways, turned) / 2  # fmt: skip
        return self.tilts[:, None] + turned, np.clip(heights, -self.most[:, None], self.most[:, None])  # fmt: skip


@dataclass(frozen=True, slots=True)
class Missed:
    """By what shares a mesh may be wrong: of its volume, of its surface, and of its size where its centre or its bounds
    are asked for."""

    volume: float = 0.0
    surface: float = 0.0
    places: float = 0.0


_SURELY = 1.5
"""What is said to be missed is this much more than what is reckoned: chords are short, but not without end."""

_NEVER_LESS = 0.1
"""Of what is missed inwards and outwards together this share is told at least."""


def missed(mesh: Mesh, made_of: Sequence[Faces]) -> Missed:
    """By what shares a mesh misses what it stands for: its faces are parts of those of some others, or its own."""
    at, bends = _found(mesh, made_of)
    if not len(at):
        return Missed()
    places = mesh.corners[mesh.triangles[at]]
    sides = places[:, [1, 2, 0]] - places
    areas = np.linalg.norm(cross_product(sides[:, 0], sides[:, 1]), axis=1) / 2
    # The mean of a square over a triangle is that of the middles of its sides.
    tilts, heights = bends.away(places + sides / 2)
    ends = bends.away(places)[1]
    deep = areas * heights.mean(axis=1)
    tilted = float(areas @ np.minimum(dot_product(tilts, tilts), CREASE**2).mean(axis=1))
    # At an edge the other face ends elsewhere, by the height over the sine of the angle (Simpson's rule along the side).
    along = np.abs(ends + 4 * heights + ends[:, [1, 2, 0]]) / 6 * np.linalg.norm(sides, axis=2)
    shifted = float(np.sum(along * _steepness(mesh)[at]))
    gross = float(np.abs(deep).sum())
    net = abs(float(deep[bends.sure].sum())) + float(np.abs(deep[~bends.sure]).sum())
    size = float(np.ptp(mesh.corners, axis=0).max())
    whole = gross / mesh.volume()
    return Missed(
        _SURELY * max(net / mesh.volume(), _NEVER_LESS * whole),
        _SURELY * max((tilted + shifted) / mesh.area(), whole),
        _SURELY * max(float(np.abs(ends).max()) / size, whole),
    )


def bends_of(faces: Faces) -> Bends:
    """How those of the faces bend that stand for something round."""
    mesh = faces.mesh
    units, spans = _units(mesh)
    tilts = _tilts_at_sides(mesh, units, spans)
    bent = np.flatnonzero(np.abs(tilts).max(axis=(1, 2)) > SAME_SHARE)
    tilts, normals, spans = tilts[bent], units[bent], np.maximum(spans[bent], LEAST)
    places = mesh.corners[mesh.triangles[bent]]
    centres = places.mean(axis=1)
    # How the share of each corner changes over a triangle: inwards from the side over against it.
    sides = places[:, [2, 0, 1]] - places[:, [1, 2, 0]]
    shares = cross_product(normals[:, None], sides) / spans[:, None, None]
    # The tilt is linear, and has its values at the middles of the sides (Crouzeix and Raviart 1973).
    turns = -2 * np.einsum("kni,knj->kij", tilts[:, [1, 2, 0]], shares)
    middle = tilts.mean(axis=1)
    if faces.chords != "unknown":
        # Where the tilt is nothing, the nearest to the centre.
        back = np.einsum("kij,kj->ki", np.linalg.pinv(turns, rcond=_FLAT), middle)
        levels = np.einsum("ki,kij,kj->k", back, turns, back) / 2
        leans = np.einsum("kij,kj->ki", turns + turns.swapaxes(1, 2), back) / 2
    else:
        # Where it bends outwards one way and inwards the other, it is not sure which of them the faces follow.
        sizes, ways = np.linalg.eigh((turns + turns.swapaxes(1, 2)) / 2)
        turns = np.einsum("kij,kj,klj->kil", ways, np.abs(sizes), ways)
        ways = places - centres[:, None]
        corners = np.einsum("kni,kij,knj->kn", ways, turns, ways) / 2
        levels = -corners.mean(axis=1)
        leans = -np.einsum("kn,kni->ki", corners, shares)
    most = np.full(len(bent), faces.most)
    sure = np.full(len(bent), faces.chords == "outside")
    offsets = dot_product(normals, centres)
    return Bends(normals, offsets, centres, middle, turns, levels, leans, most, sure)


_FLAT = 1e-3
"""A direction in which a surface bends by less than this share of where it bends most is straight."""


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


def _found(mesh: Mesh, made_of: Sequence[Faces]) -> tuple[NDArray[np.int64], Bends]:
    """Which triangles of a mesh lie in bent faces of those it was made of, (k,), and how these bend."""
    every = np.arange(len(mesh.triangles))
    at, bends = _among(mesh, every, [bends_of(one) for one in made_of if not one.spare])
    spare = [bends_of(one) for one in made_of if one.spare]
    if not spare:
        return at, bends
    more, others = _among(mesh, np.setdiff1d(every, at), spare)
    return np.concatenate([at, more]), _together([bends, others])


def _together(every: Sequence[Bends]) -> Bends:
    columns = [[getattr(bends, one.name) for bends in every] for one in fields(Bends)]
    return Bends(*(np.concatenate(column) for column in columns))


def _among(
    mesh: Mesh, some: NDArray[np.int64], known: Sequence[Bends]
) -> tuple[NDArray[np.int64], Bends]:
    """Which of some triangles lie in faces that bend so; one that was cut away from another looks the other way in it."""
    from scipy.spatial import cKDTree

    both = _together([*known, *(one.turned_over() for one in known)])
    if not len(both.normals):
        return some[:0], both
    units = _units(mesh)[0][some]
    size = float(np.abs(mesh.corners).max())
    centres = mesh.corners[mesh.triangles[some]].mean(axis=1)
    tree = cKDTree(np.column_stack([both.normals * size, both.offsets]))
    planes = np.column_stack([units * size, dot_product(units, centres)])
    away, nearest = tree.query(planes, distance_upper_bound=max(_SAME_PLANE * size, LEAST))
    at = np.flatnonzero(np.isfinite(away))
    return some[at], both.chosen(nearest[at])


_SAME_PLANE = 1e-5
"""Planes that differ by less, as a share of where they lie, are one."""
