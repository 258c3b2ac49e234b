"""Extrusions with a draft angle and with rounded or bevelled edges.

A solid is built of level layers: its outline, inset or outset, at a height each. Between two
layers lies a wall, or, where the outline differs, the ring between both outlines, triangulated in
plan with its corners at the heights of their layers. So the surface is closed by construction.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.digest import digest
from ovolo.geometry.mesh import Mesh, triangulated
from ovolo.geometry.placement import moved
from ovolo.geometry.region import Region, polygons_of
from ovolo.geometry.same import SMALLEST
from ovolo.geometry.solid import Copies, Solid, manifold_of, shape_made
from ovolo.geometry.tolerance import chord_tolerance
from ovolo.problems import Failure

_STEPS_OF_SEARCH = 40


@dataclass(frozen=True)
class Finish:
    """How an edge is finished: `form` is round or bevel, `size` its radius or its width in mm."""

    form: str
    size: float

    def __post_init__(self) -> None:
        if not self.size > SMALLEST:
            what = "radius" if self.form == "round" else "bevel"
            raise Failure(f"the {what} of an edge is {self.size:g} mm", "it must be more than 0")

    def steps(self) -> list[tuple[float, float]]:
        """From the wall to the face: how far in, and how far below the face, as shares of 1."""
        if self.form == "bevel":
            return [(0.0, 1.0), (1.0, 0.0)]
        sagitta = min(chord_tolerance() / self.size, 0.2)
        count = max(math.ceil(math.pi / 4 / math.acos(1 - sagitta)), 3)
        angles = np.linspace(0.0, math.pi / 2, count + 1)
        return [(1 - math.cos(a), 1 - math.sin(a)) for a in angles]


def finished_extrusion(
    region: Region,
    height: float,
    taper: float = 0.0,
    top: Finish | None = None,
    bottom: Finish | None = None,
    both_ways: bool = False,
) -> Solid:
    """A region pulled along its normal by `height` (mm), its walls leaning inwards by `taper`
    (radians; below 0 outwards), its top and bottom edges finished. `both_ways` puts its middle
    into the plane of the region. Raises Failure, with the largest value that fits, where an
    inset vanishes, parts, or loses a corner."""
    rise = abs(height)
    if rise <= SMALLEST:
        raise Failure("an extrusion of height 0 has no volume", "give it a height")
    if abs(taper) >= math.pi / 2 - 1e-6:
        raise Failure(f"a taper of {math.degrees(taper):.6g}° is flat", "less than 90°")
    taken = sum(finish.size for finish in (top, bottom) if finish)
    if taken > rise + SMALLEST:
        raise Failure(
            f"edges of {taken:.6g} mm together do not fit a height of {rise:.6g} mm",
            f"at most {rise:.6g} mm together",
        )
    if height < 0:  # what is the top stays on the side it is pulled to
        top, bottom = bottom, top
    key = digest("layered", region.key, rise, taper, top, bottom, height < 0)

    def make() -> manifold3d.Manifold:
        layers = _layers(region.flat, rise, taper, top, bottom, height < 0)
        return manifold_of(_stacked(layers))

    shape = shape_made(key, make, "this extrusion")
    low = -rise if height < 0 else 0.0
    low = -rise / 2 if both_ways else low
    placed = Solid(shape).placed(region.frame @ moved(np.array([0.0, 0.0, low])))
    assert not isinstance(placed, Copies)
    return placed


Layer = tuple[BaseGeometry, float]


def _layers(
    flat: BaseGeometry,
    rise: float,
    taper: float,
    top: Finish | None,
    bottom: Finish | None,
    downwards: bool,
) -> list[Layer]:
    """The outlines by their heights, from below. A draft is measured from the region's own face."""
    lean = math.tan(taper)

    def leaning(height: float) -> float:
        return lean * (rise - height if downwards else height)

    plan: list[tuple[float, float]] = []
    if bottom is not None:
        plan += [(leaning(bottom.size) + s * bottom.size, d * bottom.size) for s, d in reversed(bottom.steps())]  # fmt: skip
    else:
        plan.append((leaning(0.0), 0.0))
    if top is not None:
        plan += [(leaning(rise - top.size) + s * top.size, rise - d * top.size) for s, d in top.steps()]  # fmt: skip
    else:
        plan.append((leaning(rise), rise))
    plan = [one for at, one in enumerate(plan) if not at or one[1] - plan[at - 1][1] > 1e-9 or abs(one[0] - plan[at - 1][0]) > 1e-9]  # fmt: skip
    _refuse_too_large(flat, plan, lean * rise, top, bottom)
    known: dict[float, BaseGeometry] = {}
    for inset, _ in plan:
        if inset not in known:
            known[inset] = inset_of(flat, inset)
    return [(known[inset], height) for inset, height in plan]


