"""Settings for all tests."""

import pytest
from hypothesis import settings

from ovolo.geometry.tolerance import CHORD_TOLERANCE, set_chord_tolerance

# No time limit for an example, for machines are slow at times; the same examples each run.
settings.register_profile("ovolo", deadline=None, derandomize=True)
settings.load_profile("ovolo")


@pytest.fixture(autouse=True)
def usual_tolerance() -> None:
    """A study leaves its tolerance behind for what is drawn of it; each test begins afresh."""
    set_chord_tolerance(CHORD_TOLERANCE)
