"""The demo's accounts, whose password is published: where they can log in, nobody should serve."""

from __future__ import annotations

from accounts.models import User
from demo.loading import PASSWORD, PEOPLE


def open_accounts() -> list[User]:
    """Those that anybody who has read the README can log in with."""
    people = User.objects.filter(username__in=PEOPLE, is_active=True)
    return [person for person in people if person.check_password(PASSWORD)]


def close() -> list[str]:
    """Let none of them log in any more; their names. What they made stays."""
    people = open_accounts()
    for person in people:
        person.is_active = False
        person.set_unusable_password()
        person.save()
    return [person.username for person in people]
