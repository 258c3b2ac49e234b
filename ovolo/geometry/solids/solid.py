"""Solids: closed shapes, each in a place. Many copies of one shape stay one shape.

A `Shape` is a mesh in its own coordinates, named by a digest of how it was made, with the form it
stands for where that is known; a `Solid` is a shape and a placement; `Copies` are one shape and n
placements.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from typing import Any

import manifold3d
import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from ovolo.geometry.coat import Coat, everything
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.bent import Faces, Missed, missed
from ovolo.geometry.meshes.hull import convex_hull
from ovolo.geometry.meshes.mesh import Drawing, Mesh, drawing_of
from ovolo.geometry.placement import IDENTITY, Matrix, applied, determinant
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.solids.forms import Form
from ovolo.geometry.thing import OBJECT, Measure, Thing
from ovolo.geometry.tolerance import (
    CHORD_TOLERANCE,
    Chords,
    chord_tolerance,
    chords_together,
    divided_to,
    missed_by_chords,
    missed_by_faces,
)
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure
from ovolo.remembering import Remembered

MOST_TRIANGLES = 5_000_000
_DEEPEST = 32
"""What was cut so many times one after the other, and has no round faces, no longer holds what it was cut out of."""


_OF_A_TRIANGLE = 350
"""Bytes, measured: in the kernel 230, as a mesh 55, the rest for its edges and its drawing."""

Make = Callable[[], manifold3d.Manifold]


class Shape:
    """A closed mesh in its own coordinates. Immutable; equal keys mean equal meshes."""

    def __init__(
        self,
        key: str,
        manifold: manifold3d.Manifold | Make,
        form: Callable[[], Form | None] | None = None,
        flat: bool | Callable[[], bool] = False,
        why_empty: str = "",
        cut_out_of: Sequence[tuple[Shape, Matrix]] = (),
        chords: Chords = "unknown",
        uncut: Callable[[], list[Mesh]] | None = None,
        before: Callable[[], Missed] | None = None,
        waits: int = 0,
        in_plan: bool = False,
        off: float | Callable[[], float] | None = None,
        made_of: Sequence[Solid] = (),
    ) -> None:
        self.key = key
        self._manifold = manifold
        self._form = form
        self._flat = flat
        self.why_empty = why_empty
        self.chords: Chords = (
            chords_together(one.chords for one, _ in cut_out_of) if cut_out_of else chords
        )
        """How its faces lie to what is round."""
        self._depth: int = 1 + max((one._depth for one, _ in cut_out_of), default=0)
        self._cut_out_of = () if self._depth > _DEEPEST and self.flat else cut_out_of
        self._uncut = uncut
        self._before = before
        self._waits = waits
        self._in_plan, self._known_off = in_plan, off
        self._off_before = max((one.misses for one in made_of), default=0.0)
        self._tolerance = chord_tolerance()

    @cached_property
    def manifold(self) -> manifold3d.Manifold:
        """The kernel's own object: made when it is looked at first, where it could wait."""
        if not callable(self._manifold):
            return self._manifold
        with divided_to(self._tolerance):
            made = self._manifold()
        self._manifold = made  # what it was made from is needed no longer
        return made

    @cached_property
    def flat(self) -> bool:
        """Whether its faces are truly those of its mesh, and not chords of round ones."""
        flat = self._flat() if callable(self._flat) else self._flat
        self._flat = flat
        return flat

    @cached_property
    def form(self) -> Form | None:
        """What it truly is, where that is known."""
        form = self._form() if self._form is not None else None
        self._form = None  # what it was made from is needed no longer
        return form

    @property
    def is_empty(self) -> bool:
        return bool(self.why_empty)

    @property
    def exact(self) -> bool:
        """Whether volume, centre and bounds are those of the true solid."""
        return self.flat or self.is_empty or (self.form is not None and self.form.exact)

    @property
    def complete(self) -> bool:
        """Whether its centre and its bounds are exact as well."""
        known = self.form is not None and self.form.exact and self.form.complete
        return self.flat or self.is_empty or known

    @property
    def within(self) -> float:
        """By what share its volume may differ from that of the true solid; 0 where it is exact."""
        return self.within_of("volume")

    def within_of(self, measure: Measure, placed: Matrix | None = None) -> float:
        """The same of one of its measures, placed by a matrix (4, 4) or by many (n, 4, 4), as far as that is not known by a
        formula."""
        if measure == "volume":
            known = self.exact
        elif measure in ("centre", "bounds"):
            known = self.complete
        else:
            known = self.exact and self._surface_known(placed)
        return 0.0 if known else float(getattr(self.missed, measure))

    def _surface_known(self, placed: Matrix | None) -> bool:
        """There may be a formula for it as it is, and none for it stretched."""
        if self.flat or self.form is None:
            return True
        every = IDENTITY[None] if placed is None else placed.reshape(-1, 4, 4)
        stretched = every[_stretched(every)]
        return (
            self.form.area(stretched[0, :3, :3]) is not None
            if len(stretched)
            else self._own_surface_known
        )

    @cached_property
    def _own_surface_known(self) -> bool:
        return self.form is None or self.form.area(np.eye(3)) is not None

    @cached_property
    def missed(self) -> Missed:
        """By what shares its mesh may be wrong: as its faces bend, and as what they were made from did."""
        found = missed(self.mesh, self._round_faces())
        for shape, matrix in () if self.flat else self.made_from():
            if shape._before is not None:
                volume = abs(float(determinant(matrix))) * shape.mesh.volume()
                found = found.and_of(shape._before(), volume / self.mesh.volume())
        return found

    @property
    def is_cut(self) -> bool:
        """Whether its faces are parts of those of others."""
        return bool(self._cut_out_of)

    def _round_faces(self) -> list[Faces]:
        """The faces of which its own are parts, as far as they are round."""
        found: list[Faces] = []
        for shape, matrix in () if self.flat else self.made_from():
            if not shape.flat and not shape.is_empty:
                uncut = shape._uncut() if shape._uncut is not None else []
                every = [(one, False) for one in uncut] + [(shape.mesh, bool(uncut))]
                most = 2 * shape._misses(matrix)
                found += [Faces(_moved(mesh, matrix), shape.chords, most, spare) for mesh, spare in every]  # fmt: skip
        return found

    def misses(self, matrix: Matrix) -> float:
        """By how many mm its faces, placed by a matrix (4, 4), may lie beside those of the true solid."""
        every = () if self.flat else self.made_from()
        return max((shape._misses(matrix @ at) for shape, at in every), default=0.0)

    def _misses(self, matrix: Matrix) -> float:
        """The same of what was not cut out of anything."""
        if self.flat or self.is_empty:
            return 0.0
        ways = matrix[:3, :2] if self._in_plan else matrix[:3, :3]
        return self._off * float(np.linalg.norm(ways, 2))

    @cached_property
    def _off(self) -> float:
        """The same in its own coordinates."""
        if self._known_off is not None:
            return self._known_off() if callable(self._known_off) else self._known_off
        meshes = [self.mesh, *(self._uncut() if self._uncut is not None else [])]
        size = max(float(np.ptp(mesh.corners, axis=0).max()) for mesh in meshes)
        by = missed_by_chords if self.chords == "outside" else missed_by_faces
        before = self._before().bounds if self._before is not None else 0.0
        return by(size, self._tolerance) + before * size + self._off_before

    def made_from(self) -> Iterator[tuple[Shape, Matrix]]:
        """The shapes that it was cut out of, each where it lay; itself, if there are none."""
        waiting: list[tuple[Shape, Matrix]] = [(self, IDENTITY)]
        while waiting:  # what was cut a thousand times is as deep
            shape, matrix = waiting.pop()
            if shape._cut_out_of:
                waiting.extend((one, matrix @ at) for one, at in shape._cut_out_of)
            else:
                yield shape, matrix

    @property
    def tolerance(self) -> float:
        """By how many mm its chords may miss what is round in its own coordinates: that of the run it was made in."""
        return self._tolerance

    @cached_property
    def mesh(self) -> Mesh:
        return mesh_of(self.manifold)

    @cached_property
    def drawing(self) -> Drawing:
        return drawing_of(self.mesh)

    @cached_property
    def volume(self) -> float:
        """mm³."""
        return self.mesh.volume() if self.form is None or self.flat else self.form.volume

    @cached_property
    def middle(self) -> NDArray[np.float64]:
        """The centre of volume, (3,)."""
        known = None if self.form is None or self.flat else self.form.middle
        return self.mesh.centroid() if known is None else known

    def area(self, linear: NDArray[np.float64]) -> float:
        """The surface in mm² after a change (3, 3) of its coordinates."""
        known = None if self.form is None or self.flat else self.form.area(linear)
        if known is not None:
            return known
        return Mesh(self.mesh.corners @ linear.T, self.mesh.triangles).area()

    def reach(self, ways: NDArray[np.float64]) -> NDArray[np.float64]:
        """How far it reaches in directions (k, 3): the greatest product with a place of it."""
        known = None if self.form is None or self.flat else self.form.reach(ways)
        return known if known is not None else self.drawn_reach(ways)

    def drawn_reach(self, ways: NDArray[np.float64]) -> NDArray[np.float64]:
        """The same of its mesh, which is what is drawn."""
        few = len(ways) * len(self.mesh.corners) <= 3 * _FEW
        return _reach(self.mesh.corners if few else self.extremes, ways)

    @cached_property
    def extremes(self) -> NDArray[np.float64]:
        """The corners of the convex hull (k, 3): whatever the placement, they bound the shape."""
        hull = convex_hull(self.mesh.corners)
        return self.mesh.corners if hull is None else hull.corners

    @cached_property
    def closed(self) -> bool:
        return not self.is_empty and self.mesh.is_closed() and self.mesh.volume() > 0

    @property
    def triangle_count(self) -> int:
        return int(self.manifold.num_tri())

    @property
    def weight(self) -> int:
        """Bytes, about."""
        return 2_000 + _OF_A_TRIANGLE * (self._waits or self.triangle_count)


