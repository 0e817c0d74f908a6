"""What a car's own log teaches about its battery and its charge, against the parameters that made the log."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.integrate import solve_ivp

from coombe_core.learned import Learned, combined
from coombe_core.physics.battery.charge import ChargeCurve, learn_share
from coombe_core.physics.battery.heat import HeatInterval, learn_heat, minutes_until, temperature_after
from coombe_core.planning.budget import learn_charge_per_run, runs_left, top_ups
from coombe_core.simulating.battery import SimulatedBattery, charge_interval, charges_of_day, temperature_interval
from coombe_core.wording.sources import learned_source

HISTORIES = 300  # at 100 the share itself is known to 4 points only
CURVE = ChargeCurve.of(80.0)


def simulated(seed: int) -> dict[str, bool]:
    """Whether every parameter of a simulated car is within what its history says of it."""
    draw = np.random.default_rng(seed)
    battery = SimulatedBattery(
        time_constant_min=draw.uniform(90, 420),
        heating_k_per_min=draw.uniform(0.3, 1.1),
        charge_share=draw.uniform(0.82, 0.96),
        charge_per_run_percent=draw.uniform(0.5, 2.0),
        spread=draw.uniform(0.02, 0.12),
    )
    occasions = range(int(draw.integers(3, 9)))

    def outside() -> float:
        return float(draw.uniform(-2, 22))

    resting = [
        temperature_interval(battery, "resting", draw.uniform(25, 50), outside(), draw.uniform(60, 300), draw)
        for _ in occasions
    ]
    heating = [
        temperature_interval(battery, "heating", draw.uniform(5, 25), outside(), draw.uniform(30, 60), draw)
        for _ in occasions
    ]
    charging = [
        charge_interval(battery, CURVE, draw.uniform(20, 60), 11.0, draw.uniform(60, 240), draw) for _ in occasions
    ]
    days = [charges_of_day(battery, draw.uniform(85, 97), int(draw.integers(4, 12)), draw) for _ in occasions]
    heat = learn_heat([*resting, *heating])
    tau = heat.time_constant_min
    return {
        "time constant": tau.low95 <= battery.time_constant_min <= tau.high95,
        "heating rate": holds(heat.heating_k_per_min, battery.heating_k_per_min),
        "charge share": holds(learn_share(charging, CURVE), battery.charge_share),
        "charge per run": holds(learn_charge_per_run(days), battery.charge_per_run_percent),
    }


def holds(learned: Learned, truth: float) -> bool:
    return abs(learned.value - truth) <= learned.u95


class RecoveryTest(unittest.TestCase):
    def test_intervals_hold_the_truth_of_simulated_cars(self):
        report = [simulated(seed) for seed in range(9000, 9000 + HISTORIES)]
        for name in report[0]:
            with self.subTest(name):
                share = float(np.mean([each[name] for each in report]))
                self.assertGreaterEqual(share, 0.91)
                self.assertLessEqual(share, 0.99)

    def test_one_interval_is_doubtful_and_eight_are_less_so(self):
        draw = np.random.default_rng(5)
        intervals = [temperature_interval(SimulatedBattery(), "resting", 45, 8, 180, draw) for _ in range(8)]
        one, many = learn_heat(intervals[:1]).loss_per_min, learn_heat(intervals).loss_per_min
        self.assertGreater(one.u95, 1.5 * many.u95)
        self.assertEqual((one.occasions, many.occasions), (1, 8))

    def test_nothing_logged_is_said_to_be_assumed(self):
        heat = learn_heat([])
        self.assertTrue(heat.loss_per_min.assumed and heat.heating_k_per_min.assumed)
        self.assertIn("assumed", learned_source(learn_charge_per_run([], 82)))
        self.assertTrue(CURVE.share.assumed and CURVE.assumed)

    def test_a_battery_at_the_temperature_of_the_air_tells_nothing(self):
        still = HeatInterval("resting", np.arange(0.0, 120, 10), np.full(12, 15.0), np.full(12, 15.0))
        self.assertTrue(learn_heat([still]).loss_per_min.assumed)

    def test_like_occasions_give_their_mean(self):
        mean = combined([(2.0, 0.01), (2.2, 0.01), (1.8, 0.01), (2.0, 0.01)], 0.1, "runs")
        self.assertAlmostEqual(mean.value, 2.0)
        self.assertAlmostEqual(mean.spread, 0.129, delta=0.001)  # observed variance 0.0267 less 0.01, its root


class CoolingTest(unittest.TestCase):
    def test_the_closed_form_is_the_solution_of_its_differential_equation(self):
        """Against scipy's integrator (solve_ivp, RK45 at tight tolerance)."""
        for rate in (0.0, 0.6):
            exact = solve_ivp(lambda _, temp, r=rate: r - (temp - 8.0) / 150.0, (0, 90), [40.0], rtol=1e-10, atol=1e-10)
            self.assertAlmostEqual(float(temperature_after(90, 40.0, 8.0, 150.0, rate)), exact.y[0][-1], places=6)

    def test_half_the_excess_is_lost_in_ln_2_time_constants(self):
        self.assertAlmostEqual(float(minutes_until(29.0, 50.0, 8.0, 150.0)), 150.0 * np.log(2), places=9)

    def test_a_temperature_out_of_reach_takes_forever_and_the_present_one_no_time(self):
        self.assertEqual(float(minutes_until(60.0, 20.0, 10.0, 100.0, 0.3)), np.inf)  # it ends at 40
        self.assertEqual(float(minutes_until(5.0, 20.0, 10.0, 100.0)), np.inf)
        self.assertEqual(float(minutes_until(20.0, 20.0, 10.0, 100.0)), 0.0)

    def test_time_and_temperature_are_each_others_inverse(self):
        for goal in (12.0, 25.0, 41.0):
            minutes = minutes_until(goal, 44.0, 5.0, 180.0, 0.01)
            self.assertAlmostEqual(float(temperature_after(minutes, 44.0, 5.0, 180.0, 0.01)), goal, places=9)


