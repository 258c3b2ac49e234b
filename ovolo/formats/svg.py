"""SVG (W3C, 1.1): the plan at full size in mm, arcs and cubics as such, a group a part."""

from __future__ import annotations

import math
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from ovolo.formats.flat import axes_of, outlines_of, refuse_upright
from ovolo.geometry.curve import Arc, Cubic, Curve, Piece, Points, Straight
from ovolo.outcome.dims import Dim
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.quantities.kinds import REGION

INK = "#23292B"
_LINE = 0.25
"""The width of a line in mm."""


def write_svg(outcome: Outcome, parts: list[Part]) -> bytes:
    """Curves and regions of the parts in plan, and the study's dims that lie level."""
    dims = [dim for dim in outcome.dims if np.ptp(dim.segments[:, :, 2]) < 1e-6]
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
    corners += [dim.segments.reshape(-1, 3)[:, :2] for dim in dims]
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
    if len(part.hatching):
        strokes = " ".join(f"M{_at(a)} L{_at(b)}" for a, b in part.hatching)
        lines.append(f'<path class="hatch" stroke-width="{_LINE / 2}" d="{strokes}"/>')
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


def _dim(dim: Dim, size: float, outcome: Outcome) -> list[str]:
    """The lines of a dim, and its text along it."""
    a, b = (np.array(point) for point in (dim.start, dim.end))
    lines = [f"M{_at(p)} L{_at(q)}" for p, q in dim.segments]
    along = b - a if dim.form != "angle" else np.array([1.0, 0.0, 0.0])
    angle = math.degrees(math.atan2(along[1], along[0]))
    angle = angle - 180 if angle > 90 else angle + 180 if angle <= -90 else angle
    said = escape(f"{'✕ ' if dim.wrong else ''}{dim.shown(outcome.units)}")
    return [
        f'<path class="dim" fill="none" stroke="{INK}" stroke-width="{_LINE / 2}" d="{" ".join(lines)}"/>',
        f'<text font-family="sans-serif" font-size="{_n(size)}" text-anchor="middle" fill="{INK}" '
        f'transform="translate({_at(dim.place)}) rotate({_n(-angle)})" dy="{_n(-size / 3)}">{said}</text>',
    ]
