"""Whose objects are whose: everything is reached through its owner."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest

from ovolo.formats.attached import Files, Shelf, everything_named
from ovolo.sheet.names import studies_used
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


def files_of(study: Study, text: str) -> Files:
    """The attached files that a sheet names, and the other studies of the project that it uses."""
    return everything_named(text, shelf_of(study), (study.title,))


def heads_used(study: Study) -> dict[str, int | None]:
    """The newest revisions of all studies on which this one rests, by their titles."""
    found: dict[str, int | None] = {}
    waiting = [study.text]
    while waiting:
        new = set(studies_used(waiting.pop()).values()) - found.keys()
        beside = study.project.studies.select_related("head").filter(title__in=new) if new else ()
        for one in beside:
            found[one.title] = one.head_id
            waiting.append(one.text)
    return dict(sorted(found.items()))


def shelf_of(study: Study) -> Shelf:
    """The files of a study and the studies beside it, by their names."""

    def shelf(names: set[str], titles: set[str]) -> Any:
        files = study.attachments.filter(name__in=names) if names else ()
        beside = study.project.studies.select_related("head", "project").filter(title__in=titles)
        studies = {one.title: (one.text, shelf_of(one)) for one in (beside if titles else ())}
        return {file.name: bytes(file.data) for file in files}, studies

    return shelf
