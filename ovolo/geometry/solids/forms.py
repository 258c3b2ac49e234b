"""What solids truly are, where mathematics gives it: extrusions, revolutions, sweeps, and what is
put together of them.

A mesh stands for a solid wherever it is drawn, cut or handed over; its form says how large it is.
Volumes, centres, surfaces and bounds of forms are exact but for noise (1e-12), however they are
placed: a placement may also stretch.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import cached_property
from typing import Protocol

import numpy as np
from msgspec import Struct

from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Piece
from ovolo.geometry.curves.support import reach_of_curves
from ovolo.geometry.placement import IDENTITY, Matrix, applied, determinant
from ovolo.geometry.regions.moments import moments
from ovolo.geometry.regions.region import Region, shared_area
from ovolo.geometry.same import LEAST, ROUNDING, SAME_PLACE, SAME_SHARE
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(16)
_TURN = 2 * math.pi


class Form(Protocol):
    """A solid in its own coordinates (mm)."""

    @property
    def exact(self) -> bool:
        """Whether its outlines are the true ones throughout."""

    @property
    def complete(self) -> bool:
        """Whether there are formulas for its centre and its bounds, too."""

    @property
    def volume(self) -> float:
        """mm³."""

    @property
    def middle(self) -> Points | None:
        """The centre of volume, (3,); None where there is no formula for it."""

    def area(self, linear: Points) -> float | None:
        """The surface in mm² after a change (3, 3) of its coordinates; None where there is no
        formula for it."""

    def reach(self, ways: Points) -> Points | None:
        """How far it reaches in directions (k, 3): the greatest product with a place of it, (k,);
        None where there is no formula for it."""


# --- extrusions ---


class Layer(Struct, frozen=True, eq=False):
    """A region, lying in plan, pulled from one height to another."""

    region: Region
    low: float
    high: float

    @property
    def height(self) -> float:
        return self.high - self.low


class Stack(Struct, frozen=True, eq=False, dict=True):
    """Layers upon each other, from below; an extrusion has one."""

    layers: tuple[Layer, ...]
    complete = True

    @cached_property
    def exact(self) -> bool:
        return all(one.region.exact for one in self.layers)

    @cached_property
    def volume(self) -> float:
        return math.fsum(one.region.area * one.height for one in self.layers)

    @cached_property
    def middle(self) -> Points:
        total = np.zeros(3)
        for one in self.layers:
            area, x, y = one.region.moments[:3]
            total += one.height * np.array([x, y, area * (one.low + one.high) / 2])
        middle: Points = total / self.volume
        return middle

    def area(self, linear: Points) -> float | None:
        face = float(np.linalg.norm(cross_product(linear[:, 0], linear[:, 1])))
        gram = linear.T @ linear
        side = float(np.sqrt(gram[0, 0]))
        upright = np.array([gram[0, 1], gram[0, 2], gram[1, 2], gram[0, 0] - gram[1, 1]])
        if np.abs(upright).max() < ROUNDING * gram.max():  # plans grow alike, and stay upright
            around = math.fsum(one.height * one.region.perimeter for one in self.layers)
            return side * float(np.sqrt(gram[2, 2])) * around + face * math.fsum(self._level_areas)
        walls = math.fsum(
            one.height * _area_of_walls(one.region.outlines, linear) for one in self.layers
        )
        return walls + face * math.fsum(self._level_areas)

    @cached_property
    def _level_areas(self) -> list[float]:
        """The areas of its level faces, from below: where a layer meets the next, what only one of
        both covers."""
        first, last = self.layers[0], self.layers[-1]
        found = [first.region.area, last.region.area]
        for below, above in zip(self.layers, self.layers[1:], strict=False):
            both = 0.0
            if abs(below.high - above.low) < SAME_PLACE:
                both = shared_area(below.region, above.region)
            found += [below.region.area - both, above.region.area - both]
        return found

    def reach(self, ways: Points) -> Points:
        found = [
            reach_of_curves(one.region.outlines, ways)
            + np.maximum(ways[:, 2] * one.low, ways[:, 2] * one.high)
            for one in self.layers
        ]
        return np.asarray(np.max(found, axis=0))


def extruded(region: Region, low: float = 0.0, high: float = 1.0) -> Stack:
    """The form of an extrusion."""
    return Stack((Layer(region, low, high),))


def _area_of_walls(outlines: Sequence[Curve], linear: Points) -> float:
    """The surface swept by outlines that go straight up by 1, after a change of coordinates."""
    up = linear[:, 2]
    total = 0.0
    for outline in outlines:
        for run in outline.runs:
            total += _integrated(run, lambda _, slopes: np.linalg.norm(cross_product(slopes @ linear.T, up), axis=1))  # fmt: skip
    return total


def _integrated(run: Piece | Cubics, f: Callable[[Points, Points], Points]) -> float:
    """The integral over the parameter of a function of places and slopes (n, 3): by Gauss-Legendre,
    halved until the last change is below 1e-13 of it."""
    parts, last = (max(math.ceil(abs(run.sweep) / (math.pi / 3)), 1) if isinstance(run, Arc) else 1), math.nan  # fmt: skip
    total = 0.0
    while parts <= 1024:
        edges = np.linspace(0.0, 1.0, parts + 1)
        steps = (edges[:-1, None] + (1 + _NODES) / 2 / parts).reshape(-1)
        if isinstance(run, Cubics):
            count = len(run.poles)
            places, slopes = (one.reshape(-1, 3) for one in (run.places(steps), run.slopes(steps)))
        else:
            count = 1
            places, slopes = run.at(steps), np.array(run.slope(steps))
        weights = np.tile(_WEIGHTS / 2 / parts, parts * count)
        total = float(weights @ f(places, slopes))
        if abs(total - last) <= 1e-13 * max(abs(total), LEAST) or not total:
            break
        parts, last = 2 * parts, total
    return total


# --- revolutions ---


class Revolution(Struct, frozen=True, eq=False, dict=True):
    """Outlines in the plane of x (the distance from the axis) and z, the solid to their left,
    turned by `angle` (radians) about z."""

    draw: Callable[[], tuple[Curve, ...]]
    angle: float
    region: Region | None = None
    """The region whose outlines they are, if there is one."""

    complete = True

    @property
    def exact(self) -> bool:
        return self.region is None or self.region.exact

    @cached_property
    def outlines(self) -> tuple[Curve, ...]:
        return self.draw()

    @cached_property
    def _moments(self) -> Points:
        level = np.eye(4)[[0, 2, 1, 3]]  # x and z as x and y
        total: Points = np.sum([moments(one.placed(level)) for one in self.outlines], axis=0)
        return total

    @cached_property
    def volume(self) -> float:
        """Pappus: the area times the way of its centre."""
        return float(abs(self.angle * self._moments[1]))

    @cached_property
    def middle(self) -> Points:
        _, x, _, xx, xz, _ = self._moments
        sine, cosine = math.sin(self.angle), math.cos(self.angle)
        out = xx / x / self.angle
        return np.array([out * sine, out * (1 - cosine), xz / x])

    @property
    def whole(self) -> bool:
        return abs(abs(self.angle) - _TURN) < SAME_SHARE

    def area(self, linear: Points) -> float | None:
        total = math.fsum(
            self._area_turned(run, linear) for one in self.outlines for run in one.runs
        )
        if self.whole:
            return total
        region = abs(float(self._moments[0]))
        for angle in (0.0, self.angle):
            way = np.array([math.cos(angle), math.sin(angle), 0.0])
            total += region * float(np.linalg.norm(cross_product(linear @ way, linear[:, 2])))
        return total

    def _area_turned(self, run: Piece | Cubics, linear: Points) -> float:
        gram = linear.T @ linear
        even = abs(gram[0, 0] - gram[1, 1]) < ROUNDING * gram[0, 0] and np.abs(gram[[0, 0, 1], [1, 2, 2]]).max() < ROUNDING * gram.max()  # fmt: skip
        if even:
            a, b = gram[0, 0], gram[2, 2]
            return abs(self.angle) * _integrated(
                run,
                lambda p, s: (
                    math.sqrt(a) * np.abs(p[:, 0]) * np.sqrt(a * s[:, 0] ** 2 + b * s[:, 2] ** 2)
                ),
            )
        parts = max(math.ceil(abs(self.angle) / (math.pi / 8)), 1)
        edges = np.linspace(0.0, self.angle, parts + 1)
        angles = (edges[:-1, None] + np.diff(edges)[:, None] * (1 + _NODES) / 2).reshape(-1)
        weights = np.tile(_WEIGHTS / 2 * abs(self.angle) / parts, parts)
        c, s = np.cos(angles), np.sin(angles)

        def around(places: Points, slopes: Points) -> Points:
            zero = np.zeros_like(c)
            along = np.stack([np.outer(slopes[:, 0], c), np.outer(slopes[:, 0], s), np.outer(slopes[:, 2], zero + 1)], axis=2)  # fmt: skip
            across = np.stack([np.outer(places[:, 0], -s), np.outer(places[:, 0], c), np.outer(places[:, 0], zero)], axis=2)  # fmt: skip
            found: Points = np.linalg.norm(cross_product(along @ linear.T, across @ linear.T), axis=2) @ weights  # fmt: skip
            return found

        return _integrated(run, around)

    def reach(self, ways: Points) -> Points:
        outwards = np.hypot(ways[:, 0], ways[:, 1])
        if not self.whole:
            ahead = np.arctan2(ways[:, 1], ways[:, 0])
            turned = (ahead * math.copysign(1.0, self.angle)) % _TURN
            ends = [ways[:, 0] * math.cos(a) + ways[:, 1] * math.sin(a) for a in (0.0, self.angle)]
            outwards = np.where(turned <= abs(self.angle), outwards, np.max(ends, axis=0))
        seen = np.column_stack([outwards, np.zeros(len(ways)), ways[:, 2]])
        return reach_of_curves(self.outlines, seen)


# --- moved out of shape ---


class VolumeAlone(Struct, frozen=True, eq=False):
    """A solid of which no more is known by a formula than its volume (mm³)."""

    volume: float
    exact = True
    complete = False
    middle = None

    def area(self, linear: Points) -> float | None:
        return None

    def reach(self, ways: Points) -> Points | None:
        return None


# --- put together ---


class Together(Struct, frozen=True, eq=False, dict=True):
    """Solids apart from each other; those with a sign of -1 are hollows within another."""

    parts: tuple[tuple[float, Form, Matrix], ...]

    @property
    def complete(self) -> bool:
        return all(form.complete for _, form, _ in self.parts)

    @property
    def exact(self) -> bool:
        return all(form.exact for _, form, _ in self.parts)

    @cached_property
    def _volumes(self) -> list[float]:
        return [sign * form.volume * abs(float(determinant(at))) for sign, form, at in self.parts]

    @property
    def volume(self) -> float:
        return math.fsum(self._volumes)

    @cached_property
    def middle(self) -> Points | None:
        middles = [(form.middle, at) for _, form, at in self.parts]
        places = [applied(at, one[None])[0] for one, at in middles if one is not None]
        if len(places) < len(middles):
            return None
        middle: Points = np.array(self._volumes) @ np.array(places) / self.volume
        return middle

    def area(self, linear: Points) -> float | None:
        areas = [form.area(linear @ at[:3, :3]) for _, form, at in self.parts]
        known = [one for one in areas if one is not None]
        return math.fsum(known) if len(known) == len(areas) else None

    def reach(self, ways: Points) -> Points | None:
        found = []
        for sign, form, at in self.parts:
            reach = form.reach(ways @ at[:3, :3]) if sign > 0 else None
            if reach is not None:
                found.append(reach + ways @ at[:3, 3])
            elif sign > 0:
                return None
        return np.asarray(np.max(found, axis=0))


def together(parts: Sequence[tuple[float, Form | None, Matrix]]) -> Form | None:
    """The form of solids apart from each other; None where that of any is not known."""
    found: list[tuple[float, Form, Matrix]] = []
    for sign, form, at in parts:
        if form is None:
            return None
        if isinstance(form, Together):
            found += [(sign * own, one, at @ inner) for own, one, inner in form.parts]
        else:
            found.append((sign, form, at))
    if len(found) == 1 and np.array_equal(found[0][2], IDENTITY):
        return found[0][1]
    return Together(tuple(found))
