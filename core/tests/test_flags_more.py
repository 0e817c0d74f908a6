"""Flags that need more than a clean trace: each raised by one trace and not by another."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from unittest import TestCase

import numpy as np
from drives import one_run, simulated

from coombe_core.analysis import AnalyzedRun, Request, time_runs
from coombe_core.flags.state import state_flags
from coombe_core.physics.air import Air
from coombe_core.physics.course import SurveyedCourse
from coombe_core.physics.road_load import RoadLoad
from coombe_core.simulating.car import SimulatedCar
from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import Scenario, clean_run, pull, simulate
from coombe_core.timing.corrections import Correction
from coombe_core.timing.measures import parse_measure
from coombe_core.trace import Trace
from coombe_core.uncertainty import Value

CLEAN = simulated("clean-run").trace
LEVEL = SurveyedCourse(Value(0.0, 0.05))
ROLL = [Act("rest", 3), Act("gentle", to_mps=15.0), Act("hold", 4), Act("launch", to_mps=36.0), *pull(36.0)[2:]]


def codes(trace: Trace, request: Request | None = None, kind: str = "standing") -> set[str]:
    """Codes of the flags of the trace's first run of a kind."""
    return {flag.code for flag in run_of(trace, request, kind).flags}


def run_of(trace: Trace, request: Request | None = None, kind: str = "standing") -> AnalyzedRun:
    return next(run for run in time_runs(trace, request or Request(surveyed=LEVEL)) if run.kind == kind)


class FixesTest(TestCase):
    def test_repeated_fixes_are_a_caution(self):
        stale = np.arange(len(CLEAN)) // 2 * 2
        names = ("speed_mps", "latitude_deg", "longitude_deg")
        self.assertIn("duplicate_fixes", codes(replace(CLEAN, **{name: getattr(CLEAN, name)[stale] for name in names})))
        self.assertNotIn("duplicate_fixes", codes(CLEAN))

    def test_uneven_times_are_a_caution_and_a_little_jitter_is_not(self):
        draw = np.random.default_rng(5)
        for share, expected in ((0.45, True), (0.03, False)):
            jittered = replace(CLEAN, elapsed_s=CLEAN.elapsed_s + draw.uniform(-share, share, len(CLEAN)) * 0.04)
            self.assertEqual("rate_uneven" in codes(jittered), expected, share)

    def test_a_differential_fix_that_is_lost_is_a_caution(self):
        lost = np.where((CLEAN.elapsed_s > 8) & (CLEAN.elapsed_s < 9), 1.0, 4.0)
        self.assertIn("differential_lost", codes(replace(CLEAN, fix_quality=lost)))
        self.assertNotIn("differential_lost", codes(replace(CLEAN, fix_quality=np.full(len(CLEAN), 1.0))))

    def test_a_receiver_that_jumps_proposes_to_void(self):
        jump = np.where(CLEAN.elapsed_s > 9, 12.0 / 111_000, 0.0)
        moved = run_of(replace(CLEAN, longitude_deg=CLEAN.longitude_deg + jump / np.cos(np.radians(51))))
        self.assertEqual([flag.severity for flag in moved.flags if flag.code == "receiver_moved"], ["void"])
        self.assertFalse(moved.counts(parse_measure("0-60 mph")))

    def test_speed_from_positions_is_told(self):
        self.assertIn("speed_from_positions", codes(replace(CLEAN, speed_from_positions=True)))

    def test_midnight_during_the_run_is_a_note(self):
        late = datetime(2026, 5, 9, 23, 59, 52, tzinfo=UTC)
        self.assertIn("midnight", codes(replace(CLEAN, start_utc=late)))
        self.assertNotIn("midnight", codes(replace(CLEAN, start_utc=late + timedelta(hours=1))))


class DrivingTest(TestCase):
    def test_a_jump_before_the_launch_is_a_caution(self):
        jump = [Act("rest", 3), Act("launch", seconds=0.6), Act("brake"), Act("rest", 2.0), *clean_run()[1:]]
        self.assertIn("jumped", codes(simulate(Scenario("", jump), 4).trace))
        settled = [Act("rest", 3), Act("launch", seconds=0.6), Act("brake"), Act("rest", 8.0), *clean_run()[1:]]
        self.assertNotIn("jumped", codes(simulate(Scenario("", settled), 4).trace))

    def test_a_roll_on_is_no_standing_start(self):
        trace = simulate(Scenario("", ROLL), 4).trace
        asked = Request([parse_measure("0-60 mph")], LEVEL)
        self.assertIn("rolling", codes(trace, asked, "rolling"))
        self.assertNotIn("rolling", codes(trace, None, "rolling"))

    def test_a_dip_of_early_acceleration_may_be_wheel_spin(self):
        spun = [
            Act("rest", 4),
            Act("launch", seconds=0.7),
            Act("hold", 0.35),
            Act("launch", to_m=420),
            *clean_run()[2:],
        ]
        self.assertIn("wheel_spin", codes(simulate(Scenario("", spun), 6).trace))
        for seed in range(4):
            self.assertNotIn("wheel_spin", codes(one_run(40 + seed, SimulatedCar()).trace))

    def test_a_head_wind_over_five_miles_an_hour_is_a_caution(self):
        for wind_mps, expected in ((3.0, True), (1.0, False)):
            request = Request(surveyed=LEVEL, correction=Correction(air=Air(wind_mps=wind_mps, wind_from_deg=0.0)))
            self.assertEqual("wind_beyond_limit" in codes(CLEAN, request), expected)

    def test_more_grip_than_tires_have_is_implausible(self):
        self.assertIn("implausible", codes(one_run(5, SimulatedCar(grip=2.0, power_w=600e3)).trace))
        self.assertNotIn("implausible", codes(CLEAN))

    def test_more_power_than_stated_is_implausible(self):
        for stated_w, expected in ((120e3, True), (280e3, False)):
            request = Request((), LEVEL, Correction(road_load=RoadLoad(1900.0)), stated_w)
            self.assertEqual("implausible" in codes(CLEAN, request), expected)

    def test_one_fix_a_second_stays_out_of_measures_from_rest(self):
        thin = one_run(21, SimulatedCar(), rate_hz=2.0).trace
        run = run_of(thin)
        self.assertIn("rate_low", {flag.code for flag in run.flags})
        self.assertFalse(run.counts(parse_measure("0-60 mph")))
        self.assertTrue(run.counts(parse_measure("60-90 mph")))


class StateTest(TestCase):
    def test_charge_and_temperature_outside_the_window_are_told(self):
        window = {"charge_window": (85.0, 100.0), "battery_temp_window_c": (35.0, 55.0)}
        found = {flag.code for flag in state_flags(72.0, 30.0, **window)}
        self.assertEqual(found, {"charge_outside_window", "battery_temperature_outside_window"})
        self.assertEqual(state_flags(90.0, 45.0, **window), [])

    def test_a_temperature_in_the_wrong_unit_is_told(self):
        self.assertEqual([flag.code for flag in state_flags(90.0, 113.0)], ["implausible_temperature"])

    def test_a_change_that_nobody_saw_active_is_told(self):
        found = [flag.code for flag in state_flags(90.0, 45.0, change_confirmed=False)]
        self.assertEqual(found, ["setup_not_confirmed"])
