"""Aiming: which values of the inputs make a value what is wanted, or as small or large as it can be.

One input is tried along its whole range, and roots between two tries are found by Brent's method (SciPy;
Brent, Algorithms for minimization without derivatives, 1973, chapter 4). Several move as little as they
can, in shares of their ranges, while all checks hold (SciPy's SLSQP: Kraft, A software package for
sequential quadratic programming, 1988; where that finds nothing, differential evolution: Storn and
Price, 1997, seeded).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ovolo.exploring.aim_along import Along
from ovolo.exploring.aim_extreme import Extreme
from ovolo.exploring.aim_readings import LEAST, MOST, MOST_MOVED, Aim
from ovolo.exploring.aim_together import Together
from ovolo.exploring.axes import Axis, axes_of, axis_of
from ovolo.exploring.probe import Probe, figure_line
from ovolo.meaning.program import Program
from ovolo.problems import Failure
from ovolo.quantities.kinds import Quantity
from ovolo.quantities.typed import read_quantity


def goal_said(program: Program, name: str, said: str) -> float | str:
    """The goal for the line `name` as a person says it: a figure with its unit, `least` or `most`. Raises
    Failure where it is none."""
    kind = figure_line(program, name).kind
    assert isinstance(kind, Quantity)
    extreme = {"least": LEAST, "most": MOST}.get(said.strip())
    return extreme or read_quantity(said, kind.dimension, program.units, f"`{name}`")


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
    if isinstance(goal, str):
        return Extreme(probe, moved).aim(1.0 if goal == LEAST else -1.0, goal)
    if len(moved) == 1:
        return Along(probe, moved, goal).aim()
    return Together(probe, moved).aim(goal)


def _refuse_deaf(program: Program, name: str, moved: list[Axis]) -> None:
    """Raises Failure where none of the inputs moves the value."""
    for axis in moved:
        if any(one.name == name for one in program.downstream(frozenset([axis.name]))):
            return
    said = ", ".join(f"`{axis.name}`" for axis in moved)
    raise Failure(f"{said} does not move `{name}`", "*Reach* tells which inputs do")
