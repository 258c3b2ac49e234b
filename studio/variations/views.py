"""The page of variations, and what is worked out for it and for the workspace beside it.

A plan's trials are asked for in pieces, so that they are seen as they come and can be stopped; they are
made in the lane of long work, or on the cluster that `OVOLO_CLUSTER` names.
"""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils.http import content_disposition_header
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.exploring.answers import PlanSaid
from ovolo.formats.attached import Files
from ovolo.problems import Failure
from studio.engine import answers, explore, pool, tasks, wire
from studio.engine.cluster import on_cluster
from studio.engine.requests import body_of, failures_told, job_of, worked
from studio.handover.menu import menu
from studio.projects.access import entered, files_of, study_with
from studio.projects.as_seen import text_as_seen
from studio.projects.models import Study
from studio.projects.pictures import state_shown
from studio.rights.right import Right
from studio.variations.contact_sheets import sheets_of
from studio.workspace.views import SCENE

MOST_AT_ONCE = 200
"""So many trials one request may ask for."""

_SECONDS = 60.0
_BAND_SECONDS = 6.0


@entered
@ensure_csrf_cookie
@require_GET
def page(request: HttpRequest, study_id: int) -> HttpResponse:
    """The page, with what can be varied already in it."""
    study = study_with(request, study_id, Right.TURN)
    try:
        outline = _work(request, study, explore.outline, {})
        said = ""
    except Failure as failure:
        outline, said = {"axes": [], "fixed": [], "values": []}, failure.said
    state = {
        "study": study.pk,
        "revision": study.head_id,
        "title": study.title,
        "refused": said,
        "sheets": sheets_of(study),
        "shown": state_shown(study),
        **outline,
    }
    files = [{"file": one["file"], "said": one["said"]} for one in menu() if not one["file"].endswith(".zip")]  # fmt: skip
    return render(request, "variations/page.html", {"study": study, "state": state, "files": files})


@entered
@require_GET
@failures_told
def varied(request: HttpRequest, study_id: int) -> HttpResponse:
    """What can be varied by now."""
    study = study_with(request, study_id, Right.TURN)
    return JsonResponse(_work(request, study, explore.outline, {}))


def _work(
    request: HttpRequest, study: Study, task: Any, *arguments: Any, revision: int | None = None, **how: Any
) -> Any:  # fmt: skip
    """What a worker makes of the text of a study, or of one of its revisions, with its files. Raises Failure."""
    given = (*_seen(study, revision), *arguments)
    return worked(request, task, *given, study=study.pk, job=job_of(request), **how)


def _long(request: HttpRequest, study: Study, task: Any, *arguments: Any, **how: Any) -> Any:
    return _work(request, study, task, *arguments, seconds=_SECONDS, **how)


def _seen(study: Study, revision: int | None) -> tuple[str, Files]:
    """The text of a revision, and its files; of the newest where none is named. What a page shows together is of one,
    whoever changes the study meanwhile."""
    text = text_as_seen(study, revision)
    return text, files_of(study, text)


@entered
@require_POST
@failures_told
def plan(request: HttpRequest, study_id: int) -> HttpResponse:
    """How many trials a plan has, and of which revision."""
    study = study_with(request, study_id, Right.TURN)
    asked = wire.read(wire.PlanAsked, body_of(request))
    made: PlanSaid = _work(request, study, explore.plan, asked.plan, asked.set or {}, revision=asked.revision)  # fmt: skip
    told: answers.PlanMadeSaid = {**made, "revision": asked.revision or study.head_id}
    return JsonResponse(told)


@entered
@require_POST
@failures_told
def trials(request: HttpRequest, study_id: int) -> HttpResponse:
    """Some trials of a plan."""
    study = study_with(request, study_id, Right.TURN)
    asked = wire.read(wire.PlanAsked, body_of(request))
    if not 0 <= asked.first <= asked.last <= asked.first + MOST_AT_ONCE:
        raise Failure("so many trials are not given at once", f"at most {MOST_AT_ONCE}")
    more = (asked.plan, asked.set or {}, asked.first, asked.last, asked.parts)
    if (made := on_cluster(_SECONDS, explore.trials, *_seen(study, asked.revision), *more)) is None:
        made = _long(request, study, explore.trials, *more, revision=asked.revision)
    return JsonResponse(made)


@entered
@require_POST
@failures_told
def small_picture(request: HttpRequest, study_id: int) -> HttpResponse:
    """The scene of one setting, coarse."""
    study = study_with(request, study_id, Right.TURN)
    asked = wire.read(wire.PictureAsked, body_of(request))
    more = (asked.set, asked.held)
    scene = _long(request, study, explore.small_picture, *more, revision=asked.revision)
    return HttpResponse(scene, content_type=SCENE)


