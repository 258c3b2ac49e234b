"""The simulated cutter: it reads a program, takes its cut out of the sheet, and what falls out is measured
against the design.

It knows the sheet and how wide the cut is, and nothing of how the program was made.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
import shapely
from msgspec import Struct, field

from ovolo.benches.cutting.cutter import Cutter
from ovolo.benches.cutting.nesting import Nest
from ovolo.benches.cutting.routes import place_of
from ovolo.benches.gcode import Block, blocks
from ovolo.benches.motion import runs, times
from ovolo.geometry.regions.region import polygons_of, within_odd
from ovolo.geometry.types import Points
from ovolo.problems import Failure

_CHORD = 0.0005
"""mm within which arcs are followed and figures compared."""

_THIN = 2e-3
"""What a cut that takes nothing is taken to take, in mm: pieces part all the same."""

_ON_SHEET = 1e-3
_ROUND = 2e-3
"""mm by which both ends of an arc may lie differently far from its centre: figures have four decimals."""


class Measured(Struct, frozen=True):
    """A piece that fell out, or hangs on: by how much its outline differs at most from the best that a round
    cut can leave of the design, how much that leaves standing in the sharpest inside corner, and how much of
    the outline is not cut through (its tabs), in mm."""

    laid: int
    off: float
    corner: float
    uncut: float

    @property
    def is_free(self) -> bool:
        return self.uncut == 0


class SimulatedCutter(Struct):
    """A cutter of a profile, with a sheet."""

    cutter: Cutter
    at: Points = field(default_factory=lambda: np.zeros(2))
    feed: float = 0.0
    """mm/s."""

    seconds: float = 0.0
    length: float = 0.0
    travel: float = 0.0
    pierces: int = 0
    strokes: list[Points] = field(default_factory=list)
    """What was cut, (n, 2) each."""

    _path: list[Points] = field(default_factory=list)
    _on: bool = False

    def run(self, program: Iterable[str]) -> None:
        """Carries out the program. Raises Failure at what it does not know, and where it would leave the
        sheet."""
        for block in blocks(program):
            self._carry_out(block)
        self._finish()

    def _carry_out(self, block: Block) -> None:
        code, switch = block.words.get("G"), block.words.get("M")
        if code in (0.0, 1.0, 2.0, 3.0):
            self._move(block, int(code))
        elif code == 4.0:
            self.seconds += block.words.get("P", 0.0)
        elif code is not None and code not in (21.0, 90.0):
            raise Failure(f"line {block.line}: this cutter has no G{code:g}")
        elif switch in (3.0, 5.0, 2.0):
            self._finish()
            self._on = switch == 3.0
            self.pierces += self._on
        elif code is None:
            raise Failure(f"line {block.line}: this cutter does not know {block.said}")

    def _move(self, block: Block, code: int) -> None:
        if (feed := block.words.get("F")) is not None:
            if feed != self.feed * 60:
                self._finish()
            self.feed = feed / 60
        if self.feed <= 0:
            raise Failure(f"line {block.line}: a move without a speed")
        if code == 0 and self._on:
            raise Failure(f"line {block.line}: it travels while it cuts")
        to = np.array([block.words.get("X", self.at[0]), block.words.get("Y", self.at[1])])
        points = self._arc(block, to, code == 2) if code > 1 else np.array([self.at, to])
        room = np.array([self.cutter.width, self.cutter.height])
        if np.any(points < -_ON_SHEET) or np.any(points > room + _ON_SHEET):
            raise Failure(
                f"line {block.line}: ({to[0]:g} mm, {to[1]:g} mm) lies off the sheet",
                f"0 to {room[0]:g} mm by 0 to {room[1]:g} mm",
            )
        self._path += list(points) if not self._path else list(points[1:])
        self.at = to

    def _arc(self, block: Block, to: Points, clockwise: bool) -> Points:
        centre = self.at + np.array([block.words.get("I", 0.0), block.words.get("J", 0.0)])
        begin, end = self.at - centre, to - centre
        radius = float(np.hypot(*begin))
        if radius == 0 or abs(float(np.hypot(*end)) - radius) > _ROUND:
            raise Failure(f"line {block.line}: this arc does not end on its circle")
        first = math.atan2(begin[1], begin[0])
        sweep = (math.atan2(end[1], end[0]) - first) % (2 * math.pi)
        if clockwise:
            sweep -= 2 * math.pi
        if sweep == 0 or abs(sweep) == 2 * math.pi:
            sweep = -2 * math.pi if clockwise else 2 * math.pi
        share = math.sqrt(2 * _CHORD / radius) if radius > _CHORD else 1.0
        angles = first + sweep * np.linspace(0, 1, max(math.ceil(abs(sweep) / share), 2) + 1)
        points = centre + radius * np.column_stack([np.cos(angles), np.sin(angles)])
        points[-1] = to
        return np.asarray(points)

    def _finish(self) -> None:
        """Ends the moves that go on from each other, cutting or not: their length and their time."""
        points, self._path = np.array(self._path).reshape(-1, 2), []
        if len(points) < 2:
            return
        stops = runs(points)
        self.seconds += float(times(stops, self.feed, self.cutter.acceleration).sum())
        if self._on:
            self.length += float(stops.sum())
            self.strokes.append(points)
        else:
            self.travel += float(stops.sum())

    def removed(self) -> Any:
        """What the cuts took out of the sheet (a shapely area)."""
        width = max(self.cutter.kerf, _THIN)
        lines = shapely.MultiLineString(self.strokes)
        return shapely.buffer(lines, width / 2, quad_segs=32)


def design_of(nest: Nest, at: int) -> Any:
    """The figure (shapely) of a laid piece as it is designed, with fine chords."""
    one = nest.laid[at]
    flat = nest.pieces[one.piece]
    place = place_of(flat, one)
    rings = [
        shapely.Polygon(curve.placed(place).points(_CHORD)[:, :2]) for curve in flat.region.outlines
    ]
    return within_odd([ring.buffer(0) for ring in rings])


def measured(nest: Nest, sheet: int, machine: SimulatedCutter) -> list[Measured]:
    """What fell out of a sheet, piece by piece, measured against the design."""
    removed = machine.removed()
    shapely.prepare(removed)
    found = []
    for at, one in enumerate(nest.laid):
        if one.sheet != sheet:
            continue
        design = design_of(nest, at)
        found.append(_measured(at, design, removed, max(nest.cutter.kerf, _THIN)))
    return found


def _measured(at: int, design: Any, removed: Any, kerf: float) -> Measured:
    """How far the cut edge lies from the outline. A round cut leaves inside corners round: the best it can
    leave is the design closed by half of its width. Where no cut lies along the outline, the piece hangs."""
    best = shapely.buffer(shapely.buffer(design, kerf / 2, quad_segs=64), -kerf / 2, quad_segs=64)
    rim = shapely.boundary(best)
    near = shapely.intersection(removed, shapely.buffer(design, kerf * 0.75))
    left = shapely.difference(shapely.buffer(design, kerf / 2), near)
    own = [
        part
        for part in polygons_of(left)
        if shapely.intersection(part, design).area > part.area / 2
    ]
    uncut = shapely.difference(rim, shapely.buffer(near, _TOUCHES))
    tabs = shapely.buffer(uncut, kerf)  # what is left standing there is no fault of the cut
    edges = shapely.difference(shapely.boundary(shapely.MultiPolygon(own)), tabs)
    off = max(_furthest(edges, rim), _furthest(shapely.difference(rim, tabs), edges))
    length = float(uncut.length)
    corner = _furthest(shapely.boundary(design), rim)
    return Measured(at, off, corner, length if length > _TOUCHES else 0.0)


def _furthest(line: Any, other: Any) -> float:
    """How far the corners of a line lie at most from another."""
    points = shapely.points(shapely.get_coordinates(line))
    if not len(points):
        return 0.0
    if shapely.is_empty(other):
        return math.inf
    shapely.prepare(other)
    return float(shapely.distance(other, points).max())


_TOUCHES = 0.01
"""mm within which a cut lies along an outline."""


def largest(found: Sequence[Measured]) -> float:
    return functools.reduce(max, (one.off for one in found), 0.0)
