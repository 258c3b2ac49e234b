"""Solids against gmsh's geometry kernel (exact surfaces) and against formulas: Pappus, the
prismoidal formula, spheres and cones. What is drawn with chords of 0.05 mm may miss by as much
times its surface."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from ovolo.geometry.curves import drafting
from ovolo.geometry.placement import moved, turned
from ovolo.geometry.regions import region
from ovolo.geometry.solids import booleans, primitives
from ovolo.geometry.solids.edge_profile import Finish
from ovolo.geometry.solids.edges import edges_of
from ovolo.geometry.solids.finished_edges import finished_edges
from ovolo.geometry.solids.finished_extrusion import finished_extrusion
from ovolo.geometry.solids.lofting import loft
from ovolo.geometry.solids.revolving import revolution
from ovolo.geometry.solids.solid import Solid, in_space
from ovolo.geometry.solids.sweeping import pipe, sweep
from ovolo.problems import Failure
from tests.witness import in_child

TOLERANCE = 0.05
"""The chord tolerance in mm."""

FEW = settings(max_examples=8, deadline=None)


def witness(make: Callable[[Any], list[tuple[int, int]]]) -> tuple[float, float, np.ndarray[Any, Any]]:  # fmt: skip
    """Volume, area and centre of what gmsh makes."""
    found: tuple[float, float, np.ndarray[Any, Any]] = in_child(lambda: _measured(make))
    return found


def _measured(make: Callable[[Any], list[tuple[int, int]]]) -> tuple[float, float, np.ndarray[Any, Any]]:  # fmt: skip
    import gmsh

    gmsh.initialize(interruptible=False)
    gmsh.option.setNumber("General.Terminal", 0)
    occ = gmsh.model.occ
    solids = [(d, t) for d, t in make(occ) if d == 3]
    occ.synchronize()
    volume = sum(occ.getMass(d, t) for d, t in solids)
    centre = sum(occ.getMass(d, t) * np.array(occ.getCenterOfMass(d, t)) for d, t in solids) / volume  # fmt: skip
    faces = gmsh.model.getBoundary(solids, combined=True, oriented=False)
    return volume, sum(occ.getMass(d, t) for d, t in faces), centre


def agree(ours: Solid, theirs: tuple[float, float, np.ndarray[Any, Any]]) -> None:
    volume, area, centre = theirs
    assert ours.shape.closed
    # Rounded edges of round things are divided twice over.
    assert ours.volume == pytest.approx(volume, abs=1.5 * TOLERANCE * area)
    size = float(np.linalg.norm(np.ptp(ours.bounds(), axis=0)))
    assert ours.area == pytest.approx(area, rel=0.02)
    assert ours.centroid == pytest.approx(centre, abs=4 * TOLERANCE * area / volume * size)


def at(x: float, y: float, z: float = 0.0) -> Any:
    return moved(np.array([x, y, z]))


_SIZE = st.floats(8, 60)


@given(_SIZE, _SIZE, st.floats(5, 80), st.floats(1, 3.5))
@FEW
def test_extruded_plates_with_holes(w: float, d: float, h: float, r: float) -> None:
    plate = region.combined("-", region.rectangle(w, d), region.disc(r))
    ours = primitives.extrusion(plate, h)
    assert isinstance(ours, Solid)

    def make(occ: Any) -> list[tuple[int, int]]:
        box = occ.addBox(-w / 2, -d / 2, 0, w, d, h)
        hole = occ.addCylinder(0, 0, -1, 0, 0, h + 2, r)
        return occ.cut([(3, box)], [(3, hole)])[0]

    agree(ours, witness(make))


@given(st.floats(10, 60), st.floats(2, 9), st.floats(2, 20), st.floats(0.2, 2 * math.pi))
@FEW
def test_revolved_rectangles(far: float, w: float, h: float, angle: float) -> None:
    """Also by Pappus: the volume is the area times the way of its centre."""
    profile = region.rectangle(w, h).placed(at(far, 0))
    ours = revolution(profile, angle)
    assert ours.volume == pytest.approx(w * h * far * angle, abs=TOLERANCE * ours.area)

    def make(occ: Any) -> list[tuple[int, int]]:
        face = occ.addRectangle(far - w / 2, -h / 2, 0, w, h)
        occ.rotate([(2, face)], 0, 0, 0, 1, 0, 0, math.pi / 2)
        return occ.revolve([(2, face)], 0, 0, 0, 0, 0, 1, angle)

    agree(ours, witness(make))


@given(_SIZE, _SIZE, _SIZE, _SIZE, st.floats(5, 80))
@FEW
def test_straight_lofts_between_rectangles(a: float, b: float, c: float, d: float, h: float) -> None:  # fmt: skip
    """The prismoidal formula: h / 6 (A0 + 4 A½ + A1)."""
    ours = loft([region.rectangle(a, b), region.rectangle(c, d).placed(at(0, 0, h))])
    middle = (a + c) * (b + d) / 4
    assert ours.volume == pytest.approx(h / 6 * (a * b + 4 * middle + c * d), rel=1e-9)

    def make(occ: Any) -> list[tuple[int, int]]:
        wires = []
        for w, t, z in ((a, b, 0.0), (c, d, h)):
            face = occ.addRectangle(-w / 2, -t / 2, z, w, t)
            wires.append(occ.addCurveLoop([e for _, e in occ.getEntities(1)[-4:]]))
            del face
        occ.synchronize()
        return occ.addThruSections(wires, makeSolid=True, makeRuled=True)

    agree(ours, witness(make))


@given(
    st.floats(10, 40), st.floats(10, 40), st.floats(10, 40), st.floats(3, 18),
    st.tuples(*[st.floats(-15, 15)] * 3), st.sampled_from("+-&"),
)  # fmt: skip
@FEW
def test_booleans_of_a_box_and_a_cylinder(
    w: float, d: float, h: float, r: float, place: tuple[float, ...], operator: str
) -> None:
    a = primitives.box(w, d, h)
    b = primitives.cylinder(r, 25.0).placed(at(*place))
    assert isinstance(a, Solid) and isinstance(b, Solid)
    try:
        ours = booleans.combined(operator, a, b)
    except Failure:
        assume(False)

    def make(occ: Any) -> list[tuple[int, int]]:
        one = occ.addBox(-w / 2, -d / 2, 0, w, d, h)
        other = occ.addCylinder(*place, 0, 0, 25, r)
        rule = {"+": occ.fuse, "-": occ.cut, "&": occ.intersect}[operator]
        return rule([(3, one)], [(3, other)])[0]

    volume, area, _ = witness(make)
    assert ours.shape.closed and ours.volume == pytest.approx(volume, abs=TOLERANCE * area + 1e-6)


@given(st.floats(12, 40), st.floats(12, 40), st.floats(12, 40), st.floats(0.5, 5.5))
@FEW
def test_all_edges_of_a_box_rounded(w: float, d: float, h: float, r: float) -> None:
    ours = finished_edges(primitives.box(w, d, h), Finish("round", r))  # type: ignore[arg-type]

    def make(occ: Any) -> list[tuple[int, int]]:
        import gmsh

        box = occ.addBox(-w / 2, -d / 2, 0, w, d, h)
        occ.synchronize()
        edges = [t for _, t in gmsh.model.getBoundary([(3, box)], recursive=False, combined=False)]
        lines = {t for e in edges for _, t in gmsh.model.getBoundary([(2, abs(e))], oriented=False)}
        return occ.fillet([box], sorted(lines), [r])

    agree(ours, witness(make))


@given(st.floats(10, 40), st.floats(10, 40), st.floats(0.5, 6))
@FEW
def test_the_rim_of_a_cylinder_rounded_or_bevelled(r: float, h: float, size: float) -> None:
    assume(size < min(r, h) * 0.9)
    for form in ("round", "bevel"):
        ours = finished_edges(
            primitives.cylinder(r, h), Finish(form, size), lambda e: e.middle[2] > h / 2  # type: ignore[arg-type]
        )  # fmt: skip

        def make(occ: Any, form: str = form) -> list[tuple[int, int]]:
            body = occ.addCylinder(0, 0, 0, 0, 0, h, r)
            occ.synchronize()
            top = next(t for _, t in occ.getEntities(1) if occ.getCenterOfMass(1, t)[2] > h * 0.99)
            if form == "round":
                return occ.fillet([body], [top], [size])
            face = next(t for _, t in occ.getEntities(2) if occ.getCenterOfMass(2, t)[2] > h * 0.99)
            return occ.chamfer([body], [top], [face], [size])

        agree(ours, witness(make))


@given(st.floats(15, 60), st.floats(2, 6), st.floats(15, 40), st.floats(0.5, 2.5))
@FEW
def test_coils(radius: float, wire: float, pitch: float, turns: float) -> None:
    """Pappus for a bent bar: the area of its section times the length of its middle line."""
    path = drafting.helix(radius, lambda turn: pitch, turns)
    ours = pipe(path, wire)
    assert ours.shape.closed
    assert ours.volume == pytest.approx(
        math.pi * wire**2 * path.length, abs=1.5 * TOLERANCE * ours.area
    )


@given(st.floats(20, 80), st.floats(3, 12), st.floats(3, 12), st.floats(20, 60))
@FEW
def test_a_mitred_frame_is_its_outer_box_less_the_inner(w: float, a: float, b: float, d: float) -> None:  # fmt: skip
    path = drafting.close(drafting.polyline(np.array([[0, 0, 0], [w, 0, 0], [w, d, 0], [0, d, 0.0]])))  # fmt: skip
    assume(min(w, d) > a + 1)
    ours = sweep(region.rectangle(a, b), path)
    assert ours.volume == pytest.approx(((w + a) * (d + a) - (w - a) * (d - a)) * b, rel=1e-9)


@pytest.mark.parametrize(("taper", "lean"), [(5.0, 1), (-8.0, 1), (0.0, 0)])
def test_drafted_boxes(taper: float, lean: int) -> None:
    """The prismoidal formula again."""
    ours = finished_extrusion(region.rectangle(40, 30), 20, math.radians(taper))
    k = math.tan(math.radians(taper))
    areas = [(40 - 2 * k * z) * (30 - 2 * k * z) for z in (0, 10, 20)]
    assert ours.volume == pytest.approx(20 / 6 * (areas[0] + 4 * areas[1] + areas[2]), rel=1e-9)


def test_spheres_and_cones() -> None:
    ball, cone = primitives.sphere(20.0), primitives.cone(20.0, 30.0, 5.0)
    assert isinstance(ball, Solid) and isinstance(cone, Solid)
    assert ball.volume == pytest.approx(4 / 3 * math.pi * 8000, abs=TOLERANCE * ball.area)
    frustum = math.pi * 30 / 3 * (400 + 100 + 25)
    assert cone.volume == pytest.approx(frustum, abs=TOLERANCE * cone.area)


_BLOCK = st.one_of(
    st.tuples(st.floats(4, 20), st.floats(4, 20), st.floats(4, 20)).map(
        lambda s: primitives.box(*s)
    ),
    st.tuples(st.floats(2, 9), st.floats(4, 20)).map(lambda s: primitives.cylinder(*s)),
    st.floats(2, 9).map(primitives.sphere),
    st.tuples(st.floats(4, 9), st.floats(4, 20)).map(lambda s: primitives.cone(*s)),
    st.tuples(st.floats(6, 16), st.floats(3, 9)).map(
        lambda s: revolution(region.rectangle(3, s[1]).placed(at(s[0], 0)))
    ),
)


@given(_BLOCK, _BLOCK, st.tuples(*[st.floats(-8, 8)] * 3), st.floats(-3, 3))
@settings(max_examples=20, deadline=None)
def test_inclusion_and_exclusion(a: Any, b: Any, place: tuple[float, ...], angle: float) -> None:
    """|A| + |B| = |A + B| + |A & B|, and every result is closed and positive. Where all are known
    exactly, or none is, to the last digits; else to what is promised of the others."""
    other = b.placed(at(*place) @ turned(angle, np.array([0.3, 0.5, 0.8]), np.zeros(3)))
    both = booleans.combined("&", a, other)
    shared = both.volume
    assert both.is_empty or (both.shape.closed and shared > 0)
    union = booleans.combined("+", a, other)
    assert union.shape.closed
    exact = union.shape.exact and both.shape.exact
    assert union.volume + shared == pytest.approx(a.volume + b.volume, rel=1e-9 if exact else 1e-3)
    drawn = [one.mesh.volume() for one in (a, other, union)]
    inner = 0.0 if both.is_empty else both.mesh.volume()
    assert drawn[2] + inner == pytest.approx(drawn[0] + drawn[1], rel=2e-6)


def test_a_radius_too_large_names_the_largest_that_fits() -> None:
    block = primitives.box(40.0, 30.0, 20.0)
    assert isinstance(block, Solid) and len(edges_of(block)) == 12
    with pytest.raises(Failure) as caught:
        finished_edges(block, Finish("round", 10.5))
    assert "does not fit the edge at" in caught.value.message
    assert caught.value.hint == "the largest that fits is 10 mm"
    assert finished_edges(block, Finish("round", 9.99)).shape.closed
    with pytest.raises(Failure, match="none of the 12 edges"):
        finished_edges(block, Finish("round", 1.0), lambda edge: False)


def test_the_rims_of_many_holes_that_lie_and_are_sized_differently() -> None:
    """What rounding takes from a rim is a ring whose section is a square without its quarter disc
    (Pappus, by its area times the way of its centroid; centroid of a quarter disc: 4 r / 3π)."""
    generator = np.random.default_rng(7)
    plate, taken, round_by = primitives.box(300.0, 200.0, 10.0), 0.0, 1.25
    holes = []
    for column in range(6):
        for row in range(4):
            radius = float(generator.choice([4.0, 4.0, 9.0, 12.5]))
            x, y = -125 + 50.0 * column, -75 + 50.0 * row
            at = [x + generator.uniform(-4, 4), y + generator.uniform(-4, 4), -5.0]
            turn = turned(float(generator.uniform(0, 2)), np.array([0.0, 0.0, 1.0]), np.zeros(3))
            holes.append(primitives.cylinder(radius, 30.0).placed(moved(np.array(at)) @ turn))
            square, quarter = round_by**2, math.pi * round_by**2 / 4
            # Out from the wall: the square's middle, and the disc's, whose centre is a radius out.
            first = square * (radius + round_by / 2)
            first -= quarter * (radius + round_by - 4 * round_by / (3 * math.pi))
            taken += 2 * math.pi * first
    drilled = booleans.combined("-", plate, *holes)
    rounded = finished_edges(
        drilled, Finish("round", round_by), lambda e: e.closed and e.middle[2] > 5
    )
    lost = in_space(drilled).volume() - in_space(rounded).volume()
    # Chords of 6° take 0.18 % of a disc more, which is 0.7 % of what it leaves of its square.
    assert lost == pytest.approx(taken, rel=1e-2)


def test_two_rims_finished_alike_share_the_way_between_them() -> None:
    """Two holes of radius 5 whose walls are 3 mm apart: each may be rounded by 1.5 mm, also where
    the plate stands elsewhere, turned."""
    holes = [
        primitives.cylinder(5.0, 30.0).placed(moved(np.array([x, 0.0, -5.0]))) for x in (-6.5, 6.5)
    ]
    place = moved(np.array([812.0, -40.0, 7.0])) @ turned(
        0.7, np.array([1.0, 2.0, 3.0]), np.zeros(3)
    )
    for plate in (
        drilled := booleans.combined("-", primitives.box(60.0, 40.0, 10.0), *holes),
        drilled.placed(place),
    ):
        finished_edges(plate, Finish("round", 1.45), lambda e: e.closed)
        with pytest.raises(Failure, match="does not fit") as told:
            finished_edges(plate, Finish("round", 1.6), lambda e: e.closed)
        largest = float(re.findall(r"is ([\d.]+) mm", told.value.hint)[0])
        assert largest == pytest.approx(1.5, abs=0.02)
