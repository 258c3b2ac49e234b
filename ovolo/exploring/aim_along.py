"""Aiming with one input: all solutions along its range, by Brent's method between two tries."""

from __future__ import annotations

import bisect
import itertools
from collections.abc import Iterator, Sequence
from typing import Any

from ovolo.exploring.aim_readings import Aim, Found, Readings
from ovolo.exploring.aim_scan import scanned
from ovolo.exploring.axes import Axis, parted
from ovolo.exploring.probe import Probe

MOST_TOLD = 60
"""Of more solutions, so many are told: those nearest to the present setting."""

_NARROW = 1e-9
"""Of the range: solutions as near to each other are one."""

_BESIDE = 1e-3
"""Of the way to the next place: where the value is the same there, it is so on a stretch."""

_SAME = 1e-15
"""As a share: figures of one formula that differ by no more are the same."""

_DIP = 0.05
"""Of all that the value goes through: places further from the goal are not looked at closer."""

Stretch = tuple[Any, Any]
"""From where to where along the input the value is the goal; the same place twice where it only passes it."""


class Along(Readings):
    """An aim with one input."""

    def __init__(self, probe: Probe, moved: list[Axis], goal: float) -> None:
        super().__init__(probe, moved)
        (self.axis,) = moved
        self.goal = goal
        self._bare = probe.without_checks()
        self._values: dict[Any, float | None] = {}

    def value(self, place: Any) -> float | None:
        """The value at a place; how the checks stand is asked where something is found."""
        if place not in self._values:
            reached = self._values[place] = self._bare.at({self.axis.name: place}).value
            self.size = max(self.size, abs(reached or 0.0))
        return self._values[place]

    def side(self, place: Any) -> int | None:
        """On which side of the goal the value lies."""
        reached = self.value(place)
        if reached is None or self.is_goal(reached, self.goal):
            return None if reached is None else 0
        return 1 if reached > self.goal else -1

    def aim(self) -> Aim:
        """All solutions along the input: on its steps exactly, else the nearest below and above."""
        places, whole = scanned(self.axis, self.value, self.side)
        known = [place for place in places if self.value(place) is not None]
        if not known:
            return Aim(self.said(self.goal), [], self.why_nothing(places))
        solutions, near = self._passings(places)
        if not self.axis.choices and self.axis.step <= 0:
            turns = self._turns(known)
            solutions += [at for one in turns for at in self._about(*one)]
            furthest = [at for _, at, _ in turns]
            known, places = [*known, *furthest], sorted({*places, *furthest})
        if solutions:
            found, reason = self._exact(self._stretches(places, solutions))
        elif near:
            near.sort(key=lambda pair: float(pair[0]))
            found, reason = [self._found(value, note) for value, note in near], self._no_step()
        else:
            found, reason = self._nearest(known)
        doubt = "" if whole else self._doubt(len(places), "more" if solutions else "one")
        return Aim(self.said(self.goal), found, "; ".join(filter(None, (reason, doubt))))

    def _exact(self, stretches: list[Stretch]) -> tuple[list[Found], str]:
        """What is told of all solutions, and that it is not all of them."""
        reason = ""
        if len(stretches) > MOST_TOLD:
            reason = f"of {len(stretches):,} solutions these are the {MOST_TOLD} nearest to the present setting"
            nearest = sorted(stretches, key=self._distance)[:MOST_TOLD]
            stretches = [one for one in stretches if one in nearest]
        return [self._of_stretch(one) for one in stretches], reason

    def _doubt(self, places: int, of_them: str) -> str:
        name = self.probe.line.name
        return f"there may be {of_them}: `{name}` goes up and down more often than is seen at {places:,} places"

    def _distance(self, stretch: Stretch) -> float:
        """How far the present setting is from a stretch."""
        if self.axis.choices:
            return 0.0
        low, high = stretch
        return max(float(low - self.axis.present), float(self.axis.present - high), 0.0)

    def _of_stretch(self, stretch: Stretch) -> Found:
        """The middle of a stretch, and how far it goes."""
        low, high = stretch
        if low == high:
            return self._found(low)
        middle = self.axis.nearest((low + high) / 2)
        ends = (self.axis.said(one, self.units) for one in stretch)
        note = "the same from {} to {}".format(*ends)
        return self._found(middle if self.side(middle) == 0 else low, note)

    def _nearest(self, known: Sequence[Any]) -> tuple[list[Found], str]:
        """The place that comes nearest to the goal, and how far the value goes."""
        best = min(known, key=self._off)
        values = [self.value(place) or 0.0 for place in known]
        least, most = self.said(min(values)), self.said(max(values))
        reason = f"`{self.probe.line.name}` goes from {least} to {most} along `{self.axis.name}`"
        return [self._found(best, "the nearest")], reason

    def _found(self, place: Any, note: str = "") -> Found:
        return self.found((place,), self.goal, note)

    def _no_step(self) -> str:
        if self.axis.step <= 0:
            return "it jumps over the goal"
        return f"no step of `{self.axis.name}` gives it exactly"

    # --- from one place to the next ---

    def _passings(self, places: Sequence[Any]) -> tuple[list[Any], list[tuple[Any, str]]]:
        """Where the value is the goal at places and between them; and places at which it only jumps over it."""
        solutions = [place for place in places if self.side(place) == 0]
        near: list[tuple[Any, str]] = []
        for low, high in itertools.pairwise(places if not self.axis.choices else ()):
            if {self.side(low), self.side(high)} == {-1, 1}:
                self._between(low, high, solutions, near)
        return solutions, near

    def _between(
        self, low: float, high: float, solutions: list[Any], near: list[tuple[Any, str]]
    ) -> None:
        """What lies between two places at which the value lies on either side of the goal."""
        if self.axis.step > 0:
            side_of_low = self.side(low)
            ends = parted(self.axis, low, high, lambda place: self.side(place) == side_of_low)
            exact = [one for one in ends if self.side(one) == 0]
            solutions += exact[:1]
            beside = {-1: "the step below", 1: "the step above"}
            near += [(one, beside[side]) for one in ends if (side := self.side(one)) and not exact]
            return
        root = self._root(low, high)
        if root is not None and self.side(root) == 0:
            solutions.append(root)
        elif root is not None:
            before, after = (self.said(self.value(one) or 0.0) for one in (low, high))
            near.append((root, f"it jumps from {before} to {after} here"))

    def _root(self, low: float, high: float) -> float | None:
        from scipy.optimize import brentq

        def off(x: float) -> float:
            reached = self.value(float(x))
            if reached is None:
                raise _NoValue
            return reached - self.goal

        try:
            return float(brentq(off, low, high, xtol=1e-15 * max(abs(low), abs(high), 1e-6), rtol=8.9e-16))  # fmt: skip
        except _NoValue:
            return None

    # --- where it turns back ---

    def _turns(self, known: Sequence[float]) -> list[tuple[float, float, float]]:
        """Where the value turns back near the goal, each between two places that were tried; on one side of it at all
        of these, so that it is not seen whether it reaches the goal."""
        values = [self.value(place) or 0.0 for place in known]
        dip = _DIP * (max(values) - min(values))
        first, last = known[:1], known[-1:]
        found = []
        for low, at, high in zip([*first, *known], known, [*known[1:], *last], strict=False):
            sides = {self.side(one) for one in (low, at, high)}
            off = [self._off(one) for one in (low, at, high)]
            if len(sides) == 1 and 0 not in sides and off[1] <= min(off[0], off[2], dip):
                found.append((low, self._turn(low, high, sides.pop() or 0), high))
        return found

    def _turn(self, low: float, high: float, side: int) -> float:
        """The place between two others at which the value comes nearest to the goal, or goes furthest beyond it."""
        from scipy.optimize import minimize_scalar

        def off(x: float) -> float:
            reached = self.value(float(x))
            return 1e300 if reached is None else float(side * (reached - self.goal))

        options = {"xatol": 1e-12 * max(abs(low), abs(high), 1e-6)}
        return float(minimize_scalar(off, bounds=(low, high), method="bounded", options=options).x)

    def _about(self, low: float, at: float, high: float) -> list[float]:
        """The solutions about a place at which the value turns back: one where it only comes to the goal, one on either
        side where it goes beyond."""
        side = self.side(at)
        if side == 0:
            return [at]
        if self.value(at) is None or side == self.side(low):
            return []
        roots = [self._root(low, at), self._root(at, high)]
        return [root for root in roots if root is not None and self.side(root) == 0]

    # --- how far it stays there ---

    def _stretches(self, places: Sequence[Any], solutions: Sequence[Any]) -> list[Stretch]:
        """The solutions once each, in the order of the input; as a stretch where the value stays what it is."""
        if self.axis.choices:
            return [(one, one) for one in solutions]
        found: list[Stretch] = []
        narrow = _NARROW * (self.axis.high - self.axis.low)
        for at in self._one_of_each(places, sorted(solutions)):
            if not found or at > found[-1][1] + narrow:
                found.append((self._end(places, at, -1), self._end(places, at, 1)))
        return found

    def _one_of_each(self, places: Sequence[float], solutions: Sequence[float]) -> Iterator[float]:
        """The solutions; of those between which no place is off the goal, though the value is not the same at them, the
        nearest to it: it passes so slowly that it is the goal, within what counts as that, at several."""
        off = [place for place in places if self.side(place) != 0]
        for _, group in itertools.groupby(solutions, key=lambda at: bisect.bisect(off, at)):
            together = list(group)
            if self.axis.step > 0 or all(self._alike(one, together[0]) for one in together):
                yield together[0]
            else:
                between = (self._root(*pair) for pair in itertools.pairwise(together) if self._is_between(*pair))  # fmt: skip
                yield next(
                    (one for one in between if one is not None), min(together, key=self._off)
                )

    def _off(self, place: Any) -> float:
        """How far the value is from the goal."""
        return abs((self.value(place) or 0.0) - self.goal)

    def _is_between(self, low: float, high: float) -> bool:
        """Whether the goal lies between the values at two places, however near to it they are."""
        return ((self.value(low) or 0.0) < self.goal) != ((self.value(high) or 0.0) < self.goal)

    def _end(self, places: Sequence[float], at: float, way: int) -> float:
        """How far, down (-1) or up (1) the input, the value stays what it is at a place."""
        beyond = places[: bisect.bisect_left(places, at)][::-1] if way < 0 else places[bisect.bisect_right(places, at) :]  # fmt: skip
        inner, outer = at, None
        for place in beyond:
            if not self._alike(place, at):
                outer = place
                break
            inner = place
        if outer is None:
            return inner
        if self.axis.step <= 0 and inner == at and not self._alike(at + _BESIDE * (outer - at), at):
            return at
        return parted(self.axis, inner, outer, lambda place: self._alike(place, at))[0]

    def _alike(self, place: float, at: float) -> bool:
        """Whether the value at a place is what it is at a solution; between steps, but for rounding."""
        reached, here = self.value(place), self.value(at)
        if reached is None or here is None or not self.is_goal(reached, self.goal):
            return False
        return self.axis.step > 0 or abs(reached - here) <= _SAME * abs(here)


class _NoValue(Exception):
    """The value is missing at a place between two that have one."""
