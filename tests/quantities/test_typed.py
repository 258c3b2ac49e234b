"""What a person types into a value box."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, LENGTH, NUMBER, Dimension
from ovolo.quantities.show import DisplayUnits, show_quantity
from ovolo.quantities.typed import read_quantity


@pytest.mark.parametrize(
    ("text", "millimetres"),
    [
        ("3.1m", 3100),
        ("3100", 3100),
        (" 3 100 mm ", 3100),
        ("1,250.5 mm", 1250.5),
        ("10' 2 1/2\"", 3111.5),
        ("6ft 2in", 1879.6),
        ("6 ft", 1828.8),
        ("12 1/4 in", 311.15),
        ('3/8"', 9.525),
        ("-4cm", -40),
        (".5 m", 500),
        ("1e3", 1000),
    ],
)
def test_lengths(text: str, millimetres: float) -> None:
    assert read_quantity(text, LENGTH) == pytest.approx(millimetres, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "degrees"),
    [
        ("24°30'", 24.5),
        ("24° 30' 36\"", 24.51),
        ("24.5", 24.5),
        ("-90 deg", -90),
        ("1rad", 57.29577951308232),
    ],
)
def test_angles(text: str, degrees: float) -> None:
    assert math.degrees(read_quantity(text, ANGLE)) == pytest.approx(degrees, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "number"), [("4:12", 1 / 3), ("12 %", 0.12), ("3/8", 0.375), ("7", 7)]
)
def test_numbers(text: str, number: float) -> None:
    assert read_quantity(text, NUMBER) == pytest.approx(number)


@pytest.mark.parametrize(
    ("text", "dimension", "message"),
    [
        ("", LENGTH, "cannot be read as a length"),
        ("3,5 mm", LENGTH, "cannot be read as a length"),
        ("12°", LENGTH, "`12°` is an angle, but this value is a length"),
        ("3 kg", LENGTH, "is a mass"),
        ("3 furlongs", LENGTH, "cannot be read"),
        ("5' 13\"", LENGTH, "more than a foot"),
        ("24°75'", ANGLE, "stay below 60"),
        ("1:0", NUMBER, "a run of 0"),
        ("3 mm mm", LENGTH, "cannot be read"),
        ("1/0 in", LENGTH, "divides by zero"),
        ("1e999", LENGTH, "too large"),
    ],
)
def test_what_is_unclear_is_refused(text: str, dimension: Dimension, message: str) -> None:
    with pytest.raises(Failure) as caught:
        read_quantity(text, dimension)
    assert message in caught.value.message


def test_a_decimal_comma_is_told_clearly() -> None:
    with pytest.raises(Failure) as caught:
        read_quantity("3,5 mm", LENGTH)
    assert caught.value.hint == "write a decimal point, not a comma"


def test_a_bare_figure_is_unclear_in_feet_and_inches() -> None:
    with pytest.raises(Failure, match="could be feet or inches"):
        read_quantity("5", LENGTH, DisplayUnits(length="ft-in"))


@given(st.floats(-1e7, 1e7).map(lambda x: round(x, 2)))
def test_what_is_shown_can_be_typed_back(value: float) -> None:
    shown = str(show_quantity(value, LENGTH, DisplayUnits()))
    assert read_quantity(shown, LENGTH) == pytest.approx(value, abs=0.006)
