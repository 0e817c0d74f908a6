"""Shows the metrics on a port of loopback, in Prometheus' text format; kept running by the launcher."""

from __future__ import annotations

import threading
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from prometheus_client import generate_latest, start_http_server

from home.metrics import registry


class Command(BaseCommand):
    """Until it is ended; or once, to standard output."""

    help = "show metrics for a monitoring system"

    def add_arguments(self, parser: CommandParser) -> None:
        """Where."""
        parser.add_argument("--port", type=int, help="on loopback; without, they are written once")

    def handle(self, *args: Any, **options: Any) -> None:
        """Serve, or write."""
        if options["port"] is None:
            self.stdout.write(generate_latest(registry()).decode())
            return
        start_http_server(options["port"], addr="127.0.0.1", registry=registry())
        threading.Event().wait()