def _moved(mesh: Mesh, matrix: Matrix) -> Mesh:
    """The mesh moved by a matrix (4, 4), its outside outside."""
    if matrix is IDENTITY:
        return mesh
    triangles = mesh.triangles[:, ::-1] if determinant(matrix) < 0 else mesh.triangles
    return Mesh(applied(matrix, mesh.corners), np.ascontiguousarray(triangles))


class Solid(Thing, Struct, frozen=True, eq=False, dict=True):
    """A shape where it stands: placed by a matrix (4, 4), with what clings to it."""

    word = "solid"
    many = True

    shape: Shape
    matrix: Matrix = field(default_factory=lambda: IDENTITY)
    coat: Coat | None = None

    def placed(self, matrix: Matrix) -> Solid | Copies:
        """The solid moved by one matrix (4, 4), or copied by many (n, 4, 4)."""
        together = matrix @ self.matrix
        made = Solid if matrix.ndim == 2 else Copies
        return made(self.shape, together, self.coat)

    @cached_property
    def key(self) -> str:
        return digest(self.shape.key, self.matrix)

    @property
    def is_empty(self) -> bool:
        return self.shape.is_empty

    @property
    def why_empty(self) -> str:
        return self.shape.why_empty

    @property
    def within(self) -> float:
        """By what share its volume may be wrong; 0 where it is exact."""
        return self.shape.within

    def within_of(self, measure: Measure) -> float:
        """The same of one measure."""
        return self.shape.within_of(measure, self.matrix)

    @property
    def misses(self) -> float:
        """By how many mm its faces may lie beside those of the true solid; 0 where they are flat."""
        return self.shape.misses(self.matrix)

    @property
    def volume(self) -> float:
        """Volume in mm³."""
        return self.shape.volume * abs(float(determinant(self.matrix)))

    @cached_property
    def mesh(self) -> Mesh:
        """The mesh in space."""
        return _moved(self.shape.mesh, self.matrix)

    @property
    def centroid(self) -> NDArray[np.float64]:
        """Its centre of volume in space, (3,)."""
        middle: NDArray[np.float64] = applied(self.matrix, self.shape.middle[None])[0]
        return middle

    @property
    def area(self) -> float:
        """Surface area in mm²."""
        return _areas(self.shape, self.matrix[None])

    def bounds(self) -> NDArray[np.float64]:
        """The least and greatest corner, (2, 3)."""
        return _bounds(self.shape, self.matrix[None])


