"""Strip checks and slope profiles over the API."""

from __future__ import annotations

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from coombe_core.formats import write_log
from coombe_core.simulating.car import Conditions
from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import Scenario, simulate
from runs.models import Run
from runs.services import import_log
from runs.tests.factories import CarFactory, CourseFactory, SetupFactory, UserFactory
from runs.tests.test_import import log_bytes


def slow_drive(slope_percent: float, to_mps: float = 8.0) -> bytes:
    acts = [Act("rest", 3), Act("gentle", to_mps=to_mps), Act("hold", 60), Act("gentle", to_mps=0.0)]
    return write_log(simulate(Scenario("", acts, conditions=Conditions(slope_percent=slope_percent)), 4).trace, "nmea")


class StripTest(TestCase):
    def setUp(self):
        self.person = UserFactory()
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")

    def check(self, course, car, target, **asked):
        page = reverse("course-strip-check", args=[course.pk])
        return self.client.get(page, {"car": car.pk, "target": target, **asked})

    def test_a_strip_too_short_says_by_how_much_and_what_fits(self):
        car, course = CarFactory(power_kw=250), CourseFactory(length_m=350, runout_m=50)
        report = self.check(course, car, "0-100 mph").json()
        self.assertFalse(report["fits"])
        self.assertAlmostEqual(report["shortfall_m"], report["needed_m"] - 400, places=6)
        self.assertIn(f"{report['shortfall_m']:.0f} m", report["sentence"])
        fitting = f"0-{int(report['highest_mps'] / 0.44704)} mph"
        self.assertTrue(self.check(course, car, fitting).json()["fits"])

    def test_own_runs_tell_more_than_mass_and_power(self):
        setup = SetupFactory(car=CarFactory(power_kw=250))
        course = CourseFactory()
        stated = self.check(course, setup.car, "0-60 mph").json()
        import_log("day.nmea", log_bytes(), setup, self.person, {})
        own = self.check(course, setup.car, "0-60 mph").json()
        self.assertIn("mass and power", stated["reach_source"])
        self.assertIn("own 1 runs", own["reach_source"])
        self.assertLess(own["pull_m"], stated["pull_m"])

    def test_a_car_of_which_nothing_is_known_is_refused(self):
        answer = self.check(CourseFactory(), CarFactory(test_mass_kg=None), "0-60 mph")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("state its mass and power", answer.json()["errors"]["target"][0])

    def test_a_stop_needs_the_way_to_its_speed_too(self):
        report = self.check(CourseFactory(), CarFactory(power_kw=250), "100-0 km/h").json()
        self.assertAlmostEqual(report["target_mps"], 27.78, delta=0.01)
        self.assertGreater(report["pull_m"], 40)


class TracksTest(TestCase):
    def test_the_latest_runs_are_drawn_on_one_plane(self):
        person = UserFactory()
        client = APIClient()
        client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
        course = CourseFactory(heading_deg=0)
        page = reverse("course-tracks", args=[course.pk])
        self.assertEqual(client.get(page).json(), [])
        import_log("day.nmea", log_bytes(), SetupFactory(), person, {"course": course})
        tracks = client.get(page).json()
        self.assertEqual({track["run"] for track in tracks}, set(Run.objects.values_list("pk", flat=True)))
        norths = [north for track in tracks for north in track["north_m"]]
        self.assertGreater(max(norths) - min(norths), 402.0)  # a quarter mile due north at least
        self.assertLess(max(abs(east) for track in tracks for east in track["east_m"]), 20.0)
        self.assertLessEqual(max(len(track["east_m"]) for track in tracks), 400)


class ProfileTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.person = UserFactory()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")
        self.course = CourseFactory(heading_deg=0)

    def survey(self, data: bytes):
        file = SimpleUploadedFile("slow.nmea", data)
        return self.client.post(reverse("course-survey", args=[self.course.pk]), {"file": file}, format="multipart")

    def test_a_slow_drive_surveys_the_slope(self):
        report = self.survey(slow_drive(1.2)).json()
        self.assertGreater(len(report["stations"]), 15)
        self.assertAlmostEqual(report["slope_percent"], 1.2, delta=0.15)

    def test_a_fast_drive_and_a_standing_car_are_refused_and_keep_the_profile(self):
        self.survey(slow_drive(0.5))
        for data, report in (
            (slow_drive(0.5, 25.0), "too fast"),
            (b"elapsed_s,speed_mps\n0,0\n1,0\n2,0\n", "no fix in motion"),
        ):
            answer = self.survey(data)
            self.assertEqual(answer.status_code, 400)
            self.assertIn(report, answer.json()["errors"]["file"][0])
        self.assertGreater(self.course.stations.count(), 15)

    def test_a_typed_profile_states_the_mean_slope_and_must_ascend(self):
        page = reverse("course-detail", args=[self.course.pk])
        rows = [{"distance_m": 0, "elevation_m": 10}, {"distance_m": 500, "elevation_m": 14}]
        self.assertEqual(self.client.patch(page, {"stations": rows, "revision": 1}).json()["slope_percent"], 0.8)
        self.assertIn("stations", self.client.patch(page, {"stations": rows[::-1]}).json()["errors"])
        self.assertEqual(self.course.stations.count(), 2)

    def test_a_profile_corrects_a_run_where_it_was_driven(self):
        page = reverse("course-detail", args=[self.course.pk])
        rows = [
            {"distance_m": 0, "elevation_m": 0},
            {"distance_m": 100, "elevation_m": 3},
            {"distance_m": 1000, "elevation_m": 3},
        ]
        self.client.patch(page, {"stations": rows, "revision": 1})
        self.course.refresh_from_db()
        import_log("day.nmea", log_bytes(), SetupFactory(), self.person, {"course": self.course})
        run = Run.objects.get(kind="standing")
        sixty, quarter = (run.measured.get(name=name, clock="rollout") for name in ("60 ft", "1/4 mile"))
        self.assertLess(sixty.corrected_time_s, sixty.time_s - 0.02)
        self.assertLess(quarter.corrected_time_s, quarter.time_s)
        self.assertAlmostEqual(run.slope_percent, 0.75, delta=0.05)

    def test_an_unknown_time_zone_is_refused(self):
        page = reverse("course-detail", args=[self.course.pk])
        self.assertIn("time_zone", self.client.patch(page, {"time_zone": "Atlantis/Old"}).json()["errors"])
