"""Trigonometry and roots."""

from __future__ import annotations

from typing import Any

import numpy as np

from ovolo.problems import Failure
from ovolo.quantities.circular import cosine, sine
from ovolo.quantities.show import NOISE
from ovolo.words.registry import word

Values = Any
"""A float, or an array of floats."""


@word("-> number", constant=True, example="2 * pi * 50 mm", gives="314.159265358979 mm")
def pi() -> float:
    """The ratio of a circle's circumference to its diameter."""
    return float(np.pi)


@word("angle or number -> number", example="sin(30°)", gives="0.5", elementwise=True)
def sin(a: Values) -> Values:
    """Sine of an angle; a plain number is read as radians.

    a: the angle
    """
    return sine(a)


@word("angle or number -> number", example="cos(60°)", gives="0.5", elementwise=True)
def cos(a: Values) -> Values:
    """Cosine of an angle; a plain number is read as radians.

    a: the angle
    """
    return cosine(a)


@word("angle or number -> number", example="tan(45°)", gives="1", elementwise=True)
def tan(a: Values) -> Values:
    """Tangent of an angle, the rise per run of a slope; none at 90° and its like.

    a: the angle
    """
    infinite = np.equal(cosine(a), 0)
    if np.any(infinite):
        raise Failure(
            f"the tangent of {_degrees(a, infinite)}° is infinite",
            "keep the angle away from a right angle",
        )
    flat = np.equal(sine(a), 0)
    return np.where(flat, 0.0, np.tan(a))[()] if np.any(flat) else np.tan(a)


def _degrees(a: Values, where: Values) -> str:
    worst = np.atleast_1d(a)[np.atleast_1d(where)][0]
    return f"{np.degrees(worst):g}"


def _within_one(name: str, x: Values) -> None:
    outside = np.abs(x) > 1 + 1e-12
    if np.any(outside):
        worst = float(np.atleast_1d(x)[np.atleast_1d(outside)][0])
        raise Failure(
            f"`{name}` of {worst:.6g} does not exist: no angle has that {_RATIOS[name]}",
            "its value must lie between -1 and 1",
        )


_RATIOS = {"asin": "sine", "acos": "cosine"}


@word("number -> angle", example="asin(0.5)", gives="30°", elementwise=True)
def asin(x: Values) -> Values:
    """The angle between -90° and 90° whose sine is x.

    x: between -1 and 1
    """
    _within_one("asin", x)
    return np.arcsin(np.clip(x, -1.0, 1.0))


@word("number -> angle", example="acos(0.5)", gives="60°", elementwise=True)
def acos(x: Values) -> Values:
    """The angle between 0° and 180° whose cosine is x.

    x: between -1 and 1
    """
    _within_one("acos", x)
    return np.arccos(np.clip(x, -1.0, 1.0))


@word("number -> angle", example="atan(3 m / 4 m)", gives="36.8698976458440°", elementwise=True)
def atan(x: Values) -> Values:
    """The angle between -90° and 90° whose tangent is x: the pitch of a slope rise / run.

    x: rise by run
    """
    return np.arctan(x)


@word("Q, Q -> angle", example="atan2(-1 m, -1 m)", gives="-135°", elementwise=True)
def atan2(y: Values, x: Values) -> Values:
    """The direction of the point (x, y) seen from the origin, between -180° and 180°.

    y: how far along y
    x: how far along x
    """
    return np.arctan2(y, x)


@word(
    "Q^2 -> Q", example="sqrt((3 m)^2 + (4 m)^2)", gives="5 m", elementwise=True, settles=True,
)  # fmt: skip
def sqrt(x: Values) -> Values:
    """Square root; of an area it is a length. What lies below 0 by noise alone is 0.

    x: a number or an area, not below 0
    """
    if np.any(np.less(x, -NOISE)):
        worst = float(np.min(x))
        raise Failure(
            f"the square root of a negative value ({worst:.6g}) does not exist",
            "what stands under the root must be 0 or more",
        )
    return np.sqrt(np.maximum(x, 0.0))


@word("angle -> number", example="300 mm * rad(60°)", gives="314.159265358979 mm", elementwise=True)
def rad(a: Values) -> Values:
    """An angle as the plain number of its radians: an arc is its radius times that.

    a: the angle
    """
    return +a


@word("angle -> number", example="deg(0.5 * pi * 1 rad)", gives="90", elementwise=True)
def deg(a: Values) -> Values:
    """An angle as the plain number of its degrees.

    a: the angle
    """
    return np.degrees(a)
