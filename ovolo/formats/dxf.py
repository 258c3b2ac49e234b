"""DXF (R2010), written with ezdxf: lines, arcs, circles and ellipses as such, a layer a part; what
is there several times as a block in its places; solids as meshes; a placed study as one block of its
name, which those that are alike share.

Lengths are in mm, and the header says so ($INSUNITS = 4).
"""

from __future__ import annotations

import io
import math
import re
from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec.structs import replace

from ovolo.drawing.dimensioning import is_seen
from ovolo.drawing.views import PLAN, View, flattened
from ovolo.formats.dxf_in import read_dxf
from ovolo.formats.flat import axes_of, view_for
from ovolo.formats.format import FLAT, SOLIDS, Format, Settled
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Cubic, Piece, Straight
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.placement import Matrix
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import ROUNDING
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.vectors import cross_product
from ovolo.outcome.dims import Dim
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.outcome.placed_pieces import PlacedPiece, placed_piece
from ovolo.quantities.kinds import SOLID
from ovolo.sheet.colours import channels

_MM = 4
_TURN = 2 * math.pi


def write_dxf(outcome: Outcome, parts: list[Part], settled: Settled) -> bytes:
    """Curves and regions of the parts in the plane in which they lie, and the dims in it; or solids
    in space."""
    solid = parts[0].kind == SOLID
    view = PLAN if solid else view_for(parts)
    document = new_document()
    document.header["$MEASUREMENT"] = 1
    space = document.modelspace()
    pieces: dict[str, str] = {}
    for part in parts:
        layer = _layer_name(part.name)
        made = document.layers.add(layer)
        made.rgb = channels(part.colour)
        piece = placed_piece(outcome, part) if part.tinting is None else None
        if piece is None or not _add_piece(document, space, part, layer, piece, pieces):
            _add_solids(document, space, part, layer)
        for item, curve in part.indexed_curves:
            _add_seen(space, [curve], view, _attributes(part, layer, item))
        _add_regions(document, space, part, layer, view)
        _add_hatch(space, part, layer, view)
    if not solid:
        _add_dims(document, space, outcome, view)
    return bytes_of(document)


def new_document() -> Any:
    """An empty drawing in mm. It tells no time and has no random names, so that the same drawing gives the
    same bytes."""
    import ezdxf
    from ezdxf import filemanagement

    ezdxf.options.write_fixed_meta_data_for_testing = True  # type: ignore[attr-defined]
    document = filemanagement.new("R2010", setup=True)
    document.header["$INSUNITS"] = _MM
    return document


def bytes_of(document: Any) -> bytes:
    """The file of a drawing."""
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode(document.output_encoding, errors="dxfreplace")


def _layer_name(name: str) -> str:
    return re.sub(r'[<>/\\":;?*|=`]', "_", name)


def _attributes(part: Part, layer: str, item: int) -> dict[str, Any]:
    """The layer of an item; and its colour, where it differs from that of the layer."""
    if part.tinting is None:
        return {"layer": layer}
    return {"layer": layer, "true_color": int(part.colour_of(item)[1:], 16)}


def _add_seen(space: Any, curves: Sequence[Curve], view: View, attributes: dict[str, Any]) -> None:
    for curve in curves:
        seen = flattened(curve, view, 1.0)
        if seen is not None:
            add_curve(space, seen, attributes)


def _add_regions(document: Any, space: Any, part: Part, layer: str, view: View) -> None:
    """Regions by their figures: one that is there several times is a block."""
    figures: dict[str, list[tuple[int, Region]]] = {}
    for item, region in part.indexed_regions:
        figures.setdefault(region.key, []).append((item, region))
    for number, same in enumerate(figures.values()):
        block = None
        if len(same) > 1:
            block = document.blocks.new(_block_name(layer, number, len(figures)))
            for curve in same[0][1].outlines:
                add_curve(block, curve, {"layer": layer})
        for item, region in same:
            attributes = _attributes(part, layer, item)
            place = view.matrix @ region.frame
            if block is None or not _add_insert(space, block.name, place, attributes):
                _add_seen(space, region.curves(), view, attributes)


def _block_name(layer: str, number: int, count: int) -> str:
    return layer if count == 1 else f"{layer}-{number + 1}"


def _add_insert(space: Any, name: str, place: Matrix, attributes: dict[str, Any]) -> bool:
    """A block in its place; False where that is sheared, which a block cannot be."""
    from ezdxf.math import Matrix44
    from ezdxf.math.transformtools import InsertTransformationError

    made = space.add_blockref(name, (0, 0, 0), dxfattribs=attributes)
    try:
        made.transform(Matrix44(place.T.reshape(-1)))
    except InsertTransformationError:
        space.delete_entity(made)
        return False
    return True


