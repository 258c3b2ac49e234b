"""How finely round things are divided: by the tolerance of the study at hand."""

from __future__ import annotations

import math
from contextvars import ContextVar

CHORD_TOLERANCE = 0.05
"""Default distance in mm by which a chord may miss its arc."""

LEAST_TOLERANCE, MOST_TOLERANCE = 0.001, 50.0

_FEWEST = 24
MOST = 720

_at_hand: ContextVar[float] = ContextVar("chord tolerance", default=CHORD_TOLERANCE)


def chord_tolerance() -> float:
    """The distance in mm by which a chord may miss its arc in the study at hand."""
    return _at_hand.get()


def set_chord_tolerance(tolerance: float) -> None:
    """Makes it that of a study, for all that is worked out and drawn from now on."""
    _at_hand.set(tolerance)


def segments_for(radius: float, tolerance: float | None = None, most: int = MOST) -> int:
    """How many chords a full circle of this radius (mm) gets: a multiple of four, so that
    its extreme points in x and y are exact. A chord's sagitta is r (1 - cos(π/n))."""
    tolerance = chord_tolerance() if tolerance is None else tolerance
    if radius <= tolerance:
        return _FEWEST
    exact = math.pi / math.acos(1 - tolerance / radius)
    return min(max(4 * math.ceil(exact / 4), _FEWEST), most)
