"""The database's connections: what says that it is away, and giving them back."""

from __future__ import annotations

from django.db import InterfaceError, OperationalError, connections

AWAY = (OperationalError, InterfaceError)
"""What is raised while the database does not answer."""


def release_connections() -> None:
    """Close this thread's connections, but for one in a transaction: whoever began that still needs it."""
    for connection in connections.all(initialized_only=True):
        if not connection.in_atomic_block:
            connection.close()
