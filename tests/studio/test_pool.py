"""Worker processes: limits end the work, not the service."""

import os
import threading
import time

import pytest

from studio.engine import pool


def endless() -> None:
    while True:
        pass


def crash() -> None:
    os.abort()


def greedy() -> int:
    return len(bytearray(64 * 2**30))


def double(x: int) -> int:
    return 2 * x


def test_work_that_takes_too_long_is_ended_and_the_next_request_works() -> None:
    assert pool.run(double, 1) == 2
    began = time.monotonic()
    with pytest.raises(pool.Stopped, match="longer than 0 s"):
        pool.run(endless, seconds=0.4)
    assert pool.run(double, 21) == 42
    assert time.monotonic() - began < 30


def test_a_crash_costs_one_request() -> None:
    with pytest.raises(pool.Stopped, match="ended unexpectedly"):
        pool.run(crash)
    assert pool.run(double, 4) == 8


def test_memory_is_limited() -> None:
    with pytest.raises((MemoryError, pool.Stopped)):
        pool.run(greedy)
    assert pool.run(double, 5) == 10


def test_errors_come_back_as_they_are() -> None:
    with pytest.raises(TypeError):
        pool.run(double, None)


def test_a_job_is_stopped_by_its_name() -> None:
    stopper = threading.Timer(0.5, pool.cancel, ["1:slow"])
    stopper.start()
    with pytest.raises(pool.Stopped, match="it was stopped"):
        pool.run(endless, seconds=30, job="1:slow")
    assert not pool.cancel("1:slow"), "it is no longer under way"
    assert pool.run(double, 6, job="1:slow") == 12
