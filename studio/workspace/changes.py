"""Changes of a study: edits, undo and redo, and its history.

Every change names the revision it was made from. Where another changed the study since, an edit of other lines
is put together with that; one of the same line, and any step back, is refused with what happened there. It
can then be made all the same (`mine`: the revision it was made from), or saved as another study.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_GET, require_POST

from ovolo.problems import Failure
from ovolo.sheet.names import studies_used
from ovolo.sheet.reader import title_of
from studio.accounts.names import name_of
from studio.engine import answers, tasks, wire
from studio.engine.editing import StillNeeded
from studio.engine.requests import body_of, failures_told, refused, worked
from studio.projects.access import entered, files_of, study_with
from studio.projects.as_seen import revision_of
from studio.projects.copies import copied
from studio.projects.models import OutOfDate, Study
from studio.rights.right import Right
from studio.together.merging import Clash, merged
from studio.workspace.beside import who_uses
from studio.workspace.state import state_of

MOST_MOMENTS = 300
"""So many moments of a history are listed."""


@entered
@require_POST
def edit(request: HttpRequest, study_id: int) -> HttpResponse:
    """One edit of the text, made from the revision it names: a new revision."""

    def change(study: Study, body: dict[str, Any]) -> None:
        made_from = wire.read(wire.Change, body)
        start = made_from.revision if made_from.mine is None else made_from.mine
        base = study.text if start == study.head_id else _text_at(study, start)
        _ask_users(request, study, base, body)
        text, said = _edited(request, study, base, body)
        if made_from.mine is not None:
            said = f"taken over: {said}"
        if (
            start != study.head_id
        ):  # another was quicker: what is not of the same line goes together
            text = _put_together(base, text, study.text, over=made_from.mine is not None)
        followers = _followers(request, study, body)
        with transaction.atomic():  # those that use a name go along with it, or nothing is changed
            study.save_text(text, study.head_id, said)
            for user, new in followers:
                user.by = study.by
                user.save_text(new, user.head_id, f"“{study.title}” {said}")

    return _changed(request, study_id, change)


def _text_at(study: Study, revision: int | None) -> str:
    """The text of the revision that a change was made from; what was made from nothing is out of date."""
    if revision is None:
        raise OutOfDate
    return revision_of(study, revision).text


def _put_together(base: str, mine: str, theirs: str, over: bool) -> str:
    """Two changes of a text; where both changed a line, mine goes `over` the other. Raises Clashing where
    it is not to."""
    found = merged(base, mine, theirs, over)
    if isinstance(found, str):
        return found
    raise Clashing(found)


class Clashing(OutOfDate):
    """A change is of a line that another has changed meanwhile."""

    def __init__(self, clashes: list[Clash]) -> None:
        super().__init__(clashes)
        self.clashes = clashes


def _edited(request: HttpRequest, study: Study, text: str, body: dict[str, Any]) -> tuple[str, str]:
    """The text after an edit, and what changed in words. Raises Failure."""
    files = files_of(study, text)
    new, said, _ = worked(request, tasks.edited, text, body, files, study=study.pk)
    return new, said


def _followers(request: HttpRequest, study: Study, body: dict[str, Any]) -> list[tuple[Study, str]]:
    """The studies that use a name which is being changed, each with its new text."""
    if body.get("edit") != "rename":
        return []
    beside = study.project.studies.select_related("head").exclude(pk=study.pk)
    users = {one.pk: one for one in beside if study.title in studies_used(one.text).values()}
    if not users:
        return []
    asked = wire.read(wire.Rename, body)
    names = asked.name, asked.new.strip()
    texts = {number: one.text for number, one in users.items()}
    changed = worked(request, tasks.following, study.title, *names, texts, study=study.pk)
    return [(users[number], text) for number, text in changed.items()]


def _ask_users(request: HttpRequest, study: Study, text: str, body: dict[str, Any]) -> None:
    """Refuses, once, to delete what other studies use: it can be done all the same. (What is renamed
    they follow.)"""
    if body.get("edit") != "delete":
        return
    asked = wire.read(wire.Delete, body)
    if asked.all_the_same:
        return
    name = _name_at(text, asked.line)
    used = who_uses(request, study, name) if name else ""
    if used:
        raise StillNeeded(f"{_own_need(request, study, text, body)}{used}; amend it there, too")


_NAMED = re.compile(r"(?:(?:input|part|file|use)\s+)?([^\W\d]\w*)")


def _name_at(text: str, line: int) -> str:
    """What the line that begins here is called, as far as its beginning tells."""
    lines = text.split("\n")
    if not 1 <= line <= len(lines):
        return ""
    found = _NAMED.match(lines[line - 1])
    return found[1] if found else ""


def _own_need(request: HttpRequest, study: Study, text: str, body: dict[str, Any]) -> str:
    try:
        _edited(request, study, text, body)
    except StillNeeded as failure:
        return f"{failure.message}; "
    return ""


@entered
@require_POST
@failures_told
def edit_copy(request: HttpRequest, study_id: int) -> HttpResponse:
    """The edit, made from the revision it names, as another study: nobody's work is touched."""
    study = study_with(request, study_id, Right.EDIT)
    body = body_of(request)
    mine = wire.read(wire.Change, body).mine
    text = study.text if mine is None else revision_of(study, mine).text
    text, said = _edited(request, study, text, body)
    copy = copied(study, text, said)
    told: answers.StudyTitleSaid = {"study": copy.pk, "title": copy.title}
    return JsonResponse(told)


