"""`coombe pace`: how fast the server answers with many runs, in an empty database."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from runs.models import Run
from trials.altering import changes
from trials.pace import pace
from trials.usable import usable


class Command(BaseCommand):
    """Fill, time and report."""

    help = "time comparisons and lists with many runs in the database"

    def add_arguments(self, parser: CommandParser) -> None:
        """How many runs, and of what."""
        parser.add_argument("--runs", type=int, default=10_000)
        parser.add_argument("--pages", action="store_true", help="pages in a browser, and many people at once")
        parser.add_argument("--changes", action="store_true", help="changes of tables while others read and write")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print the table; fail where something takes longer than is asked."""
        if Run.objects.exists():
            raise CommandError("This needs an empty database: use ./coombe pace.")
        if options["changes"]:
            self._change(options["runs"])
            return
        self.stdout.write(f"| with {options['runs']} runs | median, ms | 95 %, ms | |\n| --- | ---: | ---: | --- |")
        found = []
        for each in (usable if options["pages"] else pace)(options["runs"]):
            self.stdout.write(str(each))
            self.stdout.flush()
            found.append(each)
        if any(each.limit_s and each.p95_s > each.limit_s for each in found):
            raise CommandError("Something takes longer than is asked.")

    def _change(self, runs: int) -> None:
        """Print what each change took; fail where somebody waited for long."""
        self.stdout.write(
            f"| with {runs} runs | s | longest read, ms | longest write, ms |\n| --- | ---: | ---: | ---: |"
        )
        found = []
        for each in changes(runs):
            self.stdout.write(str(each))
            self.stdout.flush()
            found.append(each)
        if not all(each.held for each in found):
            raise CommandError("Somebody waited for long.")
