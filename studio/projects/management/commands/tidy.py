"""Removes what is kept no longer: `tidying.py` says the rules."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db.models import Q
from django.utils import timezone

from studio.projects.models import Study
from studio.projects.tidying import BIN_DAYS, WHOLE_DAYS, out_of_bin, thin, thinned
from studio.rights.models import Invitation, Link

_LOGGED = timedelta(days=90)
"""For so long it is kept who tried to sign in, and what invitations and links there were."""


class Command(BaseCommand):
    """Best run once a day."""

    help = "Empties bins, thins old history, and forgets sessions, invitations and links that have run out."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--bin-days", type=int, default=BIN_DAYS)
        parser.add_argument("--whole-days", type=int, default=WHOLE_DAYS)
        parser.add_argument("--dry-run", action="store_true", help="only says what would go")

    def handle(self, *args: Any, **options: Any) -> None:
        really = not options["dry_run"]
        binned = out_of_bin(options["bin_days"])
        for study in binned if really else ():
            study.delete()
        revisions = 0
        for study in Study.everything.select_related("head").iterator():
            dropped = thinned(study, options["whole_days"])
            revisions += len(dropped)
            if really and dropped:
                thin(study, dropped)
        passed = sum(self._passed(model, really) for model in (Invitation, Link))
        if really:
            call_command("clearsessions")
            old = timezone.now() - _LOGGED
            for model in (AccessAttempt, AccessFailureLog, AccessLog):
                model.objects.filter(attempt_time__lt=old).delete()
        verb = "removed" if really else "would be removed"
        self.stdout.write(
            f"{verb}: {len(binned)} studies from bins, {revisions} revisions, {passed} invitations and links"
        )

    def _passed(self, model: type[Invitation] | type[Link], really: bool) -> int:
        """Removes those that ended, or ran out, long ago; gives their number."""
        old = timezone.now() - _LOGGED
        gone = model.everything.filter(Q(until__lt=old) | Q(ended__lt=old))
        count = gone.count()
        if really:
            gone.delete()
        return count
