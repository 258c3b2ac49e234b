"""What leaves the cutting bench: a sheet as DXF and SVG by layers, its G-code, labels as PDF, the cut list
as CSV. The same plan gives the same bytes."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from ovolo.benches.cutting.plan import CutPlan, Sheet
from ovolo.benches.cutting.program import program
from ovolo.benches.cutting.routes import place_of, spans
from ovolo.formats.dxf import add_curve, bytes_of, new_document
from ovolo.formats.svg import path_of
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import polyline
from ovolo.geometry.types import Points

SHEET, PIECES, CUTS, MARKS = "sheet", "pieces", "cuts", "marks"
LAYERS = (SHEET, PIECES, CUTS, MARKS)

_COLOURS = {SHEET: 8, PIECES: 7, CUTS: 1, MARKS: 5}
_INKS = {SHEET: "#999999", PIECES: "#000000", CUTS: "#c00000", MARKS: "#2c4986"}
_LETTERS = 6.0
"""mm, the height of a mark."""


def outline_curves(sheet: Sheet, at: int) -> list[Curve]:
    """The true outlines of a laid piece where it lies."""
    one = sheet.nest.laid[at]
    flat = sheet.nest.pieces[one.piece]
    place = place_of(flat, one)
    return [curve.placed(place) for curve in flat.region.outlines]


def middle_of(sheet: Sheet, at: int) -> Points:
    """A place well within a laid piece, (2,)."""
    figure = sheet.nest.figure(sheet.nest.laid[at])
    parts = shapely.get_parts(figure)
    largest = parts[int(np.argmax(shapely.area(parts)))]
    middle = shapely.get_coordinates(shapely.maximum_inscribed_circle(largest, tolerance=1.0))[0]
    return np.asarray(middle)


def numbers_on(sheet: Sheet) -> list[int]:
    """The numbers, in the nest, of the pieces on a sheet."""
    return [at for at, one in enumerate(sheet.nest.laid) if one.sheet == sheet.number]


def _frame(sheet: Sheet) -> Curve:
    width, height = sheet.nest.cutter.width, sheet.nest.cutter.height
    corners = [(0, 0, 0), (width, 0, 0), (width, height, 0), (0, height, 0), (0, 0, 0)]
    return polyline(np.array(corners, dtype=float))


def _curves(sheet: Sheet) -> list[tuple[str, Curve]]:
    """Everything that is drawn, by its layer."""
    found = [(SHEET, _frame(sheet))]
    found += [(PIECES, curve) for at in numbers_on(sheet) for curve in outline_curves(sheet, at)]
    for cut in sheet.cuts:
        if cut.lead is not None:
            found.append((CUTS, polyline(np.array([cut.lead, cut.path.start]))))
        found += [(CUTS, curve) for curve, on in spans(cut) if on]
    return found


def _marks(sheet: Sheet) -> list[tuple[str, Points]]:
    return [
        (sheet.nest.pieces[sheet.nest.laid[at].piece].mark, middle_of(sheet, at))
        for at in numbers_on(sheet)
    ]


def write_dxf(sheet: Sheet) -> bytes:
    """The sheet, its pieces, the ways of the tool, and the marks, each on its layer; mm."""
    document = new_document()
    for layer, colour in _COLOURS.items():
        document.layers.add(layer, color=colour)
    space = document.modelspace()
    for layer, curve in _curves(sheet):
        add_curve(space, curve, {"layer": layer})
    for mark, place in _marks(sheet):
        text = space.add_text(mark, height=_LETTERS, dxfattribs={"layer": MARKS})
        text.set_placement(tuple(place), align=_middle())
    return bytes_of(document)


def _middle() -> Any:
    from ezdxf.enums import TextEntityAlignment

    return TextEntityAlignment.MIDDLE_CENTER


def write_svg(sheet: Sheet) -> bytes:
    """The same as SVG, in mm."""
    width, height = sheet.nest.cutter.width, sheet.nest.cutter.height
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" '
        f'viewBox="0 {-height:g} {width:g} {height:g}">'
    ]
    drawn = _curves(sheet)
    for layer in LAYERS:
        lines.append(f'<g id="{layer}" fill="none" stroke="{_INKS[layer]}" stroke-width="0.2">')
        lines += [f'<path d="{path_of(curve)}"/>' for own, curve in drawn if own == layer]
        if layer == MARKS:
            lines += [
                f'<text x="{place[0]:.3f}" y="{-place[1] + _LETTERS * 0.35:.3f}" font-size="{_LETTERS:g}" '
                f'text-anchor="middle" fill="{_INKS[layer]}" stroke="none">{mark}</text>'
                for mark, place in _marks(sheet)
            ]
        lines.append("</g>")
    return "\n".join([*lines, "</svg>", ""]).encode()


def write_code(sheet: Sheet, title: str) -> bytes:
    lines = program(sheet.nest, sheet.number, sheet.cuts, title)
    return "".join(f"{line}\n" for line in lines).encode("ascii")


def write_list(plan: CutPlan) -> bytes:
    """The cut list: a row for each piece on each sheet."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(["sheet", "stock [mm]", "mark", "part", "label", "length [mm]", "width [mm]", "thickness [mm]", "x [mm]", "y [mm]", "turned [deg]"])  # fmt: skip
    stock = f"{plan.cutter.width:g} x {plan.cutter.height:g}"
    for number, sheet in enumerate(plan.sheets, 1):
        for one in sheet.laid:
            flat = sheet.nest.pieces[one.piece]
            thickness = "" if flat.thickness is None else f"{flat.thickness:.6g}"
            writer.writerow([number, stock, flat.mark, flat.piece.part, flat.piece.label, f"{flat.size[0]:.6g}", f"{flat.size[1]:.6g}", thickness, f"{one.x:.4f}", f"{one.y:.4f}", f"{one.turn:g}"])  # fmt: skip
    return text.getvalue().encode()


