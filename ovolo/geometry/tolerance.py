"""How finely round things are divided."""

from __future__ import annotations

import math

CHORD_TOLERANCE = 0.05
"""Default distance in mm by which a chord may miss its arc."""

_FEWEST = 24
MOST = 720


def segments_for(radius: float, tolerance: float = CHORD_TOLERANCE, most: int = MOST) -> int:
    """How many chords a full circle of this radius (mm) gets: a multiple of four, so that
    its extreme points in x and y are exact. A chord's sagitta is r (1 - cos(π/n))."""
    if radius <= tolerance:
        return _FEWEST
    exact = math.pi / math.acos(1 - tolerance / radius)
    return min(max(4 * math.ceil(exact / 4), _FEWEST), most)
