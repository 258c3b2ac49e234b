"""Random revolutions and extrusions through STEP: gmsh's kernel reads back their exact volumes.

Volumes by Pappus (the area times the way of its centroid), the cylinder and the prismoid formula.
All are written to files first and read by one child process, for the kernel starts slowly.
"""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest

from ovolo.formats.export import exported
from tests.sheets import run
from tests.witness import in_child

_RNG = np.random.default_rng(20)


def _cases() -> list[tuple[str, float]]:
    """Sheets' parts with their volumes in mm³."""
    found = []
    for _ in range(6):
        w, h, x = (round(float(v), 3) for v in _RNG.uniform([4, 4, 40], [30, 30, 90]))
        a = round(float(_RNG.uniform(5, 359)), 2)
        turn = round(float(_RNG.uniform(-180, 180)), 2)
        found.append(
            (
                f"revolve(rect({w} mm, {h} mm).move(x = {x} mm), {a}°).turn({turn}°, about = (1, 2, 3))",
                w * h * x * math.radians(a),
            )
        )
        r = round(w / 3, 3)
        found.append(
            (f"revolve(disc({r} mm).move(x = {x} mm), {a}°)", math.pi * r * r * x * math.radians(a))
        )
        found.append(
            (
                f"mirror(cone({w} mm, {h} mm, top = {r} mm), y)",
                math.pi * h / 3 * (w * w + w * r + r * r),
            )
        )
        found.append(
            (
                f"extrude(slot({w} mm, {r} mm) - disc({r / 2} mm), {h} mm).turn({turn}°, about = x)",
                h * (2 * w * r + math.pi * r * r * 0.75),
            )
        )
        found.append(
            (
                f"revolve(region([(0 mm, 0 mm), ({x} mm, 0 mm), (0 mm, {h} mm)]))",
                math.pi * x * x * h / 3,
            )
        )
    return found  # fmt: skip


_FLANGE = "cylinder(40 mm, 10 mm) + cylinder(20 mm, 40 mm) - cylinder(12 mm, 50 mm) - ring(cylinder(4 mm, 10 mm).move(30 mm), 6)"
_FLANGE_VOLUME = math.pi * (1600 * 10 + 400 * 30 - 144 * 40 - 6 * 16 * 10)
STACKS = [
    ("box(40 mm, 30 mm, 10 mm) - cylinder(5 mm, 30 mm).move(z = -5 mm)", 12000 - 250 * math.pi, 8),
    ("box(40 mm, 30 mm, 10 mm) + cylinder(8 mm, 20 mm)", 12000 + 640 * math.pi, 9),
    (_FLANGE, _FLANGE_VOLUME, 23),
    (f"mirror({_FLANGE}, x).turn(33°, about = (1, 2, 3))", _FLANGE_VOLUME, 23),
    ("box(40 mm, 40 mm, 40 mm) - box(10 mm, 10 mm, 10 mm).move(z = 10 mm)", 63000.0, 20),
]  # fmt: skip
"""Differences and unions of prisms and cylinders along one direction, with their volumes and the
number of their faces: round ones stay whole."""

CASES = [*_cases(), *((made, volume) for made, volume, _ in STACKS)]


@pytest.mark.parametrize(("made", "volume", "faces"), STACKS)
def test_stacks_have_the_faces_of_a_drawing(made: str, volume: float, faces: int) -> None:
    outcome = run(f"part p = {made}")
    assert outcome.parts["p"].volume == pytest.approx(volume, rel=1e-12)
    assert exported(outcome, "a.step").count(b"ADVANCED_FACE") == faces


def _volumes(paths: list[str]) -> list[list[float]]:
    import gmsh

    gmsh.initialize(interruptible=False)
    gmsh.option.setNumber("General.Terminal", 0)
    found = []
    for path in paths:
        gmsh.clear()
        shapes = gmsh.model.occ.importShapes(path)
        gmsh.model.occ.synchronize()
        found.append([gmsh.model.occ.getMass(d, t) for d, t in shapes if d == 3])
    return found


def test_volumes_are_exact(tmp_path: Path) -> None:
    paths = []
    for number, (made, _) in enumerate(CASES):
        outcome = run(f"part p = {made}")
        assert not outcome.problems, (made, outcome.problems)
        path = tmp_path / f"{number}.step"
        path.write_bytes(exported(outcome, "a.step"))
        assert b"ADVANCED_FACE" in path.read_bytes()
        paths.append(str(path))
    read: list[list[float]] = in_child(lambda: _volumes(paths))
    for (made, volume), solids in zip(CASES, read, strict=True):
        assert solids == [pytest.approx(volume, rel=1e-8)], made


