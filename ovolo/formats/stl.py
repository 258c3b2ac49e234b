"""STL, the binary form: 80 bytes of header, a count, and 50 bytes a triangle (little-endian).

Lengths are written in mm, as is common practice, or in the unit that is asked for; the format itself
names none.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.vectors import cross_product

_TRIANGLE = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def write_stl(meshes: Iterable[Mesh], title: str = "", unit: float = 1.0) -> bytes:
    """All meshes in one file; `unit` is how many mm one of its figures stands for."""
    corners = [mesh.corners[mesh.triangles] for mesh in meshes]
    stacked = np.concatenate(corners) if corners else np.empty((0, 3, 3))
    normals = cross_product(stacked[:, 1] - stacked[:, 0], stacked[:, 2] - stacked[:, 0])
    lengths = np.linalg.norm(normals, axis=1, keepdims=True)
    records = np.zeros(len(stacked), dtype=_TRIANGLE)
    records["normal"] = normals / np.where(lengths > 0, lengths, 1.0)
    records["corners"] = stacked if unit == 1.0 else stacked / unit
    # A header that begins with "solid" would be taken for the text form.
    header = f"Ovolo: {title}".encode("ascii", "replace")[:80].ljust(80, b" ")
    return header + len(records).to_bytes(4, "little") + records.tobytes()
