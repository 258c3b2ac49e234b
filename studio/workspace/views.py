"""The workspace of a study: its page, and what is worked out for it."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from django.core.cache import cache
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils.cache import patch_cache_control
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import conditional_page, require_GET, require_POST

from ovolo.drawing.standards import FOOT_SCALES, PAPERS, SCALES, said_scale
from ovolo.drawing.sun import sun_at
from ovolo.formats.attached import MOST_BYTES, attachable, attached_as
from ovolo.formats.format import on_paper
from ovolo.outcome.scene import bare_header, packed
from ovolo.problems import Failure
from ovolo.sheet.reader import MOST_CHARACTERS
from studio.accounts.names import name_of
from studio.engine import answers, pool, tasks, wire
from studio.engine.requests import body_of, failures_told, job_of, whose, worked
from studio.handover.menu import menu
from studio.learning.views import is_guided
from studio.projects.access import entered, files_of, link_of, study_with
from studio.projects.as_seen import text_as_seen
from studio.projects.models import Study
from studio.projects.pictures import state_shown
from studio.rights.right import Right
from studio.workspace.state import state_of

SCENE = "application/vnd.ovolo.scene"


@entered
@ensure_csrf_cookie
def study_page(request: HttpRequest, study_id: int, embedded: bool = False) -> HttpResponse:
    """The page, with the sheet's lines already in it; values and picture follow."""
    study = study_with(request, study_id, Right.VIEW)
    link = link_of(request)
    owner = study.project.owner
    state = {
        "study": study.pk,
        "address": request.path.removesuffix("embed"),
        "author": "" if link else name_of(owner),
        "guided": is_guided(request, study),
        **state_of(study),
        **lines_of(request, study.text),
    }
    page = {
        "guided": state["guided"],
        "study": study, "state": state, "may": [right.name.lower() for right in study.rights], "link": link, "embedded": embedded,
        "preview": request.build_absolute_uri(state["address"] + "picture.png"), "most_bytes": MOST_BYTES,
        "hand_overs": menu(link), "attachable": attachable(), "attached_as": attached_as(),
        "on_paper": [*reversed(on_paper().values())], "papers": PAPERS,
        "scales": [said_scale(one) for one in SCALES], "foot_scales": [said_scale(one) for one in FOOT_SCALES],
    }  # fmt: skip
    return render(request, "workspace/study.html", page)


def lines_of(request: HttpRequest, text: str) -> dict[str, Any]:
    """The statements of a sheet as the screen shows them; its bare lines, where all are busy."""
    try:
        return dict(worked(request, tasks.header, text))
    except Failure:
        return bare_header(text)


@entered
@require_GET
def state(request: HttpRequest, study_id: int) -> HttpResponse:
    """Where the study stands: for a window that wants to know whether another changed it."""
    return JsonResponse(state_of(study_with(request, study_id, Right.VIEW)))


@entered
@require_GET
def standing(request: HttpRequest, study_id: int) -> HttpResponse:
    """In which state the study is, with what it rests on: for a page that wants to know whether it is another by now."""
    told: answers.StandingSaid = {"shown": state_shown(study_with(request, study_id, Right.VIEW))}
    return JsonResponse(told)


@entered
@require_POST
@failures_told
def evaluate(request: HttpRequest, study_id: int) -> HttpResponse:
    """The scene of a revision of the study, or of a text that is being typed, with some inputs
    at other values for the moment."""
    study = study_with(request, study_id, Right.TURN)
    asked = _asked(request)
    text = _text_asked_for(study, asked)
    try:
        scene = pool.run(
            tasks.scene, text, asked.as_task(), files_of(study, text),
            job=job_of(request), who=whose(request, study_id, turn=True),
        )  # fmt: skip
    except pool.Stopped as stopped:
        header = {**lines_of(request, text), "stopped": f"This evaluation was given up: {stopped}."}
        scene = packed(header)
    return HttpResponse(scene, content_type=SCENE)


