"""SVG (W3C, 1.1): a drawing in mm, its arcs and cubics as such, a group a part."""

from __future__ import annotations

import math
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from ovolo.drawing.marks import WEIGHTS, Group, Label, Page, Stroke
from ovolo.drawing.paper import full_size
from ovolo.formats.flat import axes_of, view_for
from ovolo.formats.format import FLAT, Format
from ovolo.formats.inks import INKS
from ovolo.formats.svg_in import read_svg
from ovolo.formats.svg_style import ORIGIN_KEPT
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Cubic, Piece, Straight
from ovolo.geometry.regions.lettering import EM
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product


def write_svg(page: Page) -> bytes:
    """A page. Every mark has the class of its role beside its own look, so that a screen can give
    it another."""
    low, width, height = page.low, page.width, page.height
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_n(width)}mm" height="{_n(height)}mm" '
        f'{ORIGIN_KEPT[0]}="{ORIGIN_KEPT[1]}" '
        f'viewBox="{_n(low[0])} {_n(-low[1] - height)} {_n(width)} {_n(height)}">',
        f"<title>{escape(page.title)}</title>",
    ]
    for group in page.groups:
        lines += _group(group, page.weight)
    return "\n".join([*lines, "</svg>", ""]).encode()


def _n(value: float) -> str:
    """A figure, exact to 1e-9 mm."""
    return f"{round(float(value), 9) + 0.0:.12g}"


def _at(point: Points) -> str:
    """A place on the page, whose y points down."""
    return f"{_n(point[0])} {_n(-point[1])}"


def _group(group: Group, weight: float) -> list[str]:
    return [
        f'<g id={quoteattr(group.name)} fill="none" stroke-linejoin="round"><title>{escape(group.title)}</title>',
        *(_stroke(stroke, weight) for stroke in group.strokes),
        *(_label(label) for label in group.labels),
        "</g>",
    ]


def _stroke(stroke: Stroke, weight: float) -> str:
    ink = INKS.get(stroke.role, INKS["ink"])
    weight *= WEIGHTS[stroke.role]
    fill = INKS.get(stroke.fill, stroke.fill)
    look = f'fill={quoteattr(fill)} fill-rule="evenodd" ' if fill else ""
    look += f'stroke="{ink}" stroke-width="{_n(weight)}"' if weight else ""
    named = f"mark-{stroke.role}"
    named += f" mark-{stroke.fill}" if stroke.fill in INKS else ""
    path = " ".join(path_of(curve) for curve in stroke.curves)
    return f'<path class="{named}" {look} d="{path}"/>'


def _label(label: Label) -> str:
    ink = INKS.get(label.role, INKS["ink"])
    return (
        f'<text class="mark-{label.role}" font-family="Spline Sans, sans-serif" '
        f'font-size="{_n(label.size * EM)}" text-anchor="{label.anchor}" fill="{ink}" '
        f'transform="translate({_at(label.place)}) rotate({_n(-math.degrees(label.angle))})">'
        f"{escape(label.text)}</text>"
    )


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
    """An arc of at most half a turn is one command; a longer one is written in two."""
    parts = 2 if abs(arc.sweep) > math.pi - 1e-6 else 1
    axes = axes_of(arc)
    turn = -math.degrees(math.atan2(float(axes.major[1]), float(axes.major[0])))
    radii = f"{_n(float(np.linalg.norm(axes.major)))} {_n(float(np.linalg.norm(axes.minor)))}"
    # Seen on the page, whose y points down, anticlockwise is the way of falling angles.
    flag = 1 if float(cross_product(arc.u, arc.v)[2]) * arc.sweep < 0 else 0
    steps = np.linspace(0.0, 1.0, parts + 1)[1:]
    return " ".join(f"A{radii} {_n(turn)} 0 {flag} {_at(arc.at(step))}" for step in steps)


FORMATS = (
    Format(
        "svg", "SVG", 90, holds="a drawing", read=read_svg, kinds=FLAT, said="flat",
        write=lambda outcome, parts, settled: write_svg(full_size(outcome, view_for(parts), parts)),
        offered="Flat parts as SVG", file="drawing", draw=write_svg,
    ),
)  # fmt: skip
