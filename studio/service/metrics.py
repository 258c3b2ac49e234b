"""What is counted of the running service, in the text format that Prometheus reads."""

from __future__ import annotations

from prometheus_client import (
    CONTENT_TYPE_LATEST,
    REGISTRY,
    Counter,
    Gauge,
    Histogram,
    generate_latest,
)

from studio.engine import pool

_requests = Counter("ovolo_requests", "Requests that were answered", ("view", "method", "status"))
_seconds = Histogram(
    "ovolo_request_seconds", "Seconds until a request was answered", ("view",),
    buckets=(0.005, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 120),
)  # fmt: skip
_waiting = Gauge("ovolo_orders_waiting", "Orders that wait for a worker", ("lane",))
_working = Gauge("ovolo_orders_under_way", "Orders that a worker is at", ("lane",))


def counted(view: str, method: str, status: int, seconds: float) -> None:
    """Counts an answer."""
    _requests.labels(view, method if method in ("GET", "POST", "HEAD") else "other", status).inc()
    _seconds.labels(view).observe(seconds)


def written() -> tuple[bytes, str]:
    """All figures, and the type of their text."""
    for lane, (waiting, working) in pool.state().items():
        _waiting.labels(lane).set(waiting)
        _working.labels(lane).set(working)
    return generate_latest(REGISTRY), CONTENT_TYPE_LATEST
