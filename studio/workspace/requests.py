"""What comes with a request, and how one is refused."""

from __future__ import annotations

import json
from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, JsonResponse
from django.views.decorators.http import require_POST

from ovolo.problems import Failure
from studio.engine import pool


def body_of(request: HttpRequest) -> dict[str, Any]:
    """The JSON object a request carries. Raises Failure where there is none."""
    try:
        body = json.loads(request.body or b"{}")
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError):
        raise Failure("the request cannot be read") from None
    if not isinstance(body, dict):
        raise Failure("the request cannot be read")
    return body


def job_of(request: HttpRequest) -> str:
    """The name of the work that a request asks for, by which its sender may stop it; empty where
    it has none. Nobody reaches the work of another."""
    said = request.headers.get("X-Job", "")
    return f"{request.user.pk}:{said}" if said else ""


@login_required
@require_POST
def stop_job(request: HttpRequest) -> JsonResponse:
    """Stops the work that the header `X-Job` names."""
    return JsonResponse({"stopped": pool.cancel(job_of(request))})


def refused(failure: Failure, **more: Any) -> JsonResponse:
    answer = {"message": failure.message, "hint": failure.hint}
    return JsonResponse(answer | more, status=400)
