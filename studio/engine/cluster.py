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


def on_cluster(task: Callable[..., Any], *arguments: Any) -> Any:
    """The task's result from the cluster; None where there is none. Raises Failure where its scheduler
    does not answer."""
    global _cluster
    if not ADDRESS:
        return None
    with _lock:
        if _cluster is None:
            _cluster = Cluster(ADDRESS)
    return _cluster.submit(task, *arguments).result()
