"""The projects page, and studies made, copied, taken in, given out and removed."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.http import content_disposition_header
from django.utils.text import slugify
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from ovolo.problems import Failure
from ovolo.sheet.lines import with_line_feeds
from ovolo.sheet.names import studies_used
from ovolo.sheet.reader import MOST_CHARACTERS
from ovolo.writing.starting import starting_point, starting_points
from studio.accounts.names import plain_name
from studio.accounts.throttle import throttled
from studio.engine.requests import failures_told, number_said
from studio.projects.access import project_with, projects_of, rights_to, study_in_bin, study_with
from studio.projects.as_seen import text_as_seen, text_as_turned
from studio.projects.copies import EMPTY, brought_back, copied, free_title, new_study
from studio.projects.demo import demo_files, demo_sheets
from studio.projects.models import Attachment, Project, Study
from studio.projects.packing import pack_project, unpacked, zip_response
from studio.projects.pictures import states_shown
from studio.rights.right import Right, Role


@login_required
@ensure_csrf_cookie
def overview(request: HttpRequest) -> HttpResponse:
    """All projects of the person signed in, with their studies."""
    asked = request.GET.get("find", "").strip()[:100]
    order = request.GET.get("order", "place")
    projects = [_shown(request, project, asked, order) for project in projects_of(request)]
    context = {
        "projects": projects, "points": starting_points(), "examples": list(demo_sheets()), "asked": asked,
        "orders": [(name, said, name == order) for name, (said, _) in _ORDERS.items()],
    }  # fmt: skip
    return render(request, "projects/overview.html", context)


_ORDERS = {
    "place": ("in their order", ("place", "title")),
    "changed": ("newest change first", ("-changed",)),
    "title": ("by title", ("title",)),
}


def _shown(request: HttpRequest, project: Project, asked: str, order: str) -> dict[str, Any]:
    """A project as its page shows it: its studies in an order, those in whose title or text something
    was asked for, and what is in its bin."""
    studies = project.studies.select_related("head__author", "picture").defer("picture__data")
    studies = studies.order_by(*_ORDERS.get(order, _ORDERS["place"])[1])
    everything = list(studies)
    tell_users(everything)
    states = states_shown(everything)
    for one in everything:
        one.state = states[one.pk]
    wanted = asked.casefold()
    if order == "place":
        _tell_places(everything)
    rights = rights_to(project, request)
    member = (
        None if Right.OWN in rights else project.members.filter(person_id=request.user.pk).first()
    )
    return {
        "project": project,
        "may": {right.name.lower(): right in rights for right in Right},
        "role": "" if member is None else Role(member.role).label,
        "members": project.members.count(),
        "count": len(everything),
        "studies": [
            one for one in everything if wanted in one.title.casefold() or wanted in one.text.casefold()
        ],
        "bin": Study.everything.filter(project=project).exclude(removed=None).order_by("-removed"),
    }  # fmt: skip


def _tell_places(studies: list[Study]) -> None:
    """Tells each study of a project before which one it goes when it is moved forward, and back."""
    numbers = [study.pk for study in studies]
    for at, study in enumerate(studies):
        study.before = numbers[at - 1] if at else None
        if at + 1 < len(numbers):
            study.behind = numbers[at + 2] if at + 2 < len(numbers) else 0


def tell_users(studies: list[Study]) -> None:
    """Tells each study of a project which others use it."""
    uses = {study.title: set(studies_used(study.text).values()) for study in studies}
    for study in studies:
        users = [title for title, used in uses.items() if study.title in used]
        study.used_by = ", ".join(f"“{title}”" for title in users)


@login_required
@require_POST
def new(request: HttpRequest, project_id: int) -> HttpResponse:
    """A new study: empty, from a starting point, or from a sheet of the demonstration."""
    project = project_with(request, project_id, Right.MAKE)
    try:
        wanted = plain_name(request.POST.get("title", "").strip())
        text, named = _beginning(request)
        title = free_title(project, wanted or named or "New study")
        said = f"new: {named or 'empty'}"
        study = _from_demo(project, text or EMPTY.format(title=title), said, title)
    except (Failure, ValidationError) as wrong:
        messages.error(request, wrong.said if isinstance(wrong, Failure) else wrong.messages[0])
        return redirect("projects")
    return redirect("workspace", study.pk)


def _beginning(request: HttpRequest) -> tuple[str, str]:
    """The sheet that a new study begins with, and what that is called; empty where it begins empty. Raises
    Failure for a starting point that there is not."""
    start = request.POST.get("start", "")
    if start.startswith(_POINT):
        point = starting_point(start.removeprefix(_POINT))
        return point.sheet, point.title
    return demo_sheets().get(start, "") or _own_text(request), start


_POINT = "point:"
"""What stands before the key of a starting point, which is no title of a study."""


def _own_text(request: HttpRequest) -> str:
    """A sheet that comes with the request: one that was tried beside the reference."""
    text = with_line_feeds(request.POST.get("text", "")).replace("\0", "")
    return text[:MOST_CHARACTERS]


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
    project = project_with(request, project_id, Right.MAKE)
    try:
        name, text = _sheet_in(request.FILES.get("sheet"))
        study = new_study(project, text, f"taken in from {name}", "" if 'study "' in text else name)
    except Failure as failure:
        messages.error(request, failure.said)
        return redirect("projects")
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
    """Another study of the same text and files, as the window shows it (`revision`, `set`)."""
    study = study_with(request, study_id, Right.MAKE)
    try:
        text = text_as_turned(request, study, request.POST)
        made = copied(study, text, f"copied from {study.title}")
    except Failure as failure:
        messages.error(request, failure.said)
        return redirect("projects")
    return redirect("workspace", made.pk)


@login_required
@require_GET
@failures_told
def give_out(request: HttpRequest, study_id: int) -> HttpResponse:
    """The text of a study, or of the revision that a window shows (`?revision=`), as an .ovo file."""
    study = study_with(request, study_id, Right.HAND_OVER)
    text = text_as_seen(study, number_said(request.GET.get("revision", "")) or None)
    response = HttpResponse(text, content_type="text/plain; charset=utf-8")
    name = f"{slugify(study.title) or 'study'}.ovo"
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response


@login_required
@require_POST
def remove(request: HttpRequest, study_id: int) -> HttpResponse:
    """Puts a study into the bin, from which it can come back with all its history."""
    study = study_with(request, study_id, Right.MAKE)
    study.removed = timezone.now()
    study.save(update_fields=["removed"])
    messages.info(request, f"“{study.title}” is in the bin of {study.project.title}.")
    return redirect("projects")


@login_required
@require_POST
def bring_back(request: HttpRequest, study_id: int) -> HttpResponse:
    """Takes a study out of the bin, under another title where its own is taken by now."""
    study = study_in_bin(request, study_id, Right.MAKE)
    brought_back(study)
    messages.info(request, f"“{study.title}” is back.")
    return redirect("projects")


@login_required
@require_POST
def remove_for_good(request: HttpRequest, study_id: int) -> HttpResponse:
    """Removes a study from the bin, with all its history."""
    study = study_in_bin(request, study_id, Right.OWN)
    title = study.title
    study.delete()
    messages.info(request, f"“{title}” was removed for good.")
    return redirect("projects")


@login_required
@require_POST
def new_project(request: HttpRequest) -> HttpResponse:
    """An empty project of the person signed in."""
    title = _project_title(request)
    if title:
        Project.objects.create(owner_id=int(request.user.pk or 0), title=title)
    else:
        messages.error(request, "A project needs a name.")
    return redirect("projects")


@login_required
@require_POST
def rename_project(request: HttpRequest, project_id: int) -> HttpResponse:
    project = project_with(request, project_id, Right.OWN)
    title = _project_title(request)
    if title:
        project.title = title
        project.save(update_fields=["title"])
    else:
        messages.error(request, f"“{project.title}” keeps its name: no other was given.")
    return redirect("projects")


@login_required
@require_POST
def remove_project(request: HttpRequest, project_id: int) -> HttpResponse:
    """Removes a project in which nothing is left, not even in its bin."""
    project = project_with(request, project_id, Right.OWN)
    left = Study.everything.filter(project=project).count()
    if left:
        messages.error(request, f"“{project.title}” still has {left} stud{'y' if left == 1 else 'ies'}: remove what is in it first, also from its bin.")  # fmt: skip
    else:
        project.delete()
        messages.info(request, f"“{project.title}” was removed.")
    return redirect("projects")


def _project_title(request: HttpRequest) -> str:
    """The name that is asked for; empty where it is none, which is said."""
    try:
        return plain_name(request.POST.get("title", ""))[:200]
    except ValidationError as wrong:
        messages.error(request, " ".join(wrong.messages))
        return ""


@login_required
@require_GET
@throttled("pack", "GET")
def pack(request: HttpRequest, project_id: int) -> FileResponse:
    """The project as a ZIP of plain files, with the history of its studies."""
    project = project_with(request, project_id, Right.MAKE)
    name = f"{slugify(project.title) or 'project'}.zip"
    return zip_response(lambda into: pack_project(project, into), name)


@login_required
@require_POST
def unpack(request: HttpRequest) -> HttpResponse:
    """A new project from such a ZIP."""
    upload = request.FILES.get("packed")
    if not isinstance(upload, UploadedFile):
        messages.error(request, "No file was chosen: a project that was packed is a ZIP.")
        return redirect("projects")
    try:
        project = unpacked(upload.read(), request.user)
    except Failure as failure:
        messages.error(request, f"{upload.name} was not taken in: {failure.said}")
    else:
        messages.info(request, f"“{project.title}” was taken in.")
    return redirect("projects")


@login_required
@require_POST
def order(request: HttpRequest, project_id: int) -> HttpResponse:
    """The order of the studies of a project: one goes to the place of another (`study`, `before`; at the end
    where none is named)."""
    project = project_with(request, project_id, Right.MAKE)
    numbers = list(project.studies.values_list("pk", flat=True))
    study, before = (number_said(request.POST.get(name, "")) for name in ("study", "before"))
    if study not in numbers or (before and before not in numbers):
        messages.error(request, "The studies have changed meanwhile; nothing was moved.")
        return redirect("projects")
    if study != before:
        numbers.remove(study)
        numbers.insert(numbers.index(before) if before else len(numbers), study)
        for place, number in enumerate(numbers):
            project.studies.filter(pk=number).update(place=place)
    return redirect("projects")
