"""Signing visitors of a demonstration in as the demo user."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.http import HttpRequest, HttpResponse

DEMO_USER = "demo"


def sign_in_demo_user(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware; does something only where OVOLO_DEMO=1."""

    def middleware(request: HttpRequest) -> HttpResponse:
        if settings.DEMO and not request.user.is_authenticated:
            user = get_user_model().objects.filter(username=DEMO_USER).first()
            if user is not None:
                login(request, user, backend="django.contrib.auth.backends.ModelBackend")
        return get_response(request)

    return middleware
