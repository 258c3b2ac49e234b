"""The schedule of pieces as CSV (RFC 4180): a row for each distinct piece, units in the heads.

`file … = "….csv"` reads it back: figures with a point (or a comma, then semicolons part the cells), in mm, mm², mm³, kg; what a piece does not
have (the width of a curve, the volume of a region) is 0; the mass is there where a part has a material.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from ovolo.formats.format import A_TABLE, Format, Option, Settled
from ovolo.formats.table_csv import read_table
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.outcome.schedule import Piece, schedule
from ovolo.quantities.kinds import GEOMETRY

HEADS = (
    "mark", "part", "label", "quantity", "length [mm]", "width [mm]", "thickness [mm]",
    "total_length [mm]", "area [mm^2]", "volume [mm^3]",
)  # fmt: skip


def write_schedule(outcome: Outcome, parts: Sequence[Part], settled: Settled) -> bytes:
    text = io.StringIO()
    with_comma = settled["figures"] == "comma"
    writer = csv.writer(text, delimiter=";" if with_comma else ",")
    pieces = schedule(parts)
    weighed = any(piece.mass is not None for piece in pieces)
    writer.writerow([*HEADS, *(["mass [kg]"] if weighed else [])])
    for piece in pieces:
        figures = [
            *_figures(piece),
            *(["" if piece.mass is None else _figure(piece.mass)] if weighed else []),
        ]
        if with_comma:
            figures = [one.replace(".", ",") for one in figures]
        writer.writerow([piece.mark, piece.part, piece.label, str(piece.quantity), *figures])
    return text.getvalue().encode()


def _figures(piece: Piece) -> list[str]:
    sizes = [*piece.sizes, 0.0, 0.0, 0.0][:3]
    return [
        _figure(one) for one in (*sizes, piece.total_length, piece.area or 0.0, piece.volume or 0.0)
    ]


def _figure(value: float) -> str:
    return f"{value:.6f}".rstrip("0").rstrip(".")


FORMATS = (
    Format(
        "csv", "CSV", 70, holds=A_TABLE, read=read_table, write=write_schedule, kinds=GEOMETRY,
        said="drawn", offered="Schedule as CSV", file="schedule",
        options=(Option("figures", ("point", "comma"), "what parts the decimals of a figure"),),
    ),
)  # fmt: skip
