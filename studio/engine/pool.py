"""The worker processes in which every sheet is read and evaluated, and the queue before them.

Fair: of those who wait, the person who was served longest ago comes next, and nobody holds all
workers. With an end: a person has a few orders waiting at most, a newer turn of the same window
replaces an older one that still waits, and nobody waits longer than `PATIENCE` without being told.
Hand-overs and other long work have workers of their own. A study goes to the worker that knows it. Who hangs up is
waited for no longer: what only looks is ended, and a change that was sent is made all the same.

A worker that exceeds its time is ended and replaced; the next request succeeds. Work that is stopped is
asked to end, so that its worker stays and knows what it knew; where it does not soon, its worker is ended.

Workers are forked from a process that has imported all that they need and has no threads (never from this one,
which has): each begins in a moment, and they share the memory of what was imported. They end with it, and it
ends with this process.
"""

from __future__ import annotations

import atexit
import ctypes
import itertools
import math
import os
import resource
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, TimeoutError, wait
from dataclasses import dataclass, field
from multiprocessing import get_context, parent_process
from multiprocessing.sharedctypes import RawValue
from pathlib import Path
from typing import Any

from pebble import ProcessExpired, ProcessPool

from ovolo.problems import Failure, unforeseen
from ovolo.remembering import forget_all, forget_half, keep_imports
from ovolo.running.under_way import GivenUp, followed

WORKERS = max(int(os.environ.get("OVOLO_WORKERS", "3")), 1)
"""How many workers turn sheets into scenes; a setting of the machine."""

LONG_WORKERS = max(int(os.environ.get("OVOLO_LONG_WORKERS", "1")), 1)
"""How many work on hand-overs."""

MEMORY = 6 * 2**30
"""Bytes of address space a worker may use."""

MOST_HELD = int(os.environ.get("OVOLO_WORKER_MEMORY", "1500")) * 2**20
"""Bytes that a worker may hold between two works; above half of it, it forgets what it remembers;
where it still holds more, another takes its place."""

KILL_AFTER = 9.0
"""Seconds after which an evaluation is ended from outside. The evaluation itself stops at 5 s
with a problem at the line; this is for what cannot be interrupted within."""

HAND_OVER_KILL_AFTER = 120.0

PATIENCE = 20.0
"""Seconds after which an order that still waits is given back with word that all are busy."""

_LOOK = 0.5
"""Seconds between two looks whether who asked is still there."""

_MOST_OF_ONE = 6
"""So many orders one person may have, under way and waiting together; half as many long ones."""

_MOST_WAITING = 24
"""So many orders wait altogether, fewer than the threads that serve requests."""


_NICER = 10
"""How far long work stands back for the processor, as nice(2) counts it."""


_STOP_PATIENCE = 0.5
"""Seconds within which work that is stopped may end by itself."""


class Stopped(Exception):
    """The work was ended by a limit; the message says which."""


class Busy(Failure):
    """There is too much to do; it can be asked for again a little later."""


class _Watched:
    """What a worker and who waits for it see both: the number of the work that is to end, and what share of
    the present one is done."""

    def __init__(self) -> None:
        self.given_up = RawValue(ctypes.c_longlong, 0)
        self.share = RawValue(ctypes.c_double, 0.0)


_watched = _Watched()
"""In a worker, its own."""


_CONTEXT = get_context("forkserver")
_CONTEXT.set_forkserver_preload(
    [
        "studio.engine.tasks",
        "scipy.interpolate",
        "scipy.optimize",
        "scipy.sparse.csgraph",
        "scipy.spatial",
    ]
)
"""What is imported before any worker begins; the sciences are imported by sheets that need them, else."""


def _prepare_worker(long: bool, watched: _Watched) -> None:
    """Runs once in each worker: it ends with the process it was forked from, and has its limits."""
    global _watched
    _watched = watched
    PR_SET_PDEATHSIG = 1  # noqa: N806 - the name of the constant in prctl(2)
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    asker = parent_process()
    if asker is not None and not asker.is_alive():  # it ended before that was said
        os._exit(1)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    if long:  # whoever turns a slide rule goes before it
        os.nice(_NICER)
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    keep_imports()


def _weighed(number: int, task: Callable[..., Any], *arguments: Any) -> tuple[Any, int]:
    """The task's result, and how many bytes the worker holds after it; none where the work of this number
    was given up."""
    watched = _watched
    watched.share.value = 0.0

    def told(share: float) -> None:
        watched.share.value = share

    try:
        with followed(lambda: bool(watched.given_up.value == number), told):
            result = task(*arguments)
    except GivenUp:
        result = None
    for forget in (forget_half, forget_all):
        if _held() > MOST_HELD / 2:
            forget()
    return result, _held()


def _held() -> int:
    """Bytes of memory that this process holds."""
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * resource.getpagesize()


def _warm() -> None:
    """The first work of a worker: by then it is there."""


def _stays() -> bool:
    return False


