"""Closes the demo's accounts."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from demo.accounts import close


class Command(BaseCommand):
    """`./coombe close-demo`."""

    help = "let none of the demo's accounts log in any more"

    def handle(self, *args: Any, **options: Any) -> None:
        """Close them and say which."""
        self.stdout.write(f"Closed: {', '.join(close()) or 'none'}. What they made stays.")
