"""The exact faces of stacks of layers in a STEP file: planes, and walls of planes and cylinders.

Where one layer lies on another, a level face covers what only one of both has; all edges there are
parted wherever a corner of any of the outlines lies on them, so that faces share their edges.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from functools import cached_property

import numpy as np
import shapely
from msgspec import Struct, field

from ovolo.formats.step_file import StepFile
from ovolo.formats.step_file import one as figure
from ovolo.formats.step_turned import parted
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Piece, Straight
from ovolo.geometry.placement import Matrix, applied, determinant
from ovolo.geometry.regions.region import Region, combined
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.solids.booleans import laid
from ovolo.geometry.solids.forms import Layer
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product

_UP = np.array([0.0, 0.0, 1.0])
_FLIP = np.diag([-1.0, 1.0, 1.0, 1.0])
_ON = 4 * SAME_PLACE


class Shell(Struct, frozen=True):
    """A closed set of faces; `hollow` where it bounds a hollow within a solid."""

    faces: tuple[int, ...]
    hollow: bool
    low: Points
    high: Points


class _Floor(Struct, frozen=True, eq=False, dict=True):
    """The level faces at a height: outlines of those that look up, and of those that look down."""

    height: float
    up: tuple[Curve, ...]
    down: tuple[Curve, ...]
    corners: Points
    """All corners of outlines at that height, (n, 2)."""

    @cached_property
    def tree(self) -> shapely.STRtree:
        return shapely.STRtree(shapely.points(self.corners))

    def corners_near(self, piece: Piece) -> Points:
        """Those within the bounds of a piece, and a little beyond."""
        low, high = piece.bounds()
        box = shapely.box(*(low[:2] - _ON), *(high[:2] + _ON))
        found: Points = self.corners[np.sort(self.tree.query(box))]
        return found


class _Face(Struct):
    number: int
    edges: frozenset[int]
    height: float | None
    """Of a level face."""
    up: bool
    low: Points
    high: Points


def stack_layers(solid: Solid) -> tuple[Matrix, list[Layer]] | None:
    """A solid as layers in a frame, all outlines made of lines and arcs of circles; None for any
    other."""
    found = next(laid(solid), None)
    if found is None:
        return None
    frame, layers = found
    if determinant(frame) < 0:
        frame = frame @ _FLIP
        layers = tuple(Layer(_flipped(one.region), one.low, one.high) for one in layers)
    pieces = [p for one in layers for curve in one.region.outlines for p in curve.pieces]
    known = all(isinstance(p, Straight) or (isinstance(p, Arc) and p.is_circle) for p in pieces)
    return (frame, list(layers)) if known and all(one.region.exact for one in layers) else None


def _flipped(region: Region) -> Region:
    moved = region.placed(_FLIP)
    return moved.in_plan()


def stack_shells(file: StepFile, frame: Matrix, layers: Sequence[Layer]) -> list[Shell] | None:
    """The shells of layers in a frame; None where a level face is not known exactly."""
    floors = _floors(layers)
    if floors is None:
        return None
    writer = _Writer(file, frame)
    for floor in floors:
        writer.level(floor, floor.up, True)
        writer.level(floor, floor.down, False)
    by_height = {floor.height: floor for floor in floors}
    for layer in layers:
        writer.walls(layer, by_height[layer.low], by_height[layer.high])
    return writer.shells()


def count_faces(layers: Sequence[Layer]) -> int:
    """About how many faces a stack has."""
    walls = sum(len(parted(c).pieces) for one in layers for c in one.region.outlines)
    return walls + 2 * len(layers)


def _floors(layers: Sequence[Layer]) -> list[_Floor] | None:
    found = []
    for height in sorted({z for one in layers for z in (one.low, one.high)}):
        below = next((one.region for one in layers if one.high == height), None)
        above = next((one.region for one in layers if one.low == height), None)
        up, down = _only(below, above), _only(above, below)
        if up is None or down is None:
            return None
        outlines = [
            *up, *down,
            *(parted(c) for one in (below, above) if one is not None for c in one.outlines),
        ]  # fmt: skip
        corners = np.array([piece.start[:2] for curve in outlines for piece in curve.pieces])
        found.append(_Floor(height, up, down, corners))
    return found


def _only(region: Region | None, other: Region | None) -> tuple[Curve, ...] | None:
    """The outlines of what only the first covers."""
    if region is None:
        return ()
    rest = region if other is None else combined("-", region, other)
    if not rest.is_empty and not rest.exact:
        return None
    return () if rest.is_empty else tuple(parted(curve) for curve in rest.outlines)


class _Writer(Struct):
    file: StepFile
    frame: Matrix
    faces: list[_Face] = field(default_factory=list)
    places: list[Points] = field(default_factory=list)
    cells: dict[tuple[int, ...], int] = field(default_factory=dict)
    """The place in each cell of a grid as fine as places are told apart."""
    arcs: dict[tuple[int, int, float], int] = field(default_factory=dict)

    def place(self, at: Points) -> int:
        """The number of a place in the frame; places that are the same have one."""
        x, y, z = np.floor(at / _ON).astype(int).tolist()
        for cell in itertools.product((x, x - 1, x + 1), (y, y - 1, y + 1), (z, z - 1, z + 1)):
            number = self.cells.get(cell)
            if number is not None and np.abs(self.places[number] - at).max() < _ON:
                return number
        self.places.append(at)
        self.cells[x, y, z] = len(self.places) - 1
        return len(self.places) - 1

    def in_space(self, number: int) -> Points:
        placed: Points = applied(self.frame, self.places[number][None])[0]
        return placed

    def edge(self, piece: Piece, height: float) -> tuple[int, bool]:
        """The edge along a piece at a height, and whether it runs as the piece does."""
        ends = [np.array([*end[:2], height]) for end in (piece.start, piece.end)]
        start, end = (self.place(one) for one in ends)
        if isinstance(piece, Straight):
            return self.file.line_edge(self.in_space(start), self.in_space(end))
        assert isinstance(piece, Arc)
        turns_left = piece.sweep * piece.normal[2] > 0
        arc = piece if turns_left else piece.reversed()
        assert isinstance(arc, Arc)
        if not turns_left:
            start, end = end, start
        key = (start, end, round(arc.radius, 4))
        if key not in self.arcs:
            lift = np.eye(4)
            lift[2, 3] = height
            placed = arc.placed(self.frame @ lift)
            self.arcs[key] = self.file.arc_edge(placed, (self.in_space(start), self.in_space(end)))
        return self.arcs[key], turns_left

    def along(self, piece: Piece, floor: _Floor) -> list[tuple[int, bool]]:
        """The edges along a piece at a floor, parted at the corners that lie on it."""
        steps = [0.0, *_breaks(piece, floor.corners_near(piece)), 1.0]
        return [self.edge(piece.part(a, b), floor.height) for a, b in itertools.pairwise(steps)]

    def level(self, floor: _Floor, outlines: Sequence[Curve], up: bool) -> None:
        for group in _polygons(outlines):
            loops, edges = [], set()
            for curve in group:
                around = [edge for piece in curve.pieces for edge in self.along(piece, floor)]
                if not up:
                    around = [(edge, not way) for edge, way in reversed(around)]
                loops.append(self.file.loop(around))
                edges |= {edge for edge, _ in around}
            origin = applied(self.frame, np.array([[*group[0].start[:2], floor.height]]))[0]
            normal = self.frame[:3, 2] * (1.0 if up else -1.0)
            plane = self.file.add(f"PLANE('',#{self.file.placement(origin, normal, self.frame[:3, 0])})")  # fmt: skip
            number = self.file.face(plane, loops)
            low, high = (np.array([*bound[:2], floor.height]) for bound in group[0].bounds())
            self.faces.append(_Face(number, frozenset(edges), floor.height, up, low, high))

    def walls(self, layer: Layer, low: _Floor, high: _Floor) -> None:
        for curve in layer.region.outlines:
            for piece in parted(curve).pieces:
                self._wall(piece, low, high)

    def _wall(self, piece: Piece, low: _Floor, high: _Floor) -> None:
        below, above = self.along(piece, low), self.along(piece, high)
        far = self._upright(piece.end, low.height, high.height)
        near = self._upright(piece.start, low.height, high.height)
        around = [*below, far, *((edge, not way) for edge, way in reversed(above)), (near[0], not near[1])]  # fmt: skip
        loop = self.file.loop(around)
        up = self.frame[:3, 2]
        lift = np.eye(4)
        lift[2, 3] = low.height
        placed = piece.placed(self.frame @ lift)
        if isinstance(placed, Arc):
            at = self.file.placement(placed.centre, up, placed.start - placed.centre)
            surface = self.file.add(f"CYLINDRICAL_SURFACE('',#{at},{figure(placed.radius)})")
            outwards = float(placed.normal @ up) * placed.sweep > 0
        else:
            along = placed.end - placed.start
            at = self.file.placement(placed.start, cross_product(along, up), along)
            surface, outwards = self.file.add(f"PLANE('',#{at})"), True
        number = self.file.face(surface, [loop], outwards)
        bounds = piece.bounds()
        corners = [np.array([*bounds[k][:2], z.height]) for k, z in ((0, low), (1, high))]
        self.faces.append(_Face(number, frozenset(e for e, _ in around), None, False, *corners))

    def _upright(self, place: Points, low: float, high: float) -> tuple[int, bool]:
        ends = (self.in_space(self.place(np.array([*place[:2], z]))) for z in (low, high))
        return self.file.line_edge(*ends)

    def shells(self) -> list[Shell]:
        """The faces gathered by the edges they share."""
        parent = list(range(len(self.faces)))

        def root(at: int) -> int:
            while parent[at] != at:
                parent[at] = parent[parent[at]]
                at = parent[at]
            return at

        owner: dict[int, int] = {}
        for at, face in enumerate(self.faces):
            for edge in face.edges:
                parent[root(at)] = root(owner.setdefault(edge, at))
        groups: dict[int, list[_Face]] = {}
        for at, face in enumerate(self.faces):
            groups.setdefault(root(at), []).append(face)
        return [_shell(group) for group in groups.values()]


def _shell(faces: Sequence[_Face]) -> Shell:
    top = max((one for one in faces if one.height is not None), key=lambda one: one.height or 0.0)
    highest = [one for one in faces if one.height == top.height]
    return Shell(
        tuple(one.number for one in faces),
        not all(one.up for one in highest),
        np.min([one.low for one in faces], axis=0),
        np.max([one.high for one in faces], axis=0),
    )


def _breaks(piece: Piece, corners: Points) -> list[float]:
    """The parameters within a piece at which corners (n, 2) lie on it."""
    if isinstance(piece, Straight):
        along = (piece.b - piece.a)[:2]
        steps = (corners - piece.a[:2]) @ along / float(along @ along)
    else:
        assert isinstance(piece, Arc)
        out = corners - piece.centre[:2]
        angles = np.arctan2(out @ piece.v[:2], out @ piece.u[:2]) - piece.angle
        turn = 2 * math.pi / abs(piece.sweep)
        steps = angles / piece.sweep
        steps = steps - np.floor(steps / turn) * turn
    gaps = np.linalg.norm(piece.at(np.clip(steps, 0.0, 1.0))[:, :2] - corners, axis=1)
    slack = _ON / max(piece.length, _ON)
    inner = (gaps < _ON) & (steps > slack) & (steps < 1 - slack)
    found: list[float] = []
    for step in np.sort(steps[inner]).tolist():
        if not found or step - found[-1] > slack:
            found.append(step)
    return found


def _polygons(outlines: Sequence[Curve]) -> Iterator[list[Curve]]:
    """Outlines, each with its holes."""
    group: list[Curve] = []
    for curve in outlines:
        x, y = curve.sides()[:, :2].T
        outer = float(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1])) > 0
        if outer and group:
            yield group
            group = []
        group.append(curve)
    if group:
        yield group
