"""`next_up` against the pipe sizes of ASME B36.10M as the package `fluids` carries them."""

import pytest
from fluids.piping import nearest_pipe

from ovolo.formats.attached import read_files
from ovolo.outcome.outcome import outcome_of

_SCHEDULE = "40"


def _sizes() -> list[tuple[float, float]]:
    """Nominal size in inches and inside diameter in mm, found from the package size by size."""
    nominal = [0.125, 0.25, 0.375, 0.5, 0.75, 1, 1.25, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10, 12]
    return [(n, nearest_pipe(NPS=n, schedule=_SCHEDULE)[1] * 1000) for n in nominal]


@pytest.mark.parametrize("wanted", [5.0, 15.0, 21.0, 40.0, 52.0, 77.9, 100.0, 150.0, 250.0])
def test_the_next_pipe_by_inside_diameter(wanted: float) -> None:
    rows = "\n".join(f"{nominal},{inside!r}" for nominal, inside in _sizes())
    tables = read_files({"pipes.csv": f"nps,inside [mm]\n{rows}\n".encode()})
    outcome = outcome_of(
        f'file pipes = "pipes.csv"\np = next_up(pipes, "inside", {wanted} mm).nps', tables=tables
    )
    theirs = nearest_pipe(Di=wanted / 1000, schedule=_SCHEDULE)[0]
    assert outcome.as_json()["values"]["p"]["value"] == theirs
