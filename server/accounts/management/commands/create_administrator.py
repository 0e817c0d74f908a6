"""Creates an administrator from questions on the terminal."""

from __future__ import annotations

import getpass
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError

from accounts.models import Role, User


class Command(BaseCommand):
    """Asks for a name and, twice, for a password."""

    help = "create an administrator"

    def handle(self, *args: Any, **options: Any) -> None:
        """Create the person or say why not."""
        username = input("Name: ").strip()
        if not username or User.objects.filter(username=username).exists():
            raise CommandError("The name is empty or taken.")
        password = getpass.getpass("Password: ")
        if password != getpass.getpass("Again: "):
            raise CommandError("The passwords differ.")
        try:
            validate_password(password)
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        User.objects.create_user(username, password=password, role=Role.ADMINISTRATOR)
        self.stdout.write(f"{username} may now log in as administrator.")
