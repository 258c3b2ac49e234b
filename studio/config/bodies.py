"""Bodies of requests that are too large are refused before any of them is kept."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, JsonResponse

from ovolo.formats.attached import MOST_BYTES

_AROUND = 100_000
"""What a form has around a file, at most."""


class LimitedBodies:
    """Refuses by the length that a request says it has; it stands before all that looks into one."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        said = request.META.get("CONTENT_LENGTH") or "0"
        length = int(said) if said.isdigit() else 0
        if length <= MOST_BYTES + _AROUND:
            return self.get_response(request)
        message = f"this has {length:,} bytes; at most {MOST_BYTES:,} are taken"
        hint = "make it coarser, or part it"
        return JsonResponse({"message": message, "hint": hint}, status=413)
