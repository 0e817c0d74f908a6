"""Every error has one format: a problem with a sentence (RFC 9457), never a page or a traceback."""

from __future__ import annotations

from unittest import mock

from django.db import DataError, IntegrityError, InterfaceError, OperationalError
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from cars.api import CarViewSet
from comparisons.models import Comparison
from courses.models import Station
from runs.tests.factories import CourseFactory, RunFactory, SetupFactory, UserFactory


class ErrorsTest(TestCase):
    def setUp(self):
        self.client = APIClient(raise_request_exception=False)
        self.client.force_login(
            UserFactory(role=Role.ADMINISTRATOR), backend="django.contrib.auth.backends.ModelBackend"
        )

    def assert_problem(self, answer, status: int, *words: str) -> dict:
        self.assertEqual(answer.status_code, status, answer.content[:300])
        self.assertEqual(answer.headers["Content-Type"], "application/problem+json")
        body = answer.json()
        self.assertEqual((body["type"], body["status"]), ("about:blank", status))
        self.assertTrue(body["title"] and body["code"])
        for word in words:
            self.assertIn(word, body["detail"])
        return body

    def test_what_the_database_refuses_is_a_sentence(self):
        for error, status, word in (
            (OperationalError(2006, "gone"), 503, "does not answer"),
            (InterfaceError(0, ""), 503, "does not answer"),
            (OperationalError(1213, "Deadlock found"), 503, "try again"),
            (IntegrityError(1062, "Duplicate"), 409, "Someone else"),
            (DataError(1264, "Out of range"), 400, "does not fit"),
        ):
            with mock.patch.object(CarViewSet, "get_queryset", side_effect=error):
                self.assert_problem(self.client.get(reverse("car-list")), status, word)

    def test_what_nobody_foresaw_is_logged_under_a_number_that_is_told(self):
        with (
            mock.patch.object(CarViewSet, "get_queryset", side_effect=ZeroDivisionError("secret path /etc")),
            self.assertLogs("config.errors", "ERROR") as logged,
        ):
            body = self.assert_problem(self.client.get(reverse("car-list")), 500, "not in what you sent")
        number = body["detail"].rsplit(" ", 1)[1].rstrip(".")
        self.assertIn(number, logged.output[0])
        self.assertNotIn("secret", str(body))

    def test_addresses_where_nothing_is_are_told_and_not_the_page(self):
        for path in (
            "/api/v1/nothing/",
            "/api/v1/cars/999999/",
            "/api/v1/cars/x/",
            "/api/v1/",
            "/api/v1/runs/1/trace/exe/",
        ):
            self.assert_problem(self.client.get(path), 404)
            self.assertIn(self.client.post(path, {}).status_code, (404, 405))

    def test_bodies_that_are_none_are_refused(self):
        address = reverse("car-list")
        for body in (b"{", b"[1,", b"\xff\xfe", b"[" * 100_000 + b"]" * 100_000, b'{"name": "\\ud800"}', b"nul"):
            self.assert_problem(self.client.post(address, body, content_type="application/json"), 400)
        self.assert_problem(self.client.post(address, b"x", content_type="text/plain"), 415)
        self.assert_problem(self.client.put(address, {}), 405)

    def test_queries_with_the_wrong_kind_of_value_name_their_field(self):
        car = SetupFactory().car
        self.assertIn(
            "before",
            self.assert_problem(self.client.get(f"/api/v1/cars/{car.pk}/setup-difference/?before=x"), 400)["errors"],
        )
        self.assertIn("ids", self.assert_problem(self.client.get("/api/v1/runs/?ids=x"), 400)["errors"])
        self.assertIn("car", self.assert_problem(self.client.get("/api/v1/plans/reminders/?car=x"), 400)["errors"])
        self.assertIn("color", self.assert_problem(self.client.get("/api/v1/cars/?color=red"), 400)["errors"])

    def test_a_field_inside_of_a_list_is_named_by_its_path(self):
        car = SetupFactory().car
        given = {"revision": 1, "charge_points": [{"charge_percent": 10}, {"charge_percent": 500, "power_kw": 1}]}
        body = self.assert_problem(self.client.patch(reverse("car-detail", args=[car.pk]), given, format="json"), 400)
        self.assertEqual(set(body["errors"]), {"charge_points.0.power_kw", "charge_points.1.charge_percent"})

    def test_stations_that_no_strip_has_are_refused_and_the_profile_stays(self):
        course = CourseFactory()
        Station.objects.create(course=course, distance_m=0, elevation_m=1)
        page = reverse("course-detail", args=[course.pk])
        for stations in (
            [{"distance_m": 0}],
            [{"distance_m": 0, "elevation_m": 0}, {"distance_m": 1, "elevation_m": 5000}],
            [{"distance_m": 0, "elevation_m": "x"}],
            "flat",
        ):
            answer = self.client.patch(page, {"revision": 1, "stations": stations}, format="json")
            self.assert_problem(answer, 400)
        self.assertEqual(course.stations.count(), 1)

    def test_a_comparison_that_no_longer_fits_says_so_wherever_it_is_asked(self):
        comparison = Comparison.objects.create(
            title="?", measure="60 ft", clock="speed", created_by=UserFactory(), quantity="trap_speed"
        )
        page = reverse("comparison-detail", args=[comparison.pk])
        for answer in (
            self.client.get(page),
            self.client.post(reverse("comparison-refresh", args=[comparison.pk])),
            self.client.get(f"{page}export/csv/"),
        ):
            self.assert_problem(answer, 409, "no longer")

    def test_power_and_curve_of_a_run_without_fixes_are_refused_and_no_crash(self):
        run = RunFactory(setup=SetupFactory())
        for name in ("run-power", "run-curve"):
            self.assert_problem(self.client.get(reverse(name, args=[run.pk])), 404)
