"""What is measured of trials, aims and proofs. Where there is nothing to write by hand, what stands on the
other side is said in the title."""

from __future__ import annotations

import itertools
import math
import os
from pathlib import Path

import numpy as np
from distributed import LocalCluster
from scipy.optimize import brentq

from bench.row import Pair, Row
from ovolo.exploring.aim import aimed
from ovolo.exploring.carriers import Carrier, Cluster, Processes, carried
from ovolo.exploring.proof import proved
from ovolo.exploring.runs import piece, plan_of, run
from ovolo.formats.attached import everything_named, folder_shelf
from studio.engine.explore import small_picture

_FOLDER = Path(__file__).parents[1] / "demo" / "quillmere"
_TEXT = (_FOLDER / "01-spiral-stair.ovo").read_text(encoding="utf-8")
_FILES = everything_named(_TEXT, folder_shelf(_FOLDER))
_ASKED = {"kind": "roll", "number": 1_000, "roll": 1}
_CORES = os.cpu_count() or 1
_PICTURES = 100

_carriers: list[Carrier] = []
_clusters: list[LocalCluster] = []


def _pool() -> Carrier:
    carrier = Processes(_CORES)
    _carriers.append(carrier)
    list(run(_TEXT, _FILES, {**_ASKED, "number": 200}, carrier))  # its workers are there
    return carrier


def _thousand() -> Pair:
    """1,000 trials by worker processes; one after another here, by the number of cores."""
    carrier = _pool()
    share = 1_000 // _CORES
    return (
        lambda: list(run(_TEXT, _FILES, _ASKED, carrier)),
        lambda: piece(_TEXT, _FILES, _ASKED, {}, range(share), False),
    )


def _on_dask() -> Pair:
    """1,000 trials on a dask cluster of this machine; by worker processes."""
    made = LocalCluster(
        n_workers=_CORES, threads_per_worker=1, host="127.0.0.1", dashboard_address=None
    )
    _clusters.append(made)
    cluster, carrier = Cluster(made.scheduler_address), _pool()
    _carriers.append(cluster)
    list(run(_TEXT, _FILES, {**_ASKED, "number": 200}, cluster))
    return (
        lambda: list(run(_TEXT, _FILES, _ASKED, cluster)),
        lambda: list(run(_TEXT, _FILES, _ASKED, carrier)),
    )


def _pictures() -> Pair:
    """The small pictures of some trials by worker processes; one after another here, by the number of
    cores. None is of a setting that was seen before."""
    carrier, share = _pool(), _PICTURES // _CORES
    going = itertools.count()

    def settings(count: int) -> list[dict[str, float]]:
        return [{"floor_height": 2_400.0 + next(going) / 10} for _ in range(count)]

    def pooled() -> object:
        work = [(_TEXT, _FILES, present, ()) for present in settings(_PICTURES)]
        return list(carried(carrier, small_picture, work))

    return pooled, lambda: [small_picture(_TEXT, _FILES, one, ()) for one in settings(share)]


def _prove() -> Pair:
    """The checks of the stair proved for all values; two of them looked through with NumPy."""
    program, _ = plan_of(_TEXT, _FILES, {"kind": "limits"}, {})

    def by_hand() -> object:
        steps = itertools.product(np.arange(200, 321, 5), np.arange(700, 1201, 10))
        height = np.arange(2400, 4201, 5)
        rise = height / np.ceil(height / 190)
        return [((2 * rise + g <= 700).all(), (rise <= 220).all()) for g, _ in steps]

    return lambda: proved(program), by_hand


def _aim() -> Pair:
    """The going for a pitch of 38°; Brent's method on the formula itself."""
    program, _ = plan_of(_TEXT, _FILES, {"kind": "limits"}, {})
    return (
        lambda: aimed(program, "pitch", math.radians(38), ["going"]),
        lambda: brentq(lambda g: math.atan(180 / g) - math.radians(38), 200, 320),
    )


def end() -> None:
    """Ends the workers that were begun."""
    for carrier in _carriers:
        carrier.stop()
    for cluster in _clusters:
        cluster.close()


ROWS = [
    Row(
        "1,000 trials of the stair, by one after another / cores",
        "at most 1.15",
        _thousand,
        rounds=3,
    ),
    Row(
        "1,000 trials of the stair on dask, by worker processes", "at most 1.3", _on_dask, rounds=3
    ),
    Row(
        "100 small pictures of the stair, by one after another / cores",
        "at most 2",
        _pictures,
        rounds=3,
    ),
    Row("the stair's checks proved, by looking through two", "under 2 s", _prove, rounds=3),
    Row("an aim with one input, by Brent on its formula", "under 1 s", _aim, rounds=3),
]
