"""Dims of lengths, radii, diameters and angles: stated, measured, drawn, and wrong aloud."""

import math

import numpy as np
import pytest

from ovolo.outcome.dims import Dim
from ovolo.outcome.scene import scene_of
from tests.sheets import demo, problem, run


def dims(*lines: str) -> list[Dim]:
    outcome = run(*lines)
    assert not outcome.problems, [str(one) for one in outcome.problems]
    return outcome.dims


def test_each_form_states_and_measures() -> None:
    found = dims(
        "r = 40 mm", "a = 30°",
        "dim 3 mm from (0 mm, 0 mm) to (3 mm, 0 mm)",
        "dim radius r about (0 mm, 0 mm) through polar(r, 40°)",
        "dim diameter 2 * r about (0 mm, 0 mm) through (r, 0 mm)",
        "dim angle a at (0 mm, 0 mm) from (50 mm, 0 mm) to polar(60 mm, a)",
    )  # fmt: skip
    assert [dim.form for dim in found] == ["length", "radius", "diameter", "angle"]
    assert [round(dim.measured, 9) for dim in found] == [3, 40, 80, round(math.radians(30), 9)]
    units = run().units
    assert [str(dim.shown(units)) for dim in found] == ["3 mm", "R 40 mm", "⌀ 80 mm", "30°"]


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("dim 4 mm from (0 mm, 0 mm) to (3 mm, 0 mm)", "says 4 mm, but the drawing measures 3 mm"),
        ("dim radius 4 mm about (0 mm, 0 mm) through (3 mm, 0 mm)", "says 4 mm, but the drawing measures 3 mm"),
        ("dim diameter 4 mm about (0 mm, 0 mm) through (3 mm, 0 mm)", "measures 6 mm"),
        ("dim angle 31° at (0 mm, 0 mm) from (1 mm, 0 mm) to (1 mm, 1 mm)", "says 31°, but the drawing measures 45°"),
        ("dim angle 3 mm at (0 mm, 0 mm) from (1 mm, 0 mm) to (1 mm, 1 mm)", "what a dim states must be an angle"),
        ("dim radius 3° about (0 mm, 0 mm) through (3 mm, 0 mm)", "what a dim states must be a length"),
        ("dim radius 3 mm about 2 through (3 mm, 0 mm)", "a dim runs from a point to a point"),
    ],
)  # fmt: skip
def test_a_dim_that_disagrees_says_so(line: str, said: str) -> None:
    assert said in problem(line).message


@pytest.mark.parametrize("size", [1e-3, 0.1, 1.0, 10.0, 1e4])
def test_it_says_so_at_any_size(size: float) -> None:
    """A figure that is a hundredth too large is wrong, one that is right to nine digits is not."""

    def wrong(share: float) -> list[bool]:
        far, way = size * share, f"({size * 0.6!r} mm, {size * 0.8!r} mm)"
        outcome = run(
            f"dim {far!r} mm from (0 mm, 0 mm) to {way}",
            f"dim radius {far!r} mm about (0 mm, 0 mm) through {way}",
            f"dim level {far!r} mm at (0 mm, 0 mm, {size!r} mm)",
        )
        assert len(outcome.problems) == sum(one.wrong for one in outcome.dims)
        return [one.wrong for one in outcome.dims]

    assert wrong(1.01) == [True] * 3
    assert wrong(1 + 1e-9) == [False] * 3
    (said,) = run(f"dim {size * 1.01!r} mm from (0 mm, 0 mm) to ({size!r} mm, 0 mm)").problems
    assert f"says {size * 1.01:.9g} mm" in said.message


@pytest.mark.parametrize("turn", [0.0, 17.0, 90.0, 143.0])
def test_the_arc_of_half_a_turn_lies_in_plan(turn: float) -> None:
    """Noise of the points does not stand it up."""
    there = f"polar(800 mm, {turn}°)"
    (dim,) = dims(f"dim angle 180° at (0 mm, 0 mm) from {there} to (0 mm, 0 mm, 1e-9 mm) - {there}")
    assert np.abs(dim.segments[..., 2]).max() < 1e-6


def test_words_of_dims_may_be_names_too() -> None:
    found = dims(
        "radius = 3 mm", "angle = 45°",
        "dim radius from (0 mm, 0 mm) to (radius, 0 mm)",
        "dim angle angle at (0 mm, 0 mm) from (1 mm, 0 mm) to (1 mm, 1 mm)",
        "dim radius radius about (0 mm, 0 mm) through (0 mm, radius)",
    )  # fmt: skip
    assert [(dim.form, dim.name) for dim in found] == [
        ("length", "radius"), ("angle", "angle"), ("radius", "radius"),
    ]  # fmt: skip


