"""A project written into a ZIP, also one too large for the page."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from studio.projects.models import Project
from studio.projects.packing import pack_project


class Command(BaseCommand):
    help = "Writes a project, by its number, into a ZIP of plain files."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("project", type=int)
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        project = Project.objects.filter(pk=options["project"]).first()
        if project is None:
            raise CommandError(f"there is no project {options['project']}")
        with options["file"].open("wb") as into:
            pack_project(project, into)
        self.stdout.write(f"{project.title}: {options['file']}")
