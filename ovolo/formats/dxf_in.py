"""Reading DXF (with ezdxf) as exact curves by layer, in mm by the units of its header.

Lines, arcs, circles, ellipses, polylines with bulges and splines become curves; blocks are
unfolded where they are placed, what lies on their layer 0 on the layer of the block; what is marked
as invisible is left out; all else is counted and passed over.
"""

from __future__ import annotations

import hashlib
import io
import itertools
import math
import re
from collections import Counter
from collections.abc import Iterator
from typing import Any

import numpy as np

from ovolo.geometry.attached_drawing import AttachedDrawing, as_layer, left_out
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Cubic, Piece, Straight
from ovolo.geometry.curves.splines import cubics_of
from ovolo.geometry.same import ROUNDING, SMALLEST
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure

MOST_BYTES = 5_000_000
MOST_CURVES = 20_000
_DEEPEST = 8
"""How deeply blocks within blocks are unfolded."""

_TURN = 2 * math.pi
_ROUNDED = 1e-5
"""By how many radians what was a whole turn may miss it, written with six figures."""
_FRAME = 16
"""The flag of a corner that only spanned the curve (DXF reference, VERTEX, group code 70)."""


def read_dxf(data: bytes, name: str) -> AttachedDrawing:
    """The curves of a drawing's model space. Raises Failure for what is no DXF, and for one that
    is too large."""
    if len(data) > MOST_BYTES:
        raise Failure(f"{name} has {len(data):,} bytes; at most {MOST_BYTES:,} are read")
    document = _document(data, name)
    size = _unit_size(document, name)
    layers: dict[str, list[Curve]] = {}
    titles: dict[str, str] = {}
    passed: Counter[str] = Counter()
    count = 0
    for entity, title in _unfolded(document.modelspace(), None, 0, name):
        curve = _curve(entity, size)
        if curve is None:
            passed[entity.dxftype()] += 1
            continue
        count += 1
        if count > MOST_CURVES:
            raise Failure(f"{name} has more than {MOST_CURVES:,} curves", "split it by layers")
        layer = as_layer(title)
        titles.setdefault(layer, title)
        layers.setdefault(layer, []).append(curve)
    if not layers:
        said = ", ".join(f"{n} x {kind}" for kind, n in passed.items()) or "nothing at all"
        raise Failure(f"there are no curves in {name}", f"its model space holds {said}")
    digest = hashlib.blake2b(data, digest_size=12).hexdigest()
    notes = (*_not_shown(document, titles), *left_out(passed))
    unit = "" if _unit_code(document) else "mm"
    return AttachedDrawing(name, layers, titles, digest, unit, notes)


def _not_shown(document: Any, titles: dict[str, str]) -> list[str]:
    """Layers that programs for drawing do not show, but whose curves are there."""
    hidden = [
        title for title in titles.values()
        if title in document.layers and (document.layers.get(title).is_off() or document.layers.get(title).is_frozen())
    ]  # fmt: skip
    return [f"off or frozen in the file, read all the same: {', '.join(hidden)}"] if hidden else []


def _document(data: bytes, name: str) -> Any:
    from ezdxf import recover
    from ezdxf.lldxf.const import DXFError

    if b"SECTION" not in data[:4000].upper():
        raise Failure(f"{name} is not a DXF file", "save it as DXF (ASCII)")
    _refuse_decimal_commas(data, name)
    try:
        document, _ = recover.read(io.BytesIO(data))
    except (
        DXFError,
        OSError,
        ValueError,
        IndexError,
        KeyError,
        TypeError,
        AttributeError,
    ) as error:
        raise Failure(
            f"{name} cannot be read as DXF: {str(error)[:120]}",
            "save it again, as DXF R2000 or newer",
        ) from None
    return document


_COORDINATE = re.compile(rb"^[ \t]*(?:[1-5]\d|14[0-7]|2[1-3]\d)[ \t]*\r?\n([ \t]*[-+]?\d*,\d+)[ \t]*\r?$", re.MULTILINE)  # fmt: skip
"""A group of the kind that holds a figure (group codes 10 to 59, 140 to 147 and 210 to 239 of the
DXF reference), written with a comma."""


