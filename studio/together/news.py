"""What is new at a study, for a window that asks every few seconds.

Asking is preferred to events that the server pushes: each open window would hold one of the threads that
answer requests (64, `studio/config/gunicorn.py`) as long as it is open, and asking costs one short read.
"""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_POST

from studio.accounts.names import name_of
from studio.engine import answers, wire
from studio.engine.requests import body_of, failures_told
from studio.projects.access import heads_used, study_with
from studio.rights.right import Right
from studio.together import presence
from studio.together.remarks import stamp_of


@login_required
@require_POST
@failures_told
def news(request: HttpRequest, study_id: int) -> HttpResponse:
    """The newest revision and what changed there, the revisions of what it uses, who else is here, and a
    stamp of its remarks."""
    study = study_with(request, study_id, Right.READ)
    here = wire.read(wire.Here, body_of(request))
    window, person = here.window[:40], int(request.user.pk or 0)
    if here.gone:
        presence.forget(study.pk, window, person)
        return JsonResponse({})
    presence.note(study.pk, window, person, name_of(request.user), here.line)
    head = study.head
    told: answers.NewsSaid = {
        "revision": study.head_id,
        "undo_said": head.said if head is not None and head.parent_id is not None else "",
        "by": name_of(head.author) if head is not None else "",
        "used": heads_used(study),
        "people": presence.others(study.pk, window, person),
        "remarks": stamp_of(study),
        "may": [right.name.lower() for right in study.rights],
    }
    return JsonResponse(told)
