"""Where each clock starts, on a motion that is known in closed form: constant acceleration."""

from math import sqrt
from unittest import TestCase

import numpy as np

from coombe_core.curve import Curve
from coombe_core.interpolation import crossing
from coombe_core.timing.clocks import CLOCKS, ROLLOUT_M, zero_s

ACCELERATION_MPS2 = 4.0
SINCE_S = np.linspace(0.0, 5.0, 50_001)
CURVE = Curve(
    SINCE_S, ACCELERATION_MPS2 * SINCE_S, ACCELERATION_MPS2 / 2 * SINCE_S**2, np.full(SINCE_S.size, ACCELERATION_MPS2)
)


class ZeroTest(TestCase):
    """v = a t and s = a t²/2."""

    def test_first_movement_is_the_curve_s_own_zero(self):
        self.assertEqual(zero_s(CURVE, "first_movement"), 0.0)

    def test_rollout_is_one_foot_on(self):
        self.assertEqual(ROLLOUT_M, 0.3048)  # the international foot of 1959
        self.assertAlmostEqual(zero_s(CURVE, "rollout"), sqrt(2 * 0.3048 / ACCELERATION_MPS2), 7)

    def test_a_speed_is_passed_at_speed_over_acceleration(self):
        self.assertAlmostEqual(zero_s(CURVE, "speed", 10.0), 10.0 / ACCELERATION_MPS2, 9)
        self.assertEqual(zero_s(CURVE, "speed"), 0.0)

    def test_only_the_clock_of_a_speed_asks_where_the_measure_begins(self):
        self.assertEqual(zero_s(CURVE, "first_movement", 10.0), 0.0)
        self.assertEqual(zero_s(CURVE, "rollout", 10.0), zero_s(CURVE, "rollout"))

    def test_what_the_curve_does_not_pass_has_no_zero(self):
        self.assertIsNone(zero_s(CURVE, "speed", 20.5))
        short = Curve(*(getattr(CURVE, name)[:1000] for name in vars(CURVE)))
        self.assertIsNone(zero_s(short, "rollout"))

    def test_there_are_three(self):
        self.assertEqual(CLOCKS, ("first_movement", "rollout", "speed"))


class CrossingTest(TestCase):
    def test_it_is_the_first_rise_that_counts(self):
        self.assertEqual(crossing(1.0, [0.0, 2.0, 0.0, 2.0], [0.0, 1.0, 2.0, 3.0]), 0.5)

    def test_a_sample_at_the_level_is_the_place(self):
        self.assertEqual(crossing(2.0, [0.0, 2.0, 4.0], [0.0, 1.0, 2.0]), 1.0)
        self.assertEqual(crossing(0.0, [0.0, 2.0, 4.0], [7.0, 8.0, 9.0]), 7.0)

    def test_a_level_below_the_first_sample_was_passed_before(self):
        self.assertIsNone(crossing(1.0, [1.5, 2.0], [0.0, 1.0]))

    def test_rounding_at_the_end_is_forgiven_and_more_is_not(self):
        self.assertEqual(crossing(2.0, [0.0, 2.0 * (1 - 1e-12)], [0.0, 1.0]), 1.0)
        self.assertIsNone(crossing(2.0, [0.0, 2.0 * (1 - 1e-6)], [0.0, 1.0]))
