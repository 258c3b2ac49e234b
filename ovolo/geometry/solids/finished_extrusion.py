"""Extrusions with a draft angle and with rounded or bevelled edges.

A solid is built of level layers: its outline, inset or outset, at a height each (`edge_profile.py` says how far, `insets.py`
how it is done, `stacked_outlines.py` puts the surface through them).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from functools import cache, cached_property
from typing import Any

import manifold3d
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ovolo.geometry.curves.pieces import Arc, Straight
from ovolo.geometry.curves.support import reach_of_curves
from ovolo.geometry.digest import digest
from ovolo.geometry.placement import moved
from ovolo.geometry.regions.insets import inset_of, lost_corner, missing_corners, size_of
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import ROUNDING, SAME_SHARE, SMALLEST
from ovolo.geometry.solids.edge_profile import EdgeProfile, Finish
from ovolo.geometry.solids.primitives import extrusion, lying_flat
from ovolo.geometry.solids.solid import Solid, manifold_of, missed_by_outlines, nothing, shape_made
from ovolo.geometry.solids.stacked_outlines import Layer, stacked
from ovolo.geometry.tolerance import tolerance_for
from ovolo.geometry.vectors import plane_product
from ovolo.problems import Failure

_STEPS_OF_SEARCH = 40


class Finished(Struct, frozen=True, eq=False, dict=True):
    """The form of an extrusion whose outline is inset by height. An outline of area A and length
    P, its corners kept sharp, has the area A - P d + K d² / 2 at an inset d, with K the sum of the
    turns of its arcs and of 2 tan(turn / 2) of its corners (elementary geometry)."""

    region: Region
    edges: EdgeProfile
    turns: float

    complete = False

    @property
    def exact(self) -> bool:
        return self.region.exact

    def _area_at(self, inset: Any) -> Any:
        return self.region.area - self.region.perimeter * inset + self.turns * inset**2 / 2

    @cached_property
    def volume(self) -> float:
        inset, _, rises, _ = self.edges.nodes()
        return float(rises @ self._area_at(inset))

    @property
    def middle(self) -> None:
        return None

    def area(self, linear: NDArray[np.float64]) -> float | None:
        gram = linear.T @ linear
        square = float(np.trace(gram)) / 3
        if np.abs(gram - square * np.eye(3)).max() > SAME_SHARE * square:
            return None
        inset, _, _, lengths = self.edges.nodes()
        walls = float(lengths @ (self.region.perimeter - self.turns * inset))
        plan = self.edges.plan()
        faces = float(self._area_at(plan[0][0]) + self._area_at(plan[-1][0]))
        return square * (walls + faces)

    def reach(self, ways: NDArray[np.float64]) -> NDArray[np.float64] | None:
        plan = np.array(self.edges.plan())
        upright = np.hypot(ways[:, 0], ways[:, 1]) < ROUNDING
        level = np.abs(ways[:, 2]) < ROUNDING
        if np.any(~upright & ~level) or plan[:, 0].min() < -ROUNDING:
            return None
        if plan[:, 0].min() > ROUNDING:
            return None
        flat = reach_of_curves(self.region.outlines, ways * [1.0, 1.0, 0.0])
        return flat + np.maximum(ways[:, 2], 0.0) * self.edges.rise


def _turns_of(region: Region) -> float | None:
    """The sum of the turns of a region's arcs and 2 tan(turn / 2) of its corners; None where one
    of them is not between straight lines, or a piece is neither line nor arc."""
    total = 0.0
    for curve in region.outlines:
        pieces = curve.pieces
        for piece, onward in zip(pieces, [*pieces[1:], pieces[0]], strict=True):
            if isinstance(piece, Arc) and piece.is_circle:
                total += piece.sweep * math.copysign(1.0, float(piece.normal[2]))
            elif not isinstance(piece, Straight):
                return None
            a, b = piece.slope(1.0), onward.slope(0.0)
            turn = math.atan2(float(plane_product(a, b)), float(a @ b))
            if abs(turn) > 1e-7:
                if not (isinstance(piece, Straight) and isinstance(onward, Straight)):
                    return None
                total += 2 * math.tan(turn / 2)
    return total


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
    if region.is_empty or rise <= SMALLEST:
        return nothing(region.why_empty or "height is 0 mm")
    if abs(taper) >= math.pi / 2 - 1e-6:
        raise Failure(f"a taper of {math.degrees(taper):.6g}° is flat", "less than 90°")
    top, bottom = (None if one is None or one.is_none else one for one in (top, bottom))
    edges = EdgeProfile(rise, taper, 0.0, top, bottom)
    if height < 0:  # what is the top stays on the side it is pulled to
        edges = EdgeProfile(rise, -taper, rise * math.tan(taper), bottom, top)
    if edges.depths() > rise + SMALLEST:
        raise Failure(
            f"edges of {edges.depths():.6g} mm together do not fit a height of {rise:.6g} mm",
            f"at most {rise:.6g} mm together",
        )
    foot = lying_flat(region)
    low = -rise / 2 if both_ways else min(height, 0.0)
    if not taper and top is None and bottom is None:
        straight = extrusion(region.placed(region.frame @ moved(np.array([0.0, 0.0, low])) @ np.linalg.inv(region.frame)), rise)  # fmt: skip
        assert isinstance(straight, Solid)
        return straight
    key = digest("finished", region.key, edges)

    def make() -> manifold3d.Manifold:
        return manifold_of(stacked(_layers(region.flat, edges)))

    def form() -> Finished | None:
        turns = _turns_of(foot) if foot.exact else None
        return None if turns is None else Finished(foot, edges, turns)

    before = missed_by_outlines(foot)
    shape = shape_made(key, make, "this extrusion", form, before=before)
    placed = Solid(shape).placed(region.frame @ moved(np.array([0.0, 0.0, low])))
    assert isinstance(placed, Solid)
    return placed


def _layers(flat: BaseGeometry, edges: EdgeProfile) -> list[Layer]:
    """The outlines by their heights, from below. A draft is measured from the region's own face."""
    plan = edges.plan()
    made = cache(lambda inset: inset_of(flat, inset))
    if any(missing_corners(flat, inset, made(inset)) is not None for inset in _ends(plan)):
        _refuse_too_large(flat, edges)
        plan = _parted(plan, flat)
    return [(made(inset), height) for inset, height in plan]


