"""The setting-outs of the demonstration against plane geometry and the rule for triangles on a base."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ovolo.outcome.schedule import schedule
from tests.sheets import demo_outcome


def test_the_walks_of_the_garden_are_as_long_as_their_ways() -> None:
    """Distances and the turn by Pythagoras and the law of cosines; boards laid on them keep to the boards'
    module of 101 mm (95 mm and a gap of 6 mm) and 151 mm."""
    outcome = demo_outcome("science-garden")
    values = {n: v["value"] for n, v in outcome.as_json()["values"].items()}
    first, second = math.hypot(7200, 3400), math.hypot(14_000 - 7200, 1600 - 3400)
    assert (values["first"], values["second"]) == pytest.approx((first, second))
    assert values["way"] == pytest.approx(first + second)
    back, on = math.atan2(-3400, -7200), math.atan2(1600 - 3400, 14_000 - 7200)
    turn = abs(math.degrees(back - on)) % 360
    assert values["turn_at_gate"] == pytest.approx(min(turn, 360 - turn))
    counts = {n: part.count for n, part in outcome.parts.items()}
    boards = math.floor((first + 6) / 101)
    assert counts["first_leg"] >= boards and counts["forecourt"] == 91


def test_a_walk_is_laid_along_its_way() -> None:
    """Its pieces lie between the two lines beside the way, half its width off, and reach from end to end."""
    outcome = demo_outcome("science-garden")
    way = np.array([7200.0, 3400.0])
    along = way / np.linalg.norm(way)
    across = np.array([-along[1], along[0]])
    corners = np.concatenate([mesh.corners[:, :2] for mesh in outcome.parts["first_leg"].meshes()])
    assert np.abs(corners @ across).max() <= 600 + 1e-6
    reach = corners @ along
    assert reach.min() == pytest.approx(0, abs=1) and reach.max() == pytest.approx(
        np.linalg.norm(way), abs=1
    )


@pytest.mark.parametrize(("span", "a", "b"), [(4800, 30, 30), (4800, 15, 55), (9000, 60, 10)])
def test_the_triangle_of_a_frame(span: float, a: float, b: float) -> None:
    """On a base L with angles A and B a triangle is L tan A tan B / (tan A + tan B) high (common practice;
    no source); its sides are L sin B / sin(A + B) and L sin A / sin(A + B) (law of sines)."""
    text = "22-roof-frame"
    ra, rb = math.radians(a), math.radians(b)
    outcome = demo_outcome(text, {"span": float(span), "pitch_a": ra, "pitch_b": rb})
    values = {n: v["value"] for n, v in outcome.as_json()["values"].items()}
    high = span * math.tan(ra) * math.tan(rb) / (math.tan(ra) + math.tan(rb))
    assert values["ridge_high"] == pytest.approx(high)
    assert values["rafter_a"] == pytest.approx(span * math.sin(rb) / math.sin(ra + rb))
    assert values["rafter_b"] == pytest.approx(span * math.sin(ra) / math.sin(ra + rb))
    # each bar is its length by 60 mm by its depth (volume of a box)
    volume = sum(part.as_json()["volume"] for n, part in outcome.parts.items() if n == "rafters")
    assert volume == pytest.approx((values["rafter_a"] + values["rafter_b"]) * 60 * 140, rel=1e-9)


def test_the_ridge_of_the_roof_is_level_and_its_masses_add_up() -> None:
    outcome = demo_outcome("lecture-room-roof")
    frames = outcome.parts["frames"]
    assert frames.count == 7 * (1 + 2 + 3)
    mass = 0.0
    for i in range(7):
        span = 7200 + (4200 - 7200) * i / 6
        pitch = math.atan(1800 / (span / 2))
        one = demo_outcome("22-roof-frame", {"span": span, "pitch_a": pitch, "pitch_b": pitch})
        assert one.as_json()["values"]["ridge_high"]["value"] == pytest.approx(1800)
        mass += sum(part.mass or 0.0 for part in one.parts.values())
    assert frames.mass == pytest.approx(mass)
    rows = schedule([frames])
    assert sum(row.quantity for row in rows) == frames.count