@entered
@require_POST
@failures_told
def turned(request: HttpRequest, study_id: int) -> HttpResponse:
    """What an edit that only turns inputs turns them to, for who may not change the sheet."""
    study = study_with(request, study_id, Right.TURN)
    files = files_of(study, study.text)
    return JsonResponse(
        worked(request, tasks.turned, study.text, body_of(request), files, study=study_id)
    )


@entered
@require_POST
def moves(request: HttpRequest, study_id: int) -> HttpResponse:
    """What an input moves."""
    return _worked_out(request, study_id, tasks.moves)


@entered
@require_POST
def item(request: HttpRequest, study_id: int) -> HttpResponse:
    """The local values that made an item of a part."""
    return _worked_out(request, study_id, tasks.item)


@entered
@require_POST
def numbers(request: HttpRequest, study_id: int) -> HttpResponse:
    """The numbers of the items of all parts."""
    return _worked_out(request, study_id, tasks.numbers)


@entered
@require_POST
def measure(request: HttpRequest, study_id: int) -> HttpResponse:
    """What was picked on the stage, measured."""
    return _worked_out(request, study_id, tasks.measure)


@entered
@require_POST
def outline(request: HttpRequest, study_id: int) -> HttpResponse:
    """The lines that draw through some corners (`picks`) in a view (`name`)."""
    return _worked_out(request, study_id, tasks.outline)


@entered
@require_POST
def schedule(request: HttpRequest, study_id: int) -> HttpResponse:
    """The distinct pieces of the study, and what to cut them from."""
    return _worked_out(request, study_id, tasks.schedule)


@entered
@require_POST
def bars(request: HttpRequest, study_id: int) -> HttpResponse:
    """The pieces of the study cut from bars."""
    return _worked_out(request, study_id, tasks.bars, wire.BarsAsked)


@require_GET
@conditional_page
@failures_told
def vocabulary(request: HttpRequest) -> HttpResponse:
    """The words of the language and lines ready to fill, for the editor: half a megabyte, that a browser
    asks for again only where it is another."""
    words = cache.get_or_set(
        "vocabulary", lambda: worked(request, tasks.vocabulary, seconds=15.0), None
    )
    response = HttpResponse(words, content_type="application/json")
    patch_cache_control(response, private=True, max_age=300)
    return response


@failures_told
def _worked_out(
    request: HttpRequest,
    study_id: int,
    task: Callable[..., Any],
    kind: type[wire.Asked] = wire.Asked,
) -> HttpResponse:
    study = study_with(request, study_id, Right.TURN)
    asked = wire.read(kind, body_of(request))
    text = _text_asked_for(study, asked)
    return JsonResponse(
        worked(request, task, text, asked.as_task(), files_of(study, text), study=study_id)
    )


def _asked(request: HttpRequest) -> wire.Asked:
    return wire.read(wire.Asked, body_of(request))


def _text_asked_for(study: Study, asked: wire.Asked) -> str:
    """The text that is being typed, or that of a revision; of the head where none is named."""
    if asked.text is None or Right.READ not in study.rights:
        return text_as_seen(study, asked.revision)
    if len(asked.text) > MOST_CHARACTERS:
        raise Failure(f"a sheet has at most {MOST_CHARACTERS:,} characters")
    return asked.text


@require_GET
@failures_told
def sun(request: HttpRequest) -> JsonResponse:
    """The sun at a `latitude` on a `day` of the year at an `hour`."""
    latitude, day, hour = (_figure(request, name) for name in ("latitude", "day", "hour"))
    found = sun_at(latitude, int(day), hour)
    told: answers.SunSaid = {
        "direction": list(found.direction),
        "height": math.degrees(found.height),
        "turn": math.degrees(found.turn),
    }
    return JsonResponse(told)


def _figure(request: HttpRequest, name: str) -> float:
    said = request.GET.get(name, "")
    try:
        value = float(said)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise Failure(f"`{said[:40]}` is no {name}", "a number")
    return value
