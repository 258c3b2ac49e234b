"""Where a person is signed in."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class SignedIn(models.Model):
    """A browser in which somebody is signed in, by its session."""

    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="signed_in"
    )
    session = models.CharField(max_length=40, unique=True)
    browser = models.CharField(max_length=200, blank=True)
    address = models.GenericIPAddressField(null=True)
    since = models.DateTimeField(auto_now_add=True)
    seen = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-seen",)

    def __str__(self) -> str:
        return f"{self.person} since {self.since:%Y-%m-%d}"


class Token(models.Model):
    """What lets a program act for a person over HTTP. Only its digest is kept; it is shown once."""

    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="tokens"
    )
    said = models.CharField(max_length=120)
    """What it is for, as its maker remembers it."""

    digest = models.CharField(max_length=64, unique=True, editable=False)
    created = models.DateTimeField(auto_now_add=True)
    used = models.DateTimeField(null=True, editable=False)

    class Meta:
        ordering = ("-pk",)

    def __str__(self) -> str:
        return self.said
