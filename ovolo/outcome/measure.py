"""Measuring what was picked on the stage: points, and edges of what is drawn (picked_edge.py)."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.geometry.curves.curve import closest
from ovolo.geometry.same import ROUNDING, SAME_PLACE
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.outcome.answers import MeasuredSaid
from ovolo.outcome.named_lengths import NamedLengths
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.picked_edge import Edge, edge_of
from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, LENGTH, Dimension
from ovolo.quantities.show import DisplayUnits, share_said, show_quantity


class Measured(Struct, frozen=True):
    """One number that was measured, in mm or radians, and by how much it may be off."""

    name: str
    value: float
    dimension: Dimension = LENGTH
    missed: float = 0.0


class Measurement(Struct, frozen=True):
    """What was measured; `ends` are the two points of the distance, if there is one."""

    found: list[Measured]
    ends: tuple[Points, Points] | None
    outline: list[Points]
    """What was picked, to be drawn: points (1, 3) and edges (n, 3)."""


def measured(outcome: Outcome, picks: list[dict[str, Any]]) -> Measurement:
    """One or two picks measured. A pick names its `part`, and either a `point` (x, y, z in mm)
    or the `item` of the part and the number of a piece among the `edge`s drawn of it.

    Raises Failure where a pick names nothing that is there.
    """
    if not 1 <= len(picks) <= 2:
        raise Failure(f"{len(picks)} things were picked", "pick one or two points or edges")
    things = [_picked(outcome, pick) for pick in picks]
    outline = [thing.corners if isinstance(thing, Edge) else thing[None] for thing in things]
    if len(things) == 1:
        return Measurement(_of_one(things[0]), _ends_of(things[0]), outline)
    found, ends = _between(*things)
    return Measurement(found, ends, outline)


def _picked(outcome: Outcome, pick: dict[str, Any]) -> Edge | Points:
    point, edge = pick.get("point"), pick.get("edge")
    if edge is None:
        if not isinstance(point, list) or len(point) != 3 or not all(map(_is_figure, point)):
            raise Failure("a pick is a point or an edge")
        return np.array(point, dtype=float)
    part = outcome.parts.get(str(pick.get("part")))
    if part is None:
        raise Failure(f"there is no part `{pick.get('part')}`")
    return edge_of(part, int(pick.get("item", 0)), int(edge))


def _is_figure(value: Any) -> bool:
    return isinstance(value, int | float) and math.isfinite(value)


def _of_one(thing: Edge | Points) -> list[Measured]:
    if not isinstance(thing, Edge):
        return [Measured(axis, float(value)) for axis, value in zip("xyz", thing, strict=True)]
    if thing.centre is not None:
        whole = "around" if thing.closed else "arc"
        return [
            Measured("radius", thing.radius, missed=thing.aside),
            Measured("diameter", 2 * thing.radius, missed=2 * thing.aside),
            Measured(f"length {whole}", thing.length, missed=thing.missed),
            *([] if thing.closed else [Measured("angle", thing.length / thing.radius, ANGLE, thing.missed / thing.radius)]),
        ]  # fmt: skip
    found = [Measured("length", thing.length, missed=thing.missed)]
    if thing.straight:
        found += _components(thing.corners[0], thing.corners[-1], thing.missed + 2 * thing.aside)
    return found


def _ends_of(thing: Edge | Points) -> tuple[Points, Points] | None:
    """The points between which a picked edge is measured."""
    if not isinstance(thing, Edge):
        return None
    if thing.centre is not None:
        return thing.centre, thing.corners[0]
    return (thing.corners[0], thing.corners[-1]) if thing.straight else None


def _components(a: Points, b: Points, aside: float = 0.0) -> list[Measured]:
    """How far it is along each axis, and how steeply it rises, where the ends may be off by a little (mm) together."""
    step = b - a
    rise = math.atan2(float(step[2]), math.hypot(float(step[0]), float(step[1])))
    along = [Measured(f"along {n}", float(abs(s)), missed=aside) for n, s in zip("xyz", step, strict=True)]  # fmt: skip
    turned = math.atan2(aside, float(np.linalg.norm(step)))
    return [*along, Measured("slope", abs(rise), ANGLE, turned)]


def _between(
    a: Edge | Points, b: Edge | Points
) -> tuple[list[Measured], tuple[Points, Points] | None]:
    """The distance of two things (of a circle: of its centre), and the angle of two straight
    edges."""
    ends = _nearest(a, b)
    gap = float(np.linalg.norm(ends[1] - ends[0]))
    aside = sum(_off(one, end) for one, end in zip((a, b), ends, strict=True) if isinstance(one, Edge))  # fmt: skip
    found = [Measured("distance", gap, missed=aside), *_components(*ends, aside)]
    if isinstance(a, Edge) and isinstance(b, Edge) and a.straight and b.straight:
        one, other = (edge.corners[-1] - edge.corners[0] for edge in (a, b))
        turned = sum(math.atan2(edge.missed + 2 * edge.aside, float(np.linalg.norm(way))) for edge, way in ((a, one), (b, other)))  # fmt: skip
        turn = math.atan2(float(np.linalg.norm(cross_product(one, other))), abs(float(one @ other)))
        found.insert(1, Measured("angle", turn, ANGLE, turned))
    return found, ends


def _off(edge: Edge, at: Points) -> float:
    """How far (mm) a place of an edge may be from where it truly is: beside it, and along it where the edge ends there."""
    ends = () if edge.closed or edge.centre is not None else (edge.corners[0], edge.corners[-1])
    is_end = any(np.abs(at - end).max() < SAME_PLACE for end in ends)
    return edge.aside + (edge.missed if is_end else 0.0)


def _nearest(a: Edge | Points, b: Edge | Points) -> tuple[Points, Points]:
    """The points of each that are nearest to the other."""
    one, other = _pieces(a), _pieces(b)
    found = min(
        (_between_segments(*s, *t) for s, t in itertools.product(one, other)),
        key=lambda pair: float(np.linalg.norm(pair[1] - pair[0])),
    )
    return _settled(a, b, *found)


def _settled(a: Edge | Points, b: Edge | Points, p: Points, q: Points) -> tuple[Points, Points]:
    """The same on the curves of which the pieces were chords: each in turn goes where it is nearest to the other."""
    if not (_bends(a) or _bends(b)):
        return p, q
    for _ in range(_TURNS):
        before = p, q
        p = _nearest_on(a, q) if _bends(a) else p
        q = _nearest_on(b, p) if _bends(b) else q
        if max(np.abs(p - before[0]).max(), np.abs(q - before[1]).max()) < ROUNDING:
            break
    return p, q


_TURNS = 200


def _bends(thing: Edge | Points) -> bool:
    """Whether it is a known curve, all of it, of which another than its centre is measured."""
    if not isinstance(thing, Edge) or thing.curve is None or thing.centre is not None:
        return False
    return not thing.straight and abs(thing.along - thing.curve.length) < SAME_PLACE


def _nearest_on(thing: Edge | Points, point: Points) -> Points:
    assert isinstance(thing, Edge) and thing.curve is not None
    at, t = closest(thing.curve, point)
    return thing.curve.pieces[at].at(t)


def _pieces(thing: Edge | Points) -> list[tuple[Points, Points]]:
    if not isinstance(thing, Edge):
        return [(thing, thing)]
    if thing.centre is not None:
        return [(thing.centre, thing.centre)]
    if thing.straight:
        return [(thing.corners[0], thing.corners[-1])]
    return list(itertools.pairwise(thing.corners))


def _between_segments(p: Points, q: Points, r: Points, s: Points) -> tuple[Points, Points]:
    """The closest points of two segments (Ericson, Real-time collision detection, 2005, 5.1.9);
    of parallel ones that overlap, those at the middle of the overlap."""
    d, e, w = q - p, s - r, p - r
    a, f, b = float(d @ d), float(e @ e), float(d @ e)
    c, g = float(d @ w), float(e @ w)
    if a < SAME_PLACE**2:
        t = 0.0 if f < SAME_PLACE**2 else min(max(g / f, 0.0), 1.0)
        return p, r + t * e
    if f < SAME_PLACE**2:
        return p + min(max(-c / a, 0.0), 1.0) * d, r
    square = a * f - b * b
    if square < 1e-14 * a * f:
        low, high = sorted((float((r - p) @ d) / a, float((s - p) @ d) / a))
        k = min(max((max(low, 0.0) + min(high, 1.0)) / 2, 0.0), 1.0)
    else:
        k = min(max((b * g - c * f) / square, 0.0), 1.0)
    t = (b * k + g) / f
    if not 0 <= t <= 1:
        t = min(max(t, 0.0), 1.0)
        k = min(max((b * t - c) / a, 0.0), 1.0)
    return p + k * d, r + t * e


def as_json(measurement: Measurement, outcome: Outcome, parts: list[str]) -> MeasuredSaid:
    """A measurement as the screen takes it, with the lines that would state it."""
    dim, check = _lines(measurement, outcome, parts)
    return {
        "found": [
            {"name": one.name, "shown": _shown(one, outcome.units)} for one in measurement.found
        ],
        "ends": None if measurement.ends is None else [end.tolist() for end in measurement.ends],
        "outline": [corners.tolist() for corners in measurement.outline],
        "dim": dim,
        "check": check,
    }


def _shown(one: Measured, units: DisplayUnits) -> str:
    """A figure that was measured, and within what share of it, where it is not exact."""
    value = _clean(one.value)
    shown = str(show_quantity(value, one.dimension, units))
    share = one.missed / max(value, one.missed) if one.missed else 0.0
    return f"{shown}, {share_said(share)}" if share else shown


def _clean(value: float) -> float:
    """0 for what is only noise of drawing in float32 (in mm or radians)."""
    return 0.0 if abs(value) < 1e-5 else value


def _lines(measurement: Measurement, outcome: Outcome, parts: list[str]) -> tuple[str, str]:
    """A dim and a check that state the distance, in names of the sheet where they fit."""
    if measurement.ends is None:
        return "", ""
    named = NamedLengths(outcome, parts)
    a, b = (named.point(end) for end in measurement.ends)
    gap = named.said(float(np.linalg.norm(measurement.ends[1] - measurement.ends[0])))
    return (
        f"dim {gap} from {a} to {b}",
        f'check distance({a}, {b}) == {gap} within 0.01 mm "as measured"',
    )
