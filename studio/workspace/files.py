"""Files attached to a study."""

from __future__ import annotations

from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_GET, require_POST

from ovolo.formats.attached import MOST_BYTES
from ovolo.problems import Failure
from ovolo.sheet.names import files_named
from studio.engine import tasks
from studio.engine.answers import FileSeenSaid
from studio.engine.requests import failures_told, refused, worked
from studio.projects.access import entered, study_with
from studio.projects.models import Study
from studio.projects.quotas import check_room
from studio.rights.right import Right
from studio.workspace.state import state_of

MOST_FILES = 50
SHOWN_ROWS = 50


@entered
@require_POST
@failures_told
def attach(request: HttpRequest, study_id: int) -> HttpResponse:
    """Attaches a file, or replaces the one of its name."""
    study = study_with(request, study_id, Right.EDIT)
    upload = request.FILES.get("file")
    if not isinstance(upload, UploadedFile) or not upload.name:
        raise Failure("no file came with the request")
    if (upload.size or 0) > MOST_BYTES:
        raise Failure(f"{upload.name} has {upload.size:,} bytes; at most {MOST_BYTES:,} are taken")
    name = _kept_name(upload.name)
    if study.attachments.exclude(name=name).count() >= MOST_FILES:
        raise Failure(f"a study holds at most {MOST_FILES} files", "remove one first")
    check_room(study.project.owner, size=upload.size or 0)
    data = upload.read()
    _look_into(request, data, name)
    study.attachments.update_or_create(name=name, defaults={"data": data})
    return JsonResponse(state_of(study))


_LONGEST_NAME = 120


def _kept_name(name: str) -> str:
    """A name as long as one is kept, with its ending, which tells what the file is."""
    stem, dot, ending = name.rpartition(".")
    if len(name) <= _LONGEST_NAME or not dot or len(ending) > 10:
        return name[:_LONGEST_NAME]
    return f"{stem[: _LONGEST_NAME - len(ending) - 1]}.{ending}"


@entered
@require_POST
def detach(request: HttpRequest, study_id: int, name: str) -> HttpResponse:
    """Removes an attached file."""
    study = study_with(request, study_id, Right.EDIT)
    get_object_or_404(study.attachments, name=name).delete()
    return JsonResponse(state_of(study))


@entered
@require_GET
@failures_told
def attached(request: HttpRequest, study_id: int, name: str) -> HttpResponse:
    """An attached file: the file itself, or with `?see` its first rows as a table."""
    file = get_object_or_404(_holder(request, study_id, name).attachments, name=name)
    if "look" in request.GET:
        return _picture(bytes(file.data), name)
    if "see" not in request.GET:
        response = HttpResponse(bytes(file.data), content_type="application/octet-stream")
        response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
        return response
    return JsonResponse(_look_into(request, bytes(file.data), name))


def _holder(request: HttpRequest, study_id: int, name: str) -> Study:
    """The study of a file. Who only looks at it sees the pictures that lie under its drawing."""
    study = study_with(request, study_id, Right.VIEW)
    under = "look" in request.GET and name in files_named(study.text)
    return (
        study if under or Right.READ in study.rights else study_with(request, study_id, Right.READ)
    )


_PICTURES = {"png": "image/png", "jpg": "image/jpeg", "jpeg": "image/jpeg"}


def _picture(data: bytes, name: str) -> HttpResponse:
    """A picture to be shown in the page. What it holds was checked when it was attached."""
    kind = _PICTURES.get(name.rpartition(".")[2].lower())
    if kind is None:
        return refused(Failure(f"{name} is no picture"))
    return HttpResponse(data, content_type=kind)


def _look_into(request: HttpRequest, data: bytes, name: str) -> FileSeenSaid:
    """The first rows of a file, read in a worker: it may come from anywhere. Raises Failure."""
    seen: FileSeenSaid = worked(request, tasks.look_into, data, name, SHOWN_ROWS)
    return seen
