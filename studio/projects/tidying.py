"""What is kept for how long: the bin, and the history of studies.

The rule of the history: of each study the head stays, every moment that has a name, every revision that
something rests on (a hand-over, a contact sheet, a remark), all of the last 90 days, and of days before
those the last revision of each day. What stays keeps its order: a revision's parent is then the nearest
one before it that stays.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from studio.projects.models import ContactSheet, HandedOver, Revision, Study

BIN_DAYS = 30
WHOLE_DAYS = 90


def out_of_bin(days: int = BIN_DAYS) -> list[Study]:
    """The studies that have been in a bin for longer than that."""
    old = timezone.now() - timedelta(days=days)
    return list(Study.everything.filter(removed__lt=old).select_related("project"))


def thinned(study: Study, days: int = WHOLE_DAYS) -> list[int]:
    """The numbers of the revisions of a study that its history can do without, by the rule above."""
    old = timezone.now() - timedelta(days=days)
    kept = {study.head_id, *_rested_on(study)}
    last_of_day: dict[object, int] = {}
    rows = list(study.revisions.order_by("pk").values_list("pk", "name", "created"))
    for number, name, created in rows:
        if name or created >= old:
            kept.add(number)
        last_of_day[created.date()] = number
    kept.update(last_of_day.values())
    return [number for number, _, _ in rows if number not in kept]


def _rested_on(study: Study) -> set[int]:
    remarks = study.remarks.values_list("revision", flat=True)
    hand_overs = HandedOver.objects.filter(study=study).values_list("revision", flat=True)
    sheets = ContactSheet.objects.filter(study=study).values_list("text_of", flat=True)
    return {number for number in (*remarks, *hand_overs, *sheets) if number is not None}


@transaction.atomic
def thin(study: Study, dropped: Iterable[int]) -> None:
    """Removes these revisions; what came from one comes from the nearest before it that stays."""
    gone = set(dropped)
    parents = dict(study.revisions.values_list("pk", "parent"))
    for number, parent in parents.items():
        if number in gone or parent not in gone:
            continue
        while parent in gone:
            parent = parents[parent]
        Revision.objects.filter(pk=number).update(parent=parent)
    Revision.objects.filter(pk__in=gone).delete()
