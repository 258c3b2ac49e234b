"""Trials on the cluster that `OVOLO_CLUSTER` names; without one they are made by the server's workers."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from typing import Any

from ovolo.exploring.carriers import Cluster

ADDRESS = os.environ.get("OVOLO_CLUSTER", "")

_lock = threading.Lock()
_cluster: Cluster | None = None


def on_cluster(seconds: float, task: Callable[..., Any], *arguments: Any) -> Any:
    """The task's result from the cluster; None where there is none. Raises Failure where its scheduler
    does not answer, or there is no result after so many seconds. One that was lost is looked for again."""
    global _cluster
    if not ADDRESS:
        return None
    with _lock:
        if _cluster is not None and not _cluster.is_there:
            _cluster.stop()
            _cluster = None
        if _cluster is None:
            _cluster = Cluster(ADDRESS)
        cluster = _cluster
    return cluster.submit(task, *arguments).result(seconds)
