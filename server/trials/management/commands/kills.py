"""`coombe kills`: processes killed at random moments while two cars are recorded."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from trials.kills import kills


class Command(BaseCommand):
    """Kill, compare, tell."""

    help = "kill processes at random moments while recording, and compare what is stored with what was sent"

    def add_arguments(self, parser: CommandParser) -> None:
        """How often, and which moments."""
        parser.add_argument("--each", type=int, default=20, help="kills of each kind of process")
        parser.add_argument("--seed", type=int, default=1)

    def handle(self, *args: Any, **options: Any) -> None:
        """Print what was found; fail where anything was lost or doubled."""
        found = kills(options["each"], options["seed"])
        self.stdout.write(str(found))
        if found.wrong:
            raise CommandError("Something was lost or doubled.")
