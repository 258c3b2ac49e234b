"""Showing values: in the units of the study, with sensible digits.

Showing never feeds back into results; values stay float64 throughout.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field
from fractions import Fraction

from ovolo.problems import Failure
from ovolo.quantities.dimension import (
    ANGLE,
    LENGTH,
    NUMBER,
    Dimension,
    base_units,
    power,
)
from ovolo.quantities.units import UNITS, Unit, unit_named

FEET_INCHES = "ft-in"
_DECIMALS = {"mm": 2, "cm": 3, "m": 4, "in": 3, "ft": 4, "deg": 2, "°": 2, "rad": 4}
_FEET_INCHES = re.compile(r"ft-in(?:\s+1/(\d+))?")
_INCH_FRACTIONS = (2, 4, 8, 16, 32, 64)
_SIGNIFICANT = 6
_LEAST_SIGNIFICANT = 3
_PREFERRED = {
    "speed": "m/s", "frequency": "Hz", "density": "kg/m^3", "force": "N", "pressure": "kPa",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Shown:
    """A value as text: the number, and the unit that follows it (may be empty)."""

    number: str
    unit: str = ""

    def __str__(self) -> str:
        if not self.unit:
            return self.number
        return f"{self.number}{'' if self.unit in ('°', '%') else ' '}{self.unit}"


@dataclass(frozen=True, slots=True)
class DisplayUnits:
    """The units a study shows its values in (`units mm, deg`)."""

    length: str = "mm"
    angle: str = "deg"
    inch_fraction: int = 16
    others: tuple[tuple[Dimension, str], ...] = field(default=())

    @property
    def length_unit(self) -> Unit:
        return UNITS["in" if self.length == FEET_INCHES else self.length]

    def with_unit(self, symbol: str) -> DisplayUnits:
        """The same, showing the dimension of `symbol` in it."""
        feet = _FEET_INCHES.fullmatch(symbol)
        if feet:
            fraction = int(feet[1] or 16)
            if fraction not in _INCH_FRACTIONS:
                raise Failure(
                    f"inches are not shown to 1/{fraction}", "1/2, 1/4, 1/8, 1/16, 1/32 or 1/64"
                )
            return DisplayUnits(FEET_INCHES, self.angle, fraction, self.others)
        unit = unit_named(symbol)
        if unit.dimension == LENGTH:
            return DisplayUnits(symbol, self.angle, self.inch_fraction, self.others)
        if unit.dimension == ANGLE:
            return DisplayUnits(self.length, symbol, self.inch_fraction, self.others)
        if unit.dimension == NUMBER:
            raise Failure(f"`{symbol}` cannot be the unit of a study", "for example units mm, deg")
        kept = tuple(pair for pair in self.others if pair[0] != unit.dimension)
        others = (*kept, (unit.dimension, symbol))
        return DisplayUnits(self.length, self.angle, self.inch_fraction, others)

    def unit_for(self, dimension: Dimension) -> Unit:
        """The unit in which values of this dimension are shown."""
        if dimension == NUMBER:
            return Unit("", NUMBER, 1.0)
        if dimension == ANGLE:
            return UNITS[self.angle]
        chosen = dict(self.others).get(dimension)
        if chosen:
            return unit_named(chosen)
        length = dimension.length
        if dimension == power(LENGTH, length):
            if length == 1:
                return self.length_unit
            symbol = f"{self.length_unit.symbol}^{length}"
            return Unit(symbol, dimension, self.length_unit.size ** float(length))
        preferred = _PREFERRED.get(str(dimension))
        if preferred:
            return unit_named(preferred)
        return Unit(base_units(dimension), dimension, 1.0)


def show_quantity(value: float, dimension: Dimension, units: DisplayUnits) -> Shown:
    """A value in mm, radians, kg and s as a person reads it."""
    if dimension == LENGTH and units.length == FEET_INCHES:
        return Shown(feet_and_inches(value, units.inch_fraction))
    unit = units.unit_for(dimension)
    symbol = "°" if unit.symbol == "deg" else unit.symbol.replace("^2", "²").replace("^3", "³")
    return Shown(digits(value / unit.size, _DECIMALS.get(unit.symbol)), symbol)


def digits(value: float, decimals: int | None = None) -> str:
    """A number with the given decimals, or six significant digits; never noise, never "-0".

    Small values keep at least three significant digits.
    """
    if value == 0:
        return "0"
    exponent = math.floor(math.log10(abs(value)))
    if decimals is None:
        decimals = _SIGNIFICANT - 1 - exponent
    elif round(value, decimals) != value:
        decimals = max(decimals, _LEAST_SIGNIFICANT - 1 - exponent)
    if exponent >= 15 or exponent < -6:
        return f"{value:.{_SIGNIFICANT}g}"
    text = f"{value:.{max(decimals, 0)}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def aligned(numbers: list[str]) -> list[str]:
    """Numbers of one column with the same count of decimals."""
    decimals = [len(number.partition(".")[2]) for number in numbers]
    if any(not re.fullmatch(r"-?\d+(\.\d+)?", number) for number in numbers):
        return numbers
    most = max(decimals, default=0)
    return [
        f"{number}{'' if places or not most else '.'}{'0' * (most - places)}"
        for number, places in zip(numbers, decimals, strict=True)
    ]


def feet_and_inches(value: float, fraction: int = 16) -> str:
    """A length in mm as feet, inches and a fraction of an inch, such as `6' 2 1/4"`."""
    parts = round(abs(value) / 25.4 * fraction)
    feet, parts = divmod(parts, 12 * fraction)
    inches, parts = divmod(parts, fraction)
    said = []
    if feet:
        said.append(f"{feet}'")
    remainder = Fraction(parts, fraction)
    if remainder:
        said.append(f'{inches} {remainder}"' if inches else f'{remainder}"')
    elif inches or not feet:
        said.append(f'{inches}"')
    sign = "-" if value < 0 and (feet or inches or parts) else ""
    return sign + " ".join(said)


def grouped(number: str, separator: str = "\u2009") -> str:
    """The digits before the decimal point set apart in threes from 1 000 on."""
    head, point, tail = number.partition(".")
    figures = head.lstrip("-+±R⌀ ")
    sign = head[: len(head) - len(figures)]
    if not figures.isdigit() or len(figures) < 4:
        return number
    first = len(figures) % 3
    groups = [figures[:first]] if first else []
    groups += [figures[at : at + 3] for at in range(first, len(figures), 3)]
    return sign + separator.join(groups) + point + tail
