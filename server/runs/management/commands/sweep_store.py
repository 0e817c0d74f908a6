"""Removes stored bytes that no log names: what an import that was cut off left behind."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from runs.models import Attachment, BusRecord, Log
from runs.store import sweep


class Command(BaseCommand):
    """Run at every start, before the web server takes uploads."""

    help = "remove stored files that no log names"

    def handle(self, *args: Any, **options: Any) -> None:
        """Sweep and say how many files went, if any."""
        named = {
            sha256
            for model in (Log, BusRecord, Attachment)
            for sha256 in model.objects.values_list("sha256", flat=True)
        }
        removed = sweep({sha256 for sha256 in named if sha256})
        if removed:
            self.stdout.write(f"{removed} stored files without a log removed")
