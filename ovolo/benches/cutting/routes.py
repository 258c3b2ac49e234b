"""The way of the tool over a sheet: every outline beside its line by half of what a cut takes, outlines
outside and holes inside, begun with a lead-in in what falls away.

What lies within another outline is cut first (holes before their outlines, a piece in a hole before that
hole), of what may be next always the nearest.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from msgspec import Struct

from ovolo.benches.cutting.cutter import Cutter
from ovolo.benches.cutting.flat_pieces import FlatPiece
from ovolo.benches.cutting.nesting import Laid, Nest
from ovolo.benches.motion import runs, times
from ovolo.geometry.curves.corners import offset
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import polyline
from ovolo.geometry.curves.pieces import Arc, Piece, Straight
from ovolo.geometry.placement import IDENTITY, Matrix
from ovolo.geometry.types import Points
from ovolo.problems import Failure

CHORD = 0.002
"""mm within which a tool follows what is neither straight nor a circle; lengths are by it, too."""

HOLE, OUTLINE = "hole", "outline"

_LEAST_HOLE = 1.02
"""A hole is cut where it is wider than the cut, by this factor."""


class Cut(Struct, frozen=True, eq=False):
    """One closed way of the tool: of which laid piece (by its number in the nest), whether it is a hole or
    an outline, where the lead-in begins, the way, and from where to where along it the tool is lifted
    (tabs), in mm."""

    laid: int
    kind: str
    lead: Points | None
    path: Curve
    tabs: tuple[tuple[float, float], ...] = ()

    @property
    def start(self) -> Points:
        """Where the tool comes down."""
        return self.path.start if self.lead is None else self.lead

    def places(self) -> Points:
        """The way by chords, with its lead-in, (n, 2)."""
        points = self.path.points(CHORD)[:, :2]
        return points if self.lead is None else np.vstack([self.lead[:2], points])


def cuts_of(nest: Nest, sheet: int) -> list[Cut]:
    """The cuts of a sheet in their order. Raises Failure for a hole, or a hollow, that the tool does not go
    into, and for tabs that leave nothing to cut."""
    cuts = [
        cut
        for at, one in enumerate(nest.laid)
        if one.sheet == sheet
        for cut in _cuts(at, one, nest.pieces[one.piece], nest.cutter)
    ]
    return _in_order(cuts)


def place_of(flat: FlatPiece, one: Laid) -> Matrix:
    """The placement (4, 4) of a piece on its sheet."""
    turn = math.radians(one.turn)
    matrix = IDENTITY.copy()
    matrix[:2, :2] = np.round(
        [[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]], 15
    )
    low = flat.region.placed(matrix).in_plan().bounds()[0] if one.turn else np.zeros(3)
    matrix[:2, 3] = one.x - low[0], one.y - low[1]
    return matrix


def _cuts(at: int, one: Laid, flat: FlatPiece, cutter: Cutter) -> list[Cut]:
    place = place_of(flat, one)
    found = []
    for curve in flat.region.outlines:
        hole = _signed(curve) < 0
        placed = curve.placed(place)
        path = _beside(placed, cutter.kerf / 2 * (-1 if hole else 1), flat, hole)
        path = _begun_well(path)
        lead = _lead(path, cutter.lead)
        tabs = () if hole else _tabs(path, cutter, flat)
        found.append(Cut(at, HOLE if hole else OUTLINE, lead, path, tabs))
    return found


def _signed(curve: Curve) -> float:
    x, y = curve.points()[:, :2].T
    return float(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1]))


def _beside(curve: Curve, distance: float, flat: FlatPiece, hole: bool) -> Curve:
    """The way beside an outline: exact where lines and arcs have a parallel; by chords where that runs into
    itself and only a part of it is left."""
    if not distance:
        return curve
    try:
        return offset(curve, distance)
    except Failure:
        ring = shapely.Polygon(curve.points(CHORD / 2)[:, :2]).buffer(0)
        way = shapely.buffer(ring, distance, quad_segs=64)
        if way.is_empty or way.geom_type != "Polygon":
            what = "a hole" if hole else "an outline"
            width = 2 * abs(distance)
            raise Failure(
                f"{flat.mark} {flat.piece.label} has {what} that a cut of {width:g} mm does not go into",
                "a thinner cut, or a wider hole",
            ) from None
        points = shapely.get_coordinates(way.exterior)
        points = points if _signed(curve) * _area(points) > 0 else points[::-1]
        return polyline(np.column_stack([points, np.zeros(len(points))]))


def _area(points: Points) -> float:
    x, y = points.T
    return float(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1]))


def _begun_well(path: Curve) -> Curve:
    """The closed way begun in the middle of its longest straight or round piece."""
    lengths = np.array([piece.length for piece in path.pieces])
    kinds = np.array([isinstance(piece, Straight) for piece in path.pieces])
    longest = int(np.argmax(np.where(kinds, lengths, lengths * 0.25)))
    at = float(lengths[:longest].sum() + lengths[longest] / 2)
    total = float(lengths.sum())
    return Curve((*path.between(at, total).pieces, *path.between(0.0, at).pieces))


def _lead(path: Curve, wanted: float) -> Points | None:
    """Where a lead-in begins that meets the way squarely from the side that falls away, which lies to the
    right of it; shorter where there is no room."""
    if not wanted:
        return None
    along = path.tangent_at(0.0)
    right = np.array([along[1], -along[0], 0.0])
    inside = shapely.Polygon(path.points()[:, :2]) if _signed(path) < 0 else None
    length = wanted
    for _ in range(6):
        begin: Points = path.start + length * right
        if inside is None or inside.contains(shapely.LineString([begin[:2], path.start[:2] + 1e-4 * right[:2]])):  # fmt: skip
            return begin
        length /= 2
    return None


def _tabs(path: Curve, cutter: Cutter, flat: FlatPiece) -> tuple[tuple[float, float], ...]:
    """Where along an outline the tool is lifted, evenly: a tab is left as wide as it is said."""
    if not cutter.tabs:
        return ()
    width, total = cutter.tab + cutter.kerf, path.length
    if cutter.tabs * width > total / 2:
        raise Failure(
            f"{cutter.tabs} tabs of {cutter.tab:g} mm leave less than half of the outline of {flat.mark} "
            f"{flat.piece.label} ({total:.5g} mm) to cut",
            "fewer or narrower tabs",
        )
    middles = (np.arange(cutter.tabs) + 0.5) / cutter.tabs * total
    return tuple((float(one - width / 2), float(one + width / 2)) for one in middles)


def _in_order(cuts: Sequence[Cut]) -> list[Cut]:
    areas = [shapely.Polygon(cut.path.points()[:, :2]) for cut in cuts]
    tree = shapely.STRtree(areas)
    depth = np.zeros(len(cuts), dtype=int)
    for at, area in enumerate(areas):
        point = shapely.Point(cuts[at].path.start[:2])
        depth[at] = sum(
            1 for other in tree.query(point, predicate="within") if areas[other].area > area.area
        )
    place, found = np.zeros(2), []
    for level in sorted(set(depth.tolist()), reverse=True):
        left = [at for at in range(len(cuts)) if depth[at] == level]
        while left:
            away = [float(((cuts[at].start[:2] - place) ** 2).sum()) for at in left]
            chosen = left.pop(int(np.argmin(away)))
            found.append(cuts[chosen])
            place = cuts[chosen].path.end[:2]
    return found


class Effort(Struct, frozen=True):
    """What the cuts of a sheet take: mm of cut and of travel, how often the tool comes down, seconds."""

    length: float
    travel: float
    pierces: int
    seconds: float


def effort_of(cuts: Sequence[Cut], cutter: Cutter) -> Effort:
    place = np.zeros(2)
    length = travel = seconds = 0.0
    pierces = 0
    for cut in cuts:
        way = float(np.linalg.norm(cut.start[:2] - place))
        travel += way
        seconds += float(times(np.array([way]), cutter.travel, cutter.acceleration).sum())
        down = 1 + len(cut.tabs)
        pierces += down
        seconds += down * cutter.pierce
        for points, on in strokes(cut):
            stops = runs(points)
            seconds += float(times(stops, cutter.speed, cutter.acceleration).sum())
            length += float(stops.sum()) * on
            travel += float(stops.sum()) * (not on)
        place = cut.path.end[:2]
    return Effort(length, travel, pierces, seconds)


def strokes(cut: Cut) -> list[tuple[Points, bool]]:
    """The ways along which the tool goes on cutting, or goes on lifted, by chords, (n, 2) each."""
    found = [(curve.points(CHORD)[:, :2], down) for curve, down in spans(cut)]
    if cut.lead is not None:
        found[0] = np.vstack([cut.lead[:2], found[0][0]]), True
    return found


def spans(cut: Cut) -> list[tuple[Curve, bool]]:
    """The way in pieces, and whether the tool cuts along each."""
    found, at, total = [], 0.0, cut.path.length
    for begin, end in cut.tabs:
        found += [(cut.path.between(at, begin), True), (cut.path.between(begin, end), False)]
        at = end
    found.append((cut.path.between(at, total) if at else cut.path, True))
    return found


def moves(piece: Piece) -> Sequence[tuple[Points, Points | None, bool]]:
    """The moves of a tool along a piece of a curve: where to, about which centre, and whether clockwise; a
    centre is that of a circle. What is neither straight nor round goes by chords."""
    if isinstance(piece, Straight):
        return [(piece.b, None, False)]
    if isinstance(piece, Arc) and piece.is_circle and abs(piece.normal[2]) > 1 - 1e-9:
        clockwise = piece.sweep * piece.normal[2] < 0
        if abs(piece.sweep) < math.pi:
            return [(piece.end, piece.centre, clockwise)]
        return [(piece.at(0.5), piece.centre, clockwise), (piece.end, piece.centre, clockwise)]
    points = Curve((piece,)).points(CHORD)
    return [(point, None, False) for point in points[1:]]
