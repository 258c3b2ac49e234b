"""Arcs of one circle in several regions: divided alike, so that they coincide as their sides do."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Piece
from ovolo.geometry.same import SAME_PLACE, gathered
from ovolo.geometry.tolerance import segments_for
from ovolo.geometry.types import Points

Circles = NDArray[np.float64]
_TURN = 2 * math.pi


class SharedCircles(Struct, frozen=True, eq=False):
    """Circles (k, 3) that more than one region has arcs of, by centre and radius."""

    circles: Circles

    def has_any(self, circles: Circles) -> bool:
        """Whether any of these is one of them."""
        return any(self.number(row) is not None for row in circles)

    def number(self, circle: NDArray[np.float64]) -> int | None:
        """Which of them a circle is."""
        near = np.abs(self.circles - circle).max(axis=1) < 4 * SAME_PLACE
        return int(np.argmax(near)) if np.any(near) else None

    def sides(self, curves: Sequence[Curve]) -> Callable[[Piece], tuple[Points, Points]]:
        """The rule that divides pieces: an arc of a shared circle where any arc of it begins or
        ends, and at even steps of the whole turn."""
        tolerance = min(curve.tolerance for curve in curves)
        cuts: dict[int, list[float]] = {}
        for curve in curves:
            for piece in curve.pieces:
                number = self._of(piece)
                if number is not None:
                    cuts.setdefault(number, []).extend(_angle(piece, end) for end in (piece.start, piece.end))  # fmt: skip
        marks = {n: self._marks(n, np.array(angles), tolerance) for n, angles in cuts.items()}

        def sides(piece: Piece) -> tuple[Points, Points]:
            number = self._of(piece)
            if number is None or not isinstance(piece, Arc):
                return piece.sides(tolerance)
            return _divided(piece, marks[number])

        return sides

    def _of(self, piece: Piece) -> int | None:
        if not isinstance(piece, Arc) or not piece.is_circle:
            return None
        return self.number(np.array([*piece.centre[:2], piece.radius]))

    def _marks(self, number: int, angles: Points, tolerance: float) -> Points:
        """The angles from 0 to a turn at which sides touch a circle."""
        radius = float(self.circles[number, 2])
        count = segments_for(radius, tolerance)
        found = np.sort(np.concatenate([np.arange(count) * _TURN / count, angles % _TURN]))
        gaps = np.diff(found, append=found[0] + _TURN) * radius
        kept: Points = found[gaps > 4 * SAME_PLACE]
        return kept


def shared_sides(circles: Sequence[Circles]) -> SharedCircles | None:
    """The circles that are in more than one of some lists; None where there are none."""
    every = np.concatenate(circles)
    if not len(every):
        return None
    owner = np.repeat(np.arange(len(circles)), [len(one) for one in circles])
    for column in range(3):
        made = gathered(every[:, column])
        if made is not None:
            every[:, column] = made
    unique, which = np.unique(every, axis=0, return_inverse=True)
    pairs = np.unique(np.column_stack([which.reshape(-1), owner]), axis=0)
    counts = np.bincount(pairs[:, 0], minlength=len(unique))
    return SharedCircles(unique[counts > 1]) if np.any(counts > 1) else None


def _angle(piece: Piece, place: Points) -> float:
    assert isinstance(piece, Arc)
    out = place - piece.centre
    return math.atan2(float(out[1]), float(out[0]))


def _divided(arc: Arc, marks: Points) -> tuple[Points, Points]:
    """The sides of an arc that touch it at its ends and at those of the marks that lie on it."""
    way = math.copysign(1.0, arc.sweep * float(arc.normal[2]))
    ahead = np.sort(((marks - _angle(arc, arc.start)) * way) % _TURN)
    slack = 4 * SAME_PLACE / arc.radius
    ahead = ahead[(ahead > slack) & (ahead < abs(arc.sweep) - slack)]
    touched = np.concatenate([[0.0], ahead, [abs(arc.sweep)]])
    middles, halves = (touched[:-1] + touched[1:]) / 2, np.diff(touched) / 2
    steps = np.concatenate([[0.0], middles / abs(arc.sweep), [1.0]])
    sizes = np.concatenate([[1.0], 1 / np.cos(halves), [1.0]])
    places = arc.centre + sizes[:, None] * (arc.at(steps) - arc.centre)
    return steps, places
