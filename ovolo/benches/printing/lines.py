"""The lines of each layer of a body: walls, skins, what is inside, supports, brim.

An outer wall runs half a line's width within the outline, each further wall a width within the last, so
that they lie side by side; where there is no room for two, one of its own width runs along the middle. What is
nearest to air above or below is filled solid, the rest by the pattern. None reaches out of the body.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

import numpy as np
import shapely
from msgspec import Struct, field

from ovolo.benches.motion import runs, times
from ovolo.benches.printing.filling import Fill, filled, solid, straight
from ovolo.benches.printing.layers import Areas, Heights, common, inset, opened, rings
from ovolo.benches.printing.narrow import Middle, may_be_narrow, middle_lines, narrow_places
from ovolo.benches.printing.ordering import nearest_first
from ovolo.benches.printing.printer import Printer
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.types import Floats, Points

OUTER, INNER, SKIN, INSIDE, SUPPORT, BRIM = (
    "outer wall",
    "inner walls",
    "skin",
    "inside",
    "support",
    "brim",
)
ROLES = (BRIM, SUPPORT, INNER, OUTER, SKIN, INSIDE)
"""In the order in which a layer is laid."""


_HAIR = 1e-4
"""Of a line's width: so much nearer to the outline walls lie, so that what is just one line wide is not lost."""


class Line(NamedTuple):
    """A line that is laid: its role, its places (n, 2) and its width in mm; a closed one ends where it begins."""

    role: str
    points: Points
    width: float

    @property
    def length(self) -> float:
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())


class LayerLines(Struct, frozen=True, eq=False):
    """The lines of one layer of a body in the order they are laid."""

    lines: list[Line] = field(default_factory=list)

    def lengths(self) -> dict[str, float]:
        """mm of line by role."""
        found: dict[str, float] = {}
        for line in self.lines:
            found[line.role] = found.get(line.role, 0.0) + line.length
        return found

    def covered(self) -> float:
        """mm² that they cover."""
        return sum(line.length * line.width for line in self.lines)

    def seconds(self, speed: float, printer: Printer) -> float:
        """How long its lines and the way between them take."""
        lengths = [runs(line.points) for line in self.lines]
        laid = times(np.concatenate(lengths), speed, printer.acceleration) if lengths else np.zeros(0)  # fmt: skip
        return float(laid.sum() + times(self.travels(), printer.travel, printer.acceleration).sum())

    def travels(self) -> Floats:
        """The lengths of the ways from each line to the next."""
        ends = np.array([line.points[-1] for line in self.lines[:-1]]).reshape(-1, 2)
        starts = np.array([line.points[0] for line in self.lines[1:]]).reshape(-1, 2)
        return np.asarray(np.hypot(*(starts - ends).T))


def lines_of_layers(
    sections: Areas, supports: Areas, heights: Heights, printer: Printer, chosen: range
) -> list[LayerLines]:
    """The lines of some layers of a body, by the sections and supports of all of its layers."""
    own = sections[chosen.start : chosen.stop]
    half = printer.line / 2
    inner = inset(own, printer.walls * printer.line)
    within = inset(inner, half)
    walls = _walls(own, inner, within, printer)
    sparse = _sparse(sections, inner, printer, chosen)
    skin = solid(within, inset(sparse, -half), printer.line, chosen.start)
    inside = filled(
        inset(sparse, half), printer.pattern, printer.density, printer.line, chosen.start
    )
    beneath = supports[chosen.start : chosen.stop]
    support = straight(inset(beneath, half), printer.support_density, printer.line)
    found = []
    for at in range(len(own)):
        loops = {
            BRIM: _brim(own[at], beneath[at], printer) if chosen.start + at == 0 else [],
            INNER: [ring for wall in walls[:0:-1] for ring in wall.loops[at]],
            OUTER: walls[0].loops[at],
        }
        middles = {
            INNER: [one for wall in walls[:0:-1] for one in wall.middles.get(at, ())],
            OUTER: walls[0].middles.get(at, []),
        }
        fills = {SUPPORT: support, SKIN: skin, INSIDE: inside}
        found.append(_ordered(loops, middles, fills, at, printer.line))
    return found


class _Wall(NamedTuple):
    """A wall of each of some layers: its rings, and by layer the lines along the middle of what is narrow."""

    loops: list[list[Points]]
    middles: dict[int, list[Middle]]


def _walls(own: Areas, inner: Areas, within: Areas, printer: Printer) -> list[_Wall]:
    """The walls of some layers, the outer first, and at last what fills gaps beside them; `inner` is what is left
    within all walls, `within` what is left of that half a line further in."""
    line = printer.line
    loops = [inset(own, (at + 0.5 - _HAIR) * line) for at in range(printer.walls)]
    lost = [may_be_narrow(one, next_, line, line) for one, next_ in itertools.pairwise(loops)]
    lost.append(may_be_narrow(loops[-1], inner, (0.5 + _HAIR) * line, line))
    doubted = [lost[0], *(before | one for before, one in itertools.pairwise(lost))]
    walls = [
        _wall(one, own, at, np.flatnonzero(doubted[at]).tolist(), line)
        for at, one in enumerate(loops)
    ]
    gaps = np.flatnonzero(may_be_narrow(inner, within, line / 2, line)).tolist()
    filled = zip(gaps, _middles_of(inner[gaps], line, line / 2, line), strict=True)
    return [*walls, _Wall([[] for _ in own], {layer: lines for layer, (_, lines) in filled})]


