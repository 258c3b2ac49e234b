"""Whether outlines all but touch: where they come as near to each other as sides may miss their arcs, sides do not
tell which of them lies outside, or whether they meet at all."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from msgspec import Struct
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Piece, Straight
from ovolo.geometry.same import LEAST, SAME_PLACE
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import dot_product, plane_product

_SAME = 10 * SAME_PLACE
"""mm; what is nearer touches just so."""

Touches = tuple[Points, NDArray[np.int64], NDArray[np.int64]]
"""Places (n, 2), and which two parts come near each other there."""


class Part(Struct, frozen=True, eq=False):
    """A region where it lies in the plane: its figure, and of its outlines the circles (k, 3), the straight sides
    (n, 2, 2) and the corners (m, 2); of these the sine of the angle at which what is round meets there, 0 where both
    are straight, or one goes on smoothly as the other."""

    flat: BaseGeometry
    circles: Points
    lines: Points
    corners: Points
    sines: Points


def part_of(flat: BaseGeometry, circles: Points, outlines: Sequence[Curve]) -> Part:
    """That of a region of these outlines."""
    pieces = [piece for curve in outlines for piece in curve.pieces]
    before = [piece for curve in outlines for piece in (curve.pieces[-1], *curve.pieces[:-1])]
    ends = np.array([(piece.start[:2], piece.end[:2]) for piece in pieces]).reshape(-1, 2, 2)
    straight = np.array([isinstance(piece, Straight) for piece in pieces], dtype=bool)
    sines = np.array([_sine(one, other) for one, other in zip(before, pieces, strict=True)])
    return Part(flat, circles, ends[straight], ends[:, 0], sines)


def _sine(before: Piece, after: Piece) -> float:
    if isinstance(before, Straight) and isinstance(after, Straight):
        return 0.0
    a, b = before.slope(1.0)[:2], after.slope(0.0)[:2]
    size = max(float(np.linalg.norm(a) * np.linalg.norm(b)), LEAST)
    sine = abs(float(plane_product(a, b))) / size
    if sine < _SLIGHT and a @ b > 0:  # it goes on smoothly, as a circle does where it begins
        return 0.0
    return max(sine, _SLIGHT)


def all_but_touch(parts: Sequence[Part], apart: float, off: float) -> bool:
    """Whether a circle of one part comes so near (mm) to a circle, a straight side or a corner of another without
    crossing it, or outlines of three parts come so near to crossing in one place, where all of them have an outline
    there: their figures, whose sides are no more than `off` away. What touches just so, as what is rounded does, and one
    circle in two parts count for nothing: their sides touch as well."""
    circles, owner = _with_owners([part.circles for part in parts])
    if not len(circles):
        return False
    lines, corners = (_with_owners([getattr(part, name) for part in parts]) for name in ("lines", "corners"))  # fmt: skip
    sines = np.concatenate([part.sines for part in parts])
    reach = apart / np.where(sines > 0, sines, 1.0)
    found = (
        _circles_touch(circles, owner, apart),
        _lines_touch(circles, owner, *lines, apart),
        _corners_touch(circles, owner, *corners, reach),
        _corners_and_lines_touch(
            *lines, corners[0][sines > 0], corners[1][sines > 0], reach[sines > 0]
        ),
    )
    places, one, other = (np.concatenate(column) for column in zip(*found, strict=True))
    rims = shapely.boundary(np.array([part.flat for part in parts]))
    if _all_there(rims, places, [one, other], np.full(len(places), apart / _SLIGHT + off)):
        return True
    return _three_meet(rims, circles, owner, *lines, apart, off)


def _all_there(
    rims: NDArray[np.object_], places: Points, owners: Sequence[NDArray[np.int64]], reach: Points
) -> bool:
    """Whether near one of the places (n, 2) all the parts that are to be there (n,) have an outline."""
    there = np.ones(len(places), dtype=bool)
    for of in owners:
        there[there] = shapely.dwithin(rims[of[there]], shapely.points(places[there]), reach[there])
    return bool(there.any())


def _three_meet(
    rims: NDArray[np.object_], circles: Points, owner: NDArray[np.int64], lines: Points, of_line: NDArray[np.int64],
    apart: float, off: float,
) -> bool:  # fmt: skip
    """Whether an outline passes by where two others cross, nearer than sides tell: these cross elsewhere by as much more
    as they cross at a smaller angle."""
    found = (_circles_cross(circles, owner), _lines_and_circles_cross(circles, owner, lines, of_line), _lines_cross(lines, of_line))  # fmt: skip
    places, one, other, sine = (np.concatenate(column) for column in zip(*found, strict=True))
    if not len(places):
        return False
    points, reach = shapely.points(places), apart / np.maximum(sine, _SLIGHT)
    spots = shapely.buffer(points, reach, quad_segs=2)
    at, circle = shapely.STRtree(_around(circles, 0.0)).query(spots, predicate="intersects")
    gap = np.abs(np.linalg.norm(places[at] - circles[circle, :2], axis=1) - circles[circle, 2])
    by_circle = (at, owner[circle], gap)
    at, line = shapely.STRtree(shapely.linestrings(lines)).query(spots, predicate="intersects")
    by_line = (at, of_line[line], shapely.distance(points[at], shapely.linestrings(lines[line])))
    at, third, gap = (np.concatenate(column) for column in zip(by_circle, by_line, strict=True))
    near = (third != one[at]) & (third != other[at]) & (gap > _SAME) & (gap < reach[at])
    at, third = at[near], third[near]
    return _all_there(rims, places[at], [one[at], other[at], third], reach[at] + off)


_SLIGHT = 0.02
"""The sine of the smallest angle at which outlines are looked at as crossing."""

Crossings = tuple[Points, NDArray[np.int64], NDArray[np.int64], Points]
"""Places (n, 2), which two parts cross there, and the sine of the angle at which they do."""


def _circles_cross(circles: Points, owner: NDArray[np.int64]) -> Crossings:
    a, b, way, distance = _pairs(circles, owner, 0.0)
    first, second = circles[a, 2], circles[b, 2]
    crosses = (distance > np.abs(first - second) + _SAME) & (distance < first + second - _SAME)
    a, b, way, distance = a[crosses], b[crosses], way[crosses], distance[crosses]
    first, second = first[crosses], second[crosses]
    along = (distance**2 + first**2 - second**2) / (2 * distance)
    half = np.sqrt(np.maximum(first**2 - along**2, 0.0))
    unit = way / distance[:, None]
    foot = circles[a, :2] + along[:, None] * unit
    side = half[:, None] * np.column_stack([-unit[:, 1], unit[:, 0]])
    sine = half * distance / (first * second)
    return _on_both_sides(foot, side, owner[a], owner[b], sine)


def _lines_and_circles_cross(
    circles: Points, owner: NDArray[np.int64], lines: Points, of_line: NDArray[np.int64]
) -> Crossings:
    line, circle = _near(circles, owner, shapely.linestrings(lines), of_line, 0.0)
    foot, _, way, off = _feet(lines[line], circles[circle, :2])
    crosses = off < circles[circle, 2] - _SAME
    half = np.sqrt(circles[circle, 2][crosses] ** 2 - off[crosses] ** 2)
    line, circle, foot, way = line[crosses], circle[crosses], foot[crosses], way[crosses]
    unit = way / np.maximum(np.linalg.norm(way, axis=1), LEAST)[:, None]
    side = half[:, None] * unit
    sine = half / circles[circle, 2]
    return _on_both_sides(foot, side, of_line[line], owner[circle], sine)


def _on_both_sides(
    foot: Points, side: Points, one: NDArray[np.int64], other: NDArray[np.int64], sine: Points
) -> Crossings:
    places = np.concatenate([foot + side, foot - side])
    return places, np.tile(one, 2), np.tile(other, 2), np.tile(sine, 2)


def _lines_cross(lines: Points, of_line: NDArray[np.int64]) -> Crossings:
    sides = shapely.linestrings(lines)
    a, b = shapely.STRtree(sides).query(sides, predicate="crosses")
    kept = of_line[a] < of_line[b]
    a, b = a[kept], b[kept]
    meeting = shapely.intersection(sides[a], sides[b])
    point = shapely.get_type_id(meeting) == 0
    a, b = a[point], b[point]
    d, e = (lines[of, 1] - lines[of, 0] for of in (a, b))
    sine = np.abs(plane_product(d, e)) / np.maximum(np.linalg.norm(d, axis=1) * np.linalg.norm(e, axis=1), LEAST)  # fmt: skip
    return shapely.get_coordinates(meeting[point]), of_line[a], of_line[b], sine


def _with_owners(items: Sequence[Points]) -> tuple[Points, NDArray[np.int64]]:
    return np.concatenate(items), np.repeat(np.arange(len(items)), [len(one) for one in items])


def _around(circles: Points, apart: float) -> NDArray[np.object_]:
    reach = circles[:, 2] + apart
    low, high = circles[:, :2] - reach[:, None], circles[:, :2] + reach[:, None]
    found: NDArray[np.object_] = shapely.box(*low.T, *high.T)
    return found


def _circles_touch(circles: Points, owner: NDArray[np.int64], apart: float) -> Touches:
    a, b, way, distance = _pairs(circles, owner, apart)
    first, second = circles[a, 2], circles[b, 2]
    outside, inside = np.abs(distance - first - second), np.abs(distance - np.abs(first - second))
    gap = np.minimum(outside, inside)
    near = (gap < apart) & (gap > _SAME)
    # From the middle of the first towards the other, or away from it where it lies within that one.
    sign = np.where((inside < outside) & (first < second), -1.0, 1.0)
    places = circles[a, :2] + (sign * first / np.maximum(distance, LEAST))[:, None] * way
    return places[near], owner[a[near]], owner[b[near]]


def _pairs(
    circles: Points, owner: NDArray[np.int64], apart: float
) -> tuple[NDArray[np.int64], NDArray[np.int64], Points, Points]:
    """The pairs of circles of different parts that lie together, the way from the one's middle to the other's, and how
    far it is."""
    boxes = _around(circles, apart)
    a, b = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    kept = owner[a] < owner[b]
    a, b = a[kept], b[kept]
    way = circles[b, :2] - circles[a, :2]
    return a, b, way, np.linalg.norm(way, axis=1)


def _feet(lines: Points, points: Points) -> tuple[Points, Points, Points, Points]:
    """Where points (n, 2) stand on lines (n, 2, 2): the places, their shares of the lines, the ways along these, and how
    far off the points are."""
    start, way = lines[:, 0], lines[:, 1] - lines[:, 0]
    share = dot_product(points - start, way) / np.maximum(dot_product(way, way), LEAST)
    foot = start + share[:, None] * way
    return foot, share, way, np.linalg.norm(foot - points, axis=1)


def _lines_touch(
    circles: Points, owner: NDArray[np.int64], lines: Points, of_line: NDArray[np.int64], apart: float
) -> Touches:  # fmt: skip
    line, circle = _near(circles, owner, shapely.linestrings(lines), of_line, apart)
    foot, share, _, off = _feet(lines[line], circles[circle, :2])
    gap = np.abs(off - circles[circle, 2])
    near = (gap < apart) & (gap > _SAME) & (share > 0) & (share < 1)
    return foot[near], of_line[line[near]], owner[circle[near]]


def _corners_touch(
    circles: Points, owner: NDArray[np.int64], corners: Points, of_corner: NDArray[np.int64], reach: Points
) -> Touches:  # fmt: skip
    spots = shapely.buffer(shapely.points(corners), reach, quad_segs=2)
    corner, circle = _near(circles, owner, spots, of_corner, 0.0)
    gap = np.abs(np.linalg.norm(corners[corner] - circles[circle, :2], axis=1) - circles[circle, 2])
    near = (gap < reach[corner]) & (gap > _SAME)
    return corners[corner[near]], of_corner[corner[near]], owner[circle[near]]


def _corners_and_lines_touch(
    lines: Points, of_line: NDArray[np.int64], corners: Points, of_corner: NDArray[np.int64], reach: Points
) -> Touches:  # fmt: skip
    points, sides = shapely.points(corners), shapely.linestrings(lines)
    corner, line = shapely.STRtree(sides).query(points, predicate="dwithin", distance=reach)
    gap = shapely.distance(points[corner], sides[line])
    near = (gap > _SAME) & (of_corner[corner] != of_line[line])
    return corners[corner[near]], of_corner[corner[near]], of_line[line[near]]


def _near(
    circles: Points, owner: NDArray[np.int64], items: NDArray[np.object_], of_item: NDArray[np.int64], apart: float
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:  # fmt: skip
    """The pairs of items and circles of different parts that lie together."""
    item, circle = shapely.STRtree(_around(circles, apart)).query(items, predicate="intersects")
    kept = of_item[item] != owner[circle]
    return item[kept], circle[kept]