class Copies(Thing, Struct, frozen=True, eq=False, dict=True):
    """A list of n solids of one shape; `matrices` is (n, 4, 4)."""

    word = "list of solids"
    many = True

    shape: Shape
    matrices: Matrix
    coat: Coat | None = None

    def __len__(self) -> int:
        return len(self.matrices)

    def __iter__(self) -> Iterator[Solid]:
        return (Solid(self.shape, matrix, self.coat) for matrix in self.matrices)

    def __getitem__(self, index: Any) -> Solid | Copies:
        chosen = self.matrices[index]
        made = Solid if chosen.ndim == 2 else Copies
        return made(self.shape, chosen, self.coat)

    def placed(self, matrix: Matrix) -> Copies:
        """All copies moved by one matrix (4, 4), or each by its own (n, 4, 4)."""
        return Copies(self.shape, matrix @ self.matrices, self.coat)

    @cached_property
    def key(self) -> str:
        return digest(self.shape.key, self.matrices)

    @property
    def weight(self) -> int:
        return OBJECT + int(self.matrices.nbytes)

    @property
    def places(self) -> int:
        return len(self.matrices)

    @property
    def is_empty(self) -> bool:
        return self.shape.is_empty or not len(self.matrices)

    @property
    def within(self) -> float:
        """By what share their volume may be wrong; 0 where it is exact."""
        return self.shape.within

    def within_of(self, measure: Measure) -> float:
        """The same of one measure."""
        return self.shape.within_of(measure, self.matrices)

    @property
    def bounds_missed(self) -> float:
        """By how many mm the bounds of any of them may be wrong."""
        share = self.within_of("bounds")
        if not share:
            return 0.0
        longest = float(np.linalg.norm(self.matrices[:, :3, :3], axis=(1, 2)).max())
        return share * float(np.ptp(self.shape.mesh.corners, axis=0).max()) * longest

    @property
    def volume(self) -> float:
        """The volume of all together, in mm³."""
        return self.shape.volume * float(np.abs(determinant(self.matrices)).sum())

    @property
    def area(self) -> float:
        """The surface area of all together, in mm²."""
        return _areas(self.shape, self.matrices)

    def bounds(self) -> NDArray[np.float64]:
        """The least and greatest corner of all together, (2, 3)."""
        return _bounds(self.shape, self.matrices)


