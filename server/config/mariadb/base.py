"""Django's backend for MariaDB, which also counts commits: what committed nothing may be done again (config.again)."""

from __future__ import annotations

from django.db.backends.mysql import base


class DatabaseWrapper(base.DatabaseWrapper):
    """A connection that counts how often it committed."""

    commits = 0

    def _commit(self) -> None:
        super()._commit()  # type: ignore[misc]  # which stubs leave out
        self.commits += 1
