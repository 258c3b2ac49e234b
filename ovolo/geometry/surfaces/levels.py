"""How high a surface lies over a place in plan."""

from __future__ import annotations

import numpy as np

from ovolo.geometry.same import ROUNDING, SAME_PLACE
from ovolo.geometry.surfaces.surface import Surface
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import plane_product
from ovolo.problems import Failure

_SLACK = 0.05
"""By what share of a patch a place may lie outside of it and still be looked for from there."""

_STEPS = 30


def level_over(surface: Surface, x: float, y: float) -> float:
    """The z (mm) of the surface straight above or below (x, y); of several the highest. The place is
    found by Newton's method from the patches that lie there (Press et al., Numerical Recipes, 3rd
    ed., 9.6), so it is that of the surface itself, not of its patches. Raises Failure where the surface
    does not reach there.

    >>> from ovolo.geometry.surfaces.surface import by_function
    >>> slope = by_function(lambda u, v: (1000 * u, 500 * v, 200 * u))
    >>> round(level_over(slope, 250.0, 100.0), 9)
    50.0
    """
    place = np.array([x, y])
    size = max(float(np.ptp(surface.grid.reshape(-1, 3), axis=0).max()), ROUNDING)
    found = [
        level
        for u, v in _begins(surface, place)
        if (level := _from(surface, place, u, v, size)) is not None
    ]
    if not found:
        raise Failure(
            f"the surface does not reach over ({x:.6g} mm, {y:.6g} mm)",
            "choose a place within its outline in plan",
        )
    return max(found)


def _begins(surface: Surface, place: Points) -> list[tuple[float, float]]:
    """The middles, in u and v, of the patches that lie over a place in plan, or nearly."""
    flat = surface.grid[..., :2]
    corners = np.stack([flat[:-1, :-1], flat[1:, :-1], flat[1:, 1:], flat[:-1, 1:]])
    low, high = corners.min(axis=0), corners.max(axis=0)
    slack = _SLACK * (high - low) + SAME_PLACE
    over = np.all((place >= low - slack) & (place <= high + slack), axis=-1)
    n, m = over.shape
    return [((row + 0.5) / n, (column + 0.5) / m) for row, column in np.argwhere(over)]


def _from(surface: Surface, place: Points, u: float, v: float, size: float) -> float | None:
    """The level found from a begin; None where it leads to none."""
    for _ in range(_STEPS):
        at = surface.at(u, v)[0]
        off = place - at[:2]
        if np.abs(off).max() <= 1e-12 * size:
            break
        along, across = (one[0, :2] for one in surface.slopes_at(np.array([u]), np.array([v])))
        turn = float(plane_product(along, across))
        if abs(turn) <= ROUNDING * size * size:
            return None  # it stands upright there
        u = min(max(u + float(plane_product(off, across)) / turn, 0.0), 1.0)
        v = min(max(v + float(plane_product(along, off)) / turn, 0.0), 1.0)
    at = surface.at(u, v)[0]
    return float(at[2]) if np.abs(place - at[:2]).max() <= max(SAME_PLACE, 1e-9 * size) else None
