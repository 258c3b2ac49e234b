"""The G-code of a print, a layer after another, so that however long it is little of it is held."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ovolo.benches.gcode import comment
from ovolo.benches.printing.build import Print, in_place
from ovolo.benches.printing.lines import LayerLines
from ovolo.benches.printing.plate import Place
from ovolo.geometry.types import Floats, Points

_AT_ONCE = 20
"""So many layers are worked out together."""


def program(made: Print, plate: int, title: str) -> Iterator[str]:
    """The lines of the program for a plate."""
    yield from beginning(made, title)
    count = made.layers_of(plate)
    for first in range(0, count, _AT_ONCE):
        yield from layers(made, plate, range(first, min(first + _AT_ONCE, count)))
    yield from ending()


def beginning(made: Print, title: str) -> Iterator[str]:
    printer = made.printer
    yield comment(title)
    yield comment(f"{printer.title}: layers {printer.layer:g} mm, lines {printer.line:g} mm")
    yield from ("G21", "G90", "M83")
    yield from (f"M140 S{printer.bed}", f"M104 S{printer.nozzle}")
    yield from (f"M190 S{printer.bed}", f"M109 S{printer.nozzle}")


def ending() -> Iterator[str]:
    yield from ("M104 S0", "M140 S0", "M2")


def layers(made: Print, plate: int, chosen: range) -> Iterator[str]:
    """The lines of the program for some layers of a plate."""
    order = made.route(plate)
    lines = {body: made.lines(body, chosen) for body in made.copies(plate)}
    for at, layer in enumerate(chosen):
        level = made.heights.levels[layer] + made.heights.heights[layer]
        yield comment(f"layer {layer + 1}")
        yield f"G0 Z{level:.3f} F{made.printer.travel * 60:.0f}"
        for place in order:
            if at < len(lines[place.body]):
                yield from moves_of(lines[place.body][at], made, place, layer)


def moves_of(own: LayerLines, made: Print, place: Place, layer: int) -> Iterator[str]:
    """The lines of the program for a body in its place, in one layer."""
    body = made.layered[place.body].body
    travel, feed = made.printer.travel * 60, made.speed_in(layer) * 60
    fed = made.heights.heights[layer] / made.printer.thread_area
    for line in own.lines:
        there = in_place(line.points, place, body)
        yield comment(line.role)
        yield f"G0 X{there[0, 0]:.3f} Y{there[0, 1]:.3f} F{travel:.0f}"
        yield from _moves(there, line.width * fed, f" F{feed:.0f}")


def _moves(points: Points, fed: float, feed: str) -> Iterator[str]:
    lengths: Floats = np.hypot(*np.diff(points, axis=0).T) * fed
    for (x, y), e in zip(points[1:].tolist(), lengths.tolist(), strict=True):
        yield f"G1 X{x:.3f} Y{y:.3f} E{e:.5f}{feed}"
        feed = ""
