"""What must hold of any plan: orders are balanced, strips and timetables are monotone, learning forgets no occasion."""

from __future__ import annotations

import unittest
from collections import Counter
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from coombe_core.comparing.statistics.scatter import Scatter
from coombe_core.learned import Learned, combined
from coombe_core.physics.battery.charge import ChargeCurve
from coombe_core.physics.battery.heat import BatteryHeat, minutes_until, temperature_after
from coombe_core.physics.road_load import RoadLoad
from coombe_core.physics.wheels import wheel_change
from coombe_core.planning.budget import learn_charge_per_run, runs_left, top_ups
from coombe_core.planning.day import Day, Window
from coombe_core.planning.friction import SLIDING, friction, stopping_distance_m
from coombe_core.planning.order import ORDERS, confounded, duration_min, run_order, split_by_days, with_lanes
from coombe_core.planning.sample_size import Design, detectable_difference, power_to_find, runs_needed
from coombe_core.planning.strip import check_strip, reach_from_power, reach_from_runs
from coombe_core.planning.timetable import timetable

GROUPS = st.lists(st.sampled_from("ABCDEF"), min_size=1, max_size=6, unique=True)
REACH = reach_from_power(220_000, RoadLoad(1900), 65.0)
QUICK = settings(max_examples=20, deadline=None)
FIRST = datetime(2026, 5, 9, 10, 0, tzinfo=UTC)
DAY = Day(FIRST, FIRST - timedelta(hours=8), 55, 12, 10, Window(85, 95, 35, 48), 11.0, 20, 3.0)
HEAT = BatteryHeat(Learned(1 / 280, 0.0006, 0.0003, 5, "runs"), Learned(0.55, 0.06, 0.03, 5, "runs"))
CURVE = ChargeCurve.of(80.0)


