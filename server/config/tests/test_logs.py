"""Log lines: each request has one number, in its line, its answer and what a person is shown; no secret is in any."""

from __future__ import annotations

import io
import json
import logging
import logging.config
from unittest import mock

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from config import logs
from runs.tests.factories import UserFactory

BACKEND = "django.contrib.auth.backends.ModelBackend"


class RequestLogTest(TestCase):
    def setUp(self):
        self.written = io.StringIO()
        configured = logs.configuration(machines=True)
        formatter = logging.config.DictConfigurator(configured).configure_formatter(configured["formatters"]["json"])
        handler = logging.StreamHandler(self.written)
        handler.setFormatter(formatter)
        for name in ("coombe.requests", "config.errors"):
            logger = logging.getLogger(name)
            self.addCleanup(logger.setLevel, logger.level)
            self.addCleanup(logger.removeHandler, handler)
            self.addCleanup(setattr, logger, "propagate", logger.propagate)
            logger.propagate = False
            logger.addHandler(handler)
            logger.setLevel(logging.INFO)
        self.client = APIClient()
        self.person = UserFactory(role=Role.TESTER)
        self.client.force_login(self.person, backend=BACKEND)

    def lines(self) -> list[dict]:
        return [json.loads(line) for line in self.written.getvalue().splitlines()]

    def test_a_request_has_one_line_with_who_what_and_how_long(self):
        answer = self.client.get(reverse("car-list"))
        (line,) = self.lines()
        self.assertEqual((line["method"], line["path"], line["status"]), ("GET", reverse("car-list"), 200))
        self.assertEqual((line["person"], line["logger"], line["level"]), (self.person.pk, "coombe.requests", "info"))
        self.assertEqual(line["request_id"], answer.headers["X-Request-ID"])
        self.assertGreater(line["milliseconds"], 0)

    def test_a_proxy_s_number_is_kept_and_nonsense_is_not(self):
        given = "a1b2c3d4e5f6"
        self.assertEqual(self.client.get("/", headers={"X-Request-ID": given}).headers["X-Request-ID"], given)
        forged = self.client.get("/", headers={"X-Request-ID": 'x" forged="1'}).headers["X-Request-ID"]
        self.assertRegex(forged, r"^[0-9a-f]{32}$")

    def test_what_nobody_foresaw_is_found_by_the_number_that_a_person_is_shown(self):
        with mock.patch("cars.api.CarViewSet.get_queryset", side_effect=RuntimeError("unthought of")):
            answer = self.client.get(reverse("car-list"))
        number = answer.headers["X-Request-ID"]
        self.assertIn(number, answer.json()["detail"])
        failure = next(line for line in self.lines() if line["level"] == "error")
        self.assertEqual(failure["request_id"], number)
        self.assertIn("unthought of", failure["exception"])

    def test_what_opens_something_is_in_no_line(self):
        for path in ("/shared/very-secret/", "/calendar/very-secret.ics", "/shared/very-secret/pdf/1/"):
            self.client.get(path)
        self.assertNotIn("very-secret", self.written.getvalue())
        self.assertEqual([line["path"] for line in self.lines()], ["/shared/…/", "/calendar/…", "/shared/…/pdf/1/"])

    def test_health_and_files_write_none(self):
        self.client.get("/health/live")
        self.assertEqual(self.lines(), [])

    def test_numbers_of_two_requests_differ(self):
        first, second = (self.client.get("/").headers["X-Request-ID"] for _ in range(2))
        self.assertNotEqual(first, second)
        self.assertEqual(logs.request_number(), "")


class BuildTest(TestCase):
    def test_answers_name_the_build_that_pages_compare_with_theirs(self):
        with mock.patch("config.build.build", return_value="one"):
            self.assertEqual(APIClient().get(reverse("session")).headers["Coombe-Build"], "one")
