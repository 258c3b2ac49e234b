"""Measures of round things, to the last digit, against handbook formulas and quadrature by SciPy."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.integrate import dblquad, quad

from ovolo.formats.export import exported
from tests.sheets import problem, run, value

PLACES = ("", ".turn(37°, about = (1, 2, 3)).move(130 mm, -20 mm, 7 mm)", ".mirror((1, 2, 0))")

# Volumes and surfaces of any machinist's handbook: from memory.
HANDBOOK = [
    ("cylinder(3.1 mm, 10 mm)", math.pi * 9.61 * 10, 2 * math.pi * 3.1 * (3.1 + 10)),
    ("sphere(5 mm)", 4 / 3 * math.pi * 125, 4 * math.pi * 25),
    ("cone(6 mm, 8 mm)", math.pi * 36 * 8 / 3, math.pi * 6 * (6 + 10)),
    ("cone(9 mm, 8 mm, top = 3 mm)", math.pi * 8 / 3 * (81 + 27 + 9), math.pi * (81 + 9 + 12 * 10)),
    ("pipe(circle(40 mm), 1.5 mm)", 2 * math.pi**2 * 40 * 2.25, 4 * math.pi**2 * 40 * 1.5),
    ("pipe(line((0 mm, 0 mm), (3 m, 4 m)), 1.5 mm)", math.pi * 2.25 * 5000, 2 * math.pi * 1.5 * 5001.5),
    ("revolve(disc(5 mm).move(x = 20 mm))", 2 * math.pi**2 * 20 * 25, 4 * math.pi**2 * 20 * 5),
    ("revolve(rect(4 mm, 6 mm).move(x = 20 mm), 90°)", 24 * 20 * math.pi / 2, 20 * 20 * math.pi / 2 + 48),
    ("extrude(slot(30 mm, 5 mm), 4 mm)", (300 + 25 * math.pi) * 4, 2 * (300 + 25 * math.pi) + (60 + 10 * math.pi) * 4),
    ("box(9 mm, 9 mm, 9 mm) - sphere(3 mm).move(z = 4.5 mm)", 729 - 36 * math.pi, 486 + 36 * math.pi),
    ("sphere(3 mm) + sphere(4 mm).move(x = 9 mm)", 4 / 3 * math.pi * (27 + 64), 4 * math.pi * (9 + 16)),
    ("box(60 mm, 40 mm, 8 mm) - cylinder(3.1 mm, 30 mm).move(4 mm, 5 mm, -9 mm)", (2400 - 9.61 * math.pi) * 8, 2 * (2400 - 9.61 * math.pi) + 1600 + 2 * math.pi * 3.1 * 8),
    ("sweep(rect(3 mm, 2 mm), start((0 mm, 0 mm)).to((50 mm, 0 mm)).to((50 mm, 40 mm)))", 6 * 90, 10 * 90 + 12),
]  # fmt: skip


@pytest.mark.parametrize(("made", "volume", "area"), HANDBOOK, ids=[one[0] for one in HANDBOOK])
@pytest.mark.parametrize("place", PLACES, ids=("as drawn", "turned", "mirrored"))
def test_volumes_and_surfaces_are_exact_however_placed(made: str, volume: float, area: float, place: str) -> None:  # fmt: skip
    part = run(f"part p = ({made}){place}").parts["p"]
    assert part.volume == pytest.approx(volume, rel=1e-9)
    assert part.area == pytest.approx(area, rel=1e-9)
    assert part.as_json()["exact"] is True and "within" not in part.as_json()
    (mesh,) = part.meshes()
    assert mesh.volume() == pytest.approx(volume, rel=2e-3), "what is handed over is near it"


def test_a_coil_holds_as_much_as_its_wire_is_long() -> None:
    """Pappus and Guldin for a pipe: the section times the length of the middle line."""
    length = 5 * math.hypot(2 * math.pi * 40, 10)
    assert value("volume(pipe(helix(40 mm, 10 mm, 5), 1.5 mm))") == pytest.approx(math.pi * 2.25 * length, rel=1e-9)  # fmt: skip


def test_a_stretched_sphere_has_the_surface_of_an_ellipsoid() -> None:
    """Against SciPy's dblquad of the surface element."""
    a, b, c = 10.0, 20.0, 5.0

    def element(v: float, u: float) -> float:
        cu, su, cv, sv = math.cos(u), math.sin(u), math.cos(v), math.sin(v)
        along = np.array([-a * su * cv, b * cu * cv, 0.0])
        across = np.array([-a * cu * sv, -b * su * sv, c * cv])
        return float(np.linalg.norm(np.cross(along, across)))

    wanted, _ = dblquad(element, 0, math.pi / 2, 0, math.pi / 2, epsabs=1e-9)
    made = "scale(sphere(10 mm), x = 1, y = 2, z = 0.5)"
    assert value(f"area({made})") == pytest.approx(8 * wanted, rel=1e-8)
    assert value(f"volume({made})") == pytest.approx(4 / 3 * math.pi * a * b * c, rel=1e-12)


