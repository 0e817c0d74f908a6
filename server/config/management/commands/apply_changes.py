"""Applies pending migrations one at a time, with the one under way written beside the data."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from django.db.migrations.executor import MigrationExecutor


class Command(BaseCommand):
    """For the launcher, which has copied the database before."""

    help = "apply pending migrations one at a time"

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to write what is under way, and which copy goes with it."""
        parser.add_argument("marker", type=Path)
        parser.add_argument("--copy", default="")

    def handle(self, *args: Any, **options: Any) -> None:
        """The marker stays where a migration fails or the process is killed in it."""
        executor = MigrationExecutor(connection)
        for migration, _ in executor.migration_plan(executor.loader.graph.leaf_nodes()):
            name = f"{migration.app_label} {migration.name}"
            options["marker"].write_text(json.dumps({"migration": name, "copy": options["copy"]}))
            call_command("migrate", migration.app_label, migration.name, interactive=False, verbosity=0)
            options["marker"].unlink()
