"""OBJ (Wavefront): corners and triangles in mm, or in the unit that is asked for; an object for each
item of a part."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ovolo.formats.format import CHORDS, SOLIDS, UNIT, Format, Settled, millimetres
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part


def write_obj(outcome: Outcome, parts: list[Part], settled: Settled) -> bytes:
    head = [f"# {outcome.program.title}", f"# lengths in {settled['unit']}"]
    return "\n".join([*head, *_lines(parts, millimetres(settled)), ""]).encode()


def _lines(parts: list[Part], unit: float) -> Iterator[str]:
    first = 1
    for part in parts:
        for item, mesh in enumerate(part.meshes()):
            name = f"{part.name}.{item}" if part.count > 1 else part.name
            yield f"o {name}"
            corners = np.round(mesh.corners / unit, 9) + 0.0
            yield from (f"v {x:.12g} {y:.12g} {z:.12g}" for x, y, z in corners)
            triangles = mesh.triangles.astype(np.int64) + first
            yield from (f"f {a} {b} {c}" for a, b, c in triangles)
            first += len(mesh.corners)


FORMATS = (
    Format("obj", "OBJ", 50, write=write_obj, kinds=SOLIDS, said="solid", offered="Solids as OBJ", options=(UNIT, CHORDS)),
)  # fmt: skip
