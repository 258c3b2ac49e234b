"""Bars cut into pieces: the least number of them, with the proof that there are no fewer, or the gap.

The one-dimensional cutting stock problem by column generation (Gilmore and Gomory, A linear programming
approach to the cutting-stock problem, Operations Research 9, 1961): ways to cut a bar are added as long as
one pays, by a knapsack; the rounded-up optimum of the linear program is a bound below; whole numbers of the
ways found give the plan. Both are solved by HiGHS, through SciPy.
"""

from __future__ import annotations

import math
import time
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.problems import Failure

Counts = NDArray[np.int64]

MOST_KINDS = 200
MOST_PIECES = 100_000
SECONDS = 20.0
"""So long, at most, better ways to cut are looked for; what is there by then is given, with its gap."""

_SLACK = 1e-6
"""mm by which what is cut from a bar may seem longer than it, by rounding."""

_PAYS = 1e-7
_DECIMALS = 6
"""Lengths that differ by less than a millionth of a mm are one."""


class Saw(Struct, frozen=True):
    """What a cut takes away (`kerf`), and what each end of a bar loses (`trim`), in mm."""

    kerf: float = 0.0
    trim: float = 0.0


class Bar(Struct, frozen=True):
    """Bars that are cut alike: how many, the lengths cut from each (longest first) with their counts, and
    what is left of each (mm)."""

    number: int
    cuts: tuple[tuple[float, int], ...]
    rest: float


class BarPlan(Struct, frozen=True):
    """How the pieces are cut from bars of one length. There are never fewer bars than `bound`."""

    stock: float
    bars: tuple[Bar, ...]
    bound: int

    @property
    def number(self) -> int:
        return sum(bar.number for bar in self.bars)

    @property
    def proved(self) -> bool:
        """Whether fewer bars would not do."""
        return self.number == self.bound

    @property
    def used(self) -> float:
        """The share of the bars that is in the pieces."""
        pieces = sum(bar.number * length * count for bar in self.bars for length, count in bar.cuts)
        return pieces / (self.number * self.stock)


def cut_bars(
    lengths: Sequence[tuple[float, int]],
    stock: float,
    saw: Saw | None = None,
    seconds: float = SECONDS,
) -> BarPlan:
    """Pieces (length in mm, how many) cut from bars of a length (mm). Raises Failure for a piece that no
    bar holds, and for figures that make no sense."""
    saw = saw or Saw()
    kinds = _kinds(lengths)
    room = _room(stock, saw, kinds)
    sizes = np.array([length + saw.kerf for length, _ in kinds])
    wanted = np.array([count for _, count in kinds], dtype=np.int64)
    filled = _filled(sizes, wanted, room)
    until = time.monotonic() + seconds
    ways, bound = _ways(sizes, wanted, room, [way for way, _ in filled], until - seconds / 2)
    times = _whole(ways, wanted, max(until - time.monotonic(), 0.0))
    if times is not None and times.sum() <= sum(number for _, number in filled):
        filled = _without_surplus(ways, times, wanted)
    bars = _as_bars(filled, kinds, stock, saw)
    return BarPlan(stock, bars, max(bound, 1))


def _kinds(lengths: Sequence[tuple[float, int]]) -> list[tuple[float, int]]:
    """Each length once, the longest first."""
    if not lengths:
        raise Failure(
            "there is nothing to cut", "a schedule of solids with a length has pieces to cut"
        )
    together: dict[float, int] = {}
    for length, count in lengths:
        if not (math.isfinite(length) and length > 0) or count < 1:
            raise Failure(
                f"{count} pieces of {length:.6g} mm cannot be cut", "lengths and numbers above 0"
            )
        alike = round(length, _DECIMALS)
        together[alike] = together.get(alike, 0) + int(count)
    if len(together) > MOST_KINDS:
        raise Failure(f"{len(together)} lengths are too many", f"at most {MOST_KINDS}")
    if sum(together.values()) > MOST_PIECES:
        raise Failure(f"{sum(together.values()):,} pieces are too many", f"at most {MOST_PIECES:,}")
    return sorted(together.items(), reverse=True)


def check_bar(stock: float, saw: Saw) -> None:
    """Raises Failure for a bar and a saw that make no sense."""
    for said, value in (("a bar", stock), ("a cut", saw.kerf), ("an end", saw.trim)):
        if not math.isfinite(value) or value < 0 or (said == "a bar" and not value):
            raise Failure(f"{said} of {value:.6g} mm makes no sense", "a length in mm, not below 0")


def _room(stock: float, saw: Saw, kinds: list[tuple[float, int]]) -> float:
    """What a bar has for pieces and the cuts between them, and one more cut: behind the last there is
    none."""
    check_bar(stock, saw)
    usable = stock - 2 * saw.trim
    longest = kinds[0][0]
    if longest > usable + _SLACK:
        raise Failure(
            f"a piece of {longest:.6g} mm is longer than a bar by {longest - usable:.6g} mm",
            f"bars of {longest + 2 * saw.trim:.6g} mm or more",
        )
    return usable + saw.kerf + _SLACK


