"""Physical dimensions as exponents of length, angle, mass and time."""

from __future__ import annotations

from fractions import Fraction
from functools import cache
from typing import ClassVar


class Dimension:
    """Exponents of the four base dimensions; all zero is a plain number.

    Angle is a dimension of its own here (unlike in the SI), so that a length
    plus an angle, or an angle used as a plain number, is noticed. There is one object
    for each dimension, so they are compared by identity, which is fast.
    """

    __slots__ = ("angle", "length", "mass", "time")
    _known: ClassVar[dict[tuple[Fraction, ...], Dimension]] = {}

    length: Fraction
    angle: Fraction
    mass: Fraction
    time: Fraction

    def __new__(
        cls,
        length: Fraction | int = 0,
        angle: Fraction | int = 0,
        mass: Fraction | int = 0,
        time: Fraction | int = 0,
    ) -> Dimension:
        key = (Fraction(length), Fraction(angle), Fraction(mass), Fraction(time))
        found = cls._known.get(key)
        if found is None:
            found = cls._known[key] = super().__new__(cls)
            found.length, found.angle, found.mass, found.time = key
        return found

    def __reduce__(self) -> tuple[type[Dimension], tuple[Fraction, ...]]:
        return Dimension, self.exponents

    @property
    def exponents(self) -> tuple[Fraction, ...]:
        return self.length, self.angle, self.mass, self.time

    def __str__(self) -> str:
        return dimension_name(self)

    def __repr__(self) -> str:
        return f"<{dimension_name(self)}>"


NUMBER = Dimension()
LENGTH = Dimension(length=1)
ANGLE = Dimension(angle=1)
MASS = Dimension(mass=1)
TIME = Dimension(time=1)
AREA = Dimension(length=2)
VOLUME = Dimension(length=3)
DENSITY = Dimension(length=-3, mass=1)

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
    Dimension(length=1, time=-1): "speed",
    Dimension(time=-1): "frequency",
    Dimension(length=-3, mass=1): "density",
    Dimension(length=1, mass=1, time=-2): "force",
    Dimension(length=-1, mass=1, time=-2): "pressure",
}


@cache
def product(a: Dimension, b: Dimension) -> Dimension:
    return Dimension(*(x + y for x, y in zip(a.exponents, b.exponents, strict=True)))


@cache
def power(a: Dimension, exponent: Fraction | int) -> Dimension:
    return Dimension(*(x * exponent for x in a.exponents))


@cache
def quotient(a: Dimension, b: Dimension) -> Dimension:
    return product(a, power(b, -1))


def kind_name(dimension: Dimension) -> str:
    """The word for a dimension in results: one of the base words, or "other"."""
    return _NAMES.get(dimension, "other")


def dimension_name(dimension: Dimension) -> str:
    """The word for a dimension in messages, without an article."""
    known = _NAMES.get(dimension) or _DERIVED_NAMES.get(dimension)
    return known or f"quantity in {base_units(dimension)}"


@cache
def usual_size(dimension: Dimension) -> float:
    """The size, in mm, radians, kg and s, at which quantities of a dimension are at home: 1 mm, rad,
    kg, s, and what is made of them. What is so much for each length, area or volume (a density, a
    load) is counted by the metre, as the SI does."""
    return float(1e3 ** min(float(dimension.length), 0.0))


@cache
def base_units(dimension: Dimension) -> str:
    """The dimension written in base units, such as `mm^2·kg/s`."""
    symbols = zip(("mm", "rad", "kg", "s"), dimension.exponents, strict=True)
    above: list[str] = []
    below: list[str] = []
    for symbol, exponent in symbols:
        if exponent:
            size = abs(exponent)
            degree = f"({size})" if size.denominator > 1 else f"{size}"
            written = symbol if size == 1 else f"{symbol}^{degree}"
            (above if exponent > 0 else below).append(written)
    return "·".join(above or ["1"]) + "".join(f"/{unit}" for unit in below)
