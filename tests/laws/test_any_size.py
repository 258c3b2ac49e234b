"""What is a hundred times smaller or larger is the same thing: figures follow by their powers of the size."""

import pytest

from tests.sheets import value

THINGS = {
    "twisted": ("volume(twist(box(40 * s, 12 * s, 90 * s), 200°))", 3),
    "twisted, its surface": ("area(twist(box(40 * s, 12 * s, 90 * s), 200°))", 2),
    "tapered": ("volume(taper(cone(30 * s, 12 * s, 40 * s), 0.4))", 3),
    "bent": ("volume(bend(cone(30 * s, 12 * s, 40 * s), 90 * s))", 3),
    "wrapped": ("volume(wrap(extrude(polygon(5, 40 * s), 7 * s), 60 * s))", 3),
    "rounded": ("volume(round_edges(box(30 * s, 20 * s, 10 * s), 2 * s))", 3),
    "finished": ("volume(extrude(polygon(7, 20 * s), 9 * s, top = round(2 * s), bottom = bevel(1 * s)))", 3),
    "finished, at a corner of a curve": ("volume(extrude(sector(10 * s, 40 * s, 0°, 70°), 20 * s, top = round(3 * s), bottom = bevel(1 * s)))", 3),
    "leaning, at a corner of a curve": ("volume(extrude(disc(30 * s) & disc(30 * s).move(30 * s, 0 * s), 20 * s, taper = 9°))", 3),
    "leaning": ("volume(extrude(star(5, 30 * s, 14 * s), 9 * s, taper = 3°))", 3),
    "hollow": ("volume(shell(cone(20 * s, 12 * s, 30 * s), 2 * s))", 3),
    "swept": ("volume(sweep(rect(30 * s, 4 * s), way, twist = 70°, size = t -> 1 - t / 3))", 3),
    "swept in a bend": ("volume(sweep(rect(30 * s, 4 * s), way, size = t -> 1 - t / 3))", 3),
    "a bar": ("area(pipe(helix(60 * s, 25 * s, 2.5), 5 * s))", 2),
    "between outlines": ("volume(loft([rect(30 * s, 9 * s), disc(20 * s).move(z = 40 * s), rect(9 * s, 30 * s).move(z = 70 * s)], smooth = yes))", 3),
    "thickened": ("volume(thicken(surface((u, v) -> (u * 100 * s, v * 80 * s, sin(u * 200°) * v * 30 * s)), 4 * s))", 3),
    "shared": ("clash(sphere(20 * s), torus_like.move(z = 7 * s))", 3),
    "apart": ("clearance(torus_like, sphere(20 * s).move(90 * s, 9 * s))", 1),
    "cut": ("area(cut_at(torus_like, (0.2, 0, 1), (0 * s, 0 * s, 3 * s)))", 2),
    "its edges": ("sum([e.length for e in edges(cylinder(20 * s, 30 * s) - box(9 * s, 60 * s, 20 * s))])", 1),
    "laid off": ("area(offset(rect(40 * s, 30 * s) - disc(8 * s), 3 * s))", 2),
    "lettering": ("area(text(\"Quill\", 20 * s))", 2),
    "scattered": ("len(scatter(disc(1 * s), rect(100 * s, 80 * s), 9 * s))", 0),
}  # fmt: skip
ABOVE = (
    "way = spline([(0 * s, 0 * s, 0 * s), (90 * s, 150 * s, 10 * s), (0 * s, 300 * s, 160 * s)])",
    "torus_like = revolve(disc(9 * s).move(30 * s, 0 * s))",
)


@pytest.mark.parametrize("thing", THINGS)
def test_a_hundredth_and_a_dozen_times_of_it_are_alike(thing: str) -> None:
    expression, power = THINGS[thing]

    def at(size: float) -> float:
        return float(value(expression, f"s = {size!r} mm", *ABOVE)) / size**power

    usual = at(1.0)
    for size in (0.01, 0.1, 12.0):
        assert at(size) == pytest.approx(usual, rel=4e-3), size
