"""Aiming with several inputs: the least change, in shares of their ranges, while all checks hold."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from msgspec.structs import replace

from ovolo.exploring.aim_evolving import Evolving
from ovolo.exploring.aim_readings import Aim, Found, steps_around


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

        candidates = self._descents(change, off) or [self.evolved(lambda u: abs(off(u)) + 0.01 * change(u))]  # fmt: skip
        settled = [self._settled(one, goal, change) for one in candidates]
        known = [one for one in settled if one is not None]
        if not known:
            return Aim(self.said(goal), [], self.why_nothing([self.present()[0]]))
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
            return "no setting reaches it while every check holds"
        stepped = any(axis.step > 0 or axis.choices for axis in self.moved)
        return "no setting on the steps of these inputs gives it exactly" if stepped else "no setting of these inputs gives it"  # fmt: skip

    def _descents(
        self,
        change: Callable[[np.ndarray[Any, Any]], float],
        off: Callable[[np.ndarray[Any, Any]], float],
    ) -> list[np.ndarray[Any, Any]]:
        """Where SLSQP comes to from the present setting and some others, with all checks holding."""
        from scipy.optimize import minimize

        lines = list(self.read(self.present()).margins)

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
        return (len(reading.failing) > 0, off, change(self.shares(row)))
