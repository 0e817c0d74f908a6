"""`coombe load`: many readers, many uploads and heavy files against one web process."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from trials.load import load


class Command(BaseCommand):
    """Load and report."""

    help = "read and upload at once, and say whether anything failed and memory came back"

    def add_arguments(self, parser: CommandParser) -> None:
        """How long, and how much."""
        parser.add_argument("--seconds", type=float, default=60.0)
        parser.add_argument("--uploads", type=int, default=1500)

    def handle(self, *args: Any, **options: Any) -> None:
        """Print what was found; fail where something was not as it should be."""
        found = load(options["seconds"], options["uploads"])
        self.stdout.write(str(found))
        if not found.held:
            raise CommandError("A request failed, or memory did not come back.")
