"""Logging in, roles and the headers that protect a session."""

from django.test import TestCase, override_settings
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from runs.tests.factories import PASSWORD, CarFactory, UserFactory


class SessionTest(TestCase):
    def setUp(self):
        self.person = UserFactory()
        self.client = APIClient(enforce_csrf_checks=True)

    def log_in(self, password=PASSWORD):
        self.client.get(reverse("session"))
        token = self.client.cookies["csrftoken"].value
        given = {"username": self.person.username, "password": password}
        return self.client.post(reverse("session"), given, headers={"X-CSRFToken": token})

    def test_a_person_logs_in_and_is_named(self):
        self.assertEqual(self.log_in().data["person"]["username"], self.person.username)
        self.assertEqual(self.client.get(reverse("session")).data["person"]["role"], "tester")

    def test_a_wrong_password_is_refused_with_a_sentence(self):
        answer = self.log_in("wrong")
        self.assertEqual(answer.status_code, 403)
        self.assertEqual(answer.data["detail"], "Name or password is wrong.")

    def test_logging_in_needs_the_csrf_token(self):
        given = {"username": self.person.username, "password": PASSWORD}
        self.assertEqual(self.client.post(reverse("session"), given).status_code, 403)

    @override_settings(AXES_FAILURE_LIMIT=3)
    def test_guessing_locks_the_name_even_for_the_right_password(self):
        for _ in range(3):
            self.log_in("wrong")
        answer = self.log_in()
        self.assertEqual(answer.status_code, 429)
        self.assertIn("Too many wrong passwords", answer.json()["detail"])


class RolesTest(TestCase):
    def client_of(self, role):
        client = APIClient()
        client.force_login(UserFactory(role=role), backend="django.contrib.auth.backends.ModelBackend")
        return client

    def test_nothing_is_shown_without_a_log_in(self):
        for name in ("car-list", "setup-list", "course-list", "log-list", "run-list", "comparison-list"):
            answer = APIClient().get(reverse(name))
            self.assertEqual((answer.status_code, answer.json()["code"]), (401, "not_authenticated"), name)

    def test_a_reader_reads_and_does_not_write(self):
        reader = self.client_of(Role.READER)
        self.assertEqual(reader.get(reverse("car-list")).status_code, 200)
        self.assertEqual(reader.post(reverse("car-list"), {"name": "X"}).status_code, 403)

    def test_a_tester_writes_and_does_not_delete(self):
        tester, car = self.client_of(Role.TESTER), CarFactory()
        self.assertEqual(tester.post(reverse("car-list"), {"name": "X"}).status_code, 201)
        self.assertEqual(tester.delete(reverse("car-detail", args=[car.pk])).status_code, 403)

    def test_an_administrator_deletes(self):
        admin, car = self.client_of(Role.ADMINISTRATOR), CarFactory()
        self.assertEqual(admin.delete(reverse("car-detail", args=[car.pk])).status_code, 204)


class HeadersTest(TestCase):
    def test_scripts_come_from_here_only_and_never_inline(self):
        policy = APIClient().get(reverse("session")).headers["Content-Security-Policy"]
        directives = dict(part.strip().split(" ", 1) for part in policy.split(";"))
        self.assertEqual(directives["script-src"], "'self'")
        self.assertEqual(directives["default-src"], "'self'")
        self.assertEqual(directives["frame-ancestors"], "'none'")
