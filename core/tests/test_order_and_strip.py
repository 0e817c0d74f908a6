"""Run orders and what they confound; strips and stopping distances; wheels."""

from __future__ import annotations

import unittest

import numpy as np

from coombe_core.physics.road_load import RoadLoad
from coombe_core.physics.wheels import DISK_SHARE, HOOP_SHARE, in_motion_kg, wheel_change
from coombe_core.planning.friction import friction, stopping_distance_m
from coombe_core.planning.order import (
    ORDERS,
    charge_ladder,
    confounded,
    duration_min,
    roll_on_set,
    run_order,
    split_by_days,
    stop_series,
    with_lanes,
)
from coombe_core.planning.strip import (
    LEAST_MARGIN_M,
    REACTION_S,
    Reach,
    check_strip,
    check_strip_to_distance,
    reach_from_power,
    reach_from_runs,
)
from coombe_core.units import KMH_MPS, MPH_MPS
from coombe_core.wording.strip import friction_source
from coombe_core.wording.wheels import wheels_sentence

LOAD = RoadLoad(1900, 0.56, 0.010, 1.04)


def groups(planned) -> str:
    return "".join(step.group for step in planned)


class OrderTest(unittest.TestCase):
    def test_every_order_gives_every_group_its_runs(self):
        for order in ORDERS:
            planned = run_order("AB", 4, order, both_directions=True, seed=3)
            self.assertEqual(sorted(groups(planned)), list("AAAABBBB"))
            self.assertEqual([step.direction for step in planned], ["out", "back"] * 4)

    def test_named_orders_are_what_their_names_say(self):
        self.assertEqual(groups(run_order("AB", 4, "ABBA")), "ABBAABBA")
        self.assertEqual(groups(run_order("AB", 3, "alternating")), "ABABAB")
        self.assertEqual(groups(run_order("AB", 3, "blocked")), "AAABBB")
        self.assertEqual(groups(run_order("ABC", 2, "ABBA")), "ABCCBA")

    def test_a_randomized_order_is_balanced_in_blocks_and_kept_by_its_seed(self):
        planned = run_order("ABC", 6, "randomized", seed=5)
        for block in range(6):
            self.assertEqual(sorted(groups(planned[3 * block : 3 * block + 3])), list("ABC"))
        self.assertEqual(planned, run_order("ABC", 6, "randomized", seed=5))
        self.assertNotEqual(groups(planned), groups(run_order("ABC", 6, "randomized", seed=6)))

    def test_a_blocked_order_rides_on_the_day_and_abba_does_not(self):
        report = confounded(run_order("AB", 4, "blocked"))
        self.assertEqual([(each.what, each.avoided_by) for each in report], [("time of day", "ABBA")])
        self.assertEqual(confounded(run_order("AB", 4, "ABBA")), [])
        self.assertIsNone(confounded(run_order("AB", 4, "blocked"), can_alternate=False)[0].avoided_by)

    def test_a_linear_drift_falls_out_of_abba(self):
        planned = run_order("AB", 6, "ABBA")
        drift = np.arange(len(planned)) * 0.01
        means = {group: drift[[step.group == group for step in planned]].mean() for group in "AB"}
        self.assertAlmostEqual(means["A"], means["B"])

    def test_single_runs_there_and_back_confound_the_direction(self):
        planned = run_order("AB", 4, "alternating")
        alternating = [
            step.__class__(step.group, direction="out" if i % 2 == 0 else "back") for i, step in enumerate(planned)
        ]
        self.assertEqual([each.what for each in confounded(alternating)], ["direction"])

    def test_lanes_are_swapped_after_every_pass(self):
        planned = with_lanes(run_order("AB", 4, "alternating"))
        self.assertEqual([s.lane for s in planned if s.group == "A"], ["left", "right"] * 2)
        self.assertEqual([s.lane for s in planned if s.group == "B"], ["right", "left"] * 2)
        self.assertEqual(confounded(planned), [])

    def test_a_sweep_goes_down_rung_by_rung(self):
        ladder = charge_ladder("A", 90, 10, 20, 2)
        self.assertEqual([step.charge_percent for step in ladder], [90, 90, 70, 70, 50, 50, 30, 30, 10, 10])
        with self.assertRaisesRegex(ValueError, "goes down"):
            charge_ladder("A", 10, 90, 20, 2)

    def test_a_series_of_stops_cools_before_every_one_but_the_first(self):
        series = stop_series("A", 4, 3.0)
        self.assertEqual([step.wait_min for step in series], [0, 3, 3, 3])
        self.assertEqual(duration_min(series, 4.0), 4 * 4 + 9)

    def test_roll_ons_come_a_set_a_speed(self):
        planned = roll_on_set("AB", [13.4, 22.4], 2, "ABBA")
        self.assertEqual([step.from_speed_mps for step in planned], [13.4] * 4 + [22.4] * 4)

    def test_a_change_that_cannot_be_undone_has_days_of_its_own(self):
        days = split_by_days(["before", "after"], 2, 5, both_directions=True)
        self.assertEqual([{step.group for step in day} for day in days], [{"before"}] * 2 + [{"after"}] * 2)
        self.assertTrue(all(len(day) == 4 for day in days))

    def test_nothing_to_plan_is_refused(self):
        with self.assertRaisesRegex(ValueError, "one group and one run"):
            run_order([], 3, "ABBA")


