"""A copy of the database while the service runs."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

PATTERN = "ovolo-*.sqlite3"


class Command(BaseCommand):
    """Everything that was acknowledged before it began is in it: SQLite copies one state of the database
    (https://www.sqlite.org/backup.html), however many write meanwhile. The copy is read through before it
    takes its name."""

    help = "Writes a checked copy of the database into a folder; the service may go on."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path)
        parser.add_argument(
            "--keep", type=int, default=0, help="remove all but so many copies; 0 keeps all"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        folder: Path = options["folder"]
        folder.mkdir(parents=True, exist_ok=True)
        name = f"ovolo-{timezone.now():%Y%m%d-%H%M%S-%f}.sqlite3"
        unchecked = folder / f".{name}"
        try:
            copy_database(Path(str(settings.DATABASES["default"]["NAME"])), unchecked)
            unchecked.chmod(0o600)
            unchecked.rename(folder / name)
        except (OSError, sqlite3.Error) as error:
            unchecked.unlink(missing_ok=True)
            raise CommandError(f"no copy was made: {error}") from error
        copies = sorted(folder.glob(PATTERN))
        for old in copies[: -options["keep"]] if options["keep"] > 0 else ():
            old.unlink()
        self.stdout.write(str(folder / name))


def copy_database(source: Path, target: Path) -> None:
    """Copies one state of a database and checks it. Raises sqlite3.Error where the copy is not whole."""
    if not source.exists():
        raise sqlite3.OperationalError(f"there is no database {source}")
    with (
        closing(sqlite3.connect(source, timeout=60)) as old,
        closing(sqlite3.connect(target)) as new,
    ):
        old.backup(new)
        (found,) = new.execute("PRAGMA integrity_check").fetchone()
        if found != "ok":
            raise sqlite3.DatabaseError(f"the copy is damaged: {found}")
    with target.open("rb") as file:
        os.fsync(file.fileno())