class OrderProperties(unittest.TestCase):
    @QUICK
    @given(GROUPS, st.integers(1, 9), st.sampled_from(ORDERS), st.booleans(), st.integers(0, 999))
    def test_every_group_gets_the_same_number_of_runs_in_every_order(self, groups, runs, order, both, seed):
        planned = run_order(groups, runs, order, both, seed)
        counts = Counter(step.group for step in planned)
        expected = runs + runs % 2 if both else runs
        self.assertEqual(set(counts.values()), {expected})
        if both:
            counts = Counter((step.group, step.direction) for step in planned)
            self.assertEqual(set(counts.values()), {expected // 2})

    @QUICK
    @given(GROUPS, st.integers(1, 5).map(lambda n: 2 * n))
    def test_abba_with_whole_blocks_carries_no_linear_drift(self, groups, runs):
        planned = run_order(groups, runs, "ABBA")
        places = [np.mean([i for i, step in enumerate(planned) if step.group == group]) for group in groups]
        self.assertAlmostEqual(max(places), min(places))
        self.assertEqual(confounded(planned), [])

    @QUICK
    @given(GROUPS, st.integers(1, 8), st.integers(1, 4), st.booleans())
    def test_days_of_their_own_hold_one_group_each_and_no_fewer_runs(self, groups, runs, days, both):
        laid_out = split_by_days(groups, days, max(runs, days), both)
        self.assertEqual(len(laid_out), days * len(groups))
        for day in laid_out:
            self.assertEqual(len({step.group for step in day}), 1)
        for group in groups:
            self.assertGreaterEqual(sum(step.group == group for day in laid_out for step in day), max(runs, days))

    @QUICK
    @given(st.integers(1, 8), st.sampled_from(ORDERS), st.integers(0, 99))
    def test_lanes_differ_by_one_pass_at_most(self, runs, order, seed):
        planned = with_lanes(run_order("AB", runs, order, seed=seed))
        for group in "AB":
            lanes = Counter(step.lane for step in planned if step.group == group)
            self.assertLessEqual(abs(lanes["left"] - lanes["right"]), 1)

    @QUICK
    @given(st.integers(1, 12), st.floats(1, 20), st.floats(0, 60))
    def test_changes_of_group_cost_their_minutes(self, runs, a_run, a_change):
        blocked = duration_min(run_order("AB", runs, "blocked"), a_run, a_change)
        swapped = duration_min(run_order("AB", runs, "alternating"), a_run, a_change)
        self.assertAlmostEqual(blocked, 2 * runs * a_run + a_change)
        self.assertAlmostEqual(swapped - blocked, (2 * runs - 2) * a_change)


class SizeProperties(unittest.TestCase):
    @QUICK
    @given(st.integers(2, 20), st.floats(0.005, 0.5), st.floats(0.0, 0.2), st.integers(1, 4))
    def test_days_apart_never_show_more_than_days_shared(self, runs, run_sd, day_sd, days):
        scatter = Scatter(run_sd, day_sd, "", False, False)
        runs = max(runs, days)
        apart = detectable_difference(Design(runs, days, False), scatter)
        self.assertGreaterEqual(apart, detectable_difference(Design(runs, days, True), scatter) * (1 - 1e-9))

    @QUICK
    @given(st.floats(0.01, 0.3), st.floats(0.01, 0.2))
    def test_fewest_runs_are_fewest(self, difference, run_sd):
        scatter = Scatter(run_sd, 0.0, "", False, False)
        needed = runs_needed(difference, scatter)
        if needed is not None:
            self.assertGreaterEqual(power_to_find(difference, Design(needed), scatter), 0.8)
        if needed is not None and needed > 2:
            self.assertLess(power_to_find(difference, Design(needed - 1), scatter), 0.8)

    @QUICK
    @given(st.floats(0.01, 0.3), st.floats(1.1, 4.0))
    def test_units_do_not_matter(self, run_sd, factor):
        plain = detectable_difference(Design(5), Scatter(run_sd, 0, "", False, False))
        scaled = detectable_difference(Design(5), Scatter(run_sd * factor, 0, "", False, False))
        self.assertAlmostEqual(scaled / plain, factor, places=6)


class StripProperties(unittest.TestCase):
    @QUICK
    @given(st.floats(5, 60), st.floats(100, 3000), st.sampled_from(sorted(set(SLIDING) - {"ice"})), st.floats(-2, 2))
    def test_parts_add_up_and_the_highest_speed_fits(self, target, available, surface, slope):
        check = check_strip(target, available, REACH, friction(surface), slope)
        self.assertAlmostEqual(check.needed_m, check.pull_m + check.reaction_m + check.stopping_m + check.margin_m)
        self.assertEqual(check.fits, check.needed_m <= available)
        if check.highest_mps > 0:
            self.assertTrue(check_strip(check.highest_mps, available, REACH, friction(surface), slope).fits)
        if not check.fits:
            self.assertLess(check.highest_mps, target)

    @QUICK
    @given(st.floats(5, 55), st.floats(0.5, 5))
    def test_faster_needs_more(self, target, faster):
        grip = friction("dry asphalt")
        slow, fast = (check_strip(speed, 1000, REACH, grip).needed_m for speed in (target, target + faster))
        self.assertGreater(fast, slow)

    @QUICK
    @given(st.floats(1, 60), st.floats(0.05, 1.2), st.floats(-3, 3))
    def test_a_stop_takes_its_energy(self, speed, coefficient, slope):
        way = stopping_distance_m(speed, coefficient, slope)
        if np.isfinite(way):
            self.assertAlmostEqual(way * 9.80665 * (coefficient + slope / 100), speed**2 / 2, places=6)

    @QUICK
    @given(
        st.lists(st.tuples(st.sampled_from([5.0, 10.0, 20.0, 30.0]), st.floats(1, 300), st.floats(0, 5)), min_size=1)
    )
    def test_own_runs_never_give_a_shorter_distance_than_the_farthest(self, splits):
        reach = reach_from_runs(splits, len(splits))
        for speed, distance, u95 in splits:
            self.assertGreaterEqual(reach.distance_to(speed) + 1e-9, distance + u95)
        self.assertEqual(list(reach.distance_m), sorted(reach.distance_m))


class BatteryProperties(unittest.TestCase):
    @QUICK
    @given(st.floats(-10, 60), st.floats(-10, 40), st.floats(20, 600), st.floats(0, 600), st.floats(0, 1.5))
    def test_a_battery_moves_towards_its_end_and_never_past_it(self, start, outside, tau, minutes, rate):
        end = outside + rate * tau
        after = float(temperature_after(minutes, start, outside, tau, rate))
        self.assertLessEqual(min(start, end) - 1e-6, after)
        self.assertLessEqual(after, max(start, end) + 1e-6)

    @QUICK
    @given(st.floats(20, 50), st.floats(-5, 15), st.floats(30, 500), st.floats(5, 200), st.floats(5, 200))
    def test_two_rests_are_one_long_rest(self, start, outside, tau, first, second):
        twice = temperature_after(second, temperature_after(first, start, outside, tau), outside, tau)
        self.assertAlmostEqual(float(twice), float(temperature_after(first + second, start, outside, tau)), places=9)

    @QUICK
    @given(st.floats(30, 50), st.floats(-5, 15), st.floats(30, 500), st.floats(0.05, 0.95))
    def test_the_minutes_until_a_temperature_lead_to_it(self, start, outside, tau, share):
        goal = outside + share * (start - outside)
        minutes = float(minutes_until(goal, start, outside, tau))
        self.assertAlmostEqual(float(temperature_after(minutes, start, outside, tau)), goal, places=6)

    @QUICK
    @given(st.floats(0, 80), st.floats(1, 19), st.floats(2, 200))
    def test_charging_adds_up(self, start, step, charger):
        whole = CURVE.minutes(start, start + step, charger)
        halves = CURVE.minutes(start, start + step / 2, charger) + CURVE.minutes(
            start + step / 2, start + step, charger
        )
        self.assertAlmostEqual(whole / halves, 1.0, delta=0.02)
        self.assertLessEqual(CURVE.minutes(start, start + step, charger * 2), whole + 1e-9)

    @QUICK
    @given(st.lists(st.tuples(st.floats(0.5, 2), st.floats(1e-4, 0.1)), min_size=1, max_size=12), st.floats(0.1, 10))
    def test_learning_scales_with_its_unit_and_lies_among_its_occasions(self, estimates, factor):
        plain = combined(estimates, 0.1, "runs")
        scaled = combined([(value * factor, variance * factor**2) for value, variance in estimates], 0.1, "runs")
        values = [value for value, _ in estimates]
        self.assertLessEqual(min(values) - 1e-9, plain.value)
        self.assertLessEqual(plain.value, max(values) + 1e-9)
        self.assertAlmostEqual(scaled.value / plain.value, factor, places=6)
        self.assertAlmostEqual(scaled.u95 / plain.u95, factor, places=5)
        self.assertEqual(plain.occasions, len(estimates))

    @QUICK
    @given(st.integers(1, 30), st.floats(0.2, 3), st.floats(0, 0.5), st.floats(1, 20))
    def test_no_scheduled_run_begins_below_the_window(self, runs, cost, u95, room):
        charge, dear = 95.0, cost + u95
        stops = {
            each.after_run: each for each in top_ups(runs, charge, 95 - room, 95, Learned(cost, u95, 0, 3, "runs"))
        }
        for run in range(1, runs + 1):
            if run - 1 in stops:
                charge = stops[run - 1].to_percent
            self.assertGreaterEqual(charge, 95 - room - 1e-9)
            charge -= dear

    @QUICK
    @given(st.floats(0, 100), st.floats(0, 100), st.floats(0.1, 5), st.floats(0, 2))
    def test_runs_left_are_ordered(self, charge, low, cost, u95):
        left = runs_left(charge, low, Learned(cost, u95, 0, 3, "runs"))
        self.assertLessEqual(left.sure, left.likely)
        self.assertLessEqual(left.likely, left.at_best)
        self.assertEqual(left.likely == 0, charge < low)

    @QUICK
    @given(st.lists(st.lists(st.floats(0, 100), max_size=8), max_size=5))
    def test_any_charges_teach_something_positive(self, days):
        self.assertGreater(learn_charge_per_run(days, 80).value, 0)


class TimetableProperties(unittest.TestCase):
    @settings(max_examples=10, deadline=None)
    @given(st.floats(-10, 30), st.floats(5, 95), st.floats(0, 120), st.floats(0, 14))
    def test_steps_are_in_order_and_numbers_are_numbers(self, outside, charge, drive, hours):
        day = replace(
            DAY, outside_temp_c=outside, charge_percent=charge, drive_min=drive, known_at=FIRST - timedelta(hours=hours)
        )
        made = timetable(day, HEAT, CURVE)
        self.assertEqual([step.at for step in made.steps], sorted(step.at for step in made.steps))
        for ranged in (made.battery_temp_c, made.charge_percent):
            self.assertLessEqual(ranged.low95, ranged.value)
            self.assertLessEqual(ranged.value, ranged.high95)
        self.assertTrue(0 <= made.chance <= 1)
        self.assertEqual(made.met, not made.shortfalls)
        self.assertTrue(made.met or made.chance < 0.5 + 1e-9 or made.remedies is not None)

    @settings(max_examples=10, deadline=None)
    @given(st.floats(5, 60), st.floats(5, 60))
    def test_a_longer_drive_never_arrives_warmer(self, drive, more):
        near, far = (timetable(replace(DAY, drive_min=each), HEAT, CURVE) for each in (drive, drive + more))
        self.assertGreaterEqual(near.battery_temp_c.value + 0.2, far.battery_temp_c.value)
        self.assertGreaterEqual(near.open_min.value + 1.0, far.open_min.value)

    @settings(max_examples=10, deadline=None)
    @given(st.floats(-5, 25))
    def test_shifting_the_whole_day_shifts_every_step(self, outside):
        day = replace(DAY, outside_temp_c=outside)
        shift = timedelta(hours=5)
        moved = replace(day, first_run_at=day.first_run_at + shift, known_at=day.known_at + shift)
        plain, later = timetable(day, HEAT, CURVE), timetable(moved, HEAT, CURVE)
        self.assertEqual([step.at + shift for step in plain.steps], [step.at for step in later.steps])
        self.assertEqual(plain.chance, later.chance)


class WheelProperties(unittest.TestCase):
    @QUICK
    @given(st.floats(10, 40), st.floats(10, 40), st.floats(900, 3000))
    def test_a_change_and_its_undoing_cancel(self, before, after, car):
        there, back = wheel_change(before, after, car), wheel_change(after, before, car)
        self.assertAlmostEqual(there.in_motion_kg, -back.in_motion_kg)
        self.assertAlmostEqual(there.share_of_car, there.in_motion_kg / car)
