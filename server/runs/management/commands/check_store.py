"""Compares the store with the database, in both directions; moves what no row names to the trash only when asked to."""

from __future__ import annotations

import sys
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from history import trash
from runs import store
from runs.originals import findings, named


class Command(BaseCommand):
    """`./coombe store`."""

    help = "compare the store with the database"

    def add_arguments(self, parser: CommandParser) -> None:
        """What to do beside listing."""
        parser.add_argument("--quick", action="store_true", help="do not read every file")
        parser.add_argument("--trash", action="store_true", help="move what no row names to the trash, for 30 days")
        parser.add_argument("--empty-trash", action="store_true", help="delete for good what was deleted 30 days ago")

    def handle(self, *args: Any, **options: Any) -> None:
        """List every disagreement; exit 1 where a row lacks its bytes."""
        rows = named()
        checked = store.check(set(rows), thorough=not options["quick"])
        for line in findings(checked, rows):
            self.stdout.write(line)
        if options["trash"]:
            moved = store.to_trash(set(rows))
            self.stdout.write(f"{len(moved)} moved to the trash; ./coombe adopt takes them back for 30 days.")
        if options["empty_trash"]:
            rows_gone, files_gone = trash.empty(), len(store.empty_trash())
            self.stdout.write(f"{rows_gone} rows and {files_gone} files deleted from the trash.")
        self.stdout.write(
            f"{len(rows)} files named, {len(checked.missing)} missing, {len(checked.damaged)} damaged,"
            f" {len(checked.unknown)} unknown, {len(store.in_trash())} in the trash"
        )
        if not checked.sound:
            sys.exit(1)
