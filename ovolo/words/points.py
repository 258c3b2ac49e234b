"""Points and vectors."""

from __future__ import annotations

from typing import Any

import numpy as np

from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure
from ovolo.quantities.circular import cosine, sine
from ovolo.words.registry import word

Values = Any


@word("Q, angle -> flat point Q", example="polar(2 m, 90°).y", gives="2 m", elementwise=True)
def polar(r: Values, angle: Values) -> Values:
    """The point at distance r from the origin in the direction of angle, in plan.

    r: the distance from the origin
    angle: the direction, anticlockwise from x
    """
    x, y = r * cosine(angle), r * sine(angle)
    return np.stack(np.broadcast_arrays(x, y, 0.0), axis=-1)


@word(
    "point Q, point Q -> point Q",
    example="mid((0 m, 0 m), (2 m, 4 m)).y",
    gives="2 m",
    elementwise=True,
)
def mid(a: Values, b: Values) -> Values:
    """The point halfway between two points.

    a: the one
    b: the other
    """
    return (a + b) / 2


@word(
    "point Q, point Q, number -> point Q",
    example="between((0 m, 0 m), (2 m, 4 m), 1/4).y", gives="1 m", elementwise=True,
)  # fmt: skip
def between(a: Values, b: Values, share: Values) -> Values:
    """The point at a share of the way from a to b.

    a: at share 0
    b: at share 1
    share: how far; below 0 and above 1 it lies beyond them
    """
    return a + np.asarray(share)[..., None] * (b - a)


@word("point Q -> Q", example="norm((3 m, 4 m))", gives="5 m", elementwise=True)
def norm(a: Values) -> Values:
    """The length of a vector.

    a: the vector
    """
    return np.linalg.norm(a, axis=-1)


@word("point Q -> point Q^0", example="unit((3 m, 4 m)).y", gives="0.8", elementwise=True)
def unit(a: Values) -> Values:
    """The direction of a vector: of length 1, without a unit.

    a: the vector
    """
    size = np.linalg.norm(a, axis=-1)
    _refuse_nothing(size)
    return a / np.asarray(size)[..., None]


def _refuse_nothing(size: Values) -> None:
    if np.any(np.equal(size, 0)):
        raise Failure(
            "a vector without length has no direction", "guard it, for example with `if a == b`"
        )


@word("point Q, point R -> Q*R", example="dot((1 m, 2 m), (3, 4))", gives="11 m", elementwise=True)
def dot(a: Values, b: Values) -> Values:
    """The dot product: the length of one along the other, times the other's length.

    a: the one
    b: the other
    """
    return dot_product(a, b)


@word(
    "point Q, point R -> point Q*R",
    example="cross((1 m, 0 m), (0 m, 1 m)).z", gives="1 m^2", elementwise=True,
)  # fmt: skip
def cross(a: Values, b: Values) -> Values:
    """The cross product: square to both, as long as the area they span is large.

    a: the one
    b: the other
    """
    return cross_product(a, b)


@word(
    "point Q, point R -> point Q", "point Q, across: point R, at: point Q? -> point Q",
    example="project((3 m, 4 m), (2, 0)).x", gives="3 m", elementwise=True,
)  # fmt: skip
def project(a: Values, onto: Values = None, across: Values = None, at: Values = None) -> Values:
    """A vector onto a direction: the part of it that goes that way; or a point onto the plane through
    `at` that lies `across` a direction.

    a: the vector, or the point
    onto: the direction
    across: instead of it, the direction that the plane is square to
    at: a point of the plane; the origin where it is not said
    """
    way = onto if across is None else across
    square = dot_product(way, way)
    _refuse_nothing(square)
    base = np.zeros(3) if at is None else at
    share = dot_product(np.asarray(a) - base, way) / square
    along = np.asarray(share)[..., None] * way
    return along if across is None else a - along
