"""What a visitor sees who comes by a link."""

from __future__ import annotations

from csp.decorators import csp_replace
from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.clickjacking import xframe_options_exempt
from django.views.decorators.http import require_GET, require_POST

from ovolo.problems import Failure
from ovolo.sheet.names import studies_used
from studio.engine.requests import json_object, number_said
from studio.projects.access import (
    by_link,
    link_of,
    project_with,
    projects_of,
    rights_to,
    study_with,
)
from studio.projects.as_seen import text_as_turned
from studio.projects.copies import taken_along
from studio.projects.models import Picture, Study
from studio.rights.models import Link
from studio.rights.right import Right
from studio.workspace.views import study_page


@by_link
@require_GET
def landing(request: HttpRequest) -> HttpResponse:
    """Where a link leads: to its study, or to all studies of its project."""
    link = link_of(request)
    assert link is not None
    if link.study_id is not None:
        return redirect("link-workspace", link.token, link.study_id)
    studies = link.project.studies.select_related("picture").defer("picture__data")
    return render(request, "people/shown.html", {"link": link, "studies": studies})


@by_link
@require_GET
def preview(request: HttpRequest, study_id: int) -> HttpResponse:
    """The picture of a study as it was kept last, for pages that show where a link leads."""
    found = get_object_or_404(Picture, study=study_with(request, study_id, Right.VIEW))
    return HttpResponse(bytes(found.data), content_type="image/png")


@csp_replace({"frame-ancestors": ["*"]})  # type: ignore[untyped-decorator]
@xframe_options_exempt
@by_link
@require_GET
def embedded(request: HttpRequest, study_id: int) -> HttpResponse:
    """Stage and faceplate alone, to be shown within a page elsewhere, where the link allows it."""
    link = link_of(request)
    if link is None or not link.embeds:
        raise Http404("This link is not to be embedded.")
    return study_page(request, study_id, embedded=True)


@login_required
@require_GET
def choose_project(request: HttpRequest, study_id: int, token: str = "") -> HttpResponse:
    """Into which project of one's own a copy is taken, of what the window shows that led here (`?revision=`, `?set={…}`)."""
    study = _copied(request, study_id, token)
    try:
        turned = json_object(request.GET.get("set", ""))
    except Failure as failure:
        messages.error(request, failure.said)
        return redirect("projects")
    own = [one for one in projects_of(request) if Right.MAKE in rights_to(one, request)]
    context = {
        "study": study,
        "projects": own,
        "uses": studies_used(study.text).values(),
        "turned": turned,
        "shown": {name: request.GET[name] for name in ("revision", "set") if name in request.GET},
    }
    return render(request, "people/copy.html", context)


@login_required
@require_POST
def take_copy(request: HttpRequest, study_id: int, token: str = "") -> HttpResponse:
    """A copy of the study, with those that it uses, in a project of who is signed in."""
    study = _copied(request, study_id, token)
    number = number_said(request.POST.get("project", ""))
    try:
        project = project_with(request, number, Right.MAKE)
        copy = taken_along(study, text_as_turned(request, study, request.POST), project)
    except Failure as failure:
        messages.error(request, failure.said)
        return redirect("projects")
    messages.info(request, f"“{copy.title}” is a study of yours now.")
    return redirect("workspace", copy.pk)


def _copied(request: HttpRequest, study_id: int, token: str) -> Study:
    """The study of which a copy may be taken by who is signed in, or by whoever holds the token of a link
    that says so. A copy is made in the name of who has signed in: these addresses are no `by_link`."""
    if not token:
        return study_with(request, study_id, Right.COPY)
    link = Link.objects.filter(token=token, copies=True).first()
    study = Study.objects.select_related("project", "head").filter(pk=study_id).first()
    if link is None or study is None or not link.covers(study.project_id, study.pk):
        raise Http404("This link does not let a copy be taken.")
    return study
