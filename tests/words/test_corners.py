"""Corners picked by their number, their angle and their place."""

import math

import pytest

from tests.sheets import problem, value

ELL = "region([(0 m, 0 m), (4 m, 0 m), (4 m, 1 m), (1 m, 1 m), (1 m, 4 m), (0 m, 4 m)])"
CUT = (1 - math.pi / 4) * 0.2**2
"""What rounding a square corner by 0.2 takes off, in m² (a circle in its square)."""


@pytest.mark.parametrize(
    ("where", "taken"),
    [
        ("", 5 * CUT - CUT),
        (", where = c -> c.angle < 180°", 5 * CUT),
        (", where = c -> c.angle > 180°", -CUT),
        (", where = c -> c.index == 0", CUT),
        (", where = c -> c.at.x == 4 m", 2 * CUT),
        (", where = c -> no", 0),
    ],
)
def test_corners_of_a_region(where: str, taken: float) -> None:
    rounded = value(f"area({ELL}) - area(round_corners({ELL}, 200 mm{where}))")
    assert rounded == pytest.approx(taken * 1e6, abs=1e-4)


def test_corners_of_holes_are_measured_inside_the_region() -> None:
    plate = "(rect(3 m, 2 m) - rect(1 m, 1 m))"
    hole_only = value(f"area(round_corners({plate}, 200 mm, where = c -> c.angle > 180°)) - area({plate})")  # fmt: skip
    assert hole_only == pytest.approx(4 * CUT * 1e6, abs=1e-4)


def test_corners_of_a_curve() -> None:
    line = "polyline([(0 m, 0 m), (1 m, 0 m), (1 m, 1 m), (2 m, 3 m)])"
    square = value(f"length({line}) - length(fillet({line}, 100 mm, where = c -> c.angle <= 90°))")
    assert square == pytest.approx((2 - math.pi / 2) * 100)
    cut = value(f"length({line}) - length(chamfer({line}, 100 mm, where = c -> c.index == 0))")
    assert cut == pytest.approx((2 - math.sqrt(2)) * 100)
    both = value(f"length(fillet({line}, 100 mm, [0, 1], where = c -> c.angle > 90°))")
    assert both > value(f"length(fillet({line}, 100 mm))")


def test_corners_of_a_region_are_cut_off() -> None:
    assert value("area(rect(3 m, 2 m)) - area(chamfer(rect(3 m, 2 m), 500 mm))") == pytest.approx(
        4 * 0.125e6
    )


def test_a_condition_must_be_one() -> None:
    assert (
        "yes/no" in problem("r = round_corners(rect(3 m, 2 m), 1 m, where = c -> c.angle)").message
    )
