"""The page of the first hour, and the guide of an exercise in its workspace."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_POST

from ovolo.exercises.exercise import Exercise, SeenSaid
from ovolo.exercises.first_hour import FIRST_HOUR, exercise
from ovolo.problems import Failure
from studio.engine import tasks
from studio.engine.answers import GuideSaid
from studio.engine.requests import failures_told, worked
from studio.learning.models import Progress
from studio.projects.access import files_of, study_with
from studio.projects.copies import new_study
from studio.projects.models import Project, Study
from studio.rights.right import Right

PROJECT = "First hour"


@login_required
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """All exercises with how far the person has come."""
    mine = {one.exercise: one for one in _mine(request)}
    shown = [(one, mine.get(one.key)) for one in FIRST_HOUR]
    following = next((one for one, at in shown if at is None or at.done is None), None)
    done = sum(at is not None and at.done is not None for _, at in shown)
    context = {"exercises": shown, "following": following, "done": done, "count": len(FIRST_HOUR)}
    return render(request, "learning/first_hour.html", context)


def _person(request: HttpRequest) -> int:
    return int(request.user.pk or 0)


def _mine(request: HttpRequest) -> list[Progress]:
    mine = Progress.objects.filter(person_id=_person(request)).select_related("study")
    return list(mine)


@login_required
@require_POST
def begin(request: HttpRequest, key: str) -> HttpResponse:
    """Goes on with an exercise where it was left, or begins it (`again`: anew) in a study of its own."""
    one = _exercise(key)
    person = _person(request)
    at = Progress.objects.filter(person_id=person, exercise=key).select_related("study").first()
    study = None if at is None or "again" in request.POST else at.study
    now: dict[str, Any] = {"left": None}
    if study is None or study.removed:
        try:
            study = _study_for(request, one)
        except Failure as failure:
            messages.error(request, failure.said)
            return redirect("first-hour")
        now |= {"study": study, "done": None}
    Progress.objects.update_or_create(person_id=person, exercise=key, defaults=now)
    return redirect("workspace", study.pk)


def _exercise(key: str) -> Exercise:
    try:
        return exercise(key)
    except Failure:
        raise Http404("There is no such exercise.") from None


def _study_for(request: HttpRequest, one: Exercise) -> Study:
    """A study to begin an exercise in, in a project for the first hour. Raises Failure where there is no room."""
    mine = {"owner_id": _person(request), "title": PROJECT}
    project = Project.objects.filter(**mine).first() or Project.objects.create(**mine)
    project.by = request.user
    used = _study_used(request, project, exercise(one.uses)) if one.uses else ""
    return new_study(project, one.sheet(used=used), f"begun: {one.title}", one.title)


def _study_used(request: HttpRequest, project: Project, used: Exercise) -> str:
    """The title of the study that an exercise uses: the person's own, if it is done, or one that is ready."""
    done = Progress.objects.filter(person_id=_person(request), exercise=used.key).exclude(done=None)
    title = f"{used.title}, ready"
    found = (
        project.studies.filter(exercises__in=done).first()
        or project.studies.filter(title=title).first()
        or new_study(project, used.sheet(title) + used.ready, "ready to be used", title)
    )
    return found.title


@login_required
@require_POST
@failures_told
def guide(request: HttpRequest, study_id: int) -> HttpResponse:
    """How far the study has come with its exercise."""
    study, at = _at(request, study_id)
    one = exercise(at.exercise)
    kept = {"hand_overs": study.handed_over.count(), "contact_sheets": study.contact_sheets.count()}
    files = files_of(study, study.text)
    seen: SeenSaid = worked(
        request, tasks.exercise_seen, one.key, study.text, files, kept, study=study_id
    )
    if seen["done"] and at.done is None:
        at.done = timezone.now()
        at.save(update_fields=["done"])
    return JsonResponse(_told(one, seen))


def _told(one: Exercise, seen: SeenSaid) -> GuideSaid:
    number = FIRST_HOUR.index(one)
    after = FIRST_HOUR[number + 1] if number + 1 < len(FIRST_HOUR) else None
    return {
        **seen,
        "title": one.title,
        "goal": one.goal,
        "number": number + 1,
        "next": None if after is None else {"key": after.key, "title": after.title},
    }


@login_required
@require_POST
@failures_told
def leave(request: HttpRequest, study_id: int) -> HttpResponse:
    """Puts the guide away; the study stays."""
    _, at = _at(request, study_id)
    at.left = timezone.now()
    at.save(update_fields=["left"])
    return JsonResponse({"left": True})


def _at(request: HttpRequest, study_id: int) -> tuple[Study, Progress]:
    """The study, and how far the person has come there. Raises Failure where it is no exercise of theirs."""
    study = study_with(request, study_id, Right.EDIT)
    at = study.exercises.filter(person_id=_person(request)).first()
    if at is None:
        raise Failure("this study is no exercise of yours", "begin one on the page First hour")
    return study, at


def is_guided(request: HttpRequest, study: Study) -> bool:
    """Whether a guide stands beside the sheet."""
    person = request.user.pk if request.user.is_authenticated else None
    return person is not None and study.exercises.filter(person_id=person, left=None).exists()
