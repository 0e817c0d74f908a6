"""Comparing stops and speeds at the line: the right quantity, its unit, and which way is a gain."""

from __future__ import annotations

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from coombe_core.formats import write_log
from coombe_core.simulating.car import SimulatedCar
from coombe_core.simulating.scenarios import STOP_SERIES, Scenario, clean_run, simulate
from runs.models import Measured
from runs.services import import_log
from runs.tests.factories import SetupFactory, UserFactory

GRIPPY, SLICK = SimulatedCar(brake_grip=1.05), SimulatedCar(brake_grip=0.9)
WEAK, STRONG = SimulatedCar(power_w=220_000), SimulatedCar(power_w=250_000)


class QuantityTest(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.person = UserFactory()
        cls.stops = {"before": cls.driven(STOP_SERIES, GRIPPY), "after": cls.driven(STOP_SERIES, SLICK)}
        cls.quarters = {"before": cls.driven(clean_run() * 2, WEAK), "after": cls.driven(clean_run() * 2, STRONG)}

    @classmethod
    def driven(cls, acts, car) -> list[int]:
        """The runs of a simulated log of those acts."""
        data = write_log(simulate(Scenario("", acts, car), 61).trace, "nmea")
        conditions = {"charge_before_percent": 95, "battery_temp_before_c": 44}
        log = import_log("day.nmea", data, SetupFactory(), cls.person, conditions).log
        return list(log.runs.order_by("start_s").values_list("pk", flat=True))

    def setUp(self):
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")

    def compare(self, groups, measure, clock, quantity):
        chosen = [{"name": name, "runs": runs} for name, runs in groups.items()]
        asked = {"measure": measure, "clock": clock, "quantity": quantity, "groups": chosen}
        answer = self.client.post(reverse("comparison-preview"), asked)
        self.assertEqual(answer.status_code, 200, answer.json())
        report = answer.json()
        groups = dict(zip(("before", "after"), report["groups"], strict=True))
        return report | report["pairs"][0] | groups

    def test_less_grip_stops_longer(self):
        result = self.compare(self.stops, "100-0 km/h", "speed", "distance")
        self.assertEqual((result["verdict"], result["unit"], result["better"]), ("longer", "m", False))
        self.assertGreater(result["difference"]["value"], 3)
        self.assertEqual((result["bands"], result["character"]), ([], None))

    def test_distance_from_onset_is_taken_where_every_run_has_it(self):
        result = self.compare(self.stops, "100-0 km/h", "speed", "distance")
        self.assertEqual(result["field"], "onset_distance_m")
        Measured.objects.filter(run=self.stops["before"][0]).update(onset_distance_m=None, onset_distance_u95_m=None)
        mixed = self.compare(self.stops, "100-0 km/h", "speed", "distance")
        self.assertEqual(mixed["field"], "distance_m")
        self.assertEqual((mixed["before"]["n"], mixed["after"]["n"]), (3, 3))

    def test_more_power_is_faster_at_the_line_and_in_the_trap(self):
        for quantity in ("line_speed", "trap_speed"):
            result = self.compare(self.quarters, "1/4 mile", "rollout", quantity)
            self.assertEqual((result["verdict"], result["unit"], result["better"]), ("faster", "m/s", True))
            self.assertGreater(result["difference"]["value"], 1.0)

    def test_the_line_speed_does_not_depend_on_the_clock(self):
        values = [
            self.compare(self.quarters, "1/4 mile", clock, "line_speed")["difference"]["value"]
            for clock in ("rollout", "first_movement")
        ]
        self.assertAlmostEqual(values[0], values[1], 9)

    def test_a_distance_measure_is_split_by_distance(self):
        result = self.compare(self.quarters, "1/4 mile", "rollout", "time")
        self.assertEqual([round(band["from_m"]) for band in result["bands"]], [0, 18, 101, 201, 305])
        total = sum(band["difference_s"] for band in result["bands"])
        self.assertAlmostEqual(total, result["difference"]["value"], 9)

    def test_stops_do_not_stand_in_a_comparison_of_standing_starts(self):
        result = self.compare(self.quarters, "1/4 mile", "rollout", "time")
        dropped = [row["dropped"] for row in result["runs"] if row["dropped"]]
        self.assertEqual(dropped, ["did not reach 1/4 mile"] * 4)
        self.assertEqual((result["before"]["n"], result["after"]["n"]), (2, 2))

    def test_a_group_without_the_measure_is_too_few(self):
        result = self.compare(self.stops, "0-60 mph", "rollout", "time")
        self.assertEqual((result["verdict"], result["difference"]), ("too few runs", None))
        self.assertEqual((result["before"]["mean"], result["bands"]), (None, []))

    def test_more_power_shows_as_peak_power_at_the_wheels(self):
        """220 and 250 kW at the wheels, as simulated, of a car of 1.9 t."""
        result = self.compare(self.quarters, "1/4 mile", "rollout", "peak_power")
        self.assertEqual((result["unit"], result["verdict"]), ("kW", "faster"))
        self.assertAlmostEqual(result["difference"]["value"], 30.0, delta=4.0)
        self.assertIn("more", result["sentence"])
        counting = [run["value"] for run in result["runs"] if run["value"] is not None]
        self.assertTrue(all(190 < value < 260 for value in counting), counting)
        details = {
            "measure": "1/4 mile",
            "clock": "rollout",
            "quantity": "peak_power",
            "groups": self.asked(self.quarters),
        }
        self.assertEqual(self.client.post(reverse("comparison-details"), details).status_code, 200)

    def test_a_stop_has_no_peak_power(self):
        asked = {"measure": "100-0 km/h", "clock": "speed", "quantity": "peak_power", "groups": self.asked(self.stops)}
        refused = self.client.post(reverse("comparison-preview"), asked)
        self.assertEqual(refused.status_code, 400)
        self.assertIn("a stop has no peak power", str(refused.json()))

    def asked(self, groups):
        return [{"name": name, "runs": runs} for name, runs in groups.items()]