FINISHED = (
    ("extrude(rect(100 mm, 60 mm), 30 mm, top = round(5 mm))", 10),
    ("extrude(rect(100 mm, 60 mm), 30 mm, taper = 5°, top = round(5 mm), bottom = bevel(2 mm))", 14),
    ("extrude(disc(20 mm), 10 mm, top = round(2 mm), bottom = bevel(1 mm))", 8),
    ("extrude(round_corners(rect(100 mm, 60 mm), 12 mm) - disc(10 mm), 30 mm, taper = 3°, top = round(5 mm), bottom = round(2 mm)).turn(33°, about = (1, 2, 3))", 32),
    ("extrude(region([(0 mm, 0 mm), (60 mm, 0 mm), (60 mm, 20 mm), (20 mm, 20 mm), (20 mm, 60 mm), (0 mm, 60 mm)]), -12 mm, top = round(3 mm), bottom = round(2 mm)).mirror(x)", 20),
    ("extrude(slot(40 mm, 12 mm), 12 mm, taper = -4°, bottom = round(3 mm))", 10),
    ("extrude(rect(100 mm, 60 mm), 30 mm, taper = 5°)", 6),
)  # fmt: skip
"""Extrusions with leaning walls and finished edges, and the number of their faces."""


def _measured(paths: list[str]) -> list[tuple[float, float]]:
    import gmsh

    gmsh.initialize(interruptible=False)
    gmsh.option.setNumber("General.Terminal", 0)
    found = []
    for path in paths:
        gmsh.clear()
        gmsh.model.occ.importShapes(path)
        gmsh.model.occ.synchronize()
        mass = gmsh.model.occ.getMass
        volume, area = (sum(mass(d, tag) for _, tag in gmsh.model.getEntities(d)) for d in (3, 2))
        found.append((volume, area))
    return found


def test_finished_extrusions_have_exact_faces_and_measures(tmp_path: Path) -> None:
    """Volume and surface as gmsh's kernel integrates them over planes, cylinders, cones and rings."""
    paths, wanted = [], []
    for number, (made, faces) in enumerate(FINISHED):
        outcome = run(f"part p = {made}")
        part = outcome.parts["p"]
        path = tmp_path / f"{number}.step"
        path.write_bytes(exported(outcome, "a.step"))
        assert path.read_bytes().count(b"ADVANCED_FACE") == faces, made
        assert part.as_json()["exact"] is True
        paths.append(str(path))
        wanted.append((part.volume, part.area))
    read: list[tuple[float, float]] = in_child(lambda: _measured(paths))
    for (made, _), mine, theirs in zip(FINISHED, wanted, read, strict=True):
        assert theirs == pytest.approx(mine, rel=1e-8), made


def test_a_scaled_sphere_is_no_longer_one_and_has_flat_faces() -> None:
    outcome = run("tolerance 2 mm", "part p = scale(sphere(20 mm), x = 1, y = 2, z = 1)")
    written = exported(outcome, "a.step")
    assert b"SPHERICAL_SURFACE" not in written and written.count(b"ADVANCED_FACE") > 50
    assert b"SPHERICAL_SURFACE" in exported(run("part p = scale(sphere(20 mm), 3)"), "a.step")


@pytest.mark.parametrize(
    ("profile", "surface"),
    [
        ("rect(4 mm, 4 mm).move(x = 9 mm)", b"CYLINDRICAL_SURFACE"),
        ("disc(4 mm).move(x = 9 mm)", b"TOROIDAL_SURFACE"),
        ("region([(0 mm, 0 mm), (5 mm, 0 mm), (0 mm, 9 mm)])", b"CONICAL_SURFACE"),
        ("disc(9 mm) & rect(9 mm, 20 mm).move(x = 4.5 mm)", b"SPHERICAL_SURFACE"),
    ],
)
def test_each_piece_of_an_outline_has_its_surface(profile: str, surface: bytes) -> None:
    assert surface in exported(run(f"part p = revolve({profile})"), "a.step")


def test_an_outline_that_bulges_over_the_axis_is_written_flat() -> None:
    """An arc about a centre beyond the axis would be a ring that runs through itself."""
    made = "revolve(disc(10 mm).move(x = -4 mm) & rect(20 mm, 30 mm).move(x = 10 mm))"
    written = exported(run("tolerance 1 mm", f"part p = {made}"), "a.step")
    assert b"TOROIDAL_SURFACE" not in written and written.count(b"ADVANCED_FACE") > 20
