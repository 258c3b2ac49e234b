"""Solids measured against each other, and along a line."""

from __future__ import annotations

import itertools
import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.same import LEAST, ROUNDING, SAME_PLACE, SAME_SHARE
from ovolo.geometry.solids.booleans import aligned, combined
from ovolo.geometry.solids.shaping import unit
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.tolerance import fewest_chords
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure


def clash(a: Solid, b: Solid) -> float:
    """The volume in mm³ that both take up.

    >>> from ovolo.geometry.solids.primitives import box
    >>> round(clash(box(40.0, 20.0, 10.0), box(20.0, 40.0, 5.0)), 6)
    2000.0
    """
    return shared(a, b).volume


def shared(a: Solid, b: Solid) -> Solid:
    """What both take up; empty where they are clear of each other."""
    return combined("&", a, b)


def clearance(a: Solid, b: Solid) -> float:
    """The least distance in mm between two solids; 0 where they touch or clash.

    >>> from ovolo.geometry.placement import moved
    >>> from ovolo.geometry.solids.primitives import box
    >>> beside = box(10.0, 10.0, 10.0).placed(moved(np.array([25.0, 0.0, 0.0])))
    >>> round(clearance(box(10.0, 10.0, 10.0), beside), 9)
    15.0
    """
    if clash(a, b) > 0:
        return 0.0
    _, (one, other) = aligned([a, b])
    # What is further apart than two corners is not compared.
    reach = (1 + SAME_SHARE) * _between_corners(a.mesh.corners, b.mesh.corners) + SAME_PLACE
    found: float = one.min_gap(other, reach)
    return found if found >= SAME_PLACE else 0.0


_STARTS = 64


def _between_corners(these: NDArray[np.float64], those: NDArray[np.float64]) -> float:
    """The distance between one of some places (n, 3) and one of others (m, 3) that are nearly the nearest to each other: from
    one to that nearest to it, and on, for as long as they come nearer."""
    starts = those[:: math.ceil(len(those) / _STARTS)]
    place = min((_nearest(these, start) for start in starts), key=lambda found: found[0])[1]
    least = math.inf
    while True:
        _, back = _nearest(those, place)
        gap, place = _nearest(these, back)
        if gap >= least:
            return least
        least = gap


def _nearest(
    places: NDArray[np.float64], to: NDArray[np.float64]
) -> tuple[float, NDArray[np.float64]]:
    """How far the nearest of some places (n, 3) is from one, and that place."""
    away = places - to
    at = int(np.argmin(dot_product(away, away)))
    return float(np.linalg.norm(away[at])), places[at]


def is_deep(common: Solid, by: float) -> bool:
    """Whether two solids would have something in common even if they were smaller by a little (mm, both together): what is
    nowhere thicker than that has at most half of its surface times that as its volume."""
    return common.volume > by * common.area / 2


class Stretch(Struct, frozen=True):
    """The first stretch of a line that lies within a solid.

    `length` is in mm; `missed_for_each` says by how many mm it may be wrong for each mm by which the solid's faces miss
    the true ones: at each end 1 / cos of the angle at which the line passes them.
    """

    length: float
    missed_for_each: float


def stretch_within(solid: Solid, point: NDArray[np.float64], way: NDArray[np.float64]) -> Stretch:
    """The first stretch of the line from a point (3,) on that lies within a solid; the one the point lies in, where it
    does. A stretch along a face lies within. Raises Failure where the line misses it."""
    direction = unit(way, "the direction")
    corners = solid.mesh.corners[solid.mesh.triangles]
    marks, met = _crossings(corners, point, direction)
    begin, end = _first_within(corners, point, direction, marks)
    if end <= SAME_PLACE:
        said = ", ".join(f"{x:.6g}" for x in point)
        size = float(np.linalg.norm(np.ptp(solid.mesh.corners, axis=0)))
        raise Failure(
            f"a line from ({said}) mm that way does not go through the solid, which is {size:.6g} mm "
            "across",
            "begin before it or on its surface",
        )
    missed = 0.0
    for mark in (begin, end):
        steep = (
            float(met[np.abs(met[:, 0] - mark) < SAME_PLACE, 1].min(initial=1.0))
            if len(met)
            else 0.0
        )
        # The true face may lean by half a chord's turn more.
        missed += 1 / max(steep - math.pi / fewest_chords(solid.shape.tolerance), ROUNDING)
    return Stretch(end - begin, missed)


