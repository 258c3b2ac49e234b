"""What belongs together, by the pairs that do."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray


def groups_of(pairs: NDArray[Any], count: int) -> NDArray[np.int64]:
    """The number of the group in which each of some things is (count,), of which pairs (k, 2) belong together."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    joined = coo_array((np.ones(len(pairs)), pairs.T), shape=(count, count))
    _, group = connected_components(joined, directed=False)
    return np.asarray(group, dtype=np.int64)
