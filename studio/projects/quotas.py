"""How much one person may keep: counted over all projects that a person owns, whoever works on them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.conf import settings
from django.db.models import Sum
from django.db.models.functions import Length

from ovolo.problems import Failure
from studio.projects.models import Attachment, Revision, Study

_MEGABYTE = 1_000_000


@dataclass(frozen=True, slots=True)
class Room:
    """What somebody has of what may be had: studies (also those in the bin), and bytes of sheets, with
    their history, and files."""

    studies: int
    most_studies: int
    bytes: int
    most_bytes: int

    @property
    def said(self) -> str:
        return (
            f"{self.studies:,} of {self.most_studies:,} studies, "
            f"{self.bytes / _MEGABYTE:,.1f} of {self.most_bytes / _MEGABYTE:,.0f} MB"
        )


def room_of(owner: Any) -> Room:
    """What an owner has, of what one may have."""
    files = Attachment.objects.filter(study__project__owner=owner).aggregate(
        size=Sum(Length("data"))
    )
    texts = Revision.objects.filter(study__project__owner=owner).aggregate(size=Sum(Length("text")))
    return Room(
        Study.everything.filter(project__owner=owner).count(),
        settings.MOST_STUDIES,
        (files["size"] or 0) + (texts["size"] or 0),
        settings.MOST_BYTES,
    )


def check_room(owner: Any, studies: int = 0, size: int = 0) -> None:
    """Raises Failure where an owner may not keep so much more."""
    room = room_of(owner)
    if room.studies + studies > room.most_studies:
        raise Failure(
            f"{owner} has {room.studies:,} studies; at most {room.most_studies:,} are kept",
            "remove some, also from the bin",
        )
    if size and room.bytes + size > room.most_bytes:
        raise Failure(
            f"{owner} has {room.bytes / _MEGABYTE:,.1f} MB of sheets and files; at most "
            f"{room.most_bytes / _MEGABYTE:,.0f} MB are kept",
            "remove files, or studies, also from the bin",
        )
