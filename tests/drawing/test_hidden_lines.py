"""Edges that are seen and edges that are hidden, against figures by hand and a ray cast by trimesh."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import ellipe

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


def test_a_cube_by_hand() -> None:
    # Isometric: every edge is seen at √(2/3) of its length; nine are in front, three behind.
    edges, _ = seen_of(AXONOMETRIC, "part a = box(30 mm, 30 mm, 30 mm)")
    each = 30 * math.sqrt(2 / 3)
    assert edges.seen.length == pytest.approx(9 * each)
    assert edges.hidden.length == pytest.approx(3 * each)
    front, _ = seen_of(FRONT, "part a = box(30 mm, 30 mm, 30 mm)")
    assert front.seen.length == pytest.approx(120) and not front.hidden.length, "those behind lie under those before"  # fmt: skip


def test_one_before_the_other_by_hand() -> None:
    lines = "part a = box(20 mm, 20 mm, 10 mm)", "part b = box(10 mm, 20 mm, 30 mm).move(y = 50 mm)"
    edges, _ = seen_of(FRONT, *lines)
    # All of the front one; of the other what stands above it, without its foot: 10 + 2 × 20.
    assert edges.seen.length == pytest.approx(2 * (20 + 10) + 10 + 2 * 20)
    assert edges.hidden.length == pytest.approx(2 * 10), (
        "its uprights; its foot lies under that of the other"
    )


def test_a_ball_is_a_circle() -> None:
    edges, _ = seen_of(SIDE, "part a = sphere(20 mm)")
    assert (
        edges.seen.length == pytest.approx(2 * math.pi * 20, rel=2e-3) and not edges.hidden.length
    )


def test_a_bore_is_hidden_but_for_its_mouth() -> None:
    edges, _ = seen_of(
        FRONT, "part a = box(40 mm, 40 mm, 20 mm) - cylinder(8 mm, 60 mm).move(z = -10 mm)"
    )
    assert edges.seen.length == pytest.approx(2 * (40 + 20))
    assert edges.hidden.length == pytest.approx(2 * 20, rel=1e-3), "both sides of the bore"
    above, _ = seen_of(
        PLAN, "part a = box(40 mm, 40 mm, 20 mm) - cylinder(8 mm, 60 mm).move(z = -10 mm)"
    )
    assert above.seen.length == pytest.approx(160 + 2 * math.pi * 8, rel=1e-12)
    (mouth,) = above.seen.arcs
    assert mouth.radius == pytest.approx(8, rel=1e-12) and mouth.sweep == 2 * math.pi
    assert not above.hidden.length, "its other mouth lies under this one"


def test_what_lies_across_an_arc_parts_it_where_it_truly_does() -> None:
    """A bar of 10 mm over a disc of 40 mm: what is seen of the rim begins where y = 5 mm, by the arc sine."""
    edges, _ = seen_of(
        PLAN,
        "tolerance 0.5 mm",
        "part a = cylinder(20 mm, 5 mm)",
        "part b = box(100 mm, 10 mm, 5 mm).move(z = 20 mm)",
    )
    covered = 2 * math.asin(5 / 20)
    assert [arc.sweep for arc in edges.seen.arcs] == pytest.approx(
        2 * [math.pi - covered], rel=1e-12
    )
    assert [arc.sweep for arc in edges.hidden.arcs] == pytest.approx(2 * [covered], rel=1e-12)
    for arc in (*edges.seen.arcs, *edges.hidden.arcs):
        assert np.abs(arc.at(np.array([0.0, 1.0]))[:, 1]) == pytest.approx(5, rel=1e-12)


def test_two_discs_part_each_other_where_their_rims_cross() -> None:
    """Two circles of radius r, their centres d apart, cross at angles of acos(d / 2 r) about the line between
    their centres (elementary geometry)."""
    edges, _ = seen_of(
        PLAN,
        "tolerance 0.2 mm",
        "part a = cylinder(20 mm, 5 mm)",
        "part b = cylinder(20 mm, 5 mm).move(x = 24 mm, z = 20 mm)",
    )
    within = 2 * math.acos(24 / 2 / 20)
    assert sorted(arc.sweep for arc in edges.seen.arcs) == pytest.approx([2 * math.pi - within, 2 * math.pi], rel=1e-12)  # fmt: skip
    assert [arc.sweep for arc in edges.hidden.arcs] == pytest.approx([within], rel=1e-12)


def test_the_rims_of_a_cylinder_are_ellipses() -> None:
    """Isometric: a circle that lies level is an ellipse of axes 2 r and 2 r / √3; its perimeter by the complete
    elliptic integral (DLMF 19.9.9), from SciPy."""
    edges, _ = seen_of(AXONOMETRIC, "part a = cylinder(30 mm, 50 mm)")
    around = 4 * 30 * float(ellipe(1 - 1 / 3))
    whole = [arc.length for arc in edges.seen.arcs if arc.sweep == 2 * math.pi]
    halves = [arc.length for arc in (*edges.seen.arcs, *edges.hidden.arcs) if arc.sweep < 2 * math.pi]  # fmt: skip
    assert whole == pytest.approx([around], rel=1e-9) and sum(halves) == pytest.approx(around, rel=1e-6)  # fmt: skip
    assert halves == pytest.approx(2 * [around / 2], rel=0.05), "parted where its side turns away"


def test_round_corners_run_on_into_straight_edges() -> None:
    """A slot: its outline is two half circles and two straight lines."""
    slot = "slot(40 mm, 10 mm)"
    edges, _ = seen_of(PLAN, f"part a = extrude({slot}, 8 mm)")
    assert edges.seen.length == pytest.approx(2 * 40 + 2 * math.pi * 10, rel=1e-12)
    assert all(arc.radius == pytest.approx(10, rel=1e-12) for arc in edges.seen.arcs)
    assert sum(arc.sweep for arc in edges.seen.arcs) == pytest.approx(2 * math.pi, rel=1e-12)


def test_a_polygon_of_many_sides_is_no_circle() -> None:
    edges, _ = seen_of(PLAN, "part a = extrude(polygon(60, 20 mm), 8 mm)")
    assert not edges.seen.arcs and edges.seen.length == pytest.approx(60 * 2 * 20 * math.sin(math.pi / 60), rel=1e-6)  # fmt: skip


@pytest.mark.parametrize(
    ("made", "radii"),
    [
        ("revolve(region([(5 mm, 0 mm), (20 mm, 0 mm), (12 mm, 30 mm), (5 mm, 30 mm)]))", [5, 12, 20]),
        ("cylinder(20 mm, 30 mm) - cylinder(12 mm, 30 mm)", [12, 20]),
        ("pipe(polyline([(0 mm, 0 mm, 0 mm), (0 mm, 0 mm, 40 mm)]), 6 mm)", [6]),
        ("cylinder(20 mm, 30 mm).scale(1.5)", [30]),
    ],
)  # fmt: skip
def test_solids_of_other_kinds_have_round_rims(made: str, radii: list[int]) -> None:
    edges, _ = seen_of(PLAN, f"part a = {made}")
    found = sorted({round(arc.radius, 9) for arc in edges.seen.arcs})
    assert found == radii and all(arc.sweep == 2 * math.pi for arc in edges.seen.arcs)


@pytest.mark.parametrize("tolerance", [0.05, 0.01])
@pytest.mark.parametrize("view", [PLAN, FRONT, SIDE])
def test_no_line_is_drawn_twice(view: View, tolerance: float) -> None:
    """A bar whose lower edges lie under its upper ones but for noise, and a rod whose sides end on its faces: all lines
    together are as long as what they cover (united by Shapely)."""
    edges, _ = seen_of(
        view,
        f"tolerance {tolerance} mm",
        "rod = cylinder(4 mm, 12 mm).turn(25°, x).move(12 mm, 0 mm, -10 mm)",
        "block = box(20 mm, 8 mm, 20 mm).turn(25°, x).move(0 mm, -10 mm, 5 mm)",
        "part a = rod + block + extrude(slot(30 mm, 3 mm), 20 mm).turn(90°, x).move(5 mm, 12 mm, 0 mm)",
    )
    drawn = np.concatenate([edges.seen.straight, edges.hidden.straight])
    covered = shapely.union_all(shapely.linestrings(drawn), grid_size=1e-6)
    assert np.linalg.norm(drawn[:, 1] - drawn[:, 0], axis=1).sum() == pytest.approx(covered.length, rel=1e-4)  # fmt: skip


@given(
    turn=st.integers(0, 359),
    place=st.tuples(*[st.integers(-3_000, 3_000)] * 3),
    factor=st.sampled_from([0.1, 1, 10]),
    view=st.sampled_from([PLAN, FRONT, AXONOMETRIC]),
)
def test_arcs_keep_their_lengths_wherever_they_are(
    turn: int, place: tuple[int, ...], factor: float, view: View
) -> None:
    """What is seen and hidden of all edges together does not change with the place, and grows with the size."""
    x, y, z = place
    rest = f".turn({turn}°, z).move({x} mm, {y} mm, {z} mm)" if view is PLAN else f".move({x} mm, {y} mm, {z} mm)"  # fmt: skip
    made = "(box(60 mm, 40 mm, 12 mm) - cylinder(9 mm, 40 mm).move(12 mm, 20 mm, -10 mm))"
    one, _ = seen_of(view, f"part a = {made}")
    other, _ = seen_of(view, f"part a = {made}.scale({factor}){rest}")
    for side in ("seen", "hidden"):
        known, found = getattr(one, side), getattr(other, side)
        assert found.length == pytest.approx(factor * known.length, rel=2e-3 if view is AXONOMETRIC else 1e-6, abs=1e-6)  # fmt: skip


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
    for pieces, hidden in ((edges.seen.straight, False), (edges.hidden.straight, True)):
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
        assert again.seen.length == pytest.approx(factor * one.seen.length, rel=1e-6)
        assert again.hidden.length == pytest.approx(factor * one.hidden.length, rel=1e-6)


def test_pieces_are_put_together() -> None:
    edges, _ = seen_of(FRONT, "part a = box(30 mm, 30 mm, 30 mm)")
    (line,) = chained(edges.seen.straight, 30.0)
    assert len(line) == 5 and np.array_equal(line[0], line[-1])
    assert np.array_equal(np.abs(np.unique(line[:, 0])), [15.0, 15.0]), "to the last digit"


def test_round_edges_that_lie_over_each_other_are_drawn_once() -> None:
    """A ball in a round pocket as wide as itself: from above, the side of the one and the rim of the other."""
    pocket = "part a = box(60 mm, 60 mm, 10 mm) - cylinder(12 mm, 40 mm).move(z = -20 mm)"
    edges, _ = seen_of(PLAN, pocket, "part b = sphere(12 mm).move(z = 5 mm)")
    assert edges.seen.length == pytest.approx(4 * 60 + 2 * math.pi * 12, rel=1e-9)
    assert not edges.hidden.length and len(edges.seen.arcs) == 1
