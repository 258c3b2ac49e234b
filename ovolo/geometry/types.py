"""The arrays that geometry is made of; what their rows are is said where they are taken."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
"""Figures in rows of any shape."""

Points = NDArray[np.float64]
"""Places (n, 3) in space, or (n, 2) in a plane; mm."""

Point = NDArray[np.float64]
"""One place, (3,) or (2,); mm."""
