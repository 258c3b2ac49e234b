"""Rounding and choosing. Rounding is robust against float noise.

The rule: a value within 1e-9 of a whole number *is* that number (beyond about a
million, within the noise of a float64 of its size). So floor(0.3 m / 0.1 m) is 3,
although 0.3 / 0.1 is 2.9999999999999996 in floating point.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ovolo.geometry.solids.edge_profile import Finish
from ovolo.problems import Failure
from ovolo.words.registry import word

Values = Any

NOISE = 1e-9
_NO_MULTIPLE = "to round a quantity, say to what multiple: floor(x, 1 mm)"


def snapped(x: Values) -> Values:
    """x, or the whole number it misses only by float noise."""
    whole = np.rint(x)
    tolerance = np.maximum(NOISE, 4 * np.finfo(float).eps * np.abs(x))
    return _scalar(np.where(np.abs(x - whole) <= tolerance, whole, x))


def _scalar(values: Any) -> Values:
    """An array without axes as the one float in it."""
    return values[()]


def _in_multiples(x: Values, multiple: Values, rule: Any) -> Values:
    if multiple is None:
        return rule(snapped(x)) + 0.0
    if np.any(np.less_equal(multiple, 0)):
        raise Failure("the multiple to round to must be more than 0", "for example floor(x, 5 mm)")
    return rule(snapped(x / multiple)) * multiple + 0.0


@word(
    "number -> number", "Q, Q -> Q",
    example="floor(0.3 m / 0.1 m)", gives="3", elementwise=True, hint=_NO_MULTIPLE,
)  # fmt: skip
def floor(x: Values, multiple: Values = None) -> Values:
    """The whole number, or the multiple, at or below x.

    x: the value
    multiple: round to a multiple of this
    """
    return _in_multiples(x, multiple, np.floor)


@word(
    "number -> number", "Q, Q -> Q",
    example="ceil(3240 mm / 190 mm)", gives="18", elementwise=True, hint=_NO_MULTIPLE,
)  # fmt: skip
def ceil(x: Values, multiple: Values = None) -> Values:
    """The whole number, or the multiple, at or above x: ceil(x, 50 mm).

    x: the value
    multiple: round to a multiple of this
    """
    return _in_multiples(x, multiple, np.ceil)


@word(
    "number -> number", "Q, Q -> Q", "radius: length -> edge",
    example="round(-2.5)", gives="-3", elementwise=True, hint=_NO_MULTIPLE,
)  # fmt: skip
def round_(x: Values = None, multiple: Values = None, radius: Values = None) -> Values:
    """The nearest whole number, or multiple; halves go away from zero. Of a length alone: an edge
    rounded by that radius, for the end of an extrusion.

    x: the value
    multiple: round to a multiple of this
    radius: that of a rounded edge
    """
    if radius is not None:
        return Finish("round", float(radius))
    return _in_multiples(x, multiple, _half_away)


def _half_away(x: Values) -> Values:
    doubled = snapped(np.abs(x) * 2) / 2
    return np.copysign(np.floor(doubled + 0.5), x)


@word("Q, Q -> Q", example="mod(-1, 7)", gives="6", elementwise=True)
def mod(a: Values, b: Values) -> Values:
    """What remains of a after whole b's, with the sign of b. Robust against float noise.

    a: the value
    b: what is taken away as often as it fits
    """
    if np.any(np.equal(b, 0)):
        raise Failure("the remainder after division by 0 does not exist", "b must not be 0")
    share = snapped(a / b)
    return _scalar(np.where(share == np.rint(share), 0.0, a - np.floor(share) * b))


@word("Q -> Q", example="abs(-3 mm)", gives="3 mm", elementwise=True)
def abs_(x: Values) -> Values:
    """The size of x without its sign.

    x: the value
    """
    return np.abs(x)


@word("list Q -> Q", "Q, Q, Q... -> Q", example="min(3 mm, 1 cm)", gives="3 mm", elementwise=True)
def min_(first: Values, second: Values = None, *more: Values) -> Values:
    """The least of several values, or of a list.

    first: a value, or a list of values
    second: another value
    more: and further ones
    """
    return _extreme("min", np.minimum, first, second, more)


@word("list Q -> Q", "Q, Q, Q... -> Q", example="max([1, 4, 2])", gives="4", elementwise=True)
def max_(first: Values, second: Values = None, *more: Values) -> Values:
    """The greatest of several values, or of a list.

    first: a value, or a list of values
    second: another value
    more: and further ones
    """
    return _extreme("max", np.maximum, first, second, more)


def _extreme(name: str, rule: Any, first: Values, second: Values, more: tuple[Values, ...]) -> Any:
    if second is None:
        if len(first) == 0:
            raise Failure(
                f"`{name}` of an empty list does not exist", "guard it with `if len(…) > 0`"
            )
        return float(rule.reduce(np.asarray(first, dtype=float)))
    result = rule(first, second)
    for value in more:
        result = rule(result, value)
    return result


@word("Q, Q, Q -> Q", example="clamp(12 mm, 0 mm, 10 mm)", gives="10 mm", elementwise=True)
def clamp(x: Values, lo: Values, hi: Values) -> Values:
    """x, but at least lo and at most hi.

    x: the value
    lo: the least it may be
    hi: the greatest it may be
    """
    if np.any(np.greater(lo, hi)):
        raise Failure("the lower limit of `clamp` is above the upper one", "clamp(x, lo, hi)")
    return np.minimum(np.maximum(x, lo), hi)
