"""Links by which visitors look at a project or a study: made, and taken back."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_POST

from studio.people.forms import LinkForm, said_wrong
from studio.people.members import back, whole
from studio.projects.access import project_with
from studio.rights.models import Link
from studio.rights.right import Right


@login_required
@require_POST
def make(request: HttpRequest, project_id: int) -> HttpResponse:
    """A link for visitors, to one study or to all."""
    project = project_with(request, project_id, Right.OWN)
    form = LinkForm(project, request.POST)
    if not form.is_valid():
        messages.error(request, f"No link was made. {said_wrong(form)}")
        return back(project)
    told = {
        name: form.cleaned_data[name] for name in ("study", "said", "formats", "copies", "embeds")
    }
    made = Link.objects.create(
        project=project, by_id=int(request.user.pk or 0), until=form.until(), **told
    )
    messages.info(request, f"The link is {whole(request, 'link', made.token)}")
    return back(project)


@login_required
@require_POST
def end(request: HttpRequest, project_id: int, number: int) -> HttpResponse:
    project = project_with(request, project_id, Right.OWN)
    get_object_or_404(Link.objects.filter(project=project), pk=number).end()
    messages.info(request, "The link leads nowhere any more.")
    return back(project)
