"""Showing values."""

import math

import pytest

from ovolo.quantities.dimension import ANGLE, AREA, LENGTH, NUMBER, Dimension
from ovolo.quantities.show import DisplayUnits, digits, feet_and_inches, grouped, show_quantity
from ovolo.quantities.units import unit_named

MM = DisplayUnits()


@pytest.mark.parametrize(
    ("value", "dimension", "shown"),
    [
        (180.0, LENGTH, "180 mm"),
        (97.31582, LENGTH, "97.32 mm"),
        (0.0012345, LENGTH, "0.00123 mm"),
        (math.atan(0.75), ANGLE, "36.87°"),
        (1 / 3, NUMBER, "0.333333"),
        (0.1 + 0.2, NUMBER, "0.3"),
        (2e6, AREA, "2000000 mm²"),
        (-0.0, LENGTH, "0 mm"),
        (1e-9, LENGTH, "1e-09 mm"),
        (343000.0, unit_named("m/s").dimension, "343 m/s"),
    ],
)
def test_sensible_digits(value: float, dimension: Dimension, shown: str) -> None:
    assert str(show_quantity(value, dimension, MM)) == shown


def test_units_of_the_study() -> None:
    metres = MM.with_unit("m").with_unit("rad")
    assert str(show_quantity(3240.0, LENGTH, metres)) == "3.24 m"
    assert str(show_quantity(math.pi, ANGLE, metres)) == "3.1416 rad"
    assert str(show_quantity(2e6, AREA, metres)) == "2 m²"


@pytest.mark.parametrize(
    ("inches", "shown"),
    [
        (122.5, "10' 2 1/2\""),
        (12, "1'"),
        (0, '0"'),
        (0.375, '3/8"'),
        (-6.25, '-6 1/4"'),
        (11.99, "1'"),
    ],
)
def test_feet_and_inches_to_a_sixteenth(inches: float, shown: str) -> None:
    assert feet_and_inches(inches * 25.4) == shown


def test_thousands_are_set_apart() -> None:
    assert grouped("3240", " ") == "3 240"
    assert grouped("-1234567.891", " ") == "-1 234 567.891"
    assert grouped("999", " ") == "999"


def test_no_figure_is_noise() -> None:
    assert digits(2.9999999999999996) == "3"
    assert digits(123456789.0) == "123456789"
