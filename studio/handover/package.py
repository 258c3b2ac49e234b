"""The page on which a hand-over is put together: chosen, looked at, taken, and made again."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils.http import content_disposition_header
from django.utils.timezone import localtime
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.drawing.standards import PAPERS, SCALES, said_scale
from ovolo.drawing.views import VIEWS
from ovolo.formats.attached import Files
from ovolo.formats.format import formats, on_paper
from ovolo.hand_over.order import PLACES, USUAL_RULE
from ovolo.problems import Failure
from studio.engine import handing_over, pool, wire
from studio.engine.requests import body_of, failures_told, job_of, worked
from studio.projects.access import entered, files_of, study_with
from studio.projects.as_seen import files_as_seen, tagged
from studio.projects.models import HandedOver, Revision, Study
from studio.rights.right import Right

MOST = 50
"""So many hand-overs of a study are kept in its list."""


@entered
@ensure_csrf_cookie
@require_GET
def page(request: HttpRequest, study_id: int) -> HttpResponse:
    """The page, with what can leave and what has left."""
    study = study_with(request, study_id, Right.HAND_OVER)
    try:
        files = files_of(study, study.text)
        sheets = [
            {
                "title": one.title,
                "plan": one.plan,
                "set": one.settings,
                "shown": one.shown,
                "text": study.text if one.text_of is None else one.text_of.text,
            }
            for one in study.contact_sheets.select_related("text_of")
        ]
        offered = worked(request, handing_over.offered, study.text, files, sheets, study=study.pk)
        refused = ""
    except Failure as failure:
        offered, refused = {"parts": [], "presets": [], "trials": []}, failure.said
    state = {
        "study": study.pk,
        "title": study.title,
        "refused": refused,
        **offered,
        "formats": _formats(),
        "drawings": [*on_paper()],
        "views": [*VIEWS],
        "papers": [*PAPERS],
        "scales": [said_scale(one) for one in SCALES],
        "rule": USUAL_RULE,
        "places": [f"{{{one}}}" for one in PLACES],
        "past": _past(study),
    }
    return render(request, "handover/page.html", {"study": study, "state": state})


def _formats() -> list[dict[str, Any]]:
    """The formats that are written, with their options."""
    return [
        {
            "ending": one.ending,
            "title": one.title,
            "said": one.offered or one.title,
            "options": [
                {"name": option.name, "choices": list(option.choices), "meaning": option.meaning}
                for option in one.options
            ],
        }
        for one in formats()
        if one.write
    ]


def _past(study: Study) -> list[dict[str, Any]]:
    """The hand-overs that were made, the newest first."""
    return [
        {
            "number": one.pk,
            "when": f"{localtime(one.created):%d %b %Y, %H:%M}",
            "revision": one.revision_id,
            "now": one.revision_id == study.head_id,
            "files": len(one.manifest["files"]),
            "name": _name(study, one),
            "bytes": sum(file["bytes"] for file in one.manifest["files"]),
            "said": ", ".join(sorted({file.get("format", "") for file in one.manifest["files"]})),
        }
        for one in study.handed_over.all()[:MOST]
    ]


def _name(study: Study, one: HandedOver) -> str:
    """What it was called: a file that left alone by its own name."""
    files = one.manifest["files"]
    alone = len(files) == 1 and not one.asked.get("with_manifest")
    return str(files[0]["name"]) if alone else f"{study.title}.zip"


def _work(
    request: HttpRequest, study: Study, files: Files, task: Any, text: str, said: dict[str, Any]
) -> Any:
    return worked(
        request, task, text, files, said, study=study.pk, job=job_of(request), seconds=pool.HAND_OVER_KILL_AFTER
    )  # fmt: skip


def _said(study: Study, revision: Revision, asked: wire.HandOverAsked) -> dict[str, Any]:
    return {
        "title": study.title,
        "revision": f"r{revision.pk}",
        "date": localtime(revision.created).date().isoformat(),
        "order": asked.order,
        "with_manifest": asked.with_manifest,
    }


def _head(study: Study) -> Revision:
    assert study.head is not None, "a study has a text from its beginning"
    return study.head


@entered
@require_POST
@failures_told
def look(request: HttpRequest, study_id: int) -> HttpResponse:
    """What would leave."""
    study = study_with(request, study_id, Right.HAND_OVER)
    asked = wire.read(wire.HandOverAsked, body_of(request))
    said = _said(study, _head(study), asked)
    files = files_of(study, study.text)
    seen = _work(request, study, files, handing_over.look, study.text, said)
    return tagged(JsonResponse(seen), study, files)


@entered
@require_POST
@failures_told
def take(request: HttpRequest, study_id: int) -> HttpResponse:
    """What leaves, as it was looked at; it is kept in the list."""
    study = study_with(request, study_id, Right.HAND_OVER)
    asked = wire.read(wire.HandOverAsked, body_of(request))
    said = _said(study, _head(study), asked)
    files = files_as_seen(request, study)
    data, name, manifest = _work(request, study, files, handing_over.take, study.text, said)
    study.handed_over.create(revision=_head(study), author=study.by, asked=vars(asked), manifest=manifest)  # fmt: skip
    kept = study.handed_over.values_list("pk", flat=True)[:MOST]
    study.handed_over.exclude(pk__in=list(kept)).delete()
    return _file(data, name)


@entered
@require_POST
@failures_told
def again(request: HttpRequest, study_id: int) -> HttpResponse:
    """A hand-over that was made, to the byte; where what it was made from has changed, that is said."""
    study = study_with(request, study_id, Right.HAND_OVER)
    wanted = wire.read(wire.HandedOverAgain, body_of(request))
    past = study.handed_over.select_related("revision").filter(pk=wanted.number).first()
    if past is None:
        raise Failure("this study has no such hand-over")
    said = _said(study, past.revision, wire.HandOverAsked(**past.asked))
    text = past.revision.text
    files = files_of(study, text)
    data, name, manifest = _work(request, study, files, handing_over.take, text, said)
    differing = _differing(past, manifest)
    if differing and not wanted.anyway:
        raise Failure(
            f"{', '.join(differing[:3])}{' and others' if len(differing) > 3 else ''} would not be the same: "
            "attached files, used studies, or Ovolo itself have changed since",
            "make it anyway, or hand over anew",
        )
    return _file(data, name)


def _differing(past: HandedOver, manifest: dict[str, Any]) -> list[str]:
    """The names of files that are not what they were."""
    before = {one["name"]: one["sha256"] for one in past.manifest["files"]}
    now = {one["name"]: one["sha256"] for one in manifest["files"]}
    return sorted(name for name in before | now if before.get(name) != now.get(name))


def _file(data: bytes, name: str) -> HttpResponse:
    response = HttpResponse(data, content_type="application/octet-stream")
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response
