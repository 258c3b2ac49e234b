"""Outlines whose sides move inwards or outwards, their corners kept sharp, and the corners that are lost by it."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.meshes.mesh import CREASE
from ovolo.geometry.regions.region import polygons_of
from ovolo.geometry.same import ROUNDING
from ovolo.geometry.types import Floats
from ovolo.geometry.vectors import plane_product


def inset_of(flat: BaseGeometry, distance: float) -> BaseGeometry:
    """The figure shrunk by a distance (below 0: grown), its corners kept sharp."""
    if abs(distance) < ROUNDING:
        return flat
    made = flat.buffer(-distance, join_style="mitre", mitre_limit=1e3)
    polygons = [shapely.orient_polygons(one) for one in polygons_of(made)]
    return polygons[0] if len(polygons) == 1 else shapely.MultiPolygon(polygons)


def lost_corner(flat: BaseGeometry, distance: float) -> Floats | None:
    """A corner of a figure that has no counterpart once it is inset by a distance: where sides
    meet from afar, or a narrow place closes. None where all are kept. Of a curve the ends may go, as long as it lives on
    with what it meets."""
    made, rings = inset_of(flat, distance), rings_of(flat)
    missing = missing_corners(flat, distance, made)
    if missing is None:
        return None
    worst: Floats = np.concatenate(rings)[int(np.argmax(missing))]
    if made.is_empty or _holes(made) != _holes(flat):
        return worst
    near = made.boundary.buffer(_slack(flat, distance))
    for ring, gaps in zip(rings, np.split(missing, np.cumsum([len(one) for one in rings])[:-1]), strict=True):  # fmt: skip
        at = np.flatnonzero((gaps > 0) & ~_lives_on(ring, distance, near))
        if len(at):
            return np.asarray(ring[at[int(np.argmax(gaps[at]))]])
    return None


def _slack(flat: BaseGeometry, distance: float) -> float:
    """By how much (mm) a corner may miss its place, and is still kept."""
    return max(1e-3 * abs(distance), min(2e-3, 1e-4 * size_of(flat)))


def size_of(flat: BaseGeometry) -> float:
    """The larger extent of a figure in mm."""
    low_x, low_y, high_x, high_y = flat.bounds
    return float(max(high_x - low_x, high_y - low_y))


def missing_corners(flat: BaseGeometry, distance: float, made: BaseGeometry) -> Floats | None:
    """By how much (mm) the corners (n,) miss their places in what was made by an inset, 0 for those that are there; None
    where all are."""
    if made is flat:
        return None
    wanted = np.concatenate([_mitred(ring, distance) for ring in rings_of(flat)])
    if made.is_empty:
        return np.ones(len(wanted))
    gaps: Floats = shapely.distance(shapely.points(wanted), made.boundary)
    missing = np.where(gaps > _slack(flat, distance), gaps, 0.0)
    return missing if missing.any() else None


def _holes(flat: BaseGeometry) -> list[int]:
    """How many holes each piece has."""
    return sorted(len(one.interiors) for one in polygons_of(flat))


def _lives_on(ring: Floats, distance: float, near: BaseGeometry) -> NDArray[np.bool_]:
    """Of which corners (n,) of a ring the way on is a curve on one side at least, and both sides are still there, near to
    the outline that was made, once they are inset by a distance."""
    sides = np.roll(ring, -1, axis=0) - ring
    before = np.roll(sides, 1, axis=0)
    turns = np.arctan2(plane_product(before, sides), np.sum(before * sides, axis=1))
    starts = np.abs(turns) > CREASE
    runs = (np.cumsum(starts) - starts[0]) % max(int(starts.sum()), 1)
    lengths = np.linalg.norm(sides, axis=1)
    shift = distance * np.column_stack([-sides[:, 1], sides[:, 0]]) / lengths[:, None]
    moved_sides = shapely.linestrings(np.stack([ring, ring + sides], axis=1) + shift[:, None])
    kept = shapely.length(shapely.intersection(moved_sides, near)) > 0.3 * lengths
    count = int(runs.max()) + 1
    lives = np.bincount(runs, kept, count) > 0
    curved = np.bincount(runs, minlength=count) > 1
    earlier = np.roll(runs, 1)
    found: NDArray[np.bool_] = lives[runs] & lives[earlier] & (curved[runs] | curved[earlier])
    return found


def _mitred(ring: NDArray[np.float64], distance: float) -> NDArray[np.float64]:
    """Where the corners of a ring (inside to its left) go when its sides move inwards."""
    sides = np.roll(ring, -1, axis=0) - ring
    normals = np.column_stack([-sides[:, 1], sides[:, 0]])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    before = np.roll(normals, 1, axis=0)
    both = before + normals
    spread = np.maximum(1 + np.sum(before * normals, axis=1, keepdims=True), 1e-6)
    places: NDArray[np.float64] = ring + distance * both / spread
    return places


def rings_of(flat: BaseGeometry) -> list[NDArray[np.float64]]:
    """The corners (n, 2) of each outline of a figure, the outer one of a piece before those of its holes."""
    return [
        np.asarray(ring.coords)[:-1]
        for polygon in polygons_of(flat)
        for ring in (polygon.exterior, *polygon.interiors)
    ]
