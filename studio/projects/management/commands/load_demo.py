"""Loads the demonstration: the demo user and the Quillmere project."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from ovolo.meaning.program import checked_program
from studio.accounts.demo import DEMO_USER
from studio.projects.access import named_files
from studio.projects.models import Project, Study

SHEETS = Path(settings.BASE) / "demo" / "quillmere"
PROJECT = "Quillmere Observatory"


class Command(BaseCommand):
    """Can be run again without harm: a study that was changed since stays as it is."""

    help = "Loads the demonstration project (Quillmere Observatory) for the user `demo`."

    def handle(self, *args: Any, **options: Any) -> None:
        user, made = get_user_model().objects.get_or_create(username=DEMO_USER)
        if made:
            user.set_unusable_password()
            user.save()
        project, _ = Project.objects.get_or_create(owner=user, title=PROJECT)
        for place, path in enumerate(sorted(SHEETS.glob("*.ovo"))):
            study = self._load(project, place, path.read_text(encoding="utf-8"))
            self._attach(study)

    def _attach(self, study: Study) -> None:
        """The files that the sheet names, where they are not attached yet."""
        for name in named_files(study.text):
            data = (SHEETS / name).read_bytes()
            study.attachments.get_or_create(name=name, defaults={"data": data})

    def _load(self, project: Project, place: int, text: str) -> Study:
        title = checked_program(text).title
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
