"""Walls along the surface of a solid: all that lies within a thickness of its faces, and, along edges and at corners
where faces turn inwards, as far as where their moved planes meet."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import cached_property
from itertools import chain, groupby
from typing import TYPE_CHECKING, Any

import manifold3d
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.groups import groups_of
from ovolo.geometry.meshes.mesh import CREASE, Mesh, corner_angles, neighbours, onward
from ovolo.geometry.same import ROUNDING, SAME_PLACE, SAME_SHARE
from ovolo.geometry.solids.solid import kernels_own, united
from ovolo.geometry.types import Floats, Points
from ovolo.geometry.vectors import cross_product, dot_product

if TYPE_CHECKING:
    from scipy.sparse import csr_array

_SHARPEST = 0.02
"""How much more than -1 the product of two normals is for a mitre between them: some 12 degrees of space."""

_MOST_PIECES = 2_500
"""Of so many pieces walls are put together, which takes the kernel some seconds."""

_FEW_PIECES = 300
"""Of so many it is quick."""

_FLAT = 1e-6
"""What turns by less (radians) is one flat face."""

_SAME_WAY = 1e-6
"""The share by which planes of flat faces differ at least in a direction that they are moved in."""

_ALIKE = 0.01
"""The same of faces that join smoothly, or along an edge: planes that turn by less than some 12 degrees are nearly one,
and where three of them meet lies far from where they do."""

_CLOSENESS = (
    ((_SAME_WAY, _FLAT, 0),),
    ((_ALIKE, math.radians(8), 10), (_ALIKE, math.radians(8), 0)),
    ((_ALIKE, CREASE, 10), (_ALIKE, CREASE, 0)),
)
"""The ways to part faces, the closest first: that share, by which turn (radians), and how often rims are evened."""

_MOST_ROUNDS = 30
"""So often places are moved as those about them, until no triangle turns round."""


class Planes(Struct, frozen=True, eq=False, dict=True):
    """The planes of a surface, and how far each triangle's plane (m,) moves outwards (mm)."""

    mesh: Mesh
    normals: Points
    sizes: Floats
    distances: Floats

    def met(self, least: float = _SAME_WAY) -> Points:
        """By how much the corners (n, 3) move: to where the planes round each meet, or come nearest to meeting."""
        corners = self.mesh.triangles.astype(np.int64)
        return self.meeting(corners, len(self.mesh.corners)).moves(least)

    def meeting(self, group: NDArray[np.int64], count: int) -> Meeting:
        """What is known of the meeting of planes by group, of `count`, of each triangle's corners (m, 3)."""
        weights = np.repeat(self.sizes > 0, 3) * self._angles
        n = np.repeat(self.normals, 3, axis=0)
        square = np.zeros((count, 3, 3))
        np.add.at(square, group.reshape(-1), weights[:, None, None] * n[:, :, None] * n[:, None, :])
        wanted = np.zeros((count, 3))
        np.add.at(wanted, group.reshape(-1), (weights * np.repeat(self.distances, 3))[:, None] * n)
        return Meeting(square, wanted)

    def no_nearer(self, moves: Points, at: NDArray[Any]) -> Points:
        """Moves (k, 3) inwards, made longer until none goes less far than the planes of the triangles, whose corners
        are `at` (m, 3), do."""
        along = np.einsum("mki,mi->mk", moves[at], self.normals)
        sinks = (along < -ROUNDING) & (self.distances[:, None] < 0)
        further = np.where(sinks, self.distances[:, None] / np.minimum(along, -ROUNDING), 1.0)
        most = np.ones(len(moves))
        np.maximum.at(most, at.reshape(-1), further.reshape(-1))
        found: Points = moves * most[:, None]
        return found

    @cached_property
    def _angles(self) -> Floats:
        return corner_angles(self.mesh)

    @cached_property
    def edges(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The two half-edges (3 * triangle + side) of each edge (e,)."""
        first, second, _ = neighbours(self.mesh, np.ascontiguousarray(self.normals.T), CREASE)
        return first, second


class Meeting(Struct, frozen=True, eq=False):
    """Where planes meet (k places): the sums of n nᵀ (k, 3, 3) and of d n (k, 3), of normal equations."""

    square: Floats
    wanted: Floats

    def moves(self, least: float) -> Points:
        """By least squares. Where all planes are one, or two, a corner moves along them no farther than it must: that is
        so where they differ in a direction by less than a share."""
        inverse = np.linalg.pinv(self.square, rcond=least, hermitian=True)
        found: Points = np.einsum("nij,nj->ni", inverse, self.wanted)
        return found


def walls_of(planes: Planes, is_open: NDArray[np.bool_]) -> Iterator[manifold3d.Manifold]:
    """The walls along all faces but those that are open (m,), in several ways: of faces that join smoothly as one, which is
    quick but may fold where they do not quite, and the more closely the later; none that needs too many pieces."""
    ways = [[_Patches(planes, is_open, *each) for each in alike] for alike in _CLOSENESS]
    while len(ways) > 1 and ways[-2][0].count_of_pieces() <= _FEW_PIECES:
        del ways[-1]  # the closer one is quick as well
    for found in chain.from_iterable(reversed(ways)):
        if found.count_of_pieces() > _MOST_PIECES or found.turned.sum() > _MOST_PIECES:
            return
        corners = _Rims(found).pieces()
        pieces = [*found.slabs(), *(manifold3d.Manifold.hull_points(some) for some in corners)]
        if all(one.status() == manifold3d.Error.NoError for one in pieces):
            yield united(pieces)


class _Patches(Struct, frozen=True, eq=False, dict=True):
    """The parts that a surface is divided into. A corner of the surface is another place in each of them."""

    planes: Planes
    is_open: NDArray[np.bool_]
    least: float
    """The share by which planes differ in a direction that they are moved in."""
    crease: float
    """The turn (radians) from which on an edge parts them."""
    evening: int
    """So often places at rims are moved as those about them."""

    @cached_property
    def patch(self) -> NDArray[np.int64]:
        """Which part each triangle (m,) belongs to."""
        one, other = (half_edges // 3 for half_edges in self.planes.edges)
        turn = dot_product(self.planes.normals[one], self.planes.normals[other])
        joined = (turn >= math.cos(self.crease)) & (self.is_open[one] == self.is_open[other])
        return groups_of(np.column_stack([one[joined], other[joined]]), len(self.is_open))

    @cached_property
    def _places(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The places of each triangle's corners (m, 3), and of which corner of the mesh each place (k,) is."""
        parts = int(self.patch.max()) + 1
        keys = self.planes.mesh.triangles.astype(np.int64) * parts + self.patch[:, None]
        found, place = np.unique(keys, return_inverse=True)
        return place.reshape(-1, 3), found // parts

    @cached_property
    def corner(self) -> NDArray[np.int64]:
        """Of which corner of the mesh each place (k,) is."""
        return self._places[1]

    @cached_property
    def place_is_open(self) -> NDArray[np.bool_]:
        """Which places (k,) are of open faces."""
        found = np.zeros(len(self.corner), dtype=bool)
        found[self._places[0][self.is_open]] = True
        return found

    @cached_property
    def meeting(self) -> Meeting:
        return self.planes.meeting(self._places[0], len(self.corner))

    @cached_property
    def here(self) -> Points:
        """Where the places (k, 3) are."""
        found: Points = self.planes.mesh.corners[self.corner]
        return found

    @cached_property
    def moved(self) -> Points:
        """Where they are (k, 3) once the planes of their patch have moved. At a rim, which cuts through facets of round
        faces, and where that turns triangles round, they go as those about them do on average."""
        place = self._places[0]
        moves = self.meeting.moves(self.least)
        rim = np.unique(np.concatenate([self.ends(side) for side in self.borders]))
        for _ in range(self.evening):
            moves[rim] = (self._neighbours @ moves)[rim]
        moves = self.planes.no_nearer(moves, place)
        for _ in range(_MOST_ROUNDS):
            turned = self._turned_by(moves)
            if not turned.any():
                break
            uneven = np.unique(place[turned])
            moves[uneven] = (self._neighbours @ moves)[uneven]
        found: Points = np.add(self.here, self.planes.no_nearer(moves, place))
        return found

    @cached_property
    def _neighbours(self) -> csr_array:
        """The mean of the places (k, k) about each, the nearer the more."""
        from scipy.sparse import csr_array

        place, count = self._places[0], len(self.corner)
        begin, end = place.reshape(-1), np.roll(place, -1, axis=1).reshape(-1)
        near = 1 / np.maximum(np.linalg.norm(self.here[end] - self.here[begin], axis=1), SAME_PLACE)
        ends = np.r_[begin, end], np.r_[end, begin]
        found = csr_array((np.r_[near, near], ends), shape=(count, count))
        return found.multiply(1 / found.sum(axis=1)[:, None]).tocsr()

    def _turned_by(self, moves: Points) -> NDArray[np.bool_]:
        inner = Mesh(self.here + moves, self._places[0].astype(np.int32))
        turns = dot_product(inner.area_vectors(), self.planes.normals)
        found: NDArray[np.bool_] = turns < -SAME_SHARE * np.maximum(self.planes.sizes, 1.0)
        return found & ~self.is_open

    @cached_property
    def borders(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The half-edges (3 * triangle + side), each with the other, that lie between patches."""
        first, second = self.planes.edges
        between = self.patch[first // 3] != self.patch[second // 3]
        return first[between], second[between]

    @cached_property
    def turned(self) -> NDArray[np.bool_]:
        """Which triangles (m,) turn round when they are moved, as where a surface bends more than walls can follow, or
        are beside such ones."""
        place = self._places[0]
        at_one = np.zeros(len(self.corner), dtype=bool)
        at_one[place[self._turned_by(self.moved - self.here)]] = True
        found: NDArray[np.bool_] = at_one[place].any(axis=1) & ~self.is_open
        return found

    def count_of_pieces(self) -> int:
        return int(self.patch.max()) + len(self.borders[0])

    def slabs(self) -> Iterator[manifold3d.Manifold]:
        """Each patch, as thick as its planes move; triangles that would turn round are by themselves."""
        place = self._places[0]
        part = np.where(self.is_open | self.turned, -1, self.patch)
        first, second = self.planes.edges
        between = part[first // 3] != part[second // 3]
        half_edges = np.concatenate([first[between], second[between]])
        for faces, rim in zip(_sorted(part), _sorted(part, half_edges), strict=True):
            yield self._slab(place[faces], rim)
        for at in np.flatnonzero(self.turned):
            corners = self.here[place[at]]
            own = corners + self.planes.distances[at] * self.planes.normals[at]
            yield manifold3d.Manifold.hull_points(
                np.concatenate([corners, own, self.moved[place[at]]])
            )

    def _slab(self, triangles: NDArray[np.int64], rim: NDArray[np.int64]) -> manifold3d.Manifold:
        used, outer = np.unique(triangles, return_inverse=True)
        outer, count = outer.reshape(-1, 3), len(used)
        begin, end = (np.searchsorted(used, places) for places in self.ends(rim))
        sides = [[end, begin, begin + count], [end, begin + count, end + count]]
        faces = [outer, outer[:, ::-1] + count, *(np.column_stack(side) for side in sides)]
        corners = np.concatenate([self.here[used], self.moved[used]])
        return kernels_own(Mesh(corners, np.concatenate(faces).astype(np.int32)))

    def ends(self, half_edges: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The places at which half-edges begin and end."""
        place = self._places[0].reshape(-1)
        return place[half_edges], place[onward(half_edges)]

    @cached_property
    def tips(self) -> Points:
        """By how much the corners (n, 3) move to where none of their faces is nearer than it moves."""
        return self.planes.no_nearer(self.planes.met(self.least), self.planes.mesh.triangles)


class _Rims(Struct, frozen=True, eq=False, dict=True):
    """The edges between patches (e,): what of walls stands along those where faces turn inwards, or where one of two
    is open, and at the corners between them."""

    patches: _Patches

    @cached_property
    def _sides(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The triangles (e,) on their two sides."""
        first, second = self.patches.borders
        return first // 3, second // 3

    @cached_property
    def _places(self) -> NDArray[np.int64]:
        """The places (e, 2, 2): of each end, in the patch of either side."""
        first, second = self.patches.borders
        (begin, end), (end_beside, begin_beside) = map(self.patches.ends, (first, second))
        return np.stack([begin, begin_beside, end, end_beside], axis=1).reshape(-1, 2, 2)

    @cached_property
    def _mitres(self) -> Points:
        """Where both sides meet at the ends, (e, 2, 3), once they have moved: the planes square to their moves."""
        ends = self._places.reshape(-1, 2)
        moves = self.patches.moved[ends] - self.patches.here[ends]
        far = np.linalg.norm(moves, axis=2)
        ways = moves / np.maximum(far, SAME_PLACE)[:, :, None]
        both = Meeting(np.einsum("epi,epj->eij", ways, ways), np.einsum("epi,ep->ei", ways, far))
        found: Points = self.patches.here[ends[:, 0]] + both.moves(self.patches.least)
        return found.reshape(-1, 2, 3)

    @cached_property
    def _turn(self) -> Floats:
        """The products (e,) of the normals of both sides."""
        one, other = (self.patches.planes.normals[side] for side in self._sides)
        return dot_product(one, other)

    @cached_property
    def _turns_inwards(self) -> NDArray[np.bool_]:
        """Along which edges (e,) the walls of two faces part."""
        one, other = self._sides
        normals, is_open = self.patches.planes.normals, self.patches.is_open
        here = self.patches.here[self._places[:, :, 0]]
        along = dot_product(cross_product(normals[one], normals[other]), here[:, 1] - here[:, 0])
        lengths = np.linalg.norm(here[:, 1] - here[:, 0], axis=1)
        found: NDArray[np.bool_] = (along < -_FLAT * lengths) & ~is_open[one] & ~is_open[other]
        return found

    @cached_property
    def _ends_wall(self) -> NDArray[np.bool_]:
        """At which edges (e,) a wall ends at an open face, and goes on beneath it as its plane does."""
        one, other = (self.patches.is_open[side] for side in self._sides)
        return (one ^ other) & (self._turn < math.cos(CREASE))

    def pieces(self) -> Iterator[Points]:
        """The corners (n, 3) of convex pieces."""
        here, moved = self.patches.here, self.patches.moved
        for row in np.flatnonzero(self._turns_inwards | self._ends_wall):
            places = self._places[row].reshape(-1)
            walls = ~self.patches.is_open[np.array([side[row] for side in self._sides] * 2)]
            mitres = self._mitres[row] if self._turn[row] > _SHARPEST - 1 else here[:0]
            yield np.concatenate([here[places[::2]], moved[places[walls]], mitres])
        yield from self._at_corners()

    def _at_corners(self) -> Iterator[Points]:
        """Between the ends of three or more patches' walls; where none of them meet, as far as their tip."""
        patches = self.patches
        rows = np.flatnonzero(self._turns_inwards | self._ends_wall)
        corners = patches.corner[self._places[:, :, 0]]  # (e, 2)
        borders = np.bincount(corners.reshape(-1), minlength=len(patches.tips))
        ends = [(row, end) for row in rows for end in (0, 1)]
        for at, found in groupby(
            sorted(ends, key=lambda one: corners[one]), lambda one: corners[one]
        ):
            met = list(found)
            places = np.unique([self._places[one] for one in met])
            places = places[~patches.place_is_open[places]]
            if len(met) < 2 or not self._turns_inwards[[row for row, _ in met]].any():
                continue
            blunt = [self._mitres[one] for one in met if self._turn[one[0]] > _SHARPEST - 1]
            parted = len(places) > 2 and len(met) == borders[at]
            tip = [patches.here[places[0]] + patches.tips[at]] if parted else []
            yield np.array([patches.here[places[0]], *patches.moved[places], *blunt, *tip])


def _sorted(
    part: NDArray[np.int64], half_edges: NDArray[np.int64] | None = None
) -> list[NDArray[np.int64]]:
    """The triangles of each part, of those that have a number (m,); or of half-edges, those on each part's side."""
    which = part if half_edges is None else part[half_edges // 3]
    order = np.argsort(which, kind="stable")
    numbers = np.unique(part[part >= 0])
    starts, ends = (np.searchsorted(which[order], numbers, side) for side in ("left", "right"))
    found = [order[start:end] for start, end in zip(starts, ends, strict=True)]
    return found if half_edges is None else [half_edges[one] for one in found]