def _ends(plan: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The largest inset and the least."""
    insets = [inset for inset, _ in plan]
    return max(insets), min(insets)


def _parted(plan: list[tuple[float, float]], flat: BaseGeometry) -> list[tuple[float, float]]:
    """The plan in steps so small that a corner at which a curve begins, and which moves along a bent way, is never
    further from its chord than the tolerance."""
    size = size_of(flat)
    step = math.sqrt(4 * tolerance_for(size) * size)
    found = plan[:1]
    for (inset, height), (upper, top) in itertools.pairwise(plan):
        shares = np.linspace(0.0, 1.0, math.ceil(abs(upper - inset) / step) + 1)[1:-1].tolist()
        found += [(inset + one * (upper - inset), height + one * (top - height)) for one in shares]
        found.append((upper, top))
    return found


def _lost(flat: BaseGeometry, edges: EdgeProfile) -> tuple[float, NDArray[np.float64]] | None:
    """An inset at which a corner of the outline is lost, and the corner."""
    for limit in _ends(edges.plan()):
        place = lost_corner(flat, limit)
        if place is not None:
            return limit, place
    return None


def _refuse_too_large(flat: BaseGeometry, edges: EdgeProfile) -> None:
    """Raises Failure where the farthest inset does not keep every corner of the outline."""
    lost = _lost(flat, edges)
    if lost is None:
        return
    limit, place = lost
    where = f"near ({place[0]:.6g} mm, {place[1]:.6g} mm)"
    finish = edges.top or edges.bottom
    if finish is None or _lost(flat, edges.scaled(0.0)) is not None:
        raise Failure(
            f"the taper moves the outline by {limit:.6g} mm, and its corner {where} vanishes",
            f"at most {_largest_inset(flat, limit):.6g} mm over the height fits",
        )
    low, high = 0.0, 1.0
    for _ in range(_STEPS_OF_SEARCH):
        middle = (low + high) / 2
        low, high = (middle, high) if _lost(flat, edges.scaled(middle)) is None else (low, middle)
    what = "a radius" if finish.form == "round" else "a bevel"
    raise Failure(
        f"{what} of {finish.size:.6g} mm does not fit the outline {where}",
        f"the largest that fits is {low * finish.size:.6g} mm",
    )


def _largest_inset(flat: BaseGeometry, limit: float) -> float:
    """How far of an inset (or outset, below 0) keeps all corners, by halving."""
    low, high = 0.0, 1.0
    for _ in range(_STEPS_OF_SEARCH):
        middle = (low + high) / 2
        low, high = (middle, high) if lost_corner(flat, middle * limit) is None else (low, middle)
    return low * abs(limit)
