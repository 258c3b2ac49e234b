"""What is said where people are invited, and links made."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django import forms
from django.utils import timezone

from studio.handover.menu import takeable
from studio.projects.models import Project
from studio.rights.right import Role

LASTING = {"1": "a day", "7": "a week", "30": "30 days", "365": "a year", "": "until taken back"}
"""For how many days something is open, and how that is said."""


class Lasting(forms.Form):
    """Something that is open for some time."""

    days = forms.ChoiceField(choices=list(LASTING.items()), required=False)

    def until(self) -> dt.datetime | None:
        days = self.cleaned_data["days"]
        return timezone.now() + dt.timedelta(days=int(days)) if days else None


class InvitationForm(Lasting):
    role = forms.ChoiceField(choices=Role.choices)
    mail = forms.EmailField(required=False, max_length=254)


class LinkForm(Lasting):
    study: forms.ModelChoiceField = forms.ModelChoiceField(queryset=None, required=False)  # type: ignore[type-arg]
    said = forms.CharField(max_length=120, required=False)
    formats = forms.MultipleChoiceField(choices=takeable, required=False)
    copies = forms.BooleanField(required=False)
    embeds = forms.BooleanField(required=False)

    def __init__(self, project: Project, *given: Any) -> None:
        super().__init__(*given)
        self.fields["study"].queryset = project.studies.all()  # type: ignore[attr-defined]


def said_wrong(form: forms.Form) -> str:
    """What is wrong with a form, in words: each field and what is said of it."""
    return "; ".join(
        f"{name}: {' '.join(map(str, wrongs))}" if name != "__all__" else " ".join(map(str, wrongs))
        for name, wrongs in form.errors.items()
    )
