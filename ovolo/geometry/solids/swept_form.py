"""What sweeps and pipes truly are: an outline carried along a path, square to it.

Volumes follow Pappus and Guldin: the area of the outline times the way of its centre. All that is
said here holds for an outline whose centre is carried along the path itself.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Piece, Straight
from ovolo.geometry.curves.support import reach_of_curves
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import ROUNDING, SAME_PLACE, SAME_SHARE
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(16)
_UP = np.array([0.0, 0.0, 1.0])
_CORNER = 1e-4
_MOST_WAYS = 64


class Swept(Struct, frozen=True, eq=False, dict=True):
    """A region carried along a path that does not overlap itself. `steady` says that the outline
    keeps its sides: it is not twisted, and the path lies level."""

    region: Region
    path: Curve
    steady: bool

    @property
    def exact(self) -> bool:
        return self.region.exact

    @property
    def complete(self) -> bool:
        return self.round or (self.steady and self.middle is not None)

    @cached_property
    def volume(self) -> float:
        return float(self.region.area * self.path.length)

    @cached_property
    def _tensor(self) -> Points:
        """The second moments of the outline (2, 2), about its centre."""
        _, _, _, xx, xy, yy = self.region.moments
        return np.array([[xx, xy], [xy, yy]])

    @cached_property
    def _even(self) -> bool:
        """Whether the second moments are alike in all directions."""
        spread = np.abs(self._tensor - np.trace(self._tensor) / 2 * np.eye(2)).max()
        return bool(spread < SAME_SHARE * np.trace(self._tensor))

    @cached_property
    def round(self) -> bool:
        """Whether the outline is a disc."""
        pieces = [piece for curve in self.region.outlines for piece in curve.pieces]
        return all(
            isinstance(p, Arc) and p.is_circle and np.linalg.norm(p.centre) < SAME_PLACE
            for p in pieces
        )

    @cached_property
    def middle(self) -> Points | None:
        skew = abs(float(self._tensor[0, 1])) > SAME_SHARE * float(np.trace(self._tensor))
        if not self._even and (skew or not self.steady):
            return None
        total = np.zeros(3)
        for run in self.path.runs:
            places, slopes, weights = _nodes(run)
            speeds = np.linalg.norm(slopes, axis=1)
            total += self.region.area * ((weights * speeds) @ places)
            if not isinstance(run, Straight):
                before, after, _ = _ends_seen(run)
                total -= self._moved(before.sum(axis=0), after.sum(axis=0))
        for ahead, onward, _ in _corners(self.path):
            normal = ahead + onward
            for way, sign in ((ahead, 1.0), (onward, -1.0)):
                lean = -(normal - (normal @ way) * way) / float(normal @ way)
                pull = self._spread(way) @ lean
                total += sign * (pull + way * float(lean @ pull) / 2)
        middle: Points = total / self.volume
        return middle

    def _spread(self, way: Points) -> Points:
        """The second moments in space (3, 3), of the outline standing square to a way."""
        if self._even:
            return np.asarray(self._tensor[0, 0] * (np.eye(3) - np.outer(way, way)))
        right = cross_product(way, _UP)
        sides = np.array([right, cross_product(right, way)])
        spread: Points = sides.T @ self._tensor @ sides
        return spread

    def _moved(self, before: Points, after: Points) -> Points:
        """By how much bending from one direction to another moves what is further out: the
        integral of the second moments times the curvature. A level path bends to the right or the
        left only, along the x of the outline."""
        return np.asarray(self._tensor[0, 0] * (after - before))

    def area(self, linear: Points) -> float | None:
        gram = linear.T @ linear
        square = float(np.trace(gram)) / 3
        if np.abs(gram - square * np.eye(3)).max() > SAME_SHARE * square:
            return None
        perimeter = self.region.perimeter
        if not self.round:
            if not self.steady:
                return None
            off = sum(_middle_of_line(curve) * curve.length for curve in self.region.outlines)
            if np.linalg.norm(off) > SAME_SHARE * perimeter**2:
                return None
        ends = 0.0 if self.path.closed else 2 * self.region.area
        return square * (perimeter * self.path.length + ends)

    def reach(self, ways: Points) -> Points | None:
        if len(ways) > _MOST_WAYS or not (self.round or self.steady):
            return None
        found = np.max([self._reach_at(*section, ways) for section in self._sections()], axis=0)
        for run in self.path.runs:
            if not isinstance(run, Straight):
                found = np.maximum(found, [self._reach_along(run, way) for way in ways])
        return np.asarray(found)

    def _sections(self) -> Iterator[tuple[Points, Points, Points]]:
        """Sections at the ends of straight pieces and at corners: the place, by how much it leans
        along the way for each mm across (3,), and the way."""
        pieces = self.path.pieces
        ends = [(pieces[0], 0.0), (pieces[-1], 1.0)]
        ends += [(p, t) for p in pieces if isinstance(p, Straight) for t in (0.0, 1.0)]
        for piece, t in ends:
            yield piece.at(t), np.zeros(3), _unit(piece.slope(t))
        for ahead, onward, place in _corners(self.path):
            normal = ahead + onward
            yield place, -(normal - (normal @ ahead) * ahead) / float(normal @ ahead), ahead

    def _reach_at(self, place: Points, lean: Points, way: Points, ways: Points) -> Points:
        pulled = ways + np.outer(ways @ way, lean)
        units = np.broadcast_to(way, pulled.shape)
        reach: Points = ways @ place + self._reach_across(units, pulled)
        return reach

    @cached_property
    def _radius(self) -> float:
        pieces = [piece for curve in self.region.outlines for piece in curve.pieces]
        return max(piece.radius for piece in pieces if isinstance(piece, Arc))

    def _reach_across(self, units: Points, ways: Points) -> Points:
        """How far the outline, standing square to directions (k, 3), reaches in as many others."""
        if self.round:
            along = dot_product(units, ways)
            square = np.sum(ways**2, axis=1) - along**2
            found: Points = self._radius * np.sqrt(np.maximum(square, 0.0))
            return found
        right = cross_product(units, _UP)
        up = cross_product(right, units)
        seen = [dot_product(side, ways) for side in (right, up)]
        return reach_of_curves(self.region.outlines, np.column_stack([*seen, np.zeros(len(ways))]))

    def _reach_along(self, run: Piece | Cubics, way: Points) -> float:
        """The farthest along bent pieces: looked for at even steps, then ever closer between the
        best of them."""
        count = len(run.poles) if isinstance(run, Cubics) else 1
        parts = 4 if isinstance(run, Cubics) else 64
        steps = np.tile(np.linspace(0.0, 1.0, parts + 1), count)
        which = np.repeat(np.arange(count), parts + 1)
        seen = self._seen(run, which, steps, way)
        slack = float(np.abs(np.diff(seen, 2)).max()) if len(seen) > 2 else 0.0
        chosen = np.flatnonzero(seen >= seen.max() - slack)
        higher = np.maximum(np.roll(seen, 1), np.roll(seen, -1))
        chosen = chosen[seen[chosen] >= higher[chosen] - ROUNDING][:_MOST_TOPS]
        which, middle, width = which[chosen], steps[chosen], 1.0 / parts
        best = float(seen.max())
        fan = np.linspace(-1.0, 1.0, 9)
        for _ in range(14):
            tried = np.clip(middle[:, None] + width * fan, 0.0, 1.0)
            found = self._seen(run, np.repeat(which, 9), tried.reshape(-1), way).reshape(-1, 9)
            middle = tried[np.arange(len(tried)), found.argmax(axis=1)]
            best = max(best, float(found.max()))
            width /= 4
        return best

    def _seen(self, run: Piece | Cubics, which: Any, steps: Points, way: Points) -> Points:
        """How far the outline reaches in a direction at parameters of pieces."""
        if isinstance(run, Cubics):
            places, units = run.at(which, steps)
        else:
            slopes = np.array(run.slope(steps))
            places, units = run.at(steps), slopes / np.linalg.norm(slopes, axis=1, keepdims=True)
        ways = np.broadcast_to(way, units.shape)
        seen: Points = places @ way + self._reach_across(units, ways)
        return seen


_MOST_TOPS = 200


def swept_form(region: Region, path: Curve, twisted: bool, upright: bool) -> Swept | None:
    """The form of a sweep of a region drawn in plan; None where there is no formula for it."""
    area, x, y = region.moments[:3]
    size = math.sqrt(area)
    if math.hypot(x, y) > SAME_SHARE * area * size:
        return None
    level = _is_level(path)
    # Where the way bends at a corner, the outline beyond it must be the one before it, turned.
    if any(True for _ in _corners(path)) and not level and upright and not _is_disc(region):
        return None
    return Swept(region, path, level and not twisted)


def _is_disc(region: Region) -> bool:
    return Swept(region, Curve(()), True).round


def _is_level(path: Curve) -> bool:
    low, high = path.bounds()
    return bool(high[2] - low[2] < SAME_PLACE)


def _nodes(run: Piece | Cubics) -> tuple[Points, Points, Points]:
    parts = max(math.ceil(abs(run.sweep) / 0.5), 1) if isinstance(run, Arc) else 2
    edges = np.linspace(0.0, 1.0, parts + 1)
    steps = (edges[:-1, None] + (1 + _NODES) / 2 / parts).reshape(-1)
    weights = np.tile(_WEIGHTS / 2 / parts, parts)
    if isinstance(run, Cubics):
        places, slopes = (one.reshape(-1, 3) for one in (run.places(steps), run.slopes(steps)))
        return places, slopes, np.tile(weights, len(run.poles))
    return run.at(steps), np.array(run.slope(steps)), weights


def _corners(path: Curve) -> Iterator[tuple[Points, Points, Points]]:
    """The directions before and after each corner of a path, and where it lies."""
    first, last, ends = (np.concatenate(one) for one in zip(*map(_ends_seen, path.runs), strict=True))  # fmt: skip
    if not path.closed:
        first, last, ends = first[1:], last[:-1], ends[:-1]
    else:
        first = np.roll(first, -1, axis=0)
    bends = np.linalg.norm(cross_product(last, first), axis=1) > _CORNER
    yield from zip(last[bends], first[bends], ends[bends], strict=True)


def _ends_seen(run: Piece | Cubics) -> tuple[Points, Points, Points]:
    """The directions at the starts and the ends of pieces, and their ends, (n, 3) each."""
    steps = np.array([0.0, 1.0])
    if isinstance(run, Cubics):
        slopes, ends = run.slopes(steps), run.poles[:, 3]
    else:
        slopes, ends = np.array(run.slope(steps))[None], run.end[None]
    units = slopes / np.linalg.norm(slopes, axis=2, keepdims=True)
    return units[:, 0], units[:, 1], ends


def _middle_of_line(curve: Curve) -> Points:
    """The centre of a line, by its length."""
    total = np.zeros(3)
    for run in curve.runs:
        places, slopes, weights = _nodes(run)
        total += (weights * np.linalg.norm(slopes, axis=1)) @ places
    return total / curve.length


def _unit(vector: Any) -> Points:
    unit: Points = np.asarray(vector) / np.linalg.norm(vector)
    return unit
