"""Remarks on the lines of a study: listed beside their lines, made, answered, settled, taken back."""

from __future__ import annotations

import itertools
from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from ovolo.problems import Failure
from studio.accounts.names import name_of
from studio.engine import answers, wire
from studio.engine.requests import body_of, failures_told
from studio.projects.access import study_with
from studio.projects.models import Revision, Study
from studio.rights.right import Right
from studio.together.following import Following
from studio.together.models import Remark

MOST_REMARKS = 500
"""So many remarks a study holds."""

_LONGEST = 2000


@login_required
@require_GET
def listed(request: HttpRequest, study_id: int) -> HttpResponse:
    """All remarks, each with the line it stands at now."""
    return _answer(request, study_with(request, study_id, Right.READ))


def _answer(request: HttpRequest, study: Study) -> JsonResponse:
    remarks = list(study.remarks.select_related("author", "settled_by"))
    places = _places(study, [one for one in remarks if one.answers_id is None])
    shown: list[answers.BeginningSaid] = []
    for one in remarks:
        if one.answers_id is None:
            line, text = places[one.pk]
            after = [_shown(request, other) for other in remarks if other.answers_id == one.pk]
            shown.append({**_shown(request, one), "line": line, "text": text, "answers": after})
    told: answers.RemarksSaid = {"remarks": shown, "stamp": stamp_of(study)}
    return JsonResponse(told)


def _shown(request: HttpRequest, remark: Remark) -> answers.RemarkSaid:
    return {
        "remark": remark.pk,
        "said": remark.said,
        "by": name_of(remark.author),
        "at": remark.created.isoformat(),
        "settled": remark.settled is not None,
        "settled_by": name_of(remark.settled_by),
        "mine": remark.author_id == request.user.pk,
    }


def _places(study: Study, remarks: list[Remark]) -> dict[int, tuple[int | None, str]]:
    """The line of the present text at which each remark stands, None where its line is gone, and what it says there,
    or last said. What it was found at is kept, so that it is followed from change to change; while its line is gone, it
    waits where it was."""
    found: dict[int, tuple[int | None, str]] = {}
    now = study.text.split("\n")
    for revision, beside in itertools.groupby(
        sorted(remarks, key=lambda one: one.revision_id), key=lambda one: one.revision_id
    ):
        if revision == study.head_id:
            found |= {one.pk: (one.line, now[one.line - 1]) for one in beside}
            continue
        text = Revision.objects.values_list("text", flat=True).get(pk=revision)
        before, following = text.split("\n"), Following(text, study.text)
        for one in beside:
            line = following.line_after(one.line)
            found[one.pk] = line, now[line - 1] if line else before[one.line - 1]
            if line is not None:
                Remark.objects.filter(pk=one.pk).update(line=line, revision=study.head)
    return found


def stamp_of(study: Study) -> str:
    """What tells whether remarks were made or settled since."""
    found = study.remarks.order_by().values_list("pk", "settled")
    return (
        f"{len(found)}:{max((pk for pk, _ in found), default=0)}:{sum(1 for _, at in found if at)}"
    )


@login_required
@require_POST
@failures_told
def make(request: HttpRequest, study_id: int) -> HttpResponse:
    """A remark on a line, or an answer to one."""
    study = study_with(request, study_id, Right.READ)
    asked = wire.read(wire.RemarkMade, body_of(request))
    said = asked.said.strip()
    if not said or len(said) > _LONGEST or "\0" in said:
        raise Failure(f"a remark has 1 to {_LONGEST:,} characters, this one has {len(said):,}")
    if study.remarks.count() >= MOST_REMARKS:
        raise Failure(f"a study holds at most {MOST_REMARKS} remarks")
    study.remarks.create(said=said, author_id=int(request.user.pk or 0), **_place(study, asked))
    return _answer(request, study)


def _place(study: Study, asked: wire.RemarkMade) -> dict[str, Any]:
    """Where a remark stands: at its line, or with the remark it answers. Raises Failure."""
    if asked.answers is not None:
        first = study.remarks.filter(pk=asked.answers, answers=None).first()
        if first is None:
            raise Failure("the remark that is answered is there no longer")
        return {"answers": first, "line": first.line, "revision": first.revision}
    revision = Revision.objects.filter(study=study, pk=asked.revision or 0).first()
    if revision is None or not 1 <= asked.line <= revision.text.count("\n") + 1:
        raise Failure("this study has no such line")
    return {"line": asked.line, "revision": revision}


@login_required
@require_POST
@failures_told
def settle(request: HttpRequest, study_id: int) -> HttpResponse:
    """Settles a remark, or opens it again."""
    study, asked, remark = _meant(request, study_id)
    remark.settled = timezone.now() if asked.settled else None
    remark.settled_by_id = request.user.pk if asked.settled else None
    remark.save(update_fields=["settled", "settled_by"])
    return _answer(request, study)


@login_required
@require_POST
@failures_told
def take_back(request: HttpRequest, study_id: int) -> HttpResponse:
    """Removes a remark with its answers: one's own, or any in a project of one's own."""
    study, _, remark = _meant(request, study_id)
    if remark.author_id != request.user.pk and Right.OWN not in study.rights:
        raise Failure("this is the remark of another", "settle it, or answer")
    remark.delete()
    return _answer(request, study)


def _meant(request: HttpRequest, study_id: int) -> tuple[Study, wire.RemarkMeant, Remark]:
    study = study_with(request, study_id, Right.READ)
    asked = wire.read(wire.RemarkMeant, body_of(request))
    remark = study.remarks.filter(pk=asked.remark).first()
    if remark is None:
        raise Failure("this remark is there no longer")
    return study, asked, remark
