"""The cutting bench of a study: its page, and what the workers make for it."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.benches.cutting.cutter import Cutter
from studio.benches.setting_up import asked_of, handed, handed_over, kept, page_state, worked_out
from studio.engine import cutting, pool
from studio.engine.requests import failures_told
from studio.projects.access import entered, study_with
from studio.rights.right import Right

FILES = (
    ("dxf", "This sheet as DXF", "image/vnd.dxf"),
    ("svg", "This sheet as SVG", "image/svg+xml"),
    ("gcode", "Its G-code", "text/x-gcode"),
    ("pdf", "Labels of all pieces", "application/pdf"),
    ("csv", "The cut list as CSV", "text/csv; charset=utf-8"),
)


@entered
@ensure_csrf_cookie
@require_GET
def page(request: HttpRequest, study_id: int) -> HttpResponse:
    """The page, set up as it was left."""
    study = study_with(request, study_id, Right.TURN)
    state = page_state(request, study, Cutter, "cut")
    return render(request, "benches/cut.html", {"study": study, "state": state, "files": FILES})


@entered
@require_POST
def lay(request: HttpRequest, study_id: int) -> HttpResponse:
    """The pieces on their sheets and bars."""
    return worked_out(
        request, study_id, cutting.lay, Cutter, begins=True, anywhere=True, seconds=pool.HAND_OVER_KILL_AFTER
    )  # fmt: skip


@entered
@require_POST
def run(request: HttpRequest, study_id: int) -> HttpResponse:
    """What the simulated cutter makes of a sheet."""
    return worked_out(request, study_id, cutting.run, Cutter)


@entered
@require_POST
@failures_told
def file(request: HttpRequest, study_id: int, ending: str) -> HttpResponse:
    """A file of a sheet, or of all of them."""
    study = study_with(request, study_id, Right.HAND_OVER)
    asked = {**asked_of(request, Cutter), "title": study.title, "file": ending}
    made = handed(request, study, cutting.file, asked)
    kind = next(kind for known, _, kind in FILES if known == ending)
    whole = {"pdf": "labels", "csv": "cut list"}
    what = whole.get(ending) or f"sheet {asked['plate'] + 1}"
    return handed_over(made, f"{study.title}, {what}.{ending}", kind)


@entered
@require_POST
def keep(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keeps how the study is set up on the bench."""
    return kept(request, study_id, Cutter)
