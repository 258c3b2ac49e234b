"""Where a wall is between one and two lines wide: one line of its own width along the middle, in place of two that
would overlap.

The middle is the medial axis (Blum, A transformation for extracting new descriptors of shape, 1967): the places that
are equally near to two sides. It is taken from the Voronoi cells of places along the sides (Brandt and Algazi,
Continuous skeleton computation by Voronoi diagram, CVGIP: Image Understanding 55, 1992); of its branches those are left
out that lead into a corner, where the two nearest places are near each other.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import QhullError, Voronoi

from ovolo.benches.printing.layers import NEARLY, Areas, inset, once, opened
from ovolo.geometry.regions.region import polygons_of
from ovolo.geometry.types import Floats, Points
from ovolo.geometry.vectors import dot_product, plane_product

_OVERLAP = 0.25
"""Of a square of a line's width: what overlaps less in a layer is left."""

_STEP = 0.25
"""Of a line's width: so far apart the places along the sides are."""

_ACROSS = 1.5
"""Two places on either side of a wall are twice as far apart as the middle is from them; in a corner they are nearer
than so many times that."""

_ALIKE = 0.1
"""Of a line's width: by so much the width of a wall may change along one line."""

_SMOOTH = 0.02
"""Of a line's width: the middle is followed so closely."""


def narrow_places(left: Areas, width: float) -> list[list[Any]]:
    """The places of each of some areas that are less wide than so many mm, without what corners have of that."""
    lost = once(shapely.difference, left, opened(left, width / 2 * NEARLY))
    found: list[list[Any]] = [[] for _ in left]
    for at in np.flatnonzero(shapely.area(lost) > _OVERLAP / 4 * width**2):
        pieces = np.array(polygons_of(lost[at]), dtype=object)
        # What a corner loses is nowhere as wide as a quarter of that.
        found[at] = list(pieces[~shapely.is_empty(inset(pieces, width / 8))])
    return found


def may_be_narrow(walls: Areas, within: Areas, apart: float, line: float) -> NDArray[np.bool_]:
    """Whether areas may be narrower anywhere than twice a distance (mm): whether those that were made smaller by it
    are not of the size that follows from length and corners, as they are where no side is lost (Steiner's formula for
    mitred corners: A - P d + d² Σ tan(turn / 2)); or whether a corner is so sharp that lines overlap in it."""
    corners, sharpest = _corners(walls)
    expected = shapely.area(walls) - shapely.length(walls) * apart + corners * apart**2
    lost = np.abs(expected - shapely.area(within)) > _OVERLAP * line**2
    return np.asarray(lost | (sharpest > _SHARP))


def _corners(areas: Areas) -> tuple[Floats, Floats]:
    """Of each area the sum of tan(turn / 2) over all corners, the area lying to the left, and the greatest."""
    parts, owner = shapely.get_parts(areas, return_index=True)
    outlines, part = shapely.get_rings(parts, return_index=True)
    points, ring = shapely.get_coordinates(outlines, return_index=True)
    if not len(points):
        return np.zeros(len(areas)), np.zeros(len(areas))
    ways = np.diff(points, axis=0)
    kept = (ring[1:] == ring[:-1]) & (np.abs(ways).sum(axis=1) > 0)
    ways, ring = ways[kept], ring[:-1][kept]
    begins = np.flatnonzero(np.diff(ring, prepend=-1))
    before = np.arange(-1, len(ways) - 1)
    before[begins] = np.append(begins[1:], len(ways)) - 1
    turns = np.arctan2(plane_product(ways[before], ways), dot_product(ways[before], ways))
    # An outline that runs clockwise, and a hole that does not, has the area to its right.
    is_hole = np.diff(part, prepend=-1) == 0
    sides = np.where(shapely.is_ccw(outlines) != is_hole, 1.0, -1.0)
    halves = np.tan(np.clip(turns * sides[ring], -_SHARPEST, _SHARPEST) / 2)
    area = owner[part[ring]]
    greatest = np.zeros(len(areas))
    np.maximum.at(greatest, area, halves)
    return np.bincount(area, halves, len(areas)).astype(float), greatest


_SHARP = 2.0
"""Of a corner, tan(turn / 2): in one of 53° or less, lines that meet overlap by half a square of their width."""

_SHARPEST = 3.1
"""Radians of the largest turn that is reckoned with: beyond, its tangent has no bounds."""


Middle = tuple[Points, float]
"""A line (n, 2) along the middle, and its width in mm; a closed one ends where it begins."""


def middle_lines(place: Any, left: Any, line: float, least: float) -> list[Middle]:
    """The lines along the middle of a narrow place of an area. Where it is narrower than `least` nothing is laid; none
    at all where they would be shorter than a line is wide: what is as long as wide has no middle."""
    sides = shapely.intersection(shapely.boundary(left), shapely.buffer(place, line * _STEP))
    middles = _middles(place, sides, line, least)
    if sum(one.length for one in middles) < line:
        return []
    return [piece for middle in middles for piece in _by_width(middle, sides, line)]


def _middles(place: Any, sides: Any, line: float, least: float) -> list[Any]:
    """The middle of a place between its sides, as lines that end where they branch."""
    along = shapely.get_coordinates(shapely.segmentize(sides, line * _STEP))
    along = np.unique(along, axis=0)
    try:
        cells = Voronoi(along)
    except (QhullError, ValueError):
        return []  # too few places, or all on one straight side
    pairs, ends = np.array(cells.ridge_points), np.array(cells.ridge_vertices)
    finite = (ends >= 0).all(axis=1)
    pairs, ends = pairs[finite], ends[finite]
    a, b = along[pairs[:, 0]], along[pairs[:, 1]]
    lines = cells.vertices[ends]
    away = np.hypot(*(lines - a[:, None]).transpose(2, 0, 1)).max(axis=1)
    across = np.hypot(*(a - b).T) >= _ACROSS * away
    wide = 2 * away >= least * NEARLY
    chosen = lines[across & wide]
    inside = shapely.covers(shapely.buffer(place, line * _STEP / 10), shapely.linestrings(chosen))
    merged = shapely.line_merge(shapely.multilinestrings(chosen[inside]))
    return [one for one in shapely.get_parts(merged) if one.length > line * _STEP]


def _by_width(middle: Any, sides: Any, line: float) -> Iterator[Middle]:
    """A middle in pieces along each of which the wall is about as wide."""
    smooth = shapely.simplify(middle, line * _SMOOTH)
    points = shapely.get_coordinates(shapely.segmentize(smooth, 2 * line))
    between = shapely.points((points[:-1] + points[1:]) / 2)
    widths = 2 * shapely.distance(between, sides)
    first = 0
    for at in range(1, len(widths) + 1):
        if at == len(widths) or abs(widths[at] - widths[first]) > _ALIKE * line:
            piece = shapely.simplify(shapely.linestrings(points[first : at + 1]), line * _SMOOTH)
            lengths = np.hypot(*np.diff(points[first : at + 1], axis=0).T)
            yield shapely.get_coordinates(piece), float(np.average(widths[first:at], weights=lengths))  # fmt: skip
            first = at
