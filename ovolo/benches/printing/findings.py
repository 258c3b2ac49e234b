"""What is looked for in the layers of a body before it is printed."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import shapely
from msgspec import Struct

from ovolo.benches.printing.layers import NEARLY, Areas, once, opened, widened
from ovolo.benches.printing.printer import Printer

ISLANDS, THIN, GAPS, FOOT = "islands in the air", "walls under one line", "gaps under one line", "first layers too small"  # fmt: skip
LOOKED_FOR = (ISLANDS, THIN, GAPS, FOOT)

_SMALLEST = 0.5
"""What is thin is told from there on, in squares of a line's width: sharp corners lose less."""


class Finding(Struct, frozen=True):
    """Something amiss in a layer of a body: what, where (mm, in the body's own place), how large its area is
    (mm²), and about how wide it is (mm)."""

    kind: str
    body: int
    layer: int
    x: float
    y: float
    area: float
    width: float


def findings_of(
    body: int, sections: Areas, supports: Areas, printer: Printer, chosen: range
) -> list[Finding]:
    """What is amiss in some layers of a body, by the sections and supports of all of its layers."""
    found = []
    for kind, look in _LOOKS.items():
        for layer, place in look(sections, supports, printer, chosen):
            middle = shapely.point_on_surface(place)
            width = 2 * place.area / place.length
            found.append(Finding(kind, body, layer, middle.x, middle.y, place.area, width))
    return found


_Found = list[tuple[int, shapely.Polygon]]


def _islands(sections: Areas, supports: Areas, printer: Printer, chosen: range) -> _Found:
    """What of a layer touches nothing of the layer below."""
    layers = np.arange(max(chosen.start, 1), chosen.stop)
    layers = layers[~shapely.is_empty(sections[layers])]
    parts, owner = shapely.get_parts(sections[layers], return_index=True)
    below = layers[owner] - 1
    held = shapely.intersects(parts, sections[below]) | shapely.intersects(parts, supports[below])
    return list(zip(layers[owner][~held].tolist(), parts[~held], strict=True))


def _thin(sections: Areas, supports: Areas, printer: Printer, chosen: range) -> _Found:
    """What of a layer is narrower than a line, so that nothing is laid there."""
    own = sections[chosen.start : chosen.stop]
    return _lost(own, opened(own, printer.line / 2 * NEARLY), printer, chosen)


def _gaps(sections: Areas, supports: Areas, printer: Printer, chosen: range) -> _Found:
    """What is empty and narrower than a line, so that lines on both sides may run together."""
    own = sections[chosen.start : chosen.stop]
    radius = printer.line / 2 * NEARLY
    closed = widened(widened(own, radius), -radius)
    return _lost(closed, own, printer, chosen)


def _lost(larger: Areas, smaller: Areas, printer: Printer, chosen: range) -> _Found:
    least = _SMALLEST * printer.line**2
    at = np.flatnonzero(shapely.area(larger) - shapely.area(smaller) > least)
    parts, owner = shapely.get_parts(
        once(shapely.difference, larger[at], smaller[at]), return_index=True
    )
    large = shapely.area(parts) > least
    layers = at[owner[large]] + chosen.start
    return list(zip(layers.tolist(), parts[large], strict=True))


def _foot(sections: Areas, supports: Areas, printer: Printer, chosen: range) -> _Found:
    """A first layer that holds too little on the plate."""
    if chosen.start > 0 or not len(sections) or sections[0].is_empty:
        return []
    held = held_by_first(sections, supports, printer)
    large = max(shapely.get_parts(sections[0]), key=lambda part: part.area, default=None)
    return [] if large is None or held >= printer.holds else [(0, large)]


def held_by_first(sections: Areas, supports: Areas, printer: Printer) -> float:
    """mm² of the plate that the first layer covers, with its brim and the support."""
    foot = shapely.union(sections[0], supports[0])
    return float(shapely.area(shapely.buffer(foot, printer.brim * printer.line)))


_LOOKS: dict[str, Callable[[Areas, Areas, Printer, range], _Found]] = {
    ISLANDS: _islands,
    THIN: _thin,
    GAPS: _gaps,
    FOOT: _foot,
}