_FEW = 1_000_000
"""So many corners are looked at one by one sooner than their hull is made."""

_AT_ONCE = 4_000_000
"""How many numbers are worked on together, to keep within memory."""


def silhouette(shape: Shape, matrix: Matrix) -> list[NDArray[np.float64]]:
    """The outline of a placed shape seen along z: its rings, (n, 2) each."""
    seen = shape.manifold.transform(matrix[:3]).project()
    return [np.asarray(ring, dtype=float) for ring in seen.to_polygons() if len(ring) > 2]


def _bounds(shape: Shape, matrices: Matrix) -> NDArray[np.float64]:
    return _bounds_by(shape.reach, matrices)


def drawn_bounds(shape: Shape, matrices: Matrix) -> NDArray[np.float64]:
    """The least and greatest corner (2, 3) of what is drawn of a shape in some places."""
    return _bounds_by(shape.drawn_reach, matrices)


def _bounds_by(
    reach: Callable[[NDArray[np.float64]], NDArray[np.float64]], matrices: Matrix
) -> NDArray[np.float64]:
    rows = matrices[:, :3, :3].reshape(-1, 3)
    shift = matrices[:, :3, 3]
    ends = [way * reach(way * rows).reshape(-1, 3) + shift for way in (-1.0, 1.0)]
    return np.array([ends[0].min(axis=0), ends[1].max(axis=0)])


