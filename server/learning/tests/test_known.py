"""What the application knows beside the runs: their states, the car's own scatter and sweeps, claims and prices."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from cars.models import ManufacturerClaim
from courses.models import Course
from learning.services import groups_of
from runs.models import Run
from runs.states import states_of
from runs.tests.factories import CarFactory, CourseFactory, RunFactory, SetupFactory, UserFactory

MORNING = datetime(2026, 5, 9, 9, tzinfo=UTC)


class StatesTest(TestCase):
    def state(self, **conditions):
        run = RunFactory(**conditions)
        return states_of(Run.objects.filter(pk=run.pk))[run.pk]

    def test_the_day_is_that_of_the_course(self):
        late = datetime(2026, 5, 10, 2, 30, tzinfo=UTC)
        course = CourseFactory(time_zone="America/Chicago")
        self.assertEqual(self.state(start_utc=late, course=course).day, "2026-05-09")
        self.assertEqual(self.state(start_utc=late).day, "2026-05-10")
        self.assertAlmostEqual(self.state(start_utc=late, course=course).hour, 21.5)

    def test_a_wind_from_ahead_is_a_head_wind(self):
        ahead = self.state(wind_mps=3.0, wind_from_deg=68.0, heading_deg=68.0)
        behind = self.state(wind_mps=3.0, wind_from_deg=68.0, heading_deg=248.0)
        self.assertAlmostEqual(ahead.head_wind_mps, 3.0)
        self.assertAlmostEqual(behind.head_wind_mps, -3.0)
        self.assertIsNone(self.state(wind_mps=3.0).head_wind_mps)

    def test_air_and_load_come_from_what_was_written_down(self):
        state = self.state(pressure_hpa=1013.25, outside_temp_c=15.0, occupants=2, load_kg=20.0)
        self.assertAlmostEqual(state.density_kg_m3, 1.225, 3)  # ISO 2533
        self.assertEqual(state.load_kg, 95.0)
        self.assertIsNone(self.state().load_kg)

    def test_a_surveyed_slope_names_its_survey(self):
        course: Course = CourseFactory(name="Strip", slope_percent=0.2, slope_u95_percent=0.05)
        self.assertEqual(self.state(course=course, slope_percent=0.2).slope_survey, "Strip")
        self.assertEqual(self.state(course=CourseFactory(), slope_percent=0.2).slope_survey, "")

    def test_ways_come_from_headings_where_they_were_not_written_down(self):
        runs = [
            RunFactory(heading_deg=heading, start_utc=MORNING + timedelta(minutes=minutes))
            for minutes, heading in enumerate((70, 251))
        ]
        states = states_of(Run.objects.filter(pk__in=[run.pk for run in runs]))
        self.assertEqual([states[run.pk].direction for run in runs], ["out", "back"])


class KnownTest(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.person = UserFactory()
        cls.car = CarFactory()
        cls.old = SetupFactory(car=cls.car, name="old")
        cls.new = SetupFactory(
            car=cls.car, name="new", price=600, currency="EUR", claimed_measure="0-60 mph", claimed_gain_s=0.3
        )
        cls.before = cls.day(cls.old, 0, [4.60, 4.63, 4.58, 4.61], 70.0)
        cls.after = cls.day(cls.new, 7, [4.30, 4.33, 4.29, 4.31], 95.0)

    @classmethod
    def day(cls, setup, days: int, times: list[float], *charges: float) -> list[int]:
        """Runs of one day, at one charge or one each."""
        every = charges if len(charges) == len(times) else [charges[0]] * len(times)
        return [
            RunFactory(
                setup=setup,
                sixty_s=time,
                charge_before_percent=charge,
                start_utc=MORNING + timedelta(days=days, minutes=6 * number),
            ).pk
            for number, (time, charge) in enumerate(zip(times, every, strict=True))
        ]

    def setUp(self):
        groups_of.cache_clear()
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")

    def asked(self, **changes) -> dict:
        groups = [{"name": "before", "runs": self.before}, {"name": "after", "runs": self.after}]
        asked = {"measure": "0-60 mph", "clock": "rollout", "groups": groups, **changes}
        answer = self.client.post(reverse("comparison-preview"), asked)
        self.assertEqual(answer.status_code, 200, answer.json())
        return answer.json()

    def sweep(self) -> None:
        """Six runs of falling charge, 0.006 s a point."""
        charges = [95.0, 86.0, 77.0, 68.0, 59.0, 50.0]
        times = [
            4.30 + 0.006 * (95 - charge) + wobble for charge, wobble in zip(charges, [0.01, -0.01] * 3, strict=True)
        ]
        self.day(self.old, 3, times, *charges)

    def test_without_a_sweep_twenty_five_points_of_charge_make_it_not_comparable(self):
        (pair,) = self.asked(adjust=["charge"])["pairs"]
        self.assertIn("without runs of this car in which it varies", pair["refused"]["charge"])
        self.assertIn("day", pair["test"])

    def test_a_sweep_says_what_charge_makes_and_takes_it_out(self):
        self.sweep()
        (pair,) = self.asked(adjust=["charge"])["pairs"]
        (taken,) = pair["adjustments"]
        self.assertAlmostEqual(taken["per_unit"], -0.006, delta=0.001)
        self.assertAlmostEqual(pair["difference"]["value"], pair["unadjusted"]["value"] - taken["removed"], 9)
        self.assertLess(abs(pair["difference"]["value"]), 0.5 * abs(pair["unadjusted"]["value"]) + 0.05)
        row = next(row for row in pair["condition_differences"] if row["factor"] == "charge")
        self.assertIn("this car's own", row["source"])
        self.assertTrue(row["adjusted"])

    def test_a_mean_is_projected_to_another_charge_and_refused_beyond_the_sweep(self):
        self.sweep()
        groups = [{"name": "before", "runs": self.before}, {"name": "after", "runs": self.after}]
        asked = {"measure": "0-60 mph", "clock": "rollout", "groups": groups}
        rows = self.client.post(reverse("comparison-details"), asked).json()["projections"]
        report = {(row["group"], row["charge_percent"]): row for row in rows}
        self.assertAlmostEqual(report[0, 60.0]["value"], 4.605 + 0.006 * 10, delta=0.03)
        self.assertIsNone(report[0, 20.0]["value"])
        self.assertIn("cover 50 to 95 %", report[0, 20.0]["sentence"])

    def test_the_car_s_own_days_stand_in_the_interval(self):
        narrow = self.asked()["pairs"][0]["difference"]
        for days in range(10, 60, 7):
            self.day(self.old, days, [4.60 + 0.02 * (days % 5), 4.62 + 0.02 * (days % 5)], 70.0)
        own = self.asked()["pairs"][0]
        self.assertIn("this car's own", " ".join(own["reasons"]))
        self.assertNotAlmostEqual(own["difference"]["low95"], narrow["low95"], 3)

    def test_a_single_run_per_group_stands_on_the_car_s_history(self):
        groups = [{"name": "before", "runs": self.before[:1]}, {"name": "after", "runs": self.after[:1]}]
        (pair,) = self.asked(groups=groups)["pairs"]
        self.assertIn("the scatter of a run is this car's own", " ".join(pair["reasons"]))
        self.assertIsNotNone(pair["difference"])

    def test_the_price_of_a_tenth_and_the_claimed_gain(self):
        (pair,) = self.asked()["pairs"]
        gain = -pair["difference"]["value"]
        self.assertAlmostEqual(pair["price"]["value"], 600 * 0.1 / gain, 6)
        self.assertEqual(pair["price"]["currency"], "EUR")
        self.assertIn("agrees with the claimed 0.30 s", pair["claimed_gain"]["sentence"])

    def test_a_claim_counts_on_its_own_clock_only(self):
        ManufacturerClaim.objects.create(
            car=self.car, measure="0-60 mph", value_s=4.0, clock="rollout", source="brochure"
        )
        ManufacturerClaim.objects.create(
            car=self.car, measure="0-60 mph", value_s=4.1, clock="first_movement", source="web page"
        )
        before, _ = self.asked()["groups"]
        report = {claim["source"]: claim["sentence"] for claim in before["claims"]}
        self.assertIn("slower than the claimed 4.00 s", report["brochure"])
        self.assertIn("is on the first movement clock, not rollout", report["web page"])

    def test_what_matters_is_told_apart_from_what_is_real(self):
        self.sweep()
        (pair,) = self.asked(difference_that_matters=0.05)["pairs"]
        self.assertTrue(any("that would matter" in reason for reason in pair["reasons"]))

    def test_more_runs_take_no_more_queries(self):
        self.asked()
        with self.assertNumQueries(18):
            self.asked()
        more = [*self.before, *self.day(self.old, 0, [4.6] * 10, 70.0)]
        groups = [{"name": "before", "runs": more}, {"name": "after", "runs": self.after}]
        self.asked(groups=groups)
        with self.assertNumQueries(18):
            self.asked(groups=groups)

    def test_the_other_school_matches_by_charge(self):
        near = self.day(self.new, 8, [4.35, 4.36], 71.0)
        groups = [{"name": "before", "runs": self.before}, {"name": "after", "runs": [*self.after, *near]}]
        (pair,) = self.asked(groups=groups, match=True)["pairs"]
        self.assertIn("Matched: 2 and 2 runs", pair["reasons"][0])
        charge = next(row for row in pair["condition_differences"] if row["factor"] == "charge")
        self.assertEqual((charge["before"], charge["after"], charge["differs"]), (70.0, 71.0, False))

    def test_two_cars_are_compared_without_what_either_knows(self):
        other = self.day(SetupFactory(), 0, [5.0, 5.05, 4.98, 5.02], 95.0)
        groups = [{"name": "ours", "runs": self.after}, {"name": "theirs", "runs": other}]
        (pair,) = self.asked(groups=groups)["pairs"]
        self.assertEqual(pair["verdict"], "slower")
        self.assertNotIn("this car's own", " ".join(pair["reasons"]))
