"""Runs the trial of a cluster; `./coombe cluster-trial` gives it its surroundings."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from trials.cluster.running import run


class Command(BaseCommand):
    """Ends with an error where something acknowledged was lost, or too much failed."""

    help = "several machines on one: parts fail in turn while people work"
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: CommandParser) -> None:
        """For how long."""
        parser.add_argument("--minutes", type=float, default=20.0)
        parser.add_argument("--readers", type=int, default=50)
        parser.add_argument("--throughput", action="store_true")
        parser.add_argument("--untimed", action="store_true", help="judge what is kept, not how soon it is answered")

    def handle(self, *args: Any, **options: Any) -> None:
        """Run it and write the report."""
        report = run(options["minutes"], options["readers"], options["throughput"])
        self.stdout.write(str(report))
        for at_s, method, path, status in report.asked.failed[:60]:
            self.stderr.write(f"failed after {at_s:.1f} s: {method} {path} {status}")
        for at_s, method, path, seconds in report.asked.slow[:60]:
            self.stderr.write(f"slow after {at_s:.1f} s: {method} {path} {seconds:.1f} s")
        if not report.kept or not (options["untimed"] or report.asked.held):
            raise CommandError("Something was lost, or too much failed.")
