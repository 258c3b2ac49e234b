"""Projects, their studies, and every revision of a study's text."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models, transaction

from ovolo.sheet.edits import with_title_followed
from ovolo.sheet.lines import with_line_feeds
from studio.accounts.names import plain_name


class Project(models.Model):
    """A folder of studies, owned by one person."""

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="projects"
    )
    title = models.CharField(max_length=200)
    examples = models.BooleanField(default=False, editable=False)
    """Whether it is a demonstration, which stands apart from one's own work."""

    created = models.DateTimeField(auto_now_add=True)

    by: Any = None
    """Who works on it, and is the author of the studies made in it."""

    class Meta:
        ordering = ("examples", "title")

    def __str__(self) -> str:
        return self.title


class OutOfDate(Exception):
    """A save was made from a revision that is no longer the newest."""


class Present(models.Manager["Study"]):
    """The studies that are not in the bin."""

    def get_queryset(self) -> models.QuerySet[Study]:
        return super().get_queryset().filter(removed=None)


class Study(models.Model):
    """One design: its text is that of its `head` revision."""

    objects = Present()
    everything = models.Manager()

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="studies")
    title = models.CharField(max_length=200)
    place = models.PositiveIntegerField(default=0)
    head = models.ForeignKey(
        "Revision", null=True, on_delete=models.SET_NULL, related_name="headed", editable=False
    )
    changed = models.DateTimeField(auto_now=True)
    removed = models.DateTimeField(null=True, editable=False)
    """When it was put into the bin; nothing is lost until it is removed for good."""

    by: Any = None
    """Who works on it, and is the author of what is saved; None where the application does."""

    state = ""
    """The state it is in with all it rests on, where somebody asked (`pictures.state_shown`)."""

    used_by = ""
    """The titles of the studies that use it, in words, where somebody looked."""

    before: int | None = None
    behind: int | None = None
    """Before which study it goes when it is moved forward, or back (0: to the end), where somebody looked."""

    rights: Any = frozenset()
    """What the person may do with it who reached it (`access.study_with`)."""

    class Meta:
        ordering = ("place", "title")
        verbose_name_plural = "studies"
        default_manager_name = "objects"
        constraints = (
            models.UniqueConstraint(
                fields=("project", "title"),
                condition=models.Q(removed=None),
                name="study_title_once_a_project",
            ),
        )

    def __str__(self) -> str:
        return self.title

    @property
    def text(self) -> str:
        return self.head.text if self.head is not None else ""

    def save_text(self, text: str, base: int | None, said: str = "") -> Revision:
        """A new revision made from revision `base`; raises OutOfDate where that is not the head. Lines end in
        line feeds whoever wrote them, as they do in the editor: else lines that nobody touched would differ."""
        text = with_line_feeds(text)
        with transaction.atomic():
            study = Study.objects.select_related("head").get(pk=self.pk)
            if study.head_id != base:
                raise OutOfDate
            if study.head is not None and study.head.text == text:
                return study.head
            revision = Revision.objects.create(
                study=study, parent=study.head, text=text, said=said[:200], author=self.by
            )
            study._move_head(revision)
        self.head = revision
        return revision

    def take_title(self, title: str) -> None:
        """Calls the study as its sheet does, unless another study of the project is called so."""
        title = _shown_plainly(title)
        taken = Study.objects.filter(project=self.project_id, title=title).exclude(pk=self.pk)
        if title and title != self.title and not taken.exists():
            old, self.title = self.title, title
            self.save(update_fields=["title"])
            self._take_users_along(old)

    def _take_users_along(self, old: str) -> None:
        """Points the studies that use this one at its new title."""
        for user in self.project.studies.select_related("head").exclude(pk=self.pk):
            text = with_title_followed(user.text, old, self.title)
            if text != user.text:
                user.by = self.by
                user.save_text(text, user.head_id, f"“{old}” is now called “{self.title}”")

    def undo(self, base: int) -> Revision | None:
        """Goes back to the revision before the head; None where there is none."""
        return self._step(base, lambda head: head.parent)

    def redo(self, base: int) -> Revision | None:
        """Goes on to the newest revision made from the head; None where there is none."""
        return self._step(base, lambda head: head.children.order_by("-pk").first())

    def _step(self, base: int, step: Callable[[Revision], Revision | None]) -> Revision | None:
        with transaction.atomic():
            study = Study.objects.select_related("head__parent").get(pk=self.pk)
            if study.head is None or study.head_id != base:
                raise OutOfDate
            revision = step(study.head)
            if revision is not None:
                study._move_head(revision)
        if revision is not None:
            self.head = revision
        return revision

    def _move_head(self, revision: Revision) -> None:
        self.head = revision
        self.save(update_fields=["head", "changed"])


