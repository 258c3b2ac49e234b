"""Showing values: in the units of the study, with sensible digits.

Showing never feeds back into results; values stay float64 throughout.
"""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Sequence
from fractions import Fraction

from msgspec import Struct

from ovolo.problems import Failure
from ovolo.quantities.dimension import (
    ANGLE,
    LENGTH,
    NUMBER,
    Dimension,
    base_units,
    power,
    usual_size,
)
from ovolo.quantities.units import UNITS, Unit, unit_named

FEET_INCHES = "ft-in"
_DECIMALS = {"mm": 2, "cm": 3, "m": 4, "in": 3, "ft": 4, "deg": 2, "°": 2, "rad": 4}
_FEET_INCHES = re.compile(r"ft-in(?:\s+1/(\d+))?")
_INCH_FRACTIONS = (2, 4, 8, 16, 32, 64)
_SIGNIFICANT = 6
_LEAST_SIGNIFICANT = 3
_MOST_DIGITS = 15
"""So many digits of a float64 can be trusted."""

_OF_THE_TRADE: dict[Dimension, str] = {
    unit_named(symbol).dimension: symbol
    for symbol in (
        "m/s", "m/s^2", "rad/s", "Hz", "kg/m^3", "kg/m^2", "kg/m", "kg·m^2", "N", "N·m", "N/m",
        "kPa", "N·m/s", "m^3/s", "kg/s",
    )
}  # fmt: skip
"""The unit a practitioner writes for what is made of several base units."""

_SUPERSCRIPTS = {"^2": "²", "^3": "³", "^4": "⁴"}
NOISE = 1e-12
"""Values that differ by no more than this share of the larger, or of their usual size, are equal: a
few thousand times the noise of a float64, so that 0.1 + 0.2 == 0.3 and a limit that is met exactly
holds. What equals 0 so is shown as 0."""


class Shown(Struct, frozen=True):
    """A value as text: the number, and the unit that follows it (may be empty)."""

    number: str
    unit: str = ""

    def __str__(self) -> str:
        if not self.unit:
            return self.number
        return f"{self.number}{'' if follows_closely(self.unit) else ' '}{self.unit}"


def follows_closely(unit: str) -> bool:
    """Whether a unit is written without a space after its figure."""
    return unit in ("°", "%", "‰") or unit.startswith((":", "/"))


class DisplayUnits(Struct, frozen=True):
    """The units a study shows its values in (`units mm, deg`)."""

    length: str = "mm"
    angle: str = "deg"
    inch_fraction: int = 16
    others: tuple[tuple[Dimension, str], ...] = ()

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
        if not dimension.length and not dimension.angle:
            known = _OF_THE_TRADE.get(dimension)
            return unit_named(known or base_units(dimension))
        if dimension == power(LENGTH, dimension.length):
            return self._of_length(dimension)
        known = _OF_THE_TRADE.get(dimension)
        if known is None:
            return unit_named(base_units(dimension))
        return unit_named(known.replace("rad", self.angle))

    def _of_length(self, dimension: Dimension) -> Unit:
        """Areas, volumes and the like, in feet where lengths are in feet and inches."""
        symbol = "ft" if self.length == FEET_INCHES else self.length
        degree = dimension.length
        if degree == 1:
            return self.length_unit
        if degree == -1:
            return unit_named(f"1/{symbol}")
        degree_said = f"{degree}" if degree.denominator == 1 else f"({degree})"
        return unit_named(f"{symbol}^{degree_said}")


def show_quantity(
    value: float, dimension: Dimension, units: DisplayUnits, beside: float = 0.0, more: int = 0
) -> Shown:
    """A value in mm, radians, kg and s as a person reads it; 0 where it differs from 0 only by noise.

    `beside` is the size of what it stands beside in a point or a list, of which it has the noise;
    `more` asks for so many digits beyond the usual ones.
    """
    if abs(value) <= noise_of(value, beside, dimension):
        value = 0.0
    if dimension == LENGTH and units.length == FEET_INCHES and not more:
        return Shown(feet_and_inches(value, units.inch_fraction))
    unit = units.unit_for(dimension)
    return shown_in(value, unit, more)


