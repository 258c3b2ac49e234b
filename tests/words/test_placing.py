"""Placing and measuring, as formulas."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.sheets import problem, run, value

_ANGLES = st.floats(-360, 360).map(lambda a: round(a, 2))


@pytest.mark.parametrize(
    ("expression", "wanted"),
    [
        ("move((1 mm, 2 mm), 3 mm)", [4, 2]),
        ("move((1 mm, 2 mm, 0 mm), z = 3 mm)", [1, 2, 3]),
        ("move((1 mm, 2 mm, 3 mm), (1 mm, 1 mm, 1 mm))", [2, 3, 4]),
        ("turn((1 mm, 0 mm, 0 mm), 90°, y)", [0, 0, -1]),
        ("turn((2 mm, 0 mm), 180°, at = (1 mm, 0 mm))", [0, 0]),
        ("level(box(1 m, 1 m, 1 m).move(z = -2 m))", -2000),
        ("width([rect(1 m, 1 m), rect(1 m, 1 m).move(4 m)])", 5000),
        ("depth(box(1 m, 2 m, 3 m).turn(90°))", 1000),
        ("height(rect(1 m, 1 m))", 0),
        ("area([rect(1 m, 1 m), rect(2 m, 1 m)])", 3e6),
        ("area(box(1 m, 1 m, 1 m))", 6e6),
        ("volume([box(1 m, 1 m, 1 m) for i in 0 .. 4])", 5e9),
        ("volume([])", 0),
        ("distance((0 m, 0 m), (3 m, 4 m))", 5000),
    ],
)
def test_values(expression: str, wanted: object) -> None:
    assert value(expression) == pytest.approx(wanted, abs=1e-9)


@given(_ANGLES, _ANGLES)
def test_turning_twice_is_turning_by_the_sum(a: float, b: float) -> None:
    one = value(f"(3 mm, 1 mm, 2 mm).turn({a}°).turn({b}°)")
    other = value(f"(3 mm, 1 mm, 2 mm).turn({a}° + {b}°)")
    assert one == pytest.approx(other, abs=1e-9)


@given(_ANGLES, st.floats(0.1, 5), st.floats(0.1, 5))
def test_turning_keeps_volume_and_area(angle: float, x: float, y: float) -> None:
    part = run(f"part p = box(2 m, 3 m, 4 m).turn({angle}°, ({x:.3f}, {y:.3f}, 1))").parts["p"]
    assert part.volume == pytest.approx(24e9) and part.area == pytest.approx(52e6)


def test_lists_of_anything_are_placed_together() -> None:
    outcome = run(
        "solids = [box(1 m, 1 m, (i + 1) * 1 m) for i in 0 .. 2]",
        "part p = solids.move(x = 5 m).turn(90°)",
        "points = [(i * 1 m, 0 m) for i in 0 .. 2].move(z = 1 m)",
    )
    assert outcome.parts["p"].bounds == [
        pytest.approx([-500, 4500, 0]),
        pytest.approx([500, 5500, 3000]),
    ]
    np.testing.assert_allclose(outcome.lines[-1].value[:, 2], 1000)


def test_gaps_keep_their_places_when_a_list_is_moved() -> None:
    outcome = run(
        "a = [extrude(rect(1 m, 1 m), i * 1 m) for i in 0 .. 2]",
        "b = a.move(1 m)",
        "c = b[2]",
        "d = b[0]",
    )
    assert outcome.lines[2].has_value and not outcome.lines[3].has_value


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("x = width([])", "an empty list has no bounds"),
        ("x = move(3, 1 mm)", "`move` wants a solid, a region, a curve or a point"),
        ("x = turn(disc(1 m), 30)", "`turn` wants an angle"),
        ("x = disc(1 m).move(1)", "`move` wants a length for `x`"),
    ],
)
def test_problems(line: str, message: str) -> None:
    assert message in problem(line).message


@pytest.mark.parametrize("named", [("x",), ("y",), ("z",), ("x", "y"), ("x", "z"), ("y", "z"), ("x", "y", "z"), ("z", "x")])  # fmt: skip
def test_lengths_given_by_name_go_where_their_name_says(named: tuple[str, ...]) -> None:
    said = {"x": 1.0, "y": 2.0, "z": 3.0}
    given = ", ".join(f"{name} = {said[name]} mm" for name in named)
    wanted = [said[name] if name in named else 0.0 for name in "xyz"]
    place = [value(f"move((0 mm, 0 mm, 0 mm), {given}).{axis}") for axis in "xyz"]
    assert place == wanted
    corner = [value(f"bounds(box(2 mm, 2 mm, 2 mm).move({given})).high.{axis}") for axis in "xyz"]
    assert corner == [wanted[0] + 1, wanted[1] + 1, wanted[2] + 2]


def test_a_point_that_leaves_the_plan_shows_how_high_it_lies() -> None:
    """Written with two coordinates, it has three once it is moved upwards, alone, in a list and in a text."""
    assert value("(1 m, 0 m).move(z = 3 m)") == [1000, 0, 3000]
    assert value("(1 m, 2 m).move(1 m, 0 m)") == [2000, 2000]
    assert value("[(1 m, 2 m), (3 m, 4 m)].move(z = 1 m)") == [
        [1000, 2000, 1000],
        [3000, 4000, 1000],
    ]
    assert value('"at {(1 m, 0 m).move(z = 3 m)}"') == "at (1000 mm, 0 mm, 3000 mm)"
