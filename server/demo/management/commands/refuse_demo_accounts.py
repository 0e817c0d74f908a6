"""Ends with an error where the demo's accounts can log in."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from demo.accounts import open_accounts


class Command(BaseCommand):
    """Before real use."""

    help = "refuse to go on where the demo's accounts can log in"

    def handle(self, *args: Any, **options: Any) -> None:
        """Say who, and how to go on."""
        names = ", ".join(person.username for person in open_accounts())
        if names:
            raise CommandError(
                f"This database has the demo's accounts ({names}), whose password everybody knows."
                " Close them with ./coombe close-demo, then create your own administrator with ./coombe admin."
            )
