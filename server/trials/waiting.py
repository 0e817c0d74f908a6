"""Waiting for what a trial brings about, also while the database is away."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from django.db import connection

from config.connections import AWAY

LIMIT_S = 120.0
LOOK_S = 0.1


def until(what: str, holds: Callable[[], Any], limit_s: float = LIMIT_S) -> Any:
    """Wait until something holds and give what it gave. Raises TimeoutError."""
    limit = time.monotonic() + limit_s
    while time.monotonic() < limit:
        try:
            found = holds()
        except (*AWAY, OSError, ValueError):
            connection.close()
            found = None
        if found:
            return found
        time.sleep(LOOK_S)
    raise TimeoutError(f"in {limit_s:.0f} s it never came to pass that {what}")
