"""The process that answers requests: gunicorn's, but that nobody can hold it up by sending slowly or
by staying."""

from __future__ import annotations

import os
import socket
import threading
import time
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from functools import partial
from typing import Any

from gunicorn.workers.gthread import TConn, ThreadWorker

_CLOSING = 8
"""So many connections are closed at once."""

LONGEST = float(os.environ.get("OVOLO_SENDING_SECONDS", "10"))
"""Seconds within which a request must be there, and those that a body takes at the least rate."""

LEAST_RATE = 50_000
"""Bytes a second that a body must arrive at."""


class Worker(ThreadWorker):  # type: ignore[misc]
    """A connection whose client neither sends nor leaves is closed only after two seconds, so that
    its answer arrives; that happens beside the loop that takes in all others. A request that does not
    arrive in time is cut off, so that its thread is free."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.closing = ThreadPoolExecutor(_CLOSING, thread_name_prefix="closing")
        self.arriving: dict[TConn, float] = {}

    def init_process(self) -> None:
        threading.Thread(target=self._watch, name="slow senders", daemon=True).start()
        super().init_process()

    def handle(self, conn: TConn) -> Any:
        self.arriving[conn] = time.monotonic()
        try:
            return super().handle(conn)
        finally:
            self.arriving.pop(conn, None)

    def finish_request(self, conn: TConn, fs: Future[Any]) -> None:
        if "close" not in vars(conn):
            conn.close = partial(self.closing.submit, conn.close)
        super().finish_request(conn, fs)

    def _watch(self) -> None:
        while True:
            time.sleep(min(LONGEST / 4, 1.0))
            now = time.monotonic()
            for conn, since in list(self.arriving.items()):
                if now - since > LONGEST + _length_of(conn) / LEAST_RATE:
                    with suppress(OSError):  # what is read already is answered all the same
                        conn.sock.shutdown(socket.SHUT_RD)


def _length_of(conn: TConn) -> int:
    """How many bytes the body of a request has, as far as that is known."""
    message = getattr(conn.parser, "mesg", None)
    said = dict(getattr(message, "headers", ())).get("CONTENT-LENGTH", "0")
    return int(said) if said.isdigit() else 0
