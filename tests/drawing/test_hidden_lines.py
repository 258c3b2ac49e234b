"""Edges that are seen and edges that are hidden, against figures by hand and a ray cast by trimesh."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from ovolo.drawing.figures import AXONOMETRIC
from ovolo.drawing.hidden_lines import Edges, chained, edges_seen
from ovolo.drawing.views import FRONT, PLAN, SIDE, View
from ovolo.geometry.types import Points
from tests.sheets import run


def seen_of(view: View, *lines: str) -> tuple[Edges, trimesh.Trimesh]:
    outcome = run("units mm, deg", *lines)
    assert not outcome.problems
    placed = [
        (group.shape, view.matrix @ matrix)
        for part in outcome.parts.values()
        for group in part.groups
        for matrix in group.matrices
    ]
    meshes = [
        trimesh.Trimesh(shape.mesh.corners @ matrix[:3, :3].T + matrix[:3, 3], shape.mesh.triangles)
        for shape, matrix in placed
    ]
    return edges_seen(placed), trimesh.util.concatenate(meshes)


def length(pieces: Points) -> float:
    return float(np.linalg.norm(pieces[:, 1] - pieces[:, 0], axis=1).sum())


def test_a_cube_by_hand() -> None:
    # Isometric: every edge is seen at √(2/3) of its length; nine are in front, three behind.
    edges, _ = seen_of(AXONOMETRIC, "part a = box(30 mm, 30 mm, 30 mm)")
    each = 30 * math.sqrt(2 / 3)
    assert length(edges.seen) == pytest.approx(9 * each)
    assert length(edges.hidden) == pytest.approx(3 * each)
    front, _ = seen_of(FRONT, "part a = box(30 mm, 30 mm, 30 mm)")
    assert length(front.seen) == pytest.approx(120) and not len(front.hidden), "those behind lie under those before"  # fmt: skip


def test_one_before_the_other_by_hand() -> None:
    lines = "part a = box(20 mm, 20 mm, 10 mm)", "part b = box(10 mm, 20 mm, 30 mm).move(y = 50 mm)"
    edges, _ = seen_of(FRONT, *lines)
    # All of the front one; of the other what stands above it, without its foot: 10 + 2 × 20.
    assert length(edges.seen) == pytest.approx(2 * (20 + 10) + 10 + 2 * 20)
    assert length(edges.hidden) == pytest.approx(2 * 10), (
        "its uprights; its foot lies under that of the other"
    )


def test_a_ball_is_a_circle() -> None:
    edges, _ = seen_of(SIDE, "part a = sphere(20 mm)")
    assert length(edges.seen) == pytest.approx(2 * math.pi * 20, rel=2e-3) and not len(edges.hidden)


def test_a_bore_is_hidden_but_for_its_mouth() -> None:
    edges, _ = seen_of(
        FRONT, "part a = box(40 mm, 40 mm, 20 mm) - cylinder(8 mm, 60 mm).move(z = -10 mm)"
    )
    assert length(edges.seen) == pytest.approx(2 * (40 + 20))
    assert length(edges.hidden) == pytest.approx(2 * 20, rel=1e-3), "both sides of the bore"
    above, _ = seen_of(
        PLAN, "part a = box(40 mm, 40 mm, 20 mm) - cylinder(8 mm, 60 mm).move(z = -10 mm)"
    )
    assert length(above.seen) == pytest.approx(160 + 2 * math.pi * 8, rel=2e-3)


@given(
    sizes=st.lists(st.tuples(*[st.integers(2, 30)] * 3, *[st.integers(-30, 30)] * 3, st.integers(0, 90)), min_size=1, max_size=4),
    view=st.sampled_from([PLAN, FRONT, SIDE, AXONOMETRIC]),
)  # fmt: skip
def test_a_ray_cast_agrees(sizes: list[tuple[int, ...]], view: View) -> None:
    """From the middle of every piece towards the viewer: a seen one meets nothing, a hidden one something."""
    lines = [
        f"part p{at} = box({a} mm, {b} mm, {c} mm).turn({turn}°, z).turn({turn / 3:.3f}°, x).move({x} mm, {y} mm, {z} mm)"
        for at, (a, b, c, x, y, z, turn) in enumerate(sizes)
    ]
    edges, mesh = seen_of(view, *lines)
    for pieces, hidden in ((edges.seen, False), (edges.hidden, True)):
        long = pieces[np.linalg.norm(pieces[:, 1] - pieces[:, 0], axis=1) > 0.5][:40]
        middles = long.mean(axis=1)
        top = np.column_stack([middles, np.full(len(middles), 500.0)])
        depth, own = _depths(mesh, top), _edge_depths(mesh, middles, hidden)
        # Where a ray meets just the edge itself, or grazes its face, it says nothing.
        told = np.isfinite(depth) & np.isfinite(own) & (np.abs(depth - own) > 0.02)
        assert np.all(depth[told] > own[told]) if hidden else not told.any()


def _depths(mesh: trimesh.Trimesh, top: Points) -> Points:
    """The height of the first face that a ray from above meets; none where it meets nothing (Möller and
    Trumbore, Fast, minimum storage ray/triangle intersection, 1997)."""
    a, e, f = mesh.triangles[:, 0], *(mesh.triangles[:, at] - mesh.triangles[:, 0] for at in (1, 2))
    down = np.array([0.0, 0.0, -1.0])
    p = np.cross(down, f)
    det = np.einsum("ij,ij->i", e, p)
    found = np.full(len(top), np.nan)
    for at, origin in enumerate(top):
        with np.errstate(all="ignore"):  # faces seen from their edge
            t = origin - a
            u = np.einsum("ij,ij->i", t, p) / det
            q = np.cross(t, e)
            v = q @ down / det
            far = np.einsum("ij,ij->i", f, q) / det
            met = (np.abs(det) > 1e-9) & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9)
        if met.any():
            found[at] = origin[2] - far[met].min()
    return found


def _edge_depths(mesh: trimesh.Trimesh, places: Points, least: bool) -> Points:
    """The least or the greatest height of an edge of the mesh that lies under each place of the picture."""
    ends = mesh.vertices[mesh.edges_unique]
    found = np.full(len(places), np.nan)
    for at, place in enumerate(places):
        a, d = ends[:, 0, :2], ends[:, 1, :2] - ends[:, 0, :2]
        squares = np.maximum(np.einsum("ij,ij->i", d, d), 1e-12)
        share = np.clip(np.einsum("ij,ij->i", place - a, d) / squares, 0, 1)
        near = np.linalg.norm(a + share[:, None] * d - place, axis=1) < 1e-6
        if near.any():
            heights = ends[near, 0, 2] + share[near] * (ends[near, 1, 2] - ends[near, 0, 2])
            found[at] = heights.min() if least else heights.max()
    return found


def test_moving_and_order_change_nothing() -> None:
    lines = [
        "part a = box(20 mm, 20 mm, 10 mm)",
        "part b = box(10 mm, 40 mm, 30 mm).move(4 mm, 9 mm)",
    ]
    one, _ = seen_of(AXONOMETRIC, *lines)
    other, _ = seen_of(AXONOMETRIC, *reversed(lines))
    far, _ = seen_of(AXONOMETRIC, *(f"{line}.move(3 m, -2 m, 1 m)" for line in lines))
    large, _ = seen_of(AXONOMETRIC, *(f"{line}.scale(10)" for line in lines))
    for again, factor in ((other, 1), (far, 1), (large, 10)):
        assert length(again.seen) == pytest.approx(factor * length(one.seen), rel=1e-6)
        assert length(again.hidden) == pytest.approx(factor * length(one.hidden), rel=1e-6)


def test_pieces_are_put_together() -> None:
    edges, _ = seen_of(FRONT, "part a = box(30 mm, 30 mm, 30 mm)")
    (line,) = chained(edges.seen, 30.0)
    assert len(line) == 5 and np.allclose(line[0], line[-1])