@dataclass(frozen=True, slots=True)
class Asker:
    """Who asks, and about which study (`place`); `turn` names what a newer order replaces. What is asked for is
    ended once they have `left`."""

    person: str = ""
    place: str = ""
    turn: str = ""
    left: Callable[[], bool] = field(default=_stays, compare=False)


NOBODY = Asker()


@dataclass(eq=False)
class _Order:
    """Work that somebody asked for."""

    task: Callable[..., Any]
    arguments: tuple[Any, ...]
    seconds: float
    job: str
    who: Asker
    long: bool
    number: int = field(default_factory=itertools.count(1).__next__)
    answer: Future[Any] = field(default_factory=Future)
    started: threading.Event = field(default_factory=threading.Event)
    work: Any = None
    """What the worker promised, once it is under way."""


class _Worker:
    """A place for one process, and the study it last worked on."""

    def __init__(self, long: bool) -> None:
        self.long = long
        self.order: _Order | None = None
        self.knows = ""
        self.full = False
        """Whether it holds more than it should, and is replaced before it works again."""

        self.watched = _Watched()
        self.pool = self._begun()

    def _begun(self) -> ProcessPool:
        """Its process, with a first work, so that nobody waits for it to start."""
        pool = ProcessPool(
            max_workers=1,
            context=_CONTEXT,
            initializer=_prepare_worker,
            initargs=(self.long, self.watched),
        )
        pool.schedule(_warm)
        return pool

    def stop(self, order: _Order) -> None:
        """Asks its work to end, and ends the process where it does not."""
        self.watched.given_up.value = order.number
        late = threading.Timer(_STOP_PATIENCE, order.work.cancel)
        late.daemon = True
        order.work.add_done_callback(lambda _: late.cancel())
        late.start()

    def renew(self) -> None:
        """Another process in the place of one that holds too much."""
        self.pool.close()
        self.pool, self.full, self.knows = self._begun(), False, ""