@entered
@require_POST
@failures_told
def aim(request: HttpRequest, study_id: int) -> HttpResponse:
    """What makes a value what is wanted."""
    study = study_with(request, study_id, Right.TURN)
    asked = wire.read(wire.AimAsked, body_of(request))
    what = {"name": asked.name, "goal": asked.goal, "by": asked.by}
    return JsonResponse(_long(request, study, explore.aim, what, asked.set or {}, revision=asked.revision))  # fmt: skip


@entered
@require_POST
def reach(request: HttpRequest, study_id: int) -> HttpResponse:
    """How far each input moves a value."""
    return _along(request, study_id, explore.reach)


@entered
@require_POST
def bands(request: HttpRequest, study_id: int) -> HttpResponse:
    """Where the study fails along an input."""
    return _along(request, study_id, explore.bands, _BAND_SECONDS)


@failures_told
def _along(request: HttpRequest, study_id: int, task: Any, *more: Any) -> HttpResponse:
    study = study_with(request, study_id, Right.TURN)
    asked = wire.read(wire.AlongAsked, body_of(request))
    given = (asked.name, asked.set or {}, *more)
    return JsonResponse(_long(request, study, task, *given, revision=asked.revision))


@entered
@require_POST
@failures_told
def proof(request: HttpRequest, study_id: int) -> HttpResponse:
    """What breaks at the limits, and what is proved."""
    study = study_with(request, study_id, Right.TURN)
    asked = wire.read(wire.AlongAsked, body_of(request))
    return JsonResponse(_long(request, study, explore.proof, asked.set or {}, revision=asked.revision))  # fmt: skip


@entered
@require_POST
@failures_told
def compare(request: HttpRequest, study_id: int) -> HttpResponse:
    """What differs between settings, moments of the history, and studies."""
    study = study_with(request, study_id, Right.TURN)
    asked = wire.read(wire.CompareAsked, body_of(request))
    if not 2 <= len(asked.sides) <= 4:
        raise Failure(f"{len(asked.sides)} things cannot be compared", "from 2 to 4")
    sides = [_side(request, study, one) for one in asked.sides]
    found = worked(request, explore.compare, sides, study=study.pk, job=job_of(request), seconds=_SECONDS)  # fmt: skip
    return JsonResponse(found)


@entered
@require_GET
@failures_told
def comparable(request: HttpRequest, study_id: int) -> HttpResponse:
    """The other studies of the project that offer the same inputs."""
    study = study_with(request, study_id, Right.TURN)
    others = list(study.project.studies.select_related("head").exclude(pk=study.pk))
    own, *offered = worked(request, tasks.inputs_of, [study.text, *(one.text for one in others)], study=study.pk)  # fmt: skip
    same = [one for one, inputs in zip(others, offered, strict=True) if set(inputs) == set(own)]
    told: answers.StudiesSaid = {"studies": [{"study": one.pk, "title": one.title} for one in same]}
    return JsonResponse(told)


def _side(request: HttpRequest, study: Study, said: Any) -> tuple[str, str, Files, dict[str, Any]]:
    """One side of a comparison: a setting of the study, a moment of it, or another study."""
    one = wire.read(wire.Side, said if isinstance(said, dict) else {})
    of = study if one.study is None else study_with(request, one.study, Right.TURN)
    text = text_as_seen(of, one.moment)
    return one.title[:120], text, files_of(of, text), one.set or {}


@entered
@require_POST
@failures_told
def table(request: HttpRequest, study_id: int) -> HttpResponse:
    """Trials as CSV."""
    study = study_with(request, study_id, Right.TURN)
    asked = wire.read(wire.TableAsked, body_of(request))
    if not all(isinstance(one, dict) and "why" in one for one in asked.trials):
        raise Failure("the trials cannot be read")
    made = worked(request, explore.table, asked.trials, [str(one) for one in asked.values], study=study.pk)  # fmt: skip
    return _file(made.encode(), "trials.csv", "text/csv; charset=utf-8")


@entered
@require_POST
@failures_told
def trial_files(request: HttpRequest, study_id: int) -> HttpResponse:
    """A ZIP with a file for each of some trials."""
    study = study_with(request, study_id, Right.HAND_OVER)
    asked = wire.read(wire.FilesAsked, body_of(request))
    numbers = [one for one in asked.numbers if isinstance(one, int)]
    more = (asked.plan, asked.set or {}, numbers, asked.file)
    made = _work(
        request, study, explore.files_of_trials, *more, revision=asked.revision, seconds=pool.HAND_OVER_KILL_AFTER
    )  # fmt: skip
    return _file(made, "trials.zip", "application/zip")


def _file(data: bytes, name: str, kind: str) -> HttpResponse:
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response
