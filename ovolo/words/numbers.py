"""Powers, logarithms and whole numbers."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ovolo.problems import Failure
from ovolo.words.registry import word
from ovolo.words.rounding import snapped

Values = Any
"""A float, or an array of floats."""

_NOTHING = 1e-15
"""What is smaller than this has no sign: it is the noise of figures about 1."""


@word("number -> number", example="exp(1)", gives="2.718281828459045", elementwise=True)
def exp(x: Values) -> Values:
    """The exponential e^x.

    x: the exponent
    """
    return np.exp(x)


@word("number -> number", example="ln(exp(2))", gives="2", elementwise=True)
def ln(x: Values) -> Values:
    """The natural logarithm of x, to the base e.

    x: a number above 0
    """
    return np.log(_above_0(x, "ln"))


@word("number -> number", example="log10(1000)", gives="3", elementwise=True)
def log10(x: Values) -> Values:
    """The logarithm of x to the base 10.

    x: a number above 0
    """
    return np.log10(_above_0(x, "log10"))


def _above_0(x: Values, name: str) -> Values:
    if np.any(np.less_equal(x, 0)):
        raise Failure(
            f"`{name}` of {float(np.min(x)):.6g} does not exist",
            "only numbers above 0 have a logarithm",
        )
    return x


@word("number -> number", example="sinh(0)", gives="0", elementwise=True)
def sinh(x: Values) -> Values:
    """The hyperbolic sine, (e^x - e^-x) / 2.

    x: a number
    """
    return np.sinh(x)


@word("number -> number", example="cosh(0)", gives="1", elementwise=True)
def cosh(x: Values) -> Values:
    """The hyperbolic cosine, (e^x + e^-x) / 2: the shape of a chain.

    x: a number
    """
    return np.cosh(x)


@word("number -> number", example="tanh(ln(3))", gives="0.8", elementwise=True)
def tanh(x: Values) -> Values:
    """The hyperbolic tangent, sinh(x) / cosh(x).

    x: a number
    """
    return np.tanh(x)


@word("Q -> number", example="sign(-3 mm)", gives="-1", elementwise=True)
def sign(x: Values) -> Values:
    """1 where x is above 0, -1 where it is below, 0 where it is 0 (noise aside).

    x: the value
    """
    return np.where(np.abs(x) <= _NOTHING, 0.0, np.sign(x))[()]


@word("number -> number", example="fraction(-0.25)", gives="0.75", elementwise=True)
def fraction(x: Values) -> Values:
    """What x is above the whole number at or below it: from 0, with 1 left out. A value within 1e-9
    of a whole number has none.

    x: the number
    """
    near = snapped(x)
    return near - np.floor(near)


@word(
    "whole, whole, whole... -> whole", "list whole -> whole",
    example="gcd(48, 36)", gives="12",
)  # fmt: skip
def gcd(first: Any, second: float | None = None, *more: float) -> float:
    """The greatest common divisor of whole numbers; 0 of zeros alone.

    first: a whole number, or a list of them
    second: another one
    more: and further ones
    """
    numbers = np.ravel(first) if second is None else [first, second, *more]
    return float(math.gcd(*(int(number) for number in numbers)))
