"""The flat pieces of a study: regions, and solids that are one region through and through.

A piece lies with its length along x and its least corner at the origin. Its outlines are the true ones:
arcs stay arcs.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from msgspec import Struct

from ovolo.geometry.placement import IDENTITY, Matrix, determinant
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.solids.booleans import laid
from ovolo.geometry.solids.shaping import cut_at
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.types import Points
from ovolo.outcome.part import Part
from ovolo.outcome.schedule import Piece, schedule_with_shapes
from ovolo.problems import Failure


class FlatPiece(Struct, frozen=True, eq=False, dict=True):
    """A piece of the schedule that is cut from a sheet: its mark, how many, its region lying in plan, and
    how thick it is (mm; None where it is a region)."""

    piece: Piece
    region: Region
    thickness: float | None

    @property
    def mark(self) -> str:
        return self.piece.mark

    @cached_property
    def size(self) -> Points:
        """How long and how wide it is."""
        low, high = self.region.bounds()
        return np.asarray((high - low)[:2])

    @cached_property
    def flat(self) -> Any:
        """Its figure (shapely), by chords."""
        return self.region.flat


def flat_pieces(parts: Sequence[Part]) -> tuple[list[FlatPiece], list[Failure]]:
    """The pieces of some parts that are flat; and why others are not. Raises Failure where there are none at all."""
    found, refused = [], []
    uneven: dict[str, list[Piece]] = {}
    for piece, shape in schedule_with_shapes(parts):
        try:
            found.append(_piece(piece, shape))
        except _Uneven:
            uneven.setdefault(piece.part, []).append(piece)
        except Failure as failure:
            refused.append(failure)
    refused += [_not_flat(own) for own in uneven.values()]
    if not found and not refused:
        raise Failure("there is nothing to cut", "regions, and solids of one thickness, are cut")
    return found, refused


_NAMED = 3
"""So many pieces that are told together are told by their marks."""


def told_together(pieces: Sequence[Piece], one: str, more: str) -> str:
    """What is said of some pieces of a part, of one of them or of more; others of the part may lie between them."""
    marks = [piece.mark for piece in pieces]
    label = pieces[0].label
    if len(marks) == 1:
        return f"{marks[0]} {label} {one}"
    named, left = marks[:_NAMED], len(marks) - _NAMED
    last = f"{left} more" if left > 0 else named.pop()
    return f"{', '.join(named)} and {last} {label} {more}"


class _Uneven(Failure):
    """A solid that is not of one thickness."""


def _not_flat(pieces: Sequence[Piece]) -> Failure:
    said = told_together(
        pieces,
        "is no flat piece: it is not of one thickness",
        "are no flat pieces: they are not of one thickness",
    )
    return Failure(said, "leave it out, or print it" if len(pieces) == 1 else "leave them out, or print them")  # fmt: skip


def _piece(piece: Piece, shape: Any) -> FlatPiece:
    if getattr(shape, "is_empty", False):
        raise Failure(f"{piece.mark} {piece.label} is empty: {shape.why_empty}")
    if isinstance(shape, Region):
        return FlatPiece(piece, _lying(shape), None)
    if isinstance(shape, Solid):
        region, thickness = _through(shape, piece)
        return FlatPiece(piece, _lying(region), thickness)
    raise Failure(f"{piece.mark} {piece.label} is neither a region nor a solid")


def _through(solid: Solid, piece: Piece) -> tuple[Region, float]:
    """The region that a solid is, pulled up by its thickness, the thinnest way. Raises Failure."""
    ways = [(frame, layers[0]) for frame, layers in laid(solid) if len(layers) == 1]
    if ways:
        frame, layer = min(ways, key=lambda one: one[1].height)
        if determinant(frame) < 0:
            frame = frame @ np.diag([-1.0, 1.0, 1.0, 1.0])
            return layer.region.placed(np.diag([-1.0, 1.0, 1.0, 1.0])).in_plan(), layer.height
        return layer.region, layer.height
    return _by_its_mesh(solid, piece)


def _by_its_mesh(solid: Solid, piece: Piece) -> tuple[Region, float]:
    """The same of a solid that is known by its mesh: all of its corners lie in two level planes, and its
    volume is its section times its thickness."""
    corners = solid.mesh.corners
    vectors = solid.mesh.area_vectors()
    normal = vectors[np.argmax(np.linalg.norm(vectors, axis=1))]
    normal = normal / np.linalg.norm(normal)
    heights = corners @ normal
    low, high = float(heights.min()), float(heights.max())
    thickness = high - low
    slack = SAME_SHARE * float(np.ptp(corners, axis=0).max()) + 1e-6
    if np.minimum(heights - low, high - heights).max() <= slack:
        section = cut_at(solid, normal, normal * (low + high) / 2)
        if abs(section.area * thickness - solid.volume) <= 1e-3 * solid.volume:
            return section, thickness
    raise _Uneven(f"{piece.mark} is not of one thickness")


def _lying(region: Region) -> Region:
    """The region in plan, its length along x, its least corner at the origin."""
    plan = Region(
        region.flat, IDENTITY, region.drawn, region.made_of, region.operator, region.whole
    )
    turned = plan.placed(_turn(-_length_direction(plan.flat))).in_plan()
    low = turned.bounds()[0]
    shift = IDENTITY.copy()
    shift[:2, 3] = -low[:2]
    return turned.placed(shift).in_plan()


def _length_direction(flat: Any) -> float:
    """The angle of the longer side of the least rectangle round a figure; 0 where that stands as it is."""
    box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(flat))[:3]
    sides = np.diff(box, axis=0)
    longer = sides[np.argmax(np.hypot(*sides.T))]
    angle = math.atan2(longer[1], longer[0]) % math.pi
    width, height = np.ptp(shapely.get_coordinates(flat), axis=0)
    least = float(np.prod(np.hypot(*sides.T)))
    if width * height <= least * (1 + 1e-6):  # it needs no turn, but for a quarter
        return 0.0 if width >= height * (1 - 1e-9) else math.pi / 2
    return angle


def _turn(angle: float) -> Matrix:
    turn = IDENTITY.copy()
    turn[:2, :2] = [[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]]
    quarter = angle / (math.pi / 2)
    if quarter == round(quarter):
        turn[:2, :2] = np.round(turn[:2, :2])
    return turn
