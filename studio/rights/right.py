"""What may be done with a study, and who may do it by which role."""

from __future__ import annotations

from enum import Enum

from django.db.models import TextChoices


class Right(Enum):
    """What a person may do with a study; of a project, with all of its studies."""

    VIEW = "look at its picture and its values"
    TURN = "turn its inputs for oneself, and measure it"
    READ = "read its history, its files, and what is beside it"
    HAND_OVER = "take files from it"
    COPY = "take a copy of it to a project of one's own"
    EDIT = "change its text and its files"
    MAKE = "make, copy and take in studies, and put them into the bin"
    OWN = "name and remove the project, empty its bin, and say who works on it"


ALL = frozenset(Right)
LOOKING = frozenset({Right.VIEW, Right.TURN})


class Role(TextChoices):
    """The part somebody has who was invited to a project."""

    EDITOR = "editor", "may change it"
    VIEWER = "viewer", "may look at it"

    @property
    def rights(self) -> frozenset[Right]:
        if self is Role.EDITOR:
            return ALL - {Right.OWN}
        return LOOKING | {Right.READ, Right.HAND_OVER, Right.COPY}
