"""Trials on a dask cluster: bit for bit those of the worker processes."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from distributed import LocalCluster

from ovolo.exploring.carriers import Cluster, Processes, carried
from ovolo.exploring.runs import run
from ovolo.problems import Failure
from tests.exploring.test_trials import FILES, STAIR, _dies_once


@pytest.fixture(scope="module")
def cluster() -> Iterator[Any]:
    made = LocalCluster(
        n_workers=2, threads_per_worker=1, processes=True, host="127.0.0.1",
        dashboard_address=None, silence_logs=50,
    )  # fmt: skip
    yield made
    made.close()


@pytest.mark.filterwarnings("default")
def test_the_same_plan_gives_the_same_bits_on_both_carriers(cluster: Any) -> None:
    asked = {"kind": "roll", "number": 10, "roll": 12}
    found = []
    for carrier in (Cluster(cluster.scheduler_address), Processes(2)):
        try:
            found.append(list(run(STAIR, FILES, asked, carrier)))
        finally:
            carrier.stop()
    assert repr(found[0]) == repr(found[1]) and len(found[0]) == 10


@pytest.mark.filterwarnings("default")
def test_the_trials_of_a_lost_worker_are_made_again(cluster: Any, tmp_path: Any) -> None:
    carrier = Cluster(cluster.scheduler_address)
    try:
        work = [(str(tmp_path), n) for n in range(8)]
        assert list(carried(carrier, _dies_once, work)) == [n * n for n in range(8)]
    finally:
        carrier.stop()


@pytest.mark.filterwarnings("default")
@pytest.mark.parametrize("address", ["tcp://127.0.0.1:1", "nonsense"])
def test_a_cluster_that_is_not_there_is_told(address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ovolo.exploring.carriers._SECONDS_TO_ANSWER", 1)
    with pytest.raises(Failure, match="no cluster answers"):
        Cluster(address)
