"""The simulated car driven in real time: energy, charge, heat, place and what it did."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.drive import Act
from coombe_core.simulating.live_car import BATTERY_KWH, EFFICIENCY, KWH_J, LiveCar
from coombe_core.units import MPH_MPS

PULL = [Act("rest", 1), Act("launch", to_mps=60 * MPH_MPS)]


class LiveCarTest(TestCase):
    def driven(self, acts: list[Act], seconds: float = 12.0, **conditions: float) -> LiveCar:
        car = LiveCar(SimulatedCar(), Conditions(**conditions), heading_deg=90.0)
        car.order(acts, "launch")
        car.advance(seconds)
        return car

    def test_it_rests_until_it_is_ordered_and_comes_back_to_rest(self):
        car = self.driven([])
        self.assertTrue(car.idle)
        self.assertEqual((car.state.speed_mps, car.east_m), (0.0, 0.0))
        self.assertTrue(self.driven(PULL, 60.0).idle)

    def test_a_pull_is_kept_with_its_speed_and_distance(self):
        (pull, *_) = self.driven(PULL).pulls
        self.assertAlmostEqual(pull.start_s, 1.0, 2)
        self.assertGreaterEqual(max(pull.speed_mps), 60 * MPH_MPS - 0.1)
        by_trapezoids = np.trapezoid(pull.speed_mps, dx=0.001)
        self.assertAlmostEqual(pull.distance_m[-1], by_trapezoids, delta=0.05)

    def test_charge_falls_by_the_energy_of_motion_and_losses(self):
        """On the level, without a stop: kinetic energy over the efficiency, and resistance besides."""
        car = LiveCar(SimulatedCar(), Conditions(charge_percent=90.0))
        car.order(PULL)
        while not car.pulls:
            car.advance(car.state.elapsed_s + 0.01)
        car.advance(car.state.elapsed_s + 0.002)
        speed = max(car.pulls[0].speed_mps)
        kinetic_j = 0.5 * car.car.mass_kg * car.car.rotating_mass_factor * speed**2
        used_j = (90.0 - car.conditions.charge_percent) / 100 * BATTERY_KWH * KWH_J
        self.assertGreater(used_j, kinetic_j / EFFICIENCY)
        self.assertLess(used_j, 1.15 * kinetic_j / EFFICIENCY)

    def test_a_warm_battery_cools_toward_the_air_at_rest(self):
        car = self.driven([], 600.0, battery_temp_c=45.0)
        self.assertLess(car.conditions.battery_temp_c, 45.0)
        self.assertGreater(car.conditions.battery_temp_c, 40.0)

    def test_it_goes_where_it_is_headed_and_climbs_with_the_slope(self):
        car = self.driven(PULL, 8.0, slope_percent=2.0)
        self.assertGreater(car.east_m, 50.0)
        self.assertAlmostEqual(car.north_m, 0.0, delta=0.01)
        self.assertAlmostEqual(car.altitude_m - 120.0, 0.02 * car.east_m, delta=0.05)

    def test_can_data_says_what_it_does(self):
        state = self.driven(PULL, 3.0).can_state()
        self.assertGreater(state.speed_kmh, 20)
        self.assertGreater(state.power_kw, 50)
        self.assertEqual(state.rear_kmh, state.speed_kmh)  # no spin was ordered
