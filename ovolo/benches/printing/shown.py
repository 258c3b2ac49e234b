"""A print as a person reads it, and as the screen draws it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
import shapely

from ovolo.benches.answers import (
    BenchPartSaid,
    FindingSaid,
    LayerSaid,
    LayersSaid,
    LineSaid,
    PlateSaid,
    PrintSaid,
)
from ovolo.benches.printing.bodies import LEFT_OUT, role_of
from ovolo.benches.printing.build import (
    LayerFigures,
    Print,
    held,
    in_place,
)
from ovolo.benches.printing.findings import Finding
from ovolo.benches.printing.layers import rings
from ovolo.benches.printing.lines import OUTER, LayerLines
from ovolo.benches.printing.plate import footprint
from ovolo.geometry.types import Points
from ovolo.outcome.part import Part
from ovolo.quantities.kinds import SOLID

_OUTLINE = 0.25
"""In the stack, outlines are drawn within this share of a line's width."""


def shown_parts(parts: Sequence[Part], roles: Mapping[str, str]) -> list[BenchPartSaid]:
    """The parts with what each is on the plate; what is no solid is left out."""
    return [
        {
            "name": part.name,
            "label": part.label or part.name,
            "count": part.count,
            "solid": part.kind == SOLID,
            "role": role_of(part, roles) if part.kind == SOLID else LEFT_OUT,
        }
        for part in parts
    ]


def shown_print(made: Print) -> PrintSaid:
    """What is known of a print before its lines are: plates, bodies, layers."""
    return {
        "bodies": [
            {
                "label": one.body.label,
                "size": one.body.size.tolist(),
                "count": one.body.count,
                "lost": made.lost(at),
                "layers": len(one.sections),
                "volume": one.body.volume,
            }
            for at, one in enumerate(made.layered)
        ],
        "plates": [_plate(made, at) for at in range(made.plates)],
        "levels": made.heights.levels.tolist(),
        "heights": made.heights.heights.tolist(),
        "line": made.printer.line,
        "width": made.printer.width,
        "depth": made.printer.depth,
        "material": made.printer.material,
    }


def _plate(made: Print, plate: int) -> PlateSaid:
    there = [one for one in made.places if one.plate == plate]
    return {
        "layers": made.layers_of(plate),
        "solid": sum(
            made.layered[body].body.volume * number for body, number in made.copies(plate).items()
        ),
        "held": held(made, plate),
        "places": [
            {
                "body": one.body,
                "x": one.x,
                "y": one.y,
                "size": [*footprint(made.layered[one.body].body, one)],
            }
            for one in there
        ],
    }


def shown_figures(
    made: Print,
    plate: int,
    chosen: range,
    figures: Sequence[LayerFigures],
    found: Sequence[Finding],
) -> LayersSaid:
    """What some layers take, what is amiss in them, and their outlines for the stack."""
    first = {one.body: one for one in reversed(made.route(plate))}
    return {
        "first": chosen.start,
        "figures": [
            {"area": one.area, "lengths": one.lengths, "volume": one.volume, "seconds": one.seconds}
            for one in figures
        ],
        "found": [_finding(one, made, first) for one in found[:MOST_FOUND]],
        "more": max(len(found) - MOST_FOUND, 0),
        "outlines": [outlines(made, plate, layer) for layer in chosen],
    }


MOST_FOUND = 200
"""So many findings of a piece of a print are told one by one."""


def _finding(one: Finding, made: Print, places: Mapping[int, Any]) -> FindingSaid:
    place = places[one.body]
    at = in_place(np.array([[one.x, one.y]]), place, made.layered[one.body].body)[0]
    return {
        "kind": one.kind,
        "layer": one.layer,
        "at": at.tolist(),
        "width": one.width,
        "area": one.area,
        "label": made.layered[one.body].body.label,
    }


def outlines(made: Print, plate: int, layer: int) -> list[list[float]]:
    """The outlines of all bodies in a layer, coarse: x, y, x, y …, to hundredths of a mm."""
    found = []
    for place in made.route(plate):
        one = made.layered[place.body]
        if layer >= len(one.sections):
            continue
        coarse = shapely.simplify(one.sections[layer], made.printer.line * _OUTLINE)
        for ring in rings(np.array([coarse]))[0]:
            found.append(_flat(in_place(shapely.get_coordinates(ring), place, one.body), 2))
    return found


def shown_layer(made: Print, plate: int, layer: int) -> LayerSaid:
    """The lines of a layer in the order they are laid: their roles, x, y, x, y …, and their widths in mm."""
    chosen = range(layer, layer + 1)
    lines = {body: made.lines(body, chosen) for body in made.copies(plate)}
    found: list[LineSaid] = []
    for place in made.route(plate):
        body = made.layered[place.body].body
        own: list[LayerLines] = lines[place.body]
        for line in own[0].lines if own else ():
            at = _flat(in_place(line.points, place, body), 3)
            found.append({"role": line.role, "at": at, "width": line.width})
    return {"layer": layer, "lines": found, "outer": OUTER}


def _flat(points: Points, decimals: int) -> list[float]:
    flat: list[float] = np.round(points, decimals).ravel().tolist()
    return flat