def test_a_stretched_cylinder_has_walls_round_an_ellipse() -> None:
    """The perimeter of an ellipse by SciPy's quad."""
    around, _ = quad(lambda t: math.hypot(20 * math.sin(t), 10 * math.cos(t)), 0, 2 * math.pi)
    made = "scale(cylinder(10 mm, 7 mm), x = 2, y = 1, z = 1)"
    assert value(f"area({made})") == pytest.approx(7 * around + 2 * math.pi * 200, rel=1e-9)


@pytest.mark.parametrize(
    ("made", "where"),
    [
        ("half_ring", (2 * (20**2 + 25 / 4) / (math.pi * 20), 0.0)),
        ("pipe(arc((0 mm, 0 mm), 20 mm, -90°, 90°), 5 mm)", (2 * (20**2 + 25 / 4) / (math.pi * 20), 0.0)),
        ("cone(6 mm, 8 mm)", (0.0, 2.0)),
        ("cone(9 mm, 8 mm, top = 3 mm)", (0.0, 8 / 4 * (81 + 2 * 27 + 27) / (81 + 27 + 9))),
    ],
)  # fmt: skip
def test_centres_are_exact(made: str, where: tuple[float, float]) -> None:
    """Of a half ring: x = 2 (R² + r² / 4) / (π R), by ∫ r² dA; of a cut cone: any handbook."""
    lines = ("half_ring = revolve(disc(5 mm).move(x = 20 mm), 180°).turn(-90°)",)
    assert value(f"centroid({made}).x", *lines) == pytest.approx(where[0], rel=1e-9, abs=1e-9)
    assert value(f"centroid({made}).z", *lines) == pytest.approx(where[1], rel=1e-9, abs=1e-9)


@pytest.mark.parametrize("degrees", [0, 17, 45, 63])
def test_bounds_are_those_of_the_round_thing(degrees: int) -> None:
    """A disc of radius r whose normal leans by a reaches r cos a along its lean; a torus R cos a + r."""
    lean = math.radians(degrees)
    disc = run(f"part p = disc(31 mm).turn({degrees}°, about = x)").parts["p"].bounds
    ring = run(f"part p = pipe(circle(40 mm), 3 mm).turn({degrees}°, about = x)").parts["p"].bounds
    tall = run(f"part p = cylinder(6 mm, 30 mm).turn({degrees}°, about = x)").parts["p"].bounds
    assert disc is not None and ring is not None and tall is not None
    assert disc[1] == pytest.approx([31, 31 * math.cos(lean), 31 * math.sin(lean)], abs=1e-9)
    assert ring[1] == pytest.approx(
        [43, 40 * math.cos(lean) + 3, 40 * math.sin(lean) + 3], abs=1e-7
    )
    assert tall[1][2] == pytest.approx(30 * math.cos(lean) + 6 * math.sin(lean), abs=1e-9)


