"""What tells things from others."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.geometry.digest import digest
from ovolo.geometry.same import are_distinct, distinct_rows


@given(st.lists(st.tuples(*[st.integers(-3, 3)] * 3), min_size=1, max_size=60), st.booleans())
def test_different_rows_are_those_that_sorting_finds(
    rows: list[tuple[int, int, int]], whole: bool
) -> None:
    """NumPy's own search, which sorts by all columns, finds as many; the first of each stands in the
    order in which they came."""
    given_rows = np.array(rows, dtype=np.int64 if whole else np.float64) * (1 if whole else 0.1) + 0
    first, which = distinct_rows(given_rows)
    assert len(first) == len(np.unique(given_rows, axis=0)) and np.all(np.diff(first) > 0)
    assert np.array_equal(given_rows[first][which], given_rows)
    assert are_distinct(given_rows) == (len(first) == len(given_rows))


@pytest.mark.parametrize(
    "within", [lambda one: one, lambda one: (1, one), lambda one: [(one, "a")]]
)
def test_arrays_are_told_apart_to_their_last_digit(within: object) -> None:
    assert callable(within)
    a, b = np.array([12345.123456789, 1.0]), np.array([12345.12345678901, 1.0])
    assert digest(within(a)) == digest(within(a.copy())) != digest(within(b))


def test_what_stands_within_another_is_not_what_stands_beside_it() -> None:
    assert len({digest((1, 2), 3), digest(1, 2, 3), digest((1,), 2, 3), digest((1, 2, 3))}) == 4
