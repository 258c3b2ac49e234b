"""Sine and cosine without the rounding of their angle: sin(180°) is 0, not 1.2e-16."""

from __future__ import annotations

from typing import Any

import numpy as np

Values = Any
"""A float, or an array of floats."""

_ROUNDING = 2.0**-51
"""By what share of itself an angle that is computed may be off."""


def sine(angle: Values) -> Values:
    """The sine of an angle in radians; 0 where only the rounding of the angle keeps it from that."""
    return _settled(np.sin(angle), angle)


def cosine(angle: Values) -> Values:
    """The cosine of an angle in radians; 0 where only the rounding of the angle keeps it from that."""
    return _settled(np.cos(angle), angle)


def _settled(value: Values, angle: Values) -> Values:
    """A value fresh from NumPy, without what is only the rounding of its angle."""
    if np.ndim(value) == 0:
        return abs(value) * 0.0 if abs(value) <= _ROUNDING * abs(angle) else value
    few = np.nonzero((value <= _HARDLY) & (value >= -_HARDLY))
    noise = np.abs(value[few]) <= _ROUNDING * np.abs(np.asarray(angle)[few])
    value[few] = np.where(noise, 0.0, value[few])
    return value


_HARDLY = 1e-9
"""Values above this are not worth a second look: no angle that is used is so large."""
