"""PDF, written with reportlab: a page of exact size, curves as lines and cubics, texts as texts."""

from __future__ import annotations

import io
import itertools
import math
from typing import Any

import numpy as np

from ovolo.drawing.marks import WEIGHTS, Label, Page, Stroke
from ovolo.formats.format import Format
from ovolo.formats.inks import INKS
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Cubic, Piece, Straight
from ovolo.geometry.regions.lettering import EM, FONT
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.types import Points

_POINT = 72 / 25.4
"""Points of a PDF for a mm."""

_FACE = "Spline Sans"
_INSTEAD = {"⌀": "Ø", "✕": "×", "\u2009": "\u00a0"}
"""What is written for letters that the typeface lacks."""

_EIGHTH = math.pi / 4


def write_pdf(page: Page) -> bytes:
    """One page; 1 mm of it is 1 mm of paper."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont
    from reportlab.pdfgen.canvas import Canvas

    pdfmetrics.registerFont(TTFont(_FACE, str(FONT)))
    made = io.BytesIO()
    # The same study gives the same bytes: no date of its own, no random number.
    canvas = Canvas(made, pagesize=(page.width * _POINT, page.height * _POINT), invariant=1)
    canvas.setTitle(page.title)
    canvas.setCreator("Ovolo")
    canvas.scale(_POINT, _POINT)
    canvas.translate(-page.low[0], -page.low[1])
    canvas.setLineJoin(1)
    for group in page.groups:
        for stroke in group.strokes:
            _stroke(canvas, stroke, page.weight)
        for label in group.labels:
            _label(canvas, label)
    canvas.showPage()
    canvas.save()
    return made.getvalue()


def _colour(canvas: Any, role: str, fill: str) -> None:
    from reportlab.lib.colors import HexColor

    canvas.setStrokeColor(HexColor(INKS.get(role, INKS["ink"])))
    if fill:
        canvas.setFillColor(HexColor(INKS.get(fill, fill)))


def _stroke(canvas: Any, stroke: Stroke, weight: float) -> None:
    _colour(canvas, stroke.role, stroke.fill)
    weight *= WEIGHTS[stroke.role]
    canvas.setLineWidth(weight)
    path = canvas.beginPath()
    for curve in stroke.curves:
        _trace(path, curve)
    even_odd = 0
    canvas.drawPath(path, stroke=int(weight > 0), fill=int(bool(stroke.fill)), fillMode=even_odd)


def _trace(path: Any, curve: Curve) -> None:
    path.moveTo(*_flat(curve.start))
    for piece in curve.pieces:
        if isinstance(piece, Straight):
            path.lineTo(*_flat(piece.b))
            continue
        for poles in _cubics(piece):
            path.curveTo(*(figure for pole in poles[1:] for figure in _flat(pole)))
    if curve.closed:
        path.close()


def _flat(point: Points) -> tuple[float, float]:
    return float(point[0]), float(point[1])


def _cubics(piece: Piece) -> list[Points]:
    """A piece as cubics; an eighth of a turn each, which misses the arc by 4e-6 of its radius (the
    length of the handles: 4/3 tan(a/4))."""
    if isinstance(piece, Cubic):
        return [piece.poles]
    assert isinstance(piece, Arc)
    count = max(math.ceil(abs(piece.sweep) / _EIGHTH - SAME_SHARE), 1)
    edges = np.linspace(0.0, 1.0, count + 1)
    step = piece.sweep / count
    handle = 4 / 3 * math.tan(step / 4) / piece.sweep
    found = []
    for t0, t1 in itertools.pairwise(edges):
        a, b = piece.at(t0), piece.at(t1)
        found.append(np.array([a, a + handle * piece.slope(t0), b - handle * piece.slope(t1), b]))
    return found


def _label(canvas: Any, label: Label) -> None:
    from reportlab.lib.colors import HexColor

    text = "".join(_INSTEAD.get(letter, letter) for letter in label.text)
    canvas.saveState()
    canvas.translate(*map(float, label.place))
    canvas.rotate(math.degrees(label.angle))
    canvas.setFillColor(HexColor(INKS.get(label.role, INKS["ink"])))
    canvas.setFont(_FACE, label.size * EM)
    write = {
        "start": canvas.drawString,
        "middle": canvas.drawCentredString,
        "end": canvas.drawRightString,
    }
    write[label.anchor](0, 0, text)
    canvas.restoreState()


FORMATS = (Format("pdf", "PDF", 100, draw=write_pdf),)
