"""How often anybody may do what costs others, or could be tried until it succeeds."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import render
from django_ratelimit import ALL
from django_ratelimit.core import is_ratelimited

RATES = {
    "sign-in": ("ip", "30/m"),
    "sign-up": ("ip", "10/h"),
    "reset": ("ip", "10/h"),
    "invite": ("user", "60/h"),
    "leave": ("user", "10/h"),
    "export": ("user", "20/h"),
    "pack": ("user", "60/h"),
    "try": ("ip", "120/m"),
    "api": ("user", "300/m"),
    "token": ("user", "60/h"),
}
"""What is counted, by whom (the address it comes from, or the person signed in), and how often."""

View = Callable[..., HttpResponseBase]


def throttled(what: str, method: str = "POST") -> Callable[[View], View]:
    """A view of which only so many requests by a method are taken in a time; more are refused in words (429)."""

    def limited(view: View) -> View:
        @wraps(view)
        def counted(request: HttpRequest, *given: Any, **named: Any) -> HttpResponseBase:
            if often(request, what, method):
                return too_often(request)
            return view(request, *given, **named)

        return counted

    return limited


def often(request: HttpRequest, what: str, method: Any = ALL) -> bool:
    """Whether something was asked for too often, this time counted where it is by that method."""
    key, rate = RATES[what]
    return bool(
        is_ratelimited(request, group=what, key=key, rate=rate, method=method, increment=True)
    )


def too_often(request: HttpRequest, *_: Any) -> HttpResponse:
    """What is said to who has tried too often; also by the package that counts refused sign-ins."""
    return render(request, "people/too_often.html", status=429)
