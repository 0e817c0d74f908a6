"""Gaps filled after the day: which runs lack what, and pasted rows recorded all or not at all."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from history.models import Action, Change
from runs.models import Run
from runs.tests.factories import CourseFactory, RunFactory, UserFactory

FIRST = datetime(2026, 5, 9, 9, 0, tzinfo=UTC)


class FillingTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        course = CourseFactory(time_zone="Europe/Dublin")  # an hour ahead of UTC in May
        self.runs = [RunFactory(start_utc=FIRST + timedelta(minutes=6 * n), course=course) for n in range(3)]
        RunFactory(kind="stop", start_utc=FIRST)
        RunFactory(charge_before_percent=90, battery_temp_before_c=40, start_utc=FIRST)

    def pasted(self, text: str, code: int = 200, **more) -> dict:
        given = {"text": text, "runs": [run.pk for run in self.runs], **more}
        answer = self.client.post(reverse("run-conditions"), given, format="json")
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
        self.pasted("95\n94\n93", apply=True)
        self.assertEqual(self.written(), [(95,), (94,), (93,)])
        self.assertEqual(Action.objects.get().title, "Recorded conditions of 3 runs")
        self.assertEqual(Change.objects.count(), 3)

    def test_times_are_those_of_the_clock_at_the_course(self):
        found = self.pasted("time\tcharge before\n10:06\t94")
        self.assertEqual((found["rows"][0]["run"], found["rows"][0]["wrong"]), (1, []))

    def test_a_temperature_of_the_other_scale_is_asked_about_by_what_the_battery_was_minutes_before(self):
        RunFactory(setup=self.runs[0].setup, battery_temp_before_c=41, start_utc=FIRST - timedelta(minutes=5))
        (row,) = self.pasted("charge,battery (°F)\n95,44")["rows"]
        wanted = (
            "5 minutes earlier the battery was at 41 °C (106 °F); this says 7 °C (44 °F). Did you mean 44 °C (111 °F)?"
        )
        self.assertEqual([each["sentence"] for each in row["questions"]], [wanted])
        row = self.pasted("95,94,111")["rows"][0]
        self.assertIn("Did you mean 44 °C", row["questions"][0]["sentence"])
        self.assertEqual(row["wrong"], ["battery before 111 is not possible"])

    def test_one_wrong_row_and_nothing_is_written_down(self):
        answer = self.pasted("95\n194\n93", 400, apply=True)
        self.assertIn("Nothing was recorded", answer["errors"]["text"][0])
        self.assertEqual(self.written(), [(None,)] * 3)
