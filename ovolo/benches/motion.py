"""How long a machine takes for its moves: the trapezoid rule.

A move begins and ends at rest; it speeds up evenly, goes on at its speed, and slows down evenly. Over
L at speed v and acceleration a it takes L/v + v/a, and where it is too short to reach its speed
(L < v²/a) it takes 2 √(L/a) (uniformly accelerated motion; any textbook of mechanics). Moves that go on
in the same direction, but for a turn of at most `SMOOTH`, are one.
"""

from __future__ import annotations

import math

import numpy as np

from ovolo.geometry.types import Floats, Points

SMOOTH = math.radians(15)
"""A machine goes round a corner that turns by no more without slowing down."""


def times(lengths: Floats, speed: float, acceleration: float) -> Floats:
    """Seconds for moves of some lengths (n,) in mm, each from rest to rest, at mm/s and mm/s².

    >>> times(np.array([100.0, 1.0]), 50.0, 500.0).round(4).tolist()
    [2.1, 0.0894]
    """
    reached = lengths >= speed**2 / acceleration
    long = lengths / speed + speed / acceleration
    short = 2 * np.sqrt(lengths / acceleration)
    return np.asarray(np.where(reached, long, short))


def runs(points: Points) -> Floats:
    """The lengths (k,) in mm between the places of a polyline (n, 2) where a machine stops: its ends, and
    its corners that are no smooth turns."""
    steps = np.diff(points, axis=0)
    lengths = np.hypot(steps[:, 0], steps[:, 1])
    steps, lengths = steps[lengths > 0], lengths[lengths > 0]
    if len(lengths) < 2:
        return lengths
    cosine = np.einsum("ij,ij->i", steps[:-1], steps[1:]) / (lengths[:-1] * lengths[1:])
    stops = np.flatnonzero(cosine < math.cos(SMOOTH)) + 1
    return np.asarray(np.add.reduceat(lengths, np.concatenate([[0], stops])))
