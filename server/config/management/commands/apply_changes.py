"""Applies pending migrations, with the one under way written beside the data."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.core.management.base import CommandParser
from django.core.management.commands import migrate
from django.db.migrations import Migration


class Command(migrate.Command):
    """Django's own `migrate`, for the launcher, which has copied the database before."""

    help = "apply pending migrations, with the one under way written beside the data"

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to write what is under way, and which copy goes with it."""
        super().add_arguments(parser)
        parser.add_argument("--marker", type=Path, required=True)
        parser.add_argument("--copy", default="")

    def handle(self, *args: Any, **options: Any) -> None:
        """The marker stays where a migration fails or the process is killed in it."""
        self.marker, self.copy = options["marker"], options["copy"]
        super().handle(*args, **options | {"interactive": False, "verbosity": 0})

    def migration_progress_callback(self, action: str, migration: Migration | None = None, fake: bool = False) -> None:
        """Write the marker before each migration and remove it after."""
        if action == "apply_start" and migration:
            self.marker.write_text(
                json.dumps({"migration": f"{migration.app_label} {migration.name}", "copy": self.copy})
            )
        if action == "apply_success":
            self.marker.unlink()
