"""The places along one input at which a value is tried: closer together until it passes the goal no more often."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from typing import Any

from ovolo.exploring.aim_readings import ALONG, MOST_TRIED
from ovolo.exploring.axes import Axis

Value = Callable[[Any], float | None]
"""The value at a place of the input; None where it has none."""

Side = Callable[[Any], int | None]
"""On which side of the goal it lies there: -1 below, 0 at it, 1 above."""

_UNEVEN = 0.382
"""Where the first places between lie, as a share: what repeats itself from one place to the next is seen there."""

_EACH = 4
"""Places, at the least, from one passing or turn to the next: with fewer, as many may be seen by chance."""

_STILL = 1e-3
"""Of all that the value goes through: by less it may go up and down because it is measured on chords."""


def scanned(axis: Axis, value: Value, side: Side) -> tuple[list[Any], bool]:
    """The places, in the order of the input, and whether they are close enough: with twice as many the value was seen to
    pass the goal, and to turn back, as often as before. All there are, of choices and of few steps."""
    count = axis.count
    if axis.choices or (count is not None and count <= MOST_TRIED):
        return axis.evenly(MOST_TRIED), True
    places = axis.evenly((MOST_TRIED if axis.step > 0 else ALONG) // 2 + 1)
    seen = _passings(places, side), _turns(places, value)
    for share in itertools.chain([_UNEVEN], itertools.repeat(0.5)):
        places = _closer(axis, places, share)
        before, seen = seen, (_passings(places, side), _turns(places, value))
        if seen == before and max(seen) * _EACH <= len(places):
            return places, True
        if len(places) > MOST_TRIED:
            break
    return places, False


def _passings(places: Sequence[Any], side: Side) -> int:
    """How often the value comes to the goal, leaves it or passes it, as far as is seen at some places."""
    sides = [one for one in map(side, places) if one is not None]
    return sum(one != other for one, other in itertools.pairwise(sides))


def _turns(places: Sequence[Any], value: Value) -> int:
    """How often it rises after it fell, or falls after it rose, by more than what counts as still."""
    values = [one for one in map(value, places) if one is not None]
    if not values:
        return 0
    low = high = values[0]
    still = _STILL * (max(values) - min(values))
    turns = way = 0
    for one in values:
        low, high = min(low, one), max(high, one)
        if way <= 0 and one - low > still:
            turns, way, high = turns - way, 1, one
        elif way >= 0 and high - one > still:
            turns, way, low = turns + way, -1, one
    return turns


def _closer(axis: Axis, places: Sequence[Any], share: float) -> list[Any]:
    """The places and, where the input has one, another between each two of them."""
    between = [axis.nearest(low + share * (high - low)) for low, high in itertools.pairwise(places)]
    return sorted({*places, *between})
