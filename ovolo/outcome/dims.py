"""Dims: what they state, what the drawing measures, and how they are drawn.

The lines are those of the stage and of drawing files alike: extension lines, oblique ticks, a
dimension line or an arc (as in ISO 129-1).
"""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.geometry.same import SAME_PLACE, SAME_SHARE
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.quantities.dimension import ANGLE, LENGTH, Dimension
from ovolo.quantities.show import DisplayUnits, Shown, show_quantity
from ovolo.running.evaluate import LineOutcome
from ovolo.sheet import tree

TOLERANCE = 0.01
"""By how many mm a dim may differ from what is drawn."""

_OF_THE_SMALL = 1e-3
"""The share of itself by which it may, where that is less."""

ANGLE_TOLERANCE = 1e-5
"""By how many radians an angle may: 0.01 mm at a metre."""

_TICK = 0.012
"""Half a tick, in shares of what is measured."""


class Dim(Struct, frozen=True, dict=True):
    """A dimension in space. `form` is length, radius, diameter, angle or level; `start` and `end`
    are the points of the line (tree.Dim), `apex` that of an angle; a level runs from the point
    of its datum to the place where it stands."""

    line: int
    said: str
    value: float
    form: str
    start: tuple[float, ...]
    end: tuple[float, ...]
    apex: tuple[float, ...] | None
    offset: float
    name: str = ""
    """The line it states, where its quantity is the name of one."""

    @property
    def dimension(self) -> Dimension:
        return ANGLE if self.form == "angle" else LENGTH

    @property
    def measured(self) -> float:
        """What the drawing measures, in mm or radians."""
        a, b = np.array(self.start), np.array(self.end)
        if self.form == "level":
            return float(b[2] - a[2])
        if self.form != "angle":
            gap = math.dist(a, b)
            return 2 * gap if self.form == "diameter" else gap
        p, q = a - np.array(self.apex), b - np.array(self.apex)
        return math.atan2(float(np.linalg.norm(cross_product(p, q))), float(p @ q))

    @property
    def wrong(self) -> bool:
        """Whether the drawing measures something else."""
        return abs(self.value - self.measured) > self._slack

    @property
    def _slack(self) -> float:
        if self.form == "angle":
            return ANGLE_TOLERANCE
        size = max(abs(self.value), abs(self.measured))
        return max(min(TOLERANCE, _OF_THE_SMALL * size), SAME_PLACE)

    def shown(self, units: DisplayUnits) -> Shown:
        """The value as it is written at the dim, with the sign of its form."""
        plain = show_quantity(self.value, self.dimension, units)
        sign = {"radius": "R ", "diameter": "⌀ "}.get(self.form, "")
        if self.form == "level" and self.value >= 0:
            sign = "+" if self.value > 0 else "±"
        return Shown(sign + plain.number, plain.unit)

    @cached_property
    def segments(self) -> Points:
        """The lines to draw, (n, 2, 3)."""
        return np.array(_LINES[self.form](self))

    @cached_property
    def place(self) -> Points:
        """Where its text stands, (3,)."""
        place: Points = _PLACES[self.form](self)
        return place

    @property
    def ends(self) -> tuple[Points, Points]:
        """The ends of the dimension line of a length, set off to the right of its way."""
        a, b = np.array(self.start), np.array(self.end)
        shift = self.offset * _across(b - a)
        return a + shift, b + shift


def _across(along: Points) -> Points:
    """The side to which a dim is set off: to the right of its way in plan; of one that is upright,
    or of no length, along x."""
    level = np.array([along[1], -along[0], 0.0])
    size = float(np.linalg.norm(level))
    return np.array([1.0, 0.0, 0.0]) if size <= SAME_SHARE * np.linalg.norm(along) else level / size


def _tick(at: Points, along: Points, size: float) -> tuple[Points, Points]:
    """An oblique stroke through the end of a dimension line."""
    way = (along / (np.linalg.norm(along) or 1.0) + _across(along)) * size
    return at - way, at + way


