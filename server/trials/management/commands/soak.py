"""`coombe soak`: a long recording against simulated devices, in an empty database."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from recording.models import Recorder
from trials.soak import soak


class Command(BaseCommand):
    """Soak and report."""

    help = "record for long against simulated devices and say whether memory stayed flat and every fix was kept"

    def add_arguments(self, parser: CommandParser) -> None:
        """How long, and how fast."""
        parser.add_argument("--minutes", type=float, default=120.0)
        parser.add_argument("--rate", type=float, default=25.0)

    def handle(self, *args: Any, **options: Any) -> None:
        """Print what was found; fail where something was not as it should be."""
        if Recorder.objects.exists():
            raise CommandError("A soak needs an empty database: use ./coombe soak.")
        found = soak(options["minutes"], options["rate"])
        self.stdout.write(str(found))
        if not found.held:
            raise CommandError("Memory grew, or something was missed.")
