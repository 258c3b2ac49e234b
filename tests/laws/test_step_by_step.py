"""What is put together step by step is what is put together at once, and many are as right as few. Areas by the formulas of
circles and rectangles; outlines that all but meet in one place against circles of 40,000 sides, put together by Shapely."""

from __future__ import annotations

import itertools
import math
from random import Random
from typing import Any

import numpy as np
import pytest
import shapely
from shapely import affinity

from ovolo.geometry.regions import overlaying
from ovolo.geometry.regions.overlaying import _mixed
from ovolo.geometry.tolerance import divided_to
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.remembering import forget_all


def told(outcome: Outcome, name: str) -> tuple[float, float]:
    """A figure of a sheet, and by what share it is told to be wrong at most."""
    assert not outcome.problems, [str(one) for one in outcome.problems]
    (line,) = (one for one in outcome.lines if one.line.name == name)
    assert line.result is not None
    value: Any = line.value
    return float(value), float(line.result.within or 0.0)


FOLDS = {
    "discs joined": ("+", "disc(10 mm)", "disc(10 mm).move(i * 7 mm)"),
    "plates joined": ("+", "rect(10 mm, 6 mm)", "rect(10 mm, 6 mm).move(i * 7 mm, i * 2 mm)"),
    "holes cut": ("-", "rect(400 mm, 60 mm)", "disc(3 mm).move(i * 5 mm - 90 mm, i * 1 mm)"),
    "discs in common": ("&", "disc(90 mm)", "disc(90 mm).move(i * 1 mm, i * 0.5 mm)"),
    "blocks joined": ("+", "box(9 mm, 9 mm, 9 mm)", "box(9 mm, 9 mm, 9 mm).move(i * 7 mm, i * 2 mm)"),
    "steps joined": ("+", "box(9 mm, 9 mm, 9 mm)", "box(9 mm, 9 mm, 9 mm).move(i * 7 mm, 0 mm, i * 3 mm)"),
    "rods joined": ("+", "cylinder(9 mm, 9 mm)", "cylinder(9 mm, 9 mm).move(i * 7 mm, i * 2 mm, i * 1 mm)"),
    "bores cut": ("-", "box(400 mm, 60 mm, 9 mm)", "cylinder(3 mm, 40 mm).move(i * 5 mm - 90 mm)"),
}  # fmt: skip


@pytest.mark.parametrize("what", FOLDS)
def test_one_after_the_other_is_all_at_once(what: str) -> None:
    operator, first, other = FOLDS[what]
    measure = "area" if "rect" in first or "disc" in first else "volume"
    outcome = outcome_of(
        "units mm, deg\n"
        f"others = [{other} for i in 1 .. {6 if 'rods' in what else 25}]\n"
        f"step = fold((one, next) -> one {operator} next, {first}, others)\n"
        f"once = {first} {operator} others\n"
        f"a = {measure}(step)\nb = {measure}(once)\n"
        "c = perimeter(step)\nd = perimeter(once)\n".replace("perimeter", "perimeter" if measure == "area" else "area")
    )  # fmt: skip
    for one, other in (("a", "b"), ("c", "d")):
        assert told(outcome, one) == (pytest.approx(told(outcome, other)[0], rel=1e-12), told(outcome, other)[1])  # fmt: skip


@pytest.mark.parametrize("count", [20, 120])
def test_notches_along_an_edge_and_holes_beside_them(count: int) -> None:
    outcome = outcome_of(
        "units mm, deg\n"
        f"plate = rect({7 * count} mm, 100 mm).move({3.5 * count} mm, 0 mm)\n"
        f"places = [(i * 7 mm + 3.5 mm, 0 mm) for i in 0 .. {count - 1}]\n"
        "r = plate - [disc(3 mm).move(p.x, 50 mm) for p in places] - [disc(2 mm).move(p.x, 10 mm) for p in places]\n"
        "a = area(r)\np = perimeter(r)"
    )
    area = 7 * count * 100 - count * (math.pi * 9 / 2 + math.pi * 4)
    rim = 2 * (7 * count + 100) - count * 6 + count * (math.pi * 3 + math.pi * 4)
    assert told(outcome, "a") == (pytest.approx(area, rel=1e-12), 0.0)
    assert told(outcome, "p") == (pytest.approx(rim, rel=1e-9), 0.0)


