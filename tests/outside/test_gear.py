"""The dome drive gear against ISO 53 / ISO 21771, measured on the drawn outline."""

import math
from typing import Any

import numpy as np
import pytest

from ovolo.geometry.curves.corners import meetings
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import straight
from ovolo.outcome.outcome import Outcome
from tests.sheets import demo_outcome


def gear(**settings: float) -> Outcome:
    outcome = demo_outcome("drive-gear", settings)
    assert outcome.well, [str(problem) for problem in outcome.problems]
    return outcome


def found(outcome: Outcome, name: str) -> Any:
    return next(line.value for line in outcome.lines if line.line.name == name)


def base_tangent(outcome: Outcome, teeth: int) -> float:
    """Over an odd number of teeth, about the one on the x axis: the tangent of the base circle
    there meets the outer flanks at both ends."""
    outline: Curve = found(outcome, "outline")
    x = found(outcome, "base_radius")
    half = found(outcome, "pitch_radius") * math.sin(
        (teeth + 0.5) * math.pi / found(outcome, "teeth")
    )
    line = straight(np.array([x, 0.0, 0.0]), np.array([x, half, 0.0]))
    places = sorted(float(point[1]) for point in meetings(line, outline))
    return 2 * places[-1]


def test_the_base_tangent_length() -> None:
    """W over 3 teeth of z = 20, m = 1: 7.6604 (a figure recomputed from
    W = m cos α (π (k - 0.5) + z inv α), ISO 21771)."""
    outcome = gear(modulus=1.0, teeth=20.0, bore=8.0)
    assert base_tangent(outcome, 3) == pytest.approx(7.6604, abs=5e-5)


@pytest.mark.parametrize(
    ("m", "z", "alpha", "k"), [(4.0, 24.0, 20.0, 3), (2.0, 30.0, 25.0, 5), (5.0, 18.0, 20.0, 3)]
)
def test_other_teeth_by_the_formula(m: float, z: float, alpha: float, k: int) -> None:
    angle = math.radians(alpha)
    outcome = gear(modulus=m, teeth=z, pressure_angle=angle, bore=10.0)
    wanted = m * math.cos(angle) * (math.pi * (k - 0.5) + z * (math.tan(angle) - angle))
    assert base_tangent(outcome, k) == pytest.approx(wanted, rel=1e-7)


def test_diameters_and_the_involute_function() -> None:
    """d = m z, base diameter d cos 20°, tip d + 2 m, root d - 2.5 m (ISO 53); inv 20° = 0.0149044."""
    outcome = gear()
    assert found(outcome, "pitch_radius") == 48 and found(outcome, "tip_radius") == 52
    assert found(outcome, "root_radius") == 43
    assert found(outcome, "base_radius") == pytest.approx(48 * math.cos(math.radians(20)))
    inv = found(outcome, "half_tooth") - math.pi / 2 / 24
    assert inv == pytest.approx(0.0149044, abs=5e-8)
    low, high = found(outcome, "outline").bounds()
    assert high[0] == pytest.approx(52), "a tooth stands on the x axis"
    assert low[2] == high[2] == 0


def test_the_root_fillets_are_tangent() -> None:
    half: Curve = found(gear(), "rounded_half")
    for before, after in zip(half.pieces[:2], half.pieces[1:3], strict=True):
        a, b = before.slope(1.0), after.slope(0.0)
        turn = np.linalg.norm(np.cross(a, b)) / (np.linalg.norm(a) * np.linalg.norm(b))
        assert turn <= 1e-9


def test_the_outline_is_one_closed_curve_of_all_teeth() -> None:
    outcome = gear(teeth=17.0)
    outline: Curve = found(outcome, "outline")
    assert outline.closed
    tips = [piece for piece in outline.pieces if abs(np.linalg.norm(piece.start) - found(outcome, "tip_radius")) < 1e-6]  # fmt: skip
    assert len(tips) >= 17
    assert outcome.parts["gear"].closed
