"""Solids joined at random, against the formulas of what they are joined of: a point lies in a sum where it lies in one of
them, in a difference where it lies in the first alone. (Formulas of a box, a cylinder, a cone, a ball and a tube.)"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from random import Random
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from ovolo.outcome.outcome import outcome_of

Floats = NDArray[np.float64]
Within = Callable[[Floats], NDArray[np.bool_]]
"""Which places, given as columns (3, n), lie within."""

TOLERANCE = 0.2
SIZES = [4, 5, 6, 8, 10, 12, 15, 20]


@dataclass
class Body:
    text: str
    within: Within
    round: bool = False

    def placed(self, text: str, matrix: Floats) -> Body:
        back = np.linalg.inv(matrix)
        return Body(text, lambda p: self.within(back[:3, :3] @ p + back[:3, 3:]), self.round)


def one(random: Random, flat: bool) -> Body:
    a, b, c = (random.choice(SIZES) for _ in range(3))
    kinds = [
        Body(f"box({a} mm, {b} mm, {c} mm)", lambda p: (abs(p[0]) <= a / 2) & (abs(p[1]) <= b / 2) & _between(p, c)),
        Body(f"cylinder({a} mm, {b} mm)", lambda p: (np.hypot(p[0], p[1]) <= a) & _between(p, b), True),
        Body(f"cone({a} mm, {b} mm)", lambda p: (np.hypot(p[0], p[1]) <= a * (1 - p[2] / b)) & _between(p, b), True),
        Body(f"sphere({a} mm)", lambda p: np.linalg.norm(p, axis=0) <= a, True),
        Body(
            f"revolve(rect({a} mm, {b} mm).move({a / 2 + c} mm, 0 mm))",
            lambda p: (abs(np.hypot(p[0], p[1]) - a / 2 - c) <= a / 2) & (abs(p[2]) <= b / 2), True,
        ),
    ]  # fmt: skip
    body = kinds[0] if flat else random.choice(kinds)
    for _ in range(random.choice([1, 2, 3])):
        body = body.placed(*_placing(random, body.text))
    return body


def _between(p: Floats, height: float) -> NDArray[np.bool_]:
    return (p[2] >= 0) & (p[2] <= height)


def _placing(random: Random, text: str) -> tuple[str, Floats]:
    matrix = np.eye(4)
    axis = random.choice("xyz")
    at = "xyz".index(axis)
    way = random.choice(["turn", "turn", "move", "move", "move", "mirror", "scale"])
    if way == "turn":
        angle = random.choice([90, 180, 45, 30, 17])
        cosine, sine = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        rows = np.ix_([(at + 1) % 3, (at + 2) % 3], [(at + 1) % 3, (at + 2) % 3])
        matrix[rows] = [[cosine, -sine], [sine, cosine]]
        return f"{text}.turn({angle}°, {axis})", matrix
    if way == "move":
        matrix[:3, 3] = by = [random.choice([0, 1, 2, 5, -5, 10, -10, 3.3]) for _ in range(3)]
        return f"{text}.move({by[0]} mm, {by[1]} mm, {by[2]} mm)", matrix
    if way == "mirror":
        matrix[at, at] = -1
        return f"mirror({text}, {axis})", matrix
    factor = random.choice([0.5, 1.5, 2.0])
    return f"{text}.scale({factor})", np.diag([factor, factor, factor, 1.0])


def joined(random: Random, flat: bool) -> Body:
    whole = one(random, flat)
    for _ in range(random.choice([0, 1, 1, 2])):
        whole = _joined(random.choice("+-&"), whole, one(random, flat))
    return whole


def _joined(operator: str, a: Body, b: Body) -> Body:
    within: Within = {
        "+": lambda p: a.within(p) | b.within(p),
        "-": lambda p: a.within(p) & ~b.within(p),
        "&": lambda p: a.within(p) & b.within(p),
    }[operator]
    return Body(f"({a.text}) {operator} ({b.text})", within, a.round or b.round)


def clear(within: Within, places: Floats) -> NDArray[np.bool_]:
    """Which places are so far from any face that chords make no difference."""
    ways = np.array(np.meshgrid(*[[-1, 0, 1]] * 3)).reshape(3, -1, 1) * 3 * TOLERANCE
    around = within((places[:, None] + ways).reshape(3, -1)).reshape(-1, places.shape[1])
    clear: NDArray[np.bool_] = np.all(around == within(places), axis=0)
    return clear


def measured(a: Body, b: Body, places: Floats) -> tuple[dict[str, Any], dict[str, float]]:
    """What the lines are, and within what share they are told; 0 for the volume of nothing."""
    points = ", ".join("({} mm, {} mm, {} mm)".format(*place) for place in places.T)
    found = outcome_of(f"""tolerance {TOLERANCE} mm
a = {a.text}
b = {b.text}
insides = [inside(p, a) for p in [{points}]]
va = volume(a)
vb = volume(b)
both = volume(a & b)
either = volume(a + b)
rest = volume(a - b)
shared = clash(a, b)
far = clearance(a, b)
back = clearance(b, a)
""")
    assert all(
        "nothing" in problem.message or "waits for" in problem.message for problem in found.problems
    ), [problem.message for problem in found.problems]
    lines = {line.line.name: line for line in found.lines if line.line.name}
    values = {
        name: line.result.value if line.has_value and line.result else 0.0
        for name, line in lines.items()
    }
    shares = {
        name: line.result.within if line.has_value and line.result and line.result.within else 0.0
        for name, line in lines.items()
    }
    return values, shares


@pytest.mark.parametrize("flat", [True, False], ids=["boxes", "with round ones"])
@pytest.mark.parametrize("seed", range(11))
def test_what_is_joined_at_random_is_what_its_parts_say(seed: int, flat: bool) -> None:
    random = Random(seed)
    a, b = joined(random, flat), joined(random, flat)
    places = np.round(np.random.default_rng(seed).uniform(-25, 25, (3, 40)), 3)
    values, shares = measured(a, b, places)
    if values["va"]:
        sure = clear(a.within, places)
        assert np.array_equal(np.array(values["insides"])[sure], a.within(places)[sure])
    volume = {
        name: float(values[name]) for name in ("va", "vb", "both", "either", "rest", "shared")
    }
    if volume["va"] == 0 or volume["vb"] == 0:
        return
    slack = 1e-9 * (volume["va"] + volume["vb"]) + 2 * sum(
        shares[name] * volume[name] for name in volume
    )
    assert abs(volume["both"] + volume["either"] - volume["va"] - volume["vb"]) <= slack
    assert abs(volume["rest"] + volume["both"] - volume["va"]) <= slack
    assert abs(volume["shared"] - volume["both"]) <= slack
    assert values["far"] == pytest.approx(values["back"], rel=1e-9 + 3 * shares["far"], abs=1e-6)
    assert values["far"] == 0 or volume["both"] == 0
    if not (a.round or b.round):
        assert not any(shares.values()), "what is bounded by planes is exact"
    # Of very many places some thousandths of the cube lie within: its side is 80 mm.
    many = np.random.default_rng(seed).uniform(-40, 40, (3, 200_000))
    share = float((a.within(many) & b.within(many)).mean())
    assert abs(volume["both"] / 80**3 - share) <= 6 * math.sqrt(max(share, 1e-5) / 200_000) + 3e-4
