"""What a car's page teaches: battery readings pasted in, what is learned, claims, and two setups field by field."""

from __future__ import annotations

import numpy as np
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from cars.models import BatteryInterval, BatteryReading
from coombe_core.simulating.battery import SimulatedBattery, temperature_interval
from learning.services import charge_curve
from runs.tests.factories import CarFactory, RunFactory, SetupFactory, UserFactory


def table(kind: str, seed: int) -> str:
    """A simulated interval as it is pasted from a spreadsheet."""
    start = {"resting": 45.0, "heating": 12.0}[kind]
    interval = temperature_interval(SimulatedBattery(), kind, start, 8.0, 120.0, np.random.default_rng(seed))
    rows = zip(interval.minutes, interval.battery_temp_c, interval.outside_temp_c, strict=True)
    return "minutes\tpack\toutside\n" + "\n".join("\t".join(map(str, row)) for row in rows)


class BatteryTest(TestCase):
    def setUp(self):
        self.car = CarFactory(battery_kwh=80)
        self.client = APIClient()
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")

    def paste(self, text: str, day: int = 1, **changes):
        given = {"car": self.car.pk, "kind": "resting", "began_at": f"2026-04-{day:02d}T20:00:00Z", "table": text}
        return self.client.post(reverse("battery-interval-list"), given | changes)

    def known(self) -> dict:
        return self.client.get(reverse("car-battery-model", args=[self.car.pk])).json()

    def test_a_battery_is_learned_from_pasted_readings(self):
        self.assertTrue(self.known()["time_constant_min"]["assumed"])
        for day in range(1, 5):
            self.assertEqual(self.paste(table("resting", day), day).status_code, 201)
            self.assertEqual(self.paste(table("heating", 50 + day), day, kind="heating").status_code, 201)
        known = self.known()
        tau, rate = known["time_constant_min"], known["heating_k_per_min"]
        self.assertLess(tau["low95"], SimulatedBattery().time_constant_min)
        self.assertGreater(tau["high95"], SimulatedBattery().time_constant_min)
        self.assertAlmostEqual(rate["value"], SimulatedBattery().heating_k_per_min, delta=0.1)
        self.assertEqual(tau["learned_from"], "learned from 4 rest intervals")

    def test_a_bad_row_is_named_by_its_line_and_nothing_is_stored(self):
        for text, report in {
            "0,40,8\n10,warm,8\n20,38,8": "Line 2: four numbers",
            "0,40,8\n10,39,8\n5,38,8": "Line 3: minutes must rise",
            "0,40,8\n10,140,8\n20,38,8": "Line 2, battery_temp_c",
            "0,40,8\n10,39,8": "At least three rows",
        }.items():
            answer = self.paste(text)
            self.assertEqual(answer.status_code, 400)
            self.assertIn(report, answer.json()["errors"]["table"][0])
        self.assertEqual((BatteryInterval.objects.count(), BatteryReading.objects.count()), (0, 0))

    def test_charging_needs_the_chargers_power(self):
        rows = "0,,,40\n60,,,52\n120,,,64\n180,,,76"
        self.assertIn("charger_kw", self.paste(rows, kind="charging").json()["errors"])
        self.assertEqual(self.paste(rows, kind="charging", charger_kw=11).status_code, 201)
        self.assertAlmostEqual(self.known()["charge_share"]["value"], 0.12 * 80 / 11, delta=0.02)

    def test_a_stated_charge_curve_is_used_and_replaced_as_a_whole(self):
        page = reverse("car-detail", args=[self.car.pk])
        curve = [{"charge_percent": 0, "power_kw": 8}, {"charge_percent": 100, "power_kw": 8}]
        self.assertEqual(
            self.client.patch(page, {"charge_points": curve, "revision": 1}, format="json").status_code, 200
        )
        self.car.refresh_from_db()
        slow = charge_curve(self.car)
        self.assertFalse(slow.assumed)
        self.assertAlmostEqual(slow.minutes(50, 60, 11), 0.1 * 80 / 8 * 60 / slow.share.value, places=6)
        other = [*curve[:1], {"charge_percent": 80, "power_kw": 4}]
        self.client.patch(page, {"charge_points": other, "revision": 2}, format="json")
        self.assertEqual(self.car.charge_points.count(), 2)
        self.client.patch(page, {"notes": "left alone", "revision": 3}, format="json")
        self.assertEqual(self.car.charge_points.count(), 2)
        for wrong in (curve[:1], [curve[0], curve[0]], [{"charge_percent": 120, "power_kw": 8}, curve[0]]):
            refused = self.client.patch(page, {"charge_points": wrong}, format="json").json()["errors"]
            self.assertTrue(next(iter(refused)).startswith("charge_points"))
        self.assertEqual(self.car.charge_points.count(), 2)

    def test_charge_used_in_a_long_pause_is_not_laid_on_the_runs(self):
        setup = SetupFactory(car=self.car)
        for time, charge in {"09:00": 95, "09:05": 94, "09:10": 93, "12:00": 60, "12:05": 59, "12:10": 58}.items():
            RunFactory(setup=setup, charge_before_percent=charge, start_utc=f"2026-05-09T{time}:00Z")
        self.assertAlmostEqual(self.known()["charge_per_run_percent"]["value"], 1.0, places=3)

    def test_charge_per_run_comes_from_the_log(self):
        setup = SetupFactory(car=self.car)
        for number, charge in enumerate((95, 93.5, 92, 90.5)):
            RunFactory(setup=setup, charge_before_percent=charge, start_utc=f"2026-05-09T09:{number:02d}:00Z")
        self.assertAlmostEqual(self.known()["charge_per_run_percent"]["value"], 1.5, places=3)

    def test_a_claim_names_a_measure_that_there_is(self):
        given = {"car": self.car.pk, "measure": "0-60 mph", "value_s": 3.9, "clock": "rollout", "source": "brochure"}
        self.assertEqual(self.client.post(reverse("manufacturer-claim-list"), given).status_code, 201)
        self.assertIn(
            "measure",
            self.client.post(reverse("manufacturer-claim-list"), given | {"measure": "0-sixty"}).json()["errors"],
        )
        self.assertEqual(len(self.client.get(reverse("car-detail", args=[self.car.pk])).json()["claims"]), 1)

    def test_axles_must_add_up_to_the_test_mass(self):
        page = reverse("car-detail", args=[self.car.pk])
        self.assertIn(
            "rear_axle_kg", self.client.patch(page, {"front_axle_kg": 900, "rear_axle_kg": 700}).json()["errors"]
        )
        self.assertEqual(
            self.client.patch(page, {"front_axle_kg": 990, "rear_axle_kg": 905, "revision": 1}).status_code, 200
        )

    def test_two_setups_differ_field_by_field(self):
        before = SetupFactory(car=self.car, wheel_mass_kg=24, wheel_diameter_in=19, tire_size="245/45 R19")
        after = SetupFactory(car=self.car, wheel_mass_kg=28, wheel_diameter_in=20, tire_size="245/45 R19")
        asked = {"before": before.pk, "after": after.pk}
        report = self.client.get(reverse("car-difference", args=[self.car.pk]), asked).json()
        self.assertEqual({row["name"] for row in report["differing"]}, {"wheel_diameter_in", "wheel_mass_kg"})
        self.assertIn("+26.9 kg (+59.3 lb) in motion", report["wheels"])
        other = SetupFactory()
        asked["after"] = other.pk
        self.assertEqual(self.client.get(reverse("car-difference", args=[self.car.pk]), asked).status_code, 404)

    def test_a_price_names_its_currency(self):
        given = {"car": self.car.pk, "name": "Unlocked", "since": "2026-05-01", "change": "paid unlock", "price": "990"}
        self.assertIn("currency", self.client.post(reverse("setup-list"), given).json()["errors"])
        self.assertEqual(self.client.post(reverse("setup-list"), given | {"currency": "EUR"}).status_code, 201)
