"""Places scattered in regions, against Shapely and against darts tried one by one."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from ovolo.geometry.arrays.scattering import scattered
from ovolo.geometry.regions import region
from ovolo.problems import Failure


def chance(seed: int):  # type: ignore[no-untyped-def]
    def numbers(which: np.ndarray) -> np.ndarray:
        return np.random.default_rng(seed).random(300_000)[which.astype(int)]

    return numbers


@given(st.integers(0, 50), st.floats(20, 90))
def test_scattered_places_lie_within_a_region_with_holes(seed: int, least: float) -> None:
    plate = region.combined("-", region.rectangle(500.0, 300.0), region.disc(80.0))
    found = scattered(plate, chance(seed), least, None)
    ring = shapely.box(-250, -150, 250, 150).difference(shapely.Point(0, 0).buffer(79.9, 128))
    assert shapely.contains_xy(ring, found).all()
    tree = shapely.STRtree(shapely.points(found))
    near = tree.query(shapely.points(found), predicate="dwithin", distance=least * (1 - 1e-9))
    assert np.all(near[0] == near[1]), "nobody but itself is nearer than the least"
    assert len(found) > 0.25 * plate.area / (math.pi * least**2 / 4)


def test_a_wanted_number_is_kept_or_refused() -> None:
    plate = region.rectangle(200.0, 200.0)
    assert len(scattered(plate, chance(1), 0.0, 40)) == 40
    with pytest.raises(Failure, match=r"only \d+ of 500 find room"):
        scattered(plate, chance(1), 30.0, 500)


def test_places_are_those_of_darts_tried_one_by_one() -> None:
    """Darts that are surely too near are left out together; what is found is as if each were tried alone."""
    table = np.random.default_rng(3).random(200_000)

    def chance(numbers: np.ndarray) -> np.ndarray:
        return table[numbers.astype(int) % len(table)]

    found = scattered(region.disc(100.0), chance, 12.0, None)
    low, span, taken = -100.0, 200.0, []
    for at in range(len(table) // 2):
        dart = low + span * table[2 * at], low + span * table[2 * at + 1]
        if math.hypot(*dart) <= 100 and all(math.dist(dart, one) >= 12 for one in taken):
            taken.append(dart)
        if len(taken) == len(found):
            break
    np.testing.assert_allclose(found, taken, rtol=0, atol=1e-9)