def _refuse_too_large(
    flat: BaseGeometry,
    plan: list[tuple[float, float]],
    drafted: float,
    top: Finish | None,
    bottom: Finish | None,
) -> None:
    """Raises Failure where the farthest inset does not keep every corner of the outline."""
    for limit in (max(inset for inset, _ in plan), min(inset for inset, _ in plan)):
        place = lost_corner(flat, limit)
        if place is None:
            continue
        fits = _largest_inset(flat, limit)
        where = f"near ({place[0]:.6g} mm, {place[1]:.6g} mm)"
        if not (top or bottom):
            raise Failure(
                f"the taper moves the outline by {limit:.6g} mm, and its corner {where} vanishes",
                f"at most {fits:.6g} mm over the height fits",
            )
        finish = top or bottom
        assert finish is not None
        left = max(fits - abs(drafted), 0.0)
        what = "a radius" if finish.form == "round" else "a bevel"
        raise Failure(
            f"{what} of {finish.size:.6g} mm does not fit the outline {where}",
            f"the largest that fits is {left:.6g} mm",
        )


def _largest_inset(flat: BaseGeometry, limit: float) -> float:
    """How far of an inset (or outset, below 0) keeps all corners, by halving."""
    low, high = 0.0, 1.0
    for _ in range(_STEPS_OF_SEARCH):
        middle = (low + high) / 2
        low, high = (middle, high) if lost_corner(flat, middle * limit) is None else (low, middle)
    return low * abs(limit)


def inset_of(flat: BaseGeometry, distance: float) -> BaseGeometry:
    """The figure shrunk by a distance (below 0: grown), its corners kept sharp."""
    if abs(distance) < 1e-12:
        return flat
    made = flat.buffer(-distance, join_style="mitre", mitre_limit=1e3)
    polygons = [shapely.orient_polygons(one) for one in polygons_of(made)]
    return polygons[0] if len(polygons) == 1 else shapely.MultiPolygon(polygons)


def lost_corner(flat: BaseGeometry, distance: float) -> NDArray[np.float64] | None:
    """A corner of a figure that has no counterpart once it is inset by a distance: where sides
    meet from afar, or a narrow place closes. None where all are kept."""
    rings = _rings(flat)
    corners: NDArray[np.float64] = np.concatenate(rings)
    if abs(distance) < 1e-12:
        return None
    made = inset_of(flat, distance)
    if made.is_empty:
        first: NDArray[np.float64] = corners[0]
        return first
    wanted = np.concatenate([_mitred(ring, distance) for ring in rings])
    gaps = shapely.distance(shapely.points(wanted), made.boundary)
    worst = int(np.argmax(gaps))
    slack = max(1e-3 * abs(distance), 2e-3)
    lost: NDArray[np.float64] = corners[worst]
    return lost if gaps[worst] > slack else None


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


def _rings(flat: BaseGeometry) -> list[NDArray[np.float64]]:
    return [
        np.asarray(ring.coords)[:-1]
        for polygon in polygons_of(flat)
        for ring in (polygon.exterior, *polygon.interiors)
    ]


def _stacked(layers: Sequence[Layer]) -> Mesh:
    """The surface through all layers."""
    rings = [_rings(flat) for flat, _ in layers]
    starts = np.cumsum([0, *(sum(map(len, one)) for one in rings)])
    corners = np.concatenate(
        [
            np.column_stack([np.concatenate(one), np.full(sum(map(len, one)), height)])
            for one, (_, height) in zip(rings, layers, strict=True)
        ]
    )
    triangles = [triangulated(rings[0])[:, ::-1]]
    for at in range(len(layers) - 1):
        low, high = layers[at][0], layers[at + 1][0]
        if low is high:
            triangles.append(_walls(rings[at], starts[at], starts[at + 1]))
        else:
            triangles.append(_ring_between(rings[at], rings[at + 1], starts[at], starts[at + 1], low.area < high.area))  # fmt: skip
    triangles.append(triangulated(rings[-1]) + starts[-2])
    return Mesh(corners, np.concatenate(triangles).astype(np.int32))


def _walls(rings: list[NDArray[np.float64]], low: int, high: int) -> NDArray[np.int64]:
    found = []
    at = 0
    for ring in rings:
        index = np.arange(at, at + len(ring))
        onward = np.roll(index, -1)
        found += [
            np.column_stack([low + index, low + onward, high + onward]),
            np.column_stack([low + index, high + onward, high + index]),
        ]
        at += len(ring)
    return np.concatenate(found)


def _ring_between(
    below: list[NDArray[np.float64]],
    above: list[NDArray[np.float64]],
    low: int,
    high: int,
    grows: bool,
) -> NDArray[np.int64]:
    """The triangles between two outlines, the smaller within the larger; they face up where the
    figure shrinks upwards, down where it grows."""
    count, other = (sum(map(len, rings)) for rings in (below, above))
    lower = np.split(np.arange(low, low + count), np.cumsum([len(r) for r in below])[:-1])
    upper = np.split(np.arange(high, high + other), np.cumsum([len(r) for r in above])[:-1])
    if grows:
        rings = [*above, *(ring[::-1] for ring in below)]
        index = np.concatenate([*upper, *(one[::-1] for one in lower)])
    else:
        rings = [*below, *(ring[::-1] for ring in above)]
        index = np.concatenate([*lower, *(one[::-1] for one in upper)])
    triangles = index[triangulated(rings)]
    return triangles[:, ::-1] if grows else triangles
