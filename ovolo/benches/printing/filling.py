"""Lines that fill areas: parallel, crossing, or in hexagons, by their density.

The density is the share of an area that its lines cover, a line being as wide as it is laid.
"""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np
import shapely
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.benches.printing.layers import Areas, rings
from ovolo.benches.printing.printer import CROSSING, HEXAGONS
from ovolo.geometry.types import Floats

_DIAGONALS = (math.radians(45), math.radians(135))


class Fill(Struct, frozen=True, eq=False, dict=True):
    """Straight lines in layers: the number of the layer of each (n,), and its ends (n, 2, 2) in mm."""

    layers: NDArray[np.int64]
    ends: Floats

    def of(self, layer: int) -> Floats:
        a, b = np.searchsorted(self._ordered[0], (layer, layer + 1))
        return np.asarray(self._ordered[1][a:b])

    @cached_property
    def _ordered(self) -> tuple[NDArray[np.int64], Floats]:
        """The same, layer by layer."""
        order = np.argsort(self.layers, kind="stable")
        return self.layers[order], self.ends[order]


def filled(areas: Areas, pattern: str, density: float, line: float, first: int = 0) -> Fill:
    """The lines of a pattern that fill the areas of layers numbered from `first`."""
    if density <= 0:
        return Fill(np.empty(0, dtype=np.int64), np.empty((0, 2, 2)))
    if pattern == HEXAGONS and density < 1:
        return _hexagons(areas, 2 * line / (math.sqrt(3) * density))
    if pattern == CROSSING and density < 1:
        each = [_parallel(areas, 2 * line / density, way) for way in _DIAGONALS]
        return _together(each)
    layers = np.arange(len(areas)) + first
    return _together(
        [_parallel(_only(areas, layers % 2 == at), line / density, _DIAGONALS[at]) for at in (0, 1)]
    )


def solid(areas: Areas, without: Areas, line: float, first: int) -> Fill:
    """Lines side by side that fill areas `without` others, in layers numbered from `first`; each layer
    crosses the one below."""
    odd = (np.arange(len(areas)) + first) % 2 == 1
    return _together(
        [
            _parallel(_only(areas, odd == at), line, _DIAGONALS[at], _only(without, odd == at))
            for at in (0, 1)
        ]
    )


def straight(areas: Areas, density: float, line: float) -> Fill:
    """Lines along x, the same in all layers, so that they stand upon each other."""
    return _parallel(areas, line / density, 0.0)


def _together(fills: list[Fill]) -> Fill:
    return Fill(
        np.concatenate([one.layers for one in fills]), np.concatenate([one.ends for one in fills])
    )


def _only(areas: Areas, chosen: NDArray[np.bool_]) -> Areas:
    kept = np.full(len(areas), shapely.Polygon(), dtype=object)
    kept[chosen] = areas[chosen]
    return kept


def _parallel(areas: Areas, spacing: float, way: float, without: Areas | None = None) -> Fill:
    """Lines in a direction, a spacing apart, as far as they lie within the areas and not within those that
    are left out. Along each line the crossings with the outlines part outside from inside."""
    met = _crossings(areas, spacing, way, 1)
    if without is not None:
        met = np.concatenate([met, _crossings(without, spacing, way, 2)])
    layer, number, x, outline = met[np.lexsort((met[:, 2], met[:, 1], met[:, 0]))].T
    # Every outline closes, so that at the end of a line nothing is left open.
    within, out = np.cumsum(outline == 1) % 2 == 1, np.cumsum(outline == 2) % 2 == 1
    on = (within & ~out)[:-1] & (x[1:] > x[:-1]) & (number[1:] == number[:-1]) & (layer[1:] == layer[:-1])  # fmt: skip
    y = (number + 0.5) * spacing
    ends = np.stack([np.stack([x[:-1], y[:-1]], 1), np.stack([x[1:], y[1:]], 1)], axis=1)[on]
    return Fill(layer[:-1][on].astype(np.int64), ends @ _turn(way))


