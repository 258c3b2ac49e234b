"""Sampling: all at once where a function can, one by one where it cannot, and the same either way."""

import math

import numpy as np
import pytest

from ovolo.geometry.surfaces.sampling import sampled
from ovolo.problems import Failure, OneByOne


class Counted:
    """A function that counts how it was called; `fails` is what it raises for arrays."""

    def __init__(self, fails: Exception | None = None) -> None:
        self.singles, self.arrays, self.fails = 0, 0, fails

    def __call__(self, t: float) -> float:
        self.singles += 1
        if t > 8:
            raise Failure("too far", "stay below 8")
        return math.sin(t)

    def at_once(self, t: np.ndarray) -> np.ndarray:
        self.arrays += 1
        if self.fails is not None:
            raise self.fails
        return np.sin(t)


PLACES = np.linspace(0.0, 6.0, 50)


def test_a_function_that_can_is_asked_once() -> None:
    f = Counted()
    np.testing.assert_allclose(sampled(f, PLACES), np.sin(PLACES))
    assert (f.singles, f.arrays) == (0, 1)


@pytest.mark.parametrize("fails", [OneByOne(), Failure("no", ""), ZeroDivisionError(), FloatingPointError()])  # fmt: skip
def test_a_function_that_cannot_is_asked_for_each(fails: Exception) -> None:
    f = Counted(fails)
    np.testing.assert_allclose(sampled(f, PLACES), np.sin(PLACES))
    assert (f.singles, f.arrays) == (50, 1)


def test_the_first_place_that_cannot_be_is_what_is_said() -> None:
    f = Counted(Failure("something about all of them", ""))
    with pytest.raises(Failure, match="too far"):
        sampled(f, np.linspace(0.0, 20.0, 21))
    assert f.singles == 10, "from 0 to 9, where it fails"


def test_plain_functions_and_single_places() -> None:
    np.testing.assert_allclose(sampled(math.cos, PLACES), np.cos(PLACES))
    f = Counted()
    assert sampled(f, np.array([1.0])).tolist() == [math.sin(1.0)]
    assert (f.singles, f.arrays) == (1, 0)
    points = sampled(lambda u, v: np.array([u, v, u * v]), PLACES, PLACES)
    np.testing.assert_allclose(points, np.column_stack([PLACES, PLACES, PLACES**2]))
