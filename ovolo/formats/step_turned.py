"""The exact faces of solids of revolution in a STEP file: planes, cylinders, cones, spheres, rings.

A revolution is written in stretches of at most half a turn, so that every edge has two ends. The
profile lies in the plane of x (the distance from the axis) and z; the solid is to its left.
"""

from __future__ import annotations

import itertools
import math

import numpy as np
from msgspec import Struct

from ovolo.formats.step_file import StepFile, one
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Piece, Straight
from ovolo.geometry.placement import applied, determinant, scaled
from ovolo.geometry.solids.forms import Revolution
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product

_SMALL = 1e-9
_UP, _FRONT = np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0])


class Profile(Struct, frozen=True):
    """Outlines in the plane of x and z, turned over `angles` (radians, ascending) about z, then
    placed by a motion that keeps lengths."""

    outlines: list[Curve]
    angles: list[float]
    matrix: Points

    @property
    def whole(self) -> bool:
        return self.angles[-1] - self.angles[0] > 2 * math.pi - _SMALL

    def point(self, place: Points, angle: float) -> Points:
        """Where a place of the profile comes to lie at an angle."""
        turned = [place[0] * math.cos(angle), place[0] * math.sin(angle), place[2]]
        found: Points = applied(self.matrix, np.array([turned]))[0]
        return found

    def way(self, direction: Points, angle: float = 0.0) -> Points:
        return self.point(direction, angle) - self.matrix[:3, 3]

    def placement(self, file: StepFile, height: float, axis: Points = _UP) -> int:
        """A placement on the axis."""
        origin = self.point(np.array([0.0, 0.0, height]), 0.0)
        return file.placement(origin, self.way(axis), self.way(_FRONT, self.angles[0]))


def parted(curve: Curve) -> Curve:
    """More than half turns parted in two, so that every edge has two ends."""
    pieces: list[Piece] = []
    for piece in curve.pieces:
        halves = isinstance(piece, Arc) and abs(piece.sweep) > math.pi + _SMALL
        pieces += [piece.part(0.0, 0.5), piece.part(0.5, 1.0)] if halves else [piece]
    return Curve(tuple(pieces))


def turned_profile(solid: Solid) -> Profile | None:
    """The profile of a solid of revolution where it stands; None for other solids, and where its
    outline is not made of lines and arcs whose surfaces stay clear of themselves."""
    turned = solid.shape.form
    if not isinstance(turned, Revolution):
        return None
    matrix = solid.matrix
    start, end = sorted((0.0, turned.angle))
    if determinant(matrix) < 0:
        matrix = matrix @ scaled((1.0, -1.0, 1.0))
        start, end = -end, -start
    columns = matrix[:3, :3]
    sizes = np.linalg.norm(columns, axis=0)
    skew = np.abs(columns.T @ columns - np.diag(sizes**2)).max()
    if skew > _SMALL * sizes.max() ** 2 or abs(sizes[0] - sizes[1]) > _SMALL * sizes[0]:
        return None
    outlines = [parted(curve.placed(scaled(sizes))) for curve in turned.outlines]
    if not all(_has_surface(piece) for curve in outlines for piece in curve.pieces):
        return None
    count = max(math.ceil((end - start) / math.pi - _SMALL), 1)
    rigid = matrix @ scaled(1 / sizes)
    return Profile(outlines, np.linspace(start, end, count + 1).tolist(), rigid)


def _has_surface(piece: Piece) -> bool:
    if isinstance(piece, Straight):
        return True
    if not isinstance(piece, Arc) or not piece.is_circle:
        return False
    return bool(abs(piece.centre[0]) < _SMALL or piece.centre[0] > piece.radius * (1 + _SMALL))


def turned_faces(file: StepFile, profile: Profile) -> list[int]:
    faces = []
    for outline in profile.outlines:
        places = [piece.start for piece in outline.pieces]
        for at, piece in enumerate(outline.pieces):
            ends = places[at], places[(at + 1) % len(places)]
            if not _on_axis(piece):
                for angles in itertools.pairwise(profile.angles):
                    faces.append(_face(file, profile, piece, ends, angles))
    if not profile.whole:
        faces += [_end(file, profile, angle) for angle in (profile.angles[0], profile.angles[-1])]
    return faces


Ends = tuple[Points, Points]


def _on_axis(piece: Piece) -> bool:
    return isinstance(piece, Straight) and max(piece.a[0], piece.b[0]) < _SMALL