def _turn(way: float) -> Floats:
    return np.array([[math.cos(way), math.sin(way)], [-math.sin(way), math.cos(way)]])


def _crossings(areas: Areas, spacing: float, way: float, mark: int) -> Floats:
    """Where the outlines of areas are crossed by lines that lie at (k + 1/2) spacing: rows of the area's
    number, k, the place along the line, and the mark. An edge is met from its lower end up to, not at,
    its upper."""
    points, owner, joined = _edges(areas)
    turned = points @ _turn(way).T
    start, end = turned[:-1][joined], turned[1:][joined]
    low, high = np.minimum(start[:, 1], end[:, 1]), np.maximum(start[:, 1], end[:, 1])
    first = np.ceil(low / spacing - 0.5).astype(np.int64)
    counts = np.maximum(np.ceil(high / spacing - 0.5).astype(np.int64) - first, 0)
    edge = np.repeat(np.arange(len(counts)), counts)
    number = first[edge] + np.arange(len(edge)) - np.repeat(np.cumsum(counts) - counts, counts)
    rise = end[edge, 1] - start[edge, 1]
    share = ((number + 0.5) * spacing - start[edge, 1]) / rise
    x = start[edge, 0] + share * (end[edge, 0] - start[edge, 0])
    return np.column_stack([owner[:-1][joined][edge], number, x, np.full(len(x), mark)])


def _edges(areas: Areas) -> tuple[Floats, NDArray[np.int64], NDArray[np.bool_]]:
    """All corners of the outlines (n, 2), the area each belongs to, and whether each is joined to the next."""
    outlines, of_area = rings(areas)
    points, ring = shapely.get_coordinates(outlines, return_index=True)
    if not len(points):
        return np.empty((1, 2)), np.zeros(1, dtype=np.int64), np.empty(0, dtype=bool)
    return points, of_area[ring], ring[1:] == ring[:-1]


def _hexagons(areas: Areas, side: float) -> Fill:
    """The sides of hexagons. Of a side each, hexagons have 2 / (√3 side) of line in an area: each has an
    area of 3√3/2 side² and shares its six sides with its neighbours."""
    met = np.flatnonzero(~shapely.is_empty(areas))
    if not len(met):
        return Fill(np.empty(0, dtype=np.int64), np.empty((0, 2, 2)))
    net = shapely.multilinestrings(_net(shapely.total_bounds(areas), side))
    cut = shapely.get_parts(shapely.intersection(net, areas[met]), return_index=True)
    pieces, at = cut
    kept = shapely.get_type_id(pieces) == shapely.GeometryType.LINESTRING
    points, of = shapely.get_coordinates(pieces[kept], return_index=True)
    joined = of[1:] == of[:-1]
    ends = np.stack([points[:-1][joined], points[1:][joined]], axis=1)
    return Fill(met[at[kept]][of[:-1][joined]], ends)


def _net(bounds: Floats, side: float) -> list[Floats]:
    """The sides of hexagons over a box, each a line (2, 2); a corner of the net lies at the origin."""
    wide, high = math.sqrt(3) * side, 3 * side
    columns = np.arange(math.floor(bounds[0] / wide) - 1, math.ceil(bounds[2] / wide) + 2) * wide
    rows = np.arange(math.floor(bounds[1] / high) - 1, math.ceil(bounds[3] / high) + 2) * high
    corner = np.stack(np.meshgrid(columns, rows), axis=-1).reshape(-1, 1, 2)
    half = wide / 2
    # Two rows of hexagons repeat: each slope and upright side once.
    own = np.array([
        [[0, 0], [half, side / 2]], [[half, side / 2], [wide, 0]], [[half, side / 2], [half, 1.5 * side]],
        [[half, 1.5 * side], [0, 2 * side]], [[half, 1.5 * side], [wide, 2 * side]], [[0, 2 * side], [0, 3 * side]],
    ])  # fmt: skip
    return list((corner[:, None] + own[None]).reshape(-1, 2, 2))
