"""Volumes and areas against formulas from geometry, and trimesh and Shapely as witnesses."""

import io
import math

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from ovolo.formats.stl import write_stl
from ovolo.outcome.outcome import outcome_of
from tests.sheets import demo, run, value

_LENGTHS = st.floats(1, 500).map(lambda x: round(x, 2))


@given(_LENGTHS, st.integers(3, 40), _LENGTHS)
def test_prisms_on_regular_polygons(radius: float, sides: int, height: float) -> None:
    """A regular polygon has the area n r² sin(2π/n) / 2; a prism its area times its height."""
    exact = sides * radius**2 * math.sin(2 * math.pi / sides) / 2 * height
    found = value(f"volume(extrude(polygon({sides}, {radius} mm), {height} mm))")
    assert found == pytest.approx(exact, rel=1e-9)


@given(_LENGTHS, _LENGTHS)
def test_cylinders_lie_within_the_chord_tolerance(radius: float, height: float) -> None:
    """The true volume π r² h is missed by less than a shell of the tolerance."""
    exact = math.pi * radius**2 * height
    found = value(f"volume(cylinder({radius} mm, {height} mm))")
    shell = 2 * math.pi * radius * 0.05 * height
    assert exact - shell <= found <= exact


@given(_LENGTHS, _LENGTHS, _LENGTHS, st.floats(0, 360).map(lambda x: round(x, 1)))
def test_regions_against_shapely(w: float, h: float, r: float, angle: float) -> None:
    corners = [(w / 2, h / 2), (-w / 2, h / 2), (-w / 2, -h / 2), (w / 2, -h / 2)]
    box = shapely.affinity.rotate(shapely.Polygon(corners), angle, origin=(0, 0))
    six = shapely.Polygon(
        [(r * math.cos(k * math.pi / 3), r * math.sin(k * math.pi / 3)) for k in range(6)]
    )
    ours = f"rect({w} mm, {h} mm).turn({angle}°)"
    assert value(f"area({ours} + polygon(6, {r} mm))") == pytest.approx(
        box.union(six).area, rel=1e-9
    )
    assert value(f"area({ours} & polygon(6, {r} mm))") == pytest.approx(
        box.intersection(six).area, rel=1e-9
    )


@settings(max_examples=25)
@given(_LENGTHS, _LENGTHS, st.floats(-100, 100).map(lambda x: round(x, 1)))
def test_booleans_against_trimesh(size: float, radius: float, shift: float) -> None:
    outcome = run(
        f"part p = box({size} mm, {size} mm, {size} mm) + cylinder({radius} mm, 90 mm).move({shift} mm)"
    )
    (mesh,) = outcome.parts["p"].meshes()
    witness = trimesh.Trimesh(mesh.corners, mesh.triangles, process=False)
    assert witness.is_watertight and witness.is_winding_consistent
    assert outcome.parts["p"].volume == pytest.approx(witness.volume, rel=1e-9)
    assert outcome.parts["p"].area == pytest.approx(witness.area, rel=1e-9)
    np.testing.assert_allclose(outcome.parts["p"].bounds, witness.bounds, atol=1e-9)


@pytest.mark.parametrize(("name", "part"), [("spiral-stair", "treads"), ("boardwalk", "boards")])
def test_trimesh_reads_our_stl(name: str, part: str) -> None:
    outcome = outcome_of(demo(name))
    data = write_stl(outcome.parts[part].meshes(), outcome.program.title)
    read = trimesh.load_mesh(io.BytesIO(data), file_type="stl")
    assert read.volume == pytest.approx(outcome.parts[part].volume, rel=1e-5)
    assert len(read.faces) == outcome.parts[part].triangles
    assert sum(body.is_watertight for body in read.split()) == outcome.parts[part].count