def shown_in(value: float, unit: Unit, more: int = 0) -> Shown:
    """A value in a unit, with its usual digits and as many more as are asked for."""
    number = digits(value / unit.size, _DECIMALS.get(unit.symbol), more)
    return Shown(number, written_unit(unit))


def written_unit(unit: Unit) -> str:
    """The symbol as it is shown: `°`, `mm²`, `/m`."""
    symbol = unit.symbol.removeprefix("1") if unit.symbol.startswith("1/") else unit.symbol
    symbol = re.sub(r"\bdeg\b", "°", symbol)
    return re.sub(r"\^[234](?!\d)", lambda found: _SUPERSCRIPTS[found[0]], symbol)


def told_apart(values: Sequence[float], dimension: Dimension, units: DisplayUnits) -> list[Shown]:
    """Values side by side, with as many digits as tell those apart that differ by more than noise."""
    for more in range(_MOST_DIGITS):
        shown = [show_quantity(value, dimension, units, more=more) for value in values]
        pairs = itertools.pairwise(zip(values, map(str, shown), strict=True))
        if all(a != b or abs(x - y) <= noise_of(x, y, dimension) for (x, a), (y, b) in pairs):
            break
    return shown


def noise_of(a: float, b: float, dimension: Dimension = NUMBER) -> float:
    """By how much two values may differ by noise alone."""
    return NOISE * max(usual_size(dimension), abs(a), abs(b))


def digits(value: float, decimals: int | None = None, more: int = 0) -> str:
    """A number with the given decimals, or six significant digits; never noise, never "-0".

    Small values keep at least three significant digits; `more` adds so many to all.
    """
    if value == 0:
        return "0"
    if not math.isfinite(value):
        return "beyond all figures"
    exponent = math.floor(math.log10(abs(value)))
    if decimals is None:
        decimals = _SIGNIFICANT - 1 - exponent
    elif round(value, decimals) != value:
        decimals = max(decimals, _LEAST_SIGNIFICANT - 1 - exponent)
    if exponent >= 15 or exponent < -6:
        return f"{value:.{_SIGNIFICANT + more}g}"
    text = f"{value:.{max(decimals + more, 0)}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def share_said(share: float) -> str:
    """By what share a figure may be wrong, in words: in percent, by two digits and never less.

    >>> share_said(0.0041234)
    'within 0.42 %'
    """
    percent = 100 * share
    step = 10.0 ** (math.floor(math.log10(percent)) - 1)
    return f"within {digits(math.ceil(percent / step - 1e-9) * step)} %"


def side_by_side(values: Sequence[float], dimension: Dimension, units: DisplayUnits) -> list[Shown]:
    """The items of a list: all with the decimals of the one that has most, none of them false."""
    beside = max(map(abs, values), default=0.0)
    shown = [show_quantity(value, dimension, units, beside) for value in values]
    places = [len(one.number.partition(".")[2]) for one in shown]
    if any(not re.fullmatch(r"-?\d+(\.\d+)?", one.number) for one in shown):
        return shown
    unit, most = units.unit_for(dimension), max(places, default=0)
    if not most or beside / unit.size >= 10 ** (_MOST_DIGITS - most):
        return shown
    return [
        Shown(f"{0.0 if one.number == '0' else value / unit.size:.{most}f}", one.unit)
        for one, value in zip(shown, values, strict=True)
    ]


def feet_and_inches(value: float, fraction: int = 16) -> str:
    """A length in mm as feet, inches and a fraction of an inch, such as `6' 2 1/4"`; one that is less
    than half of the fraction as decimals of an inch."""
    parts = round(abs(value) / 25.4 * fraction)
    if not parts and value:
        return f'{digits(value / 25.4, _DECIMALS["in"])}"'
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
