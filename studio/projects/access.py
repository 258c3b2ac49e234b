"""Whose objects are whose: everything is reached through its owner."""

from __future__ import annotations

from django.http import Http404, HttpRequest

from ovolo.sheet import tree
from ovolo.sheet.reader import read_sheet
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


def named_files(text: str) -> set[str]:
    """The names of files in the `file` lines of a sheet."""
    contents = (statement.content for statement in read_sheet(text).statements)
    return {content.file_name for content in contents if isinstance(content, tree.File)}


def files_of(study: Study, text: str) -> dict[str, bytes]:
    """The attached files that a sheet names."""
    names = named_files(text)
    if not names:
        return {}
    found = study.attachments.filter(name__in=names)
    return {attachment.name: bytes(attachment.data) for attachment in found}


def title_of(text: str) -> str:
    """What a sheet calls itself (`study "…"`), or nothing."""
    contents = (statement.content for statement in read_sheet(text).statements)
    return next((content.title for content in contents if isinstance(content, tree.Study)), "")
