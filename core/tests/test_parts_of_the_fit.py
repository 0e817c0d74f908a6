"""Parts of the fit by themselves: torque ramps and brake onset, against closed forms and numerical integration."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from scipy import integrate

from coombe_core.fitting.brake_onset import brake_onset
from coombe_core.fitting.fixes import Fixes
from coombe_core.fitting.torque_ramp import SHAPES, Ramp, Ramps, integrals_of_shapes, torque_integrals
from coombe_core.uncertainty import Value

RATE_HZ, NOISE_MPS = 25.0, 0.05
SPEED_MPS, HARD_MPS2, BITE_S = 28.0, 9.5, 0.15


def braking(onset_s: float, seed: int, coasting_mps2: float = 0.3) -> Fixes:
    """Fixes of a car that coasts, then brakes: deceleration grows in a line over the bite."""
    at_s = np.arange(0.0, 3.0, 1 / RATE_HZ)
    since = np.maximum(at_s - onset_s, 0.0)
    lost = np.where(since < BITE_S, since**2 / (2 * BITE_S), since - BITE_S / 2)
    true = SPEED_MPS - coasting_mps2 * at_s - HARD_MPS2 * lost
    noisy = true + np.random.default_rng(seed).normal(0.0, NOISE_MPS, at_s.size)
    return Fixes(at_s, noisy, np.ones_like(at_s), 1 / RATE_HZ)


class TorqueRampTest(TestCase):
    TIMES_S = np.linspace(0.0, 0.6, 13)

    def test_each_integral_is_that_of_the_one_before_it(self):
        """By adaptive quadrature (scipy.integrate.quad)."""
        for shape in SHAPES:
            for order in (1, 2, 3):

                def before(at_s: float, shape=shape, order=order) -> float:
                    return float(torque_integrals(shape, 3, np.array([at_s]), np.array([0.2]))[order - 1][0])

                found = torque_integrals(shape, 3, self.TIMES_S, np.array([0.2]))[order]
                for at_s, value in zip(self.TIMES_S, found, strict=True):
                    self.assertAlmostEqual(value, integrate.quad(before, 0.0, at_s, points=[min(at_s, 0.2)])[0], 8)

    def test_torque_is_none_before_the_launch_and_full_after_the_ramp(self):
        for shape in SHAPES:
            share = torque_integrals(shape, 0, np.array([-0.1, 0.0, 0.2, 1.0]), np.array([0.2]))[0]
            self.assertEqual(list(share[:2]), [0.0, 0.0], shape)
            self.assertAlmostEqual(share[2], 1.0, delta=0.051)  # a first-order ramp is at 95 % by its end
            self.assertAlmostEqual(share[3], 1.0, 5)

    def test_a_linear_ramp_costs_half_its_duration_of_speed(self):
        speed = torque_integrals("linear", 1, np.array([0.5]), np.array([0.2]))[1][0]
        self.assertAlmostEqual(speed, 0.5 - 0.2 / 2, 12)

    def test_all_shapes_at_once_are_each_by_itself(self):
        ramps = Ramps.of(Ramp(0.1), Ramp(0.2))
        together = integrals_of_shapes(2, np.tile(self.TIMES_S, (2 * len(SHAPES), 1)), ramps)
        for number, shape in enumerate(SHAPES):
            for place in range(2):
                duration_s = ramps.durations_s[[place]]
                alone = torque_integrals(shape, 2, self.TIMES_S, duration_s)
                for order in range(3):
                    np.testing.assert_allclose(together[order][2 * number + place], alone[order], atol=1e-12)

    def test_a_ramp_that_begins_with_a_share_has_that_share_at_once_and_the_rest_by_its_shape(self):
        begun = integrals_of_shapes(2, np.tile(self.TIMES_S, (len(SHAPES), 1)), Ramps.of(Ramp(0.2, begun=0.75)))
        for number, shape in enumerate(SHAPES):
            rising = torque_integrals(shape, 2, self.TIMES_S, np.array([0.2]))
            at_once = [self.TIMES_S > 0, np.maximum(self.TIMES_S, 0), np.maximum(self.TIMES_S, 0) ** 2 / 2]
            for order in range(3):
                expected = 0.75 * at_once[order] + 0.25 * rising[order]
                np.testing.assert_allclose(begun[order][number], expected, atol=1e-12)

    def test_what_is_usual_weighs_beforehand_whatever_the_shape(self):
        prior = Ramps.of(Ramp(0.1), Ramp(0.5, usual=0.25)).prior
        np.testing.assert_allclose(prior, np.array([4, 1] * len(SHAPES)) / (5 * len(SHAPES)))


class BrakeOnsetTest(TestCase):
    def test_onsets_are_within_what_is_stated_and_not_to_one_side(self):
        errors, halves = [], []
        for seed in range(40):
            onset_s = 1.4 + 0.01 * (seed % 7)
            found = brake_onset(braking(onset_s, seed), onset_s + 0.08, NOISE_MPS, 0.0).instant_s
            errors.append(found.value - onset_s)
            halves.append(found.u95)
        held = np.mean(np.abs(errors) <= halves)
        self.assertGreaterEqual(held, 0.9)
        self.assertLess(abs(np.mean(errors)), 0.01)
        self.assertLess(np.mean(halves), 0.06)

    def test_the_pedal_makes_it_surer(self):
        found = brake_onset(braking(1.4, 3), 1.45, NOISE_MPS, 0.0)
        sure = found.at_pedal(Value(1.4, 0.02))
        self.assertLess(sure.instant_s.u95, found.instant_s.u95)
        self.assertAlmostEqual(sure.instant_s.value, 1.4, delta=0.02)

    def test_distance_goes_with_the_square_of_speed(self):
        """Common practice (SAE J299 and others): s_corrected = s (v_nominal / v_initial)^2."""
        found = brake_onset(braking(1.4, 3), 1.45, NOISE_MPS, 0.0).at_pedal(Value(1.4, 0.001))
        speed = found.speed_mps.value
        corrected = found.corrected_distance_m(Value(40.0, 0.1), 0.9 * speed)
        self.assertAlmostEqual(corrected.value, 40.0 * 0.81, delta=0.15)

    def test_few_fixes_leave_it_open_within_the_step(self):
        sparse = braking(1.4, 3)
        at = np.arange(0, sparse.time_s.size, 25)
        few = Fixes(sparse.time_s[at], sparse.speed_mps[at], np.ones(at.size), 1.0)
        self.assertGreater(brake_onset(few, 1.2, NOISE_MPS, 0.0).instant_s.u95, 0.5)
