"""Words found by what is needed: phrases as people say them, written before the search was tried with them."""

from __future__ import annotations

import pytest

from ovolo.words.all import WORDS
from ovolo.writing.finding import entries, found_for
from ovolo.writing.needs_said import NEEDS_SAID

PHRASES = {
    "round up": "ceil", "rounding up to a whole number": "ceil", "round down": "floor", "how many boards fit": "floor", "round to the nearest 5 mm": "round",
    "remainder of a division": "mod", "keep a value between limits": "clamp", "the larger of two values": "max", "smallest value of a list": "min",
    "equal spacing": "fit", "divide a length into equal bays": "fit", "balusters with equal gaps": "fit_gaps", "next standard size": "next_up", "look up a value in a table": "lookup",
    "copies in a line": "row", "repeat something along a straight line": "row", "grid of holes": "grid", "bolt circle": "ring", "holes around a flange": "ring",
    "copies around a circle": "ring", "posts along a curve": "along", "panels on a surface": "over", "scatter stones randomly": "scatter", "boards laid end to end": "bays",
    "union of several solids": "unite", "every third item": "every", "shift by a distance": "move", "rotate": "turn", "rotate about an axis": "turn", "mirror image": "mirror",
    "make it bigger": "scale", "line up the bottom": "align", "rafter between two points": "laid", "how much material": "volume", "surface area": "area",
    "how long is a curve": "length", "centre of gravity": "centroid", "angle between two directions": "angle_between", "how far apart are two points": "distance", "bounding box": "bounds",
    "wall thickness": "thickness", "do two solids collide": "clash", "smallest gap between two solids": "clearance", "is a point inside": "inside", "line through several points": "polyline",
    "arc through three points": "arc3", "arch with a rise": "arc_rise", "oval": "ellipse", "hanging chain": "catenary", "smooth curve through points": "spline",
    "spring": "helix", "spiral coil": "helix", "curve from a formula": "curve", "point at a share of a curve": "point_at", "nearest point on a curve": "closest",
    "where two lines cross": "meet", "intersection of curves": "meet", "split a curve into equal parts": "divide", "parallel curve": "offset", "inset an outline": "offset",
    "cut a solid in two": "split", "value between table entries": "interpolate", "map one range to another": "remap", "area under a function": "integrate", "solve an equation": "root",
    "find the minimum": "minimise", "evenly spaced numbers": "spread", "add up a list": "sum", "running total": "running", "average": "mean",
    "remove duplicates": "unique", "sort by size": "sorted", "each item with the next one": "pairs", "each value depends on the one before": "scan", "random number": "random",
    "smooth random hills": "noise", "point by angle and distance": "polar", "midpoint": "mid", "regular hexagon": "polygon", "rectangle": "rect",
    "slotted hole": "slot", "rounded rectangle": "round_corners", "engrave letters": "text", "contour lines": "contours", "terrain from survey points": "triangulate",
    "cuboid": "box", "ball": "sphere", "give an outline a height": "extrude", "turn on a lathe": "revolve", "transition from square to round": "loft",
    "profile along a path": "sweep", "tube along a path": "pipe", "hollow out a box": "shell", "cross section of a solid": "cut_at", "twisted tower": "twist",
    "bend a bar": "bend", "round the edges of a solid": "round_edges", "surface between two curves": "ruled", "angle from slope": "atan", "slope from angle": "tan",
    "square root": "sqrt", "degrees to radians": "rad", "number as text": "written", "bearing of a point": "atan2",
}  # fmt: skip


@pytest.mark.parametrize("phrase", PHRASES)
def test_the_right_word_comes_first(phrase: str) -> None:
    found = [entry.name for entry in found_for(phrase, 5)]
    assert found[0] == PHRASES[phrase], found


def test_there_are_a_hundred_and_none_is_written_there() -> None:
    assert len(PHRASES) >= 100
    said = {need.strip() for needs in NEEDS_SAID.values() for need in needs.split(",")}
    assert len(set(PHRASES) & said) < len(PHRASES) / 2, "most are said otherwise"


def test_each_name_and_each_other_name_finds_its_word() -> None:
    for entry in entries():
        assert found_for(entry.name)[0].name.casefold() == entry.name.casefold()
    assert set(NEEDS_SAID) <= {entry.name for entry in entries() if entry.sort in ("word", "line")}
    assert {name for name, word in WORDS.items() if not word.constant} - set(NEEDS_SAID) <= {
        "to",
        "arc_through",
        "sinh",
        "cosh",
        "tanh",
        "sign",
        "start",
        "at",
    }


@pytest.mark.parametrize("phrase", ["", " ", "the of", "zzzz", "💡", "a" * 10_000, "\x00"])
def test_what_says_nothing_finds_nothing_wrong(phrase: str) -> None:
    assert len(found_for(phrase)) <= 60
