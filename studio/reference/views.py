"""The reference: found by name or by need, one page for each entry, its example tried where it stands. Public."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.problems import Failure
from studio.accounts.throttle import throttled
from studio.engine import tasks, wire
from studio.engine.requests import body_of, failures_told, worked
from studio.projects.access import projects_of, rights_to
from studio.rights.right import Right

_LONGEST = 200


@require_GET
def page(request: HttpRequest) -> HttpResponse:
    """What serves a need (`?find=`), or all there is by what it is for."""
    asked = request.GET.get("find", "").strip()[:_LONGEST]
    return _shown(
        request,
        {"asked": asked, "found": _asked(request, tasks.found_words, asked) if asked else None},
    )


@require_GET
@failures_told
def find(request: HttpRequest) -> JsonResponse:
    """The entries that serve a need, the best first, for the panel of the workspace."""
    asked = request.GET.get("find", "").strip()[:_LONGEST]
    return JsonResponse(
        {"found": [one["key"] for one in worked(request, tasks.found_words, asked, seconds=15.0)]}
    )


@ensure_csrf_cookie
@require_GET
def entry(request: HttpRequest, sort: str, name: str) -> HttpResponse:
    """One word, line, operator or unit."""
    try:
        told = worked(request, tasks.explained, sort, name, seconds=15.0)
    except Failure as failure:
        told = {"sort": sort, "name": name, "meaning": failure.said}
    if told is None:
        raise Http404("There is no such word.")
    person = request.user.is_authenticated
    own = (
        [one for one in projects_of(request) if Right.MAKE in rights_to(one, request)]
        if person
        else []
    )
    return _shown(request, {"entry": told, "projects": own})


@require_POST
@throttled("try")
@failures_told
def attempt(request: HttpRequest) -> HttpResponse:
    """What a small sheet yields; nothing is kept of it."""
    asked = wire.read(wire.SheetTried, body_of(request))
    return JsonResponse(worked(request, tasks.tried, asked.text))


def _shown(request: HttpRequest, context: dict[str, Any]) -> HttpResponse:
    trades = _asked(request, tasks.words_by_trade) or []
    return render(request, "reference/page.html", {"trades": trades, **context})


def _asked(request: HttpRequest, task: Any, *arguments: Any) -> Any:
    """What a worker knows; None where all are busy, so that the page is there all the same."""
    try:
        return worked(request, task, *arguments, seconds=15.0)
    except Failure:
        return None
