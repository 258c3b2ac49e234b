"""Every unit against Pint, a library of units that shares nothing with ours."""

import math

import pint
import pytest

from ovolo.outcome.outcome import show_line
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.units import UNITS, unit_named
from tests.sheets import run

_PINT = pint.UnitRegistry()
_NAMES = {
    "in": "inch", "yd": "yard", "mi": "mile", "°": "degree", "deg": "degree", "gon": "grade",
    "t": "metric_ton", "lb": "pound", "oz": "ounce", "h": "hour", "d": "day", "L": "liter",
    "l": "liter", "ml": "milliliter", "um": "micrometer", "us": "microsecond", "min": "minute",
    "rad": "radian", "mrad": "milliradian", "arcmin": "arcminute", "arcsec": "arcsecond",
    "Hz": "1/second", "kHz": "1/millisecond", "MHz": "1/microsecond", "N": "newton", "g": "gram",
}  # fmt: skip
_BASE = {"length": "mm", "angle": "radian", "mass": "kg", "time": "s"}


def in_base(expression: str, exponents: dict[str, float]) -> float:
    """A quantity of Pint's in mm, rad, kg and s."""
    base = " * ".join(f"{_BASE[name]}**({power})" for name, power in exponents.items() if power)
    return float(_PINT.Quantity(1, expression).to(base).magnitude)


@pytest.mark.parametrize("symbol", [s for s, unit in UNITS.items() if unit.dimension != NUMBER])
def test_each_unit(symbol: str) -> None:
    unit = UNITS[symbol]
    exponents = {name: float(getattr(unit.dimension, name)) for name in _BASE}
    assert unit.size == pytest.approx(in_base(_NAMES.get(symbol, symbol), exponents), rel=1e-12)


@pytest.mark.parametrize(
    ("ours", "theirs"),
    [
        ("mm^2", "mm**2"), ("m^3", "m**3"), ("m/s", "m/s"), ("km/h", "km/hour"), ("ft^2", "foot**2"),
        ("kg/m^3", "kg/m**3"), ("N/mm^2", "newton/mm**2"), ("m/s^2", "m/s**2"), ("lb/ft", "pound/foot"),
        ("deg/s", "degree/s"), ("kN*m", "kilonewton*m"), ("in^3", "inch**3"), ("g/ml", "gram/milliliter"),
        ("mm^(3/2)", "mm**1.5"), ("ft⁴", "foot**4"), ("kg·m²", "kg*m**2"), ("N·m/s", "newton*m/s"), ("/ft", "1/foot"),
    ],
)  # fmt: skip
def test_compound_units(ours: str, theirs: str) -> None:
    unit = unit_named(ours)
    exponents = {name: float(getattr(unit.dimension, name)) for name in _BASE}
    assert unit.size == pytest.approx(in_base(theirs, exponents), rel=1e-12)


def test_percent_and_slope_are_plain_numbers() -> None:
    assert unit_named("%").size == 0.01
    assert math.degrees(math.atan(2 / 12)) == pytest.approx(9.462, abs=5e-4)


@pytest.mark.parametrize(
    "system", [("mm", "kg"), ("m", "kg"), ("ft-in", "lb"), ("in", "oz"), ("cm", "g")]
)
@pytest.mark.parametrize(
    "formula",
    [
        "(3 m)^2",
        "(2 ft)^3",
        "5 kN * 2 m",
        "12 kg / (3 m)^3",
        "7 kg * (2 m)^2",
        "9 m / (2 s)^2",
        "4 kN / (3 m)",
        "(2 mm)^4",
    ],
)
def test_what_is_shown_is_the_same_quantity(formula: str, system: tuple[str, str]) -> None:
    """The shown figure and its unit, read by Pint, is the quantity of the formula."""
    outcome = run(f"units {system[0]}, {system[1]}", f"a = {formula}")
    shown = show_line(outcome.lines[0], outcome.units)
    powers = {"²": "**2", "³": "**3", "⁴": "**4", "·": "*", "^": "**"}
    unit = "".join(powers.get(letter, letter) for letter in shown.unit)
    unit = "*".join(_NAMES.get(one, one) if "*" not in one else one for one in unit.split("*"))
    theirs = _PINT.Quantity(float(shown.number), unit.replace("in**", "inch**"))
    wanted = _PINT.Quantity(formula.replace("^", "**").replace("ft", "foot"))
    assert theirs.to(wanted.units).magnitude == pytest.approx(wanted.magnitude, rel=1e-2)
