"""Handing parts over as files."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from django.utils.timezone import localtime
from django.views.decorators.http import require_GET

from ovolo.problems import Failure
from studio.engine import pool, tasks
from studio.engine.requests import job_of, json_object, number_said, whose
from studio.handover.menu import may_take
from studio.projects.access import entered, files_of, link_of, study_with
from studio.projects.as_seen import text_as_seen
from studio.projects.models import Study
from studio.rights.right import Right

_OF_THE_STUDY = ("part", "revision", "set")
"""What a query says of the study: some of its parts, the revision that the window shows, and what is turned there."""


@entered
@require_GET
def download(request: HttpRequest, study_id: int, file_name: str) -> HttpResponse:
    """The file with the parts named in the query (`?part=treads`), or with all that it takes; what
    else the query says are options of its format (`?unit=in`)."""
    study = _takeable(request, study_id, file_name)
    options = {name: said for name, said in request.GET.items() if name not in _OF_THE_STUDY}
    asked = {"parts": request.GET.getlist("part"), "options": options}
    return _file(request, study, file_name, tasks.export, asked)


@entered
@require_GET
def sheet(request: HttpRequest, study_id: int, file_name: str) -> HttpResponse:
    """A sheet of paper with a drawing; the query says how it is laid out."""
    study = _takeable(request, study_id, file_name)
    said: dict[str, Any] = {key: request.GET.get(key, "") for key in _LAYOUT}
    if request.GET.get("moments") and Right.READ in study.rights:
        said["revisions"] = named_moments(study)
    return _file(
        request,
        study,
        file_name,
        tasks.export_sheet,
        {**said, "parts": request.GET.getlist("part")},
    )


def _takeable(request: HttpRequest, study_id: int, file_name: str) -> Study:
    """The study, where who asks may take this kind of file from it; otherwise it is not found."""
    study = study_with(request, study_id, Right.HAND_OVER)
    if not may_take(link_of(request), file_name):
        raise Http404("This link does not give such files.")
    return study


_LAYOUT = (
    "view", "paper", "upright", "scale", "names", "key", "author", "preset", "figures", "dashed", "schedule", "checks",
)  # fmt: skip


def named_moments(study: Study) -> list[tuple[str, str, str]]:
    """The moments of the history that a person named: the name, the date, by whom."""
    named = study.revisions.exclude(name="").select_related("author").defer("text").order_by("pk")
    return [
        (one.name, localtime(one.created).date().isoformat(), str(one.author or ""))
        for one in named
    ]


def _file(
    request: HttpRequest, study: Study, file_name: str, task: Callable[..., bytes], how: Any
) -> HttpResponse:
    """What a worker makes, as a file, of the study as the window shows it (`?revision=`, `?set={"width": 40}`)."""
    try:
        text = text_as_seen(study, number_said(request.GET.get("revision", "")) or None)
        turned = json_object(request.GET.get("set", ""))
        data = pool.run(
            task, text, file_name, {**how, "set": turned}, files_of(study, text),
            seconds=pool.HAND_OVER_KILL_AFTER, job=job_of(request), who=whose(request, study.pk, looks=True),
        )  # fmt: skip
    except pool.Busy as busy:
        return _refused(busy.said, 429)
    except Failure as failure:
        return _refused(failure.said)
    except pool.Stopped as stopped:
        return _refused(f"The hand-over was given up: {stopped}.")
    response = HttpResponse(data, content_type="application/octet-stream")
    response["Content-Disposition"] = content_disposition_header(True, file_name) or "attachment"
    return response


def _refused(said: str, status: int = 400) -> HttpResponse:
    return HttpResponse(said, status=status, content_type="text/plain; charset=utf-8")
