"""The print bench of a study: its page, and what the workers make for it.

Work comes in pieces, in the lane of long work, so that it shows its progress and can be stopped.
"""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.benches.printing.printer import Printer
from studio.benches.setting_up import asked_of, handed, handed_over, kept, page_state, worked_out
from studio.engine import printing
from studio.engine.requests import failures_told
from studio.projects.access import entered, study_with
from studio.rights.right import Right


@entered
@ensure_csrf_cookie
@require_GET
def page(request: HttpRequest, study_id: int) -> HttpResponse:
    """The page, set up as it was left."""
    study = study_with(request, study_id, Right.TURN)
    state = page_state(request, study, Printer, "print")
    return render(request, "benches/print.html", {"study": study, "state": state})


@entered
@require_POST
def lay(request: HttpRequest, study_id: int) -> HttpResponse:
    """The bodies on their plates, in layers."""
    return worked_out(request, study_id, printing.lay, Printer, begins=True)


@entered
@require_POST
def layer_figures(request: HttpRequest, study_id: int) -> HttpResponse:
    """What some layers take."""
    return worked_out(request, study_id, printing.layer_figures, Printer, anywhere=True)


@entered
@require_POST
def one_layer(request: HttpRequest, study_id: int) -> HttpResponse:
    """The lines of a layer."""
    return worked_out(request, study_id, printing.one_layer, Printer)


@entered
@require_POST
def run(request: HttpRequest, study_id: int) -> HttpResponse:
    """What the simulated printer lays down of some layers."""
    return worked_out(request, study_id, printing.run, Printer)


@entered
@require_POST
@failures_told
def code(request: HttpRequest, study_id: int) -> HttpResponse:
    """The G-code of a plate."""
    study = study_with(request, study_id, Right.HAND_OVER)
    asked = {**asked_of(request, Printer), "title": study.title}
    made = handed(request, study, printing.code, asked)
    return handed_over(made, f"{study.title}, plate {asked['plate'] + 1}.gcode", "text/x-gcode")


@entered
@require_POST
def keep(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keeps how the study is set up on the bench."""
    return kept(request, study_id, Printer)
