"""Rows of lists, which are read as plain values, say what the sheets of the same runs and logs say."""

from __future__ import annotations

from django.urls import reverse
from rest_framework.test import APITestCase

from runs.models import CanLog, Flag, Rejection, UntimedRun
from runs.tests.factories import CourseFactory, RunFactory, UserFactory


class RowsTest(APITestCase):
    def setUp(self):
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        course = CourseFactory(time_zone="America/Chicago")
        self.at_course = RunFactory(sixty_s=4.0, course=course, charge_before_percent=88, estimated=["outside_temp_c"])
        self.elsewhere = RunFactory(kind="stop")
        for code, severity in (("gap", "void"), ("wind", "warning")):
            Flag.objects.create(run=self.at_course, code=code, severity=severity, message=f"{code}.", since_s=1.5)
        log = self.at_course.log
        Rejection.objects.create(log=log, line=7, reason="bad checksum")
        UntimedRun.objects.create(log=log, kind="rolling", start_s=12.5, reason="too few fixes")
        can = {"sha256": "c" * 64, "name": "can.csv", "size_bytes": 5, "format": "csv", "rejected": 1}
        CanLog.objects.create(log=log, **can, offset_s=0.1, offset_u95_s=0.02, over_reading=1.01)

    def alike(self, kind: str, keys: list[int], *not_in_rows: str) -> None:
        rows = {row["id"]: row for row in self.client.get(reverse(f"{kind}-list")).json()["results"]}
        for key in keys:
            sheet = self.client.get(reverse(f"{kind}-detail", args=[key])).json()
            shared = {name: value for name, value in sheet.items() if name not in not_in_rows}
            self.assertEqual({name: rows[key][name] for name in shared}, shared)

    def test_a_run_of_the_list_is_that_of_its_sheet(self):
        of_sheet = ("measured", "splits", "attachments", "core_version", "date_known", "can_log")
        self.alike("run", [self.at_course.pk, self.elsewhere.pk], *of_sheet)

    def test_headlines_are_rows_of_the_measures(self):
        rows = self.client.get(reverse("run-list")).json()["results"]
        headlines = {row["id"]: row["headlines"] for row in rows}
        self.assertEqual(headlines[self.elsewhere.pk], [])
        sheet = self.client.get(reverse("run-detail", args=[self.at_course.pk])).json()
        (row,) = headlines[self.at_course.pk]
        (measured,) = sheet["measured"]
        self.assertEqual(row, {name: measured[name] for name in row})

    def test_a_log_of_the_list_is_that_of_its_page(self):
        self.alike("log", [self.at_course.log_id, self.elsewhere.log_id])
