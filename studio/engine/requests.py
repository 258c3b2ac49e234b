"""What comes with a request, and how one is refused."""

from __future__ import annotations

import json
import socket
from collections.abc import Callable
from dataclasses import replace
from functools import wraps
from typing import Any, ParamSpec

from django.conf import settings
from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_POST

from ovolo.problems import Failure
from studio.engine import pool
from studio.engine.pool import Asker


def body_of(request: HttpRequest) -> dict[str, Any]:
    """The JSON object a request carries. Raises Failure where there is none."""
    try:
        return json_object(request.body.decode())
    except (UnicodeDecodeError, OSError):  # no UTF-8, or only half of it
        raise Failure("the request cannot be read") from None
    except RequestDataTooBig:
        most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
        raise Failure(f"the request has more than {most:,} bytes") from None


def json_object(said: str) -> dict[str, Any]:
    """A JSON object that a request says; empty where it says nothing. Raises Failure where it is none."""
    try:
        body = json.loads(said or "{}", parse_int=_whole, parse_constant=_no_figure)
        json.dumps(body, ensure_ascii=False).encode()  # refuses halves of characters
    except (ValueError, RecursionError):
        raise Failure("the request cannot be read") from None
    if not isinstance(body, dict):
        raise Failure("the request cannot be read")
    return body


_MOST_DIGITS = 18


def _whole(said: str) -> int | float:
    """A whole number of a request; a longer one as a figure."""
    return int(said) if len(said) <= _MOST_DIGITS else float(said)


def _no_figure(said: str) -> float:
    raise ValueError(f"{said} is no figure")


def number_said(said: str) -> int:
    """The number that a form or an address says; 0 for what is none, or too long to be one."""
    return int(said) if said.isascii() and said.isdigit() and len(said) <= _MOST_DIGITS else 0


def asker_of(request: HttpRequest) -> str:
    """Who asks, as the queue and the names of jobs know them: a person, or a visitor."""
    link, address = getattr(request, "link", None), request.META.get("REMOTE_ADDR")
    if link is not None:
        return f"link {link.pk} {address}"
    return str(request.user.pk) if request.user.is_authenticated else f"visitor {address}"


def job_of(request: HttpRequest) -> str:
    """The name of the work that a request asks for, by which its sender may stop it; empty where
    it has none. Nobody reaches the work of another."""
    said = request.headers.get("X-Job", "")
    return f"{asker_of(request)}:{said}" if said else ""


def whose(
    request: HttpRequest, study_id: int = 0, turn: bool = False, looks: bool = False
) -> Asker:
    """Who asks for work, and about which study; a `turn` replaces an older one of the same window,
    where it tells which it is. A turn, and what else only `looks`, is for nobody once they have left."""
    window = request.headers.get("X-Job", "").partition("-")[0]
    replaces = f"{asker_of(request)}:{study_id}:{window}" if turn and window else ""
    who = Asker(asker_of(request), str(study_id or ""), replaces)
    return replace(who, left=lambda: _has_left(request)) if turn or looks else who


_ESTABLISHED = 1
"""TCP_ESTABLISHED of <netinet/tcp.h>: neither side has closed the connection."""


def _has_left(request: HttpRequest) -> bool:
    """Whether who sent a request has hung up since, as a browser does whose page is left; False where the
    server does not tell. (A connection of which only our side reads no more is still established.)"""
    connection = request.META.get("gunicorn.socket")
    if connection is None:
        return False
    try:
        state: int = connection.getsockopt(socket.IPPROTO_TCP, socket.TCP_INFO, 1)[0]
    except OSError:  # no connection of TCP
        return False
    return state != _ESTABLISHED


def worked(
    request: HttpRequest, task: Callable[..., Any], *arguments: Any, study: int = 0, **more: Any
) -> Any:
    """What a worker makes of a study for who asks; with a `job` by which they may stop it, it is ended where they
    leave, too. Raises Failure, also where it was stopped."""
    try:
        return pool.run(task, *arguments, who=whose(request, study, looks="job" in more), **more)
    except pool.Stopped as stopped:
        raise Failure(f"this was given up: {stopped}") from None


@require_POST
def stop_job(request: HttpRequest) -> JsonResponse:
    """Stops the work that the header `X-Job` names; of nobody else, so whoever asks may."""
    return JsonResponse({"stopped": pool.cancel(job_of(request))})


@require_POST
def job_share(request: HttpRequest) -> JsonResponse:
    """What share is done of the work that the header `X-Job` names; none where that is not told."""
    return JsonResponse({"share": pool.share_of(job_of(request))})


P = ParamSpec("P")


def failures_told(view: Callable[P, HttpResponse]) -> Callable[P, HttpResponse]:
    """A view that answers what it cannot do with the reason."""

    @wraps(view)
    def told(*given: P.args, **named: P.kwargs) -> HttpResponse:
        try:
            return view(*given, **named)
        except Failure as failure:
            return refused(failure)

    return told


class Changed(Failure):
    """What a page goes on from is not what it was."""


def refused(failure: Failure, **more: Any) -> JsonResponse:
    answer = {"message": failure.message, "hint": failure.hint}
    statuses = {pool.Busy: 429, Changed: 412}
    status = next((code for sort, code in statuses.items() if isinstance(failure, sort)), 400)
    return JsonResponse(answer | more, status=status)
