"""Products of vectors in space and in a plane."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from ovolo.geometry.types import Floats


def cross_product(a: ArrayLike, b: ArrayLike) -> Floats:
    """a × b of vectors (..., 3), one by one or one with all. (As that of NumPy to the bit, in a fifth of its time
    where there are few of them.)"""
    a, b = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    product = np.empty(np.broadcast(a, b).shape)
    ax, ay, az = a[..., 0], a[..., 1], a[..., 2]
    bx, by, bz = b[..., 0], b[..., 1], b[..., 2]
    product[..., 0] = ay * bz - az * by
    product[..., 1] = az * bx - ax * bz
    product[..., 2] = ax * by - ay * bx
    return product


def dot_product(a: ArrayLike, b: ArrayLike) -> Floats:
    """a · b of vectors, one by one, along their last axis."""
    found: Floats = np.sum(np.multiply(a, b, dtype=float), axis=-1)
    return found


def plane_product(a: ArrayLike, b: ArrayLike) -> Floats:
    """The height (...) of a × b for vectors (..., 2) of a plane: their lengths times the sine of the turn from
    a to b. What stands in a third column counts for nothing."""
    a, b = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    onward: Floats = a[..., 0] * b[..., 1]
    backward: Floats = a[..., 1] * b[..., 0]
    return onward - backward
