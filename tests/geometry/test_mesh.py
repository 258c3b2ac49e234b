"""Feature edges and normals: crisp where faces meet at an angle, smooth on round things."""

import numpy as np
import pytest

from ovolo.geometry import booleans, primitives
from ovolo.geometry.mesh import Mesh


def test_a_box_has_twelve_edges_and_flat_normals() -> None:
    drawing = primitives.box(1.0, 1.0, 1.0).shape.drawing
    assert len(drawing.edges) == 12
    assert len(drawing.positions) == 24, "three normals at each of eight corners"
    np.testing.assert_allclose(np.abs(drawing.normals).max(axis=1), 1, atol=1e-6)


def test_a_cylinder_has_two_rims_and_round_normals() -> None:
    shape = primitives.cylinder(50.0, 20.0).shape
    drawing = shape.drawing
    count = len(drawing.edges) // 2
    assert len(drawing.edges) == 2 * count and count % 4 == 1, "one side is halved by its start"
    heights = drawing.edges[:, :, 2]
    assert np.all(heights[:, 0] == heights[:, 1]), "no edge runs up the side"
    side = np.abs(drawing.normals[:, 2]) < 0.5
    outward = (
        drawing.positions[side, :2] / np.linalg.norm(drawing.positions[side, :2], axis=1)[:, None]
    )
    np.testing.assert_allclose(drawing.normals[side, :2], outward, atol=0.01)


def test_triangles_of_the_drawing_are_those_of_the_mesh() -> None:
    shape = booleans.combined(
        "-", primitives.box(9.0, 9.0, 9.0), primitives.cylinder(2.0, 20.0)
    ).shape
    drawn = shape.drawing.positions[shape.drawing.triangles]
    np.testing.assert_allclose(drawn, shape.mesh.corners[shape.mesh.triangles], atol=1e-5)


def test_an_open_mesh_is_told() -> None:
    closed = primitives.box(1.0, 1.0, 1.0).mesh
    assert closed.is_closed()
    assert not Mesh(closed.corners, closed.triangles[1:]).is_closed()
    assert closed.volume() == pytest.approx(1) and closed.area() == pytest.approx(6)
