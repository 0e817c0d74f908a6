"""Gaps filled after the day: which runs lack what, and pasted rows written down all or not at all."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from runs.models import Edit, Run
from runs.tests.factories import CourseFactory, RunFactory, UserFactory

FIRST = datetime(2026, 5, 9, 9, 0, tzinfo=UTC)


class FillingTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        course = CourseFactory(time_zone="Europe/Dublin")  # an hour ahead of UTC in May
        self.runs = [RunFactory(start_utc=FIRST + timedelta(minutes=6 * n), course=course) for n in range(3)]
        RunFactory(kind="stop", start_utc=FIRST)
        RunFactory(charge_before_percent=90, pack_temp_before_c=40, start_utc=FIRST)

    def pasted(self, text: str, code: int = 200, **more) -> dict:
        given = {"text": text, "runs": [run.pk for run in self.runs], **more}
        answer = self.client.post(reverse("run-pasted"), given, format="json")
        self.assertEqual(answer.status_code, code, answer.content)
        return answer.json()

    def written(self) -> list[tuple]:
        return list(Run.objects.filter(course__isnull=False).order_by("start_utc").values_list("charge_before_percent"))

    def test_pulls_without_charge_or_temperature_are_listed_and_stops_are_not(self):
        listed = self.client.get(reverse("run-list"), {"gaps": True, "sort": "start_utc"}).json()
        self.assertEqual([row["id"] for row in listed["results"]], [run.pk for run in self.runs])

    def test_a_preview_writes_nothing_down_and_saving_does_with_the_old_value_kept(self):
        found = self.pasted("95\n94\n93")
        self.assertEqual([row["run"] for row in found["rows"]], [0, 1, 2])
        self.assertEqual(self.written(), [(None,)] * 3)
        self.pasted("95\n94\n93", write_down=True)
        self.assertEqual(self.written(), [(95,), (94,), (93,)])
        self.assertEqual(Edit.objects.count(), 3)

    def test_times_are_those_of_the_clock_at_the_course(self):
        found = self.pasted("time\tcharge before\n10:06\t94")
        self.assertEqual((found["rows"][0]["run"], found["rows"][0]["wrong"]), (1, []))

    def test_one_wrong_row_and_nothing_is_written_down(self):
        answer = self.pasted("95\n194\n93", 400, write_down=True)
        self.assertIn("Nothing was written down", answer["errors"]["text"][0])
        self.assertEqual(self.written(), [(None,)] * 3)
