"""Worker processes: limits end the work, not the service."""

import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from typing import Any

import pytest

from ovolo.problems import Failure
from ovolo.running.under_way import go_on, so_far
from studio.engine import pool
from studio.engine.pool import Asker


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
    with pytest.raises(pool.Stopped, match="too much memory"):
        pool.run(greedy)
    assert pool.run(double, 5) == 10


def test_what_nobody_foresaw_is_told_in_words() -> None:
    with pytest.raises(Failure, match="not foreseen"):
        pool.run(double, None)


def napping(seconds: float) -> float:
    time.sleep(seconds)
    return time.monotonic()


def asked(
    person: str,
    seconds: float,
    turn: str = "",
    job: str = "",
    left: Callable[[], bool] = lambda: False,
    limit: float = 9.0,
) -> Future[Any]:
    """An order from another thread."""
    answer: Future[Any] = Future()
    who = Asker(person, turn=turn, left=left)

    def ask() -> None:
        try:
            answer.set_result(pool.run(napping, seconds, seconds=limit, job=job, who=who))
        except Exception as error:
            answer.set_exception(error)

    threading.Thread(target=ask).start()
    return answer


def test_one_person_does_not_stop_another() -> None:
    pool.run(double, 1)
    slow = [asked("greedy", 1.0) for _ in range(5)]
    time.sleep(0.3)
    other = pool.run(napping, 0.0, who=Asker("other"))
    ends = sorted(one.result(20) for one in slow)
    assert other < ends[2], "two at a time: the third of them is still to come"


def test_a_person_has_a_few_orders_at_most() -> None:
    waiting = [asked("greedy", 0.6) for _ in range(9)]
    told = [one.exception(20) for one in waiting]
    assert sum(isinstance(one, pool.Busy) for one in told) == 3
    assert "still being worked out" in str(next(one for one in told if one))


def test_a_newer_turn_replaces_one_that_waits() -> None:
    first, _ = asked("hand", 1.8), asked("hand", 1.8)
    time.sleep(0.2)
    older = asked("hand", 0.1, turn="hand:1")
    time.sleep(0.2)
    newer = asked("hand", 0.1, turn="hand:1")
    assert isinstance(older.exception(20), pool.Stopped)
    assert first.result(20) < newer.result(20)


def test_long_work_has_a_lane_of_its_own() -> None:
    answer = threading.Thread(
        target=lambda: pool.run(napping, 2.0, seconds=60.0, who=Asker("late"))
    )
    answer.start()
    time.sleep(0.2)
    pool.run(double, 3, who=Asker("late"))
    assert answer.is_alive(), "the long work is still under way"
    answer.join()


def test_a_job_that_waits_is_stopped_by_its_name() -> None:
    slow, _ = asked("hand", 1.0), asked("hand", 1.0)
    time.sleep(0.2)
    waits = asked("hand", 1.0, job="hand:late")
    time.sleep(0.2)
    assert pool.cancel("hand:late") and isinstance(waits.exception(5), pool.Stopped)
    slow.result(20)


def test_work_ends_whose_asker_has_left() -> None:
    """What is under way, and what waits behind it; both free what they held."""
    pool.run(double, 1)
    gone = threading.Event()
    orders = [asked("gone", 60.0, left=gone.is_set, limit=90.0) for _ in range(3)]
    time.sleep(0.3)
    assert pool.state()["long"] == (2, 1) and not any(one.done() for one in orders)
    gone.set()
    assert all(isinstance(one.exception(10), pool.Stopped) for one in orders)
    assert pool.run(double, 4, seconds=90.0, who=Asker("gone")) == 8
    assert pool.state()["long"] == (0, 0)


def test_a_job_is_stopped_by_its_name() -> None:
    stopper = threading.Timer(0.5, pool.cancel, ["1:slow"])
    stopper.start()
    with pytest.raises(pool.Stopped, match="it was stopped"):
        pool.run(endless, seconds=30, job="1:slow")
    assert not pool.cancel("1:slow"), "it is no longer under way"
    assert pool.run(double, 6, job="1:slow") == 12


def patient() -> None:
    """Work that looks whether it is still wanted."""
    while True:
        go_on()
        time.sleep(0.01)


def halfway() -> None:
    so_far(0.5)
    patient()


def process() -> int:
    return os.getpid()


def test_who_waits_for_long_work_is_told_how_far_it_is() -> None:
    shares: list[float | None] = []

    def look() -> None:
        while not shares or shares[-1] != 0.5:
            time.sleep(0.05)
            shares.append(pool.share_of("1:half"))
        pool.cancel("1:half")

    assert pool.share_of("1:half") is None, "it is not under way"
    threading.Thread(target=look, daemon=True).start()
    with pytest.raises(pool.Stopped, match="it was stopped"):
        pool.run(halfway, seconds=30.0, job="1:half", who=Asker("1"))
    assert set(shares) <= {None, 0.0, 0.5}, "nothing of an earlier work is told of this one"


def test_work_that_is_stopped_leaves_its_worker_as_it_was() -> None:
    """Another one would have to begin with nothing, and take the processor from whoever turns a rule."""
    who = Asker("1", "7")
    before = pool.run(process, who=who)

    def stop() -> None:
        while not pool.cancel("1:patient"):
            time.sleep(0.05)

    threading.Thread(target=stop, daemon=True).start()
    began = time.monotonic()
    with pytest.raises(pool.Stopped, match="it was stopped"):
        pool.run(patient, seconds=30.0, job="1:patient", who=who)
    assert time.monotonic() - began < 10, "long before its limit"
    for _ in range(20):  # it frees its worker right after its asker was told
        if pool.state()["turns"] == (0, 0):
            break
        time.sleep(0.05)
    assert pool.run(process, who=who) == before
    assert pool.run(double, 4, who=who) == 8, "what was stopped before stops nothing after"


def hoarding(megabytes: int) -> int:
    _HOARD.append(bytearray(megabytes * 2**20))
    return os.getpid()


_HOARD: list[bytearray] = []


def test_a_worker_that_holds_too_much_is_replaced(monkeypatch: pytest.MonkeyPatch) -> None:
    who = Asker("hoarder", "study 1")
    first = pool.run(hoarding, 1, who=who)
    assert pool.run(hoarding, 1, who=who) == first, "a study goes to the worker that knows it"
    monkeypatch.setattr(pool, "MOST_HELD", 300 * 2**20)
    assert pool.run(hoarding, 400, who=who) == first
    assert pool.run(hoarding, 1, who=who) != first


@pytest.mark.parametrize(("most", "times"), [(1, 2), (2**50, 0)])
def test_a_worker_that_holds_much_forgets_first(
    monkeypatch: pytest.MonkeyPatch, most: int, times: int
) -> None:
    forgot: list[int] = []
    monkeypatch.setattr(pool, "MOST_HELD", most)
    for name in ("forget_half", "forget_all"):
        monkeypatch.setattr(pool, name, lambda: forgot.append(1))
    result, held = pool._weighed(1, double, 2)
    assert result == 4 and held > 2**20 and len(forgot) == times
