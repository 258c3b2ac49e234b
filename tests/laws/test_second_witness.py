"""Every solid that a word makes, and its booleans, as another library sees it: trimesh reads the same
triangles as watertight, rightly turned, and of the volume and the centre that are stated; and what
Monte Carlo finds within both agrees with the intersection (rays counted as in Möller and Trumbore)."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from ovolo.geometry.solids.booleans import combined
from ovolo.geometry.solids.solid import Solid
from tests.laws.arguments import THINGS, Call, calls
from tests.sheets import run
from tests.witness import inside

SOLIDS = [one for one in calls() if one.word.trade in ("solids", "surfaces")]
AS_IT_IS = ("g(x) = x", "h(v) = v")


def solids_of(call: Call, *more: str) -> list[Solid]:
    outcome = run(*THINGS, *AS_IT_IS, f"found = {call.formula}", *more)
    assert not outcome.problems, [str(problem) for problem in outcome.problems]
    value = outcome.lines[-1].value
    return [
        one for one in (value if isinstance(value, list) else [value]) if isinstance(one, Solid)
    ]


@pytest.mark.parametrize("call", SOLIDS, ids=str)
def test_trimesh_sees_the_same_solid(call: Call) -> None:
    for solid in solids_of(call):
        mesh = trimesh.Trimesh(solid.mesh.corners, solid.mesh.triangles, process=False)
        assert mesh.is_watertight and mesh.is_winding_consistent
        size = float(np.ptp(solid.bounds(), axis=0).max())
        share = 2e-3 if solid.within == 0 else max(2 * solid.within, 1e-9)
        assert mesh.volume == pytest.approx(solid.volume, rel=share)
        np.testing.assert_allclose(mesh.center_mass, solid.centroid, atol=2e-3 * size)
        np.testing.assert_allclose(mesh.bounds, solid.bounds(), atol=3e-3 * size)


@pytest.mark.parametrize("call", [one for one in SOLIDS if "g(" in one.formula], ids=str)
def test_points_within_both_are_those_of_the_intersection(call: Call) -> None:
    block = "box(25 mm, 22 mm, 18 mm).turn(31°, about = (1, 2, 3)).move(4 mm, 3 mm, 2 mm)"
    (first, *_) = solids_of(call) or [None]
    if first is None:
        pytest.skip("it makes no solid")
    other = run(f"b = {block}").lines[-1].value
    parts = {}
    for name, operator in (("union", "+"), ("rest", "-"), ("both", "&")):
        parts[name] = combined(operator, first, other)
    low, high = np.min([first.bounds()[0], other.bounds()[0]], axis=0), np.max([first.bounds()[1], other.bounds()[1]], axis=0)  # fmt: skip
    points = np.random.default_rng(7).uniform(low, high, (60, 3))
    a, b = inside(first, points), inside(other, points)
    wanted = {"union": a | b, "rest": a & ~b, "both": a & b}
    for name, solid in parts.items():
        found = np.zeros(len(points), dtype=bool) if solid.is_empty else inside(solid, points)
        # A point between a chord and its round face may fall either way.
        assert np.count_nonzero(found != wanted[name]) <= 1, name