class ChargingTest(unittest.TestCase):
    def test_a_constant_power_charges_in_energy_over_power(self):
        curve = ChargeCurve.of(60.0, [(0, 11), (100, 11)], Learned(1.0, 0, 0, 1, "runs"))
        self.assertAlmostEqual(curve.minutes(20, 80, 11.0), 0.6 * 60 / 11 * 60, places=6)
        self.assertAlmostEqual(curve.minutes(20, 80, 5.5), 2 * 0.6 * 60 / 11 * 60, places=6)

    def test_the_last_points_take_longer_and_nothing_comes_without_a_charger(self):
        self.assertGreater(CURVE.minutes(90, 95, 150.0), 2 * CURVE.minutes(60, 65, 150.0))
        self.assertEqual(CURVE.minutes(50, 60, 0.0), np.inf)
        self.assertEqual(CURVE.minutes(60, 50, 11.0), 0.0)


class BudgetTest(unittest.TestCase):
    def test_charge_per_run_is_the_drop_over_the_runs_between_top_ups(self):
        learned = learn_charge_per_run([[95, 94, 93, 92], [91, 90, 95, 94, 93], [96, 95, 94]])
        self.assertAlmostEqual(learned.value, 1.0, places=6)
        self.assertEqual(learned.occasions, 4)

    def test_one_charge_written_for_all_runs_tells_nothing(self):
        self.assertTrue(learn_charge_per_run([[95, 95, 95, 95]], 80).assumed)

    def test_a_sweep_that_is_driven_down_between_its_launches_teaches_nothing_of_a_launch(self):
        sweep = [90, 80, 70, 60, 50]
        self.assertTrue(learn_charge_per_run([sweep], 80).assumed)
        learned = learn_charge_per_run([sweep, [95, 94, 93, 92]], 80)
        self.assertAlmostEqual(learned.value, 1.0)

    def test_one_charge_for_all_and_a_drop_are_told_apart(self):
        self.assertEqual(learn_charge_per_run([[95, 95, 95], [95, 94, 93]], 80).occasions, 1)

    def test_runs_left_count_the_one_that_begins_on_the_edge(self):
        left = runs_left(95.0, 90.0, Learned(1.0, 0.25, 0.1, 4, "runs"))
        self.assertEqual((left.sure, left.likely, left.at_best), (5, 6, 7))
        self.assertEqual(runs_left(89.0, 90.0, Learned(1.0, 0.1, 0.0, 4, "runs")).at_best, 0)

    def test_a_top_up_falls_before_the_run_that_would_begin_below_the_window(self):
        planned = top_ups(9, 95.0, 92.0, 95.0, Learned(1.0, 0.0, 0.0, 4, "runs"))
        self.assertEqual([(each.after_run, each.from_percent) for each in planned], [(4, 91.0), (8, 91.0)])
        with self.assertRaisesRegex(ValueError, "is below"):
            top_ups(3, 95.0, 92.0, 90.0, Learned(1.0, 0.0, 0.0, 4, "runs"))
