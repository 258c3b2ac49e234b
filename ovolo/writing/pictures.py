"""Small pictures of words, drawn from their examples: a shape, a row of bars, or a graph.

Everything is drawn in a box 96 wide and 64 high, y downwards; nothing about a word is said here
that its entry in the registry does not say.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Any

import numpy as np
from msgspec import Struct, field

from ovolo.geometry.solids.solid import Shape, silhouette
from ovolo.geometry.types import Points
from ovolo.meaning import checked_tree
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.outcome.part import Part
from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, LENGTH
from ovolo.quantities.kinds import GEOMETRY, Kind, ListOf, PointKind, Quantity, Record, innermost
from ovolo.running.code import Run, compiled
from ovolo.words.registry import Word

WIDTH, HEIGHT, MARGIN = 96.0, 64.0, 7.0
_MOST_EDGES = 400
_SAMPLES = 97
_TURN = np.radians(35.0)
_TILT = np.radians(25.0)


_LINES_EACH_WAY = 6
"""So many lines of a surface are drawn along u, and along v."""


class Picture(Struct, frozen=True):
    """Polylines, bars standing on a line, dots: each a list of (x, y)."""

    lines: list[list[tuple[float, float]]] = field(default_factory=list)
    bars: list[list[tuple[float, float]]] = field(default_factory=list)
    dots: list[tuple[float, float]] = field(default_factory=list)


@lru_cache(maxsize=1_000)
def picture_of(word: Word) -> Picture | None:
    """The picture of a word; None where there is nothing to draw (texts, tables)."""
    call = next(_calls(word), None)
    if call is None:
        return None
    node, outcome = call
    shapes = [node, *node.positional, *(value for _, value in node.named)]
    for one in shapes:
        if _has_place(one.kind):
            picture = _of_geometry(_value(one, outcome), one.kind)
            if picture.lines or picture.dots:
                return picture
    if word.elementwise and node.positional and isinstance(node.positional[0].kind, Quantity):
        return _graph(word, node, outcome)
    if node.positional and isinstance(node.positional[0], checked_tree.Applied):
        return _graph_of_function(node, outcome)
    for one in shapes:
        if isinstance(one.kind, ListOf) and isinstance(one.kind.item, Quantity):
            return _bars(np.asarray(_value(one, outcome), dtype=float))
        if _are_pieces(one.kind):
            pieces = _value(one, outcome)
            return _bars(np.array([piece["length"] for piece in pieces], dtype=float))
    figures = [one for one in node.positional if isinstance(one.kind, Quantity)]
    if len(figures) > 1:
        return _bars(np.array([_value(one, outcome) for one in figures], dtype=float))
    return None


def _graph_of_function(node: checked_tree.WordCall, outcome: Outcome) -> Picture | None:
    """The function that a word is given, between the two places that it is given with it."""
    function, *rest = node.positional
    ends = [float(_value(one, outcome)) for one in rest if isinstance(one.kind, Quantity)]
    if len(ends) != 2:
        return None
    f = _value(function, outcome)
    xs = np.linspace(ends[0], ends[1], _SAMPLES)
    graph = np.column_stack([xs, [float(f(float(x))) for x in xs]])
    drawn = _fitted(np.concatenate([graph, [[ends[0], 0.0], [ends[1], 0.0]]]), even=False)
    return Picture([_pairs(drawn[-2:]), _pairs(drawn[:-2])])


def _are_pieces(kind: Kind | None) -> bool:
    """Whether these are pieces of some length each."""
    item = kind.item if isinstance(kind, ListOf) else None
    return isinstance(item, Record) and "length" in dict(item.fields)


def _calls(word: Word) -> Iterator[tuple[checked_tree.WordCall, Outcome]]:
    """The uses of a word in its example."""
    if word.constant:
        return
    outcome = outcome_of("\n".join(filter(None, [word.above, f"example = {word.example}"])))
    checked = outcome.lines[-1].line.checked
    if checked is None or checked.value is None:
        return
    for node in checked_tree.descendants(checked.value):
        if isinstance(node, checked_tree.WordCall) and node.word is word:
            yield node, outcome


def _value(node: checked_tree.Typed, outcome: Outcome) -> Any:
    values = {one.line.name: one.value for one in outcome.lines if one.line.name and one.has_value}
    return compiled(node)({None: Run(values, outcome.units, [])})


def _has_place(kind: Kind | None) -> bool:
    kind = innermost(kind)
    return kind in GEOMETRY or (isinstance(kind, PointKind) and kind.dimension == LENGTH)


def _of_geometry(value: Any, kind: Kind) -> Picture:
    """Edges and points in parallel projection; flat things in plan."""
    part = Part("", "", "", innermost(kind) or kind, value, 0)
    edges = [_placed(group.shape.drawing.edges, group.matrices) for group in part.groups]
    edges += [_placed(r.drawing.edges, r.frame[None]) for r in part.regions]
    edges += [np.asarray(c.drawing.edges, dtype=float) for c in part.curves if c.pieces]
    edges += [surface.lines(_LINES_EACH_WAY) for surface in part.surfaces]
    edges += [_roundness(group.shape, group.matrices) for group in part.groups if not len(group.shape.drawing.edges)]  # fmt: skip
    corners = np.concatenate([*edges, np.empty((0, 2, 3))])[:_MOST_EDGES]
    points = part.points
    if len(points):
        points = np.concatenate([np.zeros((1, 3)), points])
    everything = np.concatenate([corners.reshape(-1, 3), points])
    flat = not len(everything) or bool(np.ptp(everything[:, 2]) < 1e-9)
    project = _in_plan if flat else _slanted
    drawn = _fitted(project(everything))
    lines = drawn[: 2 * len(corners)].reshape(-1, 2, 2)
    dots = drawn[2 * len(corners) :]
    return Picture([_pairs(line) for line in lines], [], _pairs(dots))


def _roundness(shape: Shape, matrices: Any) -> Points:
    """Of a shape without edges, such as a sphere: its outline, seen from three sides."""
    found = [np.empty((0, 2, 3))]
    for axis in range(3):
        turned = np.eye(4)
        turned[:3, :3] = np.roll(np.eye(3), axis, axis=0)
        for ring in silhouette(shape, turned):
            flat = np.column_stack([ring, np.zeros(len(ring))]) @ turned[:3, :3]
            found.append(np.stack([flat, np.roll(flat, -1, axis=0)], axis=1))
    return _placed(np.concatenate(found), matrices)


def _placed(edges: Any, matrices: Any) -> Points:
    """Line segments (m, 2, 3) in all their places (n, 4, 4), together."""
    ends = np.asarray(edges, dtype=float).reshape(-1, 3)
    placed = np.einsum("nij,pj->npi", matrices[:, :3, :3], ends) + matrices[:, None, :3, 3]
    segments: Points = placed.reshape(-1, 2, 3)
    return segments


def _in_plan(points: Points) -> Points:
    return points[:, :2]


def _slanted(points: Points) -> Points:
    """Parallel projection, seen from the front, the left and above."""
    x = points[:, 0] * np.cos(_TURN) - points[:, 1] * np.sin(_TURN)
    deep = points[:, 0] * np.sin(_TURN) + points[:, 1] * np.cos(_TURN)
    return np.column_stack([x, points[:, 2] * np.cos(_TILT) + deep * np.sin(_TILT)])


def _fitted(points: Points, even: bool = True) -> Points:
    """Points brought into the box, y downwards; `even` keeps their proportions."""
    if not len(points):
        return points
    low, size = points.min(axis=0), np.maximum(np.ptp(points, axis=0), 1e-12)
    room = np.array([WIDTH - 2 * MARGIN, HEIGHT - 2 * MARGIN])
    scale = np.minimum(*(room / size)) if even else room / size
    centred = (points - low - size / 2) * scale * [1, -1]
    placed: Points = np.round(centred + np.array([WIDTH / 2, HEIGHT / 2]), 1)
    return placed


def _pairs(points: Points) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in points]


def _bars(values: Points) -> Picture:
    """A bar for each value, from 0."""
    if values.ndim != 1 or not len(values):
        return Picture()
    at = np.arange(len(values))
    ends = np.concatenate([np.column_stack([at, values]), [[-0.5, 0], [len(values) - 0.5, 0]]])
    drawn = _fitted(ends, even=False)
    ground = drawn[-1, 1]
    bars = [[(float(x), float(ground)), (float(x), float(y))] for x, y in drawn[:-2]]
    return Picture([_pairs(drawn[-2:])], bars, [])


def _graph(word: Word, node: checked_tree.WordCall, outcome: Outcome) -> Picture:
    """The word as a function of its first argument, the others as in the example."""
    first = node.positional[0]
    assert isinstance(first.kind, Quantity)
    size = abs(float(_value(first, outcome)))
    reach = 2 * np.pi if first.kind.dimension == ANGLE else max(size, 1.0) * 1.2
    rest = [_value(value, outcome) for value in node.positional[1:]]
    named = {name: _value(value, outcome) for name, value in node.named}
    points = []
    for x in np.linspace(-reach, reach, _SAMPLES):
        try:
            y = float(word.function(float(x), *rest, **named))
        except (Failure, ArithmeticError, ValueError):  # the word does not accept this x
            continue
        points.append((x, y))
    if len(points) < 2:
        return Picture()
    graph = np.array(points)
    limit = 4 * reach if first.kind.dimension != ANGLE else 4.0
    graph[:, 1] = np.clip(graph[:, 1], -limit, limit)
    axes = np.array([[-reach, 0.0], [reach, 0.0]])
    drawn = _fitted(np.concatenate([graph, axes]), even=False)
    return Picture([_pairs(drawn[-2:]), _pairs(drawn[:-2])])
