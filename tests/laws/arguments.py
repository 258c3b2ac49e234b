"""Arguments for every word of the registry that makes or measures something, by its signatures.

Things are handed to a word through `g`, directions through `h`: a law says what becomes of the
result where these move, turn or mirror all that goes in. Figures stand with `mm`, so that another
unit makes everything ten times as large.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ovolo.words.all import WORDS
from ovolo.words.registry import Word

THINGS = (
    "r0 = region([(-20 mm, -12 mm), (22 mm, -12 mm), (22 mm, 6 mm), (8 mm, 14 mm), (-20 mm, 14 mm)]) - disc(4 mm).move(-6 mm, 1 mm)",
    "r1 = slot(9 mm, 5 mm).turn(20°).move(11 mm, 5 mm)",
    "s0 = extrude(r0, 9 mm) + box(8 mm, 6 mm, 5 mm).move(10 mm, -4 mm, 9 mm)",
    "s1 = cylinder(6 mm, 20 mm).move(12 mm, 8 mm, 1 mm)",
    "c0 = start((-10 mm, 0 mm)).to((5 mm, 0 mm)).tangent_to((12 mm, 9 mm)).to((2 mm, 20 mm))",
    "c1 = line((-4 mm, -9 mm), (14 mm, 31 mm))",
    "f0 = surface((u, v) -> (u * 30 mm, v * 20 mm, u * v * 8 mm))",
    "p0 = (3 mm, 4 mm, 5 mm)",
    "p1 = (-7 mm, 11 mm, 2 mm)",
)

MAKING = ("curves", "regions", "solids", "surfaces")
"""The trades whose words make things out of figures, points and other things."""

CALLS: dict[str, tuple[str, ...]] = {
    "cells": ("sum([area(region(c.corners.on_plan)) for c in cells(g(f0), 3, 2)])",),
    "arc": ("g(arc((3 mm, 4 mm), 9 mm, 20°, 200°))",),
    "arc3": ("arc3(g((0 mm, 0 mm)), g((5 mm, 6 mm)), g((12 mm, 1 mm)))",),
    "arc_rise": ("arc_rise((0 mm, 0 mm), (20 mm, 4 mm), 6 mm)",),
    "curve": ("curve(t -> g((t * 10 mm, t^2 * 10 mm)), 0, 2)",),
    "spline": ("spline([g((0 mm, 0 mm)), g((9 mm, 5 mm)), g((15 mm, -3 mm)), g((30 mm, 0 mm))])",),
    "polyline": ("polyline([g(p0), g(p1), g((9 mm, 9 mm, 9 mm))])",),
    "helix": ("helix(9 mm, 5 mm, 3)", "helix(9 mm, t -> 5 mm + t * 1 mm, 3)"),
    "ellipse": ("ellipse(20 mm, 9 mm)",),
    "start": ("start(g(p0)).to(g(p1))",),
    "to": ("to(g(c0), g((40 mm, 20 mm)))",),
    "arc_to": ("arc_to(g(c0), g((9 mm, 30 mm)), 12 mm)", "arc_to(g(c0), g((9 mm, 30 mm)), 12 mm, greater = yes)"),
    "arc_through": ("arc_through(g(c0), g((9 mm, 30 mm)), g((19 mm, 26 mm)))",),
    "tangent_to": ("tangent_to(g(c0), g((-9 mm, 33 mm)))",),
    "close": ("close(g(c0))",),
    "fillet": ("fillet(close(g(c0)), 1 mm)",),
    "chamfer": ("chamfer(close(g(c0)), 1 mm)", "chamfer(g(r0), 2 mm)"),
    "offset": ("offset(g(c0), 2 mm)", "offset(g(r0), 3 mm)", "offset(g(r0), -2 mm)"),
    "trim": ("trim(g(c0), 4 mm, 20 mm)",),
    "split": ("split(g(c0), 9 mm)", "split(g(s0), way = h((1, 1, 0)), at = g(p0))"),
    "divide": ("divide(g(c0), 5)",),
    "meet": ("meet(g(c0), g(c1))",),
    "closest": ("closest(g(c0), g(p0))",),
    "point_at": ("point_at(g(c0), 9 mm)", "point_at(g(c0), share = 0.3)", "point_at(g(f0), u = 0.3, v = 0.6)"),
    "tangent_at": ("length(line(g(p0), g(p0) + tangent_at(g(c0), 9 mm) * 10 mm))",),
    "frame_at": ("frame_at(g(c0), 9 mm).at",),
    "rect": ("g(rect(20 mm, 9 mm))",),
    "region": ("region([g((0 mm, 0 mm)), g((20 mm, 3 mm)), g((4 mm, 17 mm))])", "region(close(g(c0)))"),
    "polygon": ("g(polygon(7, 9 mm))",),
    "star": ("g(star(5, 12 mm, 6 mm))",),
    "sector": ("g(sector(5 mm, 20 mm, 10°, 200°))",),
    "text": ('text("Qu 8", 10 mm)', 'text("Qu", 4 mm, along = g(c0))'),
    "round_corners": ("round_corners(g(r0), 2 mm)",),
    "cone": ("g(cone(9 mm, 20 mm))", "g(cone(9 mm, 20 mm, top = 4 mm))"),
    "extrude": ("extrude(g(r0), 9 mm)", "extrude(g(r0), 9 mm, taper = 4°, top = round(1 mm), bottom = bevel(0.5 mm))", "extrude(g(r1), up_to = g(box(90 mm, 90 mm, 9 mm).move(z = 30 mm)))"),
    "revolve": ("revolve(r1.move(30 mm))", "revolve(r1.move(30 mm), 130°)", "revolve(c0.move(30 mm), 200°)"),
    "loft": ("loft([g(r1), g(rect(9 mm, 9 mm).move(z = 20 mm)), g(disc(4 mm).move(z = 35 mm))])", "loft([g(r1), g(disc(9 mm).move(z = 20 mm)), g(disc(4 mm).move(z = 35 mm))], smooth = yes)"),
    "sweep": ("sweep(rect(3 mm, 2 mm), g(c0))", "sweep(disc(2 mm).move(1 mm), g(c0), twist = 40°)", "sweep(rect(3 mm, 2 mm), g(c0), size = s -> 1 + s)"),
    "pipe": ("pipe(g(c0), 2 mm)", "pipe(g(c1), 2 mm)"),
    "shell": ("shell(g(s1), 2 mm)", 'shell(g(box(30 mm, 20 mm, 9 mm)), 2 mm, "none")'),
    "inside": (
        "sum([if inside(g((i * 3.1 mm, j * 2.3 mm, 2 mm)), g(s0)) then 2 mm else 1 mm for i in -7 .. 7 for j in -6 .. 6])",
        "sum([if inside(g((i * 3.1 mm, j * 2.3 mm)), g(r0)) then 2 mm else 1 mm for i in -7 .. 7 for j in -6 .. 6])",
    ),
    "bezier": ("bezier([g(p0), g(p1), g((9 mm, 9 mm, 9 mm)), g((20 mm, 0 mm, 3 mm)), g((30 mm, 5 mm, 0 mm))])", "bezier([g(p0), g(p1), g((9 mm, 9 mm, 9 mm))])"),
    "catenary": ("catenary(g(p0), g(p1), 30 mm, down = h((1, 0, -2)))",),
    "voronoi": ("voronoi([g((1 mm, 2 mm)), g((9 mm, 3 mm)), g((-5 mm, 6 mm))], g(r0))",),
    "triangulate": ("triangulate(g(rect(20 mm, 9 mm) - rect(4 mm, 3 mm)))", "triangulate([g((0 mm, 0 mm)), g((9 mm, 1 mm)), g((2 mm, 7 mm)), g((8 mm, 9 mm))])"),
    "convex_hull": ("convex_hull([g(s0), g(s1)])", "convex_hull([g(p0), g(p1), g((9 mm, 9 mm, 9 mm)), g((0 mm, 0 mm, 30 mm))])"),
    "half": ("half(g(s0), h((1, 2, 0)), at = g(p0))",),
    "cut_at": ("cut_at(g(s0), h((1, 2, 0)), at = g(p0))",),
    "wrap": ("wrap(r1, 30 mm, thickness = 3 mm)", "wrap(box(20 mm, 9 mm, 3 mm), 30 mm)"),
    "twist": ("twist(s0, 40°)",),
    "bend": ("bend(box(40 mm, 9 mm, 3 mm), 60 mm)",),
    "taper": ("taper(s0, 0.6)",),
    "round_edges": ("round_edges(g(box(30 mm, 20 mm, 9 mm)), 2 mm)", "round_edges(g(s1), 1 mm)"),
    "bevel_edges": ("bevel_edges(g(box(30 mm, 20 mm, 9 mm)), 2 mm)",),
    "edges": ("sum([e.length for e in edges(g(s0))])",),
    "patch": ("patch([[g(p0), g(p1)], [g((9 mm, 0 mm, 0 mm)), g((9 mm, 9 mm, 9 mm))]])",),
    "loft_surface": ("loft_surface([g(c1), g(c1.move(9 mm, 0 mm, 5 mm)), g(c1.move(20 mm))])",),
    "normal_at": ("angle_between(normal_at(g(f0), 0.3, 0.4), h(z))",),
    "thicken": ("thicken(g(f0), 2 mm)",),
    "flip": ("flip(g(f0))",),
    "surface": ("surface((u, v) -> g((u * 30 mm, v * 20 mm, u * v * 8 mm)))",),
    "thickness": ("thickness(g(s0), g((-6 mm, -30 mm, 4 mm)), h(y))",),
    "clearance": ("clearance(g(s1), g(s1.move(30 mm, 9 mm)))",),
    "bounds": ("distance(bounds(s0).low, bounds(s0).high)",),
    "level": ("level(g(s0))",),
    "height": ("height(g(s0))",),
    "width": ("width(s0)",),
    "depth": ("depth(s0)",),
}  # fmt: skip
"""Calls that a signature does not tell: of words with options, with points in an order, with an axis
of their own."""

CALLS.pop("cells")

SAMPLES = {
    "length": "3 mm", "number": "0.5", "angle": "30°", "whole": "4",
    "curve": "g({c})", "region": "g({r})", "solid": "g({s})", "surface": "g(f0)", "point": "g({p})",
}  # fmt: skip


@dataclass(frozen=True)
class Call:
    """A call of a word, and whether all its geometry comes through `g`."""

    word: Word
    formula: str

    def __str__(self) -> str:
        return self.formula


def calls() -> list[Call]:
    """A call or more for every word that makes geometry, or measures it."""
    return [Call(word, formula) for word in covered() for formula in _formulas(word)]


def covered() -> list[Word]:
    """The words that laws of geometry speak of."""
    return [
        word
        for word in WORDS.values()
        if word.trade in (*MAKING, "measuring") and word.name not in WITHOUT
    ]


WITHOUT = {
    "bevel": "the finish of an edge, not a thing",
    "cells": "frames with their corners; see tests/geometry/test_surface.py",
    "angle_between": "of directions alone",
    "distance": "of points alone",
    "contours": "its heights are counted from zero; see tests/outside/test_words_of_geometry.py",
}
"""Words that are tried elsewhere, and why."""


def _formulas(word: Word) -> Iterator[str]:
    if word.name in CALLS:
        yield from CALLS[word.name]
        return
    for signature in word.signatures:
        said = signature.written.split("->")[0]
        kinds = [one.strip() for one in said.split(",")]
        needed = [one.removeprefix("many ") for one in kinds if one and not one.endswith("?")]
        if all(kind in SAMPLES for kind in needed):
            yield f"{word.name}({', '.join(_arguments(needed))})"


def _arguments(kinds: list[str]) -> Iterator[str]:
    used: dict[str, int] = {}
    for kind in kinds:
        number = used[kind] = used.get(kind, -1) + 1
        yield SAMPLES[kind].format(c=f"c{number}", r=f"r{number}", s=f"s{number}", p=f"p{number}")
