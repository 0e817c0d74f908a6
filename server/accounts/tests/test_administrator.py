"""The first administrator, made from questions on the terminal."""

import io
from unittest import mock

from django.core.management import CommandError, call_command
from django.test import TestCase

from accounts.models import Role, User

COMMAND = "accounts.management.commands.create_administrator"


class CreateAdministratorTest(TestCase):
    def create(self, name: str, first: str, again: str) -> None:
        with (
            mock.patch("builtins.input", return_value=name),
            mock.patch(f"{COMMAND}.getpass.getpass", side_effect=[first, again]),
        ):
            call_command("create_administrator", stdout=io.StringIO())

    def test_a_person_with_every_right_is_made(self):
        self.create("ada", "a-long-enough-one", "a-long-enough-one")
        person = User.objects.get(username="ada")
        self.assertEqual((person.role, person.is_superuser), (Role.ADMINISTRATOR, True))
        self.assertTrue(person.check_password("a-long-enough-one"))

    def test_passwords_that_differ_or_are_too_short_make_nobody(self):
        for first, again in (("a-long-enough-one", "another-long-one"), ("short", "short")):
            with self.assertRaises(CommandError):
                self.create("ada", first, again)
        self.assertFalse(User.objects.exists())

    def test_a_taken_name_is_refused(self):
        self.create("ada", "a-long-enough-one", "a-long-enough-one")
        with self.assertRaisesMessage(CommandError, "taken"):
            self.create("ada", "a-long-enough-one", "a-long-enough-one")
