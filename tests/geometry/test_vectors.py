"""Products of vectors, against NumPy's own."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from ovolo.geometry.vectors import cross_product, dot_product, plane_product

VECTORS = arrays(float, (4, 3), elements=st.floats(-1e6, 1e6))


@given(VECTORS, VECTORS)
def test_a_product_is_that_of_numpy_to_the_bit(a: np.ndarray, b: np.ndarray) -> None:
    for first, second in ((a, b), (a[0], b), (a, b[0]), (a[:, None], b), (a[0], b[0])):
        np.testing.assert_array_equal(cross_product(first, second), np.cross(first, second))


@given(VECTORS, VECTORS)
def test_that_in_a_plane_is_the_height_of_that_in_space(a: np.ndarray, b: np.ndarray) -> None:
    flat = np.array([1.0, 1.0, 0.0])
    for first, second in ((a, b), (a[0], b), (a[:, None], b), (a[0], b[0])):
        whole = np.cross(first * flat, second * flat)[..., 2]
        np.testing.assert_array_equal(plane_product(first, second), whole)
        np.testing.assert_array_equal(plane_product(first[..., :2], second[..., :2]), whole)


@given(VECTORS, VECTORS)
def test_that_of_lengths_and_cosine_is_that_of_numpy(a: np.ndarray, b: np.ndarray) -> None:
    found = dot_product(a, b)
    sizes = np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1)
    assert np.all(np.abs(found - np.diag(a @ b.T)) <= 1e-15 * 4 * sizes + 1e-300)


def test_lists_and_whole_numbers_are_vectors_too() -> None:
    assert cross_product([1, 0, 0], [0, 1, 0]).tolist() == [0.0, 0.0, 1.0]
    with pytest.raises(IndexError):
        cross_product([1, 0], [0, 1])
