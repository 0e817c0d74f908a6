"""The spline and the fit: integrals, roughness, and behavior at other rates."""

from unittest import TestCase

import numpy as np
from drives import analysed, one_run, simulated, true_measures
from scipy.integrate import cumulative_trapezoid

from coombe_core.analysis import Request, time_runs
from coombe_core.simulating.car import SimulatedCar
from coombe_core.timing.launch import SHAPES, torque_share
from coombe_core.timing.speed_fit import SpeedFit, TooFewFixesError
from coombe_core.timing.spline import Spline


class SplineTest(TestCase):
    def setUp(self):
        self.spline = Spline(0.0, 6.0, 0.2, free_around_s=4.0)
        self.at_s = np.linspace(0.0, 6.0, 6001)

    def test_basis_functions_add_up_to_one(self):
        np.testing.assert_allclose(self.spline.values(self.at_s).sum(axis=1), 1.0, atol=1e-12)

    def test_integrals_are_those_of_the_values(self):
        values, first, second = self.spline.integrals(self.at_s)
        once = cumulative_trapezoid(values, self.at_s, axis=0, initial=0)
        np.testing.assert_allclose(first, once, atol=1e-5)
        np.testing.assert_allclose(second, cumulative_trapezoid(once, self.at_s, axis=0, initial=0), atol=1e-5)

    def test_a_straight_line_costs_nothing_and_a_bend_costs_less_where_it_is_free(self):
        penalty = self.spline.penalty()
        line, *_ = np.linalg.lstsq(self.spline.values(self.at_s), 2.0 + 3.0 * self.at_s, rcond=None)
        self.assertAlmostEqual(float(line @ penalty @ line), 0.0, 6)
        costs = []
        for bend_s in (2.0, 4.0):
            kink = np.maximum(self.at_s - bend_s, 0.0)
            coefficients, *_ = np.linalg.lstsq(self.spline.values(self.at_s), kink, rcond=None)
            costs.append(float(coefficients @ penalty @ coefficients))
        self.assertLess(costs[1], 0.2 * costs[0])


class RampTest(TestCase):
    def test_every_ramp_is_off_before_and_full_after(self):
        for shape in SHAPES:
            share = torque_share(shape, np.array([-1.0, 0.0, 0.2, 5.0]), 0.2)
            self.assertEqual(share[:2].tolist(), [0.0, 0.0])
            self.assertGreaterEqual(share[2], 0.95)
            self.assertAlmostEqual(share[3], 1.0)


class FitTest(TestCase):
    def test_the_noise_is_found_in_the_fixes_in_motion(self):
        noises = [time_runs(one_run(60 + seed, SimulatedCar()).trace, Request())[0].noise_mps for seed in range(6)]
        self.assertAlmostEqual(float(np.mean(noises)), 0.05, delta=0.008)

    def test_a_curve_s_distance_is_the_integral_of_its_speed(self):
        curve = analysed("clean-run").runs[0].curve
        way = cumulative_trapezoid(curve.speed_mps, curve.since_s, initial=0)
        np.testing.assert_allclose(curve.distance_m, way, atol=0.05)

    def test_slower_receivers_give_wider_intervals_that_still_hold(self):
        widths = []
        for rate_hz in (25.0, 10.0, 5.0):
            made = one_run(77, SimulatedCar(), rate_hz=rate_hz)
            row = time_runs(made.trace, Request())[0].measured("0-60 mph", "rollout")
            miss = row.time_s.value - true_measures(made)[("0-60 mph", "rollout")]["time_s"]
            self.assertLess(abs(miss), 1.6 * row.time_s.u95, rate_hz)
            widths.append(row.time_s.u95)
        self.assertLess(widths[0], widths[1])
        self.assertLess(widths[1], widths[2])

    def test_too_few_fixes_in_motion_are_refused(self):
        with self.assertRaises(TooFewFixesError):
            SpeedFit(np.arange(20) / 25, np.zeros(20), 0.5)

    def test_a_run_uses_only_fixes_near_it(self):
        # What happens 5 s before the start or 2 s after the end changes nothing.
        trace = simulated("five-runs").trace
        run = time_runs(trace, Request())[2]
        alone = trace.between(run.start_s - 5.0, run.end_s + 2.0)
        again = time_runs(alone, Request())[0]
        self.assertEqual([row.name for row in again.measures], [row.name for row in run.measures])
        for ours, theirs in zip(again.measures, run.measures, strict=True):
            self.assertAlmostEqual(ours.time_s.value, theirs.time_s.value, 6)
            self.assertAlmostEqual(ours.time_s.u95, theirs.time_s.u95, 6)
