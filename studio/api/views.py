"""The interface for programs. Everything is reached by a token, with the rights of its person."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.utils.http import content_disposition_header
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from ovolo.problems import Failure
from ovolo.sheet.reader import MOST_CHARACTERS, title_of
from studio.accounts.throttle import often
from studio.accounts.tokens import person_of
from studio.api import messages
from studio.api.description import description
from studio.engine import pool, tasks, wire
from studio.engine.requests import body_of, job_of, refused, worked
from studio.projects.access import files_of, projects_of, rights_to, study_with
from studio.projects.models import OutOfDate, Study
from studio.rights.right import Right


def _said(status: int, message: str, hint: str = "") -> JsonResponse:
    return JsonResponse({"message": message, "hint": hint}, status=status)


def by_token(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """A view for whoever a token acts for; what is refused is told as JSON."""

    @csrf_exempt
    @wraps(view)
    def acted(request: HttpRequest, *given: Any, **named: Any) -> HttpResponse:
        scheme, _, token = request.headers.get("Authorization", "").partition(" ")
        person = person_of(token.strip()) if scheme.lower() == "bearer" else None
        if person is None:
            answer = _said(401, "This needs a token.", "Authorization: Bearer …; tokens are made on the page of your account")  # fmt: skip
            answer["WWW-Authenticate"] = "Bearer"
            return answer
        request.user = person
        if often(request, "api"):
            return _said(429, "Too much is asked for.", "at most 300 requests a minute")
        try:
            return view(request, *given, **named)
        except Failure as failure:
            return refused(failure)
        except Http404 as missing:
            return _said(404, str(missing))

    return acted


@require_GET
def openapi(request: HttpRequest) -> JsonResponse:
    """The description of all this."""
    return JsonResponse(description())


@csrf_exempt
def nothing(request: HttpRequest, rest: str) -> JsonResponse:
    """Any other address: not found, told as all else here."""
    return _said(404, "There is nothing at this address.", "/api/openapi.json says what there is")


@by_token
@require_GET
def studies(request: HttpRequest) -> JsonResponse:
    found = []
    for project in projects_of(request):
        rights = rights_to(project, request)
        for study in project.studies.all():
            study.rights = rights
            found.append(_told(study))
    return JsonResponse(found, safe=False)


def _told(study: Study) -> dict[str, Any]:
    return {
        "id": study.pk,
        "title": study.title,
        "project": study.project.title,
        "revision": study.head_id,
        "changed": study.changed.isoformat(),
        "may": sorted(right.name.lower() for right in study.rights),
    }


@by_token
@require_http_methods(["GET", "PUT"])
def study(request: HttpRequest, number: int) -> JsonResponse:
    """A study with its text; or a new text for it, made from the revision it names."""
    if request.method == "PUT":
        return _save(request, number)
    found = _study(request, number, Right.READ)
    return JsonResponse({**_told(found), "text": found.text})


def _study(request: HttpRequest, number: int, right: Right) -> Study:
    if number > 2**63 - 1:
        raise Http404("There is no such study among yours.")
    return study_with(request, number, right)


def _save(request: HttpRequest, number: int) -> JsonResponse:
    found = _study(request, number, Right.EDIT)
    asked = wire.read(messages.Save, body_of(request))
    if len(asked.text) > MOST_CHARACTERS or "\0" in asked.text:
        raise Failure("this is no sheet", f"plain text of at most {MOST_CHARACTERS:,} characters")
    try:
        found.save_text(asked.text, asked.revision, asked.said or "saved by a program")
    except OutOfDate:
        return _said(409, "The study was changed since that revision.", "read it again")
    found.take_title(title_of(found.text))
    return JsonResponse({**_told(found), "text": found.text})


@by_token
@require_POST
def evaluate(request: HttpRequest, number: int) -> JsonResponse:
    found = _study(request, number, Right.TURN)
    asked = wire.read(messages.Evaluate, body_of(request))
    files = files_of(found, found.text)
    told = worked(request, tasks.evaluated, found.text, vars(asked), files, study=found.pk)
    return JsonResponse(told)


@by_token
@require_POST
def hand_over(request: HttpRequest, number: int) -> HttpResponse:
    found = _study(request, number, Right.HAND_OVER)
    asked = wire.read(messages.HandOver, body_of(request))
    data = worked(
        request, tasks.handed_over, found.text, vars(asked), files_of(found, found.text),
        study=found.pk, seconds=pool.HAND_OVER_KILL_AFTER, job=job_of(request),
    )  # fmt: skip
    response = HttpResponse(data, content_type="application/octet-stream")
    name = "".join(one for one in asked.file if one.isprintable())[-120:]
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response
