"""Values of a function at many places: all at once where it can, else one by one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from ovolo.problems import Failure, OneByOne


@runtime_checkable
class AtOnce(Protocol):
    """A function that can also be given arrays of n values, and then gives n results. Raises
    OneByOne where it cannot."""

    def at_once(self, *values: NDArray[np.float64]) -> Any: ...


def sampled(f: Callable[..., Any], *places: NDArray[np.float64]) -> NDArray[np.float64]:
    """f(a, b, …) for each row of arrays (n,): figures (n,) or points (n, 3). Whatever goes wrong is
    what goes wrong one by one, so that it is said of the first place that cannot be."""
    if isinstance(f, AtOnce) and len(places[0]) > 1:
        try:
            found: NDArray[np.float64] = np.asarray(f.at_once(*places), dtype=float)
            return found
        except (Failure, OneByOne, FloatingPointError, OverflowError, ZeroDivisionError):
            pass
    rows = zip(*(place.tolist() for place in places), strict=True)
    return np.array([np.asarray(f(*row), dtype=float) for row in rows])
