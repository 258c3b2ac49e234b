"""The stair against Approved Document K (England), 2013: private stairs, rise at most 220 mm,
going at least 220 mm, 550 mm <= 2R + G <= 700 mm; a 100 mm sphere must not pass between
balusters. The figures are also recalled from memory."""

import itertools
import math

import pytest

from tests.sheets import demo_outcome


@pytest.mark.parametrize("height", range(2400, 4201, 45))
def test_every_floor_height_keeps_the_regulation(height: float) -> None:
    outcome = demo_outcome("spiral-stair", {"floor_height": float(height)})
    values = {one.line.name: one.value for one in outcome.lines}
    assert outcome.well
    assert values["rise"] <= 220 and values["going"] >= 220
    assert 550 <= 2 * values["rise"] + values["going"] <= 700
    assert values["rise"] * values["risers"] == pytest.approx(height)


def test_no_sphere_of_100_mm_passes_between_the_balusters_as_drawn() -> None:
    outcome = demo_outcome("spiral-stair")
    (group,) = outcome.parts["balusters"].groups[:1]
    places = [
        (matrix[0, 3], matrix[1, 3])
        for part_group in outcome.parts["balusters"].groups
        for matrix in part_group.matrices
    ]
    places.sort(key=lambda p: math.atan2(p[1], p[0]) % (2 * math.pi))
    diameter = 2 * 9
    neighbours = [math.dist(a, b) for a, b in itertools.pairwise(places) if math.dist(a, b) > 1]
    assert group.shape.closed
    assert max(neighbours) - diameter <= 100
