"""Reading STL and 3MF as solids, mended where that is safe, with a report of what was mended."""

from __future__ import annotations

import hashlib
import re
from pathlib import PurePath

import numpy as np

from ovolo.formats.format import CHORDS, SOLIDS, UNIT, Format, millimetres
from ovolo.formats.mending import mended
from ovolo.formats.shells import enclosed
from ovolo.formats.stl import write_stl
from ovolo.formats.threemf import meshes_of_3mf, write_3mf
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.solids.attached_solid import AttachedSolid
from ovolo.geometry.solids.solid import Solid, shape_made, united
from ovolo.problems import Failure

MOST_BYTES = 20_000_000
MOST_TRIANGLES = 1_000_000


def read_solid(data: bytes, name: str) -> AttachedSolid:
    """The solid of a file, in mm. Raises Failure for what is none, and where it is not closed."""
    if len(data) > MOST_BYTES:
        raise Failure(f"{name} has {len(data):,} bytes; at most {MOST_BYTES:,} are read")
    is_stl = PurePath(name).suffix.lower() == ".stl"
    meshes = [_mesh_of_stl(data, name)] if is_stl else meshes_of_3mf(data, name)
    count = sum(len(mesh.triangles) for mesh in meshes)
    if not count:
        raise Failure(f"there are no triangles in {name}")
    if count > MOST_TRIANGLES:
        raise Failure(
            f"{name} has {count:,} triangles; at most {MOST_TRIANGLES:,} are read",
            "make it coarser",
        )
    report: list[str] = []
    bodies = [enclosed(mended(mesh, name, report), report) for mesh in meshes]
    digest = hashlib.blake2b(data, digest_size=12).hexdigest()
    shape = shape_made(
        f"file:{digest}", lambda: united(bodies), "the solid in this file", flat=True
    )
    return AttachedSolid(name, Solid(shape), digest, tuple(report), count, "mm" if is_stl else "")


# --- STL ---

_TRIANGLE = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
_VERTEX = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)", re.IGNORECASE)


def _mesh_of_stl(data: bytes, name: str) -> Mesh:
    count = int.from_bytes(data[80:84], "little") if len(data) >= 84 else -1
    if count >= 0 and len(data) == 84 + 50 * count:
        corners = np.frombuffer(data, dtype=_TRIANGLE, offset=84)["corners"].reshape(-1, 3)
    elif data.lstrip()[:5].lower() == b"solid":
        try:
            corners = np.array(_VERTEX.findall(data), dtype=float).reshape(-1, 3)
        except ValueError:
            raise Failure(f"a corner in {name} is no number") from None
        if len(corners) % 3:
            raise Failure(f"{name} ends within a triangle")
    else:
        raise Failure(
            f"{name} is no STL file",
            f"a binary one of {max(count, 0):,} triangles has {84 + 50 * max(count, 0):,} bytes; this has {len(data):,}",
        )
    if not np.all(np.isfinite(corners)):
        raise Failure(f"a corner in {name} is not finite")
    triangles = np.arange(len(corners), dtype=np.int32).reshape(-1, 3)
    return Mesh(corners.astype(np.float64), triangles)


FORMATS = (
    Format(
        "3mf", "3MF", 10, holds="a solid", read=read_solid, kinds=SOLIDS, said="solid",
        write=lambda outcome, parts, settled: write_3mf(parts, outcome.program.title),
        offered="Solids as 3MF", options=(CHORDS,),
    ),
    Format(
        "stl", "STL", 20, holds="a solid", read=read_solid, kinds=SOLIDS, said="solid",
        write=lambda outcome, parts, settled: write_stl(
            (mesh for part in parts for mesh in part.meshes()), outcome.program.title, millimetres(settled)
        ),
        offered="Solids as STL", offered_each="Each part as STL (zip)", options=(UNIT, CHORDS),
    ),
)  # fmt: skip
