"""How finely round things are divided.

The rule for circles: chords lie outside the circle and touch it in their middles. So a hole keeps
clear all round, a shaft is nowhere thinner than it is said to be, and two circles about one axis
keep the gap that they have. A chord misses its circle by r (1 / cos(π/n) - 1) at its corners, and
the figure is larger by the share (π/n)² / 3.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Literal

from ovolo.geometry.same import SAME_SHARE

CHORD_TOLERANCE = 0.05
"""Default distance in mm by which a chord may miss its arc."""

_FEWEST, _FEWEST_COARSE = 60, 24
"""So many chords has a circle at least, however small: 60 make it larger by 0.09 %. Where a study
asks for a coarser tolerance than the usual one, 24 do."""

MOST = 720

CHORD_SHARE = 1e-3
"""By what share of a figure chords may make it larger or smaller, with the usual tolerance."""

Chords = Literal["outside", "even", "unknown"]
"""How faces lie to what is round: outside of it, touching it in their middles; with corners that stand out by as much as
the middles lie within; or it is not known, and their corners may lie on it."""

_of_the_run: ContextVar[float] = ContextVar("chord tolerance", default=CHORD_TOLERANCE)


def chord_tolerance() -> float:
    """The distance in mm by which a chord may miss its arc in the run at hand; outside of any run
    the usual one. Values that are divided later keep that of the run they were made in."""
    return _of_the_run.get()


@contextmanager
def divided_to(tolerance: float) -> Iterator[None]:
    """A run in which round things are divided to a tolerance; nothing of it is left afterwards."""
    token = _of_the_run.set(tolerance)
    try:
        yield
    finally:
        _of_the_run.reset(token)


def fewest_chords(tolerance: float | None = None) -> int:
    """How many chords a whole turn has at least."""
    tolerance = chord_tolerance() if tolerance is None else tolerance
    return _FEWEST if tolerance <= CHORD_TOLERANCE else _FEWEST_COARSE


def most_turn(tolerance: float | None = None) -> float:
    """By how much (radians) a curve may turn within a chord, a spline on average: by two chords of a small circle,
    and by less than would be an edge."""
    return min(4 * math.pi / fewest_chords(tolerance), _NO_EDGE)


_NO_EDGE = math.radians(18)


def tolerance_for(size: float, tolerance: float | None = None, share: float = 3e-4) -> float:
    """By how much chords may miss something bent of a size (mm): by no more than the tolerance, and
    with the usual one by no more than a small share of the size."""
    tolerance = chord_tolerance() if tolerance is None else tolerance
    return min(tolerance, share * size) if tolerance <= CHORD_TOLERANCE and size > 0 else tolerance


def missed_by_chords(size: float, tolerance: float | None = None) -> float:
    """By how much (mm) chords may miss what is round in something of a size: by the tolerance, or by what those of a
    circle do that is as wide and has as few as may be, and half as much again."""
    tolerance = chord_tolerance() if tolerance is None else tolerance
    return min(tolerance, _missed_by(fewest_chords(tolerance), size))


def missed_by_faces(size: float, tolerance: float) -> float:
    """By how much (mm) faces may miss a surface that bends along its way and across it, as that of a bar that is bent."""
    return min(2 * tolerance, 2 * _missed_by(_FEWEST_COARSE, size))


def _missed_by(chords: int, size: float) -> float:
    return 0.75 * size * outside_of_one(chords)


def outside_of_one(chords: int) -> float:
    """By how much the corners of so many chords stand out of a circle of radius 1."""
    return 1 / math.cos(math.pi / chords) - 1


def sides_of_bar(radius: float) -> int:
    """How many sides a round bar has that is carried along a curve: as the tolerance asks for, 24
    at least, for its section is as large as the disc whatever their number."""
    whole = segments_for(radius)
    return whole if whole > fewest_chords() else _FEWEST_COARSE


def segments_for(radius: float, tolerance: float | None = None, most: int = MOST) -> int:
    """How many chords a full circle of this radius (mm) gets: a multiple of four, so that it
    touches its bounds in x and y.

    >>> segments_for(100.0, 0.05) % 4, segments_for(100.0, 0.05) < segments_for(1000.0, 0.05)
    (0, True)
    """
    tolerance = chord_tolerance() if tolerance is None else tolerance
    fewest = fewest_chords(tolerance)
    if radius <= tolerance:
        return fewest
    exact = math.pi / math.acos(radius / (radius + tolerance))
    return min(max(4 * math.ceil(exact / 4 - SAME_SHARE), fewest), most)


def chords_together(every: Iterable[Chords]) -> Chords:
    """How faces of several kinds lie: as the one that tells least."""
    kinds = set(every)
    return "unknown" if "unknown" in kinds else "even" if "even" in kinds else "outside"
