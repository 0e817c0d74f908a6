"""Courses: a strip in one direction."""

from django.db import IntegrityError, transaction
from django.db.models import ProtectedError
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from courses.models import Course
from runs.models import Run
from runs.services import import_log
from runs.tests.factories import CourseFactory, SetupFactory, UserFactory
from runs.tests.test_import import log_bytes


class CourseTest(TestCase):
    def setUp(self):
        self.person = UserFactory()
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")

    def add(self, **changes):
        given = {"name": "Strip", "direction": "out", "heading_deg": 68, "length_m": 1400, "runout_m": 300}
        return self.client.post(reverse("course-list"), given | changes)

    def test_a_strip_is_added_once_a_direction(self):
        self.assertEqual(self.add().status_code, 201)
        self.assertEqual(self.add(direction="back", heading_deg=248).status_code, 201)
        again = self.add()
        self.assertEqual(again.status_code, 400)
        self.assertIn("unique", str(again.json()))

    def test_impossible_headings_lengths_and_slopes_name_their_field(self):
        for name, value in {"heading_deg": 400, "length_m": 5, "slope_percent": 40, "direction": "up"}.items():
            self.assertIn(name, self.add(**{name: value}).json()["errors"])

    def test_the_database_refuses_a_cliff(self):
        CourseFactory()
        with self.assertRaises(IntegrityError), transaction.atomic():
            Course.objects.update(slope_percent=40)

    def test_a_surveyed_slope_wins_over_the_log_s_altitude(self):
        course = CourseFactory(slope_percent=-1.6, slope_u95_percent=0.1)
        conditions = {"course": course, "direction": course.direction}
        import_log("day.nmea", log_bytes(), SetupFactory(), self.person, conditions)
        run = Run.objects.get(kind="standing")
        self.assertEqual((run.slope_percent, run.slope_u95_percent), (-1.6, 0.1))
        self.assertEqual([flag.code for flag in run.flags.all()], ["slope_beyond_limit"])
        row = run.measured.get(name="1/4 mile", clock="rollout")
        self.assertGreater(row.corrected_time_s, row.time_s)

    def test_runs_back_along_the_strip_get_its_other_direction_and_slope(self):
        out = CourseFactory(name="Strip", direction="out", heading_deg=0, slope_percent=0.5, slope_u95_percent=0.1)
        back = CourseFactory(name="Strip", direction="back", heading_deg=180, slope_percent=-0.5)
        conditions = {"course": out}
        import_log("day.nmea", log_bytes("five-runs"), SetupFactory(), self.person, conditions)
        runs = Run.objects.order_by("start_s")
        self.assertEqual([run.direction for run in runs], ["out", "back", "out", "back", "out"])
        self.assertEqual([run.course for run in runs], [out, back, out, back, out])
        self.assertEqual([run.slope_percent for run in runs], [0.5, -0.5, 0.5, -0.5, 0.5])

    def test_a_strip_surveyed_as_level_is_level(self):
        course = CourseFactory(heading_deg=0, slope_percent=0.0, slope_u95_percent=0.05)
        import_log("day.nmea", log_bytes(), SetupFactory(), self.person, {"course": course})
        self.assertEqual({run.slope_percent for run in Run.objects.all()}, {0.0})

    def test_a_course_with_runs_is_not_deleted_from_under_them(self):
        course = CourseFactory()
        import_log("day.nmea", log_bytes(), SetupFactory(), self.person, {"course": course})
        with self.assertRaises(ProtectedError):
            course.delete()
        self.assertTrue(Course.objects.filter(pk=course.pk).exists())
