"""The figures of a sheet of several views: each a view, a section at a cut, or a detail, with hidden lines
left out or dashed.

What is said: `plan`, `front`, `side`, `axonometric`, `section x` (through the middle) or `section z 120 mm`,
`detail front 40 mm 25 mm 15 mm` (of a place of a view, within a radius, at twice its scale).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from msgspec import Struct
from msgspec.structs import replace

from ovolo.drawing.dimensioning import dims_drawn
from ovolo.drawing.hidden_lines import Edges, edges_seen
from ovolo.drawing.marks import TEXT, Group, Label, Stroke
from ovolo.drawing.picture import flat_strokes, refuse_too_much
from ovolo.drawing.views import FRONT, PLAN, SIDE, VIEWS, View, flattened
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import circular, polyline
from ovolo.geometry.regions.region import Region, hatched
from ovolo.geometry.same import SMALLEST
from ovolo.geometry.solids.shaping import cut_at, parted
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.types import Points
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH
from ovolo.quantities.show import show_quantity
from ovolo.quantities.typed import read_quantity

_ROOT2, _ROOT3, _ROOT6 = math.sqrt(2), math.sqrt(3), math.sqrt(6)
AXONOMETRIC = View(
    "axonometric",
    (1 / _ROOT2, 1 / _ROOT2, 0.0),
    (-1 / _ROOT6, 1 / _ROOT6, 2 / _ROOT6),
    (1 / _ROOT3, -1 / _ROOT3, 1 / _ROOT3),
)
"""Isometric, seen from the front right above: all three axes are shortened alike (ISO 5456-3, from memory)."""

_SEEN_ALONG = {"x": SIDE, "y": FRONT, "z": PLAN}
_DASH, _GAP = 3.0, 1.2
"""mm of paper, of a hidden line (ISO 128-2, from memory: about so for lines of 0.25 mm)."""

_MOST_DASHES = 20_000

_HATCH = 2.5
"""mm of paper between the lines of a cut."""

_DETAIL = 2.0
MOST_FIGURES = 8


class Asked(Struct, frozen=True):
    """A figure that is wanted."""

    kind: str
    """`view`, `section` or `detail`."""

    view: View
    axis: str = ""
    at: float | None = None
    """Where along its axis a section lies, in mm; the middle where that is None."""

    place: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """Of a detail the place in its view, and its radius, in mm."""


def figure_said(said: str, outcome: Outcome) -> Asked:
    """A figure as a person says it. Raises Failure."""
    kind, _, rest = said.strip().partition(" ")
    if not rest and kind in (*VIEWS, AXONOMETRIC.name):
        return Asked("view", VIEWS.get(kind, AXONOMETRIC))
    if kind == "section":
        axis, _, place = rest.strip().partition(" ")
        if axis in _SEEN_ALONG:
            at = (
                read_quantity(place, LENGTH, outcome.units, "the place of a section")
                if place
                else None
            )
            return Asked("section", _SEEN_ALONG[axis], axis, at)
    if kind == "detail":
        name, *figures = rest.replace(",", " ").split()
        texts = _with_units(figures)
        if name in VIEWS and len(texts) == 3:
            x, y, radius = (
                read_quantity(one, LENGTH, outcome.units, "a place of a detail") for one in texts
            )
            if radius <= 0:
                raise Failure("the radius of a detail is more than 0")
            return Asked("detail", VIEWS[name], place=(x, y, radius))
    raise Failure(
        f"`{said}` is no figure of a sheet",
        f"{', '.join([*VIEWS, AXONOMETRIC.name])}, section x 120 mm, detail front 40 mm 25 mm 15 mm",
    )


def _with_units(words: Sequence[str]) -> list[str]:
    """Figures and units that stand apart, put together: `40 mm 25 mm` as `40 mm`, `25 mm`."""
    found: list[str] = []
    for word in words:
        if found and not word[0].isdigit() and word[0] not in "-+.":
            found[-1] += f" {word}"
        else:
            found.append(word)
    return found


class Figure:
    """A figure: what it shows is worked out once, in mm of the study, and drawn at any scale."""

    def __init__(
        self,
        asked: Asked,
        title: str,
        outcome: Outcome,
        parts: Sequence[Part],
        dashed: bool,
        names: bool,
    ) -> None:
        self.asked, self.title = asked, title
        self.outcome, self.dashed, self.names = outcome, dashed, names
        self.parts = [part for part in parts if part.count]
        refuse_too_much(self.parts)

    @property
    def view(self) -> View:
        return self.asked.view

    @cached_property
    def at(self) -> float:
        """Where a section lies along its axis."""
        if self.asked.at is not None:
            return self.asked.at
        boxes = np.array([part.bounds for part in self.parts])
        axis = "xyz".index(self.asked.axis)
        return float((boxes[:, 0, axis].min() + boxes[:, 1, axis].max()) / 2)

    @cached_property
    def edges(self) -> Edges:
        found = list(self._solids())
        way = self.view.matrix
        return edges_seen(
            [(seen.shape, way @ seen.matrix) for seen, _ in found],
            [(known.shape.form, way @ known.matrix) for _, known in found],
        )

    @cached_property
    def _size(self) -> float:
        boxes = np.array([part.bounds for part in self.parts])
        return float(np.ptp(boxes.reshape(-1, 3), axis=0).max()) or 1.0

    @cached_property
    def seen(self) -> list[Curve]:
        return self.edges.seen.curves(self._size)

    @cached_property
    def _around(self) -> Points:
        """The box round all edges, as a line (5, 2)."""
        bounds = self.edges.seen.bounds()
        if bounds is None:
            return np.empty((0, 2))
        return np.asarray(shapely.get_coordinates(shapely.box(*bounds.reshape(-1))))

    @cached_property
    def hidden(self) -> list[Curve]:
        return self.edges.hidden.curves(self._size) if self.dashed else []

    def _solids(self) -> Iterator[tuple[Solid, Solid]]:
        """What is seen, and the solid whose form tells of its edges: of a section what lies beyond its plane."""
        for solid in self._whole():
            seen = parted(solid, self._towards, self._point)[1] if self.asked.axis else solid
            if not seen.is_empty:
                yield seen, solid if seen.shape.form is None else seen

    def _whole(self) -> Iterator[Solid]:
        """All solids that are not empty."""
        for part in self.parts:
            for group in part.groups:
                if not group.shape.is_empty:
                    yield from (Solid(group.shape, matrix) for matrix in group.matrices)

    @property
    def _towards(self) -> Points:
        """The direction at the viewer: what lies on that side of a cut is taken away."""
        return np.array(self.view.towards, dtype=float)

    @property
    def _point(self) -> Points:
        point = np.zeros(3)
        if self.asked.axis:
            point["xyz".index(self.asked.axis)] = self.at
        return point

    @cached_property
    def cuts(self) -> list[Region]:
        """What a section cuts. Raises Failure where it cuts nothing."""
        found = []
        level = float(self._towards @ self._point)
        for solid in self._whole():
            ends = [float(self._towards @ corner) for corner in solid.bounds()]
            if min(ends) < level < max(ends):
                found.append(cut_at(solid, self._towards, self._point))
        if not found:
            said = show_quantity(self.at, LENGTH, self.outcome.units)
            raise Failure(f"the section at {self.asked.axis} = {said} cuts nothing")
        return found

    def drawn(self, scale: float, plainly: bool = False) -> list[Group]:
        """Its marks at a scale (mm of paper for a mm); the place of the study's origin is kept. Drawn plainly
        it takes the same room, without what lies within: hidden lines and hatches."""
        if plainly:
            strokes = [Stroke((_line(self._around, scale),), "solid")] if len(self._around) else []
        else:
            strokes = [
                Stroke(tuple(self._dashes(scale)), "hatch"),
                Stroke(tuple(_scaled(curve, scale) for curve in self.seen), "solid"),
            ]
        for part in self.parts if self.asked.kind != "section" else ():
            strokes += flat_strokes(part, self.view, scale)
        if self.asked.kind == "section":
            strokes += list(self._cut_strokes(scale, plainly))
        groups = [Group(self.title or self.view.name, self.title or self.view.name, tuple(strokes))]
        if self.asked.kind == "view" and self.view is not AXONOMETRIC:
            dims = dims_drawn(self.outcome.dims, self.view, scale, self.outcome.units, groups, self.names)  # fmt: skip
            groups += [dims] if dims.strokes else []
        return groups

    def _dashes(self, scale: float) -> list[Curve]:
        """Hidden lines in dashes, in mm of paper; whole where they would be too many to be told apart."""
        lines = [_scaled(line, scale) for line in self.hidden]
        if sum(line.length for line in lines) / (_DASH + _GAP) > _MOST_DASHES:
            return lines
        return [dash for line in lines for dash in _dashed(line)]

    def _cut_strokes(self, scale: float, plainly: bool) -> Iterator[Stroke]:
        for region in self.cuts:
            seen = tuple(
                one
                for one in (flattened(curve, self.view, scale) for curve in region.curves())
                if one
            )
            if not seen:
                continue
            yield Stroke(seen, "outline")
            if plainly:
                continue
            try:
                rows = hatched(region, math.radians(45), _HATCH / scale)
            except Failure:
                continue
            lines = (flattened(polyline(ends), self.view, scale) for ends in rows)
            yield Stroke(tuple(line for line in lines if line is not None), "hatch")


def _dashed(line: Curve) -> Iterator[Curve]:
    """The dashes of a line."""
    for begin in np.arange(0.0, line.length - SMALLEST, _DASH + _GAP):
        yield line.between(begin, min(begin + _DASH, line.length))


def _scaled(curve: Curve, scale: float) -> Curve:
    return curve.placed(np.diag([scale, scale, 1.0, 1.0]))


def _line(points: Points, scale: float) -> Curve:
    return polyline(np.column_stack([points * scale, np.zeros(len(points))]))


class Detail(Struct, frozen=True, eq=False):
    """A round piece of another figure, enlarged."""

    title: str
    of: Figure
    place: tuple[float, float, float]

    def drawn(self, scale: float, plainly: bool = False) -> list[Group]:
        """At twice the scale, about the same place."""
        x, y, radius = self.place
        large = scale * _DETAIL
        window = shapely.Point(x * large, y * large).buffer(radius * large, quad_segs=64)
        strokes = [
            Stroke(
                tuple(
                    _line(points, 1.0)
                    for curve in stroke.curves
                    for points in _within(curve, window)
                ),
                stroke.role,
            )
            for group in (() if plainly else self.of.drawn(large))
            if group.name != "dims"
            for stroke in group.strokes
        ]
        ring = circular(np.array([x * large, y * large, 0.0]), radius * large, 0.0, 2 * math.pi)
        return [Group(self.title, self.title, (*strokes, Stroke((ring,), "fine")))]

    def ring(self, scale: float) -> Group:
        """The circle round what it shows, in the figure that it is of, with its letter."""
        x, y, radius = (one * scale for one in self.place)
        circle = circular(np.array([x, y, 0.0]), radius, 0.0, 2 * math.pi)
        letter = Label(self.title.split()[-1], np.array([x, y + radius + 1.5]), role="text")
        return Group(f"{self.title} ring", self.title, (Stroke((circle,), "fine"),), (letter,))


def _within(curve: Curve, window: Any) -> Iterator[Points]:
    line = shapely.LineString(curve.points(0.02)[:, :2])
    for part in shapely.get_parts(shapely.intersection(line, window)):
        if part.geom_type == "LineString" and part.length > 1e-6:
            yield shapely.get_coordinates(part)


def cut_marks(
    section: Figure, letter: str, within: tuple[Points, Points], view: View, scale: float
) -> Group | None:
    """The line of a cut in another figure, whose box on paper is `within`: thick ends with the letter; None
    where that view looks along the cut."""
    way = view.matrix[:3, "xyz".index(section.asked.axis)]
    if abs(way[2]) > 0.5:
        return None
    axis = 0 if abs(way[0]) > 0.5 else 1
    along = np.array([0.0, 1.0]) if axis == 0 else np.array([1.0, 0.0])
    ends = np.array(within)
    ends[:, axis] = scale * section.at * way[axis]
    strokes, labels = [], []
    for end, sign in ((ends[0], -1.0), (ends[1], 1.0)):
        begin, tip = end + sign * 2.0 * along, end + sign * 8.0 * along
        strokes.append(Stroke((polyline(np.array([[*begin, 0.0], [*tip, 0.0]])),), "outline"))
        middle = tip + sign * 3.0 * along - np.array([0.0, 0.5 * TEXT])
        labels.append(Label(letter, middle, role="text"))
    thin = Stroke((polyline(np.array([[*ends[0], 0.0], [*ends[1], 0.0]])),), "fine")
    return Group(f"cut {letter}", f"Cut {letter}", (thin, *strokes), tuple(labels))


def figures_of(
    asked: Sequence[Asked], outcome: Outcome, parts: Sequence[Part], dashed: bool, names: bool
) -> list[Figure | Detail]:
    """The figures with their titles: sections and details have letters in their order. Raises Failure for too
    many."""
    if len(asked) > MOST_FIGURES:
        raise Failure(f"{len(asked)} figures are too many for a sheet", f"at most {MOST_FIGURES}")
    found: list[Figure | Detail] = []
    letters = iter("ABCDEFGH")
    for one in asked:
        if one.kind == "detail":
            of = next((f for f in found if isinstance(f, Figure) and f.asked.kind == "view" and f.view is one.view), None)  # fmt: skip
            of = of or Figure(replace(one, kind="view"), "", outcome, parts, dashed, names)
            found.append(Detail(f"Detail {next(letters)}", of, one.place))
            continue
        letter = next(letters) if one.kind == "section" else ""
        title = f"{letter}–{letter}" if letter else ""
        found.append(Figure(one, title, outcome, parts, dashed, names))
    return found