def _reach(corners: NDArray[np.float64], ways: NDArray[np.float64]) -> NDArray[np.float64]:
    found = np.empty(len(ways))
    step = max(_AT_ONCE // len(corners), 1)
    for at in range(0, len(ways), step):
        found[at : at + step] = (ways[at : at + step] @ corners.T).max(axis=1)
    return found


def _grown(linear: Matrix) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How placements (n, 3, 3) change products of directions (n, 3, 3), and squares of lengths on average (n,)."""
    gram = np.einsum("nji,njk->nik", linear, linear)
    return gram, np.trace(gram, axis1=1, axis2=2) / 3


def _stretched(matrices: Matrix) -> NDArray[np.bool_]:
    """Which of some placements (n, 4, 4) do not keep angles (n,)."""
    gram, square = _grown(matrices[:, :3, :3])
    found: NDArray[np.bool_] = (
        np.abs(gram - square[:, None, None] * np.eye(3)).max(axis=(1, 2)) > SAME_SHARE * square
    )
    return found


def _areas(shape: Shape, matrices: Matrix) -> float:
    """Areas grow with the square of the scale where a placement keeps angles; otherwise placements
    that change lengths alike have one area. Of flat faces the area vector of each triangle is
    carried by the cofactors of the matrix."""
    if shape.is_empty:
        return 0.0
    linear = matrices[:, :3, :3]
    gram, square = _grown(linear)
    uneven = _stretched(matrices)
    total = shape.area(np.eye(3)) * float(square[~uneven].sum())
    if np.any(uneven) and shape.form is not None and not shape.flat:
        scale = float(square.max())
        alike = np.round(gram[uneven].reshape(-1, 9) / scale, 13)
        _, first, counts = np.unique(alike, axis=0, return_index=True, return_counts=True)
        chosen = linear[uneven][first]
        return total + float(counts @ [shape.area(one) for one in chosen])
    columns = linear[uneven].swapaxes(1, 2)
    cofactors = cross_product(columns[:, [1, 2, 0]], columns[:, [2, 0, 1]]).swapaxes(1, 2)
    vectors = shape.mesh.area_vectors()
    step = max(_AT_ONCE // len(vectors), 1)
    for at in range(0, len(cofactors), step):
        carried = np.einsum("nij,mj->nmi", cofactors[at : at + step], vectors)
        total += float(np.linalg.norm(carried, axis=2).sum()) / 2
    return total


_SHAPES = Remembered[Shape](lambda shape: shape.weight)


def shape_made(
    key: str,
    make: Make,
    what: str,
    form: Callable[[], Form | None] | None = None,
    flat: bool | Callable[[], bool] = False,
    why_empty: str = "",
    cut_out_of: Sequence[tuple[Shape, Matrix]] = (),
    chords: Chords = "unknown",
    uncut: Callable[[], list[Mesh]] | None = None,
    before: Callable[[], Missed] | None = None,
    waits: int = 0,
    in_plan: bool = False,
    off: float | Callable[[], float] | None = None,
    made_of: Sequence[Solid] = (),
) -> Shape:
    """The shape of this key, made once; refuses what is not a closed, positive solid. `form` gives
    what it truly is, `flat` says that its mesh is just that; where `why_empty` is said, it may be
    empty. Where it is `cut_out_of` others, each moved by a matrix, its faces are parts of theirs; `chords`
    says how they lie to what is round, and `uncut` gives them as they were before; `before` tells what was
    missed already by what its faces were made from. What is sure to become one `waits` with its mesh, of
    about so many triangles, until that is looked at: of what is put together step by step only the last is. Faces
    lie beside the true ones by the tolerance, or `off` (mm), and `in_plan` only where they stand upright; where it is
    `made_of` others, by as much more as theirs do."""
    if chord_tolerance() != CHORD_TOLERANCE:
        key = f"{key}@{chord_tolerance():g}"
    known = _SHAPES.get(key)
    if known is None:
        manifold = make() if not waits else None
        if manifold is not None and why_empty and manifold.is_empty():
            known = nothing(why_empty).shape
        else:
            known = Shape(
                key,
                _sound(manifold, what) if manifold is not None else lambda: _sound(make(), what),
                form,
                flat,
                cut_out_of=cut_out_of,
                chords=chords,
                uncut=uncut,
                before=before,
                waits=waits,
                in_plan=in_plan,
                off=off,
                made_of=made_of,
            )
        _SHAPES.put(key, known)
    return known


def make_meshes(value: Any) -> None:
    """Makes the meshes of all solids within a value that wait with them."""
    for piece in everything(value):
        if isinstance(piece, Solid | Copies):
            _ = piece.shape.manifold


def missed_by_outlines(region: Region) -> Callable[[], Missed] | None:
    """What is missed already by outlines that are chords themselves; None where they are the true ones."""
    return (lambda: Missed(*[region.within] * 4)) if region.by_chords else None


def nothing(why: str) -> Solid:
    """A solid that is empty: it adds nothing and cuts nothing."""
    return Solid(Shape(f"nothing:{why}", manifold3d.Manifold(), why_empty=why))


def _sound(manifold: manifold3d.Manifold, what: str) -> manifold3d.Manifold:
    status = manifold.status()
    if status != manifold3d.Error.NoError:
        raise Failure(f"{what} cannot be made: {_STATUS.get(status, str(status))}", "")
    if manifold.is_empty():
        raise Failure(f"{what} leaves nothing", "an empty solid cannot be used further")
    if manifold.num_tri() > MOST_TRIANGLES:
        raise Failure(
            f"{what} has {manifold.num_tri():,} triangles; at most {MOST_TRIANGLES:,} are made",
            "make it coarser or split it",
        )
    if not manifold.volume() > 0:
        raise Failure(f"{what} encloses no volume", "check the order and the size of its outline")
    return manifold


_STATUS = {
    manifold3d.Error.NonFiniteVertex: "a corner lies at infinity",
    manifold3d.Error.NotManifold: "its surface is not closed",
}


def manifold_of(mesh: Mesh) -> manifold3d.Manifold:
    """The kernel's own object for a closed mesh; one that is inside out is turned."""
    found = kernels_own(mesh)
    return found if found.volume() >= 0 else kernels_own(mesh.inside_out())


def mesh_of(manifold: manifold3d.Manifold) -> Mesh:
    """The mesh of a kernel's own object."""
    raw = manifold.to_mesh64()
    corners = np.ascontiguousarray(raw.vert_properties[:, :3], dtype=np.float64)
    return Mesh(corners, np.ascontiguousarray(raw.tri_verts, dtype=np.int32))


def kernels_own(mesh: Mesh) -> manifold3d.Manifold:
    """The same, whichever side is its outside."""
    corners = np.ascontiguousarray(mesh.corners)
    triangles = np.ascontiguousarray(mesh.triangles, dtype=np.uint64)
    return manifold3d.Manifold(manifold3d.Mesh64(corners, triangles))


_BODIES_AT_ONCE = 8


def united(bodies: Sequence[manifold3d.Manifold]) -> manifold3d.Manifold:
    """The sum of bodies: of those that may touch, each group by itself; what lies apart is put side by side."""
    if len(bodies) <= _BODIES_AT_ONCE:
        return manifold3d.Manifold.batch_boolean(bodies, manifold3d.OpType.Add)
    boxes = np.array([body.bounding_box() for body in bodies]).reshape(-1, 2, 3)
    groups = [[bodies[at] for at in group] for group in near_each_other(boxes)]
    apart = [_a_few_at_a_time(manifold3d.OpType.Add, group) for group in groups]
    return manifold3d.Manifold.batch_boolean(apart, manifold3d.OpType.Add)


def common(bodies: Sequence[manifold3d.Manifold]) -> manifold3d.Manifold:
    """What bodies have in common."""
    return _a_few_at_a_time(manifold3d.OpType.Intersect, bodies)


def _a_few_at_a_time(
    operation: manifold3d.OpType, bodies: Sequence[manifold3d.Manifold]
) -> manifold3d.Manifold:
    """Those that follow each other first: where they overlap much, that is quicker than all at once, and the clock is heard
    in between."""
    bodies = list(bodies)
    while len(bodies) > 1:
        steps = range(0, len(bodies), _BODIES_AT_ONCE)
        bodies = [manifold3d.Manifold.batch_boolean(bodies[at : at + _BODIES_AT_ONCE], operation) for at in steps]  # fmt: skip
        for body in bodies:
            body.num_tri()  # it is worked out when it is asked for something
    return bodies[0]


def near_each_other(boxes: NDArray[np.float64]) -> list[NDArray[np.int64]]:
    """The numbers of boxes (n, 2, 3) in groups, each in their order, between which planes along the axes can pass."""
    found, waiting = [], [np.arange(len(boxes))]
    while waiting:
        some = waiting.pop()
        parts = next((split for axis in range(3) if len(split := _parted(some, boxes[some, :, axis])) > 1), None)  # fmt: skip
        if parts is None:
            found.append(np.sort(some))
        else:
            waiting += parts
    return found


def _parted(some: NDArray[np.int64], spans: NDArray[np.float64]) -> list[NDArray[np.int64]]:
    """Some numbers, parted where the spans (n, 2) that belong to them leave a gap."""
    order = np.argsort(spans[:, 0], kind="stable")
    reached = np.maximum.accumulate(spans[order, 1])
    return np.split(some[order], np.flatnonzero(spans[order[1:], 0] > reached[:-1]) + 1)


def in_space(solid: Solid) -> manifold3d.Manifold:
    """The kernel's own object for the solid where it stands."""
    return solid.shape.manifold.transform(np.ascontiguousarray(solid.matrix[:3]))
