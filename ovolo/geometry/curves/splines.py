"""Splines by knots and poles, as cubics that follow each other."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.types import Floats, Points

_OFF = 1e-8
"""By what share of its size a cubic may miss the spline it stands for."""
_HALVINGS = 10
_LOOKED_AT = np.array([0.25, 0.5, 0.75])


def cubics_of(knots: Floats, poles: Points, weights: Floats, degree: int) -> list[Points]:
    """The poles (4, 3) of cubics for a spline of n poles (n, 3) with weights (n,) and n + degree + 1 knots, within its own
    domain, from knot `degree` to knot n: just the spline where its degree is 3 or less and its weights are equal, else as
    near as `_OFF`. (Piegl and Tiller, The NURBS Book, 3.2 and 4.2.)"""
    equal = bool(np.ptp(weights) <= _OFF * weights.max())
    spans, widths = _spans(knots, np.column_stack([poles, np.ones_like(weights)]) * (1 if equal else weights[:, None]), degree)  # fmt: skip
    if equal and degree <= 3:
        return list(_bezier(spans[..., :3], widths))
    size = float(np.ptp(poles, axis=0).max())
    return list(_near(spans, widths, _OFF * size))


def _spans(knots: Floats, poles: Floats, degree: int) -> tuple[Floats, Floats]:
    """The polynomials (degree + 1, m, d) of the spans of a domain, the highest power first, by what is gone since the start
    of each; and how wide these are (m,)."""
    from scipy.interpolate import BSpline, PPoly

    each = [PPoly.from_spline(BSpline(knots, own, degree)) for own in poles.T]
    starts, widths = each[0].x[:-1], np.diff(each[0].x)
    within = (starts >= knots[degree]) & (starts < knots[len(poles)]) & (widths > 0)
    return np.stack([one.c for one in each], axis=-1)[:, within], widths[within]


def _bezier(spans: Floats, widths: Floats) -> Floats:
    """The poles (m, 4, 3) of polynomials of degree 3 or less."""
    lacking = np.zeros((4 - len(spans), *spans.shape[1:]))
    c3, c2, c1, c0 = np.concatenate([lacking, spans])
    h = widths[:, None]
    first = c0 + c1 * h / 3
    second = first + (c1 + c2 * h) * h / 3
    return np.stack([c0, first, second, c0 + (c1 + (c2 + c3 * h) * h) * h], axis=1)


def _near(spans: Floats, widths: Floats, limit: float) -> Floats:
    """The poles (m, 4, 3) of cubics with the ends and the slopes of quotients of polynomials, halved until they are near."""
    which, begin, end = np.arange(len(widths)), np.zeros_like(widths), widths
    done: list[tuple[NDArray[np.int64], Floats, Floats]] = []
    for _ in range(_HALVINGS):
        poles = _with_slopes(spans, which, begin, end)
        far = _missed_by(poles, spans, which, begin, end) > limit
        done.append((which[~far], begin[~far], poles[~far]))
        middle = ((begin + end) / 2)[far]
        which = np.concatenate([which[far], which[far]])
        begin, end = np.concatenate([begin[far], middle]), np.concatenate([middle, end[far]])
    done.append((which, begin, _with_slopes(spans, which, begin, end)))
    spans_of, begins, found = (np.concatenate(some) for some in zip(*done, strict=True))
    ordered: Floats = found[np.lexsort((begins, spans_of))]
    return ordered


def _with_slopes(spans: Floats, which: NDArray[np.int64], begin: Floats, end: Floats) -> Floats:
    (a, slope_a), (b, slope_b) = _place(spans, which, begin), _place(spans, which, end)
    third = (end - begin)[:, None] / 3
    return np.stack([a, a + slope_a * third, b - slope_b * third, b], axis=1)


def _missed_by(
    poles: Floats, spans: Floats, which: NDArray[np.int64], begin: Floats, end: Floats
) -> Floats:
    misses = []
    for t in _LOOKED_AT:
        shares = np.array([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t**2 * (1 - t), t**3])
        place, _ = _place(spans, which, begin + t * (end - begin))
        misses.append(np.linalg.norm(np.einsum("k,mkd->md", shares, poles) - place, axis=1))
    most: Floats = np.max(misses, axis=0)
    return most


def _place(spans: Floats, which: NDArray[np.int64], at: Floats) -> tuple[Floats, Floats]:
    """Places and slopes (m, 3) on the spans of some numbers."""
    value = np.zeros((len(which), spans.shape[2]))
    slope = np.zeros_like(value)
    for power in spans:
        slope = slope * at[:, None] + value
        value = value * at[:, None] + power[which]
    place = value[:, :3] / value[:, 3:]
    return place, (slope[:, :3] - place * slope[:, 3:]) / value[:, 3:]
