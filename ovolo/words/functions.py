"""Values between values, and what is done with a function: its area, its least place, its root."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.problems import Failure, FailureOfFigures
from ovolo.words.area_under import area_under
from ovolo.words.registry import word

Values = Any

_PLACES = 200
"""So many places of a function are looked at before its least one is narrowed down."""


@word(
    "list Q, list R, Q, smooth: yes/no? -> R", "list Q, list point R, Q, smooth: yes/no? -> point R",
    example="interpolate([0 m, 2 m, 4 m], [10°, 30°, 20°], 1 m)", gives="20°",
)  # fmt: skip
def interpolate(xs: Values, ys: Values, x: float, smooth: bool = False) -> Any:
    """The value at x of a line through places and values: straight from one to the next, or smooth,
    without rising above or falling below them (PCHIP: Fritsch and Butland, 1984).

    xs: the places, from the least to the greatest
    ys: the value at each of them
    x: where the value is wanted, between the first and the last place
    smooth: whether the line is smooth
    """
    places, values = np.asarray(xs, dtype=float), np.asarray(ys, dtype=float)
    _refuse_places(places, len(values), x)
    if smooth and len(places) > 2:
        from scipy.interpolate import PchipInterpolator

        found = PchipInterpolator(places, values)(x)
    else:
        at = int(np.clip(np.searchsorted(places, x, side="right") - 1, 0, len(places) - 2))
        share = (x - places[at]) / (places[at + 1] - places[at])
        found = values[at] + share * (values[at + 1] - values[at])
    return float(found) if values.ndim == 1 else found


def _refuse_places(places: NDArray[np.float64], values: int, x: float) -> None:
    if len(places) != values:
        raise Failure(f"there are {len(places)} places and {values} values", "one for each place")
    if len(places) < 2:
        raise Failure("there is nothing to interpolate between", "two places or more")
    steps = np.diff(places)
    if np.any(steps <= 0):
        at = int(np.argmax(steps <= 0))
        raise Failure(
            f"the places must rise from one to the next; item {at + 1} does not lie above item {at}",
            "order them, each once",
        )
    slack = 1e-12 * max(abs(float(places[0])), abs(float(places[-1])))
    if not places[0] - slack <= x <= places[-1] + slack:
        side = "below the first place" if x < places[0] else "beyond the last place"
        raise FailureOfFigures(
            f"{{x}} lies {side}, {{end}}",
            "keep it between them with clamp(x, first(xs), last(xs))",
            x=(x, "x"),
            end=(float(places[0] if x < places[0] else places[-1]), "x"),
        )


@word(
    "Q, Q, Q, R, R -> R", "Q, Q, Q, point R, point R -> point R",
    example="remap(25°, 0°, 100°, 2 m, 6 m)", gives="3 m", elementwise=True,
)  # fmt: skip
def remap(x: Values, a: Values, b: Values, c: Values, d: Values) -> Values:
    """x, which goes from a to b, as a value that goes from c to d; beyond a and b it goes on.

    x: the value
    a: where it begins
    b: where it ends
    c: what it becomes at a
    d: what it becomes at b
    """
    if np.any(np.equal(a, b)):
        raise Failure("the range that x goes through has no length", "its ends must differ")
    share = (x - a) / (b - a)
    return c + (share[..., None] if np.ndim(c) > np.ndim(share) else share) * (d - c)


@word(
    "(Q -> R), Q, Q -> Q*R",
    example="integrate(x -> x^2, 0 mm, 3 mm)", gives="9 mm^3",
)  # fmt: skip
def integrate(f: Callable[[float], float], a: float, b: float) -> float:
    """The area under a function from a to b, to 1e-9 of its size, also where it bends or jumps. A peak that is
    narrower than a hundredth of the way may be overlooked: part it there.

    f: the function
    a: where it begins
    b: where it ends
    """
    found = area_under(f, a, b)
    if found is None:
        raise FailureOfFigures(
            "the area under this function from {a} to {b} does not settle",
            "part it where the function jumps; where it grows without end, as 1 / x does, there may be none",
            a=(a, "a"),
            b=(b, "b"),
        )
    return found


@word(
    "(Q -> R), Q, Q -> Q",
    example="round(minimise(x -> (x - 2 mm)^2, 0 mm, 5 mm), 0.001 mm)", gives="2 mm",
)  # fmt: skip
def minimise(f: Callable[[float], float], lo: float, hi: float) -> float:
    """The place between lo and hi where f is least; of several, the least of those that a look at
    200 places finds. Brent's method (Algorithms for Minimization without Derivatives, 1973).

    f: the function
    lo: where to begin looking
    hi: where to end
    """
    from scipy.optimize import minimize_scalar

    if not lo < hi:
        raise FailureOfFigures(
            "there is nothing between {lo} and {hi}",
            "from the lower to the higher",
            lo=(lo, "lo"),
            hi=(hi, "hi"),
        )
    places = np.linspace(lo, hi, _PLACES + 1)
    values = [f(float(x)) for x in places]
    at = int(np.argmin(values))
    bracket = float(places[max(at - 1, 0)]), float(places[min(at + 1, _PLACES)])
    narrowed = minimize_scalar(
        f, bounds=bracket, method="bounded", options={"xatol": 1e-12 * (hi - lo)}
    )
    best = float(narrowed.x)
    return best if f(best) < values[at] else float(places[at])


@word(
    "(Q -> R), Q, Q -> Q",
    example="root(x -> x^2 - 2 m^2, 0 m, 2 m)", gives="sqrt(2 m^2)",
)  # fmt: skip
def root(f: Callable[[float], float], lo: float, hi: float) -> float:
    """The place between lo and hi where f is 0; f must be below 0 at one end and above 0 at
    the other, and must not jump over 0. Brent's method (Algorithms for Minimization without
    Derivatives, 1973).

    f: a function that changes its sign
    lo: where to begin looking
    hi: where to end
    """
    from scipy.optimize import brentq

    low, high = f(lo), f(hi)
    if low == 0 or high == 0:
        return lo if low == 0 else hi
    if (low > 0) == (high > 0):
        raise FailureOfFigures(
            "the function does not pass 0 between the two ends: it is {low} at {lo} and {high} at {hi}",
            "choose ends on either side of the root",
            low=(low, "f"),
            lo=(lo, "lo"),
            high=(high, "f"),
            hi=(hi, "hi"),
        )
    size = max(abs(lo), abs(hi))
    found = float(brentq(f, lo, hi, xtol=1e-15 * size + 1e-300, rtol=8.9e-16, maxiter=500))
    _refuse_jump(f, found, lo, hi)
    return found


def _refuse_jump(f: Callable[[float], float], at: float, lo: float, hi: float) -> None:
    """Raises Failure where f jumps over 0: however near it is looked at, it comes no nearer to 0, on either side."""
    least, most = min(lo, hi), max(lo, hi)
    widest = 1e-6 * (most - least)
    if f(at) == 0 or widest < 16_000 * math.ulp(at):  # nearer than two looks can be told apart
        return
    sides = []
    for way in (-1, 1):
        reach, before = widest, math.inf
        while reach > 16 * math.ulp(at):
            now = abs(f(min(max(at + way * reach, least), most)))
            if now <= before / 2 < math.inf:
                return
            reach, before = reach / 1000, now
        sides.append(f(min(max(at + way * reach * 1000, least), most)))
    raise FailureOfFigures(
        "the function jumps over 0 at {at}, from {before} to {after}: it is 0 nowhere",
        "leave the rounding out of it, and round the root",
        at=(at, "lo"),
        before=(sides[0], "f"),
        after=(sides[1], "f"),
    )
