"""What a car's own log is taken to tell: scatter, reach, and what it falls back on."""

from __future__ import annotations

from django.test import TestCase

from cars.models import BatteryInterval, BatteryReading
from coombe_core.wording.sources import scatter_source
from coombe_core.wording.strip import friction_source, reach_source, strip_sentence
from learning import services as learning
from learning.strip import check
from runs.models import Measured, Split
from runs.tests.factories import CarFactory, CourseFactory, RunFactory, SetupFactory


def splits(run, *rows):
    """Splits of a run: speed in mph and distance in meters."""
    for speed, distance in rows:
        Split.objects.create(
            run=run,
            speed=speed,
            unit="mph",
            first_movement_s=1,
            first_movement_u95_s=0.1,
            distance_m=distance,
            distance_u95_m=0.5,
        )


class ScatterTest(TestCase):
    def setUp(self):
        self.car = CarFactory()
        self.setup = SetupFactory(car=self.car)

    def runs(self, day: int, *times: float, **changes) -> None:
        for number, time in enumerate(times):
            start = f"2026-05-{day:02d}T09:{number:02d}:00Z"
            RunFactory(setup=self.setup, sixty_s=time, start_utc=start, **changes)

    def scatter(self):
        return learning.scatter(self.car, "0-60 mph", "rollout", 4.0)

    def test_days_of_one_setup_tell_runs_from_days(self):
        for day, level in ((1, 4.00), (2, 4.10), (3, 3.95), (4, 4.05), (5, 3.90)):
            self.runs(day, level - 0.02, level, level + 0.02)
        scatter = self.scatter()
        self.assertAlmostEqual(scatter.run_sd, 0.02, places=6)
        self.assertAlmostEqual(scatter.day_sd, 0.079, delta=0.003)
        self.assertIn("5 days of 15 runs", scatter_source(scatter))

    def test_void_and_unfinished_runs_and_other_clocks_do_not_count(self):
        self.runs(1, 4.00, 4.02, 3.98, 4.01, 3.99)
        before = self.scatter()
        self.runs(2, 9.0, 2.0, validity="void", void_reason="traffic")
        self.runs(3, 7.0, 1.0, complete=False)
        run = RunFactory(setup=self.setup)
        Measured.objects.create(run=run, name="0-60 mph", clock="first_movement", time_s=8.0, time_u95_s=0.1)
        self.assertEqual(self.scatter(), before)

    def test_another_cars_runs_do_not_count(self):
        for time in (4.0, 4.5, 5.0, 5.5, 6.0):
            RunFactory(sixty_s=time)
        self.assertTrue(self.scatter().run_assumed)

    def test_the_typical_time_is_the_median_of_valid_runs(self):
        self.assertIsNone(learning.typical_s(self.car, "0-60 mph", "rollout"))
        self.runs(1, 4.0, 4.1, 5.0)
        self.assertEqual(learning.typical_s(self.car, "0-60 mph", "rollout"), 4.1)


class ReachTest(TestCase):
    def test_own_runs_win_where_they_reach_and_mass_and_power_tell_beyond(self):
        car = CarFactory(power_kw=250)
        splits(RunFactory(setup=SetupFactory(car=car)), (10, 5), (30, 30), (60, 130))
        self.assertIn("own 1 runs", reach_source(learning.reach(car, 26.0, 0.0)))
        self.assertIn("mass and power", reach_source(learning.reach(car, 40.0, 0.0)))

    def test_void_runs_and_roll_ons_tell_no_reach(self):
        car = CarFactory(power_kw=None)
        setup = SetupFactory(car=car)
        splits(RunFactory(setup=setup, validity="void", void_reason="traffic"), (60, 130))
        splits(RunFactory(setup=setup, kind="rolling"), (70, 20))
        self.assertIsNone(learning.reach(car, 20.0, 0.0))

    def test_a_car_without_power_is_told_up_to_its_fastest_run(self):
        car = CarFactory(power_kw=None)
        splits(RunFactory(setup=SetupFactory(car=car)), (30, 30), (60, 130))
        with self.assertRaisesRegex(ValueError, "only up to 26.8 m/s; state its mass and power"):
            check(CourseFactory(), car, "0-100 mph")

    def test_uphill_takes_a_longer_way(self):
        car = CarFactory(power_kw=120)
        level, up = (learning.reach(car, 30.0, slope).distance_to(30.0) for slope in (0.0, 4.0))
        self.assertGreater(up, level)


class StripSentenceTest(TestCase):
    def test_both_units_are_told_and_cold_wet_strips_are_judged_as_ice(self):
        car = CarFactory(power_kw=250)
        damp = CourseFactory(surface="damp asphalt")
        mild = check(damp, car, "0-60 mph", outside_temp_c=12)
        icy = check(damp, car, "0-60 mph", outside_temp_c=1)
        self.assertTrue(mild.fits)
        self.assertRegex(strip_sentence(mild), r"\d+ m \(\d+ ft\) of 1700 m \(5577 ft\)")
        self.assertGreater(icy.stopping_m, 6 * mild.stopping_m)
        self.assertIn("may be ice", friction_source(icy.friction))

    def test_a_roll_on_needs_the_way_to_its_upper_speed(self):
        car = CarFactory(power_kw=250)
        roll = check(CourseFactory(), car, "30-70 mph")
        self.assertAlmostEqual(roll.target_mps, 70 * 0.44704)


class BatteryTest(TestCase):
    def interval(self, kind: str, rows: list[tuple[float | None, ...]], day: int = 1, **changes) -> None:
        began = f"2026-04-{day:02d}T20:00:00Z"
        interval = BatteryInterval.objects.create(car=self.car, kind=kind, began_at=began, **changes)
        BatteryReading.objects.bulk_create(
            BatteryReading(
                interval=interval, minutes=m, battery_temp_c=battery, outside_temp_c=out, charge_percent=charge
            )
            for m, battery, out, charge in rows
        )

    def setUp(self):
        self.car = CarFactory(battery_kwh=60)

    def test_readings_without_both_temperatures_are_passed_over(self):
        rows = [(0, 45, 8, None), (20, 42.5, None, None), (40, 40.1, 8, None), (60, 38, 8, None)]
        self.interval("resting", rows)
        heat = learning.battery_heat(self.car)
        self.assertEqual(heat.loss_per_min.occasions, 1)
        self.assertAlmostEqual(heat.time_constant_min.value, 284, delta=30)

    def test_a_charger_of_unknown_power_teaches_nothing(self):
        self.interval("charging", [(0, None, None, 40), (60, None, None, 50), (120, None, None, 60)])
        self.assertTrue(learning.charge_curve(self.car).share.assumed)

    def test_another_cars_evening_teaches_this_one_nothing(self):
        self.interval("resting", [(0, 45, 8, None), (30, 41, 8, None), (60, 38, 8, None)])
        self.assertTrue(learning.battery_heat(CarFactory()).loss_per_min.assumed)

    def test_a_battery_of_unstated_size_is_assumed(self):
        self.assertEqual(learning.charge_curve(CarFactory(battery_kwh=None)).battery_kwh, learning.ASSUMED_BATTERY_KWH)
