"""Where people are signed in: noted at each sign-in, listed on their page, and ended there."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.contrib.auth.signals import user_logged_in, user_logged_out
from django.contrib.sessions.models import Session
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from studio.accounts.models import SignedIn

_NOTED_EVERY = timedelta(minutes=10)


@receiver(user_logged_in)
def note_sign_in(sender: Any, request: HttpRequest, user: Any, **more: Any) -> None:
    if not request.session.session_key:
        request.session.save()
    SignedIn.objects.update_or_create(
        session=request.session.session_key,
        defaults={
            "person": user,
            "browser": request.headers.get("User-Agent", "")[:200],
            "address": request.META.get("REMOTE_ADDR") or None,
        },
    )


@receiver(user_logged_out)
def note_sign_out(sender: Any, request: HttpRequest, **more: Any) -> None:
    SignedIn.objects.filter(session=request.session.session_key or "").delete()


def note_seen(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Middleware: notes that a session is used, at most every ten minutes."""

    def middleware(request: HttpRequest) -> HttpResponse:
        key, now = request.session.session_key, timezone.now()
        old = now.timestamp() - _NOTED_EVERY.total_seconds()
        if key and request.session.get("noted", 0) < old and _note(key):
            request.session["noted"] = now.timestamp()
        return get_response(request)

    return middleware


def _note(session: str) -> bool:
    return SignedIn.objects.filter(session=session).update(seen=timezone.now()) > 0


def sessions_of(person: Any) -> list[SignedIn]:
    """Where a person is signed in now; what has run out is forgotten."""
    noted = SignedIn.objects.filter(person=person)
    lasting = Session.objects.filter(expire_date__gt=timezone.now())
    open_now = set(lasting.filter(session_key__in=noted.values("session")).values_list("session_key", flat=True))  # fmt: skip
    noted.exclude(session__in=open_now).delete()
    return list(noted.filter(session__in=open_now))


def end_sessions(signed_in: list[SignedIn]) -> None:
    """Signs somebody out wherever that is."""
    keys = [one.session for one in signed_in]
    Session.objects.filter(session_key__in=keys).delete()
    SignedIn.objects.filter(session__in=keys).delete()
