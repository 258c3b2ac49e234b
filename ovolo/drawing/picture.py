"""The picture of a study in a view: its parts and its dims, as marks on paper."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ovolo.drawing.dimensioning import dims_drawn
from ovolo.drawing.marks import Group, Page, Stroke, extent
from ovolo.drawing.views import PLAN, View, flattened, view_of
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import polyline
from ovolo.geometry.placement import Matrix
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.solids.silhouettes import outlines_seen
from ovolo.geometry.solids.solid import Shape
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.problems import Failure

MOST_SOLIDS = 2_000
MOST_CURVES = 50_000

_MARGIN = 4.0
"""mm round a drawing that stands on no sheet."""


def drawn(
    outcome: Outcome,
    view: View,
    scale: float,
    parts: Sequence[Part] | None = None,
    names: bool = False,
) -> list[Group]:
    """Parts from the farthest to the nearest, then the dims. `scale` is mm of paper for a mm.
    Raises Failure where there is too much to draw."""
    groups = parts_drawn(outcome, view, scale, parts)
    dims = dims_drawn(outcome.dims, view, scale, outcome.units, groups, names)
    return [*groups, dims] if dims.strokes else groups


def parts_drawn(
    outcome: Outcome, view: View, scale: float, parts: Sequence[Part] | None = None
) -> list[Group]:
    """The parts alone, from the farthest to the nearest. Raises Failure where there is too much to draw."""
    taken = list(outcome.parts.values()) if parts is None else list(parts)
    taken = [part for part in taken if part.count]
    refuse_too_much(taken)
    far_first = sorted(taken, key=lambda part: _nearness(part, view))
    return [_group(part, view, scale) for part in far_first]


def natural_view(outcome: Outcome) -> View:
    """The view in which all parts lie flat; the plan where there is none."""
    return view_of(part.bounds for part in outcome.parts.values() if part.bounds) or PLAN


def loose_page(outcome: Outcome, groups: Sequence[Group], weight: float = 1.0) -> Page:
    """A page as large as what is drawn."""
    box = extent(groups)
    if box is None:
        raise Failure("there is nothing to draw", "a line `part name = …` makes something")
    low, high = box[0] - weight * _MARGIN, box[1] + weight * _MARGIN
    width, height = high - low
    title = outcome.program.title or "Study"
    return Page(title, low, float(width), float(height), tuple(groups), weight)


def refuse_too_much(parts: Sequence[Part]) -> None:
    """Raises Failure where parts are more than a drawing shows."""
    solids = sum(len(group.matrices) for part in parts for group in part.groups)
    if solids > MOST_SOLIDS:
        raise Failure(
            f"a drawing shows at most {MOST_SOLIDS:,} solids; here are {solids:,}",
            "look at them on the stage",
        )
    curves = sum(len(part.curves) + len(part.regions) for part in parts)
    if curves > MOST_CURVES:
        raise Failure(f"a drawing shows at most {MOST_CURVES:,} curves; here are {curves:,}")


def _nearness(part: Part, view: View) -> int:
    """How near its nearest point is to the viewer, in steps of what is one place: what is equally near stays in the
    order of the sheet, whatever the rounding."""
    corners = np.array(part.bounds)
    return round(float(max(view.placed(corner)[2] for corner in corners)) / SAME_PLACE)


def _group(part: Part, view: View, scale: float) -> Group:
    strokes = [*_solids(part, view, scale), *flat_strokes(part, view, scale)]
    return Group(part.name, part.label or part.name, tuple(strokes))


def flat_strokes(part: Part, view: View, scale: float) -> list[Stroke]:
    """The regions and curves of a part, and its hatch."""
    return [
        *_regions(part, view, scale),
        *_curves(part.curves, view, scale),
        *_hatching(part, view, scale),
    ]


def _seen(curves: Sequence[Curve], view: View, scale: float) -> tuple[Curve, ...]:
    found = (flattened(curve, view, scale) for curve in curves)
    return tuple(curve for curve in found if curve is not None)


def _regions(part: Part, view: View, scale: float) -> Iterator[Stroke]:
    for item, region in part.indexed_regions:
        seen = _seen(region.curves(), view, scale)
        if seen:
            yield Stroke(seen, "outline", "" if part.hatch else part.colour_of(item))


def _curves(curves: Sequence[Curve], view: View, scale: float) -> Iterator[Stroke]:
    for curve in _seen(curves, view, scale):
        yield Stroke((curve,), "outline")


def _hatching(part: Part, view: View, scale: float) -> Iterator[Stroke]:
    if len(part.hatching):
        lines = [polyline(ends) for ends in part.hatching]
        yield Stroke(_seen(lines, view, scale), "hatch")


def _solids(part: Part, view: View, scale: float) -> Iterator[Stroke]:
    """The outlines of solids as they are seen, from the farthest to the nearest."""
    seen = [
        (_shape_nearness(group.shape, matrix), group.shape, matrix, colour)
        for group, colour in part.coloured_groups
        for matrix in view.matrix @ group.matrices
    ]
    for _, shape, matrix, colour in sorted(seen, key=lambda one: one[0]):
        outlines = tuple(outlines_seen(shape, np.diag([scale, scale, scale, 1.0]) @ matrix))
        if outlines:
            yield Stroke(outlines, "solid", colour)


def _shape_nearness(shape: Shape, matrix: Matrix) -> int:
    """The same of a shape, seen along -z."""
    return round(float((shape.extremes @ matrix[2, :3]).max() + matrix[2, 3]) / SAME_PLACE)