def _first_within(
    corners: NDArray[np.float64],
    point: NDArray[np.float64],
    direction: NDArray[np.float64],
    marks: NDArray[np.float64],
) -> tuple[float, float]:
    """Between which of the marks of a line (mm from a point, in order) it first lies within triangles, ending beyond the
    point; (0, 0) where it never does."""
    begin: float | None = None
    for start, end in itertools.pairwise(marks.tolist()):
        if end - start < SAME_PLACE:
            continue
        within = abs(winding(corners, point + (start + end) / 2 * direction)) > 0.25
        if within and begin is None:
            begin = start
        if begin is not None and not within:
            if start > SAME_PLACE:
                return begin, start
            begin = None
    return (0.0, 0.0) if begin is None else (begin, float(marks[-1]))


def _crossings(
    corners: NDArray[np.float64], point: NDArray[np.float64], direction: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Where a line meets the triangles (n, 3, 3) of a solid, by the distance from a point, in order
    (Möller and Trumbore, 1997); and where it passes one of their edges in their own plane. Beside it where it meets them
    at an angle, and the cosine of that to their normals (m, 2)."""
    a, b, c = (corners[:, k] for k in range(3))
    across = cross_product(direction, c - a)
    size = dot_product(b - a, across)
    scale = np.linalg.norm(b - a, axis=1) * np.linalg.norm(c - a, axis=1)
    steep = np.abs(size) > ROUNDING * scale
    with np.errstate(all="ignore"):
        u = dot_product(point - a, across) / size
        turned = cross_product(point - a, b - a)
        v = turned @ direction / size
        t = dot_product(c - a, turned) / size
        hit = steep & (u >= -SAME_SHARE) & (v >= -SAME_SHARE) & (u + v <= 1 + SAME_SHARE)
    normals = cross_product(b - a, c - a)[hit]
    cosines = np.abs(normals @ direction) / np.linalg.norm(normals, axis=1)
    found = [t[hit]]
    for start, end in ((a, b), (b, c), (c, a)):
        along = end - start
        normal = cross_product(along, direction)
        square = np.sum(normal**2, axis=1)
        gap = start - point
        with np.errstate(all="ignore"):
            share = dot_product(cross_product(direction, gap), normal) / square
            off = np.abs(dot_product(gap, normal)) / np.sqrt(square)
            level = (square > 1e-18 * np.sum(along**2, axis=1)) & (off < SAME_PLACE)
            level &= (share >= -SAME_SHARE) & (share <= 1 + SAME_SHARE)
        found.append(((gap + share[:, None] * along) @ direction)[level])
        on = np.linalg.norm(cross_product(gap, direction), axis=1) < SAME_PLACE
        found.append((gap @ direction)[on])
    return np.sort(np.concatenate(found)), np.column_stack([t[hit], cosines])


def winding(corners: NDArray[np.float64], place: NDArray[np.float64]) -> float:
    """How often triangles (n, 3, 3) go round a place: 1 within a solid, 0 outside, between them on
    its surface (van Oosterom and Strackee, The solid angle of a plane triangle, 1983)."""
    a, b, c = (corners[:, k] - place for k in range(3))
    x, y, z = (np.linalg.norm(one, axis=1) for one in (a, b, c))
    above = dot_product(a, cross_product(b, c))
    below = x * y * z + dot_product(a, b) * z + dot_product(b, c) * x + dot_product(c, a) * y  # fmt: skip
    flat = np.abs(above) < SAME_SHARE * np.maximum(x * y * z, LEAST)
    angles = np.where(flat, 0.0, 2 * np.arctan2(above, below))
    return float(angles.sum() / (4 * np.pi))
