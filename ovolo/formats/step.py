"""STEP (ISO 10303-21, schema AP214): solids with exact faces where they are extrusions or
revolutions of lines and arcs of circles; otherwise with the flat faces they are drawn with.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ovolo.formats.step_file import Points, StepFile, one, refs, text
from ovolo.formats.step_turned import parted, turned_faces, turned_profile
from ovolo.geometry.curve import Arc, Curve, Piece, Straight
from ovolo.geometry.forms import Stack
from ovolo.geometry.mesh import Mesh
from ovolo.geometry.region import polygons_of
from ovolo.geometry.solid import Solid
from ovolo.outcome.part import Part


def write_step(parts: Sequence[Part], title: str) -> bytes:
    """Every item as a solid of its own name. Raises Failure where that would be too many faces."""
    file = StepFile()
    solids: list[int] = []
    for part in parts:
        items = [Solid(group.shape, matrix) for group in part.groups for matrix in group.matrices]
        for item, solid in enumerate(items):
            name = f"{part.name}.{item}" if len(items) > 1 else part.name
            solids.extend(_breps(file, solid, name))
    return file.written(solids, title or "Study")


def _breps(file: StepFile, solid: Solid, name: str) -> Iterator[int]:
    """The solid; one for each piece of an extrusion that lies apart."""
    profile = turned_profile(solid)
    outlines = None if profile else _prism_outlines(solid)
    if profile:
        shells = [turned_faces(file, profile)]
    elif outlines:
        shells = [_prism(file, solid, piece) for piece in outlines]
    else:
        shells = [list(_facets(file, solid.mesh))]
    for at, faces in enumerate(shells):
        shell = file.new(f"CLOSED_SHELL('',({refs(faces)}))")
        called = f"{name}.{at}" if len(shells) > 1 else name
        yield file.new(f"MANIFOLD_SOLID_BREP({text(called)},#{shell})")


def _prism_outlines(solid: Solid) -> list[list[Curve]] | None:
    """The exact outlines of the foot of an extrusion, where it stands, each with its holes, made
    of lines and arcs of circles; None for any other solid."""
    form = solid.shape.form
    if not isinstance(form, Stack) or len(form.layers) > 1:
        return None
    region = form.layers[0].region
    outlines = [curve.placed(solid.matrix) for curve in region.outlines]
    pieces = [piece for curve in outlines for piece in curve.pieces]
    if not all(isinstance(p, Straight) or (isinstance(p, Arc) and p.is_circle) for p in pieces):
        return None
    up, x, y = solid.matrix[:3, 2], solid.matrix[:3, 0], solid.matrix[:3, 1]
    if abs(float(up @ x)) + abs(float(up @ y)) > 1e-9 * float(np.linalg.norm(up)) * float(np.linalg.norm(x) + np.linalg.norm(y)):  # fmt: skip
        return None
    rest = iter(outlines)
    return [
        [parted(next(rest)) for _ in (polygon.exterior, *polygon.interiors)]
        for polygon in polygons_of(region.flat)
    ]


def _prism(file: StepFile, solid: Solid, outlines: list[Curve]) -> list[int]:
    """The faces of an extrusion: its foot and its top, and a wall for each piece."""
    rise = solid.matrix[:3, 2]
    up = rise / np.linalg.norm(rise)
    if np.linalg.det(solid.matrix[:3, :3]) < 0:
        outlines = [curve.reversed() for curve in outlines]
    x = outlines[0].pieces[0].start - outlines[0].pieces[0].end
    lift = np.eye(4)
    lift[:3, 3] = rise
    walls = [_wall(file, piece, rise, up) for curve in outlines for piece in curve.pieces]
    foot, top = [], []
    for curve in outlines:
        below = [_edge(file, piece) for piece in curve.pieces]
        above = [_edge(file, piece.placed(lift)) for piece in curve.pieces]
        top.append(file.loop(above))
        foot.append(file.loop([(edge, not way) for edge, way in reversed(below)]))
    start = outlines[0].start
    floor = file.add(f"PLANE('',#{file.placement(start, -up, x)})")
    roof = file.add(f"PLANE('',#{file.placement(start + rise, up, x)})")
    return [file.face(floor, foot), file.face(roof, top), *walls]


def _edge(file: StepFile, piece: Piece) -> tuple[int, bool]:
    if isinstance(piece, Arc):
        return file.arc_edge(piece), True
    return file.line_edge(piece.start, piece.end)


def _wall(file: StepFile, piece: Piece, rise: Points, up: Points) -> int:
    lift = np.eye(4)
    lift[:3, 3] = rise
    below, above = _edge(file, piece), _edge(file, piece.placed(lift))
    far = file.line_edge(piece.end, piece.end + rise)
    near = file.line_edge(piece.start + rise, piece.start)
    loop = file.loop([below, far, (above[0], not above[1]), near])
    if isinstance(piece, Arc):
        placed = file.placement(piece.centre, up, piece.start - piece.centre)
        surface = file.add(f"CYLINDRICAL_SURFACE('',#{placed},{one(piece.radius)})")
        outwards = float(piece.normal @ up) * piece.sweep > 0
        return file.face(surface, [loop], outwards)
    along = piece.end - piece.start
    plane = file.add(f"PLANE('',#{file.placement(piece.start, np.cross(along, up), along)})")
    return file.face(plane, [loop])


# --- flat faces ---


def _facets(file: StepFile, mesh: Mesh) -> Iterator[int]:
    """The flat faces of a mesh: triangles in one plane beside each other are one face."""
    vectors = mesh.area_vectors()
    normals = vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), 1e-300)
    for group in _planes(mesh, normals):
        loops = _outline(mesh.triangles[group]) or None
        corners = mesh.corners
        if loops is None:
            for triangle in mesh.triangles[group]:
                yield _flat_face(file, [corners[triangle]], normals[group[0]])
            continue
        rings = [corners[loop] for loop in loops]
        areas = [float(np.sum(np.cross(ring, np.roll(ring, -1, axis=0)), axis=0) @ normals[group[0]]) for ring in rings]  # fmt: skip
        outer = int(np.argmax(areas))
        ordered = [rings[outer], *(ring for at, ring in enumerate(rings) if at != outer)]
        yield _flat_face(file, ordered, normals[group[0]])


def _flat_face(file: StepFile, rings: Sequence[Points], normal: Points) -> int:
    loops = [
        file.loop([file.line_edge(a, b) for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True)])
        for ring in rings
    ]  # fmt: skip
    x = rings[0][1] - rings[0][0]
    return file.face(file.add(f"PLANE('',#{file.placement(rings[0][0], normal, x)})"), loops)


def _planes(mesh: Mesh, normals: Points) -> Iterator[NDArray[np.int64]]:
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    half = mesh.triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2).astype(np.int64)
    count = len(mesh.corners)
    backward = half[:, 1] * count + half[:, 0]
    order = np.argsort(backward)
    partner = order[np.searchsorted(backward, half[:, 0] * count + half[:, 1], sorter=order)]
    p, q = np.arange(len(half)) // 3, partner // 3
    flat = np.sum(normals[p] * normals[q], axis=1) > 1 - 1e-12
    size = len(mesh.triangles)
    graph = coo_array((np.ones(int(flat.sum())), (p[flat], q[flat])), shape=(size, size))
    _, label = connected_components(graph, directed=False)
    order = np.argsort(label, kind="stable")
    edges = np.flatnonzero(np.diff(label[order])) + 1
    yield from np.split(order, edges)


def _outline(triangles: NDArray[np.int32]) -> list[list[int]]:
    """The loops of corners round triangles; none where two loops touch in a corner."""
    half = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2).tolist()
    inner = {(b, a) for a, b in half}
    onward: dict[int, int] = {}
    for a, b in half:
        if (a, b) not in inner:
            if a in onward:
                return []
            onward[a] = b
    loops = []
    while onward:
        start, at = onward.popitem()
        loop = [start]
        while at != start:
            loop.append(at)
            if at not in onward:
                return []
            at = onward.pop(at)
        loops.append(loop)
    return loops
