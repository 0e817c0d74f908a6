"""What noise, time and place do to a result."""

from dataclasses import replace
from datetime import timedelta
from unittest import TestCase

import numpy as np
from drives import one_run, simulated
from hypothesis import given, settings
from hypothesis import strategies as st

from coombe_core.analysis import Request, analyse_log, time_runs
from coombe_core.formats import write_log
from coombe_core.simulating.car import SimulatedCar
from coombe_core.timing.measures import parse_measure

REQUEST = Request([parse_measure("60-90 mph")])


class NoiseTest(TestCase):
    def half_widths(self, noise_mps: float, seeds: range) -> np.ndarray:
        """u95 of 60-90 mph, of 0-60 mph on rollout and from first movement, a row a seed."""
        wanted = (("60-90 mph", "speed"), ("0-60 mph", "rollout"), ("0-60 mph", "first_movement"))
        runs = [time_runs(one_run(seed, SimulatedCar(), speed_noise_mps=noise_mps).trace, REQUEST)[0] for seed in seeds]
        return np.array([[run.measured(*each).time_s.u95 for each in wanted] for run in runs])

    def test_twice_the_noise_doubles_the_interval_of_a_speed_crossing(self):
        # The smoothing grows with the noise, so a little less than twice is what an honest fit gives on average.
        once, twice = (self.half_widths(noise, range(9000, 9024)) for noise in (0.05, 0.1))
        ratio = np.median(twice[:, 0]) / np.median(once[:, 0])
        self.assertAlmostEqual(ratio, 2.0, delta=0.3)

    def test_more_noise_never_makes_first_movement_surer(self):
        once, twice = (self.half_widths(noise, range(9100, 9112)) for noise in (0.05, 0.1))
        self.assertTrue((twice[:, 2] >= 0.95 * once[:, 2]).all(), twice[:, 2] / once[:, 2])
        self.assertGreater(np.median(twice[:, 2]), np.median(once[:, 2]))


class InvarianceTest(TestCase):
    @settings(max_examples=12, deadline=None)
    @given(st.floats(-80, 80), st.floats(-179, 178), st.integers(-100_000, 100_000))
    def test_shifting_time_and_place_changes_nothing(self, latitude_deg, longitude_deg, hours):
        trace = simulated("clean-run").trace
        north, east = latitude_deg - trace.latitude_deg[0], longitude_deg - trace.longitude_deg[0]
        moved = replace(
            trace,
            start_utc=trace.start_utc + timedelta(hours=hours / 10),
            latitude_deg=trace.latitude_deg + north,
            longitude_deg=trace.longitude_deg + east,
        )
        here, there = (analyse_log(write_log(each, "nmea")).runs for each in (trace, moved))
        self.assertEqual([run.kind for run in here], [run.kind for run in there])
        for ours, theirs in zip(here, there, strict=True):
            self.assertAlmostEqual(theirs.start_s, ours.start_s, 3)
            self.assertEqual(len(ours.measures), len(theirs.measures))
            for one, other in zip(ours.measures, theirs.measures, strict=True):
                if one.time_s:
                    self.assertAlmostEqual(one.time_s.value, other.time_s.value, 3, one.name)
