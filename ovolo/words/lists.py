"""Lists."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ovolo.words.registry import word

Values = Any


@word("list Q -> Q", example="sum([1 mm, 2 mm, 3 mm])", gives="6 mm", gaps="skip")
def sum_(xs: Values) -> float:
    """The sum of a list; of an empty list 0."""
    return math.fsum(np.asarray(xs, dtype=float))


@word("list T -> whole", "text -> whole", example="len([2, 3, 5])", gives="3", gaps="keep")
def len_(xs: Values) -> float:
    """How many items a list has, or characters a text."""
    return float(len(xs))