def _refuse_decimal_commas(data: bytes, name: str) -> None:
    found = None if b"\0" in data[:200] else _COORDINATE.search(data)
    if found:
        line = data.count(b"\n", 0, found.start(1)) + 1
        figure = found[1].decode().strip()
        raise Failure(
            f"line {line} of {name} has `{figure}`: a decimal comma",
            "save it with decimal points, as DXF has them",
        )


_INCH, _FOOT, _SURVEYED, _METRE = 25.4, 304.8, 1200e3 / 3937, 1e3
_ASTRONOMICAL = 149_597_870_700e3
_UNITS = {
    0: 1.0, 1: _INCH, 2: _FOOT, 3: 5280 * _FOOT, 4: 1.0, 5: 10.0, 6: _METRE, 7: 1e3 * _METRE, 8: _INCH * 1e-6, 9: _INCH * 1e-3,
    10: 3 * _FOOT, 11: 1e-7, 12: 1e-6, 13: 1e-3, 14: 100.0, 15: 1e4, 16: 1e5, 17: 1e12, 18: _ASTRONOMICAL,
    19: 9_460_730_472_580_800e3, 20: _ASTRONOMICAL * 648_000 / math.pi, 21: _SURVEYED, 22: _SURVEYED / 12,
    23: 3 * _SURVEYED, 24: 5280 * _SURVEYED,
}  # fmt: skip
"""mm for the units of a header by their codes (DXF reference, $INSUNITS); drawings without one are taken in mm. The inch of
1959, the foot of the US survey (NIST SP 811, B.6), the astronomical unit and the parsec of the IAU (2012, 2015)."""


def _unit_code(document: Any) -> int:
    return int(document.header.get("$INSUNITS", 0) or 0)


def _unit_size(document: Any, name: str) -> float:
    """mm for one unit of the drawing."""
    code = _unit_code(document)
    if code not in _UNITS:
        raise Failure(f"{name} is drawn in an unknown unit (code {code})", "save it in mm")
    return _UNITS[code]


def _unfolded(
    entities: Any, block_layer: str | None, depth: int, name: str
) -> Iterator[tuple[Any, str]]:
    """All entities that are seen, and their layers: those of blocks where they are placed, in each row and column of an
    array."""
    for entity in entities:
        if entity.dxf.get("invisible", 0):
            continue
        layer = str(entity.dxf.layer)
        if layer == "0" and block_layer is not None:
            layer = block_layer
        if entity.dxftype() != "INSERT":
            yield entity, layer
            continue
        if depth >= _DEEPEST:
            raise Failure(f"{name} has blocks nested more than {_DEEPEST} deep", "explode some")
        for one in entity.multi_insert() if entity.mcount > 1 else (entity,):
            yield from _unfolded(one.virtual_entities(), layer, depth + 1, name)


def _curve(entity: Any, size: float) -> Curve | None:
    rule = _RULES.get(entity.dxftype())
    pieces = tuple(piece for piece in rule(entity) if piece.length > SMALLEST) if rule else ()
    if not pieces:
        return None
    matrix = np.diag([size, size, size, 1.0])
    return Curve(tuple(piece.placed(matrix) for piece in pieces))


def _point(vector: Any) -> Points:
    return np.array([vector[0], vector[1], vector[2] if len(vector) > 2 else 0.0], dtype=float)


def _line(entity: Any) -> list[Piece]:
    return [Straight(_point(entity.dxf.start), _point(entity.dxf.end))]


def _plane(entity: Any) -> tuple[Points, Points]:
    """The x and y directions of an entity's own plane."""
    ocs = entity.ocs()
    return _point(ocs.to_wcs((1, 0, 0))), _point(ocs.to_wcs((0, 1, 0)))


