"""The other studies of a project: those that use this one, and those that it may use."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_GET

from ovolo.formats.attached import Files, size_of
from ovolo.sheet.names import studies_used
from studio.engine import answers, tasks
from studio.engine.requests import failures_told, worked
from studio.projects.access import entered, files_of, study_with
from studio.projects.models import Study
from studio.rights.right import Right


def users_of(request: HttpRequest, study: Study) -> list[answers.UserSaid]:
    """The studies that use this one: under which names, and which of its inputs they set."""
    beside = study.project.studies.select_related("head").exclude(pk=study.pk)
    others = [
        (one.pk, one.title, one.text)
        for one in beside
        if study.title in studies_used(one.text).values()
    ]
    if not others:
        return []
    found: list[answers.UserSaid] = worked(
        request, tasks.users, study.title, study.text, others, study=study.pk
    )
    return found


def who_uses(request: HttpRequest, study: Study, name: str) -> str:
    """Who sets or reads a name of this study, in words; empty where nobody does."""
    said = [
        f"“{user['title']}” (line {user['line']})"
        for user in users_of(request, study)
        if name in (*user["inputs"], *user["read"])
    ]
    if not said:
        return ""
    count = "1 study uses" if len(said) == 1 else f"{len(said)} studies use"
    return f"{count} `{name}` of this one: {', '.join(said)}"


@entered
@require_GET
@failures_told
def beside(request: HttpRequest, study_id: int) -> HttpResponse:
    """The other studies of the project with their inputs, and those that use this one."""
    study = study_with(request, study_id, Right.READ)
    others = list(study.project.studies.select_related("head").exclude(pk=study.pk))
    users = users_of(request, study)
    inputs = worked(request, tasks.inputs_of, [one.text for one in others])
    told: answers.BesideSaid = {
        "others": [
            {"study": one.pk, "title": one.title, "inputs": names}
            for one, names in zip(others, inputs, strict=True)
        ],
        "users": users,
    }
    return JsonResponse(told)


@entered
@require_GET
@failures_told
def swaps(request: HttpRequest, study_id: int, name: str) -> HttpResponse:
    """How each other study of the project would serve in the place of one that is used."""
    study = study_with(request, study_id, Right.READ)
    files = files_of(study, study.text)
    found = [
        one
        for some in _others_by_and_by(study)
        for one in worked(request, tasks.swaps, study.text, name, files, some, study=study_id)
    ]
    return JsonResponse({"swaps": sorted(found, key=_distance)})


_MOST_AT_ONCE = 20_000_000
"""Of so many bytes of files the other studies of a project are looked at together; all of them might have more than
the memory of the one process that answers everybody is meant for."""


def _others_by_and_by(study: Study) -> Iterator[dict[str, tuple[str, Files]]]:
    """The texts and files of the other studies by their titles, some at a time; at least once, be there any or none."""
    some: dict[str, tuple[str, Files]] = {}
    size = 0
    for one in study.project.studies.select_related("head", "project").exclude(pk=study.pk):
        files = files_of(one, one.text)
        some[one.title] = one.text, files
        size += size_of(files)
        if size > _MOST_AT_ONCE:
            yield some
            some, size = {}, 0
    yield some


def _distance(one: dict[str, Any]) -> tuple[int, str]:
    """How far a study is from serving, then its title: those that fit come first."""
    return len(one["missing"]) + len(one["misfits"]) + len(one["unread"]), one["title"]
