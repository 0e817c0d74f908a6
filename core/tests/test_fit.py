"""The spline and the fit: integrals, roughness, and behavior at other rates."""

from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

import numpy as np
from drives import analyzed, one_run, simulated, true_measures
from scipy.integrate import cumulative_trapezoid
from scipy.interpolate import BSpline

from coombe_core.analysis import Request, time_runs
from coombe_core.fitting.fixes import Fixes
from coombe_core.fitting.motion import Drive, Motion, fit_motion
from coombe_core.fitting.speed_fit import SpeedFit, TooFewFixesError
from coombe_core.fitting.spline import Spline
from coombe_core.fitting.steps import Changes, Step
from coombe_core.fitting.torque_ramp import LAUNCH_RAMPS, SHAPES, torque_integrals
from coombe_core.simulating.car import SimulatedCar
from coombe_core.uncertainty import Value


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

    def test_derivatives_at_the_nodes_are_those_of_scipy(self):
        inner, nodes = self.spline.inner_s, self.spline.nodes()
        ends = [inner[0] - 1.3 * np.arange(3, 0, -1), inner, inner[-1] + 0.2 * np.arange(1, 4)]
        theirs = BSpline(np.concatenate(ends), np.eye(self.spline.size), 3)
        for number, ours in enumerate((nodes.basis, nodes.first, nodes.second)):
            np.testing.assert_allclose(ours, theirs(nodes.at_s, number), atol=1e-7)

    def test_integrals_over_the_nodes_are_exact_for_a_polynomial_of_degree_five(self):
        nodes = self.spline.nodes()
        self.assertAlmostEqual(float(nodes.width_s @ nodes.at_s**5), self.spline.inner_s[-1] ** 6 / 6, 6)


class MotionTest(TestCase):
    """What smoothing does to a car at the limit of grip, then of power: exact physics, no noise."""

    def fitted(self, power_w_kg: float, grip_mps2: float, noise_mps: float = 0.0) -> Motion:
        at_s = np.arange(0.04, 9.0, 0.04)
        knee_s = power_w_kg / grip_mps2**2
        speed_mps = np.where(
            at_s < knee_s,
            grip_mps2 * at_s,
            np.sqrt((grip_mps2 * knee_s) ** 2 + 2 * power_w_kg * np.maximum(at_s - knee_s, 0.0)),
        )
        noise = noise_mps * np.random.default_rng(3).standard_normal(at_s.size)
        fixes = Fixes(at_s, speed_mps + noise, np.ones(at_s.size), 0.04)
        knots = np.concatenate([[0.0], np.arange(0.7, 2.5, 0.25), 2.5 * 1.1 ** np.arange(15)])
        return fit_motion(fixes, Spline(knots), (), 0.0, Drive(True, 0.0, 4.0))

    def test_steady_power_is_not_smoothed_away(self):
        motion = self.fitted(160.0, 8.0)
        solution, _ = motion.solved()
        late = np.arange(4.0, 8.5, 0.5)
        truth = np.sqrt(20.0**2 + 2 * 160.0 * (late - 2.5))
        np.testing.assert_allclose(motion.rows(late)[1] @ solution, truth, atol=0.005)

    def test_the_acceleration_just_before_the_end_is_that_of_the_power(self):
        motion = self.fitted(160.0, 8.0, noise_mps=0.05)
        solution, _ = motion.solved()
        at_end = float((motion.rows(np.array([8.8]))[0] @ solution)[0])
        self.assertAlmostEqual(at_end, 160.0 / np.sqrt(400.0 + 320.0 * 6.3), delta=0.06)

    def test_what_the_last_digit_of_the_speeds_changes_is_as_small(self):
        # Another processor's rounding must not choose another smoothing.
        trace = one_run(52, SimulatedCar()).trace
        for_each = [replace(trace, speed_mps=trace.speed_mps * (1.0 + by)) for by in (0.0, 1e-15, -1e-14, 1e-13)]
        noises = [run.noise_mps for each in for_each for run in time_runs(each, Request()) if run.kind == "stop"]
        self.assertEqual(len(noises), len(for_each))
        self.assertLess(float(np.ptp(noises)), 1e-7 * noises[0])

    def test_noise_and_correlation_are_found_whatever_the_rate(self):
        for rate_hz in (25.0, 100.0):
            runs = [time_runs(one_run(40 + n, SimulatedCar(), rate_hz=rate_hz).trace, Request())[0] for n in range(4)]
            self.assertAlmostEqual(float(np.mean([run.noise_mps for run in runs])), 0.05, delta=0.012)


class StepsTest(TestCase):
    def test_rows_are_the_derivatives_of_what_a_step_makes(self):
        at_s, by = np.linspace(0.0, 3.0, 31) + 0.005, 1e-6
        steps = [Step(1.0, 1.0, 0.2, -8.0), Step(2.0, 2.1, 0.1, 3.0)]

        def made(number: int, **changed: float) -> np.ndarray:
            step = replace(steps[number], **changed)
            return Changes.of([step]).rows(at_s)[..., 0] * step.size_mps2

        rows = Changes.of(steps).rows(at_s)
        for number, step in enumerate(steps):
            for column, name in enumerate(("size_mps2", "instant_s", "fade_s")):
                moved = (made(number, **{name: getattr(step, name) + by}) - made(number)) / by
                np.testing.assert_allclose(rows[..., 3 * number + column], moved, rtol=1e-4, atol=1e-4)
        np.testing.assert_allclose(Changes.of(steps).speeds(at_s), rows[1])

    def test_there_may_be_no_step_and_no_time(self):
        step, none = Step(1.0, 1.0, 0.2, -8.0), np.array([])
        self.assertEqual(Changes.of([step]).rows(none).shape, (3, 0, 3))
        self.assertEqual(Changes.of([]).rows(none).shape, (3, 0, 0))
        self.assertEqual(Changes.of([]).speeds(np.ones(4)).shape, (4, 0))


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
        curve = analyzed("clean-run").runs[0].curve
        way = cumulative_trapezoid(curve.speed_mps, curve.since_s, initial=0)
        np.testing.assert_allclose(curve.distance_m, way, atol=0.05)

    def test_slower_receivers_give_wider_intervals_that_still_hold(self):
        widths = []
        for rate_hz in (25.0, 10.0, 5.0):
            stated = []
            for seed in (77, 78, 79):
                made = one_run(seed, SimulatedCar(), rate_hz=rate_hz)
                unsmoothed = Request(smoothing_s=Value(0.0, 0.0))
                row = time_runs(made.trace, unsmoothed)[0].measured("0-60 mph", "rollout")
                miss = row.time_s.value - true_measures(made)[("0-60 mph", "rollout")]["time_s"]
                self.assertLess(abs(miss), 1.6 * row.time_s.u95, rate_hz)
                stated.append(row.time_s.u95)
            widths.append(float(np.mean(stated)))
        self.assertLess(widths[0], widths[1])
        self.assertLess(widths[1], widths[2])

    def test_too_few_fixes_in_motion_are_refused(self):
        with self.assertRaises(TooFewFixesError):
            SpeedFit(Fixes(np.arange(20) / 25, np.zeros(20), np.ones(20), 0.04), [0.5], LAUNCH_RAMPS)

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
