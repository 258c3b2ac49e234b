"""The database of a copy, put where none is."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser

from studio.projects.management.commands.backup import copy_database


class Command(BaseCommand):
    """Never goes over a database that is there."""

    help = "Puts a copy of the database into an empty place (OVOLO_VAR) and brings it up to date."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("copy", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        place = Path(str(settings.DATABASES["default"]["NAME"]))
        if place.exists():
            raise CommandError(f"{place} is there already; name an empty place by OVOLO_VAR")
        unchecked = place.with_suffix(".restoring")
        try:
            copy_database(options["copy"], unchecked)
            unchecked.rename(place)
        except (OSError, sqlite3.Error) as error:
            unchecked.unlink(missing_ok=True)
            raise CommandError(f"nothing was restored: {error}") from error
        call_command("migrate", verbosity=0)
        self.stdout.write(f"restored: {place}")
