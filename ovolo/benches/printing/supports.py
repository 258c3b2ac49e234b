"""Support: columns beneath what would be laid on air."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ovolo.benches.printing.bodies import Body
from ovolo.benches.printing.layers import Areas, Heights, any_between, inset, sections
from ovolo.benches.printing.printer import WHERE_NEEDED, Printer
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE
from ovolo.geometry.types import Floats


def overhanging(body: Body, areas: Areas, heights: Heights, printer: Printer) -> Areas:
    """What of each layer lies on air, wherever it reaches out over the layer below by more than its angle
    to the vertical allows; nothing of the first, which lies on the plate."""
    found = np.full(len(areas), shapely.Polygon(), dtype=object)
    if len(areas) < 2:
        return found
    hair = printer.line * _HAIR
    reach = heights.heights[1 : len(areas)] * math.tan(printer.overhang)
    leans = _leans_out(body, heights.middles[: len(areas)], reach)
    reach += hair
    out = 1 + np.flatnonzero(leans & ~shapely.equals_exact(areas[1:], areas[:-1], SAME_PLACE))
    if not len(out):
        return found
    allowed = shapely.buffer(areas[out - 1], reach[out - 1], quad_segs=8)
    beyond = shapely.difference(areas[out], allowed)
    on_air = shapely.difference(areas[out], areas[out - 1])
    there = shapely.buffer(beyond, reach[out - 1] + 2 * hair, quad_segs=4)
    # A little wider than they are, so that what is needed layer by layer grows together.
    found[out] = inset(shapely.intersection(on_air, there), -hair)
    return found


def _leans_out(body: Body, middles: Floats, reach: Floats) -> NDArray[np.bool_]:
    """Whether between each height and the next something may begin in the air: a face that looks down so
    that, going down along it, one comes further inward than `reach` (mm), or a place that is lower than
    all around it. From everywhere else a way leads down along the surface that reaches no further."""
    vectors, mesh = body.mesh.area_vectors(), body.mesh
    outward = np.hypot(vectors[:, 0], vectors[:, 1])
    allowed = float((reach / np.diff(middles)).min())
    leaning = -vectors[:, 2] > allowed * (1 - SAME_SHARE) * outward
    levels = mesh.corners[:, 2]
    of_faces = levels[mesh.triangles]
    around = np.full(len(levels), np.inf)
    for at in range(3):
        others = np.minimum(of_faces[:, at - 1], of_faces[:, at - 2])
        np.minimum.at(around, mesh.triangles[:, at], others)
    lowest = levels[levels <= around]
    low = np.concatenate([of_faces[leaning].min(axis=1), lowest])
    high = np.concatenate([of_faces[leaning].max(axis=1), lowest])
    return any_between(low, high, middles)


_HAIR = 0.03
"""Of a line's width: so far outlines of layers that are followed within a share of it may seem to part."""

_COARSE = 0.1
"""Of a line's width: the outline of support follows the body no closer."""


def supports(body: Body, areas: Areas, heights: Heights, printer: Printer) -> Areas:
    """The support in each layer of a body: beneath its overhangs down to what lies below, where its areas
    allow it, and wherever they ask for it; apart from the body by the printer's gap."""
    count = len(areas)
    found = np.full(count, shapely.Polygon(), dtype=object)
    here, blocked = (_within_areas(body, heights, count, wanted) for wanted in (True, False))
    needed = (
        overhanging(body, areas, heights, printer)
        if printer.support == WHERE_NEEDED
        else found.copy()
    )
    if shapely.is_empty(needed).all() and here is None:
        return found
    if blocked is not None:
        needed = shapely.difference(needed, blocked)
    empty = shapely.is_empty(needed)
    top = count if here is not None else int(np.flatnonzero(~empty).max(initial=0))
    kept_free = areas.copy()
    kept_free[:top] = inset(areas[:top], -printer.support_gap)  # above it nothing is laid
    above = shapely.Polygon()
    for at in range(min(top, count - 1) - 1, -1, -1):
        if not empty[at + 1]:
            above = _grown_together(shapely.union(above, needed[at + 1]), printer.line)
        if shapely.is_empty(above):
            continue
        # Else its outline gathers the corners of all layers it has come down through.
        above = shapely.difference(shapely.simplify(above, printer.line * _COARSE), areas[at])
        if blocked is not None:
            above = shapely.difference(above, blocked[at])
        # A column goes on down beside a face that leans, though it is too near to it to be laid there.
        found[at] = shapely.difference(above, kept_free[at])
    if here is not None:
        found = shapely.union(found, shapely.difference(here, kept_free))
    return found


def _grown_together(area: Any, line: float) -> Any:
    """The area with what is narrower than a line between its pieces, in its holes and in its bays."""
    return shapely.buffer(shapely.buffer(area, line / 2, quad_segs=4), -line / 2, quad_segs=4)


def _within_areas(body: Body, heights: Heights, count: int, here: bool) -> Areas | None:
    """Where the areas of one kind lie in each layer; None where there are none."""
    chosen = [one.manifold for one in body.areas if one.here is here]
    if not chosen:
        return None
    each = [sections(one, heights.middles[:count]) for one in chosen]
    return np.asarray(shapely.union_all(np.array(each), axis=0))
