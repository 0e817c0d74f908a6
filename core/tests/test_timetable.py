"""The charge-and-heat timetable: worked back, carried out again with the same physics, and refused where it must be."""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta, timezone

import numpy as np

from coombe_core.learned import Learned
from coombe_core.physics.battery.charge import ChargeCurve
from coombe_core.physics.battery.heat import BatteryHeat, learn_heat, temperature_after
from coombe_core.planning.day import Day, Remedy, Timetable, Window
from coombe_core.planning.timetable import SETTLES_IN_MIN, SETTLING_MIN, timetable
from coombe_core.wording.quantities import duration
from coombe_core.wording.timetable import caution, remedy, shortfall

KNOWN = BatteryHeat(Learned(1 / 300, 0.0, 0.0, 6, "runs"), Learned(0.6, 0.0, 0.0, 6, "runs"))
DOUBTFUL = BatteryHeat(Learned(1 / 300, 0.0008, 0.0004, 3, "runs"), Learned(0.6, 0.1, 0.05, 3, "runs"))
CURVE = ChargeCurve.of(80.0, share=Learned(0.9, 0.0, 0.0, 4, "runs"))
FIRST = datetime(2026, 5, 9, 10, 0, tzinfo=timezone(timedelta(hours=1)))
DAY = Day(FIRST, FIRST - timedelta(hours=7), 50, 9, 8, Window(88, 95, 35, 48), 11.0, 20, 3.0, 20, runs_min=45)


def at(made: Timetable, kind: str) -> datetime:
    return next(step.at for step in made.steps if step.kind == kind)


class WorkedBackTest(unittest.TestCase):
    def test_following_it_brings_the_battery_and_the_charge_that_it_says(self):
        made = timetable(DAY, KNOWN, CURVE)
        self.assertTrue(made.met)
        self.assertEqual(made.chance, 1.0)
        rested = temperature_after(minutes(DAY.known_at, at(made, "start heating")), 9, 8, 300)
        heated = temperature_after(minutes(at(made, "start heating"), at(made, "leave")), rested, 8, 300, 0.6)
        settled = 0.6 * SETTLING_MIN / 2 * (1 - np.exp(-40 / SETTLES_IN_MIN))  # the middle of what may even out
        first = float(temperature_after(40, heated, 8, 300)) - settled
        self.assertAlmostEqual(first, made.battery_temp_c.value, delta=0.01)
        charging = minutes(at(made, "plug in"), at(made, "leave"))
        heater = minutes(at(made, "start heating"), at(made, "leave")) * DAY.heater_kw / DAY.charger_kw
        self.assertAlmostEqual(CURVE.minutes(50, 98, 11.0), charging - heater, delta=0.1)
        self.assertAlmostEqual(made.charge_percent.value, 95.0)

    def test_the_window_closes_when_newtons_cooling_says(self):
        made = timetable(DAY, KNOWN, CURVE)
        by_hand = 300 * np.log((made.battery_temp_c.value - 8) / (35 - 8))
        self.assertAlmostEqual(minutes(FIRST, at(made, "window closes")), by_hand, places=3)
        self.assertAlmostEqual(made.open_min.value, by_hand, places=3)

    def test_steps_come_in_the_order_of_the_day_in_its_own_time_zone(self):
        made = timetable(DAY, KNOWN, CURVE)
        self.assertEqual([s.at for s in made.steps], sorted(s.at for s in made.steps))
        self.assertEqual(f"{at(made, 'leave'):%H:%M %z}", "09:20 +0100")

    def test_doubt_widens_the_interval_and_starts_earlier(self):
        sure, doubtful = (timetable(DAY, heat, CURVE) for heat in (KNOWN, DOUBTFUL))
        self.assertLess(at(doubtful, "start heating"), at(sure, "start heating"))
        self.assertGreater(spread(doubtful), spread(sure) + 1.0)
        assumed = timetable(DAY, learn_heat([]), CURVE)
        self.assertGreater(spread(assumed), spread(doubtful))

    def test_a_simulated_day_falls_inside_its_intervals(self):
        """300 days with parameters drawn from what is believed: the battery at the first run is inside for 95 %."""
        made = timetable(DAY, DOUBTFUL, CURVE)
        draw = np.random.default_rng(77)
        loss = draw.normal(1 / 300, DOUBTFUL.loss_per_min.next_sd, 300)
        rate = draw.normal(0.6, DOUBTFUL.heating_k_per_min.next_sd, 300)
        since = minutes(DAY.known_at, at(made, "start heating"))
        rested = temperature_after(since, 9, 8, 1 / loss)
        full = temperature_after(minutes(at(made, "start heating"), at(made, "leave")), rested, 8, 1 / loss, rate)
        goal = 50.0  # the car holds it there once it is reached
        first = temperature_after(40, np.minimum(full, goal), 8, 1 / loss)
        inside = (first >= made.battery_temp_c.low95 - 0.05) & (first <= made.battery_temp_c.high95 + 0.05)
        self.assertGreaterEqual(inside.mean(), 0.92)


