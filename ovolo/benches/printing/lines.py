"""The lines of each layer of a body: walls, skins, what is inside, supports, brim.

An outer wall runs half a line's width within the outline, each further wall a width within the last, so
that they lie side by side. What is nearest to air above or below is filled solid, the rest by the
pattern. Every line is as wide as it is said: none reaches out of the body.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely

from ovolo.benches.motion import runs, times
from ovolo.benches.printing.filling import Fill, filled, solid, straight
from ovolo.benches.printing.layers import Areas, Heights, common, inset, opened, rings
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


@dataclass(frozen=True, eq=False)
class LayerLines:
    """The lines of one layer of a body in the order they are laid: their role, and their places (n, 2) in
    mm; a closed one ends where it begins."""

    lines: list[tuple[str, Points]] = field(default_factory=list)

    def lengths(self) -> dict[str, float]:
        """mm of line by role."""
        found: dict[str, float] = {}
        for role, points in self.lines:
            found[role] = found.get(role, 0.0) + float(np.hypot(*np.diff(points, axis=0).T).sum())
        return found

    def seconds(self, speed: float, printer: Printer) -> float:
        """How long its lines and the way between them take."""
        lengths = [runs(points) for _, points in self.lines]
        laid = times(np.concatenate(lengths), speed, printer.acceleration) if lengths else np.zeros(0)  # fmt: skip
        return float(laid.sum() + times(self.travels(), printer.travel, printer.acceleration).sum())

    def travels(self) -> Floats:
        """The lengths of the ways from each line to the next."""
        ends = np.array([points[-1] for _, points in self.lines[:-1]]).reshape(-1, 2)
        starts = np.array([points[0] for _, points in self.lines[1:]]).reshape(-1, 2)
        return np.asarray(np.hypot(*(starts - ends).T))


def lines_of_layers(
    sections: Areas, supports: Areas, heights: Heights, printer: Printer, chosen: range
) -> list[LayerLines]:
    """The lines of some layers of a body, by the sections and supports of all of its layers."""
    own = sections[chosen.start : chosen.stop]
    walls = [inset(own, (at + 0.5 - _HAIR) * printer.line) for at in range(printer.walls)]
    inner = inset(own, printer.walls * printer.line)
    sparse = _sparse(sections, inner, printer, chosen)
    half = printer.line / 2
    skin = solid(inset(inner, half), inset(sparse, -half), printer.line, chosen.start)
    inside = filled(
        inset(sparse, half), printer.pattern, printer.density, printer.line, chosen.start
    )
    beneath = supports[chosen.start : chosen.stop]
    support = straight(inset(beneath, half), printer.support_density, printer.line)
    loops_of = [_rings(wall) for wall in walls]
    found = []
    for at in range(len(own)):
        loops = {
            BRIM: _brim(own[at], beneath[at], printer) if chosen.start + at == 0 else [],
            INNER: [ring for wall in loops_of[:0:-1] for ring in wall[at]],
            OUTER: loops_of[0][at],
        }
        fills = {SUPPORT: support, SKIN: skin, INSIDE: inside}
        found.append(_ordered(loops, fills, at))
    return found


def _ordered(loops: dict[str, list[Points]], fills: dict[str, Fill], layer: int) -> LayerLines:
    """Role after role, of each what is nearest first."""
    lines: list[tuple[str, Points]] = []
    last = None
    for role in ROLES:
        given: Sequence[Points] | Floats = loops[role] if role in loops else fills[role].of(layer)
        for points in nearest_first(given, last):
            lines.append((role, points))
        last = lines[-1][1][-1] if lines else None
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
