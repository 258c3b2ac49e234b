"""SVG (W3C, 1.1): the plan at full size in mm, arcs and cubics as such, a group a part."""

from __future__ import annotations

import math
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from ovolo.formats.flat import axes_of, outlines_of, refuse_upright
from ovolo.geometry.curve import Arc, Cubic, Curve, Piece, Points, Straight
from ovolo.outcome.outcome import Dim, Outcome
from ovolo.outcome.part import Part
from ovolo.quantities.dimension import LENGTH
from ovolo.quantities.kinds import REGION
from ovolo.quantities.show import show_quantity

INK = "#23292B"
_LINE = 0.25
"""The width of a line in mm."""


def write_svg(outcome: Outcome, parts: list[Part]) -> bytes:
    """Curves and regions of the parts in plan, and the study's dims that lie level."""
    dims = [dim for dim in outcome.dims if abs(dim.start[2] - dim.end[2]) < 1e-6]
    low, high = _extent(parts, dims)
    width, height = high - low
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_n(width)}mm" height="{_n(height)}mm" '
        f'viewBox="{_n(low[0])} {_n(-high[1])} {_n(width)} {_n(height)}">',
        f"<title>{escape(outcome.program.title or 'Study')}</title>",
    ]
    for part in parts:
        lines += _group(part)
    size = max(width, height) / 50
    lines += [line for dim in dims for line in _dim(dim, size, outcome)]
    return "\n".join([*lines, "</svg>", ""]).encode()


def _n(value: float) -> str:
    """A figure, exact to 1e-9 mm."""
    return f"{round(float(value), 9) + 0.0:.12g}"


def _at(point: Points) -> str:
    """A place on the page, whose y points down."""
    return f"{_n(point[0])} {_n(-point[1])}"


def _extent(parts: list[Part], dims: list[Dim]) -> tuple[Points, Points]:
    """The corners of the page: all that is drawn, with a margin."""
    corners = [np.array(part.bounds)[:, :2] for part in parts if part.bounds]
    corners += [np.array(_ends(dim))[:, :2] for dim in dims]
    everything = np.concatenate(corners)
    low, high = everything.min(axis=0), everything.max(axis=0)
    margin = 0.05 * max(float((high - low).max()), 1.0)
    return low - margin, high + margin


def _group(part: Part) -> list[str]:
    fill = quoteattr(part.colour) if part.kind == REGION else '"none"'
    title = escape(part.label or part.name)
    lines = [
        f'<g id={quoteattr(part.name)} fill={fill} fill-rule="evenodd" stroke="{INK}" '
        f'stroke-width="{_LINE}" stroke-linejoin="round"><title>{title}</title>'
    ]
    for curves in outlines_of(part):
        for curve in curves:
            refuse_upright(part, curve)
        lines.append(f'<path d="{" ".join(path_of(curve) for curve in curves)}"/>')
    return [*lines, "</g>"]


def path_of(curve: Curve) -> str:
    """The path data of a curve."""
    said = [f"M{_at(curve.start)}", *(_piece(piece) for piece in curve.pieces)]
    return " ".join([*said, "Z"] if curve.closed else said)


def _piece(piece: Piece) -> str:
    match piece:
        case Straight():
            return f"L{_at(piece.b)}"
        case Cubic():
            return "C" + " ".join(_at(pole) for pole in piece.poles[1:])
        case Arc():
            return _arc(piece)
    raise TypeError(piece)


def _arc(arc: Arc) -> str:
    """An arc of at most half a turn is one command; a longer one is written in parts."""
    parts = math.ceil(abs(arc.sweep) / math.pi - 1e-9) if abs(arc.sweep) > math.pi - 1e-6 else 1
    parts = max(parts, 2) if abs(arc.sweep) > math.pi - 1e-6 else 1
    axes = axes_of(arc)
    turn = -math.degrees(math.atan2(float(axes.major[1]), float(axes.major[0])))
    radii = f"{_n(float(np.linalg.norm(axes.major)))} {_n(float(np.linalg.norm(axes.minor)))}"
    clockwise = float(np.cross(arc.u, arc.v)[2]) * arc.sweep < 0
    # Seen on the page, whose y points down, anticlockwise is the way of falling angles.
    flag = 1 if clockwise else 0
    steps = np.linspace(0.0, 1.0, parts + 1)[1:]
    return " ".join(f"A{radii} {_n(turn)} 0 {flag} {_at(arc.at(step))}" for step in steps)


def _ends(dim: Dim) -> tuple[Points, Points]:
    """Where the line of a dim is drawn: set off to the right of its way."""
    a, b = np.array(dim.start), np.array(dim.end)
    size = float(np.linalg.norm(b - a)) or 1.0
    across = np.array([b[1] - a[1], a[0] - b[0], 0.0]) / size
    return a + dim.offset * across, b + dim.offset * across


def _dim(dim: Dim, size: float, outcome: Outcome) -> list[str]:
    """A dim with its extension lines, oblique ticks and its text along it (as in ISO 129)."""
    a, b = _ends(dim)
    along = (b - a) / (np.linalg.norm(b - a) or 1.0)
    tick = size / 3 * np.array([along[0] - along[1], along[0] + along[1], 0.0])
    lines = [f"M{_at(a)} L{_at(b)}"]
    lines += [f"M{_at(end - tick)} L{_at(end + tick)}" for end in (a, b)]
    if dim.offset:
        lines += [f"M{_at(np.array(p))} L{_at(q)}" for p, q in ((dim.start, a), (dim.end, b))]
    angle = math.degrees(math.atan2(along[1], along[0]))
    angle = angle - 180 if angle > 90 else angle + 180 if angle <= -90 else angle
    middle = (a + b) / 2
    shown = show_quantity(dim.value, LENGTH, outcome.units)
    said = escape(f"{'✕ ' if dim.wrong else ''}{shown}")
    return [
        f'<path class="dim" fill="none" stroke="{INK}" stroke-width="{_LINE / 2}" d="{" ".join(lines)}"/>',
        f'<text font-family="sans-serif" font-size="{_n(size)}" text-anchor="middle" fill="{INK}" '
        f'transform="translate({_at(middle)}) rotate({_n(-angle)})" dy="{_n(-size / 3)}">{said}</text>',
    ]
