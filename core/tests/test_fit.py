"""The spline and the fit: integrals, roughness, and behavior at other rates."""

from itertools import pairwise
from unittest import TestCase

import numpy as np
from drives import analysed, one_run, simulated, true_measures
from scipy.integrate import cumulative_trapezoid
from scipy.interpolate import BSpline

from coombe_core.analysis import Request, time_runs
from coombe_core.simulating.car import SimulatedCar
from coombe_core.timing.fixes import Fixes
from coombe_core.timing.ramp import LAUNCH_RAMPS_S, SHAPES, torque_integrals
from coombe_core.timing.speed_fit import SpeedFit, TooFewFixesError
from coombe_core.timing.spline import Spline


class SplineTest(TestCase):
    def setUp(self):
        self.spline = Spline(np.concatenate([[0.0], np.arange(1.3, 6.1, 0.2)]))
        self.at_s = np.linspace(0.0, 6.0, 6001)
        self.values, self.first, self.second = self.spline.rows(self.at_s)

    def fitted(self, curve: np.ndarray) -> np.ndarray:
        coefficients, *_ = np.linalg.lstsq(self.values, curve, rcond=None)
        return coefficients

    def test_basis_functions_are_those_of_scipy(self):
        inner = self.spline.inner_s
        ends = [inner[0] - 1.3 * np.arange(3, 0, -1), inner, inner[-1] + 0.2 * np.arange(1, 4)]
        theirs = BSpline(np.concatenate(ends), np.eye(self.spline.size), 3)
        np.testing.assert_allclose(self.values, theirs(self.at_s), atol=1e-9)
        np.testing.assert_allclose(self.values.sum(axis=1), 1.0, atol=1e-9)

    def test_integrals_are_those_of_the_values(self):
        once = cumulative_trapezoid(self.values, self.at_s, axis=0, initial=0)
        np.testing.assert_allclose(self.first, once, atol=1e-5)
        np.testing.assert_allclose(self.second, cumulative_trapezoid(once, self.at_s, axis=0, initial=0), atol=1e-5)

    def test_the_first_stretch_is_one_cubic(self):
        early = np.linspace(0.0, 1.29, 50)
        taylor = early[:, None] ** np.arange(4) / np.array([1, 1, 2, 6])
        np.testing.assert_allclose(self.spline.rows(early)[0], taylor @ self.spline.polynomial(), atol=1e-9)

    def test_a_parabola_costs_nothing_and_a_bend_costs_more_where_the_curve_is_stiff(self):
        stiffness = np.where(self.spline.inner_s[:-1] < 3.0, 1.0, 30.0)
        penalty = self.spline.roughness(stiffness)
        parabola = self.fitted(2.0 + 3.0 * self.at_s - self.at_s**2)
        self.assertAlmostEqual(float(parabola @ penalty @ parabola), 0.0, 6)
        bends = [self.fitted(np.maximum(self.at_s - bend_s, 0.0)) for bend_s in (2.0, 4.0)]
        early, late = (float(bend @ penalty @ bend) for bend in bends)
        self.assertGreater(late, 10 * early)


class RampTest(TestCase):
    def test_every_ramp_is_off_before_and_full_after(self):
        for shape in SHAPES:
            share = torque_integrals(shape, 0, np.array([-1.0, 0.0, 0.2, 5.0]), np.array(0.2))[0]
            self.assertEqual(share[:2].tolist(), [0.0, 0.0])
            self.assertGreaterEqual(share[2], 0.95)
            self.assertAlmostEqual(share[3], 1.0)

    def test_integrals_in_closed_form_are_those_of_the_share(self):
        at_s = np.linspace(-0.1, 1.0, 22_001)
        for shape in SHAPES:
            integrals = torque_integrals(shape, 6, at_s, np.array(0.17))
            for lower, higher in pairwise(integrals):
                np.testing.assert_allclose(higher, cumulative_trapezoid(lower, at_s, initial=0), atol=1e-7)


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
            SpeedFit(Fixes(np.arange(20) / 25, np.zeros(20), np.ones(20), 0.04), [0.5], LAUNCH_RAMPS_S)

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
