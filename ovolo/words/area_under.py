"""The area under a function: by Gauss's rule, on parts that are divided until their pieces give the same."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.surfaces.sampling import sampled
from ovolo.problems import Failure

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(10)

_AGREE = 5e-13
"""By what share of the area under the size of the whole the pieces of a part may differ from it."""

_MOST_PARTS = 20_000

_NARROW, _NARROWEST = 1 / 64, 1e-11
"""Of the way: in what has not settled a jump is looked for, or it does not settle at all."""

_BETWEEN = 0.6
"""About a jump a function is what it is on either side of it: no further from the middle of both than so many times what
they are apart."""

_PARTED = np.array([0.0, 1 / 80, (3 - math.sqrt(5)) / 2, 1 - 1 / 80, 1.0])
"""Where a part is divided: so that no bend lies alike in it and in its pieces; and beside its ends, where it is looked at
nowhere within an eightieth of it."""

_BESIDE = 80.0 ** -np.arange(4, 0, -1)
_FIRST = np.concatenate([[0.0], _BESIDE, [0.27, 0.51, 0.76], 1 - _BESIDE[::-1], [1.0]])
"""The first parts; the ends of the whole are looked at closely, for they are no less likely to lie beside a jump."""


def area_under(f: Callable[[float], float], a: float, b: float) -> float | None:
    """The integral of f from a to b, to 1e-9 of the area under its size; None where it does not settle.

    >>> round(area_under(abs, -1.0, 3.0), 9)
    5.0
    >>> area_under(lambda x: 1 / x, -1.0, 2.0)
    """
    found = _by_parts(f, a, b)
    return _extrapolated(f, a, b) if found is None else found


def _by_parts(f: Callable[[float], float], a: float, b: float) -> float | None:
    """The integral from a to b; None where it does not settle, as about a place where the function grows without end.

    What Gauss's rule finds of a part is trusted where its pieces give the same together, for at a bend or a jump an
    estimate may be wrong and not know it; else the pieces are looked at as it was. In a narrow one a jump is looked for.
    """
    ends = a + (b - a) * _FIRST
    starts, ends = ends[:-1], ends[1:]
    found, close, seen = [], math.nan, 0
    try:
        whole, _, _ = _by_gauss(f, starts, ends)
        while len(starts):
            seen += len(starts)
            if seen > _MOST_PARTS:
                return None
            cuts = starts[:, None] + (ends - starts)[:, None] * _PARTED
            starts, ends = cuts[:, :-1].reshape(-1), cuts[:, 1:].reshape(-1)
            areas, size, values = _by_gauss(f, starts, ends)
            if math.isnan(close):
                close = _AGREE * size
            elif size > 2 * close / _AGREE:
                return None  # the nearer it is looked at, the more there is
            agreed = np.abs(areas.reshape(len(cuts), -1).sum(axis=1) - whole) <= close
            kept = np.repeat(agreed, cuts.shape[1] - 1)
            found.append(math.fsum(areas[kept]))
            left = []
            for at in np.flatnonzero(~kept).tolist():
                width = abs(ends[at] - starts[at])
                area = None
                if width < _NARROW * abs(b - a):
                    area = _about_a_jump(f, float(starts[at]), float(ends[at]), values[at], close)
                if area is not None:
                    found.append(area)
                elif width < _NARROWEST * abs(b - a):
                    return None
                else:
                    left.append(at)
            starts, ends, whole = starts[left], ends[left], areas[left]
    except (Failure, ArithmeticError):
        return None  # it may be so at a single place
    return math.fsum(found)


def _by_gauss(
    f: Callable[[float], float], starts: NDArray[np.float64], ends: NDArray[np.float64]
) -> tuple[NDArray[np.float64], float, NDArray[np.float64]]:
    """The integrals over parts (k,), that of the size of f over all of them, and what f is at its places (k, 10)."""
    halves = (ends - starts) / 2
    places = (starts + halves)[:, None] + halves[:, None] * _NODES
    values = sampled(f, places.reshape(-1)).reshape(places.shape)
    return halves * (values @ _WEIGHTS), float(np.abs(halves) @ (np.abs(values) @ _WEIGHTS)), values


def _about_a_jump(
    f: Callable[[float], float], start: float, end: float, values: NDArray[np.float64], close: float
) -> float | None:
    """The integral over a narrow part in which the function jumps once; else None. `values` (10,) are what it is within."""
    first, last = f(start), f(end)
    between = (first + last) / 2

    def goes_beyond(found: Any) -> bool:
        return bool(np.abs(found - between).max() > _BETWEEN * abs(last - first))

    low, high = start, end
    if goes_beyond(values):
        return None
    while abs(high - low) > 2 * math.ulp(max(abs(low), abs(high))):
        middle = (low + high) / 2
        at = f(middle)
        low, high = (middle, high) if abs(at - first) <= abs(at - last) else (low, middle)
    if goes_beyond(np.array([f(low), f(high)])):
        return None
    cuts = np.array(
        [start, start + _PARTED[2] * (low - start), low, high, end + _PARTED[2] * (high - end), end]
    )
    starts, ends = cuts[[0, 3, 0, 1, 3, 4]], cuts[[2, 5, 1, 2, 4, 5]]
    before, after, *pieces = _by_gauss(f, starts, ends)[0]
    return float(before + after) if abs(math.fsum(pieces) - before - after) <= close else None


def _extrapolated(f: Callable[[float], float], a: float, b: float) -> float | None:
    """The integral from a to b of what grows without end somewhere (QUADPACK: Piessens and others, 1983); None where it does
    not settle. Where a function grows so that it has no area, the extrapolation gives the part of it that is finite
    (Hadamard), and says so."""
    from scipy.integrate import quad

    whole, missed, _, *said = quad(f, a, b, epsabs=0.0, epsrel=1e-12, limit=200, full_output=1)
    if any("divergent" in str(one) for one in said):
        return None
    return whole if missed <= 1e-9 * abs(whole) else None
