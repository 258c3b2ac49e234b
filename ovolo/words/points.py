"""Points and vectors."""

from __future__ import annotations

from typing import Any

import numpy as np

from ovolo.words.registry import word

Values = Any


@word("Q, angle -> flat point Q", example="polar(2 m, 90°).y", gives="2 m", elementwise=True)
def polar(r: Values, angle: Values) -> Values:
    """The point at distance r from the origin in the direction of angle, in plan.

    r: the distance from the origin
    angle: the direction, anticlockwise from x
    """
    x, y = r * np.cos(angle), r * np.sin(angle)
    return np.stack(np.broadcast_arrays(x, y, 0.0), axis=-1)
