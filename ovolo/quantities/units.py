"""The units a sheet may use, each with its dimension and its size in mm, rad, kg and s.

Sizes are exact by definition: the international inch and pound (1959), the SI
(BIPM brochure, 9th edition), the degree as π/180 rad.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction
from functools import cache

from msgspec import Struct

from ovolo.problems import Failure, meant
from ovolo.quantities.dimension import (
    ANGLE,
    LENGTH,
    MASS,
    NUMBER,
    TIME,
    VOLUME,
    Dimension,
    power,
    product,
)


class Unit(Struct, frozen=True):
    """`size` is the value of one such unit in mm, rad, kg and s."""

    symbol: str
    dimension: Dimension
    size: float


_FREQUENCY = power(TIME, Fraction(-1))
_FORCE = product(product(MASS, LENGTH), power(TIME, Fraction(-2)))
_PRESSURE = product(_FORCE, power(LENGTH, Fraction(-2)))

_SIZES: dict[Dimension, dict[str, float]] = {
    LENGTH: {
        "mm": 1.0, "cm": 10.0, "dm": 100.0, "m": 1e3, "km": 1e6, "um": 1e-3, "µm": 1e-3,
        "nm": 1e-6, "in": 25.4, "ft": 304.8, "yd": 914.4, "mi": 1609344.0,
    },
    ANGLE: {
        "rad": 1.0, "mrad": 1e-3, "deg": math.pi / 180, "°": math.pi / 180,
        "gon": math.pi / 200, "arcmin": math.pi / 10800, "arcsec": math.pi / 648000,
    },
    MASS: {"kg": 1.0, "g": 1e-3, "mg": 1e-6, "t": 1e3, "lb": 0.45359237, "oz": 0.028349523125},
    TIME: {"s": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "min": 60.0, "h": 3600.0, "d": 86400.0},
    _FREQUENCY: {"Hz": 1.0, "kHz": 1e3, "MHz": 1e6},
    VOLUME: {"l": 1e6, "L": 1e6, "ml": 1e3},
    _FORCE: {"N": 1e3, "kN": 1e6},
    _PRESSURE: {"Pa": 1e-3, "kPa": 1.0, "MPa": 1e3, "GPa": 1e6},
    NUMBER: {"%": 0.01, "‰": 0.001},
}  # fmt: skip

UNITS: dict[str, Unit] = {
    symbol: Unit(symbol, dimension, size)
    for dimension, sizes in _SIZES.items()
    for symbol, size in sizes.items()
}

UNIT_NAMES = {
    "mm": "millimetre", "cm": "centimetre", "dm": "decimetre", "m": "metre", "km": "kilometre",
    "um": "micrometre", "µm": "micrometre", "nm": "nanometre", "in": "inch", "ft": "foot, feet",
    "yd": "yard", "mi": "mile", "rad": "radian", "mrad": "milliradian", "deg": "degree", "°": "degree",
    "gon": "gradian", "arcmin": "minute of arc", "arcsec": "second of arc", "kg": "kilogram",
    "g": "gram", "mg": "milligram", "t": "tonne", "lb": "pound", "oz": "ounce", "s": "second",
    "ms": "millisecond", "us": "microsecond", "µs": "microsecond", "min": "minute", "h": "hour",
    "d": "day", "Hz": "hertz", "kHz": "kilohertz", "MHz": "megahertz", "l": "litre", "L": "litre",
    "ml": "millilitre", "N": "newton", "kN": "kilonewton", "Pa": "pascal", "kPa": "kilopascal",
    "MPa": "megapascal", "GPa": "gigapascal", "%": "per cent", "‰": "per mille",
}  # fmt: skip

_SUPERSCRIPTS = str.maketrans("⁻²³⁴⁵⁶⁷⁸⁹¹⁰", "-2345678910")
_SYMBOL = "|".join(sorted(map(re.escape, UNITS), key=len, reverse=True))
_EXPONENT = r"\^-?\d(?!\.?\d)|\^\(-?\d+/\d+\)|⁻?[¹²³⁴⁵⁶⁷⁸⁹]"
_FACTOR = rf"(?:{_SYMBOL})(?:{_EXPONENT})?(?![\w])"
UNIT_PATTERN = rf"{_FACTOR}(?:[*·/]{_FACTOR})*"
"""A regular expression for one unit, simple or compound, without spaces inside."""

_TERM = re.compile(rf"([*·/]?)({_SYMBOL})({_EXPONENT})?")
_RATIO = re.compile(r":(\d+(?:\.\d+)?)")


@cache
def unit_named(text: str) -> Unit:
    """The unit written as `text`, such as `mm`, `mm^2`, `kg/m³`, `mm^(1/2)`, `1/m`; `:12` is that of
    slopes over a run of 12.

    Raises Failure for anything else, proposing the nearest known symbol.
    """
    ratio = _RATIO.fullmatch(text)
    if ratio and float(ratio[1]):
        return Unit(text, NUMBER, 1 / float(ratio[1]))
    terms = text.removeprefix("1") if text.startswith("1/") else text
    if not re.fullmatch(UNIT_PATTERN, terms.removeprefix("/")):
        hint = meant(text, list(UNITS), "for example mm, m, in, deg, kg, s")
        raise Failure(f"`{text}` is not a unit", hint)
    dimension, size = NUMBER, 1.0
    for joint, symbol, exponent in _TERM.findall(terms):
        degree = Fraction(exponent.translate(_SUPERSCRIPTS).strip("^()") or 1)
        degree = -degree if joint == "/" else degree
        unit = UNITS[symbol]
        dimension = product(dimension, power(unit.dimension, degree))
        size *= unit.size ** (int(degree) if degree.denominator == 1 else float(degree))
    return Unit(text, dimension, size)
