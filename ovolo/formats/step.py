"""STEP (ISO 10303-21, schema AP214): solids with exact planes and cylinders where they are
extrusions of lines and arcs of circles; otherwise with the flat faces they are drawn with.

Lengths are in mm, the accuracy stated is the chord tolerance.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.curve import Arc, Curve, Piece, Straight
from ovolo.geometry.mesh import Mesh
from ovolo.geometry.solid import Solid
from ovolo.geometry.tolerance import chord_tolerance
from ovolo.outcome.part import Part
from ovolo.problems import Failure

Points = NDArray[np.float64]
MOST_FACES = 12_000


def write_step(parts: Sequence[Part], title: str) -> bytes:
    """Every item as a solid of its own name. Raises Failure where that would be too many faces."""
    file = _File()
    solids = []
    for part in parts:
        items = [Solid(group.shape, matrix) for group in part.groups for matrix in group.matrices]
        for item, solid in enumerate(items):
            name = f"{part.name}.{item}" if len(items) > 1 else part.name
            solids.append((name, _brep(file, solid, name)))
    return file.written(solids, title or "Study")


class _File:
    """Entities by number, each written once."""

    def __init__(self) -> None:
        self.lines: list[str] = []
        self.known: dict[str, int] = {}
        self.faces = 0

    def add(self, text: str) -> int:
        """The number of an entity, made where it is not there yet."""
        number = self.known.get(text)
        if number is None:
            number = self.known[text] = self.new(text)
        return number

    def new(self, text: str) -> int:
        self.lines.append(text)
        return len(self.lines)

    def point(self, p: Points) -> int:
        return self.add(f"CARTESIAN_POINT('',({_three(p)}))")

    def direction(self, d: Points) -> int:
        return self.add(f"DIRECTION('',({_three(d / np.linalg.norm(d))}))")

    def placement(self, origin: Points, z: Points, x: Points) -> int:
        return self.add(f"AXIS2_PLACEMENT_3D('',#{self.point(origin)},#{self.direction(z)},#{self.direction(x)})")  # fmt: skip

    def vertex(self, p: Points) -> int:
        return self.add(f"VERTEX_POINT('',#{self.point(p)})")

    def line_edge(self, a: Points, b: Points) -> tuple[int, bool]:
        """The edge between two places, and whether it runs from the first to the second."""
        u, v = self.vertex(a), self.vertex(b)
        forwards = u < v
        if not forwards:
            a, b, u, v = b, a, v, u
        way = b - a
        vector = self.add(f"VECTOR('',#{self.direction(way)},1.)")
        line = self.add(f"LINE('',#{self.point(a)},#{vector})")
        return self.add(f"EDGE_CURVE('',#{u},#{v},#{line},.T.)"), forwards

    def arc_edge(self, arc: Arc) -> int:
        axis = arc.normal * math.copysign(1.0, arc.sweep)
        start = arc.start - arc.centre
        placed = self.placement(arc.centre, axis, start)
        circle = self.add(f"CIRCLE('',#{placed},{_one(arc.radius)})")
        return self.add(f"EDGE_CURVE('',#{self.vertex(arc.start)},#{self.vertex(arc.end)},#{circle},.T.)")  # fmt: skip

    def loop(self, edges: Sequence[tuple[int, bool]]) -> int:
        oriented = [self.new(f"ORIENTED_EDGE('',*,*,#{edge},{_yes(way)})") for edge, way in edges]
        return self.new(f"EDGE_LOOP('',({_refs(oriented)}))")

    def face(self, surface: int, loops: Sequence[int], same: bool = True) -> int:
        self.faces += 1
        if self.faces > MOST_FACES:
            raise Failure(
                f"this would be more than {MOST_FACES:,} faces, too many for a STEP file",
                "hand over fewer parts, or write .3mf",
            )
        bounds = [
            self.new(f"{'FACE_BOUND' if at else 'FACE_OUTER_BOUND'}('',#{loop},.T.)")
            for at, loop in enumerate(loops)
        ]
        return self.new(f"ADVANCED_FACE('',({_refs(bounds)}),#{surface},{_yes(same)})")

    def written(self, solids: Sequence[tuple[str, int]], title: str) -> bytes:
        shape, context = self._product(title)
        origin = self.placement(np.zeros(3), np.array([0.0, 0, 1]), np.array([1.0, 0, 0]))
        items = [origin, *(number for _, number in solids)]
        brep = self.new(f"ADVANCED_BREP_SHAPE_REPRESENTATION('',({_refs(items)}),#{context})")
        self.new(f"SHAPE_DEFINITION_REPRESENTATION(#{shape},#{brep})")
        body = "\n".join(f"#{at}={text};" for at, text in enumerate(self.lines, 1))
        head = (
            "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\n"
            f"FILE_NAME({_text(title)},'1970-01-01T00:00:00',(''),(''),'Ovolo','Ovolo','');\n"
            "FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));\nENDSEC;\nDATA;\n"
        )
        return f"{head}{body}\nENDSEC;\nEND-ISO-10303-21;\n".encode("ascii", "replace")

    def _product(self, title: str) -> tuple[int, int]:
        """The shape of the product, and the context of its geometry: mm, radians, tolerance."""
        application = self.new("APPLICATION_CONTEXT('automotive design')")
        self.new(f"APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2001,#{application})")  # fmt: skip
        place = self.new(f"PRODUCT_CONTEXT('',#{application},'mechanical')")
        product = self.new(f"PRODUCT({_text(title)},{_text(title)},'',(#{place}))")
        self.new(f"PRODUCT_RELATED_PRODUCT_CATEGORY('part',$,(#{product}))")
        formation = self.new(f"PRODUCT_DEFINITION_FORMATION('','',#{product})")
        design = self.new(f"PRODUCT_DEFINITION_CONTEXT('part definition',#{application},'design')")
        definition = self.new(f"PRODUCT_DEFINITION('','',#{formation},#{design})")
        shape = self.new(f"PRODUCT_DEFINITION_SHAPE('','',#{definition})")
        length = self.new("(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.))")
        angle = self.new("(NAMED_UNIT(*)PLANE_ANGLE_UNIT()SI_UNIT($,.RADIAN.))")
        solid = self.new("(NAMED_UNIT(*)SI_UNIT($,.STERADIAN.)SOLID_ANGLE_UNIT())")
        exact = self.new(f"UNCERTAINTY_MEASURE_WITH_UNIT(LENGTH_MEASURE({_one(chord_tolerance() * 1e-4)}),#{length},'distance_accuracy_value','')")  # fmt: skip
        context = self.new(
            f"(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT((#{exact}))"
            f"GLOBAL_UNIT_ASSIGNED_CONTEXT((#{length},#{angle},#{solid}))REPRESENTATION_CONTEXT('',''))"
        )
        return shape, context


def _one(value: float) -> str:
    said = f"{round(float(value), 9) + 0.0:.12g}".upper()
    return said if "." in said else said.replace("E", ".E") if "E" in said else f"{said}."


def _three(values: Points) -> str:
    return ",".join(_one(value) for value in values)


def _yes(value: bool) -> str:
    return ".T." if value else ".F."


def _refs(numbers: Sequence[int]) -> str:
    return ",".join(f"#{number}" for number in numbers)


def _text(said: str) -> str:
    plain = re.sub(r"[^ -~]", lambda found: f"\\X2\\{ord(found[0]):04X}\\X0\\", said)
    return "'" + plain.replace("'", "''") + "'"


# --- solids ---


def _brep(file: _File, solid: Solid, name: str) -> int:
    outlines = _prism_outlines(solid)
    faces = _prism(file, solid, outlines) if outlines else list(_facets(file, solid.mesh))
    shell = file.new(f"CLOSED_SHELL('',({_refs(faces)}))")
    return file.new(f"MANIFOLD_SOLID_BREP({_text(name)},#{shell})")


def _prism_outlines(solid: Solid) -> list[Curve] | None:
    """The exact outlines of the foot of an extrusion, where it stands, made of lines and arcs of
    circles; None for any other solid."""
    region = solid.shape.prism
    if region is None:
        return None
    outlines = [curve.placed(solid.matrix) for curve in region.outlines]
    pieces = [piece for curve in outlines for piece in curve.pieces]
    if not all(isinstance(p, Straight) or (isinstance(p, Arc) and p.is_circle) for p in pieces):
        return None
    up, x, y = solid.matrix[:3, 2], solid.matrix[:3, 0], solid.matrix[:3, 1]
    if abs(float(up @ x)) + abs(float(up @ y)) > 1e-9 * float(np.linalg.norm(up)) * float(np.linalg.norm(x) + np.linalg.norm(y)):  # fmt: skip
        return None
    return [_parted(curve) for curve in outlines]


def _parted(curve: Curve) -> Curve:
    """Whole turns parted in two, so that every edge has two ends."""
    pieces: list[Piece] = []
    for piece in curve.pieces:
        halves = isinstance(piece, Arc) and abs(piece.sweep) > math.pi + 1e-9
        pieces += [piece.part(0.0, 0.5), piece.part(0.5, 1.0)] if halves else [piece]
    return Curve(tuple(pieces))


def _prism(file: _File, solid: Solid, outlines: list[Curve]) -> list[int]:
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


def _edge(file: _File, piece: Piece) -> tuple[int, bool]:
    if isinstance(piece, Arc):
        return file.arc_edge(piece), True
    return file.line_edge(piece.start, piece.end)


def _wall(file: _File, piece: Piece, rise: Points, up: Points) -> int:
    lift = np.eye(4)
    lift[:3, 3] = rise
    below, above = _edge(file, piece), _edge(file, piece.placed(lift))
    far = file.line_edge(piece.end, piece.end + rise)
    near = file.line_edge(piece.start + rise, piece.start)
    loop = file.loop([below, far, (above[0], not above[1]), near])
    if isinstance(piece, Arc):
        placed = file.placement(piece.centre, up, piece.start - piece.centre)
        surface = file.add(f"CYLINDRICAL_SURFACE('',#{placed},{_one(piece.radius)})")
        outwards = float(piece.normal @ up) * piece.sweep > 0
        return file.face(surface, [loop], outwards)
    along = piece.end - piece.start
    plane = file.add(f"PLANE('',#{file.placement(piece.start, np.cross(along, up), along)})")
    return file.face(plane, [loop])


# --- flat faces ---


def _facets(file: _File, mesh: Mesh) -> Iterator[int]:
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


def _flat_face(file: _File, rings: Sequence[Points], normal: Points) -> int:
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
