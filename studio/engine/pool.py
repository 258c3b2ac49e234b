"""The pool of worker processes in which every sheet is evaluated.

A worker that exceeds its time is ended and replaced; the next request succeeds. Workers are
spawned (never forked from a threaded process), from one permanent thread, because Linux ends a
child with the thread that made it when the child asks for that (PR_SET_PDEATHSIG).
"""

from __future__ import annotations

import atexit
import ctypes
import os
import queue
import resource
import signal
import threading
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, TimeoutError
from multiprocessing import get_context
from typing import Any

from pebble import ProcessExpired, ProcessPool

WORKERS = 2
MEMORY = 6 * 2**30
"""Bytes of address space a worker may use."""

KILL_AFTER = 9.0
"""Seconds after which an evaluation is ended from outside. The evaluation itself stops at 5 s
with a problem at the line; this is for what cannot be interrupted within."""

HAND_OVER_KILL_AFTER = 120.0


class Stopped(Exception):
    """The work was ended by a limit; the message says which."""


def _prepare_worker(parent: int) -> None:
    """Runs once in each worker: it ends with its parent, and has its limits and imports."""
    PR_SET_PDEATHSIG = 1  # noqa: N806 - the name of the constant in prctl(2)
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != parent:
        os._exit(1)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    import scipy.sparse.csgraph  # noqa: F401 - warm before the first request

    import studio.engine.tasks  # noqa: F401


class _Workers:
    """The pool, made on first use by a thread that lives as long as the process."""

    def __init__(self) -> None:
        self._orders: queue.SimpleQueue[tuple[Future[Any], Any, tuple[Any, ...], float] | None]
        self._orders = queue.SimpleQueue()
        self._jobs: dict[str, Any] = {}
        self._thread = threading.Thread(target=self._serve, name="worker pool", daemon=True)
        self._thread.start()

    def run(
        self, task: Callable[..., Any], arguments: tuple[Any, ...], seconds: float, job: str
    ) -> Any:
        order: Future[Any] = Future()
        self._orders.put((order, task, arguments, seconds))
        scheduled = order.result()
        if job:
            self._jobs[job] = scheduled
        try:
            return scheduled.result()
        except CancelledError:
            raise Stopped("it was stopped") from None
        except TimeoutError:
            raise Stopped(f"it took longer than {seconds:.0f} s and was stopped") from None
        except ProcessExpired:
            raise Stopped("it ended unexpectedly; it may have needed too much memory") from None
        finally:
            if self._jobs.get(job) is scheduled:
                del self._jobs[job]

    def cancel(self, job: str) -> bool:
        """Ends a job that is under way; False where there is none."""
        scheduled = self._jobs.get(job)
        return scheduled is not None and bool(scheduled.cancel())

    def _serve(self) -> None:
        pool = ProcessPool(
            max_workers=WORKERS,
            context=get_context("spawn"),
            initializer=_prepare_worker,
            initargs=(os.getpid(),),
        )
        while (order := self._orders.get()) is not None:
            answer, task, arguments, seconds = order
            try:
                answer.set_result(pool.schedule(task, args=arguments, timeout=seconds))
            except Exception as error:
                answer.set_exception(error)
        pool.stop()
        pool.join(5)

    def stop(self) -> None:
        self._orders.put(None)
        self._thread.join(10)


_workers: _Workers | None = None
_lock = threading.Lock()


def run(
    task: Callable[..., Any], *arguments: Any, seconds: float = KILL_AFTER, job: str = ""
) -> Any:
    """The task's result, made in a worker process. Raises Stopped where a limit ended it, or
    somebody who named its `job`."""
    global _workers
    with _lock:
        if _workers is None:
            _workers = _Workers()
            atexit.register(stop_workers)
    return _workers.run(task, arguments, seconds, job)


def cancel(job: str) -> bool:
    """Ends the job of this name; False where none is under way."""
    return _workers is not None and _workers.cancel(job)


def stop_workers() -> None:
    """Ends all workers; the next `run` makes new ones."""
    global _workers
    with _lock:
        if _workers is not None:
            _workers.stop()
            _workers = None
