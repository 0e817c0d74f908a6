"""Writes everything, or what belongs to a car, into one archive."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from archive.exporting import export
from cars.models import Car
from runs.store import StoreError


class Command(BaseCommand):
    """`./coombe export-archive`."""

    help = "write everything, or what belongs to a car, into one archive"

    def add_arguments(self, parser: CommandParser) -> None:
        """Whereto, and of which car."""
        parser.add_argument("path", type=Path)
        parser.add_argument("--car", help="the name of the one car whose tests to take")

    def handle(self, *args: Any, **options: Any) -> None:
        """A file that is whole or is not there."""
        path, name = options["path"], options["car"]
        car = Car.objects.filter(name=name).first() if name else None
        if name and car is None:
            raise CommandError(
                f"There is no car {name}. There are: {', '.join(Car.objects.values_list('name', flat=True))}."
            )
        if path.exists():
            raise CommandError(f"{path} is there already. Name another file.")
        partial = path.with_name(f"{path.name}.partial")
        try:
            with partial.open("wb") as out:
                export(out, car)
            partial.replace(path)
        except StoreError as error:
            raise CommandError(str(error)) from None
        except OSError as error:
            raise CommandError(f"{path} can't be written: {error.strerror}.") from None
        finally:
            partial.unlink(missing_ok=True)
        self.stdout.write(f"{path}: {path.stat().st_size / 1e6:.1f} MB. No password, token or link is in it.")
