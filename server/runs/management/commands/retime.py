"""Times runs again: those that are stale, or all of them; goes on where it broke off."""

from __future__ import annotations

import os
import sys
import time
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import connection

from config.connections import AWAY
from runs import resting
from runs.models import Run
from runs.retiming import retime_stale

LOOK_S = 1.0
AWAY_S = 2.0


class Command(BaseCommand):
    """`./coombe retime`, and the process beside the web server."""

    help = "time runs again where what they rest on has changed"

    def add_arguments(self, parser: CommandParser) -> None:
        """Which, and whether to stay."""
        parser.add_argument("--all", action="store_true", help="every run, also those that nothing has changed for")
        parser.add_argument("--watch", action="store_true", help="stay, and time whatever becomes stale")

    def handle(self, *args: Any, **options: Any) -> None:
        """Say what changed by more than its u95."""
        if options["watch"]:
            self._watch()
        resting.look(Run.objects.all())
        if options["all"]:
            Run.objects.update(stale=True)
        summary = retime_stale(self._progress)
        for change in summary.changes:
            self.stdout.write(str(change))
        for run, why in summary.failed:
            self.stdout.write(f"run {run} could not be timed again: {why}")
        moved = len({change.run for change in summary.changes})
        self.stdout.write(
            f"{summary.timed} runs timed again; in {moved} of them a value moved by more than its u95;"
            f" {len(summary.failed)} could not be timed"
        )

    def _progress(self, done: int, of: int) -> None:
        if self.stdout.isatty() or done == of:
            print(f"\r{done} of {of} runs", end="\n" if done == of else "", file=sys.stderr, flush=True)

    def _watch(self) -> None:
        """At its start everything is looked at: code or data may be other than when runs were timed."""
        os.nice(10)  # recording and people come first
        looked = False
        while True:
            try:
                if not looked:
                    resting.look(Run.objects.all())
                    looked = True
                retime_stale()
            except AWAY:
                connection.close()
                time.sleep(AWAY_S)
            connection.close()
            time.sleep(LOOK_S)
