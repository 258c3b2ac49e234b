"""Loads the demonstration: the demo user and the Quillmere project."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from studio.accounts.demo_user import DEMO_USER
from studio.projects.demo import demo_contact_sheets, demo_files, demo_sheets
from studio.projects.models import Project, Study

PROJECT = "Quillmere Observatory"


class Command(BaseCommand):
    """Can be run again without harm: a study that was changed since stays as it is."""

    help = "Loads the demonstration project (Quillmere Observatory) for the user `demo`."

    def handle(self, *args: Any, **options: Any) -> None:
        user, made = get_user_model().objects.get_or_create(
            username=DEMO_USER, defaults={"first_name": "Fathom & Lark"}
        )
        if made:
            user.set_unusable_password()
            user.save()
        project, _ = Project.objects.update_or_create(
            owner=user, title=PROJECT, defaults={"examples": True}
        )
        for place, (title, text) in enumerate(demo_sheets().items()):
            study = self._load(project, place, title, text)
            for kept in demo_contact_sheets(title):
                sheet = {"plan": kept["plan"], "shown": kept["shown"], "text_of": study.head}
                study.contact_sheets.get_or_create(title=kept["title"], defaults=sheet)
            for name, data in demo_files(text).items():
                study.attachments.get_or_create(name=name, defaults={"data": data})

    def _load(self, project: Project, place: int, title: str, text: str) -> Study:
        study, made = Study.objects.get_or_create(
            project=project, title=title, defaults={"place": place}
        )
        untouched = study.revisions.count() <= 1
        if made:
            study.save_text(text, None, "as delivered")
        elif untouched and study.text != text:
            study.save_text(text, study.head_id, "newly delivered")
        if study.place != place:
            study.place = place
            study.save(update_fields=["place"])
        self.stdout.write(f"{'loaded' if made else 'kept'}: {title}")
        return study