_LABEL = 70.0, 36.0
_PAGE = 210.0, 297.0
_RIM = 0.0, 4.5


def write_labels(plan: CutPlan, title: str) -> bytes:
    """A label for each piece, three by eight on A4: its mark, what it is, its sizes, the sheet it is on."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont
    from reportlab.pdfgen.canvas import Canvas

    from ovolo.geometry.regions.lettering import FONT

    face, point = "Spline Sans", 72 / 25.4
    pdfmetrics.registerFont(TTFont(face, str(FONT)))
    made = io.BytesIO()
    canvas = Canvas(made, pagesize=(_PAGE[0] * point, _PAGE[1] * point), invariant=1)
    canvas.setTitle(title)
    canvas.setCreator("Ovolo")
    columns = int(_PAGE[0] // _LABEL[0])
    rows = int((_PAGE[1] - 2 * _RIM[1]) // _LABEL[1])
    for at, (mark, lines) in enumerate(_label_texts(plan, title)):
        cell = at % (columns * rows)
        if at and not cell:
            canvas.showPage()
        x = _RIM[0] + (cell % columns) * _LABEL[0] + 5
        y = _PAGE[1] - _RIM[1] - (cell // columns) * _LABEL[1] - 10
        canvas.setFont(face, 18)
        canvas.drawString(x * point, y * point, mark)
        canvas.setFont(face, 8)
        for row, line in enumerate(lines):
            while line and pdfmetrics.stringWidth(line, face, 8) > (_LABEL[0] - 8) * point:
                line = line[:-1]
            canvas.drawString(x * point, (y - 6 - 4 * row) * point, line)
    canvas.showPage()
    canvas.save()
    return made.getvalue()


def _label_texts(plan: CutPlan, title: str) -> Sequence[tuple[str, list[str]]]:
    found = []
    for number, sheet in enumerate(plan.sheets, 1):
        for one in sheet.laid:
            flat = sheet.nest.pieces[one.piece]
            sizes = [*flat.size, *([] if flat.thickness is None else [flat.thickness])]
            size = " × ".join(f"{size:.6g}" for size in sizes)
            found.append((flat.mark, [flat.piece.label, f"{size} mm", f"sheet {number} of {len(plan.sheets)}", title]))  # fmt: skip
    return found