def _face(
    file: StepFile, profile: Profile, piece: Piece, ends: Ends, angles: tuple[float, float]
) -> int:
    """Along the piece at the later angle, back along the earlier one. Where an end lies on the
    axis, its ring is a point."""
    near, far = (_meridian(file, profile, piece, ends, angle) for angle in angles)
    edges = [far]
    if ends[1][0] > _SMALL:
        edges.append((_ring(file, profile, ends[1], angles), False))
    edges.append((near[0], not near[1]))
    if ends[0][0] > _SMALL:
        edges.append((_ring(file, profile, ends[0], angles), True))
    surface, same = _surface(file, profile, piece)
    return file.face(surface, [file.loop(edges)], same)


def _meridian(
    file: StepFile, profile: Profile, piece: Piece, ends: Ends, angle: float
) -> tuple[int, bool]:
    """The edge of a piece of the profile at an angle, and whether it runs as the piece does. At
    the end of a whole turn it is the one of its beginning."""
    if profile.whole and angle == profile.angles[-1]:
        angle = profile.angles[0]
    start, end = (profile.point(place, angle) for place in ends)
    if not isinstance(piece, Arc):
        return file.line_edge(start, end)
    arc = Arc(
        profile.point(piece.centre, angle), profile.way(piece.u, angle),
        profile.way(piece.v, angle), piece.angle, piece.sweep,
    )  # fmt: skip
    return file.arc_edge(arc, (start, end)), True


def _ring(file: StepFile, profile: Profile, place: Points, angles: tuple[float, float]) -> int:
    start, end = angles
    centre = profile.point(place * _UP, 0.0)
    u, v = (profile.way(place * _FRONT, angle) for angle in (0.0, math.pi / 2))
    last = profile.angles[0] if profile.whole and end == profile.angles[-1] else end
    ends = profile.point(place, start), profile.point(place, last)
    return file.arc_edge(Arc(centre, u, v, start, end - start), ends)


def _surface(file: StepFile, profile: Profile, piece: Piece) -> tuple[int, bool]:
    """The surface of a piece, and whether its own normal points out of the solid."""
    slope = piece.slope(0.5)
    outward = np.array([slope[2], 0.0, -slope[0]])
    if isinstance(piece, Arc):
        same = bool(outward @ (piece.at(0.5) - piece.centre) > 0)
        placed = profile.placement(file, piece.centre[2])
        if abs(piece.centre[0]) < _SMALL:
            return file.add(f"SPHERICAL_SURFACE('',#{placed},{one(piece.radius)})"), same
        sizes = f"{one(piece.centre[0])},{one(piece.radius)}"
        return file.add(f"TOROIDAL_SURFACE('',#{placed},{sizes})"), same
    low, high = sorted((piece.start, piece.end), key=lambda place: float(place[0]))
    if abs(slope[2]) < _SMALL * abs(slope[0]):
        plane = profile.placement(file, low[2], _UP * math.copysign(1.0, outward[2]))
        return file.add(f"PLANE('',#{plane})"), True
    if high[0] - low[0] < _SMALL:
        placed = profile.placement(file, low[2])
        return file.add(f"CYLINDRICAL_SURFACE('',#{placed},{one(high[0])})"), bool(outward[0] > 0)
    rise = float(high[2] - low[2])
    placed = profile.placement(file, low[2], _UP * math.copysign(1.0, rise))
    lean = math.atan2(high[0] - low[0], abs(rise))
    cone = file.add(f"CONICAL_SURFACE('',#{placed},{one(low[0])},{one(lean)})")
    return cone, bool(outward[0] > 0)


def _end(file: StepFile, profile: Profile, angle: float) -> int:
    """The flat end of a revolution of less than a whole turn."""
    first = angle == profile.angles[0]
    loops = []
    for outline in profile.outlines:
        places = [piece.start for piece in outline.pieces]
        edges = [
            _meridian(file, profile, piece, (places[at], places[(at + 1) % len(places)]), angle)
            for at, piece in enumerate(outline.pieces)
        ]
        loops.append(
            file.loop(edges if first else [(edge, not way) for edge, way in reversed(edges)])
        )
    across = cross_product(profile.way(_UP), profile.way(_FRONT, angle)) * (-1.0 if first else 1.0)
    origin = profile.point(profile.outlines[0].start, angle)
    plane = file.placement(origin, across, profile.way(_FRONT, angle))
    return file.face(file.add(f"PLANE('',#{plane})"), loops)
