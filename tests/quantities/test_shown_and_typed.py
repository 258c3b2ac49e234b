"""What is shown can be typed again, and what is typed is written down as it was: in every unit system."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ovolo.exploring.settings import typed_value
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import outcome_of, show_line
from ovolo.quantities.circular import cosine, sine
from ovolo.quantities.dimension import ANGLE, AREA, LENGTH, MASS, NUMBER, TIME, VOLUME, Dimension
from ovolo.quantities.show import DisplayUnits, digits, noise_of, show_quantity
from ovolo.quantities.typed import read_quantity
from ovolo.quantities.units import UNITS, unit_named
from ovolo.sheet.literals import figure_in, literal_for

LENGTH_UNITS = [one for one, unit in UNITS.items() if unit.dimension == LENGTH]
ANGLE_UNITS = [one for one, unit in UNITS.items() if unit.dimension == ANGLE]
SYSTEMS = [
    *(DisplayUnits().with_unit(symbol) for symbol in LENGTH_UNITS),
    *(DisplayUnits().with_unit(symbol) for symbol in ANGLE_UNITS),
    *(DisplayUnits().with_unit(f"ft-in 1/{part}") for part in (2, 4, 8, 16, 32, 64)),
    DisplayUnits().with_unit("lb").with_unit("h").with_unit("kN").with_unit("MPa"),
]
DIMENSIONS = [
    NUMBER, LENGTH, ANGLE, AREA, VOLUME, MASS, TIME, Dimension(length=4), Dimension(length=-1),
    Dimension(length="3/2"), Dimension(length=5),
    *(unit_named(one).dimension for one in (
        "m/s", "m/s^2", "rad/s", "Hz", "kg/m^3", "kg/m^2", "kg/m", "kg·m^2", "N", "N·m", "N/m",
        "kPa", "N·m/s", "m^3/s", "kg/s", "s/m", "kg^2",
    )),
]  # fmt: skip


VALUES = (0.0, 1.0, -1.0, 1 / 3, 123.456, -98765.4321, 3e-4, 25.4, 304.8, 2e7)


@pytest.mark.parametrize("units", SYSTEMS, ids=str)
def test_what_is_shown_is_typed_again(units: DisplayUnits) -> None:
    for dimension, value in itertools.product(DIMENSIONS, VALUES):
        shown = show_quantity(value, dimension, units)
        back = read_quantity(str(shown), dimension, units)
        assert back == pytest.approx(value, rel=6e-3, abs=_least(units, dimension)), str(shown)


def _least(units: DisplayUnits, dimension: Dimension) -> float:
    """Half of the last place that is shown."""
    if dimension == LENGTH and units.length == "ft-in":
        return 25.4 / units.inch_fraction / 2 + 1e-9
    return 0.6e-2 * units.unit_for(dimension).size


@given(st.floats(-1e6, 1e6), st.sampled_from(DIMENSIONS), st.sampled_from(SYSTEMS))
@settings(max_examples=100, deadline=None)
def test_what_is_written_down_is_read_as_the_same(
    value: float, dimension: Dimension, units: DisplayUnits
) -> None:
    literal = literal_for(value, dimension, "", units)
    (line,) = outcome_of(f"a = {literal}").lines
    assert not line.problems, (literal, line.problems)
    assert line.value == pytest.approx(value, rel=1e-11, abs=1e-14)


@pytest.mark.parametrize(
    ("line", "typed", "written"),
    [
        ("input a = 10 ft", "12 m", "12 m"),
        ("input a = 10 ft", "3100mm", "3100 mm"),
        ("input a = 10 ft", "24' 6\"", "24' 6\""),
        ("input a = 10 ft", "1 1/2 in", "1 1/2 in"),
        ("input a = 10 ft", "1/4 in", "1/4 in"),
        ("input a = 10 ft", ".5 mm", ".5 mm"),
        ("input a = 10 ft", "1,250 m", "1250 m"),
        ("input a = 10 ft", "1 250.5 m", "1250.5 m"),
        ("input a = 10 mm", "15", "15 mm"),
        ("input a = 1:12", "2:12", "2:12"),
        ("input a = 1:12", "3", "3:12"),
        ("input a = 12 %", "15", "15%"),
        ("input a = 12 %", "15.5 %", "15.5 %"),
        ("input a = 1 in/ft", "2", "2 in/ft"),
        ("input a = 3", "2.5", "2.5"),
        ("input a = 24°30'", "25", "25°"),
        ("input a = 24°30'", "25.5", "25°30'"),
        ("input a = 30°", "0.5 rad", "0.5 rad"),
    ],
)
def test_what_is_typed_stays_as_it_is_typed(line: str, typed: str, written: str) -> None:
    program = checked_program(line)
    assert typed_value(program, program.inputs[0], typed) == written
    figure = figure_in(written)
    assert figure is not None and figure.value == outcome_of(f"input a = {written}").lines[0].value


def test_a_foot_input_of_twelve_metres_is_twelve_metres() -> None:
    program = checked_program("input run = 10 ft")
    written = typed_value(program, program.inputs[0], "12 m")
    outcome = outcome_of(f"input run = {written}\ncheck run == 12 m")
    assert outcome.checks[0].passed


@pytest.mark.parametrize(
    ("line", "shown"),
    [
        ("input a = 2:12", "2:12"), ("input a = 12 %", "12%"), ("input a = 5 ‰", "5‰"),
        ("input a = 2 in/ft", "2 in/ft"), ("input a = 0.25", "0.25"), ("input a = 1.5:8", "1.5:8"),
        ("a = [123456.7, 0.1]", "123456.7, 0.1"), ("a = [1/3, 1]", "0.333333, 1.000000"),
        ("a = [1 mm, 2.25 mm]", "1.00, 2.25 mm"), ("a = polar(2 m, 90°)", "(0, 2000) mm"),
        ("a = sin(180°)", "0"), ("a = 0.1 + 0.2 - 0.3", "0"), ("a = 1e-9", "1e-09"),
        ("a = (1 m, 0 m).turn(90°)", "(0, 1000) mm"), ("a = 5 N * 2 m", "10 N·m"),
        ("a = (9 mm^3)^(1/2)", "3 mm^(3/2)"), ("a = 3 / 1 m", "0.003/mm"),
        ("a = 2 kg * (3 m)^2", "18 kg·m²"), ("a = (2 mm)^4", "16 mm⁴"), ("a = 4 kg / 2 m^2", "2 kg/m²"),
    ],
)  # fmt: skip
def test_values_are_shown_as_a_practitioner_writes_them(line: str, shown: str) -> None:
    outcome = outcome_of(line)
    assert str(show_line(outcome.lines[0], outcome.units)) == shown


def test_areas_of_feet_and_inches_are_square_feet() -> None:
    units = DisplayUnits().with_unit("ft-in")
    assert str(show_quantity(100e6, AREA, units)) == "1076.39 ft²"
    assert str(show_quantity(28316846.592, VOLUME, units)) == "1 ft³"
    assert str(show_quantity(0.5, LENGTH, units)) == '0.0197"'


@given(st.floats(1e-5, 1e9), st.floats(0.5, 1.5))
@settings(max_examples=80, deadline=None)
def test_a_check_shows_what_tells_its_sides_apart(size: float, share: float) -> None:
    for other in (size * share, size * (1 + 1e-10 * share)):
        outcome = outcome_of(f"check {size!r} * 1 mm > {other!r} * 1 mm")
        (check,) = outcome.checks
        left, right = check.measured.split(" > ")
        if abs(size - other) > noise_of(size, other):
            assert left != right and check.passed == (size > other)
        else:
            assert not check.passed


def test_digits_are_true_ones() -> None:
    assert digits(2 / 3, more=3) == "0.666666667"
    assert digits(1e20) == "1e+20"


def test_the_rounding_of_angles_is_settled_however_they_are_stored() -> None:
    degrees = np.radians(np.array([[0.0, 90.0, 180.0], [270.0, 360.0, 450.0], [30.0, 60.0, 1e-12]]))
    for angles in (degrees, degrees.T, np.asfortranarray(degrees), degrees[:, ::2]):
        assert np.array_equal(sine(angles) == 0, np.isclose(angles % math.pi, 0, atol=1e-15))
        assert np.array_equal(sine(angles), np.array([[float(sine(a)) for a in row] for row in angles]))  # fmt: skip
        assert np.array_equal(cosine(angles), np.array([[float(cosine(a)) for a in row] for row in angles]))  # fmt: skip
