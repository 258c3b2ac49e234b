"""The projects page, and studies made, copied, taken in, given out and removed."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import content_disposition_header
from django.utils.text import slugify
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.problems import Failure
from ovolo.sheet.names import studies_used
from ovolo.sheet.reader import MOST_CHARACTERS
from studio.projects.access import Right, project_with, projects_of, study_with
from studio.projects.copies import EMPTY, copied, free_title, new_study
from studio.projects.demo import demo_files, demo_sheets
from studio.projects.models import Attachment, Project, Study


@login_required
@ensure_csrf_cookie
def overview(request: HttpRequest) -> HttpResponse:
    """All projects of the person signed in, with their studies."""
    projects = projects_of(request).prefetch_related("studies__head")
    for project in projects:
        tell_users(list(project.studies.all()))
    context = {"projects": projects, "starting_points": list(demo_sheets())}
    return render(request, "projects/overview.html", context)


def tell_users(studies: list[Study]) -> None:
    """Tells each study of a project which others use it."""
    uses = {study.title: set(studies_used(study.text).values()) for study in studies}
    for study in studies:
        users = [title for title, used in uses.items() if study.title in used]
        study.used_by = ", ".join(f"“{title}”" for title in users)


@login_required
@require_POST
def new(request: HttpRequest, project_id: int) -> HttpResponse:
    """A new study from a starting point: empty, or a sheet of the demonstration."""
    project = project_with(request, project_id, Right.OWN)
    start, wanted = request.POST.get("start", ""), request.POST.get("title", "").strip()
    text = demo_sheets().get(start, "")
    title = free_title(project, wanted or start or "New study")
    said = f"new: {start or 'empty'}"
    study = _from_demo(project, text or EMPTY.format(title=title), said, title)
    return redirect("workspace", study.pk)


def _from_demo(project: Project, text: str, said: str, title: str) -> Study:
    """A study with its files, and with the studies of the demonstration that it uses and that are
    not there yet."""
    study = new_study(project, text, said, title)
    for name, data in demo_files(text).items():
        Attachment.objects.create(study=study, name=name, data=data)
    for used in studies_used(text).values():
        if used in demo_sheets() and not project.studies.filter(title=used).exists():
            _from_demo(project, demo_sheets()[used], f"used by {title}", used)
    return study


@login_required
@require_POST
def take_in(request: HttpRequest, project_id: int) -> HttpResponse:
    """A study from an .ovo file."""
    project = project_with(request, project_id, Right.OWN)
    try:
        name, text = _sheet_in(request.FILES.get("sheet"))
    except Failure as failure:
        messages.error(request, failure.said)
        return redirect("projects")
    study = new_study(project, text, f"taken in from {name}", "" if 'study "' in text else name)
    return redirect("workspace", study.pk)


def _sheet_in(upload: object) -> tuple[str, str]:
    """The name and the text of a sheet that was sent. Raises Failure where it is none."""
    if not isinstance(upload, UploadedFile) or not upload.name:
        raise Failure("no file was chosen", "choose a sheet, a text file ending in .ovo")
    if (upload.size or 0) > 4 * MOST_CHARACTERS:
        raise Failure(f"{upload.name} is too large for a sheet ({upload.size:,} bytes)")
    try:
        text = upload.read().decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise Failure(
            f"{upload.name} is not UTF-8 text (byte {error.start})", "save it as UTF-8"
        ) from None
    if len(text) > MOST_CHARACTERS or "\0" in text:
        raise Failure(
            f"{upload.name} is not a sheet", "a sheet is plain text, one line a statement"
        )
    return upload.name.rpartition(".")[0] or upload.name, text


@login_required
@require_POST
def copy(request: HttpRequest, study_id: int) -> HttpResponse:
    """Another study of the same text and files."""
    study = study_with(request, study_id, Right.OWN)
    return redirect("workspace", copied(study, study.text, f"copied from {study.title}").pk)


@login_required
@require_GET
def give_out(request: HttpRequest, study_id: int) -> HttpResponse:
    """The text of a study as an .ovo file."""
    study = study_with(request, study_id, Right.HAND_OVER)
    response = HttpResponse(study.text, content_type="text/plain; charset=utf-8")
    name = f"{slugify(study.title) or 'study'}.ovo"
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response


@login_required
@require_POST
def remove(request: HttpRequest, study_id: int) -> HttpResponse:
    """Removes a study with all its history."""
    study = study_with(request, study_id, Right.OWN)
    title = study.title
    study.delete()
    messages.info(request, f"“{title}” was removed.")
    return redirect("projects")
