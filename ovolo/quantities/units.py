"""The units a sheet may use, each with its dimension and its size in mm, rad, kg and s.

Sizes are exact by definition: the international inch and pound (1959), the SI
(BIPM brochure, 9th edition), the degree as π/180 rad.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction
from functools import cache

from ovolo.problems import Failure, nearest_name
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


@dataclass(frozen=True, slots=True)
class Unit:
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

_SYMBOL = "|".join(sorted(map(re.escape, UNITS), key=len, reverse=True))
_FACTOR = rf"(?:{_SYMBOL})(?:\^-?\d|²|³)?(?![\w])"
UNIT_PATTERN = rf"{_FACTOR}(?:[*·/]{_FACTOR})*"
"""A regular expression for one unit, simple or compound, without spaces inside."""

_TERM = re.compile(rf"([*·/]?)({_SYMBOL})(?:\^(-?\d)|(²|³))?")
_SUPERSCRIPT = {"²": 2, "³": 3}


@cache
def unit_named(text: str) -> Unit:
    """The unit written as `text`, such as `mm`, `mm^2`, `kg/m^3`.

    Raises Failure for anything else, proposing the nearest known symbol.
    """
    if not re.fullmatch(UNIT_PATTERN, text):
        near = nearest_name(text, list(UNITS))
        hint = f"did you mean `{near}`?" if near else "for example mm, m, in, deg, kg, s"
        raise Failure(f"`{text}` is not a unit", hint)
    dimension, size = NUMBER, 1.0
    for joint, symbol, exponent, superscript in _TERM.findall(text):
        degree = int(exponent) if exponent else _SUPERSCRIPT.get(superscript, 1)
        degree = -degree if joint == "/" else degree
        unit = UNITS[symbol]
        dimension = product(dimension, power(unit.dimension, Fraction(degree)))
        size *= unit.size**degree
    return Unit(text, dimension, size)