def _add_solids(document: Any, space: Any, part: Part, layer: str) -> None:
    """Each shape as a block that holds its mesh, in all its places."""
    from ezdxf.render.mesh import MeshBuilder

    for number, group in enumerate(part.groups):
        block = document.blocks.new(_block_name(layer, number, len(part.groups)))
        _mesh(MeshBuilder(), group.shape.mesh).render_mesh(block, dxfattribs={"layer": layer})
        for item, matrix in zip(group.items, group.matrices, strict=True):
            attributes = _attributes(part, layer, int(item))
            if not _add_insert(space, block.name, matrix, attributes):
                made = _mesh(MeshBuilder(), Solid(group.shape, matrix).mesh)
                made.render_mesh(space, dxfattribs=attributes)


def _add_piece(
    document: Any, space: Any, part: Part, layer: str, piece: PlacedPiece, known: dict[str, str]
) -> bool:
    """A placed study as a block in its place; False where a block cannot stand so. What is in it has
    no layer of its own (0), and so that of each insert."""
    name = known.get(piece.alike) or _piece_block(document, part, piece)
    if name is None or not _add_insert(space, name, piece.place, {"layer": layer}):
        return False
    known[piece.alike] = name
    return True


def _piece_block(document: Any, part: Part, piece: PlacedPiece) -> str | None:
    from ezdxf.render.mesh import MeshBuilder

    stem, number = _layer_name(piece.study), 1
    name = stem
    while name in document.blocks:
        number += 1
        name = f"{stem} ({number})"
    whole = document.blocks.new(name)
    back = np.linalg.inv(piece.place)
    for at, group in enumerate(part.groups, start=1):
        inner = document.blocks.new(f"{name}-{at}")
        _mesh(MeshBuilder(), group.shape.mesh).render_mesh(inner, dxfattribs={"layer": "0"})
        for matrix in group.matrices:
            if not _add_insert(whole, inner.name, back @ matrix, {"layer": "0"}):
                return None
    return name


def _mesh(builder: Any, mesh: Mesh) -> Any:
    builder.add_mesh(vertices=mesh.corners.tolist(), faces=mesh.triangles.tolist())
    return builder


def add_curve(space: Any, curve: Curve, attributes: dict[str, Any]) -> None:
    simple = [_is_simple(piece) for piece in curve.pieces]
    if len(curve.pieces) > 1 and all(simple):
        _add_polyline(space, curve, attributes)
        return
    at = 0
    while at < len(curve.pieces):
        run = at
        while run < len(curve.pieces) and isinstance(curve.pieces[run], Cubic):
            run += 1
        if run > at:
            _add_spline(space, curve.pieces[at:run], attributes)
            at = run
        else:
            _add_curve_piece(space, curve.pieces[at], attributes)
            at += 1


def _is_simple(piece: Piece) -> bool:
    """Whether a polyline with bulges holds it exactly."""
    return isinstance(piece, Straight) or (isinstance(piece, Arc) and piece.is_circle and abs(piece.sweep) < 1.9 * math.pi)  # fmt: skip


def _add_polyline(space: Any, curve: Curve, attributes: dict[str, Any]) -> None:
    """Lines and arcs as one polyline; the bulge of an arc is the tangent of a quarter of its sweep."""
    corners = []
    for piece in curve.pieces:
        bulge = 0.0
        if isinstance(piece, Arc):
            bulge = math.tan(piece.sweep * math.copysign(1.0, piece.normal[2]) / 4)
        corners.append((*piece.start[:2], bulge))
    if not curve.closed:
        corners.append((*curve.end[:2], 0.0))
    space.add_lwpolyline(
        corners, format="xyb", close=curve.closed,
        dxfattribs={**attributes, "elevation": float(curve.start[2])},
    )  # fmt: skip