@pytest.mark.parametrize("at_once", [10, 100, 15_000])
def test_a_chain_however_many_of_it_are_united_at_once(
    at_once: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Discs each of which lies over the next: as large as all of them without the lenses that two have in common."""
    monkeypatch.setattr(overlaying, "_AT_ONCE", at_once)
    count, radius, step = 40, 5.0, 7.0
    outcome = outcome_of(
        f"units mm, deg\none = disc({radius} mm)\n"
        f"r = one + [one.move(i * {step} mm) for i in 1 .. {count - 1}]\na = area(r)"
    )
    half = step / 2
    lens = 2 * radius**2 * math.acos(half / radius) - step * math.sqrt(radius**2 - half**2)
    area = count * math.pi * radius**2 - (count - 1) * lens
    assert told(outcome, "a") == (pytest.approx(area, rel=1e-12), 0.0)


def test_a_loop_makes_what_is_the_same_only_once() -> None:
    """And what depends on the item for each."""
    outcome = outcome_of(
        "units mm, deg\nf(n) = if n < 3 then 4 mm else 5 mm\n"
        "rs = [(rect(20 mm, 20 mm) - disc(f(i))).move(x = i * 30 mm) for i in 0 .. 5]\n"
        "a = area(rs)\nsame = [disc(3 mm).move(x = i * 9 mm) for i in 0 .. 5]\nb = area(same)"
    )
    assert told(outcome, "a")[0] == pytest.approx(2400 - math.pi * 3 * (16 + 25), rel=1e-12)
    assert told(outcome, "b")[0] == pytest.approx(6 * math.pi * 9, rel=1e-12)
    (line,) = (one for one in outcome.lines if one.line.name == "same")
    discs: Any = line.value
    assert len({id(one.flat) for one in discs}) == 1


def test_of_what_is_put_together_step_by_step_only_what_is_drawn_has_a_mesh() -> None:
    """And it is the same whenever it is made: after a run with another tolerance, too."""
    text = (
        "units mm, deg\ntolerance {} mm\nbody = box(40 mm, 30 mm, 9 mm) - cylinder(8 mm, 30 mm).move(z = -9 mm)\n"
        "more = body + cylinder(6 mm, 20 mm).move(15 mm, 0 mm, 0 mm)\npart p = more - box(3 mm, 3 mm, 60 mm)"
    )
    meshes = []
    for wait in (False, True):
        forget_all()
        outcome = outcome_of(text.format(0.04))
        body, _, part = (line.value.shape for line in outcome.lines[-3:])
        assert callable(body._manifold) and not callable(part._manifold)
        if wait:
            outcome_of(text.format(2))
        with divided_to(3.0 if wait else 0.04):
            meshes.append(body.mesh)
    assert np.array_equal(meshes[0].corners, meshes[1].corners)
    assert np.array_equal(meshes[0].triangles, meshes[1].triangles)


def test_many_outlines_are_taken_up_in_no_order() -> None:
    """For the library's tree of places, which is never balanced; the figure stays the same."""
    holes = [shapely.Point(7 * i, 0).buffer(3, quad_segs=4) for i in range(200)]
    plate = shapely.Polygon(shapely.box(-9, -9, 1500, 9).exterior, [one.exterior for one in holes])
    for figure in (plate, shapely.MultiPolygon(holes), np.array(holes)):
        mixed = _mixed(figure)
        before, after = (shapely.MultiPolygon(one) if isinstance(one, np.ndarray) else one for one in (figure, mixed))  # fmt: skip
        assert after.equals(before)
        rings = shapely.get_rings(shapely.get_parts(after))
        ways = np.sign(np.diff(shapely.get_x(shapely.centroid(rings))))
        assert 0.3 < (ways > 0).mean() < 0.7


def circle(x: float, y: float, radius: float) -> shapely.Polygon:
    """A polygon with the area of a circle."""
    count = 40_000
    out = radius * math.sqrt(2 * math.pi / count / math.sin(2 * math.pi / count))
    angles = np.arange(count) * 2 * math.pi / count + 0.1
    return shapely.Polygon(np.column_stack([x + out * np.cos(angles), y + out * np.sin(angles)]))


PLACINGS = [
    ("", 1), (".turn(37°)", 1), (".move(12345.678 mm, -54321.9 mm)", 1), (".mirror(x)", 1),
    (".scale(10)", 10), (".turn(200°).move(1000 mm, 0 mm).scale(0.3)", 0.3),
]  # fmt: skip
"""What leaves figures as they are, but for that factor."""

WAYS = {"+": shapely.union, "-": shapely.difference, "&": shapely.intersection}
GAPS = (0.05, 0.01, 0.002, 5e-4)


def beside(random: Random, turn: float, gap: float) -> tuple[str, shapely.Polygon]:
    """A disc or a plate on that side of the origin, whose outline misses it by a gap."""
    size = random.choice([5, 8, 10, 20])
    x, y = size * math.cos(turn), size * math.sin(turn)
    if random.random() < 0.6:
        return f"disc({size + gap!r} mm).move({x!r} mm, {y!r} mm)", circle(x, y, size + gap)
    flat = affinity.rotate(shapely.box(-size - gap, -25, size + gap, 25), turn, (0, 0), use_radians=True)  # fmt: skip
    said = f"rect({2 * (size + gap)!r} mm, 50 mm).turn({turn!r} * 1 rad).move({x!r} mm, {y!r} mm)"
    return said, affinity.translate(flat, x, y)


@pytest.mark.parametrize(("gap", "side"), [*itertools.product(GAPS, (-1, 1))])
def test_three_outlines_that_all_but_meet_in_one_place(gap: float, side: int) -> None:
    random = Random(gap)
    placings = itertools.cycle(PLACINGS)
    for first, second in itertools.product("+-&", "+-&"):
        turns = [(n + random.uniform(0.2, 0.8)) * 2 * math.pi / 3 for n in range(3)]
        (a, one), (b, two), (c, three) = (
            beside(random, turn, side * gap * (n == 2)) for n, turn in enumerate(turns)
        )
        wanted = WAYS[second](WAYS[first](one, two), three)
        if wanted.area < 1e-3:
            continue
        placed, factor = next(placings)
        a, b, c = (one + placed for one in (a, b, c))
        outcome = outcome_of(f"units mm, deg\nr = ({a} {first} {b}) {second} {c}\na = area(r)\np = perimeter(r)")  # fmt: skip
        for name, is_ in (("a", wanted.area * factor**2), ("p", wanted.length * factor)):
            found, within = told(outcome, name)
            assert found == pytest.approx(is_, rel=1e-5)
            assert within <= 1e-3  # where two of them cross at a small angle; else it is exact


HAIRS = {
    "within both": ("-", (-19.202072323950834, 5.592889992281396, 20), "-", (-9.558227060715069, 2.9394379489647604, 10), (-7.076655295339578, -3.731078909771584, 8.000005048163649)),
    "beside two": ("+", (-7.999365505392202, 0.10075470778758575, 8), "&", (-4.589642737715499, -8.884547233266048, 10), (19.982363614080022, -0.8397287625720783, 19.999989806661407)),
}  # fmt: skip


@pytest.mark.parametrize("turn", [0, 70])
@pytest.mark.parametrize(("first", "one", "second", "two", "three"), HAIRS.values(), ids=HAIRS)
def test_a_circle_that_misses_by_a_hair_where_two_others_all_but_touch(
    first: str, one: Any, second: str, two: Any, three: Any, turn: int
) -> None:
    """By 0.000 01 mm and less, where sides tell nothing any more: what is told is right, or not told to be exact."""
    a, b, c = (f"disc({r!r} mm).move({x!r} mm, {y!r} mm).turn({turn}°)" for x, y, r in (one, two, three))  # fmt: skip
    wanted = WAYS[second](WAYS[first](circle(*one), circle(*two)), circle(*three))
    outcome = outcome_of(f"units mm, deg\nr = ({a} {first} {b}) {second} {c}\na = area(r)\np = perimeter(r)")  # fmt: skip
    for name, is_ in (("a", wanted.area), ("p", wanted.length)):
        found, within = told(outcome, name)
        assert found == pytest.approx(is_, rel=max(within, 1e-6))
        assert within <= 1e-3


@pytest.mark.parametrize("count", [3, 4, 6, 12])
def test_circles_through_one_place(count: int) -> None:
    """A rosette: circles of radius r whose centres lie on a circle as large about the place that all of them go through.
    Its outline is as long as two of them, whatever their number (elementary geometry)."""
    turned = f"disc(20 mm).move(20 mm * cos(i * {360 / count!r}°), 20 mm * sin(i * {360 / count!r}°))"  # fmt: skip
    outcome = outcome_of(
        f"units mm, deg\npetals = [{turned} for i in 0 .. {count - 1}]\n"
        "r = fold((one, next) -> one + next, petals[0], petals)\na = area(r)\np = perimeter(r)"
    )
    # Sectors between neighbouring centres: a triangle each between the place and the outline, and a sector of a circle.
    half = math.pi / count
    area = 400 * count * (math.sin(2 * half) + 2 * half)
    assert told(outcome, "p") == (pytest.approx(4 * math.pi * 20, rel=1e-9), 0.0)
    assert told(outcome, "a") == (pytest.approx(area, rel=1e-9), 0.0)


def test_what_is_thinner_than_chords_miss_is_told_to_be_uncertain() -> None:
    """Three circles of which no two of three leave anything in common, but by their chords."""
    outcome = outcome_of(
        "units mm, deg\n"
        "r = (disc(8 mm).move(-7.8702645 mm, -1.4348996 mm) & disc(20 mm).move(18.1023091 mm, -8.5033173 mm))"
        " & disc(7.9999142 mm).move(0.5838331 mm, 7.9786677 mm)\na = area(r)"
    )
    area, within = told(outcome, "a")
    assert area < 1e-3
    assert within == 1.0