class StoppingTest(unittest.TestCase):
    def test_braking_distances_of_road_design(self):
        """AASHTO, A Policy on Geometric Design (from memory): 3.4 m/s², table of braking distance on level."""
        for speed_kmh, theirs_m in ((50, 28.7), (80, 73.4), (100, 114.7), (120, 165.2)):
            ours = stopping_distance_m(speed_kmh * KMH_MPS, 3.4 / 9.80665)
            self.assertAlmostEqual(ours / theirs_m, 1.0, delta=0.012)

    def test_braking_distances_of_the_highway_code(self):
        """The Highway Code (UK), rule 126 (from memory): 24 m from 40 mph, 55 m from 60, 75 m from 70."""
        for speed_mph, theirs_m in ((40, 24), (60, 55), (70, 75)):
            self.assertAlmostEqual(stopping_distance_m(speed_mph * MPH_MPS, 0.67), theirs_m, delta=1.0)

    def test_the_regulations_limit_lies_above_a_dry_stop(self):
        """UN Regulation No. 13-H: 70 m from 100 km/h; a dry strip's friction must do better, a wet one's not."""
        self.assertLess(stopping_distance_m(100 * KMH_MPS, friction("dry asphalt").coefficient), 70)
        self.assertGreater(stopping_distance_m(100 * KMH_MPS, friction("wet asphalt").coefficient), 70)

    def test_downhill_is_longer_and_beyond_holding_endless(self):
        self.assertGreater(stopping_distance_m(30, 0.5, -2), stopping_distance_m(30, 0.5))
        self.assertEqual(stopping_distance_m(30, 0.07, -8), float("inf"))

    def test_moisture_near_freezing_counts_as_ice_and_tires_out_of_season_count_less(self):
        self.assertEqual(friction("damp asphalt", 2.0).coefficient, 0.07)
        self.assertLess(friction("dry asphalt", 3.0, "summer").coefficient, friction("dry asphalt", 15.0).coefficient)
        self.assertIn("winter tires", friction_source(friction("dry asphalt", 25.0, "winter")))
        with self.assertRaises(KeyError):
            friction("sand")


