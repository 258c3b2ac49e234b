"""Where the database takes nothing, because the disk is full or another holds it too long: said, and tried
again by the windows that wait, which keep what was not saved."""

from __future__ import annotations

import logging
from collections.abc import Callable

from django.db import OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse

_log = logging.getLogger("ovolo.database")


class SayNoDatabase:
    """Middleware that answers 503 for what SQLite could not do; windows take that for a server that is away."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        if not isinstance(error, OperationalError):
            return None
        _log.error("nothing could be kept: %s", error)
        answer = {"message": "Nothing can be saved at the moment.", "hint": "it is tried again"}
        return JsonResponse(answer, status=503)
