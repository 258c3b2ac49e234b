"""The reference: found by name or by need, one page for each entry, its example tried where it stands. Public."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.problems import Failure
from ovolo.writing.starting import starting_point, starting_points
from studio.accounts.throttle import throttled
from studio.engine import answers, tasks, wire
from studio.engine.requests import body_of, failures_told, worked
from studio.projects.access import projects_of, rights_to
from studio.projects.models import Project
from studio.reference.rules import chapters
from studio.rights.right import Right

if TYPE_CHECKING:
    from ovolo.calling.trying import TriedSaid

_LONGEST = 200


@require_GET
def rule(request: HttpRequest, key: str) -> HttpResponse:
    """A chapter of the rules of the language."""
    found = next((one for one in chapters() if one.key == key), None)
    if found is None:
        raise Http404("There is no such chapter.")
    return _shown(request, {"chapter": found})


@require_GET
def messages(request: HttpRequest) -> HttpResponse:
    """All that can be said to be wrong, with what helps."""
    return _shown(request, {"rooms": _asked(request, tasks.all_messages) or []})


@ensure_csrf_cookie
@require_GET
def how_to(request: HttpRequest, key: str) -> HttpResponse:
    """A job done step by step: a starting point explained, with its picture, to be tried where it stands."""
    try:
        found = starting_point(key)
    except Failure:
        raise Http404("There is no such page.") from None
    return _shown(request, {"point": found, "projects": _own_projects(request)})


@require_GET
def page(request: HttpRequest) -> HttpResponse:
    """What serves a need (`?find=`), or all there is by what it is for."""
    asked = request.GET.get("find", "").strip()[:_LONGEST]
    found = (_asked(request, tasks.found_words, asked) or {}) if asked else {}
    points = [starting_point(key) for key in found.get("points", ())]
    shown = {
        "asked": asked,
        "found": found.get("words"),
        "points": points,
        "meant": found.get("messages"),
    }
    return _shown(request, shown)


@require_GET
@failures_told
def find(request: HttpRequest) -> JsonResponse:
    """The entries that serve a need, the best first, for the panel of the workspace."""
    asked = request.GET.get("find", "").strip()[:_LONGEST]
    found = worked(request, tasks.found_words, asked, seconds=15.0)
    told: answers.FoundSaid = {
        "found": [one["key"] for one in found["words"]],
        "points": list(found["points"]),
    }
    return JsonResponse(told)


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
    return _shown(request, {"entry": told, "projects": _own_projects(request)})


def _own_projects(request: HttpRequest) -> list[Project]:
    """Where the person who looks may make a study."""
    if not request.user.is_authenticated:
        return []
    return [one for one in projects_of(request) if Right.MAKE in rights_to(one, request)]


@require_POST
@throttled("try")
@failures_told
def attempt(request: HttpRequest) -> HttpResponse:
    """What a small sheet yields; nothing is kept of it."""
    asked = wire.read(wire.SheetTried, body_of(request))
    told: TriedSaid = worked(request, tasks.tried, asked.text)
    return JsonResponse(told)


def _shown(request: HttpRequest, context: dict[str, Any]) -> HttpResponse:
    trades = _asked(request, tasks.words_by_trade) or []
    known = {"trades": trades, "how_tos": starting_points(), "chapters": chapters()}
    return render(request, "reference/page.html", {**known, **context})


def _asked(request: HttpRequest, task: Any, *arguments: Any) -> Any:
    """What a worker knows; None where all are busy, so that the page is there all the same."""
    try:
        return worked(request, task, *arguments, seconds=15.0)
    except Failure:
        return None