def test_the_lines_of_a_length_stand_off_to_its_right() -> None:
    (dim,) = dims("dim 100 mm from (0 mm, 0 mm) to (100 mm, 0 mm) offset 20 mm")
    assert dim.segments.shape == (5, 2, 3), "the line, two ticks, two extension lines"
    assert np.allclose(dim.segments[0], [[0, -20, 0], [100, -20, 0]])
    assert np.allclose(dim.place, [50, -20, 0])
    ticks = dim.segments[1:3]
    ways = ticks[:, 1] - ticks[:, 0]
    assert np.allclose(np.abs(ways[:, 0]), np.abs(ways[:, 1])), "oblique, at 45°"


def test_the_arc_of_an_angle_has_its_radius_and_reaches_both_sides() -> None:
    (dim,) = dims(
        "dim angle 90° at (10 mm, 0 mm) from (60 mm, 0 mm) to (10 mm, 80 mm) offset 30 mm"
    )
    arc = dim.segments[:-2]
    away = np.linalg.norm(arc.reshape(-1, 3) - [10, 0, 0], axis=1)
    assert np.allclose(away, 30)
    assert np.allclose(arc[0, 0], [40, 0, 0]) and np.allclose(arc[-1, 1], [10, 30, 0])


def test_a_hatch_lies_within_its_region_at_its_angle_and_spacing() -> None:
    outcome = run(
        "part p = rect(100 mm, 60 mm) - disc(10 mm) hatch 30°, 5 mm", "part q = disc(4 mm)"
    )
    lines = outcome.parts["p"].hatching
    ways = lines[:, 1] - lines[:, 0]
    assert np.allclose(np.abs(np.degrees(np.arctan2(ways[:, 1], ways[:, 0])) % 180), 30)
    middles = lines.mean(axis=1)
    assert (np.abs(middles[:, 0]) <= 50).all() and (np.hypot(*middles[:, :2].T) >= 10 - 1e-9).all()
    across = middles @ np.array([-math.sin(math.radians(30)), math.cos(math.radians(30)), 0])
    assert np.allclose(across / 5, np.round(across / 5), atol=1e-9)
    length = np.linalg.norm(ways, axis=1).sum()
    assert length * 5 == pytest.approx(100 * 60 - math.pi * 100, rel=0.02), "as area over spacing"
    assert not len(outcome.parts["q"].hatching)


@pytest.mark.parametrize(
    ("hatch", "said"),
    [
        ("hatch 45°, 0 mm", "the spacing of the hatch is 0 mm"),
        ("hatch 45°, 0.001 mm", "at most 4,000 are drawn"),
        ("hatch 5 mm, 45°", "the hatch angle must be an angle"),
    ],
)
def test_a_hatch_that_cannot_be_made(hatch: str, said: str) -> None:
    assert said in problem(f"part p = rect(100 mm, 60 mm) {hatch}").message


def test_only_regions_and_cuts_of_solids_are_hatched() -> None:
    said = problem("part p = circle(1 m) hatch 45°, 5 mm").message
    assert "only regions, and the cuts of solids, are hatched" in said
    assert not run("part p = box(1 m, 1 m, 1 m) hatch 45°, 5 mm").problems


def test_a_fall_of_two_in_twelve() -> None:
    """9.462° (common practice, no source)."""
    outcome = run(*demo("terrace-falls").split("\n"), ratio=2 / 12, run=600.0)
    slope = next(line.value for line in outcome.lines if line.line.name == "slope")
    assert math.degrees(slope) == pytest.approx(9.462, abs=5e-4)
    assert not [p for p in outcome.problems if "dim" in p.message], "the drawn angle is the slope"


@pytest.mark.parametrize(
    "line",
    [
        "dim n from (0 mm, 0 mm) to (n, 0 mm) offset 900 mm",
        "dim n from (0 mm, 0 mm) to (0 mm, 0 mm, n)",
        "dim radius n about (0 mm, 0 mm) through (n, 0 mm)",
        "dim diameter 2 * n about (0 mm, 0 mm) through (n, 0 mm)",
        "dim angle 0° at (0 mm, 0 mm) from (n, 0 mm) to (n, 0 mm)",
        "dim level n at (0 mm, 0 mm, n)",
    ],
)
def test_what_has_shrunk_to_nothing_is_still_drawn(line: str) -> None:
    """At the lower limit of an input a length may be 0; its dim is a point, and sent as such."""
    (dim,) = run("input n = 0 mm", line).dims
    assert np.isfinite(dim.segments).all() and np.isfinite(dim.place).all()
    assert b'"dims"' in scene_of(run("input n = 0 mm", line))
