"""Points and vectors."""

from __future__ import annotations

from typing import Any

import numpy as np

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