def _length(dim: Dim) -> list[tuple[Points, Points]]:
    a, b = dim.ends
    size = _TICK * dim.measured
    lines = [(a, b), _tick(a, b - a, size), _tick(b, b - a, size)]
    if dim.offset:
        lines += [(np.array(dim.start), a), (np.array(dim.end), b)]
    return lines


def _radius(dim: Dim) -> list[tuple[Points, Points]]:
    a, b = np.array(dim.start), np.array(dim.end)
    return [(a, b), _tick(b, b - a, 2 * _TICK * dim.measured)]


def _diameter(dim: Dim) -> list[tuple[Points, Points]]:
    middle, b = np.array(dim.start), np.array(dim.end)
    a = 2 * middle - b
    size = _TICK * dim.measured
    return [(a, b), _tick(a, b - a, size), _tick(b, b - a, size)]


def _arc(dim: Dim) -> Points:
    """Points (n, 3) of the arc of an angle."""
    apex = np.array(dim.apex)
    p, q = np.array(dim.start) - apex, np.array(dim.end) - apex
    radius = dim.offset or 0.7 * min(float(np.linalg.norm(p)), float(np.linalg.norm(q)))
    u = p / (np.linalg.norm(p) or 1.0)
    across = q - (q @ u) * u
    size = float(np.linalg.norm(across))
    v = _across(u) if size <= SAME_SHARE * np.linalg.norm(q) else across / size
    turns = np.linspace(0.0, dim.measured, max(int(dim.measured / 0.1), 2) + 1)[:, None]
    points: Points = apex + radius * (np.cos(turns) * u + np.sin(turns) * v)
    return points


def _angle(dim: Dim) -> list[tuple[Points, Points]]:
    arc = _arc(dim)
    size = float(np.linalg.norm(arc[1] - arc[0])) / 2
    lines = [(arc[k], arc[k + 1]) for k in range(len(arc) - 1)]
    lines += [_tick(arc[0], arc[1] - arc[0], size), _tick(arc[-1], arc[-1] - arc[-2], size)]
    apex = np.array(dim.apex)
    for end, on_arc in ((np.array(dim.start), arc[0]), (np.array(dim.end), arc[-1])):
        if np.linalg.norm(on_arc - apex) > np.linalg.norm(end - apex):
            lines.append((end, on_arc))
    return lines


_LEVEL_MARK = 40.0
"""The height in mm of the sign of a level on the stage."""


def _level(dim: Dim) -> list[tuple[Points, Points]]:
    """An open triangle standing on the level, with a line to its right (as in ISO 129-1)."""
    at, size = np.array(dim.end), dim.offset or _LEVEL_MARK
    right, up = np.array([size, 0.0, 0.0]), np.array([0.0, 0.0, size])
    left, other = at - right * 0.6 + up, at + right * 0.6 + up
    return [
        (at, left),
        (left, other),
        (other, at),
        (other, other + 3 * right),
        (at - right, at + right),
    ]


_LINES = {
    "length": _length, "radius": _radius, "diameter": _diameter, "angle": _angle, "level": _level,
}  # fmt: skip
_PLACES: dict[str, Any] = {
    "length": lambda dim: sum(dim.ends) / 2,
    "radius": lambda dim: (2 * np.array(dim.end) + np.array(dim.start)) / 3,
    "diameter": lambda dim: (2 * np.array(dim.end) + np.array(dim.start)) / 3,
    "angle": lambda dim: _arc(dim)[len(_arc(dim)) // 2],
    "level": lambda dim: _level(dim)[3][1],
}


def dim_of(line: LineOutcome) -> Dim:
    """The dim of a line that has its values."""
    content = line.line.content
    assert isinstance(content, tree.Dim) and line.result is not None
    terms = line.result.terms

    def point(role: str) -> tuple[float, ...]:
        if role not in terms:  # the datum of a level, which is zero
            return (*map(float, terms["end"][:2]), 0.0)
        return tuple(map(float, terms[role]))

    return Dim(
        line.line.statement.line,
        line.line.statement.in_one_line(content.quantity.span),
        float(line.value),
        content.form,
        point("start"),
        point("end"),
        point("apex") if "apex" in terms else None,
        float(terms.get("offset", 0.0)),
        content.quantity.name if isinstance(content.quantity, tree.Name) else "",
    )
