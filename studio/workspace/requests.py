"""What comes with a request, and how one is refused."""

from __future__ import annotations

import json
from typing import Any

from django.http import HttpRequest, JsonResponse

from ovolo.problems import Failure


def body_of(request: HttpRequest) -> dict[str, Any]:
    """The JSON object a request carries. Raises Failure where there is none."""
    try:
        body = json.loads(request.body or b"{}")
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError):
        raise Failure("the request cannot be read") from None
    if not isinstance(body, dict):
        raise Failure("the request cannot be read")
    return body


def refused(failure: Failure, **more: Any) -> JsonResponse:
    answer = {"message": failure.message, "hint": failure.hint}
    return JsonResponse(answer | more, status=400)
