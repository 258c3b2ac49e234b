"""Physical dimensions as exponents of length, angle, mass and time."""

from __future__ import annotations

from fractions import Fraction
from functools import cache
from typing import NamedTuple


class Dimension(NamedTuple):
    """Exponents of the four base dimensions; all zero is a plain number.

    Angle is a dimension of its own here (unlike in the SI), so that a length
    plus an angle, or an angle used as a plain number, is noticed.
    """

    length: Fraction = Fraction(0)
    angle: Fraction = Fraction(0)
    mass: Fraction = Fraction(0)
    time: Fraction = Fraction(0)

    def __str__(self) -> str:
        return dimension_name(self)


NUMBER = Dimension()
LENGTH = Dimension(length=Fraction(1))
ANGLE = Dimension(angle=Fraction(1))
MASS = Dimension(mass=Fraction(1))
TIME = Dimension(time=Fraction(1))
AREA = Dimension(length=Fraction(2))
VOLUME = Dimension(length=Fraction(3))

_NAMES = {
    NUMBER: "number",
    LENGTH: "length",
    ANGLE: "angle",
    AREA: "area",
    VOLUME: "volume",
    MASS: "mass",
    TIME: "time",
}
_DERIVED_NAMES = {
    Dimension(length=Fraction(1), time=Fraction(-1)): "speed",
    Dimension(time=Fraction(-1)): "frequency",
    Dimension(length=Fraction(-3), mass=Fraction(1)): "density",
    Dimension(length=Fraction(1), mass=Fraction(1), time=Fraction(-2)): "force",
    Dimension(length=Fraction(-1), mass=Fraction(1), time=Fraction(-2)): "pressure",
}


@cache
def product(a: Dimension, b: Dimension) -> Dimension:
    return Dimension(*(x + y for x, y in zip(a, b, strict=True)))


@cache
def power(a: Dimension, exponent: Fraction) -> Dimension:
    return Dimension(*(x * exponent for x in a))


def quotient(a: Dimension, b: Dimension) -> Dimension:
    return product(a, power(b, Fraction(-1)))


def kind_name(dimension: Dimension) -> str:
    """The word for a dimension in results: one of the base words, or "other"."""
    return _NAMES.get(dimension, "other")


def dimension_name(dimension: Dimension) -> str:
    """The word for a dimension in messages, without an article."""
    known = _NAMES.get(dimension) or _DERIVED_NAMES.get(dimension)
    return known or f"quantity in {base_units(dimension)}"


@cache
def base_units(dimension: Dimension) -> str:
    """The dimension written in base units, such as `mm^2·kg/s`."""
    symbols = zip(("mm", "rad", "kg", "s"), dimension, strict=True)
    above: list[str] = []
    below: list[str] = []
    for symbol, exponent in symbols:
        if exponent:
            size = abs(exponent)
            written = symbol if size == 1 else f"{symbol}^{size}"
            (above if exponent > 0 else below).append(written)
    return "·".join(above or ["1"]) + "".join(f"/{unit}" for unit in below)
