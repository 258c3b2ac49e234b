"""Feature edges and normals: crisp where faces meet at an angle, smooth on round things."""

from typing import Any

import numpy as np
import pytest
import trimesh

from ovolo.geometry.meshes.mesh import Mesh, drawing_of, neighbours
from ovolo.geometry.solids import booleans, primitives


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


def _bored_box() -> Mesh:
    solid = booleans.combined("-", primitives.box(9.0, 9.0, 9.0), primitives.cylinder(2.0, 20.0))
    return solid.shape.mesh


def _normals_at_corners(mesh: Mesh) -> np.ndarray:
    drawing = drawing_of(mesh)
    assert len(np.unique(drawing.triangles)) == len(drawing.positions), "each corner is used"
    return drawing.normals[drawing.triangles]


def test_a_drawing_does_not_depend_on_the_order_of_triangles() -> None:
    mesh = _bored_box()
    order = np.random.default_rng(3).permutation(len(mesh.triangles))
    shuffled = Mesh(mesh.corners, np.ascontiguousarray(mesh.triangles[order]))
    straight, other = _normals_at_corners(mesh), _normals_at_corners(shuffled)
    np.testing.assert_allclose(other, straight[order], atol=1e-6)
    assert len(drawing_of(mesh).positions) == len(drawing_of(shuffled).positions)
    assert len(drawing_of(mesh).edges) == len(drawing_of(shuffled).edges)


@pytest.mark.parametrize("size", [1.0, 10.0, 1e-3])
def test_a_drawing_turns_and_grows_with_its_mesh(size: float) -> None:
    mesh = _bored_box()
    a, b = np.radians(31), np.radians(-72)
    turn = np.array([[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1]])
    turn = turn @ [[1, 0, 0], [0, np.cos(b), -np.sin(b)], [0, np.sin(b), np.cos(b)]]
    moved = Mesh(size * mesh.corners @ turn.T + [5.0, -3.0, 2.0], mesh.triangles)
    np.testing.assert_allclose(
        _normals_at_corners(moved), _normals_at_corners(mesh) @ turn.T, atol=1e-5
    )
    assert len(drawing_of(moved).edges) == len(drawing_of(mesh).edges)


def test_normals_of_what_is_smooth_are_those_that_trimesh_finds() -> None:
    """Weighted by the angle at each corner, there as well."""
    ball: Any = trimesh.creation.icosphere(3, 7.0)
    ball.apply_scale((1.0, 1.2, 0.9))
    drawing = drawing_of(Mesh(np.asarray(ball.vertices), np.asarray(ball.faces, dtype=np.int32)))
    assert len(drawing.positions) == len(ball.vertices) and not len(drawing.edges)
    wanted = trimesh.geometry.weighted_vertex_normals(
        len(ball.vertices), ball.faces, ball.face_normals, ball.face_angles
    )
    np.testing.assert_allclose(drawing.normals, wanted, atol=1e-5)


def test_a_mesh_without_triangles_has_no_edges() -> None:
    nothing = Mesh(np.zeros((0, 3)), np.zeros((0, 3), np.int32))
    assert [len(one) for one in neighbours(nothing, np.zeros((3, 0)), 0.5)] == [0, 0, 0]
