"""A project taken in from a ZIP, also from one too large for the page."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand, CommandError, CommandParser

from ovolo.problems import Failure
from studio.projects.packing import unpacked


class Command(BaseCommand):
    help = "Takes a project that was packed in, as a new one of the person named."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("owner")

    def handle(self, *args: Any, **options: Any) -> None:
        owner = get_user_model().objects.filter(username=options["owner"]).first()
        if owner is None:
            raise CommandError(f"there is nobody called {options['owner']}")
        try:
            project = unpacked(options["file"].read_bytes(), owner)
        except (OSError, Failure) as failure:
            raise CommandError(getattr(failure, "said", str(failure))) from failure
        self.stdout.write(f"{project.title}: {project.studies.count()} studies")
