"""Stores recordings that have ended and are not stored: what a killed process left, or what failed before."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from recording.finishing import finish_all


class Command(BaseCommand):
    """Beside the recorders."""

    help = "store recordings that have ended"

    def add_arguments(self, parser: CommandParser) -> None:
        """Which."""
        parser.add_argument("--all", action="store_true", help="also those that could not be stored before")

    def handle(self, *args: Any, **options: Any) -> None:
        """Say which could not be."""
        for recording in finish_all(options["all"]):
            recording.refresh_from_db()
            self.stdout.write(f"{recording} could not be stored: {recording.trouble}")
