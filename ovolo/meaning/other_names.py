"""What words of other languages are called here, said where nothing bears such a name."""

from __future__ import annotations

OTHER_NAMES = {
    "rotate": "turn(what, 30°)", "rotated": "turn(what, 30°)", "spin": "turn(what, 30°)",
    "translate": "move(what, x = 5 mm)", "shift": "move(what, x = 5 mm)",
    "union": "a + b or unite([a, b])", "fuse": "a + b or unite([a, b])", "merge": "a + b or unite([a, b])",
    "add": "a + b", "subtract": "a - b", "difference": "a - b", "cut": "a - b",
    "intersect": "a & b", "intersection": "a & b", "common": "a & b",
    "cuboid": "box(w, d, h)", "cube": "box(w, d, h)", "block": "box(w, d, h)", "brick": "box(w, d, h)",
    "rectangle": "rect(w, h)", "square": "rect(w, w)", "tube": "pipe(curve, r)", "ball": "sphere(r)",
    "array": "row or grid or ring or along", "pattern": "row or grid or ring or along",
    "repeat": "row(what, n, step) or [… for i in 0 .. n - 1]", "copies": "row(what, n, step)",
    "linear_array": "row(what, n, step)", "polar_array": "ring(what, n)", "circular": "ring(what, n)",
    "map": "[f(x) for x in xs]", "filter": "[x for x in xs if …]", "reduce": "fold(f, start, xs)",
    "range": "0 .. 9 or 0 .. 1 by 0.1", "linspace": "spread(a, b, n)", "arange": "0 .. 1 by 0.1",
    "log": "ln(x) or log10(x)", "pow": "x^n", "square_root": "sqrt(x)", "cbrt": "x^(1/3)",
    "true": "yes", "false": "no", "True": "yes", "False": "no",
    "null": "`when` for a part or `if` for a value", "None": "`when` for a part or `if` for a value",
    "π": "pi", "PI": "pi", "tau": "2 * pi", "e": "exp(1)",
    "hull": "convex_hull([a, b])", "trunc": "floor(x)", "int": "floor(x)",
    "ceiling": "ceil(x)", "average": "mean(xs)", "avg": "mean(xs)", "size": "len(xs)", "str": '"{value}"',
    "degrees": "deg(a)", "radians": "rad(a)", "arcsin": "asin(x)", "arccos": "acos(x)",
    "arctan": "atan(x)", "vector": "(x, y, z)", "vec": "(x, y, z)", "point": "(x, y, z)",
    "magnitude": "norm(a)", "normalize": "unit(a)", "normalise": "unit(a)", "lerp": "between(a, b, share)",
    "rand": "random(i)", "minimize": "minimise(f, lo, hi)", "polyhedron": "convex_hull(points)",
    "extruded": "extrude(region, h)", "lathe": "revolve(region)", "round_edge": "round_edges(solid, r)",
    "polygon_points": "region([p, q, r])", "concat": "join(xs, ys)", "append": "join(xs, [x])",
    "sort": "sorted(xs)", "reverse_list": "reversed(xs)", "substring": "\"{value}\"",
    "vertices": "edges(solid)", "chamfer_edges": "bevel_edges(solid, d)", "fillet_edges": "round_edges(solid, r)",
}  # fmt: skip

OTHER_ARGUMENTS = {
    "radius": ("r",), "height": ("h", "length"), "width": ("w",), "depth": ("d",), "length": ("h", "over"),
    "count": ("n",), "number": ("n",), "spacing": ("step", "largest"), "distance": ("step", "size"),
    "angle": ("sweep", "a1"), "centre": ("at",), "center": ("at",), "axis": ("about",),
    "thickness": ("t", "h"), "diameter": ("r",), "d": ("r",), "start": ("a", "lo"), "end": ("b", "hi"),
}  # fmt: skip
"""Arguments by what they may be called elsewhere; the first that a word has is meant."""


def other_name(name: str) -> str:
    """What is written here for a name; empty where nothing is known of it."""
    found = OTHER_NAMES.get(name, "") or OTHER_NAMES.get(name.lower(), "")
    return (
        " or ".join(one if "`" in one else f"`{one}`" for one in found.split(" or "))
        if found
        else ""
    )


def other_argument(name: str, known: list[str]) -> str:
    """The hint for an argument that a word does not have; empty where nothing is known of it."""
    for candidate in OTHER_ARGUMENTS.get(name.lower(), ()):
        if candidate in known:
            if candidate == "r" and name in ("d", "diameter"):
                return "`r` is the radius: half of the diameter"
            return f"did you mean `{candidate}`?"
    return ""
