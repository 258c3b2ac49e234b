"""Support: columns beneath what would be laid on air."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ovolo.benches.printing.bodies import Body
from ovolo.benches.printing.layers import Areas, Heights, inset, sections
from ovolo.benches.printing.printer import WHERE_NEEDED, Printer
from ovolo.geometry.same import SAME_PLACE


def overhanging(areas: Areas, heights: Heights, printer: Printer) -> Areas:
    """What of each layer lies on air, wherever it reaches out over the layer below by more than its angle
    to the vertical allows; nothing of the first, which lies on the plate."""
    found = np.full(len(areas), shapely.Polygon(), dtype=object)
    if len(areas) < 2:
        return found
    hair = printer.line * _HAIR
    reach = heights.heights[1 : len(areas)] * math.tan(printer.overhang) + hair
    out = 1 + np.flatnonzero(~shapely.equals_exact(areas[1:], areas[:-1], SAME_PLACE))
    allowed = shapely.buffer(areas[out - 1], reach[out - 1], quad_segs=8)
    beyond = shapely.difference(areas[out], allowed)
    on_air = shapely.difference(areas[out], areas[out - 1])
    there = shapely.buffer(beyond, reach[out - 1] + 2 * hair, quad_segs=4)
    # A little wider than they are, so that what is needed layer by layer grows together.
    found[out] = inset(shapely.intersection(on_air, there), -hair)
    return found


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
        overhanging(areas, heights, printer) if printer.support == WHERE_NEEDED else found.copy()
    )
    if shapely.is_empty(needed).all() and here is None:
        return found
    if blocked is not None:
        needed = shapely.difference(needed, blocked)
    kept_free = inset(areas, -printer.support_gap)
    empty = shapely.is_empty(needed)
    above = shapely.Polygon()
    for at in range(count - 2, -1, -1):
        if not empty[at + 1]:
            above = shapely.union(above, needed[at + 1])
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


def _within_areas(body: Body, heights: Heights, count: int, here: bool) -> Areas | None:
    """Where the areas of one kind lie in each layer; None where there are none."""
    chosen = [one.manifold for one in body.areas if one.here is here]
    if not chosen:
        return None
    each = [sections(one, heights.middles[:count]) for one in chosen]
    return np.asarray(shapely.union_all(np.array(each), axis=0))
