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


def half_widths(noise_mps: float, seeds: range) -> np.ndarray:
    """u95 of 60-90 mph and of 0-60 mph from first movement, a row a seed."""
    wanted = (("60-90 mph", "speed"), ("0-60 mph", "first_movement"))
    runs = [time_runs(one_run(seed, SimulatedCar(), speed_noise_mps=noise_mps).trace, REQUEST)[0] for seed in seeds]
    return np.array([[run.measured(*each).time_s.u95 for each in wanted] for run in runs])


class NoiseTest(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.once, cls.twice = (half_widths(noise, range(9000, 9016)) for noise in (0.05, 0.1))

    def test_twice_the_noise_doubles_the_interval_of_a_speed_crossing(self):
        # The smoothing grows with the noise: a cubic one errs as its 8/9th power, 1.85 times at twice (from memory).
        ratio = np.median(self.twice[:, 0] / self.once[:, 0])
        self.assertTrue(1.6 < ratio < 2.1, ratio)

    def test_more_noise_never_makes_first_movement_surer(self):
        ratios = self.twice[:, 1] / self.once[:, 1]
        self.assertTrue((ratios >= 0.95).all(), ratios)
        self.assertGreater(np.median(ratios), 1.0)


class InvarianceTest(TestCase):
    @settings(max_examples=6, deadline=None)
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
