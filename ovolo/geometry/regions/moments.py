"""What a closed curve in plan encloses: signed area and moments, exact for lines, arcs and cubics
(Green's theorem, by Gauss-Legendre integration that loses nothing on them)."""

from __future__ import annotations

import math

import numpy as np

from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Piece, Straight
from ovolo.geometry.types import Points

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(12)
_QUARTER = math.pi / 4


def moments(curve: Curve) -> Points:
    """The area in mm² (positive where the curve runs anticlockwise), and the integrals of x, y
    (mm³), x², xy and y² (mm⁴) over it, as (6,). They are taken about the start of the curve, so
    that nothing is lost far from the origin, and moved from there (the parallel axis theorem)."""
    origin = curve.start[:2]
    samples = [_of_lines([run for run in curve.runs if isinstance(run, Straight)], origin)]
    samples += [_samples(run, origin) for run in curve.runs if not isinstance(run, Straight)]
    x, y, dx, dy, weights = (np.concatenate(one) for one in zip(*samples, strict=True))
    turn = weights * (x * dy - y * dx)
    area = float(turn.sum()) / 2
    mx, my = float(x @ turn) / 3, float(y @ turn) / 3
    xx, xy, yy = (float((one * turn).sum()) / 4 for one in (x * x, x * y, y * y))
    a, b = origin
    return np.array([
        area, mx + area * a, my + area * b,
        xx + 2 * a * mx + area * a * a, xy + a * my + b * mx + area * a * b, yy + 2 * b * my + area * b * b,
    ])  # fmt: skip


def _of_lines(lines: list[Straight], origin: Points) -> tuple[Points, ...]:
    """The same of straight pieces, all at once: there may be thousands."""
    ends = np.array([(line.a[:2], line.b[:2]) for line in lines]).reshape(-1, 2, 2) - origin
    ways = ends[:, 1] - ends[:, 0]
    at = ends[:, :1] + (1 + _NODES)[None, :, None] / 2 * ways[:, None]
    slopes = np.broadcast_to(ways[:, None], at.shape)
    weights = np.tile(_WEIGHTS / 2, len(lines))
    return *at.reshape(-1, 2).T, *slopes.reshape(-1, 2).T, weights


def _samples(run: Piece | Cubics, origin: Points) -> tuple[Points, ...]:
    """Places and slopes in plan at the nodes of the integration, and their weights."""
    parts = max(math.ceil(abs(run.sweep) / _QUARTER), 1) if isinstance(run, Arc) else 1
    edges = np.linspace(0.0, 1.0, parts + 1)
    half = 0.5 / parts
    places = (edges[:-1, None] + half * (1 + _NODES)).reshape(-1)
    weights = np.tile(_WEIGHTS * half, parts)
    if isinstance(run, Cubics):
        count = len(run.poles)
        at = run.places(places).reshape(-1, 3)[:, :2] - origin
        slopes = run.slopes(places).reshape(-1, 3)[:, :2]
        return *at.T, *slopes.T, np.tile(weights, count)
    at, slopes = run.at(places)[:, :2] - origin, run.slope(places)[:, :2]
    return *at.T, *slopes.T, weights
