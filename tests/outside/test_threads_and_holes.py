"""Screw threads and clearance holes.

ISO 724, M10 x 1.5: pitch diameter d - 0.64952 P = 9.026, minor d - 1.08253 P = 8.376.
ISO 273, medium clearance holes: M6 6.6, M8 9, M10 11, M12 13.5. Both recalled from memory.
"""

import pytest

from ovolo.formats.attached import read_files
from ovolo.outcome.outcome import outcome_of
from tests.sheets import value

ISO_273 = b"size,medium [mm]\nM6,6.6\nM8,9\nM10,11\nM12,13.5\n"


def test_iso_724_from_the_thread_triangle() -> None:
    """H = √3/2 P; pitch diameter d - 2 · 3/8 H; minor diameter d - 2 · 5/8 H."""
    lines = ("d = 10 mm", "pitch = 1.5 mm", "h = sqrt(3) / 2 * pitch")
    assert value("d - 2 * 3/8 * h", *lines) == pytest.approx(9.026, abs=5e-4)
    assert value("d - 2 * 5/8 * h", *lines) == pytest.approx(8.376, abs=5e-4)


def test_iso_273_through_a_table() -> None:
    text = 'file holes = "iso273.csv"\nxs = [lookup(holes, "medium", size = s) for s in ["M6", "M8", "M10", "M12"]]\nn = next_up(holes, "medium", 9.2 mm).size'
    outcome = outcome_of(text, tables=read_files({"iso273.csv": ISO_273}))
    values = outcome.as_json()["values"]
    assert values["xs"]["value"] == [6.6, 9, 11, 13.5] and values["n"]["value"] == "M10"
