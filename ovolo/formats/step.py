"""STEP (ISO 10303-21, schema AP214): solids with exact faces where they are extrusions or
revolutions of lines and arcs of circles; otherwise with the flat faces they are drawn with.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ovolo.formats.exchange import text
from ovolo.formats.format import SOLIDS, Format
from ovolo.formats.step_file import MOST_FACES, StepFile, refs
from ovolo.formats.step_finished import finished_faces, write_finished
from ovolo.formats.step_stack import Shell, count_faces, stack_layers, stack_shells
from ovolo.formats.step_turned import turned_faces, turned_profile
from ovolo.geometry.groups import groups_of
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.placement import determinant, keeps_lengths
from ovolo.geometry.same import LEAST, ROUNDING
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.outcome.part import Part, Placed
from ovolo.problems import Failure


def write_step(parts: Sequence[Part], title: str) -> bytes:
    """Every item as a solid of its own name; a shape that stands in several places is written once.
    Raises Failure, before anything is written, where that would be too many faces."""
    file = StepFile()
    wanted = [(part, group) for part in parts for group in part.groups]
    faces = sum(_count_faces(group) for _, group in wanted)
    if faces > MOST_FACES:
        raise Failure(
            f"this would be {faces:,} faces; a STEP file has at most {MOST_FACES:,}",
            "hand over fewer parts, or write .3mf",
        )
    items: list[int] = []
    for part, group in wanted:
        names = [f"{part.name}.{item}" if part.count > 1 else part.name for item in group.items]
        if _can_be_mapped(group):
            solids = list(_breps(file, Solid(group.shape, group.matrices[0]), names[0]))
            items += file.mapped(solids, group.matrices, names)
        else:
            for matrix, name in zip(group.matrices, names, strict=True):
                items.extend(_breps(file, Solid(group.shape, matrix), name))
    return file.written(items, title or "Study")


def _can_be_mapped(group: Placed) -> bool:
    """Whether a shape stands in several places to which motions take it."""
    relative = group.matrices @ np.linalg.inv(group.matrices[0])
    return len(relative) > 1 and all(
        keeps_lengths(matrix) and determinant(matrix) > 0 for matrix in relative
    )


def _count_faces(group: Placed) -> int:
    solid = Solid(group.shape, group.matrices[0])
    times = 1 if _can_be_mapped(group) else len(group.matrices)
    profile = turned_profile(solid)
    if profile:
        return times * sum(len(one.pieces) * (len(profile.angles) - 1) for one in profile.outlines)
    layers, finished = stack_layers(solid), finished_faces(solid)
    if layers:
        return times * count_faces(layers[1])
    if finished:
        return times * finished.count
    mesh = solid.mesh
    vectors = mesh.area_vectors()
    normals = vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), LEAST)
    return times * sum(1 for _ in _planes(mesh, normals))


def _breps(file: StepFile, solid: Solid, name: str) -> Iterator[int]:
    """The solid; one for each piece of it that lies apart."""
    profile = turned_profile(solid)
    stack = None if profile else stack_layers(solid)
    shells = stack_shells(file, *stack) if stack else None
    finished = None if profile or stack else finished_faces(solid)
    if shells is None:
        if profile:
            faces = turned_faces(file, profile)
        else:
            faces = write_finished(file, finished) if finished else list(_facets(file, solid.mesh))
        shells = [Shell(tuple(faces), False, np.zeros(3), np.zeros(3))]
    outer = [one for one in shells if not one.hollow]
    within: dict[int, list[int]] = {}
    for hollow in (one for one in shells if one.hollow):
        around = [k for k, one in enumerate(outer) if np.all(one.low <= hollow.low) and np.all(one.high >= hollow.high)]  # fmt: skip
        nearest = min(around or [0], key=lambda k: float(np.prod(outer[k].high - outer[k].low)))
        within.setdefault(nearest, []).append(file.new(f"CLOSED_SHELL('',({refs(hollow.faces)}))"))
    for at, shell in enumerate(outer):
        number = file.new(f"CLOSED_SHELL('',({refs(shell.faces)}))")
        called = text(f"{name}.{at}" if len(outer) > 1 else name)
        hollows = [
            file.new(f"ORIENTED_CLOSED_SHELL('',*,#{one},.T.)") for one in within.get(at, [])
        ]
        if hollows:
            yield file.new(f"BREP_WITH_VOIDS({called},#{number},({refs(hollows)}))")
        else:
            yield file.new(f"MANIFOLD_SOLID_BREP({called},#{number})")


# --- flat faces ---


def _facets(file: StepFile, mesh: Mesh) -> Iterator[int]:
    """The flat faces of a mesh: triangles in one plane beside each other are one face."""
    vectors = mesh.area_vectors()
    normals = vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), LEAST)
    for group in _planes(mesh, normals):
        loops = _outline(mesh.triangles[group]) or None
        corners = mesh.corners
        if loops is None:
            for triangle in mesh.triangles[group]:
                yield _flat_face(file, [corners[triangle]], normals[group[0]])
            continue
        rings = [corners[loop] for loop in loops]
        areas = [float(np.sum(cross_product(ring, np.roll(ring, -1, axis=0)), axis=0) @ normals[group[0]]) for ring in rings]  # fmt: skip
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
    half = mesh.triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2).astype(np.int64)
    count = len(mesh.corners)
    backward = half[:, 1] * count + half[:, 0]
    order = np.argsort(backward)
    partner = order[np.searchsorted(backward, half[:, 0] * count + half[:, 1], sorter=order)]
    p, q = np.arange(len(half)) // 3, partner // 3
    flat = dot_product(normals[p], normals[q]) > 1 - ROUNDING
    label = groups_of(np.column_stack([p[flat], q[flat]]), len(mesh.triangles))
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


FORMATS = (
    Format(
        "step", "STEP", 30, kinds=SOLIDS, said="solid", offered="Solids as STEP",
        write=lambda outcome, parts, settled: write_step(parts, outcome.program.title),
    ),
)  # fmt: skip
