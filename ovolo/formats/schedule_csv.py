"""The schedule of pieces as CSV (RFC 4180): a row for each distinct piece, units in the heads.

`file … = "….csv"` reads it back: figures with a point, in mm, mm², mm³, kg; what a piece does not
have (the width of a curve, the volume of a region) is 0; the mass is there where a part has a material.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from ovolo.outcome.part import Part
from ovolo.outcome.schedule import Piece, schedule

HEADS = (
    "mark", "part", "label", "quantity", "length [mm]", "width [mm]", "thickness [mm]",
    "total_length [mm]", "area [mm^2]", "volume [mm^3]",
)  # fmt: skip


def write_schedule(parts: Sequence[Part]) -> bytes:
    text = io.StringIO()
    writer = csv.writer(text)
    pieces = schedule(parts)
    weighed = any(piece.mass is not None for piece in pieces)
    writer.writerow([*HEADS, *(["mass [kg]"] if weighed else [])])
    for piece in pieces:
        mass = "" if piece.mass is None else _figure(piece.mass)
        writer.writerow([*_row(piece), *([mass] if weighed else [])])
    return text.getvalue().encode()


def _row(piece: Piece) -> list[str]:
    sizes = [*piece.sizes, 0.0, 0.0, 0.0][:3]
    figures = [*sizes, piece.total_length, piece.area or 0.0, piece.volume or 0.0]
    return [piece.mark, piece.part, piece.label, str(piece.quantity), *map(_figure, figures)]


def _figure(value: float) -> str:
    return f"{value:.6f}".rstrip("0").rstrip(".")
