"""Where a study stands, as its window is told."""

from __future__ import annotations

from django.db.models.functions import Length

from studio.engine.answers import StateSaid
from studio.projects.access import heads_used
from studio.projects.models import Picture, Study
from studio.projects.pictures import state_shown
from studio.rights.right import Right


def state_of(study: Study) -> StateSaid:
    """For who may not read what lies around the study, without its history, its files and what it uses."""
    head = study.head
    shown = state_shown(study)
    state: StateSaid = {
        "shown": shown,
        "pictured": Picture.objects.filter(study=study, of=shown).exists(),
        "title": study.title,
        "text": study.text,
        "revision": study.head_id,
        "can_undo": False, "can_redo": False, "undo_said": "", "redo_said": "",
        "used": {"shown": shown}, "files": [],
    }  # fmt: skip
    if Right.READ not in study.rights:
        return state
    onward = head.children.order_by("-pk").first() if head is not None else None
    sizes = study.attachments.annotate(size=Length("data")).values_list("name", "size")
    return {
        **state,
        "can_undo": head is not None and head.parent_id is not None,
        "can_redo": onward is not None,
        "undo_said": head.said if head is not None and head.parent_id is not None else "",
        "redo_said": onward.said if onward is not None else "",
        "used": heads_used(study),
        "files": [{"name": name, "size": size} for name, size in sizes],
    }
