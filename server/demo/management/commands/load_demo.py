"""Fills an empty database with the invented season."""

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from demo.loading import load
from demo.recording import listen_to


class Command(BaseCommand):
    """Fills nothing in where cars are there already."""

    help = "load the demo data"

    def add_arguments(self, parser: CommandParser) -> None:
        """Where the simulated devices listen."""
        parser.add_argument("--simulated-devices", type=json.loads, metavar="JSON")

    def handle(self, *args: Any, **options: Any) -> None:
        """Load and report."""
        self.stdout.write(load())
        if options["simulated_devices"]:
            listen_to(options["simulated_devices"])
