"""Where the sun stands, for the shadows of a picture.

Declination: P. I. Cooper, The absorption of radiation in solar stills, Solar Energy 12 (1969); height
and direction by spherical trigonometry (J. A. Duffie, W. A. Beckman, Solar Engineering of Thermal
Processes, 1.6). Good to about half a degree, which no shadow shows.
"""

from __future__ import annotations

import math

from msgspec import Struct

from ovolo.problems import Failure

TILT = math.radians(23.45)
"""Of the axis of the earth, by which the sun goes north and south in a year."""


class Sun(Struct, frozen=True):
    """A direction to the sun (x east, y north, z up; of length 1), as height above the horizon and as
    turn from north through east (radians)."""

    direction: tuple[float, float, float]
    height: float
    turn: float


def sun_at(latitude: float, day: int, hour: float) -> Sun:
    """The sun at a latitude (degrees, north positive) on a day of the year (1 to 366) at an hour of
    solar time, at which it is highest at 12. Raises Failure for what is none of these."""
    for name, value, low, high in (
        ("latitude", latitude, -90, 90),
        ("day of the year", day, 1, 366),
        ("hour", hour, 0, 24),
    ):
        if not low <= value <= high:
            raise Failure(f"{value:g} is no {name}", f"from {low} to {high}")
    place = math.radians(latitude)
    declination = TILT * math.sin(math.tau * (284 + day) / 365)
    past_noon = math.radians(15 * (hour - 12))
    east = -math.cos(declination) * math.sin(past_noon)
    across = math.cos(declination) * math.cos(past_noon)
    north = math.cos(place) * math.sin(declination) - math.sin(place) * across
    up = math.sin(place) * math.sin(declination) + math.cos(place) * across
    height = math.asin(min(max(up, -1.0), 1.0))
    return Sun((east, north, up), height, math.atan2(east, north) % math.tau)