def test_what_is_not_exact_says_within_what_share() -> None:
    """A cap of a sphere: π h² (3r - h) / 3, from memory."""
    outcome = run("v = volume(half(sphere(20 mm), z, at = (0 mm, 0 mm, 5 mm)))", "w = v / 1 mm^3")
    values = outcome.as_json()["values"]
    cap = math.pi * 15**2 * (60 - 15) / 3
    for name in ("v", "w"):
        assert values[name]["exact"] is False and 0 < values[name]["within"] <= 2e-3
        assert values[name]["value"] == pytest.approx(cap, rel=values[name]["within"])
    assert "exact" not in run("a = 2 mm").as_json()["values"]["a"]


def test_a_hole_is_clear_and_a_shaft_is_full() -> None:
    """What is handed over: no corner of the hole stands within its circle, none of the shaft's
    faces either."""
    made = run("part hole = box(30 mm, 30 mm, 5 mm) - cylinder(3.1 mm, 5 mm)", "part shaft = cylinder(3.1 mm, 9 mm)")  # fmt: skip
    for name in ("hole", "shaft"):
        (mesh,) = made.parts[name].meshes()
        ends = mesh.corners[mesh.triangles][:, :, :2]
        sides = np.concatenate([np.stack([ends[:, k], ends[:, (k + 1) % 3]], axis=1) for k in range(3)])  # fmt: skip
        way = sides[:, 1] - sides[:, 0]
        size = np.linalg.norm(way, axis=1)
        round_ = (np.linalg.norm(sides, axis=2).max(axis=1) < 3.2) & (size > 1e-6) & (size < 0.4)
        off = np.abs(sides[:, 0, 0] * way[:, 1] - sides[:, 0, 1] * way[:, 0])[round_] / size[round_]
        assert off.min() > 3.1 - 1e-9 and np.count_nonzero(round_) >= 60
    assert exported(made, "a.stl")


def test_taper_and_rounding_touch_the_leaning_wall() -> None:
    """The rounding takes away what lies between the arc and the corner: its section has the area
    r² (1 / tan(w/2) - (π - w) / 2) at an angle w (elementary geometry), so it is always lighter."""
    for lean in (-20, -5, 0, 5, 20):
        sharp, rounded = (value(f"volume(extrude(rect(100 mm, 60 mm), 30 mm, taper = {lean}°{end}))") for end in ("", ", top = round(3 mm)"))  # fmt: skip
        w = math.radians(90 + lean)
        section = 9 * (1 / math.tan(w / 2) - (math.pi - w) / 2)
        edge = 2 * (100 + 60) - 8 * 30 * math.tan(math.radians(lean))
        assert 0 < sharp - rounded < section * edge
        assert sharp - rounded == pytest.approx(section * edge, rel=0.06), "but for the corners"


def test_empty_things_add_and_cut_nothing_and_are_named_as_items() -> None:
    plate = "box(9 mm, 9 mm, 2 mm)"
    for nothing in ("cylinder(0 mm, 5 mm)", "sphere(0 mm)", 'extrude(text("", 5 mm), 3 mm)', "extrude(rect(0 mm, 3 mm), 5 mm)", "pipe(circle(9 mm), 0 mm)"):  # fmt: skip
        assert value(f"volume({plate} - {nothing})") == value(f"volume({plate} + {nothing})") == 162
        assert value(f"volume({plate} & {nothing})") == 0
    assert value("area(rect(3 mm, 3 mm) - disc(0 mm))") == 9
    named = problem("part p = [cylinder(i * 1 mm, 5 mm) for i in 0 .. 3]")
    assert named.item == 0 and "this is empty: radius is 0 mm" in named.message
    assert value("volume(half(box(9 mm, 9 mm, 2 mm), z))") == 162, "nothing is cut"
    assert value("volume(round_edges(box(9 mm, 9 mm, 2 mm), 0 mm))") == 162
    assert value("volume(extrude(rect(9 mm, 9 mm), 2 mm, top = round(0 mm)))") == 162