def _wall(loops: Areas, own: Areas, at: int, doubted: list[int], line: float) -> _Wall:
    """The wall of a number (0 for the outer) of some layers: its rings, but where what is left for it in one of the
    layers `doubted` has no room for two lines."""
    left = inset(own[doubted], (at - _HAIR) * line) if at else own[doubted]
    least = line / 2 if at else line
    middles = {}
    for layer, area, (narrow, lines) in zip(doubted, left, _middles_of(left, 2 * line, least, line), strict=True):  # fmt: skip
        if lines:
            wide = np.array([shapely.difference(area, narrow)], dtype=object)
            loops[layer] = inset(wide, (0.5 - _HAIR) * line)[0]
            middles[layer] = lines
    return _Wall(_rings(loops), middles)


def _middles_of(
    left: Areas, width: float, least: float, line: float
) -> list[tuple[Any, list[Middle]]]:
    """What of each of some areas is less than so wide and has a middle, and the lines along that."""
    known: dict[int, tuple[Any, list[Middle]]] = {}
    for area, places in zip(left, narrow_places(left, width), strict=True):
        if id(area) not in known:  # equal layers share theirs
            each = [(one, middle_lines(one, area, line, least)) for one in places]
            narrow = shapely.union_all([one for one, lines in each if lines])
            known[id(area)] = narrow, [middle for _, lines in each for middle in lines]
    return [known[id(area)] for area in left]


def _ordered(
    loops: dict[str, list[Points]],
    middles: dict[str, list[Middle]],
    fills: dict[str, Fill],
    layer: int,
    width: float,
) -> LayerLines:
    """Role after role, of each what is nearest first."""
    lines: list[Line] = []
    last = None
    for role in ROLES:
        given: Sequence[Points] | Floats = loops[role] if role in loops else fills[role].of(layer)
        own = middles.get(role, [])
        if own:
            given = [*given, *(points for points, _ in own)]
        widths = [width] * (len(given) - len(own)) + [own_width for _, own_width in own]
        lines += [Line(role, points, widths[at]) for at, points in nearest_first(given, last)]
        last = lines[-1].points[-1] if lines else None
    return LayerLines(lines)


def _rings(areas: Areas) -> list[list[Points]]:
    """The outlines and holes of each of some areas."""
    every, owner = rings(areas)
    points, of = shapely.get_coordinates(every, return_index=True)
    parted = np.split(points, np.searchsorted(of, np.arange(1, len(every)))) if len(every) else []
    found: list[list[Points]] = [[] for _ in areas]
    for at, ring in zip(owner.tolist(), parted, strict=True):
        found[at].append(ring)
    return found


def _brim(area: object, support: object, printer: Printer) -> list[Points]:
    """Rings about all that stands on the plate, the outermost first."""
    foot = shapely.union(area, support)
    return [
        ring
        for at in range(printer.brim, 0, -1)
        for ring in _outer_rings(shapely.buffer(foot, (at - 0.5) * printer.line, quad_segs=8))
    ]


def _outer_rings(area: object) -> Iterator[Points]:
    for part in shapely.get_parts(area):
        yield shapely.get_coordinates(shapely.get_exterior_ring(part))


def _sparse(sections: Areas, inner: Areas, printer: Printer, chosen: range) -> Areas:
    """What of the layers is filled by the pattern: what is covered above and below by as many layers as
    are solid, and not narrower than two lines."""
    if printer.density >= 1:
        return np.full(len(inner), shapely.Polygon(), dtype=object)
    own, covered = sections[chosen.start : chosen.stop], inner.copy()
    for number, way in ((printer.above, 1), (printer.below, -1)):
        if number:
            beside = _shared(sections, chosen, number, way)
            bare = ~shapely.equals_exact(beside, own, SAME_PLACE)
            covered[bare] = common(covered[bare], beside[bare])
    return opened(covered, printer.line)


def _shared(sections: Areas, chosen: range, number: int, way: int) -> Areas:
    """What the next so many sections of each chosen layer have in common, upward (way 1) or downward (-1);
    beyond the ends there is nothing. By beginnings and ends of blocks, three overlays a layer whatever the
    number (van Herk, Pattern Recognition Letters 13, 1992; Gil and Werman 1993)."""
    reach = len(chosen) + number
    start = chosen.start + 1 if way > 0 else chosen.stop - 2
    wanted = start + way * np.arange(reach - 1)
    there = (wanted >= 0) & (wanted < len(sections))
    row = np.full(len(wanted), shapely.Polygon(), dtype=object)
    row[there] = sections[wanted[there]]
    forward, backward = row.copy(), row.copy()
    # All blocks at once, step by step.
    place = np.arange(len(row))
    for step in range(1, number):
        at = place[place % number == step]
        forward[at] = common(forward[at - 1], row[at])
        at = place[:-1][(place[:-1] + 1) % number == number - step]
        backward[at] = common(backward[at + 1], row[at])
    shared = common(backward[: len(chosen)], forward[number - 1 :])
    return shared if way > 0 else shared[::-1]
