"""How gunicorn serves it: one process with threads, for work that takes long is done elsewhere."""

import os

bind = f"127.0.0.1:{os.environ.get('PORT', '8000')}"
worker_class = "gthread"
workers = 1
threads = 32
graceful_timeout = 5
control_socket_disable = True
accesslog = None
loglevel = "warning"


def when_ready(server: object) -> None:
    print(f"Ovolo is at http://{bind}/  (stop it with Ctrl+C)", flush=True)


def worker_exit(server: object, worker: object) -> None:
    from studio.engine.pool import stop_workers

    stop_workers()
