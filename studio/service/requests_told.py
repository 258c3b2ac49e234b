"""Every request has an id, by which what is logged of it is found; each is logged and counted."""

from __future__ import annotations

import logging
import re
import secrets
import time
from collections.abc import Callable
from contextvars import ContextVar

from django.http import HttpRequest, HttpResponse

from studio.service.metrics import counted

_request_id: ContextVar[str] = ContextVar("request_id", default="")
_log = logging.getLogger("ovolo.requests")
_ID = re.compile(r"[0-9A-Za-z-]{8,64}")
_SECRET = re.compile(r"^/(links|invitations|reset)/[^/]+(/[^/]{20,}|)")


class WithRequestId(logging.Filter):
    """Adds the id of the request to whatever is logged while it is answered; paths in it are told as they may be,
    and the request itself, which its logger adds, is not."""

    def filter(self, record: logging.LogRecord) -> bool:
        record.request_id = _request_id.get()
        record.__dict__.pop("request", None)
        if isinstance(record.args, tuple):
            record.args = tuple(
                path_told(one) if isinstance(one, str) else one for one in record.args
            )
        return True


def path_told(path: str) -> str:
    """The path of a request as it may be logged: without what would open something to its reader."""
    return _SECRET.sub(r"/\1/…", path)


def tell_requests(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[..., HttpResponse]:
    """Middleware; the first of all, so that it sees each answer. An id that a proxy gave is kept."""

    def middleware(request: HttpRequest) -> HttpResponse:
        given = request.headers.get("X-Request-ID", "")
        told = given if _ID.fullmatch(given) else secrets.token_hex(8)
        token = _request_id.set(told)
        begun = time.perf_counter()
        try:
            response = get_response(request)
            seconds = time.perf_counter() - begun
            match = request.resolver_match
            view = match.url_name if match is not None and match.url_name else ""
            counted(view, request.method or "", response.status_code, seconds)
            user = getattr(request, "user", None)
            _log.info(
                "%s %s %s", request.method, path_told(request.path), response.status_code,
                extra={
                    "method": request.method, "path": path_told(request.path), "view": view,
                    "status": response.status_code, "milliseconds": round(seconds * 1e3, 1),
                    "person": getattr(user, "pk", None), "address": request.META.get("REMOTE_ADDR"),
                },
            )  # fmt: skip
            response["X-Request-ID"] = told
            return response
        finally:
            _request_id.reset(token)

    return middleware


def behind_proxy(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[..., HttpResponse]:
    """Middleware, only where OVOLO_PROXY=1: the address that the proxy saw is that of the client. It is the
    last one said, for those before it come from the client itself."""

    def middleware(request: HttpRequest) -> HttpResponse:
        said = request.headers.get("X-Forwarded-For", "").rpartition(",")[2].strip()
        if said:
            request.META["REMOTE_ADDR"] = said
        return get_response(request)

    return middleware
