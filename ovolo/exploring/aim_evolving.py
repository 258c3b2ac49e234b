"""Several inputs moved at once: where differential evolution comes to on their steps."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from ovolo.exploring.aim_readings import Readings


class Evolving(Readings):
    """An aim that looks everywhere, failing checks counted against a place."""

    def evolved(
        self, cost: Callable[[np.ndarray[Any, Any]], float], penalty: float = 10.0
    ) -> np.ndarray[Any, Any]:
        """The best place that differential evolution finds on the steps, failing checks counted against it."""
        from scipy.optimize import differential_evolution

        def whole(shares: np.ndarray[Any, Any]) -> float:
            reading = self.read(self.values_at(shares))
            if reading.value is None:
                return 1e6
            fails = sum(margin < 0 for margin in reading.margins.values())
            return cost(self.shares(self.values_at(shares))) + penalty * (reading.shortfall + 0.1 * fails)  # fmt: skip

        with np.errstate(all="ignore"):
            made = differential_evolution(
                whole, [(0.0, 1.0)] * len(self.moved), rng=np.random.default_rng(1), popsize=12,
                maxiter=60, tol=1e-10, polish=False, x0=np.clip(self.start, 0, 1), init="sobol",
            )  # fmt: skip
        return np.asarray(made.x)
