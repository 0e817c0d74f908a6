"""How the database's tables stand to this code, as one line of JSON, for the launcher."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.executor import MigrationExecutor


class Command(BaseCommand):
    """Lists migrations."""

    help = "list the migrations that are pending, and those that only newer code knows"

    def handle(self, *args: Any, **options: Any) -> None:
        """`pending` in their order, `applied`, `unknown` of apps that this code has, `empty` where no tables are."""
        executor = MigrationExecutor(connection)
        plan = executor.migration_plan(executor.loader.graph.leaf_nodes())
        known, ours = set(executor.loader.disk_migrations), executor.loader.migrated_apps
        applied = executor.loader.applied_migrations
        state = {
            "pending": [f"{migration.app_label} {migration.name}" for migration, _ in plan],
            "unknown": sorted(f"{app} {name}" for app, name in applied if app in ours and (app, name) not in known),
            "applied": sorted(f"{app} {name}" for app, name in applied),
            "empty": not applied,
        }
        self.stdout.write(json.dumps(state))
