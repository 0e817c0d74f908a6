"""Asking for plans and days over the API, as the tests of both do."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from runs.tests.factories import CarFactory, CourseFactory, SetupFactory, UserFactory

FIRST = datetime(2026, 5, 9, 9, 0, tzinfo=UTC)
STATE = {"charge_percent": 60, "battery_temp_c": 12, "outside_temp_c": 10, "charger_kw": 11}


class PlanTest(TestCase):
    def setUp(self):
        self.person = UserFactory()
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")
        self.car = CarFactory(power_kw=250, battery_kwh=80)
        self.course = CourseFactory(time_zone="Europe/Dublin")
        self.setup = SetupFactory(car=self.car, name="7.1")

    def asked(self, **changes) -> dict:
        given = {
            "question": "Did 7.2 change 0-60?",
            "car": self.car.pk,
            "course": self.course.pk,
            "difference_that_matters": 0.08,
            "runs_per_group": 4,
            "groups": [{"name": "before", "setup": self.setup.pk}, {"name": "after"}],
        }
        return given | changes

    def post(self, page: str, given: dict, *args):
        return self.client.post(reverse(page, args=args), given, format="json")

    def plan(self, **changes) -> dict:
        answer = self.post("plan-list", self.asked(**changes))
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()

    def day(self, plan: dict, **changes) -> dict:
        times = {"first_run_at": FIRST.isoformat(), "known_at": (FIRST - timedelta(hours=9)).isoformat()}
        answer = self.post("test-day-list", {"plan": plan["id"], **times, **STATE, **changes})
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()

    def read(self, day: dict) -> dict:
        return self.client.get(reverse("test-day-detail", args=[day["id"]])).json()
