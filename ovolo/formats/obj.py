"""OBJ (Wavefront): corners and triangles in mm, an object for each item of a part."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ovolo.outcome.part import Part


def write_obj(parts: Sequence[Part], title: str) -> bytes:
    return "\n".join([f"# {title}", "# lengths in mm", *_lines(parts), ""]).encode()


def _lines(parts: Sequence[Part]) -> Iterator[str]:
    first = 1
    for part in parts:
        for item, mesh in enumerate(part.meshes()):
            name = f"{part.name}.{item}" if part.count > 1 else part.name
            yield f"o {name}"
            corners = np.round(mesh.corners, 9) + 0.0
            yield from (f"v {x:.12g} {y:.12g} {z:.12g}" for x, y, z in corners)
            triangles = mesh.triangles.astype(np.int64) + first
            yield from (f"f {a} {b} {c}" for a, b, c in triangles)
            first += len(mesh.corners)
