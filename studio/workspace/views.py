"""The workspace of a study: its page, evaluation, edits, undo and redo."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.files.uploadedfile import UploadedFile
from django.db.models.functions import Length
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.utils.http import content_disposition_header
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.formats.table_csv import MOST_BYTES, read_table, shown_rows
from ovolo.outcome.scene import packed, sheet_header
from ovolo.problems import Failure
from ovolo.sheet.reader import read_sheet
from studio.engine import pool, tasks
from studio.projects.access import files_of, own_study, title_of
from studio.projects.models import OutOfDate, Revision, Study
from studio.workspace.edits import StillNeeded, edited

SCENE = "application/vnd.ovolo.scene"
MOST_FILES = 50


@login_required
@ensure_csrf_cookie
def study_page(request: HttpRequest, study_id: int) -> HttpResponse:
    """The page, with the sheet's lines already in it; values and picture follow."""
    study = own_study(request, study_id)
    state = {"study": study.pk, **_state(study), **sheet_header(read_sheet(study.text))}
    return render(request, "workspace/study.html", {"study": study, "state": state})


def _state(study: Study) -> dict[str, Any]:
    head = study.head
    return {
        "title": study.title,
        "revision": study.head_id,
        "can_undo": head is not None and head.parent_id is not None,
        "can_redo": head is not None and head.children.exists(),
        "files": [
            {"name": name, "size": size}
            for name, size in study.attachments.annotate(size=Length("data")).values_list(
                "name", "size"
            )
        ],
    }


def _body(request: HttpRequest) -> dict[str, Any]:
    try:
        body = json.loads(request.body or b"{}")
    except (json.JSONDecodeError, UnicodeDecodeError):
        raise Failure("the request cannot be read") from None
    if not isinstance(body, dict):
        raise Failure("the request cannot be read")
    return body


@login_required
@require_POST
def evaluate(request: HttpRequest, study_id: int) -> HttpResponse:
    """The scene of a revision of the study, with some inputs at other values for the moment."""
    study = own_study(request, study_id)
    try:
        body = _body(request)
        settings, held = body.get("set", {}), body.get("held", [])
        if not isinstance(settings, dict) or not isinstance(held, list):
            raise Failure("the request cannot be read")
        text = _text_of(study, body.get("revision"))
    except Failure as failure:
        return _refused(failure)
    try:
        scene = pool.run(
            tasks.scene, text, settings, [str(key) for key in held], files_of(study, text)
        )
    except pool.Stopped as stopped:
        header = {
            **sheet_header(read_sheet(text)),
            "stopped": f"This evaluation was given up: {stopped}.",
        }
        scene = packed(header)
    return HttpResponse(scene, content_type=SCENE)


def _text_of(study: Study, revision: Any) -> str:
    """The text of a revision of this study; of the head where none is named."""
    if revision is None or revision == study.head_id:
        return study.text
    found = (
        Revision.objects.filter(study=study, pk=revision).first()
        if isinstance(revision, int)
        else None
    )
    if found is None:
        raise Failure("this study has no such revision")
    return found.text


@login_required
@require_POST
def edit(request: HttpRequest, study_id: int) -> HttpResponse:
    """One edit of the text, made from the revision it names: a new revision."""

    def change(study: Study, body: dict[str, Any]) -> bool:
        text, said = edited(study, body)
        study.save_text(text, body.get("revision"), said)
        return True

    return _changed(request, study_id, change)


@login_required
@require_POST
def undo(request: HttpRequest, study_id: int) -> HttpResponse:
    return _changed(request, study_id, lambda study, body: study.undo(body.get("revision", 0)))


@login_required
@require_POST
def redo(request: HttpRequest, study_id: int) -> HttpResponse:
    return _changed(request, study_id, lambda study, body: study.redo(body.get("revision", 0)))


def _changed(
    request: HttpRequest, study_id: int, change: Callable[[Study, dict[str, Any]], object]
) -> HttpResponse:
    """Makes a change and answers with the state after it."""
    study = own_study(request, study_id)
    try:
        change(study, _body(request))
        study.take_title(title_of(study.text))
    except Failure as failure:
        return _refused(failure)
    except OutOfDate:
        message = "This study was changed elsewhere; what you see is not its newest state."
        return JsonResponse({"message": message, "hint": "reload it to go on"}, status=409)
    return JsonResponse(_state(study))


@login_required
@require_POST
def attach(request: HttpRequest, study_id: int) -> HttpResponse:
    """Attaches a file, or replaces the one of its name."""
    study = own_study(request, study_id)
    upload = request.FILES.get("file")
    try:
        if not isinstance(upload, UploadedFile) or not upload.name:
            raise Failure("no file came with the request")
        if (upload.size or 0) > MOST_BYTES:
            raise Failure(
                f"{upload.name} has {upload.size:,} bytes; at most {MOST_BYTES:,} are taken"
            )
        if study.attachments.count() >= MOST_FILES:
            raise Failure(f"a study holds at most {MOST_FILES} files", "remove one first")
        data = upload.read()
        read_table(data, upload.name)
    except Failure as failure:
        return _refused(failure)
    study.attachments.update_or_create(name=upload.name[:120], defaults={"data": data})
    return JsonResponse(_state(study))


@login_required
@require_POST
def detach(request: HttpRequest, study_id: int, name: str) -> HttpResponse:
    """Removes an attached file."""
    study = own_study(request, study_id)
    get_object_or_404(study.attachments, name=name).delete()
    return JsonResponse(_state(study))


@login_required
@require_GET
def attached(request: HttpRequest, study_id: int, name: str) -> HttpResponse:
    """An attached file: the file itself, or with `?see` its first rows as a table."""
    file = get_object_or_404(own_study(request, study_id).attachments, name=name)
    if "see" not in request.GET:
        response = HttpResponse(bytes(file.data), content_type="application/octet-stream")
        response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
        return response
    try:
        table = read_table(bytes(file.data), name)
    except Failure as failure:
        return _refused(failure)
    heads = [f"{c} [{table.units[c]}]" if c in table.units else c for c in table.columns]
    return JsonResponse({"heads": heads, "rows": list(shown_rows(table, 50)), "count": len(table)})


def _refused(failure: Failure) -> HttpResponse:
    answer = {"message": failure.message, "hint": failure.hint}
    return JsonResponse(answer | {"needed": isinstance(failure, StillNeeded)}, status=400)
