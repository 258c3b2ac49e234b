"""Aiming with several inputs: the least change, in shares of their ranges, while all checks hold."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np
from msgspec.structs import replace

from ovolo.exploring.aim_evolving import Evolving
from ovolo.exploring.aim_readings import Aim, Found, steps_around
from ovolo.exploring.axes import parted

_TRIED = 17
"""At so many places of its range one input alone is tried."""

_NEAREST = 2
"""So many of the settings in which one input alone is moved are gone on from."""


class Together(Evolving):
    """An aim with several inputs."""

    def aim(self, goal: float) -> Aim:
        """The least change of several inputs that reaches the goal while all checks hold."""
        scale = max(abs(goal), abs(self.read(self.present()).value or 0.0), 1e-9)

        def off(shares: np.ndarray[Any, Any]) -> float:
            reached = self.read(self.free_at(shares)).value
            return (reached - goal) / scale if reached is not None else 1e3

        def change(shares: np.ndarray[Any, Any]) -> float:
            return float(np.sum((shares - self.start) ** 2))

        alone = sorted(self._each_alone(goal), key=lambda row: change(self.shares(row)))
        candidates = self._descents(change, off, [self.shares(row) for row in alone[:_NEAREST]])
        if not candidates:
            candidates = [self.evolved(lambda u: abs(off(u)) + 0.01 * change(u))]
        settled = [self._settled(one, goal, change) for one in candidates]
        known = [one for one in (*settled, *alone) if one is not None]
        if not known:
            return Aim(self.said(goal), [], self.why_nothing([self.present()[0]]))
        known = [self._nearer(one, goal) for one in known]
        best = min(known, key=lambda one: self._rank(one, goal, change))
        found = self.found(best, goal)
        if found.exact and not found.failing:
            return Aim(self.said(goal), [found])
        reason = self._reason(found)
        return Aim(self.said(goal), [self._with_note(found, "the nearest")], reason, found.failing)

    def _with_note(self, found: Found, note: str) -> Found:
        return found if found.exact else replace(found, note=note)

    def _reason(self, found: Found) -> str:
        if found.exact:
            return "no setting was found that reaches it while every check holds"
        stepped = any(axis.step > 0 or axis.choices for axis in self.moved)
        steps = " on their steps" if stepped else ""
        return f"no setting of these inputs{steps} was found that gives it exactly"

    def _descents(
        self,
        change: Callable[[np.ndarray[Any, Any]], float],
        off: Callable[[np.ndarray[Any, Any]], float],
        starts: Sequence[np.ndarray[Any, Any]],
    ) -> list[np.ndarray[Any, Any]]:
        """Where SLSQP comes to from the present setting, from the `starts` and some others, with all checks holding."""
        from scipy.optimize import minimize

        lines = list(self.read(self.present()).margins)

        def margins(shares: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
            read = self.read(self.free_at(shares)).margins
            return np.array([read[line] for line in lines])

        constraints: list[Any] = [{"type": "eq", "fun": off}]
        if lines:
            constraints.append({"type": "ineq", "fun": margins})
        generator = np.random.default_rng(1)
        others = generator.random((5, len(self.moved)))
        found = []
        for start in (self.start, *starts, *others):
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

    def _settled(
        self,
        shares: np.ndarray[Any, Any],
        goal: float,
        change: Callable[[np.ndarray[Any, Any]], float],
    ) -> tuple[Any, ...] | None:
        """The best setting on the steps around a place: each figure to the step below or above, and an
        input without steps then made to fit."""
        options = [steps_around(axis, float(u)) for axis, u in zip(self.moved, shares, strict=True)]
        rows = list(itertools.islice(itertools.product(*options), 1024))
        loose = [at for at, axis in enumerate(self.moved) if not axis.choices and axis.step <= 0]
        rows += [fitted for row in rows[:64] for at in loose[:3] for fitted in self._fitted(row, at, goal)]  # fmt: skip
        known = [row for row in rows if self.read(row).value is not None]
        return min(known, key=lambda row: self._rank(row, goal, change)) if known else None

    def _each_alone(self, goal: float) -> list[tuple[Any, ...]]:
        """Settings in which one input alone is moved until the goal is reached."""
        rows = [row for at in range(len(self.moved)) for row in self._fitted(self.present(), at, goal)]  # fmt: skip
        return [row for row in rows if self.is_goal(self.read(row).value, goal)]

    def _fitted(self, row: tuple[Any, ...], at: int, goal: float) -> Iterator[tuple[Any, ...]]:
        """The setting with one input moved until the goal is reached: where it is, and where it is passed, the nearest
        to where that input stands."""
        axis, here = self.moved[at], self.moved[at].share_of(row[at])
        places = sorted({row[at], *axis.evenly(_TRIED)}) if not axis.choices else list(axis.choices)
        values = {place: self.read((*row[:at], place, *row[at + 1 :])).value for place in places}
        reached = [place for place in places if self.is_goal(values[place], goal)]
        if not axis.choices:
            for low, high in itertools.pairwise(places):
                a, b = values[low], values[high]
                if a is not None and b is not None and (a < goal) != (b < goal):
                    reached += self._passed((*row[:at], low, *row[at + 1 :]), at, high, goal)
        for place in sorted(reached, key=lambda one: abs(axis.share_of(one) - here))[:2]:
            yield (*row[:at], place, *row[at + 1 :])

    def _passed(self, row: tuple[Any, ...], at: int, high: float, goal: float) -> tuple[float, ...]:
        """The two places, next to each other, between which one input passes the goal, halved until they are."""
        below = (self.read(row).value or 0.0) < goal

        def before(place: float) -> bool:
            reached = self.read((*row[:at], place, *row[at + 1 :])).value
            return reached is not None and (reached < goal) == below

        return parted(self.moved[at], float(row[at]), high, before)

    def _nearer(self, row: tuple[Any, ...], goal: float) -> tuple[Any, ...]:
        """A setting that reaches the goal, each figure moved back towards where it stands while that stays so: where the
        value keeps to it on a stretch, as behind a rounding."""
        if not self._serves(row, goal):
            return row
        for at, axis in enumerate(self.moved):
            if not axis.choices:
                row = self._moved_back(row, at, goal)
        return row

    def _moved_back(self, row: tuple[Any, ...], at: int, goal: float) -> tuple[Any, ...]:
        axis, far = self.moved[at], row[at]

        def moved(to: float) -> tuple[Any, ...]:
            return (*row[:at], to, *row[at + 1 :])

        near = axis.present
        if self._serves(moved(near), goal):
            return moved(near)
        little = axis.nearest(far + (axis.step or 1e-4 * abs(near - far)) * (1 if near > far else -1))  # fmt: skip
        if little == far or not self._serves(moved(little), goal):
            return row
        return moved(parted(axis, far, near, lambda to: self._serves(moved(to), goal))[0])

    def _serves(self, row: tuple[Any, ...], goal: float) -> bool:
        """Whether a setting reaches the goal and all checks hold."""
        reading = self.read(row)
        return self.is_goal(reading.value, goal) and not reading.failing

    def _rank(
        self, row: Sequence[Any], goal: float, change: Callable[[np.ndarray[Any, Any]], float]
    ) -> tuple[Any, ...]:
        reading = self.read(row)
        assert reading.value is not None
        exact = self.is_goal(reading.value, goal)
        off = 0.0 if exact else abs(reading.value - goal)
        return (len(reading.failing) > 0, off, change(self.shares(row)))
