"""Fills an empty database with the invented season."""

from typing import Any

from django.core.management.base import BaseCommand

from demo.loading import load


class Command(BaseCommand):
    """Does nothing where cars are there already."""

    help = "load the demo data"

    def handle(self, *args: Any, **options: Any) -> None:
        """Load and tell."""
        self.stdout.write(load())
