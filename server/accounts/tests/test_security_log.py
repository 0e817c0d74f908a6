"""The security log: who, when, from where, in the database and as a log line; and what goes with it."""

from __future__ import annotations

import io
import logging
import os
import stat
import tempfile
from pathlib import Path
from unittest import mock

from cryptography import x509
from django.conf import settings
from django.core.management import CommandError, call_command
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.certificate import ensure
from accounts.models import BrowserSession, Role, SecurityEvent, User
from demo.loading import PASSWORD as PUBLISHED
from runs.tests.factories import PASSWORD, LogFactory, RunFactory, UserFactory

BACKEND = "django.contrib.auth.backends.ModelBackend"


def client_of(person) -> APIClient:
    client = APIClient(REMOTE_ADDR="192.0.2.9")
    client.force_login(person, backend=BACKEND)
    return client


class SecurityLogTest(TestCase):
    def last(self) -> tuple[str, str, str]:
        event = SecurityEvent.objects.latest("pk")
        return event.kind, event.username, event.address

    def test_log_ins_failures_and_log_outs_are_noted_with_name_and_address(self):
        person, client = UserFactory(), APIClient(REMOTE_ADDR="192.0.2.9")
        given = {"username": person.username, "password": PASSWORD}
        client.post(reverse("session"), given)
        self.assertEqual(self.last(), ("log-in", person.username, "192.0.2.9"))
        client.delete(reverse("session"))
        self.assertEqual(self.last(), ("log-out", person.username, "192.0.2.9"))
        client.post(reverse("session"), given | {"password": "wrong"})
        self.assertEqual(self.last(), ("failed log-in", person.username, "192.0.2.9"))

    def test_it_is_a_log_line_too(self):
        logger = logging.getLogger("coombe.security")
        self.addCleanup(logger.setLevel, logger.level)
        logger.setLevel(logging.INFO)
        with self.assertLogs("coombe.security") as logged:
            client_of(UserFactory(username="one"))
        self.assertIn("log-in: 'one'", logged.output[0])

    def test_deletions_and_exports_are_noted_once_they_happened(self):
        admin, run = UserFactory(role=Role.ADMINISTRATOR), RunFactory()
        client, log = client_of(admin), LogFactory()
        client.get(reverse("run-measures-file", args=[run.pk, "csv"]))
        self.assertEqual(self.last()[:2], ("exported", admin.username))
        client.delete(reverse("log-detail", args=[log.pk]))
        self.assertEqual(self.last()[:2], ("deleted", admin.username))
        self.assertIn(f"/api/v1/logs/{log.pk}/", SecurityEvent.objects.latest("pk").detail)
        count = SecurityEvent.objects.count()
        client.delete(reverse("log-detail", args=[log.pk]))  # gone already
        self.assertEqual(SecurityEvent.objects.count(), count)

    def test_changes_of_people_are_noted(self):
        admin, other = UserFactory(role=Role.ADMINISTRATOR), UserFactory(username="other")
        page = f"/admin/accounts/user/{other.pk}/change/"
        given = {
            "username": "other",
            "role": "reader",
            "is_active": "on",
            "first_name": "",
            "last_name": "",
            "email": "",
        }
        answer = client_of(admin).post(page, given, format="multipart")
        self.assertEqual(answer.status_code, 302, answer.content[:500])
        event = SecurityEvent.objects.latest("pk")
        self.assertEqual((event.kind, event.username), ("person changed", admin.username))
        self.assertIn("other: role; role reader", event.detail)

    def test_the_log_outlasts_the_person_and_nobody_changes_it(self):
        person = UserFactory()
        client_of(person)
        name = person.username
        SecurityEvent.objects.filter(username=name).update(person=person)
        person.delete()
        event = SecurityEvent.objects.get(username=name)
        self.assertIsNone(event.person)
        admin = client_of(UserFactory(role=Role.ADMINISTRATOR))
        self.assertEqual(admin.post(f"/admin/accounts/securityevent/{event.pk}/delete/", {}).status_code, 403)


class PasswordTest(TestCase):
    def change(self, client: APIClient, current: str, new: str):
        return client.post(reverse("password"), {"current": current, "new": new})

    def test_everybody_changes_their_own_and_other_browsers_are_logged_out(self):
        person = UserFactory(role=Role.READER)
        here, there = client_of(person), client_of(person)
        self.assertEqual(self.change(here, PASSWORD, "quite-another-one").status_code, 204)
        self.assertEqual(here.get(reverse("car-list")).status_code, 200)
        self.assertEqual(there.get(reverse("car-list")).status_code, 401)
        person.refresh_from_db()
        self.assertTrue(person.check_password("quite-another-one"))
        self.assertEqual(SecurityEvent.objects.latest("pk").kind, "password changed")

    def test_a_wrong_present_one_and_a_weak_new_one_are_refused_at_their_fields(self):
        client = client_of(UserFactory())
        self.assertIn("current", self.change(client, "wrong", "quite-another-one").json()["errors"])
        self.assertIn("new", self.change(client, PASSWORD, "short").json()["errors"])
        self.assertEqual(self.change(APIClient(), PASSWORD, "quite-another-one").status_code, 403)


class ExposureTest(TestCase):
    def test_data_is_not_to_be_cached(self):
        self.assertEqual(client_of(UserFactory()).get(reverse("car-list")).headers["Cache-Control"], "no-store")

    def test_what_is_written_is_its_owner_s_alone(self):
        previous = os.umask(0)
        os.umask(previous)
        self.assertEqual(previous & 0o077, 0o077)
        self.assertEqual(stat.S_IMODE(Path(settings.FILE_UPLOAD_TEMP_DIR).stat().st_mode) & 0o077, 0)

    def test_the_certificate_signs_for_itself_and_for_no_other(self):
        with tempfile.TemporaryDirectory() as folder:
            made = ensure(Path(folder), ["localhost"])
        self.assertFalse(made.extensions.get_extension_for_class(x509.BasicConstraints).value.ca)

    def test_an_older_one_that_might_is_made_anew(self):
        with tempfile.TemporaryDirectory() as folder:
            with mock.patch("accounts.certificate.SIGNS_OTHERS", True):
                old = ensure(Path(folder), ["localhost"])
            self.assertNotEqual(ensure(Path(folder), ["localhost"]).serial_number, old.serial_number)

    def test_a_person_who_was_disabled_is_out_at_once(self):
        person = UserFactory()
        client = client_of(person)
        User.objects.filter(pk=person.pk).update(is_active=False)
        self.assertEqual(client.get(reverse("car-list")).status_code, 401)
        self.assertTrue(BrowserSession.objects.exists())


class DemoAccountsTest(TestCase):
    def test_a_database_where_the_demo_s_accounts_can_log_in_is_not_served(self):
        UserFactory(username="admin", role=Role.ADMINISTRATOR, password=PUBLISHED)
        with self.assertRaisesRegex(CommandError, "admin.*close-demo"):
            call_command("refuse_demo_accounts")
        call_command("close_demo", stdout=io.StringIO())
        call_command("refuse_demo_accounts")
        self.assertFalse(User.objects.get().is_active)

    def test_a_person_of_the_same_name_with_a_password_of_their_own_is_none_of_them(self):
        UserFactory(username="admin", role=Role.ADMINISTRATOR)
        call_command("refuse_demo_accounts")
        call_command("close_demo", stdout=io.StringIO())
        self.assertTrue(User.objects.get().is_active)
