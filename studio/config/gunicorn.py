"""How gunicorn serves it: one process with threads, for work that takes long is done elsewhere."""

import os
import socket
import struct

bind = f"{os.environ.get('OVOLO_BIND', '127.0.0.1')}:{os.environ.get('PORT', '8000')}"
worker_class = "studio.config.worker.Worker"
workers = 1
threads = 64  # more than ever wait for work, so that silent senders leave some free
graceful_timeout = 5
control_socket_disable = True
accesslog = None
loglevel = "warning"


SLOWEST = float(os.environ.get("OVOLO_SILENT_SECONDS", "5"))
"""Seconds for which a sender may be silent in the middle of a request; its thread is free then."""


def when_ready(server: object) -> None:
    for listener in server.LISTENERS:  # type: ignore[attr-defined]  # connections take this over
        listener.sock.setsockopt(
            socket.SOL_SOCKET,
            socket.SO_RCVTIMEO,
            struct.pack("ll", int(SLOWEST), int(SLOWEST % 1 * 1e6)),
        )
    print(f"Ovolo is at http://{bind}/  (stop it with Ctrl+C)", flush=True)


def post_worker_init(worker: object) -> None:
    """The processes that sheets are evaluated in begin at once, and all pages are there, and not with the first visitor."""
    from django.urls import get_resolver

    from studio.engine.pool import begin

    begin()
    get_resolver().url_patterns  # noqa: B018  # which imports what they lead to


def worker_exit(server: object, worker: object) -> None:
    from studio.engine.pool import stop_workers

    stop_workers()