def _add_curve_piece(space: Any, piece: Piece, attributes: dict[str, Any]) -> None:
    if isinstance(piece, Straight):
        space.add_line(piece.a, piece.b, dxfattribs=attributes)
        return
    assert isinstance(piece, Arc)
    whole = abs(abs(piece.sweep) - _TURN) < ROUNDING
    axes = axes_of(piece)
    upwards = float(cross_product(axes.major, axes.minor)[2]) > 0
    begin, end = (axes.begin, axes.end) if upwards else (-axes.begin, -axes.end)
    if end < begin:
        begin, end = end, begin
    if not piece.is_circle:
        ratio = float(np.linalg.norm(axes.minor) / np.linalg.norm(axes.major))
        ends = (0.0, _TURN) if whole else (begin, end)
        space.add_ellipse(piece.centre, axes.major, ratio, *ends, dxfattribs=attributes)
        return
    if whole:
        space.add_circle(piece.centre, piece.radius, dxfattribs=attributes)
        return
    turn = math.atan2(float(axes.major[1]), float(axes.major[0]))
    degrees = [math.degrees(turn + angle) for angle in (begin, end)]
    space.add_arc(piece.centre, piece.radius, *degrees, dxfattribs=attributes)


def _add_spline(space: Any, pieces: tuple[Piece, ...], attributes: dict[str, Any]) -> None:
    """Cubics as one spline of degree 3, whose inner knots are threefold."""
    poles = [piece.poles for piece in pieces if isinstance(piece, Cubic)]
    points = [poles[0][0], *(point for four in poles for point in four[1:])]
    knots = [0.0, *(float(k) for k in range(len(poles) + 1) for _ in range(3)), float(len(poles))]
    spline = space.add_spline(dxfattribs={**attributes, "degree": 3})
    spline.control_points = points
    spline.knots = knots


def _add_hatch(space: Any, part: Part, layer: str, view: View) -> None:
    for ends in part.hatching:
        a, b = (view.placed(end)[:2] for end in ends)
        space.add_line(a, b, dxfattribs={"layer": layer, "lineweight": 13})


def _add_dims(document: Any, space: Any, outcome: Outcome, view: View) -> None:
    """Dims that the view shows in their true size, as dimension entities of their kind."""
    seen = [dim for dim in outcome.dims if is_seen(dim, view)]
    if seen:
        document.layers.add("dims")
    for dim in seen:
        flat = _in_view(dim, view)
        points = np.array([one[:2] for one in (flat.start, flat.end)])
        settings = {
            "override": {"dimtxt": max(float(np.ptp(points, axis=0).max()) / 40, 2.5)},
            "dxfattribs": {"layer": "dims"},
        }
        if dim.form == "level":
            text = str(dim.shown(outcome.units))
            space.add_text(text, height=2.5, dxfattribs={"layer": "dims"}).set_placement(
                flat.end[:2]
            )
        else:
            _DIMS[dim.form](space, flat, settings).render()


def _in_view(dim: Dim, view: View) -> Dim:
    """The dim in the coordinates of the view."""
    start, end = (tuple(view.placed(point).tolist()) for point in (dim.start, dim.end))
    apex = None if dim.apex is None else tuple(view.placed(dim.apex).tolist())
    return replace(dim, start=start, end=end, apex=apex)


def _length_dim(space: Any, dim: Dim, settings: dict[str, Any]) -> Any:
    # Dims are set off to the right of their way, as on the stage.
    return space.add_aligned_dim(
        p1=dim.start[:2], p2=dim.end[:2], distance=-dim.offset, dimstyle="EZDXF", **settings
    )


def _radius_dim(space: Any, dim: Dim, settings: dict[str, Any]) -> Any:
    return space.add_radius_dim(
        center=dim.start[:2], mpoint=dim.end[:2], dimstyle="EZ_RADIUS", **settings
    )


def _diameter_dim(space: Any, dim: Dim, settings: dict[str, Any]) -> Any:
    return space.add_diameter_dim(
        center=dim.start[:2], mpoint=dim.end[:2], dimstyle="EZ_RADIUS", **settings
    )


def _angle_dim(space: Any, dim: Dim, settings: dict[str, Any]) -> Any:
    assert dim.apex is not None
    p, q = (np.array(end) - np.array(dim.apex) for end in (dim.start, dim.end))
    ends = (dim.start, dim.end) if cross_product(p, q)[2] >= 0 else (dim.end, dim.start)
    return space.add_angular_dim_3p(
        base=dim.place[:2], center=dim.apex[:2], p1=ends[0][:2], p2=ends[1][:2],
        dimstyle="EZ_CURVED", **settings,
    )  # fmt: skip


_DIMS = {
    "length": _length_dim, "radius": _radius_dim, "diameter": _diameter_dim, "angle": _angle_dim,
}  # fmt: skip


FORMATS = (
    Format(
        "dxf", "DXF", 80, holds="a drawing", read=read_dxf, write=write_dxf, kinds=FLAT,
        otherwise=SOLIDS, said="flat or solid", offered="Flat parts as DXF", file="drawing",
    ),
)  # fmt: skip