def _circle(entity: Any) -> list[Piece]:
    x, y = _plane(entity)
    centre = _point(entity.ocs().to_wcs(entity.dxf.center))
    begin, sweep = 0.0, _TURN
    if entity.dxftype() == "ARC":
        begin = math.radians(entity.dxf.start_angle)
        sweep = _sweep(begin, math.radians(entity.dxf.end_angle))
    radius = float(entity.dxf.radius)
    return [Arc(centre, radius * x, radius * y, begin, sweep)]


def _sweep(begin: float, end: float) -> float:
    """From one angle to another, anticlockwise. A whole turn is one also where it was rounded when it was written."""
    sweep = end - begin
    return _TURN if abs(sweep - _TURN) < _ROUNDED else sweep % _TURN or _TURN


def _ellipse(entity: Any) -> list[Piece]:
    begin = float(entity.dxf.start_param)
    sweep = _sweep(begin, float(entity.dxf.end_param))
    major, minor = _point(entity.dxf.major_axis), _point(entity.minor_axis)
    return [Arc(_point(entity.dxf.center), major, minor, begin, sweep)]


def _light_polyline(entity: Any) -> list[Piece]:
    """A polyline in its own plane; the bulge of a segment is the tangent of a quarter of its sweep."""
    x, y = _plane(entity)
    up = cross_product(x, y) * float(entity.dxf.elevation)
    corners = [(p[0] * x + p[1] * y + up, float(p[2])) for p in entity.get_points("xyb")]
    return _segments(corners, bool(entity.closed), cross_product(x, y))


def _old_polyline(entity: Any) -> list[Piece]:
    if entity.is_poly_face_mesh or entity.is_polygon_mesh:
        return []
    vertices = [one for one in entity.vertices if not one.dxf.get("flags", 0) & _FRAME]
    if entity.is_3d_polyline:
        corners = [(_point(v.dxf.location), 0.0) for v in vertices]
        return _segments(corners, bool(entity.is_closed), np.array([0.0, 0.0, 1.0]))
    x, y = _plane(entity)
    up = cross_product(x, y)
    elevation = float(_point(entity.dxf.elevation)[2]) if entity.dxf.hasattr("elevation") else 0.0
    corners = [
        (at[0] * x + at[1] * y + (elevation or at[2]) * up, float(v.dxf.get("bulge", 0.0)))
        for v in vertices
        for at in [_point(v.dxf.location)]
    ]
    return _segments(corners, bool(entity.is_closed), up)


def _segments(corners: list[tuple[Points, float]], closed: bool, normal: Points) -> list[Piece]:
    if closed:
        corners = [*corners, corners[0]]
    pieces: list[Piece] = []
    for (a, bulge), (b, _) in itertools.pairwise(corners):
        chord = b - a
        if np.linalg.norm(chord) < SMALLEST:
            continue
        if abs(bulge) < ROUNDING:
            pieces.append(Straight(a, b))
            continue
        sweep = 4 * math.atan(bulge)
        left = cross_product(normal, chord)
        centre = (a + b) / 2 + left * (1 - bulge**2) / (4 * bulge)
        u = a - centre
        pieces.append(Arc(centre, u, cross_product(normal, u), 0.0, sweep))
    return pieces


def _spline(entity: Any) -> list[Piece]:
    """A spline as cubics; one that is not well defined is no curve."""
    try:
        spline = entity.construction_tool()
    except ValueError:
        return []
    poles = np.array([_point(one) for one in spline.control_points])
    weights = np.array(spline.weights() or np.ones(len(poles)), dtype=float)
    if len(weights) != len(poles) or not np.all(weights > 0):
        return []
    knots = np.array(spline.knots(), dtype=float)
    return [Cubic(one) for one in cubics_of(knots, poles, weights, int(spline.degree))]


_RULES = {
    "LINE": _line, "ARC": _circle, "CIRCLE": _circle, "ELLIPSE": _ellipse,
    "LWPOLYLINE": _light_polyline, "POLYLINE": _old_polyline, "SPLINE": _spline,
}  # fmt: skip