@entered
@require_POST
def undo(request: HttpRequest, study_id: int) -> HttpResponse:
    return _changed(request, study_id, lambda study, body: study.undo(_base(body)))


@entered
@require_POST
def redo(request: HttpRequest, study_id: int) -> HttpResponse:
    return _changed(request, study_id, lambda study, body: study.redo(_base(body)))


def _base(body: dict[str, Any]) -> int:
    """The revision from which a step is taken; none is a step from nothing."""
    return wire.read(wire.Change, body).revision or 0


@entered
@require_GET
def history(request: HttpRequest, study_id: int) -> HttpResponse:
    """The moments of a study, the newest first."""
    study = study_with(request, study_id, Right.READ)
    moments = study.revisions.select_related("author").order_by("-pk").defer("text")
    told: answers.MomentsSaid = {
        "moments": [
            {
                "revision": one.pk,
                "said": one.said,
                "name": one.name,
                "by": name_of(one.author),
                "at": one.created.isoformat(),
                "here": one.pk == study.head_id,
            }
            for one in moments[:MOST_MOMENTS]
        ],
        "count": moments.count(),
    }
    return JsonResponse(told)


@entered
@require_POST
def restore(request: HttpRequest, study_id: int) -> HttpResponse:
    """The text of an earlier moment again, as a new revision: nothing between is lost."""

    def change(study: Study, body: dict[str, Any]) -> None:
        moment = revision_of(study, wire.read(wire.Moment, body).moment)
        base = wire.read(wire.Change, body).revision
        study.save_text(moment.text, base, f"restored: {moment}")

    return _changed(request, study_id, change)


@entered
@require_POST
@failures_told
def name_moment(request: HttpRequest, study_id: int) -> HttpResponse:
    """Gives a moment a name, or takes it away again (an empty name)."""
    study = study_with(request, study_id, Right.EDIT)
    asked = wire.read(wire.Moment, body_of(request))
    moment = revision_of(study, asked.moment)
    moment.name = asked.name.strip()[:120]
    moment.save(update_fields=["name"])
    return JsonResponse(state_of(study))


def _changed(
    request: HttpRequest, study_id: int, change: Callable[[Study, dict[str, Any]], object]
) -> HttpResponse:
    """Makes a change and answers with the state after it."""
    for again in reversed(range(_ATTEMPTS)):
        study = study_with(request, study_id, Right.EDIT)
        try:
            change(study, body_of(request))
            study.take_title(title_of(study.text))
        except Failure as failure:
            return refused(failure, needed=isinstance(failure, StillNeeded))
        except Clashing as clashing:
            return _out_of_date(study, request, clashing.clashes)
        except OutOfDate:
            if again:  # another saved between the reading and the saving
                continue
            return _out_of_date(study_with(request, study_id, Right.EDIT), request, [])
        break
    return JsonResponse(state_of(study))


_ATTEMPTS = 4
_SHOWN_CLASHES = 20


def _out_of_date(study: Study, request: HttpRequest, clashes: list[Clash]) -> HttpResponse:
    head = study.head
    author = head.author if head is not None else None
    who = (
        name_of(author) if author is not None and author.pk != request.user.pk else "another window"
    )
    said = head.said if head is not None else ""
    answer: answers.NotDoneSaid = {
        "message": f"{'The same line' if clashes else 'This study'} was changed by {who}.",
        "hint": f"there: {said}" if said else "",
        "revision": study.head_id,
        "clashes": [{"base": one.base, "mine": one.mine, "theirs": one.theirs} for one in clashes[:_SHOWN_CLASHES]],
    }  # fmt: skip
    return JsonResponse(answer, status=409)
