"""Django's backend for MariaDB, which also counts commits: what committed nothing may be done again (config.again).

A connection that breaks within a transaction takes it back; one that breaks at its commit leaves it open what became of
it.
"""

from __future__ import annotations

from django.db import OperationalError
from django.db.backends.mysql import base

GIVEN_UP = 1213  # a deadlock, and what Galera calls a certification failure: everything was rolled back


class DatabaseWrapper(base.DatabaseWrapper):
    """A connection that counts how often it committed, or may have."""

    commits = 0

    def _commit(self) -> None:
        try:
            super()._commit()  # type: ignore[misc]  # which stubs leave out
        except Exception as error:
            self.commits += not is_given_up(error)
            raise
        self.commits += 1


def is_given_up(error: object) -> bool:
    """Whether the database rolled everything back, and would take it if it came again."""
    return isinstance(error, OperationalError) and bool(error.args) and error.args[0] == GIVEN_UP