def _ways(
    sizes: NDArray[np.float64], wanted: Counts, room: float, begin: list[Counts], until: float
) -> tuple[NDArray[np.int64], int]:
    """Ways to cut a bar, a row each, and the least number of bars there can be."""
    from scipy.optimize import linprog

    ways = [*begin, *_single(sizes, wanted, room)]
    bound = math.ceil(float(sizes @ wanted) / room - 1e-9)
    while True:
        table = np.array(ways, dtype=np.int64)
        found = linprog(np.ones(len(ways)), A_ub=-table.T, b_ub=-wanted, method="highs")
        worth = -found.ineqlin.marginals
        way, value = _best_way(sizes, worth, wanted, room)
        if value <= 1 + _PAYS:  # no way pays any more: the optimum of the linear program is reached
            return table, max(bound, math.ceil(found.fun - 1e-6))
        # Whatever is not found yet, there are no fewer bars than this (Farley 1990).
        bound = max(bound, math.ceil(found.fun / value - 1e-6))
        if time.monotonic() > until:
            return table, bound
        ways.append(way)


def _single(sizes: NDArray[np.float64], wanted: Counts, room: float) -> list[Counts]:
    """For each length a bar of nothing else."""
    most = np.minimum(np.floor(room / sizes).astype(np.int64), wanted)
    return list(np.diag(most))


def _filled(sizes: NDArray[np.float64], wanted: Counts, room: float) -> list[tuple[Counts, int]]:
    """Bars filled one after another with the longest that still fits (first fit, decreasing), and how many
    of each: a plan that is there at once."""
    left, ways = wanted.copy(), []
    while left.any():
        way, free = np.zeros_like(left), room
        for kind in np.flatnonzero(left):
            way[kind] = min(int(free / sizes[kind]), int(left[kind]))
            free -= way[kind] * sizes[kind]
        times = int((left[way > 0] // way[way > 0]).min())
        left -= times * way
        ways.append((way, times))
    return ways


def _best_way(
    sizes: NDArray[np.float64], worth: NDArray[np.float64], wanted: Counts, room: float
) -> tuple[Counts, float]:
    """The way to cut one bar that is worth most: a knapsack."""
    from scipy.optimize import Bounds, LinearConstraint, milp

    most = np.minimum(np.floor(room / sizes), wanted)
    found = milp(
        -worth,
        constraints=LinearConstraint(sizes[None], -np.inf, room),
        bounds=Bounds(0, most),
        integrality=np.ones(len(sizes)),
        options={"mip_rel_gap": 0.0},
    )
    way = np.rint(found.x).astype(np.int64)
    return way, float(worth @ way)


def _whole(ways: NDArray[np.int64], wanted: Counts, seconds: float) -> Counts | None:
    """How often each way is cut, in whole numbers, so that the bars are the fewest of these ways; None
    where that is not found in time."""
    from scipy.optimize import Bounds, LinearConstraint, milp

    found = milp(
        np.ones(len(ways)),
        constraints=LinearConstraint(ways.T, wanted, np.inf),
        bounds=Bounds(0, np.inf),
        integrality=np.ones(len(ways)),
        options={"time_limit": seconds},
    )
    if found.x is None:
        return None
    times: Counts = np.rint(found.x).astype(np.int64)
    return times


def _without_surplus(
    ways: NDArray[np.int64], times: Counts, wanted: Counts
) -> list[tuple[Counts, int]]:
    """The ways that are cut, with their times, no piece more often than it is wanted."""
    surplus = times @ ways - wanted
    found: list[tuple[Counts, int]] = []
    for way, number in zip(ways, times, strict=True):
        while number:
            spared = np.minimum(way, surplus)
            if not spared.any():
                found.append((way, int(number)))
                break
            surplus -= spared
            number -= 1
            found.append((way - spared, 1))
    return [(way, number) for way, number in found if way.any()]


def _as_bars(
    cut: list[tuple[Counts, int]], kinds: list[tuple[float, int]], stock: float, saw: Saw
) -> tuple[Bar, ...]:
    alike: dict[tuple[int, ...], int] = {}
    for way, number in cut:
        key = tuple(int(one) for one in way)
        alike[key] = alike.get(key, 0) + number
    bars = []
    for way_key, number in alike.items():
        cuts = tuple(
            (length, count) for (length, _), count in zip(kinds, way_key, strict=True) if count
        )
        pieces = sum(count for _, count in cuts)
        rest = stock - 2 * saw.trim - sum(n * length for length, n in cuts) - pieces * saw.kerf
        bars.append(Bar(number, cuts, max(rest, 0.0)))
    return tuple(
        sorted(bars, key=lambda bar: (-bar.number, [-one for cut in bar.cuts for one in cut]))
    )