def _shown_plainly(title: str) -> str:
    """A title that a sheet says, as it may stand beside others; empty where it hides characters."""
    try:
        return plain_name(title)[:200]
    except ValidationError:
        return ""


class Picture(models.Model):
    """What a study looks like in a state `of` it and of all it rests on: a PNG, drawn by a browser, which
    tells too how many `problems` and `failing` checks it saw."""

    study = models.OneToOneField(Study, on_delete=models.CASCADE, related_name="picture")
    of = models.CharField(max_length=64)
    data = models.BinaryField()
    problems = models.PositiveIntegerField(default=0)
    failing = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"picture of {self.study}"

    @property
    def wrong(self) -> str:
        """What is wrong in that state, in words; empty where all is well."""
        said = [
            f"{count} {one if count == 1 else several}"
            for count, one, several in (
                (self.problems, "problem", "problems"),
                (self.failing, "check fails", "checks fail"),
            )
            if count
        ]
        return ", ".join(said)


class ContactSheet(models.Model):
    """A plan of variations kept with a study, and what was looked at; never the results, which are made
    anew. `text_of` is the revision that it was made with."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="contact_sheets")
    title = models.CharField(max_length=120)
    plan = models.JSONField()
    settings = models.JSONField(default=dict)
    """The values around which the plan was made, where they were not those of the text."""

    shown = models.JSONField(default=dict)
    text_of = models.ForeignKey(
        "Revision", null=True, on_delete=models.SET_NULL, related_name="+", editable=False
    )
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        constraints = (
            models.UniqueConstraint(fields=("study", "title"), name="sheet_title_once_a_study"),
        )

    def __str__(self) -> str:
        return self.title


class MachineProfile(models.Model):
    """A person's own profile of a machine (`ovolo/benches/profile.py`): its text says all."""

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="machine_profiles"
    )
    machine = models.CharField(max_length=20)
    title = models.CharField(max_length=120)
    text = models.TextField()

    class Meta:
        ordering = ("title",)
        constraints = (
            models.UniqueConstraint(
                fields=("owner", "machine", "title"), name="profile_title_once_a_person"
            ),
        )

    def __str__(self) -> str:
        return self.title


class BenchSettings(models.Model):
    """How a study was last set up on a bench: the machine, what is set otherwise, the roles of its parts."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="benches")
    machine = models.CharField(max_length=20)
    said = models.JSONField(default=dict)

    class Meta:
        constraints = (
            models.UniqueConstraint(fields=("study", "machine"), name="bench_once_a_study"),
        )

    def __str__(self) -> str:
        return f"{self.study}: {self.machine}"


class HandedOver(models.Model):
    """A hand-over that was made: what was asked for, of which revision, and the digests of what left."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="handed_over")
    revision = models.ForeignKey("Revision", on_delete=models.CASCADE, related_name="+")
    author = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    asked = models.JSONField()
    manifest = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self) -> str:
        return f"{self.study}, {len(self.manifest['files'])} files"


class Attachment(models.Model):
    """A file attached to a study; its sheet reads it by name (`file bolts = "bolts.csv"`)."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="attachments")
    name = models.CharField(max_length=120)
    data = models.BinaryField()
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("name",)
        constraints = (
            models.UniqueConstraint(fields=("study", "name"), name="file_name_once_a_study"),
        )

    def __str__(self) -> str:
        return self.name


class Revision(models.Model):
    """One state of a study's text. Revisions are never changed; undo moves the head. Old ones are removed by a
    rule (`tidying.py`)."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="revisions")
    parent = models.ForeignKey("self", null=True, on_delete=models.CASCADE, related_name="children")
    text = models.TextField(blank=True)
    said = models.CharField(max_length=200, blank=True)
    """What changed, in words."""

    name = models.CharField(max_length=120, blank=True)
    """A name that a person gave this moment."""

    author = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    """Who made the change; nothing where the application did, or nobody knows any more."""

    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return self.name or self.said or f"revision {self.pk}"
