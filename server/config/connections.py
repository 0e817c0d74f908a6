"""Database connections of threads that go on without them."""

from __future__ import annotations

from django.db import connections


def release_connections() -> None:
    """Close this thread's connections, but for one in a transaction: whoever began that still needs it."""
    for connection in connections.all(initialized_only=True):
        if not connection.in_atomic_block:
            connection.close()
