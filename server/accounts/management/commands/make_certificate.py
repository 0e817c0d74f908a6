"""Makes the certificate for `--lan`, where there is none that holds; says for which addresses, and its fingerprint."""

from __future__ import annotations

import json
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from accounts.certificate import addresses, ensure, fingerprint


class Command(BaseCommand):
    """Make or keep the certificate."""

    help = "make the certificate that --lan serves with"

    def handle(self, *args: Any, **options: Any) -> None:
        """Tell as one line of JSON."""
        names, folder = addresses(), settings.VAR / "https"
        report = {"names": names, "folder": str(folder), "fingerprint": fingerprint(ensure(folder, names))}
        self.stdout.write(json.dumps(report))
