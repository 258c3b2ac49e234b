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
    near = np.abs(value) <= _ROUNDING * np.abs(angle)
    return np.where(near, 0.0, value)[()] if np.any(near) else value