class RefusedTest(unittest.TestCase):
    def test_too_little_time_is_told_with_what_would_do(self):
        late = replace(DAY, known_at=FIRST - timedelta(minutes=90))
        made = timetable(late, KNOWN, CURVE)
        self.assertFalse(made.met)
        self.assertRegex(
            shortfall(made.shortfalls[0]),
            r"The battery will be at \d+ °C .*at 10:00; the window begins at 35 °C \(95 °F\)",
        )
        self.assertTrue(any(sentence.startswith("First run at") for sentence in map(remedy, made.remedies)))
        later = datetime.strptime(remedy(made.remedies[0])[13:18], "%H:%M").replace(tzinfo=FIRST.tzinfo)
        moved = replace(late, first_run_at=FIRST.replace(hour=later.hour, minute=later.minute))
        self.assertTrue(timetable(moved, KNOWN, CURVE).met)
        sooner = replace(moved, first_run_at=moved.first_run_at - timedelta(minutes=15))
        self.assertFalse(timetable(sooner, KNOWN, CURVE).met)

    def test_two_changes_are_one_sentence(self):
        both = (Remedy("charger at the course", power_kw=11), Remedy("later first run", at=FIRST, minutes=30))
        self.assertEqual(
            remedy(both),
            "A charger of 11 kW at the course, heating up to the first run; "
            f"and first run at {FIRST:%H:%M}, 30 min later.",
        )
        self.assertEqual(remedy(both[1:]), f"First run at {FIRST:%H:%M}, 30 min later.")

    def test_a_long_drive_in_the_cold_asks_for_a_charger_at_the_course(self):
        far = replace(DAY, drive_min=110, known_at=FIRST - timedelta(hours=12))
        made = timetable(far, KNOWN, CURVE)
        self.assertTrue(any("charger of 11 kW at the course" in sentence for sentence in map(remedy, made.remedies)))
        self.assertTrue(timetable(replace(far, course_charger_kw=11.0), KNOWN, CURVE).met)

    def test_a_window_that_closes_early_says_for_how_long_it_stays_open(self):
        made = timetable(replace(DAY, runs_min=240), KNOWN, CURVE)
        missed = shortfall(made.shortfalls[0])
        self.assertIn(f"stays open for {duration(made.open_min.value)}; the runs take 4 h.", missed)
        self.assertTrue(
            any(sentence.startswith("Only the runs of the first") for sentence in map(remedy, made.remedies))
        )

    def test_a_battery_that_is_too_warm_must_wait(self):
        hot = replace(
            DAY, battery_temp_c=62, charge_percent=97, outside_temp_c=25, known_at=FIRST - timedelta(minutes=60)
        )
        made = timetable(hot, KNOWN, CURVE)
        self.assertRegex(
            shortfall(made.shortfalls[0]), r"too warm to start: \d+ °C .*at 10:00.*it cools to that by 1\d:\d\d"
        )
        self.assertIn("too warm to be conditioned until", caution(made.cautions[0]))

    def test_climate_control_costs_charge(self):
        made = timetable(replace(DAY, climate_kw=6.0), KNOWN, CURVE)
        self.assertIn(f"{100 * 6 * 40 / 60 / 80:.1f} points", caution(made.cautions[0]))
        full = replace(DAY, climate_kw=6.0, drive_charge_percent=5.0)
        self.assertAlmostEqual(timetable(full, KNOWN, CURVE).charge_percent.value, 90.0, places=6)

    def test_a_heater_that_never_gets_there_sets_no_end(self):
        weak = BatteryHeat(Learned(1 / 60, 0.0, 0.0, 6, "runs"), Learned(0.2, 0.0, 0.0, 6, "runs"))
        made = timetable(DAY, weak, CURVE)
        self.assertFalse(made.met)
        self.assertIsNone(next(step.late for step in made.steps if step.kind == "start heating"))


def minutes(since: datetime, until: datetime) -> float:
    return (until.astimezone(UTC) - since.astimezone(UTC)).total_seconds() / 60.0


def spread(made: Timetable) -> float:
    return made.battery_temp_c.high95 - made.battery_temp_c.low95
