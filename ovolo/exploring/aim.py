"""Aiming: which values of the inputs make a value what is wanted, or as small or large as it can be.

One input is tried along its whole range, and roots between two tries are found by Brent's method (SciPy;
Brent, Algorithms for minimization without derivatives, 1973, chapter 4). Several move as little as they
can, in shares of their ranges, while all checks hold (SciPy's SLSQP: Kraft, A software package for
sequential quadratic programming, 1988; where that finds nothing, differential evolution: Storn and
Price, 1997, seeded).
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np

from ovolo.exploring.axes import Axis, axes_of, axis_of, plain
from ovolo.exploring.probe import Probe, Reading
from ovolo.meaning.program import Program
from ovolo.problems import Failure
from ovolo.quantities.show import show_quantity

SAME = 1e-9
"""What is reached within this share of the goal is reached."""

ROUNDING = 1e-13
"""Of the greatest value that was met: what is as near to the goal has reached it but for rounding."""

MOST_TRIED = 1500
"""So many steps of one input are tried each; of more, evenly spread ones, and between them."""

ALONG = 240
"""So many places of a range without steps are tried."""

MOST_MOVED = 12
LEAST, MOST = "as small as possible", "as large as possible"

Values = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Found:
    """A setting that was found: run-time values, how they are said, the value reached (mm, radians, kg,
    s) and its words, whether that is the goal, and the checks that fail there."""

    settings: Values
    said: dict[str, str]
    reached: float
    reached_said: str
    exact: bool
    failing: list[str] = field(default_factory=list)
    note: str = ""


@dataclass(frozen=True, slots=True)
class Aim:
    """What came of an aim: what was found, the best first or in the order of the input; in words why
    there is no more; and the checks that stand in the way."""

    goal_said: str
    found: list[Found]
    reason: str = ""
    binding: list[str] = field(default_factory=list)

    def as_json(self) -> dict[str, Any]:
        return asdict(self)


def aimed(
    program: Program,
    name: str,
    goal: float | str,
    by: Sequence[str],
    present: Mapping[str, Any] | None = None,
) -> Aim:
    """What makes the line `name` the goal (mm, radians, kg, s), or LEAST or MOST, by moving the inputs
    `by`. Raises Failure where that cannot be asked."""
    present = dict(present or {})
    probe = Probe(program, name, present)
    axes = axes_of(program, present)
    if not by:
        raise Failure("no input was named to move", "choose at least one")
    if len(by) > MOST_MOVED:
        raise Failure(f"{len(by)} inputs are too many to move together", f"at most {MOST_MOVED}")
    moved = [axis_of(axes, program, one) for one in dict.fromkeys(by)]
    if name in by:
        raise Failure(f"`{name}` is the input itself", "aim at what follows from it")
    _refuse_deaf(program, name, moved)
    aiming = _Aiming(probe, moved)
    if isinstance(goal, str):
        return aiming.extreme(1.0 if goal == LEAST else -1.0, goal)
    if len(moved) == 1:
        return aiming.along(goal)
    return aiming.together(goal)


def _refuse_deaf(program: Program, name: str, moved: list[Axis]) -> None:
    """Raises Failure where none of the inputs moves the value."""
    for axis in moved:
        if any(one.name == name for one in program.downstream(frozenset([axis.name]))):
            return
    said = ", ".join(f"`{axis.name}`" for axis in moved)
    raise Failure(f"{said} does not move `{name}`", "*Reach* tells which inputs do")


class _Aiming:
    def __init__(self, probe: Probe, moved: list[Axis]) -> None:
        self.probe, self.moved = probe, moved
        self.units = probe.program.units
        self.start = np.array([axis.share_of(axis.present) for axis in moved])
        self.size = 1e-9
        """The greatest value that was met: by a share of it zero may be missed."""

        self._read: dict[tuple[Any, ...], Reading] = {}

    # --- reading ---

    def read(self, values: Sequence[Any]) -> Reading:
        key = tuple(values)
        known = self._read.get(key)
        if known is None:
            known = self._read[key] = self.probe.at(self._named(values))
            self.size = max(self.size, abs(known.value or 0.0))
        return known

    def _named(self, values: Sequence[Any]) -> Values:
        return {axis.name: value for axis, value in zip(self.moved, values, strict=True)}

    def said(self, value: float) -> str:
        return str(show_quantity(value, self.probe.kind.dimension, self.units))

    def is_goal(self, value: float | None, goal: float) -> bool:
        if value is None:
            return False
        return abs(value - goal) <= max(SAME * max(abs(goal), abs(value)), ROUNDING * self.size)

    def found(self, values: Sequence[Any], goal: float | None, note: str = "") -> Found:
        reading = self.read(values)
        assert reading.value is not None
        pairs = list(zip(self.moved, values, strict=True))
        return Found(
            {axis.name: plain(axis, value) for axis, value in pairs},
            {axis.name: axis.said(value, self.units) for axis, value in pairs},
            reading.value,
            self.said(reading.value),
            not reading.failing if goal is None else self.is_goal(reading.value, goal),
            reading.failing,
            note,
        )

    # --- one input ---

    def along(self, goal: float) -> Aim:
        """All solutions along one input: on its steps exactly, else the nearest below and above."""
        (axis,) = self.moved
        places = self._places(axis)
        read = [(value, self.read((value,)).value) for value in places]
        known = [(value, reached) for value, reached in read if reached is not None]
        if not known:
            return Aim(self.said(goal), [], self._why_nothing(places))
        solutions = [value for value, reached in known if self.is_goal(reached, goal)]
        near: list[tuple[Any, str]] = []
        for (a, fa), (b, fb) in itertools.pairwise(read):
            if fa is None or fb is None or axis.choices:
                continue
            if self.is_goal(fa, goal) or self.is_goal(fb, goal) or (fa < goal) == (fb < goal):
                continue
            self._between(axis, goal, (a, fa), (b, fb), solutions, near)
        if not axis.choices and axis.step <= 0:
            solutions += self._touching(axis, goal, known, solutions)
        found = [self.found((value,), goal) for value in self._apart(axis, solutions)]
        if not found:
            found = [self.found((value,), goal, note) for value, note in near]
        if found:
            found.sort(key=lambda one: (not one.exact, _order(one.settings[axis.name])))
            return Aim(self.said(goal), found, "" if found[0].exact else self._no_step(axis))
        best = min(known, key=lambda pair: abs(pair[1] - goal))
        least, most = min(f for _, f in known), max(f for _, f in known)
        reason = f"`{self.probe.line.name}` goes from {self.said(least)} to {self.said(most)} along `{axis.name}`"
        return Aim(self.said(goal), [self.found((best[0],), goal, "the nearest")], reason)

    def _places(self, axis: Axis) -> list[Any]:
        count = axis.count
        return axis.evenly(min(count, MOST_TRIED) if count is not None else ALONG + 1)

    def _between(
        self,
        axis: Axis,
        goal: float,
        low: tuple[Any, float],
        high: tuple[Any, float],
        solutions: list[Any],
        near: list[tuple[Any, str]],
    ) -> None:
        """The root between two places at which the value lies on either side of the goal."""
        (a, fa), (b, fb) = low, high
        if axis.step > 0:
            a, b = self._neighbours(axis, goal, a, b)
            for value in (a, b):
                reached = self.read((value,)).value
                if self.is_goal(reached, goal):
                    solutions.append(value)
                    return
            for value in (a, b):
                reached = self.read((value,)).value
                if reached is not None:
                    near.append((value, "the step below" if reached < goal else "the step above"))
            return
        root = self._root(axis, goal, a, b)
        if root is not None and self.is_goal(self.read((root,)).value, goal):
            solutions.append(root)
        elif root is not None:
            near.append((root, f"it jumps from {self.said(fa)} to {self.said(fb)} here"))

    def _neighbours(self, axis: Axis, goal: float, a: float, b: float) -> tuple[float, float]:
        """Two steps next to each other between which the value passes the goal."""
        below = (self.read((a,)).value or 0.0) < goal
        while b - a > 1.5 * axis.step:
            middle = axis.nearest((a + b) / 2)
            if not a < middle < b:
                break
            reached = self.read((middle,)).value
            if reached is None:
                break
            if (reached < goal) == below:
                a = middle
            else:
                b = middle
        return a, b

    def _root(self, axis: Axis, goal: float, a: float, b: float) -> float | None:
        from scipy.optimize import brentq

        def off(x: float) -> float:
            reached = self.read((float(x),)).value
            if reached is None:
                raise _NoValue
            return reached - goal

        try:
            return float(brentq(off, a, b, xtol=1e-15 * max(abs(a), abs(b), 1e-6), rtol=8.9e-16))
        except _NoValue:
            return None

    def _touching(
        self, axis: Axis, goal: float, known: list[tuple[Any, float]], solutions: list[Any]
    ) -> list[float]:
        """Places at which the value touches the goal without passing it."""
        from scipy.optimize import minimize_scalar

        def off(x: float) -> float:
            reached = self.read((float(x),)).value
            return abs(reached - goal) if reached is not None else 1e300

        spread = max(f for _, f in known) - min(f for _, f in known)
        found = []
        for (a, fa), (_m, fm), (b, fb) in zip(known, known[1:], known[2:], strict=False):
            dip = abs(fm - goal) <= min(abs(fa - goal), abs(fb - goal))
            one_side = (fa < goal) == (fm < goal) == (fb < goal)
            if not dip or not one_side or abs(fm - goal) > 0.05 * spread:
                continue
            at = float(minimize_scalar(off, bounds=(a, b), method="bounded", options={"xatol": 1e-12 * max(abs(a), abs(b), 1e-6)}).x)  # fmt: skip
            # Where a curve touches a line, half of the figures of the place are lost.
            if off(at) <= 1e-7 * max(spread, abs(goal)):
                found.append(at)
        return found

    def _apart(self, axis: Axis, values: list[Any]) -> list[Any]:
        """Solutions once each, in the order of the input."""
        if axis.choices:
            return values
        found: list[float] = []
        for value in sorted(values):
            if not found or value - found[-1] > 1e-9 * max(axis.high - axis.low, 1e-9):
                found.append(value)
        return found

    def _no_step(self, axis: Axis) -> str:
        if axis.choices or axis.step <= 0:
            return "it jumps over the goal"
        return f"no step of `{axis.name}` gives it exactly"

    def _why_nothing(self, places: list[Any]) -> str:
        return f"`{self.probe.line.name}` has no value anywhere: {self.read((places[0],)).why}"

    # --- several inputs ---

    def values_at(self, shares: Sequence[float] | np.ndarray[Any, Any]) -> tuple[Any, ...]:
        """Values on steps and choices, at shares of the ranges."""
        return tuple(
            _at(axis, float(share)) for axis, share in zip(self.moved, shares, strict=True)
        )

    def free_at(self, shares: np.ndarray[Any, Any]) -> tuple[Any, ...]:
        """The same between the steps, where a figure has them."""
        return tuple(
            _at(axis, float(u))
            if axis.choices
            else axis.low + min(max(float(u), 0.0), 1.0) * (axis.high - axis.low)
            for axis, u in zip(self.moved, shares, strict=True)
        )

    def together(self, goal: float) -> Aim:
        """The least change of several inputs that reaches the goal while all checks hold."""
        scale = max(abs(goal), abs(self.read(self._present()).value or 0.0), 1e-9)

        def off(shares: np.ndarray[Any, Any]) -> float:
            reached = self.read(self.free_at(shares)).value
            return (reached - goal) / scale if reached is not None else 1e3

        def change(shares: np.ndarray[Any, Any]) -> float:
            return float(np.sum((shares - self.start) ** 2))

        candidates = self._descents(change, off) or [self._evolved(lambda u: abs(off(u)) + 0.01 * change(u))]  # fmt: skip
        settled = [self._settled(one, goal, change) for one in candidates]
        known = [one for one in settled if one is not None]
        if not known:
            return Aim(self.said(goal), [], self._why_nothing([self._present()[0]]))
        best = min(known, key=lambda one: self._rank(one, goal, change))
        found = self.found(best, goal)
        if found.exact and not found.failing:
            return Aim(self.said(goal), [found])
        reason = self._reason(found)
        return Aim(self.said(goal), [self._with_note(found, "the nearest")], reason, found.failing)

    def _with_note(self, found: Found, note: str) -> Found:
        return found if found.exact else Found(**{**asdict(found), "note": note})

    def _reason(self, found: Found) -> str:
        if found.exact:
            return "no setting reaches it while every check holds"
        stepped = any(axis.step > 0 or axis.choices for axis in self.moved)
        return "no setting on the steps of these inputs gives it exactly" if stepped else "no setting of these inputs gives it"  # fmt: skip

    def _present(self) -> tuple[Any, ...]:
        return tuple(axis.present for axis in self.moved)

    def _descents(
        self,
        change: Callable[[np.ndarray[Any, Any]], float],
        off: Callable[[np.ndarray[Any, Any]], float],
    ) -> list[np.ndarray[Any, Any]]:
        """Where SLSQP comes to from the present setting and some others, with all checks holding."""
        from scipy.optimize import minimize

        lines = list(self.read(self._present()).margins)

        def margins(shares: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
            read = self.read(self.free_at(shares)).margins
            return np.array([read[line] for line in lines])

        constraints: list[Any] = [{"type": "eq", "fun": off}]
        if lines:
            constraints.append({"type": "ineq", "fun": margins})
        generator = np.random.default_rng(1)
        starts = [self.start, *generator.random((5, len(self.moved)))]
        found = []
        for start in starts:
            inside = np.clip(start, 1e-6, 1 - 1e-6)
            bounds = [(0.0, 1.0)] * len(self.moved)
            with np.errstate(all="ignore"):
                made = minimize(
                    change, inside, method="SLSQP", bounds=bounds, constraints=constraints,
                    options={"maxiter": 60, "ftol": 1e-12},
                )  # fmt: skip
            holds = all(m >= -1e-6 for m in (margins(made.x) if lines else []))
            if abs(off(made.x)) < 1e-6 and holds:
                found.append(np.clip(made.x, 0.0, 1.0))
        return found

    def _evolved(
        self, cost: Callable[[np.ndarray[Any, Any]], float], penalty: float = 10.0
    ) -> np.ndarray[Any, Any]:
        """The best place that differential evolution finds on the steps, failing checks counted against it."""
        from scipy.optimize import differential_evolution

        def whole(shares: np.ndarray[Any, Any]) -> float:
            reading = self.read(self.values_at(shares))
            if reading.value is None:
                return 1e6
            fails = sum(margin < 0 for margin in reading.margins.values())
            return cost(self._shares(self.values_at(shares))) + penalty * (reading.shortfall + 0.1 * fails)  # fmt: skip

        with np.errstate(all="ignore"):
            made = differential_evolution(
                whole, [(0.0, 1.0)] * len(self.moved), rng=np.random.default_rng(1), popsize=12,
                maxiter=60, tol=1e-10, polish=False, x0=np.clip(self.start, 0, 1), init="sobol",
            )  # fmt: skip
        return np.asarray(made.x)

    def _shares(self, values: Sequence[Any]) -> np.ndarray[Any, Any]:
        return np.array([axis.share_of(v) for axis, v in zip(self.moved, values, strict=True)])

    def _settled(
        self,
        shares: np.ndarray[Any, Any],
        goal: float,
        change: Callable[[np.ndarray[Any, Any]], float],
    ) -> tuple[Any, ...] | None:
        """The best setting on the steps around a place: each figure to the step below or above, and an
        input without steps then made to fit."""
        options = [_around(axis, float(u)) for axis, u in zip(self.moved, shares, strict=True)]
        rows = list(itertools.islice(itertools.product(*options), 1024))
        loose = [at for at, axis in enumerate(self.moved) if not axis.choices and axis.step <= 0]
        if loose and len(loose) < len(self.moved):
            rows += [fitted for row in rows[:64] if (fitted := self._fitted(row, loose[0], goal))]
        known = [row for row in rows if self.read(row).value is not None]
        return min(known, key=lambda row: self._rank(row, goal, change)) if known else None

    def _fitted(self, row: tuple[Any, ...], at: int, goal: float) -> tuple[Any, ...] | None:
        """The setting with one input without steps moved until the goal is reached."""
        axis = self.moved[at]
        places = [(*row[:at], value, *row[at + 1 :]) for value in axis.evenly(17)]
        for one, other in itertools.pairwise(places):
            a, b = self.read(one).value, self.read(other).value
            if a is None or b is None or (a < goal) == (b < goal):
                continue
            low, high = one[at], other[at]
            for _ in range(60):
                middle = (low + high) / 2
                reached = self.read((*row[:at], middle, *row[at + 1 :])).value
                if reached is None:
                    break
                low, high = (middle, high) if (reached < goal) == (a < goal) else (low, middle)
            return (*row[:at], high, *row[at + 1 :])
        return None

    def _rank(
        self, row: Sequence[Any], goal: float, change: Callable[[np.ndarray[Any, Any]], float]
    ) -> tuple[Any, ...]:
        reading = self.read(row)
        assert reading.value is not None
        exact = self.is_goal(reading.value, goal)
        off = 0.0 if exact else abs(reading.value - goal)
        return (len(reading.failing) > 0, off, change(self._shares(row)))

    # --- as small or as large as possible ---

    def extreme(self, sign: float, goal: str) -> Aim:
        """The least (sign 1) or greatest (-1) value while the checks hold."""
        best = self._best(sign)
        if best is None:
            return Aim(goal, [], self._why_nothing([self._present()[0]]))
        found = self.found(best, None)
        if found.failing:
            return Aim(
                goal, [found], "no setting was found in which every check holds", found.failing
            )
        return Aim(goal, [found], "", self._binding(best, sign))

    def _best(self, sign: float) -> tuple[Any, ...] | None:
        counts = [axis.count for axis in self.moved]
        if all(count is not None for count in counts) and np.prod([c or 1 for c in counts]) <= 4000:
            rows = list(itertools.product(*(self._places(axis) for axis in self.moved)))
        else:
            rows = self._candidates(sign)
        known = [row for row in rows if self.read(row).value is not None]
        if not known:
            return None

        def rank(row: tuple[Any, ...]) -> tuple[Any, ...]:
            reading = self.read(row)
            assert reading.value is not None
            return (len(reading.failing), sign * reading.value, float(np.sum((self._shares(row) - self.start) ** 2)))  # fmt: skip

        return min(known, key=rank)

    def _candidates(self, sign: float) -> list[tuple[Any, ...]]:
        scale = max(abs(self.read(self._present()).value or 0.0), 1e-9)

        def cost(shares: np.ndarray[Any, Any]) -> float:
            value = self.read(self.values_at(shares)).value
            return sign * value / scale if value is not None else 1e6

        evolved = self._evolved(cost, 1e3)
        rows = [self.values_at(evolved), self._present()]
        rows += [self.values_at(one) for one in self._polished(sign, scale, evolved)]
        around = [_around(axis, float(u)) for axis, u in zip(self.moved, evolved, strict=True)]
        return [*rows, *itertools.islice(itertools.product(*around), 1024)]

    def _polished(
        self, sign: float, scale: float, start: np.ndarray[Any, Any]
    ) -> list[np.ndarray[Any, Any]]:
        from scipy.optimize import minimize

        lines = list(self.read(self._present()).margins)

        def cost(shares: np.ndarray[Any, Any]) -> float:
            value = self.read(self.free_at(shares)).value
            return sign * value / scale if value is not None else 1e6

        def margins(shares: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
            read = self.read(self.free_at(shares)).margins
            return np.array([read[line] for line in lines])

        found = []
        for first in (start, np.clip(self.start, 0, 1)):
            with np.errstate(all="ignore"):
                made = minimize(
                    cost, np.clip(first, 0, 1), method="SLSQP", bounds=[(0.0, 1.0)] * len(self.moved),
                    constraints=[{"type": "ineq", "fun": margins}] if lines else (),
                    options={"maxiter": 100, "ftol": 1e-15},
                )  # fmt: skip
            found.append(np.clip(made.x, 0.0, 1.0))
            if lines:  # a little inside, where a check stops exactly at its edge
                found.append(np.clip(made.x * (1 - 1e-9) + first * 1e-9, 0.0, 1.0))
        return found

    def _binding(self, best: tuple[Any, ...], sign: float) -> list[str]:
        """The checks that fail one step further on the way to something better, and limits that end it."""
        here = self.read(best).value
        assert here is not None
        stopped: list[str] = []
        for at, axis in enumerate(self.moved):
            if axis.choices:
                continue
            step = axis.step or (axis.high - axis.low) * 1e-4
            for way in (-1, 1):
                value = best[at] + way * step
                row = (*best[:at], value, *best[at + 1 :])
                reading = self.read(row)
                better = reading.value is not None and sign * reading.value < sign * here
                if better and not axis.low - 1e-9 * step <= value <= axis.high + 1e-9 * step:
                    end = "upper" if way > 0 else "lower"
                    stopped.append(f"the {end} limit of `{axis.name}`")
                elif better:
                    stopped += reading.failing
        return list(dict.fromkeys(stopped))


class _NoValue(Exception):
    """A place at which the value does not exist."""


def _order(value: Any) -> Any:
    return value if isinstance(value, float) else str(value)


def _at(axis: Axis, share: float) -> Any:
    """The value nearest to a share of the range."""
    share = min(max(share, 0.0), 1.0)
    if axis.choices:
        return axis.choices[round(share * (len(axis.choices) - 1))]
    return axis.nearest(axis.low + share * (axis.high - axis.low))


def _around(axis: Axis, share: float) -> list[Any]:
    """The values of an axis next to a share of its range."""
    share = min(max(share, 0.0), 1.0)
    if axis.choices:
        return list(axis.choices) if len(axis.choices) <= 4 else [_at(axis, share)]
    value = axis.low + share * (axis.high - axis.low)
    if axis.step <= 0:
        return [axis.nearest(value)]
    near = [axis.nearest(value - axis.step / 2), axis.nearest(value + axis.step / 2)]
    return list(dict.fromkeys([axis.nearest(value), *near]))
