"""Does what requests leave for later: imports, one after the other, until stopped."""

from __future__ import annotations

from typing import Any

from django.core.management import BaseCommand, call_command

from history import trash
from runs import importing

LOOK_S = 0.3  # between two looks for something to do


class Command(BaseCommand):
    """Take up what a worker before this one left unfinished, empty the trash of what is too old, then what comes."""

    requires_system_checks = ()  # as for recorders
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        """Once, or until stopped."""
        parser.add_argument("--once", action="store_true", help="end when nothing is left to do")

    def handle(self, *args: Any, **options: Any) -> None:
        """Until stopped."""
        importing.resume()
        importing.worker_began.send(sender=Command)
        trash.empty()
        call_command(
            "db_worker", interval=LOOK_S, batch=options["once"], startup_delay=False, reload=False, verbosity=0
        )
