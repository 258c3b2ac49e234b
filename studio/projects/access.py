"""Whose objects are whose: everything is reached through its owner."""

from __future__ import annotations

from django.http import Http404, HttpRequest

from studio.projects.models import Study


def own_study(request: HttpRequest, study_id: int) -> Study:
    """The study, if it is in a project of the person signed in; otherwise it is not found."""
    found = (
        Study.objects.select_related("project", "head")
        .filter(pk=study_id, project__owner_id=request.user.pk)
        .first()
    )
    if found is None:
        raise Http404("There is no such study among yours.")
    return found
