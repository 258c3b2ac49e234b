"""The tolerance of a study: how finely what is round is divided."""

import math

import pytest

from tests.sheets import problem, run


def triangles(*lines: str) -> int:
    return run(*lines).parts["p"].triangles


@pytest.mark.parametrize("shape", ["cylinder(100 mm, 10 mm)", "revolve(rect(9 mm, 9 mm).move(90 mm))", "sphere(60 mm)", "pipe(circle(90 mm), 9 mm)"])  # fmt: skip
def test_a_smaller_tolerance_divides_finer_and_a_larger_one_coarser(shape: str) -> None:
    usual = triangles(f"part p = {shape}")
    assert triangles("tolerance 0.005 mm", f"part p = {shape}") > 2 * usual
    assert triangles("tolerance 2 mm", f"part p = {shape}") < usual
    assert triangles(f"part p = {shape}") == usual, "the next study has its own"


def test_volumes_come_nearer_with_it() -> None:
    """Of what is handed over; its stated volume is exact, whatever the tolerance."""
    exact = math.pi * 100**2 * 10
    parts = [
        run(f"tolerance {t} mm", "part p = cylinder(100 mm, 10 mm)").parts["p"]
        for t in (1, 0.1, 0.01)
    ]
    errors = [next(part.meshes()).volume() - exact for part in parts]
    assert errors[0] > errors[1] > errors[2] > 0, "chords lie outside of the circle"
    for t, error in zip((1, 0.1, 0.01), errors, strict=True):
        assert error < t * 2 * math.pi * 100 * 10
    assert [part.volume for part in parts] == pytest.approx([exact] * 3, rel=1e-12)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("tolerance 0 mm", "out of reach"),
        ("tolerance 1 km", "out of reach"),
        ("tolerance 3", "a length that is written out"),
        ("tolerance a", "a length that is written out"),
    ],
)
def test_a_tolerance_that_is_none(line: str, said: str) -> None:
    assert said in problem("a = 1 mm", line).message


def test_tolerance_may_still_be_a_name() -> None:
    assert not run("tolerance = 3 mm", "b = tolerance * 2").problems
