"""Says which recordings are not stored, and which recorders have trouble; for `./coombe doctor`."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from recording.finishing import unstored
from recording.models import Recorder


class Command(BaseCommand):
    """An error where something needs doing."""

    help = "list what could not be stored"

    def handle(self, *args: Any, **options: Any) -> None:
        """A sentence each."""
        lines = [f"{each} is not stored: {each.trouble or 'not tried yet'}" for each in unstored()]
        lines += [f"{each.name}: {each.trouble}" for each in Recorder.objects.exclude(trouble="")]
        if lines:
            raise CommandError("\n      ".join(lines))
        self.stdout.write("all stored")