class _Workers:
    """The queue and its workers, served by a thread."""

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._waiting: list[_Order] = []
        self._workers: list[_Worker] = []
        self._served: dict[str, float] = {}
        self._ended = False
        self._thread = threading.Thread(target=self._serve, name="worker pool", daemon=True)
        self._thread.start()

    # --- asking ---

    def run(self, order: _Order) -> Any:
        with self._changed:
            self._refuse_too_many(order)
            self._replace_older(order)
            self._waiting.append(order)
            self._changed.notify_all()
        late = time.monotonic() + PATIENCE
        while not wait([order.answer], min(_LOOK, max(late - time.monotonic(), 0.01))).done:
            if order.who.left():
                self._end(order)
            elif time.monotonic() >= late:
                self._give_up(order)
                late = math.inf
        return self._result(order)

    def _result(self, order: _Order) -> Any:
        try:
            return order.answer.result()
        except CancelledError:
            raise Stopped("it was stopped") from None
        except TimeoutError:
            raise Stopped(f"it took longer than {order.seconds:.0f} s and was stopped") from None
        except (Failure, Stopped):
            raise
        except (ProcessExpired, MemoryError):
            raise Stopped("it ended unexpectedly; it may have needed too much memory") from None
        except Exception as error:
            raise unforeseen(error, order.task.__name__) from None

    def _refuse_too_many(self, order: _Order) -> None:
        """Raises Busy where a person, or everybody together, has too much waiting."""
        under_way = [one.order for one in self._workers if one.order is not None]
        everything = [*under_way, *self._waiting]
        own = [
            one
            for one in everything
            if one.who.person == order.who.person and one.long == order.long
        ]
        if len(own) >= (_MOST_OF_ONE // 2 if order.long else _MOST_OF_ONE):
            raise Busy(
                f"{len(own)} things that you asked for are still being worked out",
                "wait for one of them, or stop it",
            )
        if len(self._waiting) >= _MOST_WAITING:
            raise Busy("too many people are waiting", "try again in a few seconds")

    def _replace_older(self, order: _Order) -> None:
        older = [one for one in self._waiting if order.who.turn and one.who.turn == order.who.turn]
        for one in older:
            self._waiting.remove(one)
            one.answer.set_exception(Stopped("a newer turn took its place"))
            one.started.set()

    def _give_up(self, order: _Order) -> None:
        """Raises Busy for an order that nobody began in time."""
        with self._changed:
            if order.started.is_set():
                return
            self._waiting.remove(order)
        raise Busy(
            f"everybody is busy: this waited for {PATIENCE:.0f} s", "try again in a few seconds"
        )

    def cancel(self, job: str) -> bool:
        """Ends a job that waits or is under way; False where there is none."""
        with self._changed:
            under_way = [one.order for one in self._workers if one.order is not None]
            found = next((one for one in (*self._waiting, *under_way) if one.job == job), None)
            return found is not None and self._end(found)

    def _end(self, order: _Order) -> bool:
        """Ends an order that waits or is under way; False where it has ended."""
        with self._changed:
            if order.answer.done():
                return False
            if order in self._waiting:
                self._waiting.remove(order)
                order.started.set()
            for worker in self._workers:
                if worker.order is order:
                    worker.stop(order)
            order.answer.set_exception(CancelledError())
        return True

    def share_of(self, job: str) -> float | None:
        with self._changed:
            for worker in self._workers:
                if worker.order is not None and worker.order.job == job:
                    return float(worker.watched.share.value)
        return None

    # --- serving ---

    def _serve(self) -> None:
        kinds = [False] * WORKERS + [True] * LONG_WORKERS
        with self._changed:
            self._workers = [_Worker(long) for long in kinds]
        while True:
            with self._changed:
                pair = self._next()
                while pair is None and not self._ended:
                    self._changed.wait()
                    pair = self._next()
                if pair is None:
                    break
                order, worker = pair
                if worker.full:
                    worker.renew()
                self._begin(order, worker)
        for worker in self._workers:
            worker.pool.stop()
        for worker in self._workers:
            worker.pool.join(5)

    def _next(self) -> tuple[_Order, _Worker] | None:
        """The order that comes next, and the worker for it; None where nothing can begin."""
        people = sorted(
            {one.who.person for one in self._waiting}, key=lambda one: self._served.get(one, 0.0)
        )
        for person in people:
            for order in self._waiting:
                if order.who.person != person:
                    continue
                free = [w for w in self._workers if w.order is None and w.long == order.long]
                if free and not self._holds_enough(order):
                    return order, self._best(free, order)
        return None

    def _holds_enough(self, order: _Order) -> bool:
        """Whether a person has all the workers that one may have: one is left for others."""
        workers = [one for one in self._workers if one.long == order.long]
        held = sum(
            one.order is not None and one.order.who.person == order.who.person for one in workers
        )
        return held >= max(len(workers) - 1, 1)

    def _best(self, free: list[_Worker], order: _Order) -> _Worker:
        return next(
            (one for one in free if order.who.place and one.knows == order.who.place), free[0]
        )

    def _begin(self, order: _Order, worker: _Worker) -> None:
        self._waiting.remove(order)
        self._served.pop(order.who.person, None)
        self._served[order.who.person] = time.monotonic()
        while len(self._served) > 1_000:
            del self._served[next(iter(self._served))]
        worker.order, worker.knows = order, order.who.place or worker.knows
        try:
            order.work = worker.pool.schedule(
                _weighed, args=(order.number, order.task, *order.arguments), timeout=order.seconds
            )
        except Exception as error:
            worker.order = None
            order.answer.set_exception(error)
            order.started.set()
            return
        order.started.set()
        order.work.add_done_callback(lambda work: self._done(order, worker, work))

    def _done(self, order: _Order, worker: _Worker, work: Any) -> None:
        failed = work.cancelled() or work.exception() is not None
        with self._changed:
            worker.order = None
            worker.full = not failed and work.result()[1] > MOST_HELD
            self._changed.notify_all()
            if order.answer.done():  # it was stopped
                return
            if work.cancelled():
                order.answer.set_exception(CancelledError())
            elif failed:
                order.answer.set_exception(work.exception())
            else:
                order.answer.set_result(work.result()[0])

    def counted(self) -> dict[str, tuple[int, int]]:
        """How many orders wait and are under way, of turns and of long work."""
        with self._changed:
            under_way = [one.order for one in self._workers if one.order is not None]
            return {
                lane: tuple(sum(one.long == long for one in them) for them in (self._waiting, under_way))  # type: ignore[misc]
                for lane, long in (("turns", False), ("long", True))
            }  # fmt: skip

    def stop(self) -> None:
        with self._changed:
            self._ended = True
            self._changed.notify_all()
        self._thread.join(10)


_workers: _Workers | None = None
_lock = threading.Lock()


def run(
    task: Callable[..., Any],
    *arguments: Any,
    seconds: float = KILL_AFTER,
    job: str = "",
    who: Asker = NOBODY,
) -> Any:
    """The task's result, made in a worker process. Raises Stopped where a limit ended it, or
    somebody who named its `job`, or a newer order of the same `turn`; Busy where there is too much
    to do."""
    long = seconds > KILL_AFTER * 2
    return begin().run(_Order(task, arguments, seconds, job, who, long))


def begin() -> _Workers:
    """The workers, which begin where they have not yet."""
    global _workers
    with _lock:
        if _workers is None:
            _workers = _Workers()
            atexit.register(stop_workers)
        return _workers


def cancel(job: str) -> bool:
    """Ends the job of this name; False where none waits or is under way."""
    return _workers is not None and _workers.cancel(job)


def share_of(job: str) -> float | None:
    """What share of the job of this name is done, as far as it tells; None where it is not under way."""
    return _workers.share_of(job) if _workers is not None else None


def state() -> dict[str, tuple[int, int]]:
    """How many orders wait and are under way, of turns and of long work; none before the first."""
    return _workers.counted() if _workers is not None else {}


def is_full() -> bool:
    """Whether so many wait that the next order would be refused."""
    return sum(waiting for waiting, _ in state().values()) >= _MOST_WAITING


def stop_workers() -> None:
    """Ends all workers; the next `run` makes new ones."""
    global _workers
    with _lock:
        if _workers is not None:
            _workers.stop()
            _workers = None
