"""Who may do what: every study and project is reached through a right to it."""

from __future__ import annotations

from enum import Enum
from typing import Any

from django.db.models import QuerySet
from django.http import Http404, HttpRequest

from ovolo.formats.attached import Files, Shelf, everything_named
from ovolo.sheet.names import studies_used
from studio.projects.models import Project, Study


class Right(Enum):
    """What a person may do with a study; of a project, with all of its studies."""

    VIEW = "look at it and measure it"
    TURN = "turn its inputs for oneself"
    EDIT = "change its text and its files"
    HAND_OVER = "take files from it"
    OWN = "make, name, copy and remove studies"


def rights_to(project: Project, request: HttpRequest) -> frozenset[Right]:
    """The rights of the person signed in: an owner has all, nobody else has any."""
    return frozenset(Right) if project.owner_id == request.user.pk else frozenset()


def study_with(request: HttpRequest, study_id: int, right: Right) -> Study:
    """The study, where the person signed in has this right to it; otherwise it is not found. What is
    saved of it is theirs."""
    found = Study.objects.select_related("project", "head").filter(pk=study_id).first()
    if found is None or right not in rights_to(found.project, request):
        raise Http404("There is no such study among yours.")
    found.by = request.user
    return found


def study_in_bin(request: HttpRequest, study_id: int) -> Study:
    """The study in the bin of a project that the person signed in owns; else it is not found."""
    binned = Study.everything.exclude(removed=None).select_related("project", "head")
    found = binned.filter(pk=study_id).first()
    if found is None or Right.OWN not in rights_to(found.project, request):
        raise Http404("There is no such study in your bin.")
    found.by = request.user
    return found


def project_with(request: HttpRequest, project_id: int, right: Right) -> Project:
    """The project, where the person signed in has this right to it; otherwise it is not found."""
    found = Project.objects.filter(pk=project_id).first()
    if found is None or right not in rights_to(found, request):
        raise Http404("There is no such project among yours.")
    found.by = request.user
    return found


def projects_of(request: HttpRequest) -> QuerySet[Project]:
    """The projects of which the person signed in may see anything."""
    return Project.objects.filter(owner_id=request.user.pk)


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
