"""glTF 2.0, the binary form (.glb): a mesh for each shape, a node for each of its places, a
material for each part; the node of a placed study tells its study and settings. Lengths are in metres and y points up, as the format asks for.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from ovolo.formats.format import CHORDS, SOLIDS, Format
from ovolo.geometry.same import ROUNDING
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part, Placed
from ovolo.outcome.placed_pieces import PlacedPiece, placed_piece
from ovolo.sheet.colours import channels

_FLOAT, _UINT = 5126, 5125
_VERTICES, _INDICES = 34962, 34963
_UPRIGHT = np.array([[1.0, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]])
"""From z up to y up."""

_METRE = np.diag([0.001, 0.001, 0.001, 1.0])


def write_glb(outcome: Outcome, parts: Sequence[Part]) -> bytes:
    pieces = {part.name: placed_piece(outcome, part) for part in parts}
    return _Scene(outcome.program.title, pieces).written(parts)


class _Scene:
    def __init__(self, title: str, pieces: Mapping[str, PlacedPiece | None]) -> None:
        self.pieces = pieces
        self.data: list[bytes] = []
        self.size = 0
        self.document: dict[str, Any] = {
            "asset": {"version": "2.0", "generator": "Ovolo"},
            "scene": 0,
            "scenes": [{"name": title or "Study", "nodes": []}],
            "nodes": [],
            "meshes": [],
            "materials": [],
            "accessors": [],
            "bufferViews": [],
            "buffers": [],
        }

    def written(self, parts: Sequence[Part]) -> bytes:
        for part in parts:
            self._part(part)
        binary = b"".join(self.data)
        binary += b"\0" * (-len(binary) % 4)
        self.document["buffers"].append({"byteLength": len(binary)})
        text = json.dumps(self.document, ensure_ascii=False, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        chunks = [(text, b"JSON"), (binary, b"BIN\0")]
        body = b"".join(len(c).to_bytes(4, "little") + kind + c for c, kind in chunks)
        return b"glTF" + (2).to_bytes(4, "little") + (12 + len(body)).to_bytes(4, "little") + body

    def _add(self, kind: str, thing: dict[str, Any]) -> int:
        self.document[kind].append(thing)
        return len(self.document[kind]) - 1

    def _part(self, part: Part) -> None:
        groups = part.coloured_groups
        materials = {
            colour: self._add("materials", _material(part, colour))
            for colour in dict.fromkeys(colour for _, colour in groups)
        }
        children = [
            self._add("nodes", {"name": f"{part.name}.{item}" if part.count > 1 else part.name, "mesh": mesh, **_matrix(matrix)})
            for group, colour in groups
            for mesh in [self._mesh(group, materials[colour])]
            for matrix, item in zip(group.matrices, group.items, strict=True)
        ]  # fmt: skip
        title = part.label or part.name
        piece = self.pieces.get(part.name)
        told = {"extras": {"study": piece.study, "settings": piece.settings}} if piece else {}
        whole = self._add(
            "nodes", {"name": title, "children": children, **told, **_matrix(_METRE @ _UPRIGHT)}
        )
        self.document["scenes"][0]["nodes"].append(whole)

    def _mesh(self, group: Placed, material: int) -> int:
        drawing = group.shape.drawing
        positions = self._accessor(drawing.positions, _VERTICES, bounds=True)
        normals = self._accessor(_unit(drawing.normals), _VERTICES)
        indices = self._accessor(drawing.triangles.reshape(-1), _INDICES)
        primitive = {
            "attributes": {"POSITION": positions, "NORMAL": normals},
            "indices": indices,
            "material": material,
        }
        return self._add("meshes", {"primitives": [primitive]})

    def _accessor(self, array: np.ndarray[Any, Any], target: int, bounds: bool = False) -> int:
        data = np.ascontiguousarray(array).tobytes()
        view = self._add("bufferViews", {"buffer": 0, "byteOffset": self.size, "byteLength": len(data), "target": target})  # fmt: skip
        self.data.append(data)
        self.size += len(data)
        flat = array.ndim == 1
        accessor = {
            "bufferView": view,
            "componentType": _UINT if flat else _FLOAT,
            "count": len(array),
            "type": "SCALAR" if flat else "VEC3",
        }
        if bounds:
            accessor |= {"min": array.min(axis=0).tolist(), "max": array.max(axis=0).tolist()}
        return self._add("accessors", accessor)


def _unit(normals: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
    """Normals of length 1; one that has none points up."""
    sizes = np.linalg.norm(normals, axis=1, keepdims=True)
    found: np.ndarray[Any, Any] = np.where(sizes > 1e-6, normals / np.maximum(sizes, 1e-6), [0, 0, 1]).astype(np.float32)  # fmt: skip
    return found


def _matrix(matrix: np.ndarray[Any, Any]) -> dict[str, Any]:
    """The matrix of a node, by columns; none where it changes nothing."""
    if np.allclose(matrix, np.eye(4), atol=ROUNDING, rtol=0):
        return {}
    return {"matrix": matrix.T.reshape(-1).tolist()}


def _material(part: Part, colour: str) -> dict[str, Any]:
    """Matte, in a colour (sRGB turned linear, IEC 61966-2-1)."""
    shares = [channel / 255 for channel in channels(colour)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in shares]
    return {
        "name": part.name,
        "pbrMetallicRoughness": {"baseColorFactor": [*linear, 1.0], "metallicFactor": 0.0, "roughnessFactor": 0.9},
    }  # fmt: skip


FORMATS = (
    Format(
        "glb", "glTF", 40, kinds=SOLIDS, said="solid", offered="Solids as glTF", options=(CHORDS,),
        write=lambda outcome, parts, settled: write_glb(outcome, parts),
    ),
)  # fmt: skip
