"""`coombe pace`: how fast the server answers with many runs, in an empty database."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from runs.models import Run
from trials.pace import pace
from trials.usable import usable


class Command(BaseCommand):
    """Fill, time and report."""

    help = "time comparisons and lists with many runs in the database"

    def add_arguments(self, parser: CommandParser) -> None:
        """How many runs, and of what."""
        parser.add_argument("--runs", type=int, default=10_000)
        parser.add_argument("--pages", action="store_true", help="pages in a browser, and many people at once")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print the table; fail where something takes longer than is asked."""
        if Run.objects.exists():
            raise CommandError("This needs an empty database: use ./coombe pace.")
        self.stdout.write(f"| with {options['runs']} runs | median, ms | 95 %, ms | |\n| --- | ---: | ---: | --- |")
        found = []
        for each in (usable if options["pages"] else pace)(options["runs"]):
            self.stdout.write(str(each))
            self.stdout.flush()
            found.append(each)
        if any(each.limit_s and each.p95_s > each.limit_s for each in found):
            raise CommandError("Something takes longer than is asked.")
