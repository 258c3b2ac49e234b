"""Who works on a project, who was asked to, and the links by which visitors look at it."""

from __future__ import annotations

import secrets
from functools import partial
from typing import ClassVar, TypeVar

from django.conf import settings
from django.db import models
from django.utils import timezone

from studio.rights.right import LOOKING, Right, Role

new_token = partial(secrets.token_urlsafe, 24)
"""192 bits that nobody guesses."""


class Member(models.Model):
    """Somebody who works on a project of another."""

    project = models.ForeignKey(
        "projects.Project", on_delete=models.CASCADE, related_name="members"
    )
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships"
    )
    role = models.CharField(max_length=10, choices=Role.choices)
    since = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        constraints = (
            models.UniqueConstraint(fields=("project", "person"), name="member_once_a_project"),
        )

    def __str__(self) -> str:
        return f"{self.person}: {self.role} of {self.project_id}"


_Kind = TypeVar("_Kind", bound=models.Model)


class Open(models.Manager[_Kind]):
    """Those that have neither been ended nor run out."""

    def get_queryset(self) -> models.QuerySet[_Kind]:
        lasting = models.Q(until=None) | models.Q(until__gt=timezone.now())
        return super().get_queryset().filter(lasting, ended=None)


class Passing(models.Model):
    """What opens something to whoever holds its token, until it runs out or is ended."""

    token = models.CharField(max_length=40, unique=True, default=new_token, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField(null=True)
    ended = models.DateTimeField(null=True, editable=False)

    class Meta:
        abstract = True
        ordering = ("-pk",)

    def end(self) -> None:
        self.ended = timezone.now()
        self.save(update_fields=["ended"])


class Invitation(Passing):
    """An invitation to work on a project: whoever signs in and takes it has the role. It is taken once."""

    project = models.ForeignKey(
        "projects.Project", on_delete=models.CASCADE, related_name="invitations"
    )
    role = models.CharField(max_length=10, choices=Role.choices)
    mail = models.EmailField(blank=True)
    """Where it was sent to; empty where it was only shown."""

    everything: ClassVar[models.Manager[Invitation]] = models.Manager()
    objects = Open["Invitation"]()

    def __str__(self) -> str:
        return f"invitation to {self.project_id} as {self.role}"


class Link(Passing):
    """A link to a study, or to a project with all its studies, for visitors without an account."""

    project = models.ForeignKey("projects.Project", on_delete=models.CASCADE, related_name="links")
    study = models.ForeignKey(
        "projects.Study", null=True, on_delete=models.CASCADE, related_name="links"
    )
    said = models.CharField(max_length=120, blank=True)
    """For whom it is, as its maker remembers it."""

    formats = models.JSONField(default=list)
    """The kinds of files that a visitor may take, by the names of their formats."""

    copies = models.BooleanField(default=False)
    embeds = models.BooleanField(default=False)
    """Whether pages elsewhere may show it within themselves."""

    everything: ClassVar[models.Manager[Link]] = models.Manager()
    objects = Open["Link"]()

    def __str__(self) -> str:
        return self.said or f"link to {self.project_id}"

    @property
    def rights(self) -> frozenset[Right]:
        more = {Right.HAND_OVER: bool(self.formats), Right.COPY: self.copies}
        return LOOKING | {right for right, given in more.items() if given}

    def covers(self, project: int, study: int | None) -> bool:
        """Whether it leads to a study; without one, to the whole of a project."""
        return self.project_id == project and self.study_id in (None, study)
