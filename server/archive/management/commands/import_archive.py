"""Takes an archive of another installation in, all of it or nothing."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from archive.cells import ArchiveError
from archive.importing import Found, take_in
from coombe_core.wording.quantities import counted
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
        added = ", ".join(counted(number, name) for name, number in found.added.items())
        self.stdout.write(f"New: {added or 'nothing'}.")
        if found.there:
            self.stdout.write(
                f"Here already: {', '.join(counted(number, name) for name, number in found.there.items())}."
            )
        if found.people:
            self.stdout.write(
                f"Their people: {', '.join(found.people)}. They can't log in until an administrator lets them."
            )
        for conflict in found.conflicts[:MOST_SHOWN]:
            self.stdout.write(f"  differs: {conflict}")
        if len(found.conflicts) > MOST_SHOWN:
            self.stdout.write(f"  and {len(found.conflicts) - MOST_SHOWN} more")
