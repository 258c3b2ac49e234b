"""As small or as large as possible while the checks hold, and what stands in the way of more."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np

from ovolo.exploring.aim_evolving import Evolving
from ovolo.exploring.aim_readings import Aim, steps_around


class Extreme(Evolving):
    """An aim at the least or the greatest value."""

    def aim(self, sign: float, goal: str) -> Aim:
        """The least (sign 1) or greatest (-1) value while the checks hold."""
        best = self._best(sign)
        if best is None:
            return Aim(goal, [], self.why_nothing([self.present()[0]]))
        found = self.found(best, None)
        if found.failing:
            return Aim(
                goal, [found], "no setting was found in which every check holds", found.failing
            )
        return Aim(goal, [found], "", self._binding(best, sign))

    def _best(self, sign: float) -> tuple[Any, ...] | None:
        counts = [axis.count for axis in self.moved]
        if all(count is not None for count in counts) and np.prod([c or 1 for c in counts]) <= 4000:
            rows = list(itertools.product(*(self.places(axis) for axis in self.moved)))
        else:
            rows = self._candidates(sign)
        known = [row for row in rows if self.read(row).value is not None]
        if not known:
            return None

        def rank(row: tuple[Any, ...]) -> tuple[Any, ...]:
            reading = self.read(row)
            assert reading.value is not None
            return (len(reading.failing), sign * reading.value, float(np.sum((self.shares(row) - self.start) ** 2)))  # fmt: skip

        return min(known, key=rank)

    def _candidates(self, sign: float) -> list[tuple[Any, ...]]:
        scale = max(abs(self.read(self.present()).value or 0.0), 1e-9)

        def cost(shares: np.ndarray[Any, Any]) -> float:
            value = self.read(self.values_at(shares)).value
            return sign * value / scale if value is not None else 1e6

        evolved = self.evolved(cost, 1e3)
        rows = [self.values_at(evolved), self.present()]
        rows += [self.values_at(one) for one in self._polished(sign, scale, evolved)]
        rows += itertools.islice(itertools.product(*(axis.evenly(2) for axis in self.moved)), 64)
        around = [steps_around(axis, float(u)) for axis, u in zip(self.moved, evolved, strict=True)]
        return [*rows, *itertools.islice(itertools.product(*around), 1024)]

    def _polished(
        self, sign: float, scale: float, start: np.ndarray[Any, Any]
    ) -> list[np.ndarray[Any, Any]]:
        from scipy.optimize import minimize

        lines = list(self.read(self.present()).margins)

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
