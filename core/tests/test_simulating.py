"""The simulated car and receiver against closed forms and geodesy."""

import math
from unittest import TestCase

import numpy as np
from drives import simulated
from geographiclib.geodesic import Geodesic

from coombe_core.fitting.torque_ramp import SHAPES, torque_integrals
from coombe_core.simulating.car import Conditions, SimulatedCar, full_drive_mps2, ramp_share
from coombe_core.simulating.drive import Act, drive
from coombe_core.simulating.receiver import Receiver, receive

FREE = SimulatedCar(cda_m2=0.0, rolling_coefficient=0.0, taper_per_mps=0.0, ramp_s=0.001, ramp_shape="linear")


class CarTest(TestCase):
    def test_grip_limited_car_follows_constant_acceleration(self):
        motion = drive(FREE, Conditions(), [Act("launch", seconds=0.8)])
        a = FREE.grip * 9.80665 / FREE.rotating_mass_factor
        self.assertAlmostEqual(motion.speed_mps[-1], a * motion.elapsed_s[-1], delta=0.02)
        self.assertAlmostEqual(motion.distance_m[-1], a * motion.elapsed_s[-1] ** 2 / 2, delta=0.02)

    def test_power_limited_car_gains_energy_at_its_power(self):
        motion = drive(FREE, Conditions(), [Act("launch", seconds=8)])
        at = [int(np.searchsorted(motion.elapsed_s, t)) for t in (4.0, 7.0)]
        mass = FREE.mass_kg * FREE.rotating_mass_factor
        gained = mass * (motion.speed_mps[at[1]] ** 2 - motion.speed_mps[at[0]] ** 2) / 2
        self.assertAlmostEqual(gained / (FREE.power_w * 3.0), 1.0, delta=0.003)

    def test_less_charge_and_a_cold_battery_take_power(self):
        speed = 30.0
        full, low, cold = (
            full_drive_mps2(FREE, each, speed) for each in (Conditions(), Conditions(70), Conditions(95, 20))
        )
        self.assertLess(low, full)
        self.assertLess(cold, full)

    def test_a_slope_pulls_with_g_sine(self):
        up, level = (drive(FREE, Conditions(slope_percent=s), [Act("launch", seconds=0.8)]) for s in (5.0, 0.0))
        lost = (level.speed_mps[-1] - up.speed_mps[-1]) / 0.8
        self.assertAlmostEqual(lost, 9.80665 * math.sin(math.atan(0.05)) / FREE.rotating_mass_factor, delta=0.03)

    def test_the_ramp_that_is_driven_is_the_ramp_that_is_fitted(self):
        since_s = np.linspace(-0.1, 0.6, 57)
        for shape in SHAPES:
            driven = [ramp_share(shape, float(at_s), 0.2) for at_s in since_s]
            np.testing.assert_allclose(driven, torque_integrals(shape, 0, since_s, np.array(0.2))[0], atol=1e-12)


class ReceiverTest(TestCase):
    def test_positions_are_as_far_apart_as_the_car_drove(self):
        # Geodesic length on WGS 84 by geographiclib.
        made = simulated("clean-run")
        trace, motion = made.trace, made.motion
        line = Geodesic.WGS84.Inverse(
            trace.latitude_deg[0], trace.longitude_deg[0], trace.latitude_deg[-1], trace.longitude_deg[-1]
        )
        self.assertAlmostEqual(line["s12"], motion.distance_m[-1], delta=3.0)

    def test_noise_is_what_was_asked_for(self):
        motion = drive(SimulatedCar(), Conditions(), [Act("gentle", to_mps=20), Act("hold", 400)])
        trace = receive(motion, Receiver(), 5)
        noise = trace.speed_mps[500:] - 20.0
        self.assertAlmostEqual(float(noise.std()), 0.05, delta=0.003)
        self.assertAlmostEqual(float(np.corrcoef(noise[1:], noise[:-1])[0, 1]), 0.3, delta=0.04)
