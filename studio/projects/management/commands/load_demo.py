"""Loads the demonstration: the demo user and the Quillmere project."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from ovolo.meaning.program import checked_program
from studio.accounts.demo import DEMO_USER
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
            self._load(project, place, path.read_text(encoding="utf-8"))

    def _load(self, project: Project, place: int, text: str) -> None:
        title = checked_program(text).title
        study, made = Study.objects.get_or_create(
            project=project, title=title, defaults={"place": place}
        )
        untouched = study.revisions.count() <= 1
        if made:
            study.save_text(text, None, "as delivered")
        elif untouched and study.text != text:
            study.save_text(text, study.head_id, "newly delivered")
        self.stdout.write(f"{'loaded' if made else 'kept'}: {title}")
