"""The edges of solids as they are seen: what lies behind something is told apart.

Edges are the creases of the solids and, of round ones, where they turn away from the viewer. Each is parted
where another crosses it in the picture; between two crossings all of it is seen or none (Appel, The notion
of quantitative invisibility and the machine rendering of solids, ACM National Conference, 1967), which a
line towards the viewer from its middle decides. Straight edges are exact; round ones are as their chords.
Where two solids run into each other there is no edge.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.solids.solid import Shape
from ovolo.geometry.types import Points
from ovolo.problems import Failure

MOST_TRIANGLES = 400_000
MOST_EDGES = 60_000

_NEAR = 1e-6
"""Of the size of the picture: what lies no deeper than this is not behind."""

_ONE = 1e-6
"""Of the size of the picture: ends that lie no further apart are one."""

_SHORT = 1e-7
"""Of the size of the picture: shorter pieces of edges are left out."""


@dataclass(frozen=True, eq=False)
class Edges:
    """Straight pieces of edges in the picture, (n, 2, 2) each: those that are seen, and those behind."""

    seen: Points
    hidden: Points


def edges_seen(solids: Sequence[tuple[Shape, Matrix]]) -> Edges:
    """The edges of solids, each with its place (4, 4) in the picture: x to the right, y up, z at the viewer.
    Raises Failure where there are too many."""
    count = sum(len(shape.mesh.triangles) for shape, _ in solids)
    if count > MOST_TRIANGLES:
        raise Failure(
            f"a drawing without hidden lines has at most {MOST_TRIANGLES:,} triangles; here are {count:,}",
            "draw fewer parts, or with a coarser `tolerance`",
        )
    meshes = [_placed(shape, matrix) for shape, matrix in solids]
    facing = [_faces_viewer(mesh) for mesh in meshes]
    edges = np.concatenate(
        [_edges(shape, matrix, mesh, front) for (shape, matrix), mesh, front in zip(solids, meshes, facing, strict=True)]
        or [np.empty((0, 2, 3))]
    )  # fmt: skip
    if len(edges) > MOST_EDGES:
        raise Failure(
            f"a drawing without hidden lines has at most {MOST_EDGES:,} edges; here are {len(edges):,}",
            "draw fewer parts, or with a coarser `tolerance`",
        )
    if not len(edges):
        return Edges(np.empty((0, 2, 2)), np.empty((0, 2, 2)))
    size = float(np.ptp(edges.reshape(-1, 3), axis=0).max()) or 1.0
    pieces = _parted(_once(edges, size), size)
    fronts = np.concatenate([mesh.corners[mesh.triangles[front]] for mesh, front in zip(meshes, facing, strict=True)])  # fmt: skip
    behind = _is_behind((pieces[:, 0] + pieces[:, 1]) / 2, fronts, size)
    # What lies behind each other is one line in the picture.
    seen, hidden = (_once(pieces[of, :, :2], size) for of in (~behind, behind))
    return Edges(seen, _not_under(hidden, seen, size))


def _placed(shape: Shape, matrix: Matrix) -> Mesh:
    source = shape.mesh
    flipped = np.linalg.det(matrix[:3, :3]) < 0
    triangles = source.triangles[:, ::-1] if flipped else source.triangles
    return Mesh(applied(matrix, source.corners), np.ascontiguousarray(triangles))


def _faces_viewer(mesh: Mesh) -> NDArray[np.bool_]:
    vectors = mesh.area_vectors()
    sizes = np.linalg.norm(vectors, axis=1)
    return np.asarray(vectors[:, 2] > 1e-9 * np.where(sizes > 0, sizes, 1.0))


def _edges(shape: Shape, matrix: Matrix, mesh: Mesh, front: NDArray[np.bool_]) -> Points:
    """The creases of a solid, and where its round faces turn away, (n, 2, 3)."""
    creases = applied(matrix, shape.drawing.edges.astype(float).reshape(-1, 3)).reshape(-1, 2, 3)
    half = mesh.triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2).astype(np.int64)
    own = np.repeat(front, 3)
    number = len(mesh.corners)
    there = half.min(axis=1) * number + half.max(axis=1)
    order = np.argsort(there, kind="stable")
    pairs = there[order][:-1] == there[order][1:]
    first, second = order[:-1][pairs], order[1:][pairs]
    turning = own[first] != own[second]
    return np.concatenate([creases, mesh.corners[half[first[turning]]]])


def _once(edges: Points, size: float) -> Points:
    """Each edge once, those that are points in the picture left out."""
    long = np.linalg.norm(edges[:, 1, :2] - edges[:, 0, :2], axis=1) > _SHORT * size
    edges = edges[long]
    rounded = np.round(edges / (size * _ONE)).astype(np.int64)
    swap = [tuple(one[0]) > tuple(one[1]) for one in rounded]
    rounded[swap] = rounded[swap][:, ::-1]
    _, first = np.unique(
        rounded.reshape(len(rounded), 2 * edges.shape[2]), axis=0, return_index=True
    )
    return np.asarray(edges[np.sort(first)])


def _parted(edges: Points, size: float) -> Points:
    """The edges parted wherever another crosses them in the picture, (n, 2, 3)."""
    lines = shapely.linestrings(edges[:, :, :2])
    tree = shapely.STRtree(lines)
    one, other = tree.query(lines, predicate="intersects")
    apart = one != other
    one, other = one[apart], other[apart]
    a, d = edges[one, 0, :2], edges[one, 1, :2] - edges[one, 0, :2]
    b, e = edges[other, 0, :2], edges[other, 1, :2] - edges[other, 0, :2]
    cross = d[:, 0] * e[:, 1] - d[:, 1] * e[:, 0]
    lengths = np.linalg.norm(d, axis=1) * np.linalg.norm(e, axis=1)
    level = np.abs(cross) > 1e-9 * lengths
    with np.errstate(divide="ignore", invalid="ignore"):
        share = ((b - a)[:, 0] * e[:, 1] - (b - a)[:, 1] * e[:, 0]) / cross
    # Edges that lie along each other part each other at their ends.
    squares = np.einsum("ij,ij->i", d, d)
    along = np.concatenate([np.einsum("ij,ij->i", b - a, d) / squares, np.einsum("ij,ij->i", b + e - a, d) / squares])  # fmt: skip
    cuts = np.concatenate([share[level], along[np.tile(~level, 2)]])
    owner = np.concatenate([one[level], np.tile(one, 2)[np.tile(~level, 2)]])
    inside = (cuts > 1e-9) & (cuts < 1 - 1e-9)
    ends = np.concatenate([cuts[inside], np.zeros(len(edges)), np.ones(len(edges))])
    of = np.concatenate([owner[inside], np.arange(len(edges)), np.arange(len(edges))])
    order = np.lexsort((ends, of))
    ends, of = ends[order], of[order]
    same = of[1:] == of[:-1]
    begin, end, at = ends[:-1][same], ends[1:][same], of[:-1][same]
    base, step = edges[at, 0], edges[at, 1] - edges[at, 0]
    pieces = np.stack([base + begin[:, None] * step, base + end[:, None] * step], axis=1)
    long = np.linalg.norm(pieces[:, 1, :2] - pieces[:, 0, :2], axis=1) > _SHORT * size
    return np.asarray(pieces[long])


def _is_behind(places: Points, fronts: Points, size: float) -> NDArray[np.bool_]:
    """Whether something that faces the viewer lies nearer to them than each place (n, 3); `fronts` are its
    triangles (m, 3, 3)."""
    behind = np.zeros(len(places), dtype=bool)
    if not len(fronts):
        return behind
    tree = shapely.STRtree(shapely.polygons(fronts[:, :, :2]))
    place, face = tree.query(shapely.points(places[:, :2]), predicate="intersects")
    a, b, c = (fronts[face, corner] for corner in range(3))
    normal = np.cross(b - a, c - a)
    offset = places[place, :2] - a[:, :2]
    height = a[:, 2] - np.einsum("ij,ij->i", normal[:, :2], offset) / normal[:, 2]
    # A face that is seen almost from its edge tells its height only so well.
    lean = np.linalg.norm(normal[:, :2], axis=1) / normal[:, 2]
    nearer = height > places[place, 2] + _NEAR * size * (1 + lean)
    np.logical_or.at(behind, place[nearer], True)
    return behind


def _not_under(hidden: Points, seen: Points, size: float) -> Points:
    """The hidden pieces that no seen one covers in the picture."""
    if not len(hidden) or not len(seen):
        return hidden
    tree = shapely.STRtree(shapely.linestrings(seen))
    middles = shapely.points(hidden.mean(axis=1))
    covered, over = tree.query(middles, predicate="dwithin", distance=_NEAR * size)
    d = hidden[covered, 1] - hidden[covered, 0]
    e = seen[over, 1] - seen[over, 0]
    turn = np.abs(d[:, 0] * e[:, 1] - d[:, 1] * e[:, 0]) / (np.linalg.norm(d, axis=1) * np.linalg.norm(e, axis=1))  # fmt: skip
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
    return [shapely.get_coordinates(line) for line in shapely.get_parts(merged)]
