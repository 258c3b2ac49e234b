"""Products of vectors, against NumPy's own."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from ovolo.geometry.vectors import cross_product

VECTORS = arrays(float, (4, 3), elements=st.floats(-1e6, 1e6))


@given(VECTORS, VECTORS)
def test_a_product_is_that_of_numpy_to_the_bit(a: np.ndarray, b: np.ndarray) -> None:
    for first, second in ((a, b), (a[0], b), (a, b[0]), (a[:, None], b), (a[0], b[0])):
        np.testing.assert_array_equal(cross_product(first, second), np.cross(first, second))


def test_lists_and_whole_numbers_are_vectors_too() -> None:
    assert cross_product([1, 0, 0], [0, 1, 0]).tolist() == [0.0, 0.0, 1.0]
    with pytest.raises(IndexError):
        cross_product([1, 0], [0, 1])
