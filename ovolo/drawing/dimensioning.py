"""Dims on paper, after ISO 129-1: extension lines with a gap, oblique strokes or arrows, the text
along the line and above it, where it covers nothing."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from ovolo.drawing.marks import TEXT, Group, Label, Stroke, flat, lines
from ovolo.drawing.views import PLAN, View
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import arc_through, polyline
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.types import Points
from ovolo.outcome.dims import Dim
from ovolo.quantities.show import DisplayUnits, grouped, show_quantity

_GAP = 1.0
"""mm between what is measured and its extension line."""

_BEYOND = 2.0
"""mm by which an extension line passes the dimension line."""

_ARROW = 3.0
_ABOVE = 0.9
"""mm between a line and the text above it."""

_FLAT = 1e-6
"""By how many mm a dim may leave the plane of the drawing, or radians."""

_ROWS = 14
"""So many rows away from its line a text is placed at the most."""


def dims_drawn(
    dims: Sequence[Dim],
    view: View,
    scale: float,
    units: DisplayUnits,
    drawn: Sequence[Group],
    names: bool = False,
) -> Group:
    """The dims that a view shows in their true size; with `names`, each says what it states.
    Their texts are placed clear of each other and, as far as can be, of what is `drawn`."""
    shown = [one for one in dims if is_seen(one, view)]
    strokes: list[Stroke] = []
    wanted: list[list[Label]] = []
    for dim in shown:
        text = said(dim, units, names)
        marks, places = _FORMS[dim.form](dim, view, scale, text)
        strokes += marks
        wanted.append(places)
    placing = _Placing([*(stroke for group in drawn for stroke in group.strokes), *strokes])
    labels = tuple(placing.placed(places) for places in wanted)
    return Group("dims", "Dims", tuple(strokes), labels)


def said(dim: Dim, units: DisplayUnits, names: bool) -> str:
    """What stands at a dim."""
    shown = dim.shown(units)
    space = "" if shown.unit == "°" else " "
    text = f"{grouped(shown.number)}{space}{shown.unit}".strip()
    if names:
        text = f"{dim.said} = {text}"
    if not dim.wrong:
        return text
    measured = show_quantity(dim.measured, dim.dimension, units)
    return f"✕ {text}, measures {measured}"


def is_seen(dim: Dim, view: View) -> bool:
    """Whether a view shows a dim in its true size."""
    if dim.form == "level":
        return True
    points = [view.placed(p) for p in (dim.start, dim.end, dim.apex) if p is not None]
    return float(np.ptp([p[2] for p in points])) < _FLAT and dim.measured > SAME_SHARE


def _role(dim: Dim) -> str:
    return "wrong" if dim.wrong else "dim"


def _unit(vector: Points) -> Points:
    unit: Points = vector / (np.linalg.norm(vector) or 1.0)
    return unit


def _left(vector: Points) -> Points:
    return np.array([-vector[1], vector[0]])


Marks = tuple[list[Stroke], list[Label]]


def _on_paper(dim: Dim, view: View, scale: float) -> tuple[Points, Points]:
    a, b = (scale * view.placed(point)[:2] for point in (dim.start, dim.end))
    return a, b


def _length(dim: Dim, view: View, scale: float, text: str) -> Marks:
    a, b = _on_paper(dim, view, scale)
    along = _unit(b - a)
    shift = -scale * dim.offset * _left(along)
    p, q = a + shift, b + shift
    segments = [(p, q)]
    if np.linalg.norm(shift) > _GAP:
        out = _unit(shift)
        segments += [(a + _GAP * out, p + _BEYOND * out), (b + _GAP * out, q + _BEYOND * out)]
    tick = _ARROW / 2 * _unit(along + _left(along))
    segments += [(p - tick, p + tick), (q - tick, q + tick)]
    return list(lines(segments, _role(dim))), list(_along(p, q, text, _role(dim)))


def _arrow(tip: Points, along: Points, role: str) -> Stroke:
    """A filled arrowhead that points along a direction."""
    back = tip - _ARROW * _unit(along)
    half = _ARROW * math.tan(math.radians(10)) * _left(_unit(along))
    outline = polyline(np.array([flat(p) for p in (tip, back + half, back - half, tip)]))
    return Stroke((outline,), "arrow", role)


def _radius(dim: Dim, view: View, scale: float, text: str) -> Marks:
    centre, rim = _on_paper(dim, view, scale)
    marks = [*lines([(centre, rim)], _role(dim)), _arrow(rim, rim - centre, _role(dim))]
    return marks, list(_along(centre, rim, text, _role(dim)))


def _diameter(dim: Dim, view: View, scale: float, text: str) -> Marks:
    centre, rim = _on_paper(dim, view, scale)
    other = 2 * centre - rim
    marks = [
        *lines([(other, rim)], _role(dim)),
        _arrow(rim, rim - centre, _role(dim)),
        _arrow(other, centre - rim, _role(dim)),
    ]
    return marks, list(_along(other, rim, text, _role(dim)))


def _angle(dim: Dim, view: View, scale: float, text: str) -> Marks:
    assert dim.apex is not None
    apex = scale * view.placed(dim.apex)[:2]
    p, q = (end - apex for end in _on_paper(dim, view, scale))
    reach = scale * dim.offset or 0.7 * min(float(np.linalg.norm(p)), float(np.linalg.norm(q)))
    begin = math.atan2(p[1], p[0])
    sweep = (math.atan2(q[1], q[0]) - begin + math.pi) % (2 * math.pi) - math.pi

    def at(share: float, radius: float) -> Points:
        angle = begin + share * sweep
        place: Points = apex + radius * np.array([math.cos(angle), math.sin(angle)])
        return place

    role = _role(dim)
    marks: list[Stroke] = []
    ends = [at(share, reach) for share in (0.0, 0.5, 1.0)]
    if abs(sweep) > 1e-6 and reach > 1e-6:
        marks.append(Stroke((arc_through(*(flat(one) for one in ends)),), role))
        turn = math.copysign(1.0, sweep)
        # Where both arrows have no room within, they stand outside and point inwards.
        inward = 1.0 if reach * abs(sweep) > 2.5 * _ARROW else -1.0
        tangents = [turn * _left(_unit(end - apex)) for end in (ends[0], ends[2])]
        marks.append(_arrow(ends[0], -inward * tangents[0], role))
        marks.append(_arrow(ends[2], inward * tangents[1], role))
        if inward < 0:
            tail = 2 * _ARROW
            tails = [
                (ends[0], ends[0] - tail * tangents[0]),
                (ends[2], ends[2] + tail * tangents[1]),
            ]
            marks += lines(tails, role)
    for side, end in ((p, ends[0]), (q, ends[2])):
        if np.linalg.norm(side) < reach:
            marks += lines([(apex + side, end + _BEYOND * _unit(end - apex))], role)
    labels = []
    for row in range(_ROWS):
        for share in (0.5, 0.35, 0.65):
            place = at(share, reach + _ABOVE + (0.6 + 1.5 * row) * TEXT)
            labels.append(Label(text, place - [0, TEXT / 2], role=role))
        beside = (2 * _ARROW + _ABOVE + 1.5 * row * TEXT) / max(reach * abs(sweep), 1e-6)
        for share in (1 + beside, -beside):
            labels.append(Label(text, at(share, reach) - [0, TEXT / 2], role=role))
    return marks, labels


def _level(dim: Dim, view: View, scale: float, text: str) -> Marks:
    """An open triangle standing on its level; in plan a cross, for there levels have no height."""
    at = scale * view.placed(dim.end)[:2]
    role = _role(dim)

    def place(x: float, y: float) -> Points:
        there: Points = at + np.array([x, y])
        return there

    if view is PLAN:
        strokes = [(place(-1.5, 0), place(1.5, 0)), (place(0, -1.5), place(0, 1.5))]
        across, up = 2.0, 1.0
    else:
        left, right = place(-2, 3), place(2, 3)
        strokes = [(at, left), (left, place(6, 3)), (right, at), (place(-4, 0), place(4, 0))]
        across, up = 2.5, 3.0 + _ABOVE
    labels = [
        Label(text, place(side * across, up + 1.5 * TEXT * row), role=role, anchor=anchor)
        for row in range(_ROWS)
        for side, anchor in ((1, "start"), (-1, "end"))
    ]
    return list(lines(strokes, role)), labels


_FORMS = {
    "length": _length, "radius": _radius, "diameter": _diameter, "angle": _angle, "level": _level,
}  # fmt: skip


def _along(p: Points, q: Points, text: str, role: str) -> Iterator[Label]:
    """Where the text of a line may stand, the best place first: above its middle, elsewhere along
    it, below it, then in rows further off and beyond its ends."""
    along = _unit(q - p)
    angle = math.atan2(along[1], along[0])
    if not -math.pi / 2 + SAME_SHARE < angle <= math.pi / 2 + SAME_SHARE:
        along, angle = -along, angle - math.copysign(math.pi, angle)
        p, q = q, p
    up = _left(along)
    reach = float(np.linalg.norm(q - p))
    for row in range(_ROWS):
        above = _ABOVE + 1.5 * row * TEXT
        below = -(_ABOVE + 1.1 * TEXT + 1.5 * row * TEXT)
        for share in (0.5, 0.3, 0.7):
            place = p + share * reach * along
            yield Label(text, place + above * up, TEXT, angle, role)
            yield Label(text, place + below * up, TEXT, angle, role)
        yield Label(text, q + 2 * along + above * up, TEXT, angle, role, "start")
        yield Label(text, p - 2 * along + above * up, TEXT, angle, role, "end")


class _Placing:
    """Finds places for texts: never on another text, and on as few lines as can be."""

    def __init__(self, drawn: Sequence[Stroke]) -> None:
        self._tree = shapely.STRtree([line for stroke in drawn for line in _chords(stroke)])
        self._taken: list[shapely.Polygon] = []

    def placed(self, places: Sequence[Label]) -> Label:
        """The first of the places that is free; the least bad one where none is."""
        best: tuple[int, int] | None = None
        chosen = places[0]
        for label in places:
            box = shapely.Polygon(label.corners)
            covered = sum(1 for other in self._taken if box.intersects(other))
            crossed = len(self._tree.query(box, predicate="intersects"))
            if best is None or (covered, crossed) < best:
                best, chosen = (covered, crossed), label
            if best == (0, 0):
                break
        self._taken.append(shapely.Polygon(chosen.corners))
        return chosen


def _chords(stroke: Stroke) -> list[shapely.LineString]:
    """The lines of a stroke, to keep texts off; coarse, for that is enough."""
    if stroke.role == "arrow":
        return []
    return [_line(curve) for curve in stroke.curves]


def _line(curve: Curve) -> shapely.LineString:
    return shapely.LineString(curve.points(0.3)[:, :2])
