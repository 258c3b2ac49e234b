"""The arcs along which edges of solids run, where their form tells them, and which sides of a mesh
stand for them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from ovolo.geometry.curves.pieces import Arc
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.solids.forms import Form, Layer, Revolution, Stack, Together
from ovolo.geometry.solids.swept_form import Swept
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product

_MISSED = 1e-6
"""By what share of its size an arc may be missed by what stands for it, beside what chords miss."""

_WIDEST = math.pi / 3
"""Radians that a side of a mesh spans at most."""


def arcs_of(form: Form | None) -> list[Arc]:
    """The arcs (in the solid's own coordinates) along which its edges may run: each is there where two
    faces may meet in it at an angle; empty where the form is not known."""
    match form:
        case Stack():
            return [arc for layer in form.layers for arc in _of_layer(layer)]
        case Revolution():
            return list(_of_revolution(form))
        case Swept() if form.round and not form.path.closed:
            return list(_of_ends(form))
        case Together():
            return [arc.placed(at) for _, one, at in form.parts for arc in arcs_of(one)]
    return []


def _drawn(region: Region) -> list[Arc]:
    return [piece for curve in region.outlines for piece in curve.pieces if isinstance(piece, Arc)]


def _of_layer(layer: Layer) -> Iterator[Arc]:
    for height in (layer.low, layer.high):
        lift = np.eye(4)
        lift[2, 3] = height
        yield from (arc.placed(lift) for arc in _drawn(layer.region))


def _of_revolution(form: Revolution) -> Iterator[Arc]:
    """The circles that ends of the pieces of its outlines go round, and its outlines where it ends."""
    pieces = [piece for outline in form.outlines for piece in outline.pieces]
    for x, _, z in {tuple(np.round(piece.start, 9)): piece.start for piece in pieces}.values():
        if abs(x) > SAME_PLACE:
            u, v = np.array([x, 0.0, 0.0]), np.array([0.0, x, 0.0])
            yield Arc(np.array([0.0, 0.0, z]), u, v, 0.0, form.angle)
    for angle in () if form.whole else (0.0, form.angle):
        turn = np.eye(4)
        turn[:2, :2] = [[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]]
        yield from (piece.placed(turn) for piece in pieces if isinstance(piece, Arc))


def _of_ends(form: Swept) -> Iterator[Arc]:
    """The rims of a round bar or tube."""
    for piece, t in ((form.path.pieces[0], 0.0), (form.path.pieces[-1], 1.0)):
        way = np.asarray(piece.slope(t))
        u = cross_product(way, np.eye(3)[np.argmin(np.abs(way))])
        u /= np.linalg.norm(u)
        v = cross_product(way, u) / np.linalg.norm(way)
        for rim in _drawn(form.region):
            yield Arc(piece.at(t), rim.radius * u, rim.radius * v, 0.0, 2 * math.pi)


def along_arcs(
    sides: Points, arcs: Sequence[Arc], axes: int = 3
) -> tuple[Points, NDArray[np.int64], NDArray[np.float64]]:
    """Sides of a mesh (n, 2, 3), parted where an arc ends on them; for each the arc that it stands for, -1
    for none, and the angles (n, 2) of its ends about that arc's centre. With 2 axes: the one along which it is
    seen from above, lying level with it, be it higher or lower."""
    if not arcs or not len(sides):
        return sides, np.full(len(sides), -1), np.zeros((len(sides), 2))
    sides = _parted_at_ends(sides, arcs, axes)
    side, arc = _near(sides, arcs)
    centre, u, v = (np.array([getattr(one, name) for one in arcs])[arc] for name in ("centre", "u", "v"))  # fmt: skip
    begin, sweep = (np.array([getattr(one, name) for one in arcs])[arc] for name in ("angle", "sweep"))  # fmt: skip
    places = sides[side] - centre[:, None]
    across = cross_product(u, v)
    across /= np.linalg.norm(across, axis=1)[:, None]
    rises = np.abs(dot_product(places[:, 1] - places[:, 0], across))
    for some in (places, u, v):
        some[..., axes:] = 0.0
    x, y, off = _coordinates(places, u, v)
    size = np.minimum(np.linalg.norm(u, axis=1), np.linalg.norm(v, axis=1))
    angles = np.arctan2(y, x)
    turn = np.arctan2(x[:, 0] * y[:, 1] - y[:, 0] * x[:, 1], x[:, 0] * x[:, 1] + y[:, 0] * y[:, 1])
    span = np.minimum(np.abs(turn), _WIDEST)
    missed = 1 / np.cos(span) - 1 + _MISSED + SAME_PLACE / size  # it may touch the arc at its end
    # It begins on the arc, in the direction of its sweep, and ends on it.
    way = np.sign(sweep)
    first = np.where(turn * way > 0, angles[:, 0], angles[:, 1])
    into = np.mod((first - begin) * way + _MISSED, 2 * math.pi) - _MISSED
    fits = (
        (np.maximum(off.max(axis=1), rises) <= _MISSED * size + SAME_PLACE)
        & (np.abs(np.hypot(x, y) - 1).max(axis=1) <= missed)
        & (np.abs(turn) < _WIDEST)
        & (turn != 0)
        & ((into + span <= np.abs(sweep) + 2 * _MISSED) | (np.abs(sweep) > 2 * math.pi - _MISSED))
    )
    of, ends = np.full(len(sides), -1), np.zeros((len(sides), 2))
    which = np.flatnonzero(fits)[::-1]  # the first one counts
    of[side[which]] = arc[which]
    start = begin + way * into
    both = np.column_stack([start, start + way * span])
    ends[side[which]] = np.where((turn * way > 0)[:, None], both, both[:, ::-1])[which]
    return sides, of, ends


def _coordinates(places: Points, u: Points, v: Points) -> tuple[Points, Points, Points]:
    """Places (n, 2, 3) as shares of two directions (n, 3) each, and how far they lie off their plane."""
    uu, uv, vv = (dot_product(a, b)[:, None] for a, b in ((u, u), (u, v), (v, v)))
    pu, pv = (np.einsum("nij,nj->ni", places, one) for one in (u, v))
    whole = uu * vv - uv * uv
    x, y = (pu * vv - pv * uv) / whole, (pv * uu - pu * uv) / whole
    rest = places - x[..., None] * u[:, None] - y[..., None] * v[:, None]
    return x, y, np.linalg.norm(rest, axis=2)


def _near(sides: Points, arcs: Sequence[Arc]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of sides and arcs whose boxes meet, seen from above: their numbers."""
    boxes = np.array([_box(arc) for arc in arcs])
    tree = shapely.STRtree(shapely.box(*boxes.T))
    side, arc = tree.query(shapely.points(sides.mean(axis=1)[:, :2]), predicate="intersects")
    order = np.lexsort((arc, side))
    return side[order], arc[order]


def _box(arc: Arc) -> Points:
    """Its box from above, with room for sides that lie outside of it."""
    low, high = arc.bounds()[:, :2]
    room = 0.15 * float(np.linalg.norm(high - low)) + SAME_PLACE
    return np.concatenate([low - room, high + room])


def _parted_at_ends(sides: Points, arcs: Sequence[Arc], axes: int) -> Points:
    """A side that goes on straight where an arc ends is two: one of both stands for the arc."""
    ends = np.array([arc.at(np.array([0.0, 1.0])) for arc in arcs]).reshape(-1, 3)
    tree = shapely.STRtree(shapely.linestrings(sides[:, :, :2]))
    place, side = tree.query(shapely.points(ends[:, :2]), predicate="dwithin", distance=SAME_PLACE)
    start, way = sides[side, 0, :axes], sides[side, 1, :axes] - sides[side, 0, :axes]
    ends = ends[:, :axes]
    square = dot_product(way, way)
    share = dot_product(ends[place] - start, way) / np.where(square > 0, square, 1.0)
    near = np.linalg.norm(start + share[:, None] * way - ends[place], axis=1) < SAME_PLACE
    room = SAME_PLACE / np.sqrt(np.where(square > 0, square, 1.0))
    within = near & (share > room) & (share < 1 - room)
    found = list(sides)
    for number in np.unique(side[within]):
        cuts = np.unique(share[within & (side == number)])
        cuts = cuts[np.concatenate([[True], np.diff(cuts) > 1e-9])]
        steps = np.concatenate([[0.0], cuts, [1.0]])[:, None]
        line = sides[number, 0] + steps * (sides[number, 1] - sides[number, 0])
        found[number] = line[:2]
        found += [line[at : at + 2] for at in range(1, len(line) - 1)]
    return np.array(found)
