"""How far a person has come with the exercises of the first hour."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Progress(models.Model):
    """One exercise of one person: the study in which it is done, and since when."""

    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="exercises"
    )
    exercise = models.CharField(max_length=20)
    study = models.ForeignKey(
        "projects.Study", null=True, on_delete=models.SET_NULL, related_name="exercises"
    )
    begun = models.DateTimeField(auto_now_add=True)
    done = models.DateTimeField(null=True)
    left = models.DateTimeField(null=True)
    """Since when its guide is put away; it can be gone on with."""

    class Meta:
        ordering = ("pk",)
        constraints = (
            models.UniqueConstraint(fields=("person", "exercise"), name="exercise_once_a_person"),
        )

    def __str__(self) -> str:
        return f"{self.person_id}: {self.exercise}"
