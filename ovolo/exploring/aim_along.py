"""Aiming with one input: all solutions along its range, by Brent's method between two tries."""

from __future__ import annotations

import itertools
from typing import Any

from ovolo.exploring.aim_readings import Aim, Readings
from ovolo.exploring.axes import Axis


class Along(Readings):
    """An aim with one input."""

    def aim(self, goal: float) -> Aim:
        """All solutions along one input: on its steps exactly, else the nearest below and above."""
        (axis,) = self.moved
        places = self.places(axis)
        read = [(value, self.read((value,)).value) for value in places]
        known = [(value, reached) for value, reached in read if reached is not None]
        if not known:
            return Aim(self.said(goal), [], self.why_nothing(places))
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


class _NoValue(Exception):
    """A place at which the value does not exist."""


def _order(value: Any) -> Any:
    return value if isinstance(value, float) else str(value)