class StripTest(unittest.TestCase):
    def test_a_constant_pull_goes_v_squared_over_2a(self):
        free = RoadLoad(1900, 0.0, 0.0, 1.0)
        reach = reach_from_power(1e9, free, 30.0, launch_g=0.6)
        self.assertAlmostEqual(reach.distance_to(30.0), 30.0**2 / (2 * 0.6 * 9.80665), delta=0.05)

    def test_a_constant_power_goes_m_v_cubed_over_3p(self):
        free = RoadLoad(1900, 0.0, 0.0, 1.0)
        reach = reach_from_power(100_000, free, 40.0, launch_g=100.0)
        self.assertAlmostEqual(reach.distance_to(40.0), 1900 * 40.0**3 / (3 * 80_000), delta=2.0)

    def test_less_power_than_stated_is_counted_so_the_way_is_long_enough(self):
        """Common practice: 3.42 s to 100 km/h takes about 56 m, 6.43 s about 102 m. A cautious plan takes more."""
        for power_w, common_m in ((420_000, 56.0), (172_000, 102.0)):
            way = reach_from_power(power_w, LOAD, 100 * KMH_MPS).distance_to(100 * KMH_MPS)
            self.assertGreater(way, common_m * 0.9)
            self.assertLess(way, common_m * 1.6)

    def test_a_strip_too_short_is_refused_with_the_shortfall_and_what_fits(self):
        reach, grip = reach_from_power(200_000, LOAD, 60.0), friction("dry asphalt")
        check = check_strip(100 * MPH_MPS, 600.0, reach, grip)
        parts = check.pull_m + REACTION_S * 100 * MPH_MPS + check.stopping_m + check.margin_m
        self.assertFalse(check.fits)
        self.assertAlmostEqual(check.shortfall_m, parts - 600.0)
        self.assertTrue(check_strip(check.highest_mps, 600.0, reach, grip).fits)
        self.assertFalse(check_strip(check.highest_mps + 0.2, 600.0, reach, grip).fits)

    def test_a_margin_is_never_below_30_m(self):
        check = check_strip(10.0, 500.0, reach_from_power(200_000, LOAD, 30.0), friction("dry asphalt"))
        self.assertEqual(check.margin_m, LEAST_MARGIN_M)
        self.assertTrue(check.fits)

    def test_wet_and_downhill_need_more(self):
        reach = reach_from_power(200_000, LOAD, 40.0)
        dry = check_strip(30.0, 900.0, reach, friction("dry asphalt"))
        self.assertGreater(check_strip(30.0, 900.0, reach, friction("wet asphalt")).needed_m, dry.needed_m)
        self.assertGreater(check_strip(30.0, 900.0, reach, friction("dry asphalt"), -2.0).needed_m, dry.needed_m)

    def test_own_runs_count_with_the_farthest_of_them_and_their_doubt(self):
        reach = reach_from_runs([(13.4, 20.0, 0.1), (26.8, 60.0, 0.2), (26.8, 64.0, 0.2)], 2)
        self.assertAlmostEqual(reach.distance_to(26.8), 64.2)
        with self.assertRaisesRegex(ValueError, "state its mass and power"):
            check_strip(30.0, 900.0, reach, friction("dry asphalt"))
        self.assertIsNone(reach_from_runs([], 0))

    def test_a_quarter_mile_takes_the_speed_at_its_end(self):
        reach = Reach((0.0, 50.0), (0.0, 500.0), "a straight line")
        self.assertAlmostEqual(check_strip_to_distance(402.336, 900.0, reach, friction("concrete")).target_mps, 40.2336)
        with self.assertRaisesRegex(ValueError, "after 805 m is not known"):
            check_strip_to_distance(804.672, 2000.0, reach, friction("concrete"))


class WheelTest(unittest.TestCase):
    def test_a_rolling_disk_counts_as_one_and_a_half_of_its_mass_and_a_hoop_as_two(self):
        """Any text on rigid bodies: a rolling uniform disk has 3/4 m v², a hoop m v²."""
        self.assertEqual(in_motion_kg(20.0, DISK_SHARE), 30.0)
        self.assertEqual(in_motion_kg(20.0, HOOP_SHARE), 40.0)

    def test_four_wheels_turning_are_about_the_textbooks_four_percent(self):
        """Gillespie, Fundamentals of Vehicle Dynamics (from memory): mass factor 1 + 0.04 + 0.0025 N², N small."""
        turning = 4 * (in_motion_kg(28.0) - 28.0)
        self.assertAlmostEqual(turning / 1900.0, 0.04, delta=0.01)

    def test_a_heavier_wheel_says_how_it_was_counted(self):
        change = wheel_change(24.5, 28.0, 2080.0)
        self.assertAlmostEqual(change.scales_kg, 14.0)
        self.assertAlmostEqual(change.in_motion_kg, 14.0 * 1.68)
        self.assertIn("+23.5 kg (+51.9 lb) in motion", wheels_sentence(change))
