"""How corners are picked: by their number, their angle and their place."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.curves.corners import corner_angles
from ovolo.geometry.curves.curve import Curve

CORNER = "{index: whole, angle: angle, at: point}"
"""What a condition on a corner is given."""

Condition = Callable[[dict[str, Any]], bool]


def wanted_corners(
    where: Condition | None,
) -> Callable[[int, float, NDArray[np.float64]], bool] | None:
    """A condition of a sheet as the kernel takes it."""
    if where is None:
        return None
    return lambda index, angle, at: bool(where({"index": float(index), "angle": angle, "at": at}))


def chosen_corners(curve: Curve, at: Any, where: Condition | None) -> list[int] | None:
    """The numbers of the corners of a curve that are picked; None for all."""
    numbers = None if at is None else [int(one) for one in at]
    wanted = wanted_corners(where)
    if wanted is None:
        return numbers
    angles = enumerate(corner_angles(curve))
    found = [index for index, (angle, place) in angles if wanted(index, angle, place)]
    return found if numbers is None else [one for one in numbers if one in found]
