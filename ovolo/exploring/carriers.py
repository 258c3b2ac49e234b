"""Where a plan's trials are made: worker processes of this machine, or of a cluster of several.

Both carriers take pieces of work and give promises of their results; the same plan gives the same trials
on either. What a lost worker had begun is made again by another.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from typing import Any, Protocol

from ovolo.problems import Failure
from ovolo.remembering import keep_imports

Task = Callable[..., Any]
_AGAIN = 3
"""So often work is given out again whose worker was lost."""

_SECONDS_TO_ANSWER = 10


class Promise(Protocol):
    """A result that will be there."""

    def result(self) -> Any: ...


class Carrier(Protocol):
    """Takes work and gives results; `workers` work at once."""

    workers: int

    def submit(self, task: Task, *arguments: Any) -> Promise: ...

    def stop(self) -> None: ...


def _prepare() -> None:
    """Runs once in each worker: what trials need is there, and stays."""
    import ovolo.exploring.runs  # noqa: F401 - warm before the first piece

    keep_imports()


class Processes:
    """Worker processes of this machine."""

    def __init__(self, workers: int | None = None) -> None:
        self.workers = workers or os.cpu_count() or 1
        self._pool = self._begun()

    def _begun(self) -> ProcessPoolExecutor:
        return ProcessPoolExecutor(self.workers, get_context("spawn"), _prepare)

    def submit(self, task: Task, *arguments: Any) -> Promise:
        return _Again(self, task, arguments)

    def given(self, task: Task, arguments: tuple[Any, ...]) -> Future[Any]:
        try:
            return self._pool.submit(task, *arguments)
        except BrokenProcessPool:
            self._pool = self._begun()
            return self._pool.submit(task, *arguments)

    def stop(self) -> None:
        self._pool.shutdown(wait=False, cancel_futures=True)


class _Again:
    """The promise of work that is given out again where its worker was lost."""

    def __init__(self, carrier: Processes, task: Task, arguments: tuple[Any, ...]) -> None:
        self.carrier, self.task, self.arguments = carrier, task, arguments
        self.promise = carrier.given(task, arguments)

    def result(self) -> Any:
        for left in reversed(range(_AGAIN)):
            try:
                return self.promise.result()
            except BrokenProcessPool:
                if not left:
                    break
                self.promise = self.carrier.given(self.task, self.arguments)
        raise Failure(
            "the workers were lost again and again", "it may need more memory than there is"
        )


class Cluster:
    """Workers of a dask cluster, by the address of its scheduler. Raises Failure where none answers."""

    def __init__(self, address: str) -> None:
        try:
            from distributed import Client
        except ImportError:
            raise Failure(
                "work on a cluster needs the package `distributed`",
                "pip install -r requirements/cluster.txt",
            ) from None
        try:
            self._client = Client(address, timeout=_SECONDS_TO_ANSWER, set_as_default=False)
        except (OSError, ValueError, TimeoutError) as error:
            raise Failure(
                f"no cluster answers at {address}",
                "start one as docs/running.md says: dask scheduler, dask worker",
            ) from error
        self.address = address
        self.workers = max(sum(self._client.nthreads().values()), 1)

    @property
    def is_there(self) -> bool:
        """Whether its scheduler is still connected."""
        return bool(self._client.status == "running")

    def submit(self, task: Task, *arguments: Any) -> _OfCluster:
        try:
            future = self._client.submit(task, *arguments, pure=False, retries=_AGAIN)
        except (OSError, RuntimeError) as error:
            raise _lost(self.address) from error
        return _OfCluster(future, self.address)

    def stop(self) -> None:
        self._client.close()


class _OfCluster:
    """The promise of work on a cluster. Raises Failure where that is lost meanwhile, or where `seconds` are
    given and pass."""

    def __init__(self, future: Any, address: str) -> None:
        self.future, self.address = future, address

    def result(self, seconds: float | None = None) -> Any:
        from distributed import KilledWorker
        from distributed.comm.core import CommClosedError

        try:
            return self.future.result(seconds)
        except TimeoutError:
            self.future.cancel()
            raise Failure(
                f"the cluster at {self.address} had no result after {seconds:g} s",
                "it may have no workers: dask worker",
            ) from None
        except (CancelledError, KilledWorker, CommClosedError) as error:
            raise _lost(self.address) from error


def _lost(address: str) -> Failure:
    return Failure(f"the cluster at {address} was lost", "start it again, then try once more")


def carrier_at(address: str = "", workers: int | None = None) -> Carrier:
    """The cluster at an address, else the processes of this machine."""
    return Cluster(address) if address else Processes(workers)


def carried(carrier: Carrier, task: Task, pieces: Sequence[tuple[Any, ...]]) -> Iterator[Any]:
    """The results of all pieces in their order, as they come; no more are under way at once than keep
    the workers busy."""
    waiting: list[Promise] = []
    left = iter(pieces)
    for piece in left:
        waiting.append(carrier.submit(task, *piece))
        if len(waiting) >= 3 * carrier.workers:
            yield waiting.pop(0).result()
    while waiting:
        yield waiting.pop(0).result()
