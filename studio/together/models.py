"""Remarks on lines of a sheet, which stand beside its text and follow their line."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Remark(models.Model):
    """What somebody says of a line, or answers to another remark."""

    study = models.ForeignKey("projects.Study", on_delete=models.CASCADE, related_name="remarks")
    answers = models.ForeignKey("self", null=True, on_delete=models.CASCADE, related_name="replies")
    author = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    said = models.TextField(max_length=2000)
    revision = models.ForeignKey("projects.Revision", on_delete=models.CASCADE, related_name="+")
    """The newest revision in which its line was found."""

    line = models.PositiveIntegerField()
    """The number of its line there, from 1."""

    created = models.DateTimeField(auto_now_add=True)
    settled = models.DateTimeField(null=True)
    settled_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return self.said[:60]
