"""Contact sheets kept with a study: a plan and what is looked at, never the results."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_POST

from ovolo.exploring.runs import asked_of
from ovolo.problems import Failure
from studio.engine import answers, wire
from studio.engine.requests import body_of, failures_told
from studio.projects.access import entered, study_with
from studio.projects.as_seen import revision_of
from studio.projects.models import ContactSheet, Study
from studio.rights.right import Right

MOST = 40
"""So many are kept with one study."""


def sheets_of(study: Study) -> list[answers.ContactSheetSaid]:
    """The contact sheets of a study; `stale` where its text has changed since."""
    return [
        {
            "sheet": one.pk,
            "title": one.title,
            "plan": one.plan,
            "set": one.settings,
            "shown": one.shown,
            "stale": one.text_of is None or one.text_of.text != study.text,
        }
        for one in study.contact_sheets.select_related("text_of")
    ]


@entered
@require_POST
@failures_told
def keep(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keeps a plan under a title; in place of the one that had it."""
    study = study_with(request, study_id, Right.EDIT)
    said = wire.read(wire.SheetKept, body_of(request))
    title = " ".join(said.title.split())[:120]
    if not title:
        raise Failure("a contact sheet needs a name")
    asked_of(said.plan)
    known = study.contact_sheets.filter(title=title).exists()
    if not known and study.contact_sheets.count() >= MOST:
        raise Failure(f"{MOST} contact sheets are kept already", "forget one of them")
    study.contact_sheets.update_or_create(
        title=title,
        defaults={
            "plan": said.plan,
            "settings": said.set,
            "shown": said.shown,
            "text_of": study.head if said.revision is None else revision_of(study, said.revision),
        },
    )
    return _told(study)


@entered
@require_POST
@failures_told
def forget(request: HttpRequest, study_id: int) -> HttpResponse:
    """Forgets a contact sheet."""
    study = study_with(request, study_id, Right.EDIT)
    said = wire.read(wire.SheetNumbered, body_of(request))
    ContactSheet.objects.filter(study=study, pk=said.sheet).delete()
    return _told(study)


def _told(study: Study) -> JsonResponse:
    told: answers.ContactSheetsSaid = {"sheets": sheets_of(study)}
    return JsonResponse(told)
