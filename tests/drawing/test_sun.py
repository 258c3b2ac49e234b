"""The sun of a place, a day and an hour."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.drawing.sun import sun_at
from ovolo.problems import Failure


@pytest.mark.parametrize(
    ("day", "hour", "height", "west_of_south"),
    [(44, 9.5, 90 - 66.5, -40.0), (182, 18.5, 90 - 79.6, 112.0)],
)
def test_a_worked_example(day: int, hour: float, height: float, west_of_south: float) -> None:
    """Duffie and Beckman, Solar Engineering of Thermal Processes, example 1.6.2 (Madison, 43 degrees
    north; figures from memory)."""
    sun = sun_at(43, day, hour)
    assert math.degrees(sun.height) == pytest.approx(height, abs=0.2)
    assert math.degrees(sun.turn) - 180 == pytest.approx(west_of_south, abs=0.3)


def test_at_noon_of_the_solstices() -> None:
    """The sun is as far from straight above as the place is from the tropic (spherical geometry)."""
    for latitude in (-60, -23.45, 0, 23.45, 60):
        for day, tropic in ((172, 23.45), (355, -23.45)):
            height = math.degrees(sun_at(latitude, day, 12).height)
            assert height == pytest.approx(90 - abs(latitude - tropic), abs=0.05)


@given(st.floats(-90, 90), st.integers(1, 366), st.floats(0, 24))
def test_directions_have_length_one_and_mirror_at_noon(
    latitude: float, day: int, hour: float
) -> None:
    sun, mirrored = sun_at(latitude, day, hour), sun_at(latitude, day, 24 - hour)
    assert math.hypot(*sun.direction) == pytest.approx(1)
    east, north, up = sun.direction
    assert mirrored.direction == pytest.approx((-east, north, up), abs=1e-9)
    assert up == pytest.approx(math.sin(sun.height), abs=1e-9)


@pytest.mark.parametrize(
    "wrong", [(91, 1, 12), (0, 0, 12), (0, 367, 12), (0, 1, 25), (math.nan, 1, 1)]
)
def test_what_is_no_place_or_time_is_refused(wrong: tuple[float, int, float]) -> None:
    with pytest.raises(Failure, match="is no"):
        sun_at(*wrong)
