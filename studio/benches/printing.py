"""The print bench of a study: its page, and what the workers make for it.

Work comes in pieces, in the lane of long work, so that it shows its progress and can be stopped.
"""

from __future__ import annotations

from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils.http import content_disposition_header
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.benches.printing.printer import Printer
from ovolo.problems import Failure
from studio.benches.profiles import own_text, profiles_of
from studio.engine import pool, printing, wire
from studio.engine.requests import body_of, failures_told, job_of, worked
from studio.projects.access import Right, files_of, study_with
from studio.projects.models import Study

_SECONDS = 60.0
MOST_LAYERS = 60
"""So many layers one request may ask for."""


@login_required
@ensure_csrf_cookie
@require_GET
def page(request: HttpRequest, study_id: int) -> HttpResponse:
    """The page, set up as it was left."""
    study = study_with(request, study_id, Right.TURN)
    kept = study.benches.filter(machine=Printer.MACHINE).first()
    state = {
        "study": study.pk,
        "title": study.title,
        "kind": "print",
        "profiles": profiles_of(request, Printer.MACHINE),
        "kept": kept.said if kept else {},
    }
    return render(request, "benches/print.html", {"study": study, "state": state})


@login_required
@require_POST
def lay(request: HttpRequest, study_id: int) -> HttpResponse:
    """The bodies on their plates, in layers."""
    return _worked_out(request, study_id, printing.lay)


@login_required
@require_POST
def layer_figures(request: HttpRequest, study_id: int) -> HttpResponse:
    """What some layers take."""
    return _worked_out(request, study_id, printing.layer_figures)


@login_required
@require_POST
def one_layer(request: HttpRequest, study_id: int) -> HttpResponse:
    """The lines of a layer."""
    return _worked_out(request, study_id, printing.one_layer)


@login_required
@require_POST
def run(request: HttpRequest, study_id: int) -> HttpResponse:
    """What the simulated printer lays down of some layers."""
    return _worked_out(request, study_id, printing.run)


@failures_told
def _worked_out(request: HttpRequest, study_id: int, task: Any) -> HttpResponse:
    study = study_with(request, study_id, Right.TURN)
    return JsonResponse(_work(request, study, task, _asked(request), _SECONDS))


def _asked(request: HttpRequest) -> dict[str, Any]:
    """What is asked for, with the text of one's own profile."""
    asked = wire.read(wire.BenchAsked, body_of(request))
    if asked.last - asked.first > MOST_LAYERS:
        raise Failure(f"so many layers are not given at once, but {MOST_LAYERS} at most")
    if asked.at is not None and len(asked.at) != 3:
        raise Failure("the request cannot be read", "`at` is wrong")
    return {**vars(asked), "profile": own_text(request, Printer.MACHINE, asked.machine)}


def _work(request: HttpRequest, study: Study, task: Any, asked: dict[str, Any], seconds: float) -> Any:  # fmt: skip
    files = files_of(study, study.text)
    return worked(request, task, study.text, files, asked, study=study.pk, job=job_of(request), seconds=seconds)  # fmt: skip


@login_required
@require_POST
@failures_told
def code(request: HttpRequest, study_id: int) -> HttpResponse:
    """The G-code of a plate."""
    study = study_with(request, study_id, Right.HAND_OVER)
    asked = {**_asked(request), "title": study.title}
    made = _work(request, study, printing.code, asked, pool.HAND_OVER_KILL_AFTER)
    response = HttpResponse(made, content_type="text/x-gcode; charset=ascii")
    name = f"{study.title}, plate {asked['plate'] + 1}.gcode"
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response


@login_required
@require_POST
@failures_told
def keep(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keeps how the study is set up on the bench."""
    study = study_with(request, study_id, Right.EDIT)
    said = wire.read(wire.BenchKept, body_of(request))
    study.benches.update_or_create(machine=Printer.MACHINE, defaults={"said": vars(said)})
    return JsonResponse({})
