"""A day's timetable from what the database holds: the plan's window, the course's clock, the car's heater."""

from __future__ import annotations

from datetime import UTC, timedelta

from coombe_core.wording.timetable import caution, rests_on, step_note
from days.models import TestDay
from days.services import is_go, worked_out
from plans.tests.asking import FIRST, PlanTest


class WorkedOutTest(PlanTest):
    def made(self, **changes):
        return worked_out(TestDay.objects.get(pk=self.day(self.plan(), **changes)["id"]))

    def kinds(self, **changes):
        return {step.kind: step for step in self.made(**changes).steps}

    def test_it_is_worked_back_from_the_first_run(self):
        steps = self.kinds(drive_min=30, prepare_min=20)
        self.assertEqual(steps["first run"].at, FIRST)
        self.assertEqual(steps["arrive"].at, FIRST - timedelta(minutes=20))
        self.assertEqual(steps["leave"].at, FIRST - timedelta(minutes=50))
        self.assertLess(steps["plug in"].at, steps["leave"].at)
        self.assertLess(steps["start heating"].at, steps["leave"].at)

    def test_the_last_run_follows_from_the_runs_that_are_not_skipped(self):
        day = TestDay.objects.get(pk=self.day(self.plan(minutes_per_run=6, minutes_per_change=10))["id"])
        whole = {step.kind: step.at for step in worked_out(day).steps}["last run"] - FIRST
        self.assertEqual(whole, timedelta(minutes=8 * 6 + 2 * 10))
        day.scheduled_runs.filter(position__lt=2).update(state="skipped")
        shorter = {step.kind: step.at for step in worked_out(day).steps}["last run"] - FIRST
        self.assertEqual(shorter, timedelta(minutes=6 * 6 + 10))

    def test_the_cars_own_limit_caps_the_goal(self):
        self.car.hottest_battery_c = 40
        self.car.save()
        self.assertIn("40 °C (104 °F) is reached", step_note(self.kinds()["start heating"]))

    def test_a_strong_heater_takes_the_charger_from_the_charge(self):
        plain = self.kinds()["plug in"].at
        self.car.heater_kw = 10
        self.car.save()
        self.assertLess(self.kinds()["plug in"].at, plain)

    def test_a_charger_at_the_course_lets_heating_go_on_to_the_first_run(self):
        away = self.made(drive_min=60)
        there = self.made(drive_min=60, course_charger_kw=11)
        self.assertGreater(there.battery_temp_c.value, away.battery_temp_c.value)

    def test_climate_control_is_told_with_what_it_costs(self):
        cautions = [caution(each) for each in self.made(climate_kw=6).cautions]
        self.assertTrue(any("Climate control takes" in each for each in cautions))

    def test_a_full_and_warm_car_needs_neither_charger_nor_heater(self):
        warm = {"charge_percent": 100, "battery_temp_c": 52, "outside_temp_c": 30, "drive_min": 0, "prepare_min": 0}
        steps = self.kinds(**warm, known_at=FIRST.isoformat())
        self.assertNotIn("plug in", steps)
        self.assertNotIn("start heating", steps)

    def test_what_it_rests_on_is_said(self):
        sentences = " ".join(rests_on(self.made()))
        for part in ("Cooling assumed", "Heating assumed", "Charging assumed"):
            self.assertIn(part, sentences)

    def test_clocks_are_those_of_the_course_in_winter_and_summer(self):
        day = TestDay.objects.get(pk=self.day(self.plan())["id"])
        self.assertEqual(f"{day.local(FIRST):%H:%M %Z}", "10:00 IST")
        self.assertEqual(f"{day.local(FIRST.replace(month=1)):%H:%M %Z}", "09:00 GMT")
        self.assertEqual(worked_out(day).steps[0].at.astimezone(UTC).tzinfo, UTC)

    def test_a_list_of_nothing_needed_is_go(self):
        day = TestDay.objects.get(pk=self.day(self.plan())["id"])
        self.assertFalse(is_go(day))
        day.checklist.update(needed=False)
        self.assertTrue(is_go(day))
