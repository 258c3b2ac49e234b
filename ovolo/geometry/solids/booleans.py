"""Unions, differences and intersections of solids.

Solids that are stacks of layers along one direction are put together layer by layer, in plan: so
the result is a stack again, exact, and what touches joins. All others are cut as meshes, in the
frame of one of them, in which faces that lie upon each other are made to do so to the last digit.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from functools import cache

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.digest import digest
from ovolo.geometry.groups import groups_of
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.placement import IDENTITY, Matrix, applied, determinant
from ovolo.geometry.regions import region as regions
from ovolo.geometry.regions.region import Region, rectangle
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE, gathered
from ovolo.geometry.solids.forms import Form, Layer, Stack, together
from ovolo.geometry.solids.primitives import (
    extrusion,
    lying_flat,
    prism,
    triangles_on,
    true_rings,
    walls_on,
)
from ovolo.geometry.solids.solid import (
    Solid,
    common,
    manifold_of,
    mesh_of,
    nothing,
    shape_made,
    united,
)
from ovolo.geometry.tolerance import chords_together
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure

_SAID = {"+": "the union of these solids", "-": "the difference of these solids",
         "&": "the intersection of these solids"}  # fmt: skip


def combined(operator: str, first: Solid, *others: Solid) -> Solid:
    """Union (+), difference (-) or intersection (&), of any number at once. What is empty adds and
    cuts nothing; where nothing is left, the result is empty.

    >>> from ovolo.geometry.solids.primitives import box
    >>> round(combined("&", box(40.0, 20.0, 10.0), box(20.0, 40.0, 10.0)).volume, 6)
    4000.0
    """
    if operator == "&" and any(one.is_empty for one in (first, *others)):
        return next(one for one in (first, *others) if one.is_empty)
    solid = [one for one in others if not one.is_empty]
    if first.is_empty and operator == "+" and solid:
        first, solid = solid[0], solid[1:]
    if first.is_empty or not solid:
        return first
    if len(solid) + 1 > _MOST_AT_ONCE:
        raise Failure(f"{len(solid) + 1:,} solids are more than can be put together at once", f"at most {_MOST_AT_ONCE:,}")  # fmt: skip
    stacked = _stacked(operator, (first, *solid))
    return stacked if stacked is not None else _as_meshes(operator, (first, *solid))


_MOST_AT_ONCE = 50_000


# --- layer by layer ---


Laid = tuple[Matrix, tuple[Layer, ...]]
"""A frame, and layers in it."""


def _stacked(operator: str, solids: Sequence[Solid]) -> Solid | None:
    """The result, where all solids are stacks along one direction."""
    every = []
    for one in solids:
        ways = list(laid(one))
        if not ways:
            return None
        every.append(ways)
    for frame, _ in every[0]:
        chosen = [next((one for one in ways if _along(one[0], frame)), None) for ways in every]
        known = [one for one in chosen if one is not None]
        if len(known) == len(every):
            return _by_layers(operator, frame, [_seen_from(frame, one) for one in known])
    return None


def _along(frame: Matrix, other: Matrix) -> bool:
    return bool(np.linalg.norm(cross_product(frame[:3, 2], other[:3, 2])) < SAME_SHARE)


def laid(solid: Solid) -> Iterator[Laid]:
    """A solid as layers along one direction; a box along three."""
    form = solid.shape.form
    if not isinstance(form, Stack):
        return
    a, b, c = solid.matrix[:3, :3].T
    up = float(np.linalg.norm(c))
    if abs(float(c @ a)) + abs(float(c @ b)) > SAME_SHARE * up * float(np.linalg.norm(a) + np.linalg.norm(b)):  # fmt: skip
        return
    upright = solid.matrix.copy()
    upright[:3, 2] = c / up
    placed = [one.region.placed(upright) for one in form.layers]
    layers = tuple(
        Layer(lying_flat(region), up * one.low, up * one.high)
        for region, one in zip(placed, form.layers, strict=True)
    )
    yield placed[0].frame, layers
    if len(layers) == 1:
        yield from _lying(placed[0].frame, layers[0])


def _lying(frame: Matrix, layer: Layer) -> Iterator[Laid]:
    """A box seen along its two other directions."""
    region = layer.region
    if region.drawn or region.made_of:
        return
    (ring, *rest) = region.rings()
    if rest or len(ring) != 4:
        return
    x, y = ring[1] - ring[0], ring[3] - ring[0]
    w, h = float(np.linalg.norm(x)), float(np.linalg.norm(y))
    square = abs(float(x @ y)) < SAME_SHARE * w * h and np.abs(ring[2] - ring[0] - x - y).max() < SAME_PLACE / 10  # fmt: skip
    if not square:
        return
    middle = np.append(ring.mean(axis=0), (layer.low + layer.high) / 2)
    axes = np.array([[*x / w, 0.0], [*y / h, 0.0], [0.0, 0.0, 1.0]])
    sizes = (w, h, layer.height)
    for turn in (1, 2):
        i, j, k = np.roll([0, 1, 2], turn)
        place = np.eye(4)
        place[:3] = np.column_stack([axes[i], axes[j], axes[k], middle])
        yield frame @ place, (Layer(rectangle(sizes[i], sizes[j]), -sizes[k] / 2, sizes[k] / 2),)


def _seen_from(frame: Matrix, there: Laid) -> list[Layer]:
    """Layers in the coordinates of a frame that looks along the same direction."""
    own, layers = there
    if np.array_equal(own, frame):
        return list(layers)
    relative = np.linalg.inv(frame) @ own
    way = 1.0 if relative[2, 2] > 0 else -1.0
    rise = float(relative[2, 3])
    level = IDENTITY.copy()
    level[:2, :2], level[:2, 3] = relative[:2, :2], relative[:2, 3]
    found = []
    for one in layers:
        low, high = sorted((rise + way * one.low, rise + way * one.high))
        region = one.region.placed(level)
        found.append(Layer(_in_plan(region), low, high))
    return found


def _in_plan(region: Region) -> Region:
    """The same region with the plane it lies in as its own."""
    return region.in_plan()


def _by_layers(operator: str, frame: Matrix, solids: Sequence[Sequence[Layer]]) -> Solid:
    heights = np.array([z for layers in solids for one in layers for z in (one.low, one.high)])
    same = gathered(heights)
    heights = heights if same is None else same
    spans = iter(heights.reshape(-1, 2).tolist())
    known = [[(one.region, *next(spans)) for one in layers] for layers in solids]
    slabs: list[tuple[tuple[int | None, ...], float, float]] = []
    for low, high in itertools.pairwise(np.unique(heights).tolist()):
        middle = (low + high) / 2
        there = tuple(
            next((at for at, (_, a, b) in enumerate(layers) if a < middle < b), None)
            for layers in known
        )
        if slabs and slabs[-1][0] == there and slabs[-1][2] == low:
            slabs[-1] = (there, slabs[-1][1], high)
        else:
            slabs.append((there, low, high))
    layers = []
    for there, low, high in slabs:
        parts = [None if at is None else known[n][at][0] for n, at in enumerate(there)]
        region = _slab(operator, parts)
        if region is not None and not region.is_empty:
            layers.append(Layer(region, low, high))
    return _stack_solid(frame, _merged(layers), f"{_SAID[operator]} leaves nothing")


def _slab(operator: str, parts: Sequence[Region | None]) -> Region | None:
    """The region of a slab of heights, from those that each solid has there."""
    there = [one for one in parts if one is not None]
    if operator == "&":
        return regions.combined("&", *there) if len(there) == len(parts) else None
    if operator == "-":
        return None if parts[0] is None else regions.combined("-", *there)
    return regions.combined("+", *there) if there else None


def _merged(layers: list[Layer]) -> list[Layer]:
    """Layers with those that go on unchanged made one."""
    found: list[Layer] = []
    for one in layers:
        if found and found[-1].high == one.low and found[-1].region.key == one.region.key:
            found[-1] = Layer(one.region, found[-1].low, one.high)
        else:
            found.append(one)
    return found


def _stack_solid(frame: Matrix, layers: list[Layer], why: str) -> Solid:
    if not layers:
        return nothing(why)
    if len(layers) == 1:
        lift = IDENTITY.copy()
        lift[2, 3] = layers[0].low
        made = extrusion(layers[0].region.placed(frame @ lift), layers[0].height)
        assert isinstance(made, Solid)
        return made
    key = digest("stack", *(part for one in layers for part in (one.region.key, round(one.low, 9), round(one.high, 9))))  # fmt: skip
    chords = chords_together(one.region.chords for one in layers)

    def make() -> manifold3d.Manifold:
        parts = []
        for one in layers:
            up = prism(true_rings(one.region))
            parts.append(up.warp_batch(_between(one.low, one.high)))
        return united(parts)

    def uncut() -> list[Mesh]:
        rings = [(one.region.uncut_rings(), one) for one in layers]
        return [walls_on(found, one.low, one.high) for found, one in rings if found]

    form = Stack(tuple(layers))
    shape = shape_made(
        key,
        make,
        "these solids together",
        lambda: form,
        flat=lambda: all(one.region.is_polygon for one in layers),
        chords=chords,
        uncut=uncut,
        waits=sum(triangles_on(one.region) for one in layers),
    )
    return Solid(shape, frame)


def _worked_out(operator: str, bodies: Sequence[manifold3d.Manifold]) -> manifold3d.Manifold:
    if operator == "-":
        return bodies[0] - united(bodies[1:])
    return united(bodies) if operator == "+" else common(bodies)


def _between(low: float, high: float) -> Callable[[Points], Points]:
    def lifted(corners: Points) -> Points:
        corners = np.array(corners)
        corners[:, 2] = np.where(corners[:, 2] > 0.5, high, low)
        return corners

    return lifted


# --- as meshes ---


def _as_meshes(operator: str, solids: Sequence[Solid]) -> Solid:
    frame = _motion_in(solids[0].matrix)
    relative = _relative(frame, solids)
    key = digest("boolean", operator, *(part for one, at in zip(solids, relative, strict=True) for part in (one.shape.key, np.round(at, 9))))  # fmt: skip

    @cache
    def result() -> manifold3d.Manifold:
        level, everything = aligned(solids)
        whole = _worked_out(operator, everything)
        back = np.linalg.inv(frame) @ level
        return _without_slivers(whole.transform(np.ascontiguousarray(back[:3])))

    shape = shape_made(
        key,
        result,
        _SAID[operator],
        lambda: _apart(operator, relative, solids, result()),
        flat=all(one.shape.flat for one in solids),
        why_empty=f"{_SAID[operator]} leaves nothing",
        cut_out_of=[(one.shape, at) for one, at in zip(solids, relative, strict=True)],
    )
    return Solid(shape, frame)


def _relative(frame: Matrix, solids: Sequence[Solid]) -> list[Matrix]:
    back = np.linalg.inv(frame)
    return [back @ one.matrix for one in solids]


def aligned(solids: Sequence[Solid]) -> tuple[Matrix, list[manifold3d.Manifold]]:
    """A frame in which many faces of different solids lie level with each other, and the kernel's
    own objects in it: coordinates that are the same are made equal, so that what touches does so to
    the last digit."""
    best = None
    for frame in _frames(solids):
        matrices = _relative(frame, solids)
        corners = [applied(at, one.shape.mesh.corners) for at, one in zip(matrices, solids, strict=True)]  # fmt: skip
        every = np.concatenate(corners)
        owner = np.repeat(np.arange(len(corners)), [len(one) for one in corners])
        columns = [gathered(column) for column in every.T]
        snapped = np.column_stack([old if new is None else new for old, new in zip(every.T, columns, strict=True)])  # fmt: skip
        shared = sum(_shared(column, owner) for column in snapped.T)
        if best is None or shared > best[0]:
            edges = np.cumsum([len(one) for one in corners])[:-1]
            split: list[Points] = np.split(snapped, edges)
            best = shared, frame, matrices, corners, split
    assert best is not None
    _, frame, matrices, corners, level = best
    return frame, [
        _kernel_object(one, at, own, now)
        for one, at, own, now in zip(solids, matrices, corners, level, strict=True)
    ]


def _kernel_object(
    solid: Solid, matrix: Matrix, corners: Points, snapped: Points
) -> manifold3d.Manifold:
    if np.array_equal(corners, snapped):
        return solid.shape.manifold.transform(np.ascontiguousarray(matrix[:3]))
    # Made anew, for its corners may coincide now: the kernel joins them, which it does not where they are moved.
    triangles = solid.shape.mesh.triangles
    return manifold_of(Mesh(snapped, triangles[:, ::-1] if determinant(matrix) < 0 else triangles))


_MOST_FRAMES = 3


def _frames(solids: Sequence[Solid]) -> list[Matrix]:
    """The frames of the first few solids that are turned differently."""
    found: list[Matrix] = []
    for one in solids[:12]:
        frame = _motion_in(one.matrix)
        known = any(np.abs(frame[:3, :3] - other[:3, :3]).max() < SAME_SHARE for other in found)
        if not known and len(found) < _MOST_FRAMES:
            found.append(frame)
    return found


def _motion_in(matrix: Matrix) -> Matrix:
    """The frame along the axes of a placement (Gram and Schmidt)."""
    a, b = matrix[:3, 0], matrix[:3, 1]
    x = a / np.linalg.norm(a)
    y = b - (b @ x) * x
    y = y / np.linalg.norm(y)
    frame = IDENTITY.copy()
    frame[:3] = np.column_stack([x, y, cross_product(x, y), matrix[:3, 3]])
    return frame


def _shared(column: Points, owner: NDArray[np.int64]) -> int:
    """How many coordinates more than one solid has."""
    _, which = np.unique(column, return_inverse=True)
    pairs = np.unique(which * (int(owner.max()) + 1) + owner)
    counts = np.bincount(pairs // (int(owner.max()) + 1))
    return int(np.sum(counts > 1))


_NOISE = 1e-10


def _apart(
    operator: str, places: Sequence[Matrix], solids: Sequence[Solid], result: manifold3d.Manifold
) -> Form | None:
    """The form of a result in which nothing was cut: solids that lie apart, one within which
    others are hollows, or one that nothing was taken from."""
    meshes = [one.mesh for one in solids]
    sizes = np.array([(mesh.volume(), mesh.area()) for mesh in meshes])
    volume, area = float(result.volume()), float(result.surface_area())
    signs = {"+": [1.0] * len(solids), "-": [1.0] + [-1.0] * (len(solids) - 1)}.get(operator)
    if signs is None:
        return None
    forms = [(one.shape.form, at) for one, at in zip(solids, places, strict=True)]

    def agrees(count: int) -> bool:
        wanted = (np.array(signs[:count]) @ sizes[:count, 0], sizes[:count, 1].sum())
        found = (volume, area)
        return all(abs(a - b) <= _NOISE * max(abs(a), sizes[0, k]) for k, (a, b) in enumerate(zip(wanted, found, strict=True)))  # fmt: skip

    if agrees(len(solids)):
        return together([(sign, *one) for sign, one in zip(signs, forms, strict=True)])
    if operator == "-" and agrees(1):
        return together([(1.0, *forms[0])])
    return None


SLIVER = 1e-5
"""What is thinner (mm) and stands alone is left over by rounding where faces all but coincide."""


def _without_slivers(manifold: manifold3d.Manifold) -> manifold3d.Manifold:
    """The solid without pieces that are nothing but noise; those that touch it stay. A hollow
    within it is a piece of negative volume."""
    if manifold.is_empty() or not _has_slivers(mesh_of(manifold)):
        return manifold
    sound = [
        one for one in manifold.decompose() if not _is_sliver(one.volume(), one.surface_area())
    ]
    return manifold3d.Manifold.compose(sound)


def _has_slivers(mesh: Mesh) -> bool:
    """Whether one of its pieces is noise: whole pieces are not made for that."""
    corners = mesh.triangles[:, 0]
    pieces = groups_of(np.concatenate([mesh.triangles[:, :2], mesh.triangles[:, 1:]]), len(mesh.corners))  # fmt: skip
    vectors = mesh.area_vectors()
    volumes = np.bincount(pieces[corners], dot_product(vectors, mesh.corners[corners]) / 6)
    areas = np.bincount(pieces[corners], np.linalg.norm(vectors, axis=1) / 2)
    return any(map(_is_sliver, volumes, areas))


def _is_sliver(volume: float, area: float) -> bool:
    """A slab of area a on each side and thickness t has volume a t and surface 2 a."""
    return 2 * abs(volume) <= SLIVER * area
