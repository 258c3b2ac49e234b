"""The fin's section against the published ordinates of four-digit wing sections."""

import pytest

from ovolo.outcome.outcome import outcome_of
from tests.sheets import demo

# Half-thickness in % of the chord of the 12 % section, at 10, 20 … 90 % (Abbott and von Doenhoff,
# Theory of Wing Sections; from memory).
ORDINATES = [4.683, 5.738, 6.002, 5.803, 5.294, 4.563, 3.664, 2.623, 1.448]


@pytest.mark.parametrize(("tenth", "percent"), list(enumerate(ORDINATES, start=1)))
def test_the_drawn_outline_has_the_published_thickness(tenth: int, percent: float) -> None:
    """Measured on the spline of the section, not taken from the formula."""
    text = demo("wind-vane") + (
        f"\nhere = first(meet(line(({tenth} * chord / 10, 0 mm), ({tenth} * chord / 10, chord)), side)).y"
    )
    outcome = outcome_of(text)
    assert outcome.well, [str(problem) for problem in outcome.problems]
    here = float(outcome.lines[-1].value)
    assert here / 420 * 100 == pytest.approx(percent, abs=0.0015)
