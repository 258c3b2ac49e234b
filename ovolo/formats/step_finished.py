"""The exact faces of extrusions with leaning walls and finished edges in a STEP file: for each line or
arc of the outline and each stretch of the wall a plane, a cylinder, a cone or a ring."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from functools import cached_property

import numpy as np
from msgspec import Struct

from ovolo.formats.step_file import StepFile
from ovolo.formats.step_file import one as figure
from ovolo.formats.step_turned import parted
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Straight
from ovolo.geometry.placement import Matrix, applied, determinant, keeps_lengths
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.solids.edge_profile import Stretch
from ovolo.geometry.solids.finished_extrusion import Finished
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product

_UP = np.array([0.0, 0.0, 1.0])
_FLIP = np.diag([-1.0, 1.0, 1.0, 1.0])


class FinishedFaces(Struct, frozen=True):
    """Outlines (material to their left) and the stretches of the wall from below, in a frame."""

    outlines: tuple[Curve, ...]
    stretches: tuple[Stretch, ...]
    frame: Matrix

    @property
    def count(self) -> int:
        return len(self.stretches) * sum(len(curve.pieces) for curve in self.outlines) + 2


def finished_faces(solid: Solid) -> FinishedFaces | None:
    """What the faces of a finished extrusion are made from; None for any other solid, and where a
    rounding is larger than the arc of the outline that it goes round."""
    form = solid.shape.form
    if not isinstance(form, Finished) or not form.exact or not keeps_lengths(solid.matrix):
        return None
    frame, region = solid.matrix, form.region
    if determinant(frame) < 0:
        frame, region = frame @ _FLIP, region.placed(_FLIP).in_plan()
    outlines = tuple(parted(curve) for curve in region.outlines)
    stretches = tuple(form.edges.stretches())
    arcs = [p for curve in outlines for p in curve.pieces if isinstance(p, Arc)]
    for arc, stretch in itertools.product(arcs, stretches):
        inner = min(_radius(arc, d) for d in (stretch.start[0], stretch.end[0]))
        tube = _radius(arc, stretch.centre[0]) - stretch.radius if stretch.radius else 1.0
        if inner < SAME_PLACE or tube < SAME_PLACE:
            return None
    return FinishedFaces(outlines, stretches, frame)


def write_finished(file: StepFile, what: FinishedFaces) -> list[int]:
    """All faces: the walls, and the two level ones."""
    faces: list[int] = []
    ends: tuple[list[int], list[int]] = ([], [])
    for curve in what.outlines:
        ring = _Ring(file, what.frame, curve)
        for stretch in what.stretches:
            faces += [ring.face(at, stretch) for at in range(len(curve.pieces))]
        first, last = what.stretches[0].start, what.stretches[-1].end
        below = [ring.level(at, *first) for at in range(len(curve.pieces))]
        above = [ring.level(at, *last) for at in range(len(curve.pieces))]
        ends[0].append(file.loop([(edge, not way) for edge, way in reversed(below)]))
        ends[1].append(file.loop(above))
    heights = what.stretches[0].start[1], what.stretches[-1].end[1]
    for loops, height, way in zip(ends, heights, (-1.0, 1.0), strict=True):
        origin = applied(what.frame, np.array([[0.0, 0.0, height]]))[0]
        placed = file.placement(origin, way * what.frame[:3, 2], what.frame[:3, 0])
        faces.append(file.face(file.add(f"PLANE('',#{placed})"), loops))
    return faces


def _radius(arc: Arc, inset: float) -> float:
    """The radius of an arc of an outline at an inset."""
    return arc.radius - inset * math.copysign(1.0, arc.sweep * float(arc.normal[2]))


class _Ring(Struct, frozen=True, eq=False, dict=True):
    """One outline on its way up: its corners move along mitres (3,) for each mm of the inset."""

    file: StepFile
    frame: Matrix
    curve: Curve

    @cached_property
    def corners(self) -> list[Points]:
        return [piece.start * [1.0, 1.0, 0.0] for piece in self.curve.pieces]

    @cached_property
    def mitres(self) -> list[Points]:
        pieces = self.curve.pieces
        ways = [
            [_left(one) for one in (before.slope(1.0), after.slope(0.0))]
            for before, after in zip([pieces[-1], *pieces[:-1]], pieces, strict=True)
        ]
        return [(a + b) / (1 + float(a @ b)) for a, b in ways]

    def local(self, at: int, inset: float, height: float) -> Points:
        at %= len(self.corners)
        found: Points = self.corners[at] + inset * self.mitres[at] + height * _UP
        return found

    def place(self, at: int, inset: float, height: float) -> Points:
        found: Points = applied(self.frame, self.local(at, inset, height)[None])[0]
        return found

    def level(self, at: int, inset: float, height: float) -> tuple[int, bool]:
        """The edge along a piece at an inset and a height."""
        ends = self.place(at, inset, height), self.place(at + 1, inset, height)
        piece = self.curve.pieces[at]
        if isinstance(piece, Straight):
            return self.file.line_edge(*ends)
        assert isinstance(piece, Arc)
        share = _radius(piece, inset) / piece.radius
        centre = piece.centre * [1.0, 1.0, 0.0] + height * _UP
        arc = Arc(centre, share * piece.u, share * piece.v, piece.angle, piece.sweep)
        return self.file.arc_edge(arc.placed(self.frame), ends), True

    def rising(self, at: int, stretch: Stretch) -> tuple[int, bool]:
        """The edge up a corner."""
        ends = self.place(at, *stretch.start), self.place(at, *stretch.end)
        if not stretch.radius:
            return self.file.line_edge(*ends)
        at %= len(self.corners)
        centre = self.local(at, *stretch.centre)
        out = -stretch.radius * self.mitres[at]
        arc = Arc(centre, out, stretch.radius * stretch.way * _UP, stretch.angle, stretch.sweep)
        return self.file.arc_edge(arc.placed(self.frame), ends), True

    def face(self, at: int, stretch: Stretch) -> int:
        far, near = self.rising(at + 1, stretch), self.rising(at, stretch)
        above = self.level(at, *stretch.end)
        loop = self.file.loop([self.level(at, *stretch.start), far, (above[0], not above[1]), (near[0], not near[1])])  # fmt: skip
        surface, same = self._surface(at, stretch)
        return self.file.face(surface, [loop], same)

    def _surface(self, at: int, stretch: Stretch) -> tuple[int, bool]:
        piece = self.curve.pieces[at]
        up = self.frame[:3, 2]
        if isinstance(piece, Straight):
            along = self.place(at + 1, *stretch.start) - self.place(at, *stretch.start)
            if stretch.radius:
                placed = self.file.placement(self.place(at, *stretch.centre), along, up)
                return self.file.add(f"CYLINDRICAL_SURFACE('',#{placed},{figure(stretch.radius)})"), True  # fmt: skip
            rise = self.place(at, *stretch.end) - self.place(at, *stretch.start)
            placed = self.file.placement(self.place(at, *stretch.start), cross_product(along, rise), along)  # fmt: skip
            return self.file.add(f"PLANE('',#{placed})"), True
        assert isinstance(piece, Arc)
        outwards = piece.sweep * float(piece.normal[2]) > 0
        x = self.frame[:3, :3] @ (piece.start - piece.centre)

        def on_axis(height: float, way: float = 1.0) -> int:
            centre = piece.centre * [1.0, 1.0, 0.0] + height * _UP
            return self.file.placement(applied(self.frame, centre[None])[0], way * up, x)

        if stretch.radius:
            sizes = f"{figure(_radius(piece, stretch.centre[0]))},{figure(stretch.radius)}"
            return self.file.add(
                f"TOROIDAL_SURFACE('',#{on_axis(stretch.centre[1])},{sizes})"
            ), True
        (d0, z0), (d1, z1) = stretch.start, stretch.end
        low, high = sorted(((_radius(piece, d0), z0), (_radius(piece, d1), z1)))
        if high[0] - low[0] < SAME_PLACE:
            return self.file.add(f"CYLINDRICAL_SURFACE('',#{on_axis(z0)},{figure(low[0])})"), outwards  # fmt: skip
        lean = math.atan2(high[0] - low[0], abs(high[1] - low[1]))
        placed = on_axis(low[1], math.copysign(1.0, high[1] - low[1]))
        return self.file.add(f"CONICAL_SURFACE('',#{placed},{figure(low[0])},{figure(lean)})"), outwards  # fmt: skip


def _left(slope: Sequence[float] | Points) -> Points:
    unit = np.asarray(slope) / np.linalg.norm(slope)
    return np.array([-unit[1], unit[0], 0.0])
