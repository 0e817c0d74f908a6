"""Takes an archive of another installation in, all of it or nothing."""

from __future__ import annotations

from collections import Counter
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from archive.cells import ArchiveError
from archive.contents import Model
from archive.importing import Found, take_in
from runs.store import StoreError

MOST_SHOWN = 40


class Command(BaseCommand):
    """`./coombe import-archive`."""

    help = "take an archive in"

    def add_arguments(self, parser: CommandParser) -> None:
        """Which, and what to do where it differs from what is here."""
        parser.add_argument("path", type=Path)
        parser.add_argument("--look", action="store_true", help="only say what it comes to")
        parser.add_argument("--keep-here", action="store_true", help="where it differs, leave what is here as it is")

    def handle(self, *args: Any, **options: Any) -> None:
        """Says what it comes to; exit code 1 where it differs and nothing was stored."""
        path = options["path"]
        try:
            found = take_in(path, options["look"], options["keep_here"])
        except (ArchiveError, StoreError) as error:
            raise CommandError(f"{path}: {str(error).rstrip('.')}.") from None
        except OSError as error:
            raise CommandError(f"{path} can't be read: {error.strerror}.") from None
        self._tell(found)
        if found.conflicts and not found.stored and not options["look"]:
            raise CommandError(
                "Nothing was stored. Make them alike and try again, or leave what is here as it is with --keep-here."
            )
        self.stdout.write("Stored." if found.stored else "Nothing was stored: this was a look.")

    def _tell(self, found: Found) -> None:
        self.stdout.write(f"New: {_counted(found.added) or 'nothing'}.")
        if found.there:
            self.stdout.write(f"Here already: {_counted(found.there)}.")
        if found.people:
            self.stdout.write(
                f"Their people: {', '.join(found.people)}. They can't log in until an administrator lets them."
            )
        for conflict in found.conflicts[:MOST_SHOWN]:
            self.stdout.write(f"  differs: {conflict}")
        if len(found.conflicts) > MOST_SHOWN:
            self.stdout.write(f"  and {len(found.conflicts) - MOST_SHOWN} more")


def _counted(rows: Counter[Model]) -> str:
    names = {model: (model._meta.verbose_name, model._meta.verbose_name_plural) for model in rows}
    return ", ".join(f"{number} {names[model][number != 1]}" for model, number in rows.items())
