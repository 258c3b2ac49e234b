"""A print: bodies on plates, in layers, and what each layer takes.

What is costly (the sections of all layers, the support) is worked out once for a print; the lines of some
layers are worked out when they are asked for, so that long prints show their progress and can be stopped.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np
import shapely
from msgspec import Struct
from msgspec.structs import replace

from ovolo.benches.motion import times
from ovolo.benches.printing.bodies import Body, bodies_of
from ovolo.benches.printing.findings import Finding, findings_of, held_by_first
from ovolo.benches.printing.layers import Areas, Heights, heights_for, sections
from ovolo.benches.printing.lines import LayerLines, lines_of_layers
from ovolo.benches.printing.plate import Place, footprint, set_out
from ovolo.benches.printing.printer import Printer
from ovolo.benches.printing.supports import supports
from ovolo.geometry.types import Floats, Points
from ovolo.outcome.part import Part
from ovolo.problems import Failure

FINENESS = 0.01
"""Lines follow the outline of a section within this share of their width: no printer is finer."""


class Layered(Struct, frozen=True, eq=False):
    """A body with the sections and the supports of all of its layers."""

    body: Body
    sections: Areas
    supports: Areas


class Print(Struct, frozen=True, eq=False, dict=True):
    """Bodies on plates, in common layers."""

    printer: Printer
    layered: Sequence[Layered]
    places: Sequence[Place]
    refused: Sequence[Failure]
    """What is too large for the plate, or too low for a layer."""

    heights: Heights

    @property
    def plates(self) -> int:
        return 1 + max(place.plate for place in self.places)

    def copies(self, plate: int) -> dict[int, int]:
        """How many there are of each body on a plate."""
        found: dict[int, int] = {}
        for place in self.places:
            if place.plate == plate:
                found[place.body] = found.get(place.body, 0) + 1
        return found

    def layers_of(self, plate: int) -> int:
        """How many layers a plate has."""
        return max(len(self.layered[at].sections) for at in self.copies(plate))

    def lines(self, body: int, chosen: range) -> list[LayerLines]:
        """The lines of some layers of a body, in its own place; of those that it has."""
        one = self.layered[body]
        own = range(chosen.start, min(chosen.stop, len(one.sections)))
        if not own:
            return []
        return lines_of_layers(one.sections, one.supports, self.heights, self.printer, own)

    def speed_in(self, layer: int) -> float:
        return self.printer.first_speed if layer == 0 else self.printer.speed

    def lost(self, body: int) -> float:
        """By how much (mm) a body is lower when it is made of whole layers; higher where it is below 0."""
        one = self.layered[body]
        count = len(one.sections)
        top = (
            float(self.heights.levels[count - 1] + self.heights.heights[count - 1])
            if count
            else 0.0
        )
        return float(one.body.size[2]) - top

    @cached_property
    def _routes(self) -> list[list[Place]]:
        return [self._route(plate) for plate in range(self.plates)]

    def route(self, plate: int) -> list[Place]:
        """The bodies of a plate in the order they are visited in each layer: the nearest next."""
        return self._routes[plate]

    def _route(self, plate: int) -> list[Place]:
        there = [one for one in self.places if one.plate == plate]
        middles = np.array([self.middle(one) for one in there])
        left, place, found = np.ones(len(there), dtype=bool), np.zeros(2), []
        for _ in there:
            away = np.where(left, ((middles - place) ** 2).sum(axis=1), np.inf)
            at = int(away.argmin())
            left[at] = False
            found.append(there[at])
            place = middles[at]
        return found

    def middle(self, place: Place) -> Points:
        """The middle of the footprint of a body in its place, (2,)."""
        return (
            np.array([place.x, place.y])
            + np.array(footprint(self.layered[place.body].body, place)) / 2
        )


def print_of(parts: Sequence[Part], printer: Printer, roles: Mapping[str, str]) -> Print:
    """The print of some parts. Raises Failure where nothing can be printed."""
    bodies = bodies_of(parts, printer, roles)
    places, refused = set_out(bodies, printer)
    heights = heights_for([bodies[at] for at in {place.body for place in places}], printer)
    low = {at for at, body in enumerate(bodies) if not heights.of(body)}
    refused += [_too_low(bodies[at], printer) for at in sorted(low)]
    used = sorted({place.body for place in places} - low)
    layered = []
    for at in used:
        body = bodies[at]
        own = sections(body.manifold, heights.middles[: heights.of(body)], printer.line * FINENESS)
        layered.append(Layered(body, own, supports(body, own, heights, printer)))
    kept = [one for one in places if one.body in used]
    plates = sorted({one.plate for one in kept})
    renumbered = [
        replace(one, body=used.index(one.body), plate=plates.index(one.plate)) for one in kept
    ]
    return Print(printer, layered, renumbered, refused, heights)


def _too_low(body: Body, printer: Printer) -> Failure:
    return Failure(
        f"{body.label} is {body.size[2]:.4g} mm high, less than half of the first layer "
        f"({printer.first_layer:g} mm): nothing of it would be laid",
        "a lower first layer",
    )


class LayerFigures(Struct, frozen=True):
    """What a layer of a plate takes: mm² that are covered by bodies, mm of line by role, mm³ laid, s."""

    area: float
    lengths: dict[str, float]
    volume: float
    seconds: float


def figures_of(made: Print, plate: int, chosen: range) -> tuple[list[LayerFigures], list[Finding]]:
    """What some layers of a plate take, and what is amiss in them."""
    copies = made.copies(plate)
    area, volume, seconds = (np.zeros(len(chosen)) for _ in range(3))
    ends: dict[int, list[Ends | None]] = {}
    lengths: list[dict[str, float]] = [{} for _ in chosen]
    found: list[Finding] = []
    for body, number in copies.items():
        one = made.layered[body]
        each = made.lines(body, chosen)
        ends[body] = [_ends(lines) for lines in each]
        for at, lines in enumerate(each):
            layer = chosen.start + at
            own = lines.lengths()
            area[at] += number * shapely.area(one.sections[layer])
            seconds[at] += number * lines.seconds(made.speed_in(layer), made.printer)
            for role, length in own.items():
                lengths[at][role] = lengths[at].get(role, 0.0) + number * length
            volume[at] += number * lines.covered() * made.heights.heights[layer]
        own_layers = range(chosen.start, min(chosen.stop, len(one.sections)))
        if own_layers:
            found += findings_of(body, one.sections, one.supports, made.printer, own_layers)
    seconds += _between(made, plate, chosen, ends)
    figures = [
        LayerFigures(float(area[at]), lengths[at], float(volume[at]), float(seconds[at]))
        for at in range(len(chosen))
    ]
    return figures, found


Ends = tuple[Points, Points]
"""Where the first line of a body begins in a layer, and where the last ends, in its own place, (2,) each."""


def _ends(own: LayerLines) -> Ends | None:
    return (own.lines[0].points[0], own.lines[-1].points[-1]) if own.lines else None


def _between(
    made: Print, plate: int, chosen: range, ends: Mapping[int, list[Ends | None]]
) -> Floats:
    """Seconds for the ways of each layer beside those within a body: up to the layer, to its first body from
    where the layer before ended, and from body to body."""
    printer, head = made.printer, _end_of(made, plate, chosen.start - 1)
    tops = made.heights.levels + made.heights.heights
    found = np.zeros(len(chosen))
    for at, layer in enumerate(chosen):
        ways = [tops[layer] - (tops[layer - 1] if layer else 0.0)]
        for place in made.route(plate):
            own = ends[place.body][at] if at < len(ends[place.body]) else None
            if own is not None:
                begin, end = in_place(np.array(own), place, made.layered[place.body].body)
                ways.append(np.hypot(*(begin - head)))
                head = end
        found[at] = times(np.array(ways), printer.travel, printer.acceleration).sum()
    return found


def _end_of(made: Print, plate: int, layer: int) -> Points:
    """Where on a plate the head is after a layer, (2,): in its corner before the first."""
    for before in range(layer, -1, -1):
        for place in reversed(made.route(plate)):
            lines = made.lines(place.body, range(before, before + 1))
            if lines and (own := _ends(lines[0])) is not None:
                body = made.layered[place.body].body
                return in_place(np.array([own[1]]), place, body)[0]  # type: ignore[no-any-return]
    return np.zeros(2)


def in_place(points: Points, place: Place, body: Body) -> Points:
    """Places (n, 2) of a body as they lie on the plate; a quarter turn goes to the left."""
    if place.turned:
        points = np.column_stack([float(body.size[1]) - points[:, 1], points[:, 0]])
    moved: Points = points + np.array([place.x, place.y])
    return moved


def held(made: Print, plate: int) -> float:
    """mm² of the plate that the first layer covers."""
    return sum(
        number
        * held_by_first(made.layered[body].sections, made.layered[body].supports, made.printer)
        for body, number in made.copies(plate).items()
    )
